/* tune as a user meets it: tries by options and by orders, what is broken off, the file and back, and by keys. */
#include "terminal.h"

#include <jansson.h>
#include <math.h>
#include <string.h>

static void copy_example(const char *folder, const char *from, const char *to)
{
    g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", from);
    put_file(folder, to, text, -1);
}

static char *make_harbour(void)
{
    char *folder = make_folder();
    copy_example(folder, "poor/boiler.rig", "boiler.rig");
    copy_example(folder, "poor/mast.rig", "mast.rig");
    copy_example(folder, "poor/pointer.rig", "pointer.rig");
    copy_example(folder, "poor/ferry.rig", "ferry.rig");
    copy_example(folder, "boiler_onoff.rig", "onoff.rig");
    g_autofree char *poor = get_file(folder, "boiler.rig");
    g_auto(GStrv) parts = g_strsplit(poor, "kp 100 %/K", 2);
    g_autofree char *own =
        g_strdup_printf("%skp strength%s\nparam strength = 100 %%/K in 0 %%/K..200 %%/K\n", parts[0], parts[1]);
    put_file(folder, "own.rig", own, -1);
    g_auto(GStrv) about_a_way = g_strsplit(poor, "one way", 2);
    g_autofree char *cold = g_strjoinv("one way\n    engage within 2 K", about_a_way);
    put_file(folder, "cold.rig", cold, -1);
    copy_example(folder, "boiler.rig", "fine.rig");
    char *cut = strstr(poor, "    cut out");
    g_autofree char *nocut = g_strdup_printf("%.*s%s", (int)(cut - poor), poor, strchr(cut, '\n') + 1);
    put_file(folder, "nocut.rig", nocut, -1);
    put_file(folder, "settings", "kp 40\nstep 2 K\nramp 0.02 K/s\nback 20 s\nstep 2 K\nback 1\n", -1);
    g_auto(GStrv) about_at = g_strsplit(poor, "at target", 2);
    g_autofree char *sum = g_strjoinv("at target - 1 K", about_at);
    put_file(folder, "sum.rig", sum, -1);
    g_autofree char *shared = g_strconcat(poor, "\non start\n    burner 20 % for 5 s\n", NULL);
    put_file(folder, "shared.rig", shared, -1);
    put_file(folder, "placed", "kp 25, ki 0.3\nplace 94 degC\nstep 2 K\n", -1);
    put_file(folder, "misplaced", "place 5 cm\n", -1);
    put_file(folder, "cancelled", "step 2 K\ncancel\nkp 25, ki 0.6\nstep 2 K\n", -1);
    put_file(folder, "good", "settle\nstep 2 K   # as it is\nkp 25, ki 0.3\nwait 5 min\nstep 2 K\ndisturb\nsave\n", -1);
    put_file(folder, "fallen", "push 10 %\nkp 60, kd 5\nanew\ndisturb\nclear\n", -1);
    put_file(folder, "wrong", "step 2 K\nkq 3\n", -1);
    put_file(folder, "far", "wait 20 h\n", -1);
    put_file(folder, "bytes", "wait \xff\n", -1);
    return folder;
}

