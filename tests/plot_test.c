/* Pictures of parts of a recording and in other forms than over time: what is computed for them against closed forms,
 * and the scripts and calls. */
#include "support.h"

#include "analysis/figures/course_figure.h"
#include "analysis/figures/gnuplot.h"
#include "analysis/spectrum.h"

#include <math.h>
#include <string.h>

static rgp_course *course(guint points, double step, double (*value)(guint i))
{
    rgp_course *c = g_new0(rgp_course, 1);
    *c = (rgp_course){
        .name = g_strdup("v"), .unit = g_strdup("cm"), .point = g_array_new(FALSE, FALSE, sizeof(rgp_course_point))};
    for (guint i = 0; i < points; i++) {
        const rgp_course_point p = {i * step, value(i)};
        g_array_append_val(c->point, p);
    }
    return c;
}

static double swing(guint i)
{
    return 3.0 + 0.001 * i + 2.0 * sin(2.0 * G_PI * 5.0 * i * 0.01); /* 5 Hz at 100 Hz, on a slope */
}

static uint32_t chance = 1;
static double noise(guint i)
{
    double sum = 0.0;
    (void)i;
    for (int k = 0; k < 12; k++) {
        chance = chance * 1664525u + 1013904223u;
        sum += (double)(chance >> 8) / 16777216.0;
    }
    return sum - 6.0; /* variance 1 */
}

static double with_gaps(guint i)
{
    return i % 5 == 0 ? (double)NAN : swing(i);
}

/* Parseval: the density adds up to the variance; a swing's lies at its frequency, noise has as much at each. */
static void test_spectrum(void **unused)
{
    (void)unused;
    char *why = NULL;
    rgp_course *c = course(20000, 0.01, swing);
    rgp_spectrum *s = rgp_spectrum_of(c, &why);
    double sum = 0.0;
    for (uint32_t k = 0; k < s->lines; k++) {
        sum += s->density[k] * s->density[k] * s->step;
    }
    assert_near(sum, 2.0, 0.02);
    assert_near(s->step * (s->peak + 1.0), 5.0, s->step);
    rgp_spectrum_free(s);
    rgp_course_free(c);
    c = course(100000, 0.001, noise);
    s = rgp_spectrum_of(c, &why);
    uint32_t within = 0;
    for (uint32_t k = 10; k + 10 < s->lines; k++) {
        const double truth = sqrt(2.0 * 0.001); /* variance 1 over 500 Hz */
        within += truth >= s->density[k] * s->low && truth <= s->density[k] * s->high;
    }
    assert_near((double)within / (s->lines - 20.0), 0.95, 0.02); /* what the picture says of its doubt */
    rgp_spectrum_free(s);
    rgp_course_free(c);
}

static void test_no_spectrum(void **unused)
{
    (void)unused;
    static const struct {
        guint points;
        double (*value)(guint i);
        const char *why;
    } cases[] = {{63, swing, "needs 64 rows"}, {1000, with_gaps, "was not to be used in 200 of 1000 rows"}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *why = NULL;
        rgp_course *c = course(cases[i].points, 0.01, cases[i].value);
        assert_null(rgp_spectrum_of(c, &why));
        assert_says(why, cases[i].why);
        g_free(why);
        rgp_course_free(c);
    }
    char *why = NULL;
    rgp_course *c = course(1000, 0.01, swing);
    g_array_index(c->point, rgp_course_point, 500).time += 0.004;
    assert_null(rgp_spectrum_of(c, &why));
    assert_says(why, "not evenly apart");
    g_free(why);
    rgp_course_free(c);
}

static double whole(guint i)
{
    return i % 7 == 0 ? 3.0 : i % 3;
}

/* Whole numbers get bars of whole numbers, and every row is counted once. */
static void test_histogram(void **unused)
{
    (void)unused;
    char *why = NULL;
    const rgp_figure figure = {.path = "x.svg", .width = 640, .height = 400};
    rgp_course *c = course(700, 0.01, whole);
    GString *script = rgp_histogram_script(c, &figure, &why);
    assert_says(script->str, "bars of 1 cm");
    assert_says(script->str, "\n3 100\n");
    assert_says(script->str, "\n0 200\n1 200\n2 200\n");
    g_string_free(script, TRUE);
    rgp_course_free(c);
}

