/* Great recordings: read piece by piece, and opened by their index, which is held against them; both show the same. */
#include "support.h"

#include "runtime/recording.h"

#include <glib/gstdio.h>
#include <fcntl.h>
#include <string.h>
#include <sys/stat.h>
#include <zlib.h>

#define CHANCES 600

/* Many rows at once are what they are one by one; what is said to stay does so up to there. */
static void insist_at_once(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to)
{
    g_autofree uint64_t *time = g_new(uint64_t, to - from + 1);
    g_autofree float *value = g_new(float, to - from + 1);
    g_autofree rgp_quality *quality = g_new(rgp_quality, to - from + 1);
    rgp_history_copy_times(h, from, to, time);
    rgp_history_copy_values(h, column, from, to, value);
    rgp_history_copy_qualities(h, column, from, to, quality);
    uint64_t stays = from, even_from = from, even = from;
    for (uint64_t i = 0; i < to - from; i++) {
        const uint64_t row = from + i;
        const float one = rgp_history_value(h, column, row);
        assert_true(time[i] == rgp_history_time_us(h, row) && quality[i] == rgp_history_quality(h, column, row));
        assert_memory_equal(&value[i], &one, sizeof one);
        assert_true(row >= stays || memcmp(&value[i], &value[i - 1], sizeof *value) == 0);
        stays = MAX(stays, rgp_history_stays(h, column, row));
        if (row >= even) {
            even_from = row;
            even = rgp_history_even(h, row);
        }
        assert_true(row < even_from + 2 || time[i] - time[i - 1] == time[i - 1] - time[i - 2]);
        assert_true(stays > row && even > row && stays <= rgp_history_end(h) && even <= rgp_history_end(h));
    }
}

/* All cells of some rows, and extremes of some stretches; of the first, of the last, of the others by chance. */
static void insist_same(const rgp_history *a, const rgp_history *b, GRand *chance)
{
    const uint64_t rows = rgp_history_end(a);
    assert_true(rows == rgp_history_end(b));
    const uint32_t columns = rgp_history_columns(a);
    for (uint32_t n = 0; n < CHANCES; n++) {
        const uint64_t row = n < 3 ? (n == 0 ? 0 : rows - n) : (uint64_t)(g_rand_double(chance) * (double)rows);
        const uint64_t to = n % 3 ? row + (uint64_t)(g_rand_double(chance) * (double)(rows - row)) : rows;
        const uint64_t from = n % 2 ? row : row - row % RGP_HISTORY_COARSE;
        const uint32_t column = (uint32_t)g_rand_int_range(chance, 0, (gint32)columns);
        const rgp_extent x = rgp_history_extent(a, column, from, to), y = rgp_history_extent(b, column, from, to);
        assert_memory_equal(&x, &y, sizeof x);
        assert_true(rgp_history_time_us(a, row) == rgp_history_time_us(b, row));
        assert_true(rgp_history_find(a, rgp_history_time_us(a, row) - 1) ==
                    rgp_history_find(b, rgp_history_time_us(a, row) - 1));
        insist_at_once(b, column, row, MIN(row + (n % 50 ? 20u : 5000u), rows));
        for (uint32_t i = 0; i < columns; i++) {
            const float value[2] = {rgp_history_value(a, i, row), rgp_history_value(b, i, row)};
            if (memcmp(&value[0], &value[1], sizeof *value) != 0 ||
                rgp_history_quality(a, i, row) != rgp_history_quality(b, i, row)) {
                fail_msg("row %d, column %u: %a %d, and by the index %a %d", (int)row, i, (double)value[0],
                         (int)rgp_history_quality(a, i, row), (double)value[1], (int)rgp_history_quality(b, i, row));
            }
        }
    }
    const GPtrArray *then = rgp_history_occurrences(a), *now = rgp_history_occurrences(b);
    assert_int_equal(then->len, now->len);
    for (guint i = 0; i < then->len; i++) {
        const rgp_occurrence *o = then->pdata[i], *p = now->pdata[i];
        assert_true(o->row == p->row && o->time == p->time && o->kind == p->kind);
        assert_string_equal(o->says, p->says);
    }
}

