/* Gains and times written in other units than the loop or the rule computes with: what is said of them is the same, and
 * what is proposed is in the unit that was written. */
#include "support.h"

#include <glib.h>
#include <string.h>

/* A copy of an example whose line of gains is another. */
static void put_example(const char *folder, const char *name, const char *example, const char *was, const char *is)
{
    g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", example);
    g_autoptr(GString) other = g_string_new(text);
    assert_int_equal(g_string_replace(other, was, is, 1), 1);
    put_file(folder, name, other->str, -1);
}

/* The number behind some words of what two calls print: as many times as great in the first. */
static void compare(const char *folder, const char *first, const char *second, const char *words, double times)
{
    called a = call_tool(folder, first), b = call_tool(folder, second);
    const double one = number_behind(a.out, words);
    assert_near(one / number_behind(b.out, words), times, 0.02 * times);
    call_done(&a);
    call_done(&b);
}

#define BOILER "pid kp 100 %/K, ki 1 %/K/s, kd 0"
#define PER_F  "pid kp 55.5556 %/°F, ki 0.555556 %/°F/s, kd 0 %/°F*s"

static void test_gains_per_degree_fahrenheit_at_length(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_example(folder, "k.rig", "poor/boiler.rig", BOILER, BOILER);
    put_example(folder, "f.rig", "poor/boiler.rig", BOILER, PER_F);
    const call_case cases[] = {
        {"run k.rig --for 20min --fast --record k --quiet", 0, ""},
        {"run f.rig --for 20min --fast --record f --quiet", 0, ""},
        {"advise f", 0, "steam with kp 55.56, ki 0.5556, kd 0"},
        {"tune f.rig steam --disturb --over 15min", 0, "kp 55.56, ki 0.5556, kd 0"},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    compare(folder, "advise k", "advise f", "it swings every ", 1.0);
    compare(folder, "advise k", "advise f", "--try 'kp ", 1.8);
    compare(folder, "suggest k.rig steam --at 40% --size 20% --each 5min --fast",
            "suggest f.rig steam --at 40% --size 20% --each 5min --fast", "pid kp ", 1.8);
    compare(folder, "suggest k.rig steam --at 40% --size 20% --each 5min --fast",
            "suggest f.rig steam --at 40% --size 20% --each 5min --fast", "gain may grow", 1.0);
    remove_folder(folder);
}

/* A mast is found by the gain that held it up, whatever that is written in. */
static void test_gains_per_radian(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_example(folder, "deg.rig", "mast.rig", "kp 60, ki 0, kd 5", "kp 60, ki 0, kd 5");
    put_example(folder, "rad.rig", "mast.rig", "kp 60, ki 0, kd 5",
                "kp 3437.75 %/rad, ki 0 %/rad/s, kd 286.479 %/rad*s");
    compare(folder, "model deg.rig upright --test held --fast", "model rad.rig upright --test held --fast",
            "falls by e in", 1.0);
    compare(folder, "suggest deg.rig upright --test held --fast", "suggest rad.rig upright --test held --fast",
            "With a kp below ", G_PI / 180.0);
    remove_folder(folder);
}

/* The next stride of a loop that goes step by step, in radians where it is written in them. */
static void test_strides_in_radians(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_example(folder, "deg.rig", "poor/pointer.rig", "nudge 6 deg", "nudge 6 deg");
    put_example(folder, "rad.rig", "poor/pointer.rig", "nudge 6 deg", "nudge 0.10471976 rad");
    const call_case cases[] = {{"run deg.rig --for 1min --fast --record deg --quiet", 0, ""},
                               {"run rad.rig --for 1min --fast --record rad --quiet", 0, ""}};
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    compare(folder, "advise deg", "advise rad", "--try 'stride ", 180.0 / G_PI);
    remove_folder(folder);
}

/* Four rules whose times are converted side by side; how long they hold is worked out again in the middle of a run. */
static void test_times_of_rules(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    GString *rig = g_string_new("rig four\ntick 20 ms\nparam acts = 2000 ms in 100 ms..9000 ms\n"
                                "param rests = 3000 ms in 100 ms..9000 ms\n");
    g_autoptr(GString) eye = g_string_new("time,value\n");
    for (int i = 0; i < 4; i++) {
        g_string_append_printf(rig, "sensor eye%d counts 0..1000\nactuator lamp%d switch, rest at off\n", i, i);
    }
    for (int i = 0; i < 4; i++) {
        g_string_append_printf(rig, "while eye%d above 500\n    lamp%d on for acts\n    holdoff rests\n", i, i);
    }
    g_string_append(rig, "hookup sim\n");
    for (int i = 0; i < 4; i++) {
        g_string_append_printf(rig, "    eye%d plays \"eye.csv\"\n", i);
    }
    for (int i = 0; i < 1000; i++) {
        g_string_append_printf(eye, "%.2f,%d\n", i * 0.02, i / 200 % 2 ? 600 : 400);
    }
    put_file(folder, "four.rig", rig->str, -1);
    put_file(folder, "eye.csv", eye->str, -1);
    const call_case cases[] = {
        {"run four.rig --for 20s --fast --record four", 0, "lamp3 on for 2 s, then holdoff 3 s"},
        {"advise four --begin 7s", 0, "nothing is the matter with its rules"},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    g_string_free(rig, TRUE);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_gains_per_degree_fahrenheit_at_length),
        cmocka_unit_test(test_gains_per_radian),
        cmocka_unit_test(test_strides_in_radians),
        cmocka_unit_test(test_times_of_rules),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
