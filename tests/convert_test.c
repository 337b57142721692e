/* A recording in the formats of other tools, each read back by a reader that is not ours: jansson, SQLite, libsndfile,
 * and for VCD the converters of a wave viewer. */
#include "support.h"

#include "runtime/recording.h"

#include <jansson.h>
#include <math.h>
#include <sndfile.h>
#include <sqlite3.h>
#include <stdlib.h>
#include <string.h>

/* Names that differ in capitals alone, that are tables of SQL, that begin with a digit when their signs are gone;
 * stretches that are missing; a switch, bands, marks. */
static const char rig_text[] =
    "rig odd\ntick 10 ms\nsensor level counts -100..1000\nsensor Level counts 0..9\nsensor gate switch\n"
    "actuator rows percent 0..100, rest at 0\nsignal events = level * 0.1 | smooth 30 ms\n"
    "bands run = events: low below 20 counts, high; margin 1 counts\non run goes high\n    mark \"high; 'water'\"\n"
    "    rows 33.3 % for 100 ms\nhookup sim\n    lag plate: driven by rows, time 1 s, start 20\n"
    "    level plays \"level.csv\"\n    Level reads 7\n    gate plays \"level.csv\" \"gate\"\n    at 1 s level drops "
    "for 300 ms\n";

typedef struct exported {
    char *folder;
    rgp_recording *recording;
} exported;

static void begin(exported *e)
{
    g_autoptr(GString) table = g_string_new("time,level,gate\n");
    for (int i = 0; i < 300; i++) {
        g_string_append_printf(table, "%g,%d,%s\n", i * 0.01, (int)(200.0 + 250.0 * sin(i * 0.05)),
                               i / 40 % 2 ? "on" : "off");
    }
    e->folder = make_folder();
    put_file(e->folder, "level.csv", table->str, -1);
    put_file(e->folder, "odd.rig", rig_text, -1);
    called c = call_tool(e->folder, "run odd.rig --for 3s --fast --quiet --record run");
    assert_int_equal(c.status, 0);
    call_done(&c);
    g_autoptr(GError) error = NULL;
    g_autofree char *path = g_build_filename(e->folder, "run", NULL);
    e->recording = rgp_recording_read(path, &error);
    assert_non_null(e->recording);
    assert_int_equal(e->recording->rows, 300);
}

static void end(exported *e)
{
    rgp_recording_free(e->recording);
    remove_folder(e->folder);
}

static char *convert(const exported *e, const char *arguments, const char *file)
{
    g_autofree char *call = g_strdup_printf("convert run -o %s", arguments);
    called c = call_tool(e->folder, call);
    if (c.status != 0) {
        fail_msg("%s", c.err);
    }
    assert_says(c.out, file);
    call_done(&c);
    return g_build_filename(e->folder, file, NULL);
}

static uint32_t slot_of(const rgp_recording *r, const char *name)
{
    uint32_t slot = 0;
    while (strcmp(rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0), name) != 0) {
        slot++;
    }
    return slot;
}

static bool is_usable(const rgp_recording *r, const char *name, uint32_t row)
{
    return rgp_usable(rgp_recording_quality(r, slot_of(r, name), row));
}

static float value_of(const rgp_recording *r, const char *name, uint32_t row)
{
    return rgp_recording_value(r, slot_of(r, name), row);
}

static void test_json(void **unused)
{
    (void)unused;
    exported e;
    begin(&e);
    g_autofree char *path = convert(&e, "run.out.json", "run.out.json");
    json_t *all = json_load_file(path, 0, NULL);
    assert_non_null(all);
    const json_t *columns = json_object_get(all, "columns"), *column;
    assert_string_equal(json_string_value(json_object_get(all, "text")), rig_text);
    assert_int_equal(json_integer_value(json_array_get(json_object_get(all, "time_us"), 299)), 2990000);
    size_t i;
    uint32_t missing = 0;
    json_array_foreach(columns, i, column)
    {
        const char *name = json_string_value(json_object_get(column, "name"));
        const json_t *values = json_object_get(column, "values");
        for (uint32_t row = 0; row < 300; row++) {
            const json_t *cell = json_array_get(values, row);
            missing += json_is_null(cell);
            assert_int_equal(json_is_null(cell), !is_usable(e.recording, name, row));
            if (json_is_number(cell)) {
                assert_true((float)json_number_value(cell) == value_of(e.recording, name, row));
            } else if (json_is_boolean(cell)) {
                assert_true(json_is_true(cell) == (value_of(e.recording, name, row) != 0.0f));
            }
        }
    }
    assert_in_range(missing, 60, 120); /* 30 of the level, and of what is made of it */
    assert_int_equal(json_array_size(columns), 6);
    assert_true(json_array_size(json_object_get(all, "events")) > 3);
    json_decref(all);
    end(&e);
}

