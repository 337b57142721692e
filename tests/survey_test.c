/* Surveys: figures that are known, the same worlds for all values, mechanisms that are off, and the command. */
#include "support.h"

#include "analysis/survey.h"

#include <jansson.h>
#include <math.h>
#include <string.h>

/* The rig drives a parameter, and its sensor follows with a lag: after five seconds of it the mean is known. */
static const char follows[] = "rig follows\ntick 10 ms\nsensor seen counts 0..1000\n"
                              "actuator push percent 0..100, rest at 0\nparam much = 20 percent in 0..100 percent\n"
                              "param twice = 1 in 0..2\nsignal level = seen / 10 counts\ndrive push = much * twice\n"
                              "hookup sim\n    lag l: driven by push, gain 1, time 100 ms\n"
                              "    seen sees l value: 0 at 0, 1000 at 100\n";

static rgp_survey_ask ask_of(const char *figure)
{
    return (rgp_survey_ask){.path = "follows.rig",
                            .text = follows,
                            .axis = {{"much", "percent", 10.0, 50.0, 5}},
                            .axes = 1,
                            .figure = figure,
                            .from_s = 2.0,
                            .length_s = 4.0,
                            .worlds = 3};
}

/* Without noise all worlds are the same, and the figure is what the equation says. */
static void test_known_figure(void **unused)
{
    (void)unused;
    const rgp_survey_ask ask = ask_of("level mean");
    rgp_survey *s = rgp_survey_of(&ask, NULL, NULL, NULL);
    assert_non_null(s);
    assert_int_equal(s->cells, 5);
    assert_int_equal(s->whole, 5);
    assert_false(s->stopped);
    for (uint32_t i = 0; i < s->cells; i++) {
        assert_near(s->cell[i].at[0], 10.0 + 10.0 * i, 1e-12);
        assert_near(s->cell[i].median, 10.0 + 10.0 * i, 0.06); /* a whole count is a tenth */
        assert_near(s->cell[i].worst, s->cell[i].median, 0.0);
    }
    g_autofree uint32_t *order = rgp_survey_order(s);
    assert_int_equal(order[0], 0);
    rgp_survey_free(s);
    rgp_survey_ask more = ask_of("time level above 25");
    more.more = true;
    s = rgp_survey_of(&more, NULL, NULL, NULL);
    static const double seconds[] = {0.0, 0.0, 2.0, 2.0, 2.0};
    for (uint32_t i = 0; i < s->cells; i++) {
        assert_near(s->cell[i].worst, seconds[i], 1e-9);
    }
    g_autofree uint32_t *greatest = rgp_survey_order(s);
    assert_true(greatest[0] >= 2 && greatest[4] < 2);
    rgp_survey_free(s);
}

/* The first world is as it is written; in the others a gain of 1 lies within its share, and other than 1. Twice the
 * same survey gives the same numbers. */
static void test_worlds_that_are_off(void **unused)
{
    (void)unused;
    rgp_survey_ask ask = ask_of("level mean");
    ask.worlds = 8;
    ask.off = 0.2;
    rgp_survey *s = rgp_survey_of(&ask, NULL, NULL, NULL), *again = rgp_survey_of(&ask, NULL, NULL, NULL);
    for (uint32_t i = 0; i < s->cells; i++) {
        const rgp_survey_cell *c = &s->cell[i];
        assert_near(c->figure[0], c->at[0], 0.06);
        for (uint32_t w = 1; w < ask.worlds; w++) {
            const double share = c->figure[w] / c->at[0];
            assert_true(share > 0.79 && share < 1.21 && fabs(share - 1.0) > 1e-4);
            assert_near(share, s->cell[4].figure[w] / s->cell[4].at[0], 0.01); /* the same world for all values */
            assert_near(c->figure[w], again->cell[i].figure[w], 0.0);
        }
        assert_true(c->worst >= c->median);
    }
    rgp_survey_free(s);
    rgp_survey_free(again);
}

static bool stop_at_once(void *self, uint32_t done)
{
    (void)self;
    return done < 4;
}

/* Stopped in the middle it holds what was done. */
static void test_stopped(void **unused)
{
    (void)unused;
    rgp_survey_ask ask = ask_of("level mean");
    ask.axis[0].values = 50;
    ask.worlds = 20;
    ask.length_s = 60.0;
    rgp_survey *s = rgp_survey_of(&ask, stop_at_once, NULL, NULL);
    assert_non_null(s);
    assert_true(s->stopped && s->whole < 50);
    rgp_survey_free(s);
}

