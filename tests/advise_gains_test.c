/* Examples with one number of their loop turned, or with a setpoint that goes up and down: what an engineer would say
 * of each is said first, whatever moves it from outside. */
#include "support.h"

typedef struct turned {
    const char *file, *piece, *by, *length, *says;
} turned;

static const turned all[] = {
    {"boiler", "kp 25 ", "kp 80 ", "1h", "D missing"},
    {"boiler", "kp 25 ", "kp 80 ", "1h", "it swings every 48 s"},
    {"boiler", "kp 25 ", "kp 8 ", "1h", "too much I"},
    {"boiler", "kp 25 ", "kp 8 ", "1h", "it swings every 173 s"},
    {"boiler", "ki 0.6 ", "ki 3 ", "1h", "too much I"},
    {"boiler", "ki 0.6 ", "ki 0 ", "1h", "sure too little I: it stays off by 1.5 K, and has no integral"},
    {"boiler_predict", "dead 12 s", "dead 12 s", "1h", "sure healthy"},
    {"boiler_predict", "dead 12 s", "dead 25 s", "1h", "the dead time is 9.7 s, not 25 s"},
    {"ferry", "kp 1,", "kp 4,", "2min", "sure swings from outside: it swings every 6 s"},
    {"ferry", "ki 14 ", "ki 2 ", "2min", "sure swings from outside"},
    {"ferry", "kd 0.02,", "kd 0.2,", "2min", "sure swings from outside"},
    {"ferry", "ki 14 ", "ki 2 ", "2min", "a quicker loop leaves less of it"},
    {"pointer_pid", "kp 1.8", "kp 1.8", "10min", "sure swings from outside: it swings every 24 s"},
    {"mast", "kp 60", "kp 10", "1min", "sure healthy"},
    {"mast", "kd 5", "kd 0", "1min", "sure D missing"},
};

/* Two setpoints by turns, each for so long. */
typedef struct stepping {
    turned is;
    const char *up, *down, *time;
} stepping;

static const stepping up_and_down[] = {
    {{"pointer_pid", "swing 40", "swing 0", "3min", "sure healthy: it ends within 0.27 deg"},
     "course 30 deg",
     "course -10 deg",
     "8 s"},
    {{"boiler", "kp 25 ", "kp 25 ", "2h", "sure healthy: it ends within 0.013 K"},
     "target 95 °C",
     "target 90 °C",
     "8 min"},
    {{"boiler", "kp 25 ", "kp 100 ", "2h", "it swings every 4"}, "target 95 °C", "target 90 °C", "8 min"},
};

static void check(const char *folder, const turned *t, const char *sequence)
{
    g_autofree char *name = g_strconcat(t->file, ".rig", NULL), *is = get_file(RIGPULSE_SOURCE "/examples", name),
                    *changed = replaced(is, t->piece, t->by), *loop = g_strconcat(sequence, "\nloop ", NULL),
                    *other = replaced(changed, "\nloop ", loop),
                    *run = g_strdup_printf("run turned.rig --for %s --fast --record turned --quiet", t->length);
    put_file(folder, "turned.rig", other, -1);
    const call_case calls[] = {{run, 0, ""}, {"advise turned", 0, t->says}};
    check_calls(folder, calls, G_N_ELEMENTS(calls));
}

static void test_turned(void **unused)
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

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_turned), cmocka_unit_test(test_up_and_down_at_length)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