static void test_sqlite(void **unused)
{
    (void)unused;
    exported e;
    sqlite3 *db;
    sqlite3_stmt *each;
    begin(&e);
    g_autofree char *path = convert(&e, "run.sqlite", "'Level' is called 'Level_2' there"),
                    *file = g_build_filename(e.folder, "run.sqlite", NULL);
    assert_int_equal(sqlite3_open_v2(file, &db, SQLITE_OPEN_READONLY, NULL), SQLITE_OK);
    assert_int_equal(sqlite3_prepare_v2(db, "SELECT time_us, level, rows, events, run, gate FROM rows ORDER BY time_us",
                                        -1, &each, NULL),
                     SQLITE_OK);
    uint32_t row = 0;
    for (; sqlite3_step(each) == SQLITE_ROW; row++) {
        assert_int_equal(sqlite3_column_int64(each, 0), row * 10000);
        const bool known = is_usable(e.recording, "level", row);
        assert_int_equal(sqlite3_column_type(each, 1) != SQLITE_NULL, known);
        assert_true(!known || (float)sqlite3_column_double(each, 1) == value_of(e.recording, "level", row));
        assert_true((float)sqlite3_column_double(each, 2) == value_of(e.recording, "rows", row));
        const char *run = (const char *)sqlite3_column_text(each, 4);
        assert_true(!run || strcmp(run, value_of(e.recording, "run", row) != 0.0f ? "high" : "low") == 0);
    }
    assert_int_equal(row, 300);
    sqlite3_finalize(each);
    static const struct {
        const char *query;
        double wanted;
    } queries[] = {
        {"SELECT count(*) FROM value_rows WHERE \"rows [%]\" > 0", 20.0},
        {"SELECT count(*) FROM value_events", 270.0},
        {"SELECT count(*) FROM events WHERE event = 'mark' AND of LIKE 'high;%'", 2.0},
        {"SELECT count(*) FROM columns WHERE unit = 'counts'", 3.0},
        {"SELECT tick_us FROM run", 10000.0},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(queries); i++) {
        if (sqlite3_prepare_v2(db, queries[i].query, -1, &each, NULL) != SQLITE_OK) {
            fail_msg("%s: %s", queries[i].query, sqlite3_errmsg(db));
        }
        assert_int_equal(sqlite3_step(each), SQLITE_ROW);
        if (sqlite3_column_double(each, 0) != queries[i].wanted) {
            fail_msg("%s: %g", queries[i].query, sqlite3_column_double(each, 0));
        }
        sqlite3_finalize(each);
    }
    sqlite3_close(db);
    end(&e);
}

/* The course of one variable of a dump: by row, what it said last. */
static char **read_dump(const char *text, const char *name, uint32_t rows)
{
    char **course = g_new0(char *, rows + 1);
    g_autofree char *declared = g_strdup_printf(" %s $end", name), *code = NULL, *now = g_strdup("?");
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    uint32_t row = 0;
    for (char **line = lines; *line; line++) {
        if (g_str_has_prefix(*line, "$var") && strstr(*line, declared)) {
            g_auto(GStrv) part = g_strsplit(*line, " ", -1);
            code = g_strdup(part[3]);
        } else if (**line == '#') {
            for (const uint32_t next = (uint32_t)(strtoul(*line + 1, NULL, 10) / 10000); row < MIN(next, rows); row++) {
                course[row] = g_strdup(now);
            }
        } else if (code && **line && **line != '$') {
            const char *blank = strchr(*line, ' ');
            const bool wide = **line == 'r' || **line == 's';
            if (strcmp(wide && blank ? blank + 1 : *line + 1, code) == 0) {
                g_free(now);
                now = wide ? g_strndup(*line + 1, (gsize)(blank - *line - 1)) : g_strndup(*line, 1);
            }
        }
    }
    for (; row < rows; row++) {
        course[row] = g_strdup(now);
    }
    assert_non_null(code);
    return course;
}