static char *record(const char *folder, const char *example, const char *length)
{
    g_autofree char *name = g_strconcat(example, ".rig", NULL);
    g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", name);
    g_autofree char *call = g_strdup_printf("run now.rig --for %s --fast --quiet --record past --overwrite", length);
    put_file(folder, "now.rig", text, -1);
    called c = call_tool(folder, call);
    assert_int_equal(c.status, 0);
    call_done(&c);
    return g_build_filename(folder, "past", NULL);
}

static rgp_recording *opened(const char *name, bool whole)
{
    GError *error = NULL;
    rgp_recording *r = whole ? rgp_recording_read(name, &error) : rgp_recording_open(name, &error);
    if (!r) {
        fail_msg("%s", error->message);
    }
    return r;
}

static void test_by_the_index(void **unused)
{
    (void)unused;
    static const struct {
        const char *name, *length;
    } example[] = {{"beacon", "1010s"}, {"crossing", "505s"}};
    g_autoptr(GRand) chance = g_rand_new_with_seed(21);
    char *folder = make_folder();
    for (size_t i = 0; i < G_N_ELEMENTS(example); i++) {
        g_autofree char *name = record(folder, example[i].name, example[i].length);
        rgp_recording *read = opened(name, true), *index = opened(name, false);
        if (read->rows <= 50000 || !index->index || read->index) {
            fail_msg("%s: %u rows, by the index: %d", example[i].name, read->rows, index->index != NULL);
        }
        insist_same(read->history, index->history, chance);
        while (rgp_recording_go_on(index, 1000)) {
        }
        assert_non_null(index->index); /* all of the table is what it was */
        rgp_recording_free(index);
        rgp_recording_free(read);
    }
    remove_folder(folder);
}

/* Of a table that is read, what is there is what will be there, at each piece. */
static void test_piece_by_piece(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *name = record(folder, "lamp", "40s");
    rgp_recording *read = opened(name, true), *r = opened(name, false);
    uint32_t before = 0;
    do {
        assert_true(r->rows > before && rgp_recording_share(r) <= 1.0);
        for (uint32_t i = 0; i < rgp_history_columns(r->history); i++) {
            assert_true(rgp_history_value(r->history, i, r->rows - 1) ==
                        rgp_history_value(read->history, i, r->rows - 1));
        }
        before = r->rows;
    } while (rgp_recording_go_on(r, 0));
    g_autoptr(GRand) chance = g_rand_new_with_seed(5);
    insist_same(read->history, r->history, chance);
    rgp_recording_free(r);
    rgp_recording_free(read);
    remove_folder(folder);
}

/* The same table with each time in quotes, which has every row read field by field. */
static char *with_quotes(const char *table)
{
    GString *all = g_string_new(NULL);
    g_auto(GStrv) lines = g_strsplit(table, "\n", -1);
    for (guint i = 0; lines[i]; i++) {
        char *comma = i > 0 ? strchr(lines[i], ',') : NULL;
        g_string_append(all, i > 0 ? "\n" : "");
        if (comma) {
            g_string_append_printf(all, "\"%.*s\"%s", (int)(comma - lines[i]), lines[i], comma);
        } else {
            g_string_append(all, lines[i]);
        }
    }
    return g_string_free(all, FALSE);
}

/* Rows as most are, are read in one go: to the bit as the others. */
static void test_rows_in_one_go_at_length(void **unused)
{
    (void)unused;
    static const char *const example[] = {"basin", "beacon", "bridge", "boiler", "crossing", "feeder", "trap", "vane"};
    g_autoptr(GRand) chance = g_rand_new_with_seed(8);
    char *folder = make_folder();
    for (size_t i = 0; i < G_N_ELEMENTS(example); i++) {
        g_autofree char *name = record(folder, example[i], "60s"), *table = get_file(folder, "past.csv");
        g_autofree char *slowly = with_quotes(table);
        rgp_recording *fast = opened(name, true);
        put_file(folder, "past.csv", slowly, -1);
        rgp_recording *slow = opened(name, true);
        assert_true(fast->rows == slow->rows && fast->torn_rows == slow->torn_rows);
        assert_int_equal(fast->inputs->sample->len, slow->inputs->sample->len);
        assert_memory_equal(fast->inputs->sample->data, slow->inputs->sample->data,
                            fast->inputs->sample->len * sizeof(rgp_input_sample));
        insist_same(slow->history, fast->history, chance);
        rgp_recording_free(fast);
        rgp_recording_free(slow);
    }
    remove_folder(folder);
}