static void test_calls(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"tune", 2, "it needs FILE LOOP"},
        {"tune none.rig steam", 2, "none.rig"},
        {"tune boiler.rig stem --step 1K", 2, "there is no loop 'stem'; did you mean 'steam'?"},
        {"tune boiler.rig steam", 2, "say what to test with: --step AMOUNT, --push AMOUNT, --disturb"},
        {"tune boiler.rig steam --step 5cm", 2, "it is in K"},
        {"tune boiler.rig steam --step nan", 2, "--step 'nan'"},
        {"tune boiler.rig steam --step 0", 2, "it must be from 1e-06 to 1e+06 K"},
        {"tune boiler.rig steam --step 60K", 2, "'target' goes from 40 to 110"},
        {"tune boiler.rig steam --step 1K --over 2s", 2, "less than 30 ticks"},
        {"tune boiler.rig steam --step 1K --over 11h", 2, "write a time up to 10 h"},
        {"tune boiler.rig steam --step 1K --within -1K", 2, "it must be above 0"},
        {"tune boiler.rig steam --step 1K --try 'kp'", 2, "there is kp, ki, kd"},
        {"tune boiler.rig steam --step 1K --try 'kp -3'", 2, "kp can be from 0 to"},
        {"tune boiler.rig steam --step 1K --try 'kp 1e999'", 2, "--try: "},
        {"tune boiler.rig steam --step 1K --try 'ki 3 cm'", 2, "it is in %/K/s"},
        {"tune boiler.rig steam --step 1K --save 2", 2, "the tries go from 1 to 1"},
        {"tune boiler.rig steam --script good --step 1K", 2, "leave the other options out"},
        {"tune boiler.rig steam --script none", 2, "none cannot be read"},
        {"tune boiler.rig steam --script wrong", 2, "order 2, 'kq 3': 'kq 3' is no gain or setting of 'steam'"},
        {"tune boiler.rig steam --script wrong", 2, "orders are step, push, disturb, wait"},
        {"tune boiler.rig steam --script placed --over 100s", 0, "1    too short: look "},
        {"tune boiler.rig steam --script cancelled --over 300s", 0, "  1    settled in 143 s  kp 25, ki 0.6, kd 0"},
        {"tune boiler.rig steam --script misplaced", 2, "order 1, 'place 5 cm': place 5 cm: the units do not go"},
        {"tune sum.rig steam --step 2K --over 200s --try 'kp 25, ki 0.6'", 0, "15.9 s"},
        {"tune shared.rig steam --step 2K --over 200s", 0, "drives 'burner', too: while it does, a try is not"},
        {"tune shared.rig steam --step 2K --over 200s --json", 0, "\"other drivers\": \"line "},
        {"tune boiler.rig steam --step 2K --over 200s --json", 0, "\"other drivers\": null"},
        {"tune boiler.rig steam --script far", 2, "write a time up to 10 h"},
        {"tune boiler.rig steam --script bytes", 2, "order 1, '?'"},
        {"tune boiler.rig steam --step 2K --over 200s --picture /nowhere/x.png", 1, "swings on every 49 s"},
        /* broken off and at rest is exit status 1 */
        {"tune mast.rig upright --disturb --over 4s", 1, "everything at rest: the loop cut out"},
        {"tune mast.rig upright --disturb --over 4s", 1, "2    broken off  kp 8, ki 0, kd 0.1  pole pushed -40"},
        {"tune mast.rig upright --disturb --over 3s --try 'kp 60, kd 5'", 0, "pole pushed -40 deg/s"},
        {"tune mast.rig upright --script fallen --over 3s", 1, "2    settled in 0.25 s"},
        {"tune pointer.rig point --step 20deg --over 8s --try 'stride 0.5' --try 'pace 40 ms'", 0,
         "stride 0.5 deg, pace 20 ms"},
        {"tune onoff.rig steam --push 10% --over 200s", 0, "margin 0.2 K"},
        {"tune mast.rig upright --disturb --over 4s --save 1", 2, "--anyway writes its gains all the same"},
        {"tune onoff.rig steam --disturb --over 200s", 0, "by itself ±1"},
        {"tune ferry.rig level --disturb --over 12s --within 1.5deg --try 'ki 14 deg/deg/s'", 0,
         "stays within 1.5 deg  kp 0.5, ki 14, kd 0"},
        {"tune ferry.rig level --disturb --over 12s --try 'ki 14 1/s, kp 1 s'", 2, "it has no unit"},
        {"check ferry.rig", 0, "kp 0.5, ki 0.5 1/s, kd 0"},
        {"tune ferry.rig level --step 5deg --over 12s --try 'ki 0.5'", 0, "by itself ±4.8 deg"},
        {"tune pointer.rig point --step 20deg --over 8s --try 'stride 1, pace 66 ms'", 0, "settled in 2.56 s"},
        {"run cold.rig --for 2s --fast --quiet", 0, "1.000  > steam waits: 74.99 K off, engages within 2 K"},
        {"tune cold.rig steam --step 2K --over 20s", 1, "K off, engages within 2 K"},
        {"tune own.rig steam --step 2K --over 200s --try 'strength 25, ki 0.3' --save 1", 0,
         "own.rig is written: strength 25"},
        {"check own.rig", 0, "drives burner, strength 25 %/K, ki 0.3 %/K/s"},
        {"check --json own.rig", 0, "\"loops\": ["},
        {"tune fine.rig steam --step 2K --over 200s --try 'weight 1, ramp 3 K/min, cut out for 2 min' --save 1", 0,
         "kp 25, ki 0.6, kd 0, weight 1, ramp 0.05 K/s, cut out for 120 s  step 2 K"},
        {"tune fine.rig steam --step 2K --try 'weight 3'", 2, "weight can be from 0 to 1"},
        {"tune fine.rig steam --step 2K --try 'filter 20'", 2, "it needs a unit; it is in s"},
        {"tune fine.rig steam --step 2K --try 'ramp 0 K/s'", 2, "ramp must be above 0"},
        {"tune fine.rig steam --step 2K --try 'deadband 1 °C'", 2, "a point on a scale"},
        {"tune fine.rig steam --step '2 °C'", 2, "a difference is wanted; it is in K"},
        {"tune nocut.rig steam --step 2K --try 'cut out for 2 s'", 2, "'for' needs the error that it is about"},
        {"check fine.rig", 0, ""},
        {"tune fine.rig steam --script settings --over 200s", 0, "kp 40, ki 0.6, kd 0, back 20 s, ramp 0.02 K/s"},
        {"tune boiler.rig steam --script good", 0, "kettle opens"},
        {"tune boiler.rig steam --step 2K --try 'kp 25' --save 1 --over 200s", 0,
         "these gains stand in boiler.rig already"},
        {"check boiler.rig", 0, "drives burner, kp 25 %/K, ki 0.3 %/K/s, kd 0 %/K*s"},
        {"calibrate boiler.rig --undo", 0, "taken back: tune steam: kp 25, ki 0.3, kd 0"},
    };
    char *folder = make_harbour();
    g_autofree char *before = get_file(folder, "boiler.rig");
    check_calls(folder, cases, sizeof cases / sizeof *cases);
    g_autofree char *after = get_file(folder, "boiler.rig");
    assert_string_equal(after, before);
    remove_folder(folder);
}