static void test_vcd(void **unused)
{
    (void)unused;
    exported e;
    begin(&e);
    g_autofree char *path = convert(&e, "run.vcd", "run.vcd"),
                    *command =
                        g_strdup_printf("cd '%s' && vcd2fst run.vcd run.fst && fst2vcd run.fst -o back.vcd", e.folder);
    assert_int_equal(system(command), 0);
    g_autofree char *back = get_file(e.folder, "back.vcd");
    g_auto(GStrv) signal = read_dump(back, "events", 300), good = read_dump(back, "events__good", 300),
                  gate = read_dump(back, "gate", 300), run = read_dump(back, "run", 300);
    for (uint32_t row = 0; row < 300; row++) {
        assert_true((float)g_ascii_strtod(signal[row], NULL) == value_of(e.recording, "events", row));
        assert_string_equal(good[row], is_usable(e.recording, "events", row) ? "1" : "0");
        assert_string_equal(gate[row], value_of(e.recording, "gate", row) != 0.0f ? "1" : "0");
        assert_string_equal(run[row], !is_usable(e.recording, "run", row)         ? "-"
                                      : value_of(e.recording, "run", row) != 0.0f ? "high"
                                                                                  : "low");
    }
    assert_says(back, "fires_line_9");
    end(&e);
}

/* And played as a sensor again. */
static void test_wav(void **unused)
{
    (void)unused;
    exported e;
    begin(&e);
    g_autofree char *path = convert(&e, "level.wav --column level", "level.wav");
    SF_INFO info = {0};
    SNDFILE *file = sf_open(path, SFM_READ, &info);
    assert_non_null(file);
    assert_int_equal(info.samplerate, 100);
    assert_int_equal(info.frames, 300);
    float sample[300];
    assert_int_equal(sf_read_float(file, sample, 300), 300);
    sf_close(file);
    for (uint32_t row = 0; row < 300; row++) {
        if (is_usable(e.recording, "level", row)) {
            assert_near((double)(sample[row] + 1.0f) * 550.0 - 100.0, (double)value_of(e.recording, "level", row),
                        1e-3);
        }
    }
    put_file(e.folder, "again.rig",
             "rig again\ntick 10 ms\nsensor level counts -100..1000\nhookup sim\n    level plays \"level.wav\"\n", -1);
    called c = call_tool(e.folder, "run again.rig --for 3s --fast --quiet --record again");
    assert_int_equal(c.status, 0);
    call_done(&c);
    g_autofree char *name = g_build_filename(e.folder, "again", NULL);
    rgp_recording *again = rgp_recording_read(name, NULL);
    for (uint32_t row = 0; row < 95; row++) {
        assert_near((double)value_of(again, "level", row), (double)value_of(e.recording, "level", row), 1.0);
    }
    rgp_recording_free(again);
    end(&e);
}

static void test_what_cannot_be(void **unused)
{
    (void)unused;
    exported e;
    begin(&e);
    static const call_case calls[] = {
        {"convert run", 2, "ends with one of .vcd, .sqlite, .json, .wav"},
        {"convert run -o run.xls", 2, "ends with one of"},
        {"convert run -o .vcd", 2, "ends with one of"},
        {"convert run -o x.wav", 2, "with --column NAME"},
        {"convert run -o x.wav --column nothing", 2,
         "there is no column 'nothing' in this recording; there are: level"},
        {"convert run -o x.vcd --column level", 2, "--column is for a .wav"},
        {"convert nowhere -o x.vcd", 2, "nowhere"},
        {"convert run -o nowhere/x.vcd", 2, "No such file"},
        {"convert run -o nowhere/x.sqlite", 2, "nothing was written"},
        {"convert run -o run.json", 2, "is there already"},
        {"convert run -o x.json", 0, "x.json"},
        {"convert run -o x.json", 2, "add --overwrite"},
        {"convert run -o x.json --overwrite", 0, "x.json"},
    };
    check_calls(e.folder, calls, G_N_ELEMENTS(calls));
    end(&e);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_json), cmocka_unit_test(test_sqlite),         cmocka_unit_test(test_vcd),
        cmocka_unit_test(test_wav),  cmocka_unit_test(test_what_cannot_be),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