static const call_case asked[] = {
    {"survey follows.rig --vary much=10..50percent,5 --figure 'level mean' --for 4s --from 2s", 0,
     "level mean, less is better: 5 values in 6 worlds, 4 s each\nmuch = 10 %  median 10, worst 10\n"},
    {"survey follows.rig --vary much=10..50percent,5 --figure 'level mean' --for 4s --from 2s", 0,
     "the best much is the least that was tried: look farther\n"},
    {"survey follows.rig --vary much=10..50percent,3 --vary twice=0..2,3 --figure 'level mean' --more --best 1 --for "
     "4s "
     "--from 2s -o map.svg",
     0, "much = 50 %, twice = 2  median 100, worst 100\nthe last of 9: "},
    {"survey follows.rig --vary much=10..50percent,2 --figure 'level mean' --off 20% --worlds 4 --for 4s --json", 0,
     "\"off\": 0.2"},
    {"survey follows.rig --vary much=10..50percent,2 --figure 'level mean' --for 4s --against other.rig", 0,
     "other.rig  median "},
    {"survey boiler.rig steam --vary kp=10..30,2 --for 60s --worlds 1", 0, "steam IAE, less is better: 2 values"},
    {"survey follows.rig --vary much=10..50 --figure 'level mean'", 2, "--vary much=10..50: it needs a unit"},
    {"survey follows.rig --vary muhc=10..50percent", 2, "this rig has no parameter 'muhc'"},
    {"survey follows.rig --vary much=50..10percent", 2, "A is not less than B"},
    {"survey follows.rig --vary much=10percent", 2, "it takes NAME=A..B"},
    {"survey follows.rig --vary much=10..50percent,1", 2, "N is a whole number from 2 to 50"},
    {"survey follows.rig --vary much=10..50percent --vary much=10..20percent", 2, "it is varied already"},
    {"survey follows.rig --figure 'level mean'", 2, "it takes one --vary NAME=A..B, or two"},
    {"survey follows.rig --vary much=10..50percent", 2, "say which figure, with --figure; there are: '"},
    {"survey follows.rig --vary much=10..50percent --figure nothing", 2, "there is none of that name"},
    {"survey follows.rig --vary much=10..50percent --figure seen", 2, "several have that in their name"},
    {"survey follows.rig --vary much=10..50percent --figure 'time leevl above 3'", 2, "there is no such value"},
    {"survey follows.rig --vary much=10..50percent --figure 'level mean' --from 90s", 2, "the runs last 60 s"},
    {"survey follows.rig --vary much=10..50percent --figure 'level mean' --off 95%", 2, "from 0 % to 90 %"},
    {"survey follows.rig --vary much=10..50percent --figure 'level mean' --worlds 0", 2, "from 1 to 200"},
    {"survey follows.rig --vary much=10..50percent --figure 'level mean' --set much=3percent", 2,
     "take one of the two out"},
    {"survey follows.rig bath --vary much=10..50percent", 2, "there is no loop 'bath'"},
    {"survey follows.rig --vary much=10..50percent -o map.gif", 2, "ends with .png or .svg"},
    {"survey none.rig --vary much=10..50percent", 2, "none.rig"},
};

static void test_command(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *boiler = get_file(RIGPULSE_SOURCE "/examples", "boiler.rig");
    put_file(folder, "follows.rig", follows, -1);
    put_file(folder, "other.rig", follows, -1);
    put_file(folder, "boiler.rig", boiler, -1);
    check_calls(folder, asked, G_N_ELEMENTS(asked));
    remove_folder(folder);
}

/* The best values into the file, as they are told; every other byte stays, and it can be taken back. */
static void test_written(void **unused)
{
    (void)unused;
    static const call_case write[] = {
        {"survey follows.rig --vary much=10..47percent,4 --vary twice=0.5..2,2 --figure 'level mean' --more --write "
         "--for 4s --from 2s",
         0, "follows.rig is written with the best; 'rigpulse calibrate follows.rig --undo'"},
    };
    char *folder = make_folder();
    g_autoptr(GString) wanted = g_string_new(follows);
    g_string_replace(wanted, "much = 20 percent", "much = 47 percent", 1);
    g_string_replace(wanted, "twice = 1 in", "twice = 2 in", 1);
    put_file(folder, "follows.rig", follows, -1);
    check_calls(folder, write, 1);
    g_autofree char *written = get_file(folder, "follows.rig");
    assert_string_equal(written, wanted->str);
    called c = call_tool(folder, "calibrate follows.rig --undo");
    g_autofree char *back = get_file(folder, "follows.rig");
    assert_string_equal(back, follows);
    call_done(&c);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_known_figure), cmocka_unit_test(test_worlds_that_are_off),
        cmocka_unit_test(test_stopped),      cmocka_unit_test(test_command),
        cmocka_unit_test(test_written),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
