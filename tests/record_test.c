/* Frames and the ring that carries them, what is told of events, and the figures made of recordings. */
#include "support.h"

#include "runtime/digits.h"

#include "analysis/figures/figure.h"
#include "sim/sim.h"
#include "runtime/recorder.h"
#include "runtime/history.h"
#include "runtime/ring.h"
#include "files/table.h"
#include "explain/describe.h"

#include <math.h>
#include <string.h>

/* A full ring gives no place and loses nothing that is in it; places come back in order, however the two sides
 * alternate. */
static void test_ring(void **unused)
{
    (void)unused;
    rgp_ring *ring = rgp_ring_new(sizeof(rgp_frame), 5); /* rounded up to 8 */
    uint64_t put = 0, got = 0;
    uint32_t chance = 3;
    for (int round = 0; round < 10000; round++) {
        chance = chance * 1664525u + 1013904223u;
        if (chance >> 31) {
            rgp_frame *frame = rgp_ring_begin(ring);
            assert_int_equal(frame == NULL, put - got == 8);
            if (frame) {
                assert_int_equal(frame->events, 0);
                frame->number = put++;
                frame->events = 7;
                rgp_ring_commit(ring);
            }
        } else {
            const rgp_frame *frame = rgp_ring_peek(ring);
            assert_int_equal(frame == NULL, put == got);
            if (frame) {
                assert_int_equal(frame->number, got++);
                rgp_ring_drop(ring);
            }
        }
    }
    assert_true(got > 1000);
    rgp_ring_free(ring);
}

static gpointer write_frames(gpointer self)
{
    rgp_ring *ring = self;
    for (uint64_t n = 0; n < 200000;) {
        rgp_frame *frame = rgp_ring_begin(ring);
        if (frame) {
            frame->number = n;
            frame->time_us = ~n;
            rgp_ring_commit(ring);
            n++;
        }
    }
    return NULL;
}

static void test_ring_between_threads(void **unused)
{
    (void)unused;
    rgp_ring *ring = rgp_ring_new(sizeof(rgp_frame), 16);
    GThread *writer = g_thread_new("writer", write_frames, ring);
    for (uint64_t n = 0; n < 200000;) {
        const rgp_frame *frame = rgp_ring_peek(ring);
        if (frame) {
            assert_true(frame->number == n && frame->time_us == ~n);
            rgp_ring_drop(ring);
            n++;
        }
    }
    g_thread_join(writer);
    rgp_ring_free(ring);
}

/* Any stretch of the history has the extremes of its rows, also when the oldest blocks are gone. */
static void test_history(void **unused)
{
    (void)unused;
    enum { ROWS = 30000 };
    bench b;
    bench_open(&b, "rig x\ntick 10 ms\nsensor s counts 0..9\n");
    const size_t row_bytes = 2u * (sizeof(float) + sizeof(rgp_quality));
    rgp_history *h = rgp_history_new(b.engine.image, 3u * 4096u * (row_bytes + sizeof(uint64_t)) + 20000u);
    g_autofree float *value = g_new(float, ROWS);
    g_autofree rgp_quality *quality = g_new(rgp_quality, ROWS);
    g_random_set_seed(7);
    for (uint32_t row = 0; row < ROWS; row++) {
        value[row] = (float)g_random_int_range(-1000, 1000);
        quality[row] = g_random_int_range(0, 10) == 0 ? RGP_MISSING : RGP_GOOD;
        const float values[] = {value[row], 0.0f}; /* and whether it is new */
        const rgp_quality qualities[] = {quality[row], RGP_GOOD};
        assert_int_equal(rgp_history_columns(h), G_N_ELEMENTS(values));
        rgp_history_row(h, row * 10000u, values, qualities);
    }
    const uint64_t first = rgp_history_first(h);
    assert_true(first > 0 && first < ROWS - 4096 && rgp_history_end(h) == ROWS);
    for (int i = 0; i < 300; i++) {
        const uint64_t from = first + (uint64_t)g_random_int_range(0, (gint32)(ROWS - first));
        const uint64_t to = from + (uint64_t)g_random_int_range(0, (gint32)(ROWS - from + 1));
        rgp_extent wanted = {0};
        for (uint64_t row = from; row < to; row++) {
            if (quality[row] == RGP_GOOD) {
                wanted.least = wanted.usable ? MIN(wanted.least, value[row]) : value[row];
                wanted.greatest = wanted.usable++ ? MAX(wanted.greatest, value[row]) : value[row];
            }
        }
        const rgp_extent got = rgp_history_extent(h, 0, from, to);
        assert_true(got.usable == wanted.usable && got.least == wanted.least && got.greatest == wanted.greatest);
        assert_true(rgp_history_find(h, from * 10000u) == from && rgp_history_find(h, from * 10000u + 1) == from + 1);
    }
    rgp_history_free(h);
    bench_close(&b);
}

