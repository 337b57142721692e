/* Thresholds taken live: each catch of readings that are known, what is refused, what is taken back, what is kept
 * however a session ends; by scripts, and typed at a terminal. */
#include "support.h"

#include "terminal.h"

#include <string.h>

/* ---- readings that are known -------------------------------------------------------------------------- */

static const char watched[] = "rig pit\ntick 20 ms\nsensor knock counts 0..4095, every 20 ms\n"
                              "hookup sim\n    knock plays \"in.csv\"\n";
static const char ruled[] = "rig pit\ntick 20 ms\nsensor knock counts 0..4095, every 20 ms\n"
                            "actuator lamp switch, rest at off\n"
                            "on knock goes above 1200 counts\n    lamp on for 1 s\n"
                            "hookup sim\n    knock plays \"in.csv\"\n";

/* A stretch of the readings, and its level; 0: no reading comes. */
typedef struct piece {
    double from, to;
    int level;
} piece;

static const piece pieces[] = {
    {5.0, 5.3, 900},                      /* an event of 15 readings */
    {6.0, 6.02, 700},                     /* of one */
    {7.0, 19.0, 1000},                    /* too long */
    {21.0, 21.2, 800}, {21.08, 21.1, 0},  /* not to be read in its middle */
    {24.0, 24.2, 100},                    /* the other way */
    {27.0, 27.1, 820}, {27.3, 27.4, 820}, /* back for less than half a second: one event */
};

static int level_at(double t)
{
    int level = -1;
    for (size_t i = 0; i < G_N_ELEMENTS(pieces); i++) {
        level = t > pieces[i].from - 1e-9 && t < pieces[i].to - 1e-9 ? pieces[i].level : level;
    }
    return level;
}

/* Idle time is 497 to 503 counts; each step is 2 or 5 of them. */
static char *make_pit(void)
{
    char *folder = make_folder();
    g_autoptr(GString) csv = g_string_new("t,knock\n");
    for (int i = 0; i < 40 * 50; i++) {
        const int level = level_at(i / 50.0);
        if (level == 0) {
            g_string_append_printf(csv, "%.2f,\n", i / 50.0);
        } else {
            g_string_append_printf(csv, "%.2f,%d\n", i / 50.0, level < 0 ? 497 + i * 5 % 7 : level);
        }
    }
    put_file(folder, "in.csv", csv->str, -1);
    put_file(folder, "watched.rig", watched, -1);
    put_file(folder, "ruled.rig", ruled, -1);
    return folder;
}

#define LIVE " knock --live --fast --bare --overwrite --record run --script "

typedef struct script_case {
    const char *rig, *script;
    int status;
    const char *out, *err; /* pieces of what is shown, in their order, parted by '|' */
    const char *marks;     /* all that 'mark run' lists, without blanks */
} script_case;

