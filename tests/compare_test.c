/* Runs side by side: the tests of chance against closed forms and an independent package, the figures of a run against
 * what it did, and the command on simulated and on recorded runs. */
#include "support.h"

#include "analysis/comparison.h"
#include "analysis/course.h"

#include <jansson.h>
#include <math.h>
#include <string.h>

/* ---- chance ------------------------------------------------------------------------------------------ */

/* Values of SciPy's permutation_test (1.10), and of its null distribution inverted by halving. */
static void test_chances(void **unused)
{
    (void)unused;
    static const double pairs[] = {1.2, 0.3, -0.4, 2.0, 0.9, 1.1, -0.1, 0.7};
    static const double a[] = {10.1, 11.4, 9.8, 10.9, 10.4}, b[] = {12.2, 11.1, 13.6, 12.9, 14.5};
    rgp_difference d = rgp_paired(pairs, 8);
    assert_true(d.judged);
    assert_near(d.chance, 0.046875, 1e-12);
    assert_near(d.mean, 0.7125, 1e-12);
    assert_near(d.low, 0.0666667, 1e-4);
    assert_near(d.high, 1.3666667, 1e-4);
    d = rgp_unpaired(a, 5, b, 5);
    assert_true(d.judged);
    assert_near(d.chance, 4.0 / 252.0, 1e-12);
    assert_near(d.mean, 2.34, 1e-12);
    assert_near(d.low, 0.8, 1e-4);
    assert_near(d.high, 3.8, 1e-4);
    assert_false(rgp_paired(pairs, 5).judged);
    assert_false(rgp_unpaired(a, 3, b, 5).judged);
    const double same[8] = {0};
    assert_near(rgp_paired(same, 8).chance, 1.0, 0.0);
    const double always[8] = {2, 2, 2, 2, 2, 2, 2, 2};
    d = rgp_paired(always, 8);
    assert_near(d.chance, 2.0 / 256.0, 1e-12);
    assert_true(d.low == 2.0 && d.high == 2.0);
    assert_near(rgp_paired_least(8), 2.0 / 256.0, 1e-12);
    assert_near(rgp_unpaired_least(4), 2.0 / 70.0, 1e-12);
}

/* Drawn ways are right as often as counted ones. */
static void test_drawn_ways(void **unused)
{
    (void)unused;
    uint32_t chance = 3;
    double pairs[30];
    for (int i = 0; i < 30; i++) {
        chance = chance * 1664525u + 1013904223u;
        pairs[i] = 0.35 + (double)(chance >> 8) / 16777216.0 - 0.5;
    }
    const rgp_difference most = rgp_paired(pairs, 30);
    assert_true(most.chance < 0.001 && most.low > 0.0 && most.low < most.mean && most.mean < most.high);
    for (int i = 0; i < 30; i++) {
        pairs[i] -= most.mean;
    }
    assert_true(rgp_paired(pairs, 30).chance > 0.9);
    assert_true(rgp_unpaired(pairs, 15, pairs + 15, 15).chance > 0.01);
}

static void test_holm(void **unused)
{
    (void)unused;
    double chance[] = {0.01, NAN, 0.04, 0.03, 0.005, 0.9};
    rgp_holm(chance, 6);
    const double wanted[] = {0.04, NAN, 0.09, 0.09, 0.025, 0.9};
    for (int i = 0; i < 6; i++) {
        assert_true(isnan(wanted[i]) == isnan(chance[i]));
        assert_near(isnan(wanted[i]) ? 0.0 : chance[i], isnan(wanted[i]) ? 0.0 : wanted[i], 1e-12);
    }
}

/* ---- figures ----------------------------------------------------------------------------------------- */

static double figure(const GArray *scores, const char *name)
{
    for (guint i = 0; i < scores->len; i++) {
        const rgp_score *s = &g_array_index(scores, rgp_score, i);
        if (strcmp(s->name, name) == 0) {
            return s->value;
        }
    }
    fail_msg("there is no '%s'", name);
    return NAN;
}

