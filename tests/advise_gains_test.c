/* Examples with one number of their loop turned, or with a setpoint that goes up and down: what an engineer would say
 * of each is said first, whatever moves it from outside. */
#include "support.h"

typedef struct turned {
    const char *file, *piece, *by, *length, *says[2]; /* the second: NULL, where one is enough */
} turned;

static const turned all[] = {
    {"boiler", "kp 25 ", "kp 80 ", "1h", {"it swings every 48 s", "--try 'kp 20, ki 0.5"}},
    {"boiler", "kp 25 ", "kp 70 ", "1h", {"by a model of this stretch it all but swings on", "--try 'kp 35, ki 0.3'"}},
    {"boiler", "kp 25 ", "kp 8 ", "1h", {"too much I", "it swings every 173 s"}},
    {"boiler", "ki 0.6 ", "ki 3 ", "1h", {"too much I"}},
    {"boiler", "ki 0.6 ", "ki 6 ", "20min", {"too much I", "--try 'ki 2.4'"}},
    {"boiler", "ki 0.6 ", "ki 1000 ", "1h", {"sure too much I"}},
    {"boiler", "kp 25 %/K, ki 0.6 ", "kp 70 %/K, ki 0.02 ", "1h", {"too little I"}},
    {"boiler", "kp 25 %/K, ki 0.6 ", "kp 10 %/K, ki 0.001 ", "1h", {"sure too little I", "--try 'ki 0.04"}},
    {"boiler", "ki 0.6 ", "ki 0 ", "1h", {"sure too little I: it stays off by 1.5 K, and has no integral"}},
    {"mast", "kp 60,", "kp 2,", "1min", {"sure too little P: it goes off to the end", "--try 'kp 4'"}},
    {"boiler_predict", "dead 12 s", "dead 12 s", "1h", {"sure healthy"}},
    {"boiler_predict", "dead 12 s", "dead 25 s", "1h", {"the dead time is 9.7 s, not 25 s"}},
    {"ferry", "kp 1,", "kp 4,", "2min", {"sure swings from outside: it swings every 6 s"}},
    {"ferry", "ki 14 ", "ki 2 ", "2min", {"sure swings from outside", "a quicker loop leaves less of it"}},
    {"ferry", "kd 0.02,", "kd 0.2,", "2min", {"sure swings from outside"}},
    {"pointer_pid", "kp 1.8", "kp 1.8", "10min", {"sure swings from outside: it swings every 24 s"}},
    {"pointer_pid", "kp 1.8", "kp 1.8", "90s", {"sure swings from outside", "--try 'kp 2.16, ki 14.4'"}},
    {"pointer_pid", "ki 12 ", "ki 1 ", "90s", {"sure swings from outside", "a quicker loop leaves less of it"}},
    {"pointer_pid", "ki 12 ", "ki 0 ", "10min", {"sure swings from outside", "--try 'kp 2.16'"}},
    {"ferry", "ki 14 ", "ki 50 ", "1min", {"sure swings from outside", "a quicker loop leaves less of it"}},
    {"mast", "kp 60", "kp 10", "1min", {"sure healthy"}},
    {"mast", "kd 5", "kd 0", "1min", {"sure D missing"}},
};

/* Two setpoints by turns, each for so long. */
typedef struct stepping {
    turned is;
    const char *up, *down, *time;
} stepping;

static const stepping up_and_down[] = {
    {{"pointer_pid", "swing 40", "swing 0", "3min", {"healthy: it ends within 0.27 deg"}},
     "course 30 deg",
     "course -10 deg",
     "8 s"},
    {{"boiler", "kp 25 ", "kp 25 ", "2h", {"sure healthy: it ends within 0.013 K"}},
     "target 95 °C",
     "target 90 °C",
     "8 min"},
    {{"boiler", "kp 25 ", "kp 100 ", "2h", {"it swings every 4"}}, "target 95 °C", "target 90 °C", "8 min"},
};

static void check(const char *folder, const turned *t, const char *sequence)
{
    g_autofree char *name = g_strconcat(t->file, ".rig", NULL), *is = get_file(RIGPULSE_SOURCE "/examples", name),
                    *changed = replaced(is, t->piece, t->by), *loop = g_strconcat(sequence, "\nloop ", NULL),
                    *other = replaced(changed, "\nloop ", loop),
                    *run = g_strdup_printf("run turned.rig --for %s --fast --record turned --quiet", t->length);
    put_file(folder, "turned.rig", other, -1);
    const call_case first = {run, 0, ""};
    check_calls(folder, &first, 1);
    called c = call_tool(folder, "advise turned");
    assert_int_equal(c.status, 0);
    for (size_t i = 0; i < G_N_ELEMENTS(t->says) && t->says[i]; i++) {
        assert_says(c.out, t->says[i]);
    }
    call_done(&c);
}

static void test_turned_at_length(void **unused)
{
    (void)unused;
    for (size_t i = 0; i < G_N_ELEMENTS(all); i++) {
        char *folder = make_folder();
        check(folder, &all[i], "");
        remove_folder(folder);
    }
}

static void test_up_and_down_at_length(void **unused)
{
    (void)unused;
    for (size_t i = 0; i < G_N_ELEMENTS(up_and_down); i++) {
        const stepping *s = &up_and_down[i];
        g_autofree char *sequence =
            g_strdup_printf("\nsequence by_turns\n    cycle\n        %s\n        dwell %s\n        %s\n        "
                            "dwell %s\non start\n    begin by_turns\n",
                            s->up, s->time, s->down, s->time);
        char *folder = make_folder();
        check(folder, &s->is, sequence);
        remove_folder(folder);
    }
}

/* Gains that `suggest` gives are good ones, gentle or quick: the advice behind their tests leaves them so. */
static void test_suggested_at_length(void **unused)
{
    (void)unused;
    static const char *const wants[] = {"gentle", "calm", "steady", "quick"};
    char *folder = make_folder();
    g_autofree char *is = get_file(RIGPULSE_SOURCE "/examples/poor", "boiler.rig");
    for (size_t i = 0; i < G_N_ELEMENTS(wants); i++) {
        put_file(folder, "b.rig", is, -1);
        g_autofree char *suggest =
            g_strdup_printf("suggest b.rig steam --at 40%% --size 20%% --each 5min --fast --write --want %s", wants[i]);
        const call_case calls[] = {{suggest, 0, "b.rig is written"},
                                   {"tune b.rig steam --disturb --over 400s", 0, "try 1: sure healthy"},
                                   {"tune b.rig steam --step 2K --over 800s", 0, "try 1: sure healthy"},
                                   {"tune b.rig steam --disturb", 0, "left at the end, and on their way"}};
        check_calls(folder, calls, G_N_ELEMENTS(calls));
    }
    remove_folder(folder);
}

/* A loop that two fifths more gain would have swing on gets calmer gains, also where they cost something. */
static void test_near_swinging_at_length(void **unused)
{
    (void)unused;
    static const call_case calls[] = {
        {"tune boiler.rig steam --disturb --over 600s --try 'kp 50, ki 0.5'", 0,
         "which is near; next: --try 'kp 25, ki 0.25'"},
        {"tune boiler.rig steam --disturb --over 600s --try 'kp 50, ki 0.5, kd 251, filter 0.6 s'", 0,
         "which is near; next: --try 'kp 25, kd 126'"}};
    check_calls(RIGPULSE_SOURCE "/examples/poor", calls, G_N_ELEMENTS(calls));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_turned_at_length), cmocka_unit_test(test_up_and_down_at_length),
        cmocka_unit_test(test_suggested_at_length), cmocka_unit_test(test_near_swinging_at_length)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