static const script_case scripts[] = {
    /* Each catch, on both sides of a value that no rule holds against a limit. */
    {"watched.rig", "idle 4s\nevent 20 within 34s\nquit\n", 0,
     "nothing is to happen for 4 s|idle for 4 s: usually 500 counts, caught is what goes above 50|or below 49|"
     "make it happen 20 times|event 1: up to 900 counts, for 280 ms, at 5.00 s\n|"
     "event 2: up to 700 counts, in one reading, at 6.00 s\n|refused: it has been beyond for 10 s|"
     "refused: it could not be read at 21.08 s\n|event 3: down to 100 counts, for 180 ms, at 24.00 s\n|"
     "event 4: up to 820 counts, for 380 ms, at 27.00 s\n|16 more were to come within that time|"
     "recorded run.csv, .events.jsonl and .json, and its marks",
     "",
     "10.000..4.000sstretch'idle'24.800..5.480sstretch'event'35.800..6.200sstretch'event'"
     "423.800..24.380sstretch'event'526.800..27.580sstretch'event'"},
    /* A rule says on which side. */
    {"ruled.rig", "idle 4s\nevent 4 within 34s\nquit\n", 0,
     "usually 500 counts, caught is what goes above 50|event 2: up to 700|event 3: up to 820|1 more was to come", "",
     "10.000..4.000sstretch'idle'24.800..5.480sstretch'event'35.800..6.200sstretch'event'"
     "426.800..27.580sstretch'event'"},
    /* Taken back, and added by a word; no stretch reaches into another. */
    {"watched.rig", "idle 4s\nevent 1\nback\nnow\nnow\n", 2,
     "event 1: up to 900 counts|event at 4.80 s is taken back|event 1: at 4.|by your word|"
     "all that has been so far is counted already|recorded run.csv, .events.jsonl and .json, and its marks",
     "line 5 of the script: 'now' could not be done", "10.000..4.000sstretch'idle'24.8"},
    {"watched.rig", "idle 4.9s\nevent 1\nlist\nquit\n", 0, "event 1: up to 900 counts|idle|0.000 ..|event|4.9", "",
     "10.000..4.960sstretch'idle'24.960..5.480sstretch'event'"},
    /* Idle time anew: the limits are those of the last one. */
    {"watched.rig", "idle 7.5s\nback\nidle 3s\nquit\n", 0,
     "idle for 7.5|idle at 0.00 s is taken back|idle for 3|usually 1000 counts, caught is what goes above 1000 "
     "counts or below 1000 counts",
     "", "17.520..10.560sstretch'idle'"},
    /* Too little, and nothing of it. */
    {"watched.rig", "idle 1s\n", 2,
     "too few readings for idle time; take it anew, and for longer|there has to be idle time, and an event at least|"
     "recorded run.csv, .events.jsonl and .json\n",
     "", "nomarks"},
    {"watched.rig", "idle 4s\ndone\n", 2, "there has to be idle time, and an event at least",
     "line 2 of the script: 'done' could not be done", "10.000..4.000sstretch'idle'"},
    {"watched.rig", "quit\n", 0, "nothing was recorded", "", NULL},
    {"watched.rig", "event 3\n", 2, "idle time comes first: 'idle 2min'", "line 1 of the script: 'event 3'", NULL},
    {"watched.rig", "back\n", 2, "there is nothing to take back", "line 1 of the script: 'back'", NULL},
    /* Behind the end of the readings nothing can be read; all that was taken is kept. */
    {"watched.rig", "idle 4s\nevent 2\nwait 1min\nquit\n", 0, "event 2: up to 700", "",
     "10.000..4.000sstretch'idle'24.800..5.480sstretch'event'35.800..6.200sstretch'event'"},
    /* A wrong word each. */
    {"watched.rig", "# nothing\n\n  evnt 3 # three\n", 2, "'evnt' is no order; did you mean 'event'?",
     "line 3 of the script: ", NULL},
    {"watched.rig", "furlong\n", 2, "'furlong' is no order; 'help' lists them", "line 1 of the script", NULL},
    {"watched.rig", "idle\n", 2, "for how long? as in 'idle 2min'", "'idle' could not be done", NULL},
    {"watched.rig", "idle 0s\n", 2, "'0s': it is to be above 0; a time is meant, as in 2min or 90s", "", NULL},
    {"watched.rig", "idle 20\n", 2, "'20': it needs a unit; a time is meant", "", NULL},
    {"watched.rig", "wait 3 furlongs\n", 2, "'3 furlongs': this unit is not known; a time is meant", "", NULL},
    {"watched.rig", "idle 4s\nevent none\n", 2, "how many? as in 'event 20', or 'event 20 within 10min'", "", NULL},
    {"watched.rig", "idle 4s\nevent 0\n", 2, "how many?", "", NULL},
    {"watched.rig", "idle 4s\nevent 1 within noon\n", 2, "a time is meant", "", NULL},
    {"watched.rig", "help\nquit\n", 0, "idle TIME|event NUMBER|wait TIME|now|back|list|done|quit|help", "", NULL},
};

static void assert_in_order(const char *text, const char *wanted)
{
    g_auto(GStrv) part = g_strsplit(wanted, "|", -1);
    const char *at = text;
    for (char **one = part; *one; one++) {
        const char *found = strstr(at, *one);
        if (!found) {
            fail_msg("'%s' is to be, behind what comes before it, in: %s", *one, text);
        }
        at = found ? found + strlen(*one) : at;
    }
}

static void check_marks(const char *folder, const char *name, const char *wanted)
{
    g_autofree char *call = g_strdup_printf("mark %s", name);
    called c = call_tool(folder, call);
    g_autoptr(GString) bare = g_string_new(c.out);
    g_string_replace(bare, " ", "", 0);
    g_string_replace(bare, "\n", "", 0);
    assert_int_equal(c.status, 0);
    assert_says(bare->str, wanted);
    call_done(&c);
}