/* Without a bound every event is kept; with one the newest are. */
static void test_history_of_events(void **unused)
{
    (void)unused;
    enum { EVENTS = 250000 };
    bench b;
    bench_open(&b, "rig x\ntick 10 ms\nsensor s counts 0..9\n");
    for (int bounded = 0; bounded < 2; bounded++) {
        rgp_history *h = rgp_history_new(b.engine.image, bounded ? RGP_HISTORY_BYTES : 0);
        for (uint32_t i = 0; i < EVENTS; i++) {
            rgp_history_occurred(h, &(rgp_occurrence){.row = i, .kind = RGP_EVENT_FIRED});
        }
        const GPtrArray *all = rgp_history_occurrences(h);
        assert_int_equal(((const rgp_occurrence *)all->pdata[all->len - 1])->row, EVENTS - 1);
        assert_true(bounded ? all->len >= 50000 && all->len < EVENTS : all->len == EVENTS);
        rgp_history_free(h);
    }
    bench_close(&b);
}

/* As it is by default, the history holds an hour of 16 channels at 100 Hz. */
static void test_history_holds_an_hour(void **unused)
{
    (void)unused;
    enum { CHANNELS = 16, ROWS = 360000 };
    g_autoptr(GString) text = g_string_new("rig x\ntick 10 ms\n");
    for (int i = 0; i < CHANNELS; i++) {
        g_string_append_printf(text, "sensor s%d counts 0..9\n", i);
    }
    bench b;
    bench_open(&b, text->str);
    rgp_history *h = rgp_history_new(b.engine.image, RGP_HISTORY_BYTES);
    assert_int_equal(rgp_history_columns(h), 2 * CHANNELS); /* the readings, and whether they are new */
    float value[2 * CHANNELS] = {0};
    const rgp_quality quality[2 * CHANNELS] = {RGP_GOOD};
    for (uint64_t row = 0; row < ROWS; row++) {
        value[3] = row == 123456 ? 7.0f : 0.0f;
        rgp_history_row(h, row * 10000u, value, quality);
    }
    assert_int_equal(rgp_history_first(h), 0);
    assert_true(rgp_history_extent(h, 3, 0, ROWS).greatest == 7.0f);
    rgp_history_free(h);
    bench_close(&b);
}

/* A frame has room for so many events; more are counted. */
static void test_frame_events(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig x\ntick 10 ms\nsensor s counts 0..9\n");
    const rgp_frame_layout shape = rgp_frame_layout_of(b.engine.image);
    rgp_frame *frame = g_malloc0(shape.bytes);
    for (uint32_t i = 0; i < shape.events + 3; i++) {
        rgp_frame_add_event(&shape, frame, &(rgp_event){RGP_EVENT_SENSOR, 0, 0, (float)i, 0});
    }
    assert_int_equal(frame->events, shape.events);
    assert_int_equal(frame->events_lost, 3);
    assert_true(rgp_frame_event(&shape, frame)[shape.events - 1].value == (float)(shape.events - 1));
    g_free(frame);
    bench_close(&b);
}

/* The words for a tick's events. Rules stand from line 8 on. */
static const char told_head[] =
    "rig t\ntick 10 ms\nsensor s mm 0..900\nsensor hue names red, green\nactuator a percent 0..100, rest at 0\n"
    "param p = 5 cm in 1..9 cm\nbands z = s: low below p, mid, high above 20 cm; margin 1 cm\n";