/* The figures as a program reads them: better gains have better ones; the same call says the same. */
static void test_figures(void **unused)
{
    (void)unused;
    char *folder = make_harbour();
    const char *call =
        "tune boiler.rig steam --step 2K --disturb --over 300s --try 'kp 100' --try 'kp 25, ki 0.3' --json "
        "--picture p.png";
    called first = call_tool(folder, call), again = call_tool(folder, call);
    assert_int_equal(first.status, 0);
    assert_string_equal(first.out, again.out);
    json_t *all = json_loads(first.out, 0, NULL), *tries = json_object_get(all, "tries");
    assert_int_equal(json_array_size(tries), 6);
    double iae[2], effort[2];
    for (size_t i = 0; i < 2; i++) {
        const json_t *figures = json_object_get(json_array_get(tries, 3 * i), "figures");
        iae[i] = json_number_value(json_object_get(figures, "IAE"));
        effort[i] = json_number_value(json_object_get(figures, "effort"));
    }
    assert_true(iae[1] > 10.0 && iae[1] < iae[0] && effort[1] < effort[0] / 4.0);
    assert_false(json_is_true(json_object_get(json_array_get(tries, 0), "settles")));
    assert_true(json_is_true(json_object_get(json_array_get(tries, 5), "settles")));
    assert_says(json_string_value(json_object_get(json_array_get(tries, 5), "verdict")), "settled in 18");
    json_decref(all);
    call_done(&first);
    call_done(&again);
    g_autofree char *png = get_file(folder, "p.png");
    assert_memory_equal(png, "\x89PNG", 4);
    remove_folder(folder);
}

#define UP    "\x1bOA"
#define DOWN  "\x1bOB"
#define RIGHT "\x1bOC"

/* Gains by arrows and typed, tests at a key, back to a try, into the file; and what a fallen mast leaves. */
static void test_by_keys(void **unused)
{
    (void)unused;
    char *folder = make_harbour();
    copy_example(folder, "mast.rig", "mast.rig");
    person p = person_watch(folder, "tune mast.rig upright --over 1s", 30, 120);
    person_sees(&p, "no test yet");
    person_sees(&p, "engaged");
    person_types(&p, "?");
    person_sees(&p, "a row whose test has settled");
    person_types(&p, "?x");
    person_sees(&p, "test: pole pushed 40 deg/s");
    person_sees(&p, "try 1 is done");
    person_types(&p, RIGHT);
    person_sees(&p, " 66 %/deg");
    person_types(&p, DOWN DOWN "=4 mm\r");
    person_sees(&p, "the units do not go together");
    person_sees(&p, "the gain, or several (kp 8, ki 0.1): 4 mm_");
    person_types(&p, "\x7f\x7f\x7f\r");
    person_sees(&p, " 4 %/deg*s");
    person_types(&p, "=kp 50, kd 4.5\r");
    person_sees(&p, " 50 %/deg");
    person_types(&p, "s3 cm\r");
    person_sees(&p, "it is in deg");
    person_types(&p, "\x7f\x7f\x7f\x7f"
                     "1 deg\r");
    person_sees(&p, "test: step 1 deg");
    person_sees(&p, "try 2 is done");
    person_types(&p, "w");
    person_sees(&p, "mast.rig is written: kp 50, ki 0, kd 4.5");
    person_types(&p, "b7\r");
    person_sees(&p, "the tries go from 1 to 2");
    person_types(&p, "\x7f"
                     "1\r");
    person_sees(&p, " 60 %/deg");
    person_types(&p, "=kp 2\r");
    person_sees(&p, "loop        out");
    person_types(&p, "p");
    person_sees(&p, "the loop does not drive");
    person_types(&p, "a");
    person_sees(&p, "the rig begins anew");
    person_types(&p, "=kp 60, kd 5\r");
    person_sees(&p, "engaged");
    person_types(&p, "x");
    person_sees(&p, "Esc cancels it");
    person_types(&p, "=kp 61\r");
    person_sees(&p, "try 3 does not count");
    person_types(&p, "=filter 20 ms\r");
    person_sees(&p, "filter 0.02 s");
    person_sees(&p, "the rig begins anew");
    person_types(&p, "w");
    person_sees(&p, "mast.rig is written: kp 61, ki 0, kd 5, filter 0.02 s");
    person_types(&p, "q");
    g_autofree char *left = NULL;
    assert_int_equal(person_leaves(&p, &left), 0);
    assert_says(left, "everything is at rest");
    g_autofree char *text = get_file(folder, "mast.rig");
    assert_says(text, "pid kp 61, ki 0, kd 5, filter 20 ms");
    remove_folder(folder);
}