/* A saw of 0 to 99 counts, ten ticks of 20 ms each way of a switch. */
static void test_figures(void **unused)
{
    (void)unused;
    static const char text[] = "rig saw\ntick 20 ms\nsensor s counts 0..99\nactuator lamp switch, rest at off\n"
                               "bands z = s: low below 25 counts, high\non z goes low\n    lamp on\n"
                               "on z leaves low\n    lamp off\nsignal d = s * 2\n";
    bench b;
    bench_open(&b, text);
    rgp_history *h = rgp_history_new(b.rig->image, 0);
    const rgp_frame_layout layout = rgp_frame_layout_of(b.rig->image);
    rgp_frame *frame = g_malloc0(layout.bytes);
    for (int n = 0; n < 1000; n++) {
        *frame = (rgp_frame){0};
        b.events = 0;
        bench_tick(&b, 0, (n + 50) % 100);
        for (uint32_t i = 0; i < b.events; i++) {
            rgp_frame_add_event(&layout, frame, &b.event[i]);
        }
        rgp_frame_take(&layout, frame, &b.engine);
        rgp_history_frame(h, &layout, frame);
    }
    g_autoptr(GArray) scores = rgp_scores_of(h, 0, UINT64_MAX, true);
    assert_near(figure(scores, "d mean"), 99.0, 1e-6);
    assert_near(figure(scores, "d spread"), sqrt(1000.0 / 999.0 * (1e4 - 1.0) / 12.0) * 2.0, 1e-4);
    assert_near(figure(scores, "d least"), 0.0, 0.0);
    assert_near(figure(scores, "d greatest"), 198.0, 0.0);
    assert_near(figure(scores, "z low"), 25.0, 1e-9);
    assert_near(figure(scores, "lamp driven"), 250 * 0.02, 1e-9);
    assert_near(figure(scores, "lamp switchings"), 10.0, 0.0);
    assert_near(figure(scores, "fired: on z goes low"), 10.0, 0.0);
    assert_near(figure(scores, "interval: on z goes low"), 2.0, 1e-6);
    g_autoptr(GArray) few = rgp_scores_of(h, 0, 500000, true);
    assert_int_equal(few->len, 0);
    rgp_course *course = rgp_course_of(h, "d", 1000000, 3000000);
    assert_int_equal(course->point->len, 100);
    assert_true(isnan(rgp_course_at(course, -0.1)) && rgp_course_at(course, 0.011) == rgp_course_at(course, 0.0));
    rgp_course_free(course);
    assert_null(rgp_course_of(h, "nothing", 0, 1));
    rgp_history_free(h);
    g_free(frame);
    bench_close(&b);
}

/* ---- the command ------------------------------------------------------------------------------------- */

static const char saloon[] = "compare --run " RIGPULSE_SOURCE "/examples/poor/ferry.rig --run " RIGPULSE_SOURCE
                             "/examples/ferry.rig --for 20s --seeds 8 --figure IAE --figure peak";

/* The same kind twice differs in nothing; better gains are told as such, with a picture, twice the same. */
static void test_simulated(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *drawn = g_strconcat(saloon, " -o both.png", NULL), *json = g_strconcat(saloon, " --json", NULL),
                    *twice =
                        g_strdup_printf("compare --run '%s/examples/ferry.rig' --run '%s/examples/ferry.rig' --for 10s "
                                        "--seeds 6 --figure IAE",
                                        RIGPULSE_SOURCE, RIGPULSE_SOURCE);
    const call_case calls[] = {
        {saloon, 0, "B is better than A at: level peak, level IAE"},
        {drawn, 0, "both.png"},
        {twice, 0, ", the same"},
    };
    check_calls(folder, calls, G_N_ELEMENTS(calls));
    called c = call_tool(folder, json), again = call_tool(folder, json);
    assert_string_equal(c.out, again.out);
    json_t *whole = json_loads(c.out, 0, NULL);
    const json_t *kind =
        json_array_get(json_object_get(json_array_get(json_object_get(whole, "figures"), 0), "kinds"), 1);
    assert_int_equal(json_array_size(json_object_get(kind, "values")), 8);
    assert_true(json_is_true(json_object_get(json_object_get(kind, "against_first"), "differs")));
    json_decref(whole);
    call_done(&c);
    call_done(&again);
    g_autofree char *picture = g_build_filename(folder, "both.png", NULL);
    assert_true(g_file_test(picture, G_FILE_TEST_IS_REGULAR));
    remove_folder(folder);
}