static void test_scripts(void **unused)
{
    (void)unused;
    char *folder = make_pit();
    for (size_t i = 0; i < G_N_ELEMENTS(scripts); i++) {
        const script_case *is = &scripts[i];
        g_autofree char *call = g_strconcat("threshold ", is->rig, LIVE "orders", NULL);
        put_file(folder, "orders", is->script, -1);
        called c = call_tool(folder, call);
        if (c.status != is->status) {
            fail_msg("'%s' ended with %d: %s%s", is->script, c.status, c.out, c.err);
        }
        assert_in_order(c.out, is->out);
        assert_in_order(c.err, is->err);
        if (is->marks) {
            check_marks(folder, "run", is->marks);
        }
        call_done(&c);
    }
    remove_folder(folder);
}

/* A name of the user's own for both kinds of stretches, and a value that has none. */
static void test_names(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"threshold watched.rig" LIVE "orders --idle calm --event hull", 2, "no two blocks of 10 s fit into 'calm'"},
        {"mark run", 0, "stretch 'calm'"},
        {"threshold watched.rig 'knock + 1'" LIVE "orders", 2, "there is no value"},
        {"threshold unnamed.rig 'line 5'"
         " --live --fast --script orders",
         2, "put 'signal it = "},
    };
    char *folder = make_pit();
    g_autoptr(GString) unnamed = g_string_new(ruled);
    g_string_replace(unnamed, "on knock goes", "on knock | smooth 1 s goes", 1);
    put_file(folder, "unnamed.rig", unnamed->str, -1);
    put_file(folder, "orders", "idle 4s\nevent 2\n", -1);
    check_calls(folder, cases, 2);
    check_calls(folder, cases + 3, 1);
    called c = call_tool(folder, "mark run");
    assert_in_order(c.out, "stretch 'calm'|stretch 'hull'|stretch 'hull'");
    call_done(&c);
    remove_folder(folder);
}

/* ---- at a terminal ------------------------------------------------------------------------------------ */

#define TYPED "threshold watched.rig knock --live --bare --overwrite --record "

/* Typed, with a typing error, and something taken back: the same recording as by a script. */
static void test_typed(void **unused)
{
    (void)unused;
    char *folder = make_pit(), *left;
    person p = person_call(folder, TYPED "typed");
    person_waits(&p, "'knock' is looked at, and nothing is driven");
    person_waits(&p, "done             goes on to the threshold");
    person_types(&p, "idle 2.5s\n");
    person_waits(&p, "nothing is to happen for 2.5 s");
    person_waits(&p, "idle for another ");
    person_waits(&p, "usually 500 counts");
    person_types(&p, "evnt 2\n");
    person_waits(&p, "did you mean 'event'?");
    person_types(&p, "event 2 within 20s\n");
    person_waits(&p, "event 1: up to 900 counts");
    person_waits(&p, "1 more");
    person_waits(&p, "event 2: up to 700 counts, in one reading");
    person_types(&p, "back\n");
    person_waits(&p, "event at 5.8");
    person_types(&p, "done\n");
    assert_int_equal(person_leaves(&p, &left), 2);
    assert_in_order(left, "recorded typed.csv, .events.jsonl and .json, and its marks|no two blocks of 10 s fit");
    g_free(left);
    called c = call_tool(folder, "mark typed");
    assert_in_order(c.out, "stretch 'idle'|2 |4.800 ..      5.480 s  stretch 'event'\n");
    assert_null(strstr(c.out, "   3 "));
    call_done(&c);
    remove_folder(folder);
}

/* Ended by Ctrl-C in each phase, and by the end of typing: all that was taken is there. */
static void test_ended(void **unused)
{
    (void)unused;
    static const struct {
        const char *orders, *seen, *keys, *says, *marks;
    } cases[] = {
        {"wait 1min\n", " counts", "\003", "interrupted; recorded ended.csv", "nomarks"},
        {"idle 1min\n", "idle for another", "\003", "interrupted; recorded ended.csv", "nomarks"},
        {"idle 2.5s\n", "usually 500 counts", "\003", "interrupted; recorded ended.csv", "stretch'idle'"},
        {"idle 2.5s\n", "usually 500 counts", "\004", "recorded ended.csv", "stretch'idle'"},
    };
    char *folder = make_pit(), *left;
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        person p = person_call(folder, TYPED "ended");
        person_waits(&p, "is looked at");
        person_types(&p, cases[i].orders);
        person_waits(&p, cases[i].seen);
        person_types(&p, cases[i].keys);
        assert_int_equal(person_leaves(&p, &left), 0);
        assert_says(left, cases[i].says);
        g_free(left);
        check_marks(folder, "ended", cases[i].marks);
    }
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_scripts),
        cmocka_unit_test(test_names),
        cmocka_unit_test(test_typed),
        cmocka_unit_test(test_ended),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