static void test_told(void **unused)
{
    (void)unused;
    static const struct {
        const char *rule;
        int32_t before, now;
        const char *says;
    } cases[] = {
        {"while s below p\n    a 5 %\n", 300, 40,
         "while s below p (line 8) fired, since s 40 mm is below p 50 mm: a 5 %"},
        {"on s goes above 15 cm\n    a 50 % for 2 s\n    holdoff 1 min\n", 40, 151,
         "on s goes above 15 cm (line 8) fired, since s 151 mm is above 150 mm: a 50 % for 2 s, then holdoff 60 s"},
        {"while z is mid\n    mark \"well\"\n", 40, 100,
         "while z is mid (line 8) fired, since z is mid: s 100 mm is between p 50 mm and 200 mm: mark 'well'"},
        {"while z is not low\n    a 5 %\n", 40, 300,
         "while z is not low (line 8) fired, since z is high: s 300 mm is above 200 mm: a 5 %"},
        {"on z leaves low\n    a 5 %\n", 40, 100,
         "on z leaves low (line 8) fired, since z is no longer low: s 100 mm: a 5 %"},
        {"while s above 3 cm and hue is red\n    a 5 %\n", 0, 40,
         "while s above 3 cm and hue is red (line 8) fired, since s 40 mm is above 30 mm and hue is red: a 5 %"},
        {"while s + 1 mm above p * 2\n    a s * 1 %/mm\n", 0, 120,
         "while s + 1 mm above p * 2 (line 8) fired, since the difference is above 0: a 120 %"},
        {"on start\n    a 5 %\n", -1, 40, "on start (line 8) fired, since the rig started: a 5 %"},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *text = g_strconcat(told_head, cases[i].rule, NULL);
        bench b;
        bench_open(&b, text);
        const rgp_frame_layout shape = rgp_frame_layout_of(b.engine.image);
        rgp_frame *frame = g_malloc0(shape.bytes);
        for (int k = cases[i].before < 0; k < 2; k++) {
            b.events = 0;
            const rgp_sample s = {.time_us = b.now_us, .raw = k ? cases[i].now : cases[i].before};
            const rgp_sample hue = {.time_us = b.now_us};
            rgp_engine_sense(&b.engine, 0, &s);
            rgp_engine_sense(&b.engine, 1, &hue);
            rgp_engine_step(&b.engine, b.now_us);
            b.now_us += 10000;
        }
        rgp_frame_take(&shape, frame, &b.engine);
        g_autoptr(GString) said = g_string_new(NULL);
        assert_true(b.events > 0);
        rgp_describe_event(b.engine.image, &shape, frame, &b.event[0], said);
        assert_string_equal(said->str, cases[i].says);
        g_free(frame);
        bench_close(&b);
    }
}

static void test_numbers(void **unused)
{
    (void)unused;
    static const struct {
        double number;
        const char *text;
    } cases[] = {{0, "0 cm"},          {-0.0, "0 cm"},          {2.98, "2.98 cm"}, {12345.6, "12346 cm"},
                 {123.44, "123.4 cm"}, {0.00012, "0.00012 cm"}, {-5, "-5 cm"},     {99.999, "100 cm"},
                 {1000, "1000 cm"},    {0.1, "0.1 cm"}};
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autoptr(GString) text = g_string_new(NULL);
        rgp_describe_number(cases[i].number, "cm", text);
        assert_string_equal(text->str, cases[i].text);
    }
}

static uint32_t count(const char *text, const char *piece)
{
    uint32_t n = 0;
    for (const char *at = strstr(text, piece); at; at = strstr(at + 1, piece)) {
        n++;
    }
    return n;
}

/* The figure of a recording: a panel a unit, limits and bands drawn, firings and marks shown, bad stretches grey,
 * spikes kept. */
static void test_figure(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(
        folder, "x.rig",
        "rig x\ntick 5 ms\nsensor s counts 0..4095\nsensor t counts 0..4095\nactuator lamp switch, rest at "
        "off\nactuator pump percent "
        "0..100, rest at 0\nparam p = 3 cm in 1..5 cm\nsignal d = s | table 0: 0 cm, 4000: 10 cm\n"
        "bands z = d: low below p, mid, high above 7 cm\non z goes high\n    lamp on\n    mark \"up \\here\"\n"
        "while t below 500 counts\n    pump 30 % for 1 s\n    holdoff 9 s\n"
        "hookup sim\n    s reads 1000: noise 2\n    at 10 s s leaps 2500 counts for 5 ms\n    at 20 s s drops for 2 s\n"
        "    t reads 400\n",
        -1);
    called c = call_tool(folder, "run x.rig --for 30s --fast --record r");
    assert_int_equal(c.status, 0);
    call_done(&c);
    g_autofree char *name = g_build_filename(folder, "r", NULL);
    rgp_recording *r = rgp_recording_read(name, NULL);
    g_autoptr(GString) script = rgp_figure_script(r, &(rgp_figure){.path = "out.svg", .width = 640, .height = 400});
    const char *text = script->str;
    assert_int_equal(count(text, "\nplot "), 4); /* counts, cm, %, states */
    assert_int_equal(count(text, "set ylabel \"[counts]\""), 1);
    assert_int_equal(count(text, "set ylabel \"d [cm]\""), 1);
    assert_int_equal(count(text, "\"p 3 cm\""), 1);
    assert_int_equal(count(text, "\"7 cm\""), 1);
    assert_int_equal(count(text, "\"limit 500 counts\""), 1);
    assert_int_equal(count(text, "\"up \\134here\""), 1);
    assert_int_equal(count(text, "\"lamp on\""), 1);
    assert_int_equal(count(text, "set object rectangle from first 20.000000"), 2); /* in both panels that it spoils */
    assert_int_equal(count(text, "set arrow from first"),
                     4 * 4); /* three firings of the pump and one of the lamp, in four panels */
    const char *spike = strstr(text, "10.000000 34");
    assert_non_null(spike); /* one tick of 6000, in a figure of at most 3000 points */
    assert_non_null(strstr(text, "set terminal svg size 640,400"));
    rgp_recording_free(r);
    remove_folder(folder);
}