static void record(const char *folder, const char *rig, int seed, const char *name, const char *length)
{
    g_autofree char *run = g_strdup_printf("run " RIGPULSE_SOURCE "/examples/%s.rig --for %s --fast --quiet --seed %d "
                                           "--record %s",
                                           rig, length, seed, name);
    called c = call_tool(folder, run);
    assert_int_equal(c.status, 0);
    call_done(&c);
}

static void test_recorded(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    for (int i = 1; i <= 5; i++) {
        g_autofree char *good = g_strdup_printf("a%d", i), *poor = g_strdup_printf("b%d", i);
        record(folder, "ferry", i, good, "12s");
        record(folder, "poor/ferry", 10 + i, poor, i == 3 ? "14s" : "12s");
    }
    record(folder, "basin", 1, "basin", "60s");
    record(folder, "basin", 2, "other", "60s");
    static const call_case calls[] = {
        {"compare a1 b1 --figure IAE", 0, "One run of each: how much runs differ by themselves is not known"},
        {"compare a1 a2 a3 a4 a5 b1 b2 b3 b4 b5 --figure IAE --figure peak", 0,
         "B is worse than A at: level peak, level IAE"},
        {"compare a1 a2 a3 a4 a5 b1 b2 b3 b4 b5 --figure IAE", 0, "the longest run has 13.99 s, the shortest 11.99 s"},
        {"compare a1 a2 a3 a4 b1 b2 b3 b4 --figure IAE --figure peak", 0, "by 4 runs of each: take 5"},
        {"compare a1 a2 b1 b2 --figure IAE", 0, "Too few runs to tell a difference from chance: 4 of each"},
        {"compare a1 basin --figure nothing", 2, "there is no figure of that name"},
        {"compare a1 b1 basin --figure driven", 2, "there is no figure of that name that all of them have"},
        {"compare a1 a2", 2, "runs of the same text with the same parameters"},
        {"compare a1", 2, "it takes two or more"},
        {"compare a1 nowhere", 2, "nowhere"},
        {"compare a1 b1 --from 'high water'", 2, "a1 has no such mark and no such line that fired"},
        {"compare basin other --from 'line 17' --figure driven", 2, "runs of the same text"},
        {"compare basin a1 --from 'line 17'", 2, "a1 has no such mark"},
        {"compare a1 b1 --from 20s", 2, "the shortest run has only 0 s behind that moment"},
        {"compare a1 b1 --over 13s", 2, "the shortest run has only 11.99 s"},
        {"compare a1 b1 --from 5s --over 3s --figure effort", 0, "from 5 to 8 s"},
        {"compare a1 b1 --seeds 3", 2, "go with --run"},
        {"compare a1 --run b1", 2, "either recordings, or simulated runs"},
        {"compare a1 b1 -o both.gif", 2, "-o NAME.png or -o NAME.svg"},
        {"compare a1 b1 -o both.png --draw nothing", 2, "a1 has no value 'nothing' to draw"},
        {"compare a1 b1 -o both.svg --draw lever", 0, "both.svg"},
        {"compare --run x.rig --run y.rig --for 3s", 2, "x.rig"},
        {"compare --run " RIGPULSE_SOURCE "/examples/ferry.rig --run " RIGPULSE_SOURCE "/examples/ferry.rig", 2,
         "--for 60s"},
        {"compare --run '" RIGPULSE_SOURCE "/examples/ferry.rig level_kp=1e9' --run " RIGPULSE_SOURCE
         "/examples/ferry.rig --for 3s",
         2, "level_kp can be from"},
        {"compare --run a.rig --run b.rig --for 3s --seeds 0", 2, "a whole number from 1"},
        {"compare --run a.rig --run b.rig --for 3s --from 4s", 2, "the runs end at 3 s"},
    };
    check_calls(folder, calls, G_N_ELEMENTS(calls));
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_chances), cmocka_unit_test(test_drawn_ways), cmocka_unit_test(test_holm),
        cmocka_unit_test(test_figures), cmocka_unit_test(test_simulated),  cmocka_unit_test(test_recorded),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
