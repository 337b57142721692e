/* Examples with one number of their loop turned: what an engineer would say of each is said first, whatever moves it
 * from outside. */
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

static void check(const char *folder, const turned *t)
{
    g_autofree char *name = g_strconcat(t->file, ".rig", NULL), *is = get_file(RIGPULSE_SOURCE "/examples", name),
                    *other = replaced(is, t->piece, t->by),
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
        check(folder, &all[i]);
        remove_folder(folder);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_turned)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