/* Recordings of an earlier version (30 ticks of each example) open for ever, and their rigs run. */
static void test_old_recordings_open(void **unused)
{
    (void)unused;
    const char *folder = RIGPULSE_SOURCE "/tests/corpus/recordings";
    g_autoptr(GPtrArray) tables = list_files(folder, ".csv");
    assert_int_equal(tables->len, 18);
    for (guint i = 0; i < tables->len; i++) {
        g_autofree char *path = g_build_filename(folder, tables->pdata[i], NULL);
        g_autoptr(GError) error = NULL;
        rgp_recording *r = rgp_recording_read(path, &error);
        if (!r) {
            fail_msg("%s", error->message);
        }
        assert_int_equal(r->rows, 30);
        assert_int_equal(r->torn_rows, 0);
        assert_string_equal(r->ending, "complete");
        bench b;
        bench_open(&b, r->rig->source);
        rgp_sim *sim = rgp_sim_new(b.rig, 1, false, &error);
        assert_non_null(sim);
        assert_int_equal(rgp_engine_tick(&b.engine, rgp_sim_port(sim)), RGP_OK);
        rgp_sim_free(sim);
        bench_close(&b);
        rgp_recording_free(r);
    }
}

/* The next float of a walk that meets all exponents, powers of two and of ten, and what lies beside them. */
static float odd_float(uint64_t *chance, uint32_t i)
{
    *chance = *chance * 6364136223846793005u + 1442695040888963407u; /* Knuth's MMIX generator */
    uint32_t bits = (uint32_t)(*chance >> 32);
    float value;
    if (i % 4 == 0) { /* beside a power of ten, or a round number */
        value = (float)pow(10.0, (int)(bits % 12) - 5) * (float)(1 + bits / 16 % 1000);
        memcpy(&bits, &value, sizeof bits);
        bits += bits % 5 - 2;
    } else if (i % 4 == 1) { /* within the range of the fast way */
        bits = bits % (0x49742400u - 0x38D1B717u) + 0x38D1B717u;
    } else if (i % 4 == 2) { /* a power of two, or beside it */
        bits = (bits & 0x7F800000u) + bits % 5 - 2;
    }
    memcpy(&value, &bits, sizeof value);
    return isfinite(value) ? value : 0.0f;
}

/* Numbers are written in the fast way as in the slow one, byte for byte, and read back. */
static void test_digits(void **unused)
{
    (void)unused;
    uint64_t chance = 20261129u;
    char fast[RGP_DIGITS_ROOM], slow[RGP_DIGITS_ROOM];
    for (uint32_t i = 0; i < 400000; i++) {
        const float value = (i & 8u ? -1.0f : 1.0f) * odd_float(&chance, i);
        const char *end = rgp_digits_float(fast, value);
        rgp_digits_float_slowly(slow, value);
        if (strcmp(fast, slow) != 0 || *end != '\0' || (float)g_ascii_strtod(fast, NULL) != value) {
            fail_msg("%a: '%s', and slowly '%s'", (double)value, fast, slow);
        }
    }
    rgp_digits_whole(fast, INT64_MIN, 1);
    assert_string_equal(fast, "-9223372036854775808");
    rgp_digits_whole(fast, 42, 6);
    assert_string_equal(fast, "000042");
    rgp_digits_whole(fast, 0, 1);
    assert_string_equal(fast, "0");
}

/* The fields and rows of a table, one behind the other. */
static void note_field(void *field, size_t length, void *self)
{
    (void)length;
    g_string_append_printf(self, "[%s]", (const char *)field);
}

static void note_row(int ending, void *self)
{
    g_string_append(self, ending < 0 ? "<cut>" : "<row>");
}