static void test_calls(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    static const call_case calls[] = {
        {"run " RIGPULSE_SOURCE "/examples/basin.rig --for 60s --fast --quiet --record a", 0, "recorded"},
        {"run " RIGPULSE_SOURCE "/examples/basin.rig --for 50s --seed 2 --set shallow=4cm --fast --quiet --record b", 0,
         "recorded"},
        {"mark a spill 30s", 0, ""},
        {"plot a depth pump --from 20s --to 40s -o part.png", 0, "part.png"},
        {"plot a depth --from spill -o part.svg", 0, "part.svg"},
        {"plot a depth --from 'line 17' -o fired.svg", 0, "fired.svg"},
        {"plot a depth pump --xy -o xy.svg", 0, "xy.svg"},
        {"plot a level --histogram -o h.svg", 0, "h.svg"},
        {"plot a level --spectrum --from 1s --to 30s -o s.svg", 0, "s.svg"},
        {"plot a --over b -o o.svg", 0, "o.svg"},
        {"plot a depth tide --over b --to 20s -o o.png", 0, "o.png"},
        {"plot a depht -o x.png", 2, "did you mean 'depth'?"},
        {"plot a depth --xy -o x.png", 2, "--xy takes two values"},
        {"plot a --histogram -o x.png", 2, "take one value"},
        {"plot a depth --histogram --spectrum -o x.png", 2, "take one of --xy"},
        {"plot a --from 99s -o x.png", 2, "the recording goes from 0 to 59.98 s"},
        {"plot a --from 30s --to 20s -o x.png", 2, "there is nothing from 30 to 20 s"},
        {"plot a --from nowhere -o x.png", 2, "no mark of the recording, and no line that fired"},
        {"plot a --over nowhere -o x.png", 2, "nowhere"},
        {"plot a tide --spectrum --from 1s --to 1.5s -o x.png", 2, "a spectrum needs 64 rows"},
    };
    check_calls(folder, calls, G_N_ELEMENTS(calls));
    g_autofree char *part = get_file(folder, "part.svg"), *over = get_file(folder, "o.svg");
    assert_says(part, "basin: from 30 to 59.98 s");
    assert_says(over, "depth, less that of A");
    remove_folder(folder);
}

/* A name of a hundred letters is shown by its beginning and its end, and leaves room for the curves. */
static void test_long_names(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    char name[101] = {0};
    memset(name, 'd', 100);
    g_autofree char *boiler = get_file(RIGPULSE_SOURCE "/examples", "boiler.rig"),
                    *loop = g_strconcat("loop ", name, ":", NULL), *rig = replaced(boiler, "loop steam:", loop);
    put_file(folder, "long.rig", rig, -1);
    static const call_case calls[] = {
        {"run long.rig --for 60s --fast --quiet --record a", 0, "recorded"},
        {"plot a -o a.svg", 0, "a.svg"},
    };
    check_calls(folder, calls, G_N_ELEMENTS(calls));
    g_autofree char *picture = get_file(folder, "a.svg");
    assert_says(picture, "ddddddddddddddd…ddddddddd_target");
    assert_says(picture, "ddddddddddddddd…dddddddddddddddd engaged");
    assert_null(strstr(picture, "dddddddddddddddddddddddddddddddd"));
    remove_folder(folder);
}

/* Units as they are typeset, part by part, behind a prefix or not; what the language does not know stays. */
static void test_units(void **unused)
{
    (void)unused;
    static const char *const wanted[][2] = {{"degC", "v [°C]"}, {"W/degC", "v [W/°C]"},     {"%/deg*s", "v [%/°*s]"},
                                            {"kohm", "v [kΩ]"}, {"mdeg", "v [m°]"},         {"us", "v [µs]"},
                                            {"min", "v [min]"}, {"counts", "v [counts]"},   {"%", "v [%]"},
                                            {"mg", "v [mg]"},   {"cans/us", "v [cans/µs]"}, {"m/s2", "v [m/s2]"},
                                            {"", "v"}};
    for (size_t i = 0; i < sizeof wanted / sizeof *wanted; i++) {
        g_autofree char *title = gnuplot_titled("v", wanted[i][0]);
        assert_string_equal(title, wanted[i][1]);
    }
    assert_string_equal(gnuplot_difference("degF"), "degR");
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_spectrum), cmocka_unit_test(test_no_spectrum), cmocka_unit_test(test_histogram),
        cmocka_unit_test(test_units),    cmocka_unit_test(test_calls),       cmocka_unit_test(test_long_names),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