/* The list on the screen is the one that is printed: whole on a wide screen; and on a narrow one no key is cut off. A
 * low one has the gains and the tries, and the terms where there is room. */
static void test_screens(void **unused)
{
    (void)unused;
    char *folder = make_harbour();
    copy_example(folder, "mast.rig", "mast.rig");
    person wide = person_watch(folder, "tune mast.rig upright --over 1s", 30, 140);
    person_sees(&wide, "engaged");
    person_types(&wide, "x");
    person_sees(&wide, "try 1 is done");
    person_sees(&wide, "try verdict");
    person_sees(&wide, "kp 60, ki 0, kd 5 pole pushed 40 deg/s");
    person_types(&wide, "q");
    g_autofree char *left = NULL;
    assert_int_equal(person_leaves(&wide, &left), 0);
    assert_says(left, "steady error  decay ratio  period");
    person narrow = person_watch(folder, "tune mast.rig upright --over 1s", 24, 80);
    person_sees(&narrow, "? all keys  q leave");
    person_resizes(&narrow, 13, 220);
    person_sees(&narrow, "kp                60");
    person_sees(&narrow, "no test yet: s steps the setpoint, p pushes the output, x disturbs");
    g_autofree char *low = person_screen(&narrow);
    assert_null(strstr(low, "asked"));
    person_resizes(&narrow, 11, 220);
    person_sees(&narrow, "too small");
    person_types(&narrow, "q");
    g_autofree char *nothing = NULL;
    assert_int_equal(person_leaves(&narrow, &nothing), 0);
    remove_folder(folder);
}

static const char lagging[] = "rig lagging\ntick 50 ms\nsensor raw counts 0..4095, every 1 s\n"
                              "actuator heat percent 0..100, rest at 0\nsignal warm = raw / 40 counts\n"
                              "loop w: warm at 50 with heat\n    pid kp 0.2, ki 0.05, kd 0\n    one way\n"
                              "hookup sim\n    lag l: driven by heat, gain 0.8, time 4 s, dead 1 s\n"
                              "    raw sees l value: 0 at 0, 4000 at 100, noise 3\n";

/* A model of what moved in a test, and its gains at the second press; a loop without gains has none of it. */
static void test_model(void **unused)
{
    (void)unused;
    char *folder = make_harbour();
    put_file(folder, "lagging.rig", lagging, -1);
    person p = person_watch(folder, "tune lagging.rig w --over 30s --pace 64", 30, 140);
    person_sees(&p, "engaged");
    g_usleep(2 * G_USEC_PER_SEC); /* 128 s of the rig: it has come to rest */
    person_types(&p, "p10 %\r");
    person_sees(&p, "try 1 is done");
    person_types(&p, "m");
    person_sees(&p, "m again takes kp 1.");
    person_types(&p, "m");
    person_sees(&p, "the gains of the model");
    person_types(&p, "y");
    person_sees(&p, "y again takes kp 0.");
    person_types(&p, "wq");
    g_autofree char *left = NULL;
    assert_int_equal(person_leaves(&p, &left), 0);
    g_autofree char *text = get_file(folder, "lagging.rig");
    assert_says(text, "pid kp 1.");
    person pointer = person_watch(folder, "tune pointer.rig point", 30, 140);
    person_sees(&pointer, "engaged");
    person_types(&pointer, "y");
    person_sees(&pointer, "no try tells of gains so far");
    person_types(&pointer, "m");
    person_sees(&pointer, "only a pid loop has gains that a model could give");
    person_types(&pointer, "q");
    g_autofree char *nothing = NULL;
    assert_int_equal(person_leaves(&pointer, &nothing), 0);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_calls),   cmocka_unit_test(test_figures), cmocka_unit_test(test_by_keys),
        cmocka_unit_test(test_screens), cmocka_unit_test(test_model),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