/* In pieces of so many bytes. */
static char *read_as(const char *text, gsize length, gsize piece, bool plainly)
{
    GString *noted = g_string_new(NULL);
    const rgp_table_reader reader = {.field = note_field, .row = note_row, .self = noted};
    rgp_table *table = rgp_table_new(&reader, plainly);
    g_autofree char *used = g_memdup2(text, length);
    for (gsize at = 0; at < length; at += piece) {
        rgp_table_feed(table, used + at, MIN(piece, length - at));
    }
    g_string_append_printf(noted, "end %d", (int)rgp_table_finish(table));
    return g_string_free(noted, FALSE);
}

/* Plain rows are split by our own reader; over any text it gives what libcsv gives. */
static void test_plain_rows_against_libcsv(void **unused)
{
    (void)unused;
    static const char *const piece[] = {"1.5", ",",  ",",  "\r\n",     "\n",          "\"", "a b",
                                        " ",   "\t", "\r", "not good", "\"x,\"\"y\"", "-0"};
    g_autoptr(GRand) chance = g_rand_new_with_seed(3);
    uint32_t plain = 0;
    for (uint32_t n = 0; n < 40000; n++) {
        g_autoptr(GString) text = g_string_new(NULL);
        const gint32 pieces = g_rand_int_range(chance, 0, 24), kinds = n % 2 ? (gint32)G_N_ELEMENTS(piece) : 5;
        for (gint32 i = 0; i < pieces; i++) {
            g_string_append(text, piece[g_rand_int_range(chance, 0, kinds)]);
        }
        const gsize bytes = (gsize)g_rand_int_range(chance, 1, 30);
        g_autofree char *ours = read_as(text->str, text->len, bytes, true),
                        *theirs = read_as(text->str, text->len, text->len + 1, false);
        if (strcmp(ours, theirs) != 0) {
            g_autofree char *shown = g_strescape(text->str, NULL);
            fail_msg("of '%s' we read %s, and libcsv %s", shown, ours, theirs);
        }
        plain += kinds == 5;
    }
    assert_true(plain > 10000);
}

/* Numbers are read as strtod() reads them, to the bit and to the letter. */
static void test_reading_numbers(void **unused)
{
    (void)unused;
    static const char *const odd[] = {"",
                                      "-",
                                      ".",
                                      "-.",
                                      "+1",
                                      " 1",
                                      "1e5",
                                      "0x1f",
                                      "inf",
                                      "nan",
                                      "1.2.3",
                                      "5.",
                                      ".5",
                                      "12cm",
                                      "-0",
                                      "-0.0",
                                      "123456789012345",
                                      "1234567890123456",
                                      "0.000000000000001",
                                      "1,5",
                                      "00000000000000000001",
                                      "9007199254740993",
                                      "0.1",
                                      "1e-400",
                                      "3 cm"};
    g_autoptr(GRand) chance = g_rand_new_with_seed(5);
    for (uint32_t n = 0; n < 300000; n++) {
        g_autofree char *text =
            n < G_N_ELEMENTS(odd) ? g_strdup(odd[n])
                                  : g_strdup_printf("%s%.*f", n % 3 ? "" : "-", g_rand_int_range(chance, 0, 13),
                                                    g_rand_double(chance) * pow(10.0, g_rand_int_range(chance, -6, 9)));
        g_autofree char *row = g_strconcat(text, ",9876543210", NULL); /* eight bytes at a time, and at its very end */
        char *our_end, *row_end, *tight_end, *their_end;
        const double theirs = g_ascii_strtod(text, &their_end), ours = rgp_digits_read(text, &our_end),
                     in_row = rgp_digits_read_in(row, row + strlen(row), &row_end),
                     tight = rgp_digits_read_in(text, text + strlen(text), &tight_end);
        if (memcmp(&ours, &theirs, sizeof ours) != 0 || our_end != their_end || tight_end != their_end ||
            row_end - row != their_end - text || memcmp(&in_row, &theirs, sizeof ours) != 0 ||
            memcmp(&tight, &theirs, sizeof ours) != 0) {
            fail_msg("'%s' is read as %.17g up to %ld (in a row %.17g), and by strtod() as %.17g up to %ld", text, ours,
                     (long)(our_end - text), in_row, theirs, (long)(their_end - text));
        }
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_plain_rows_against_libcsv),
        cmocka_unit_test(test_reading_numbers),
        cmocka_unit_test(test_digits),
        cmocka_unit_test(test_old_recordings_open),
        cmocka_unit_test(test_ring),
        cmocka_unit_test(test_ring_between_threads),
        cmocka_unit_test(test_history),
        cmocka_unit_test(test_history_of_events),
        cmocka_unit_test(test_history_holds_an_hour),
        cmocka_unit_test(test_frame_events),
        cmocka_unit_test(test_told),
        cmocka_unit_test(test_numbers),
        cmocka_unit_test(test_figure),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