static void put_bytes(const char *path, const char *bytes, gsize length)
{
    assert_true(g_file_set_contents(path, bytes, (gssize)length, NULL));
}

/* As list tells it of what is opened, once all of it has been held against the table. */
static void insist_listed(const char *folder, const char *as)
{
    called c = call_tool(folder, "list past");
    if (strcmp(c.out, as) != 0) {
        fail_msg("it was:\n%s\nand now:\n%s%s", as, c.out, c.err);
    }
    call_done(&c);
}

/* One that was forged, with a checksum that is right, may tell what it likes: nothing crashes. */
static void try_forged(const char *folder, const char *path, const char *index, gsize length, GRand *chance)
{
    for (int n = 0; n < 6; n++) {
        g_autofree char *odd = g_memdup2(index, length);
        for (int k = 0; k < 1 + n % 3; k++) {
            odd[(gsize)(g_rand_double(chance) * (double)(n % 2 ? length : 900))] = (char)g_rand_int(chance);
        }
        const uint32_t sum = (uint32_t)crc32(0, (const Bytef *)odd, (uInt)(length - sizeof sum));
        memcpy(odd + length - sizeof sum, &sum, sizeof sum);
        put_bytes(path, odd, length);
        called c = call_tool(folder, n % 4 ? "list past" : "plot past -o past.svg");
        assert_in_range(c.status, 0, 2);
        call_done(&c);
    }
}

/* An index that is not of this table, or is damaged, is not believed; nor is one whose table was changed behind it. */
static void test_what_is_not_believed(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *name = record(folder, "basin", "1010s"), *path = g_strconcat(name, ".index", NULL);
    g_autofree char *table = g_strconcat(name, ".csv", NULL), *index = NULL, *rows = NULL;
    gsize length, bytes;
    called c = call_tool(folder, "list past");
    assert_int_equal(c.status, 0);
    assert_true(g_file_get_contents(path, &index, &length, NULL));
    g_autoptr(GRand) chance = g_rand_new_with_seed(4);
    for (int n = 0; n < 4; n++) {
        g_autofree char *odd = g_memdup2(index, length);
        const gsize at = (gsize)(g_rand_double(chance) * (double)(n % 2 ? length : 400));
        odd[at] = (char)(odd[at] ^ (1 << n % 8));
        put_bytes(path, odd, n % 4 == 3 ? at : length);
        insist_listed(folder, c.out);
    }
    try_forged(folder, path, index, length, chance);
    /* the same size and the same time, and another reading in the middle */
    GStatBuf is;
    assert_int_equal(g_stat(table, &is), 0);
    assert_true(g_file_get_contents(table, &rows, &bytes, NULL));
    char *changed = strstr(rows + bytes / 2, ",") + 3;
    changed = strchr(changed, ',') + 1;
    memset(changed, '9', 4); /* the level */
    put_bytes(table, rows, bytes);
    g_unlink(path);
    called without = call_tool(folder, "list past");
    assert_true(strcmp(without.out, c.out) != 0);
    const struct timespec times[2] = {is.st_atim, is.st_mtim};
    assert_int_equal(utimensat(AT_FDCWD, table, times, 0), 0);
    put_bytes(path, index, length);
    insist_listed(folder, without.out);
    call_done(&without);
    call_done(&c);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_rows_in_one_go_at_length),
        cmocka_unit_test(test_by_the_index),
        cmocka_unit_test(test_piece_by_piece),
        cmocka_unit_test(test_what_is_not_believed),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
