/* Files of strangers, and strange calls: text that would run or turn a terminal is shown and does nothing; names that
 * exist are not written over; what cannot be printed is not lost without a word. */
#include "terminal.h"

#include "analysis/figures/gnuplot.h"

#include <glib/gstdio.h>
#include <jansson.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

static const char rig[] =
    "rig quay\ntick 10 ms\nsensor level counts 0..4095, every 50 ms\nactuator pump percent 0..100, rest at 0\n"
    "param deep = 500 counts in 0..4000 counts\non level goes above deep\n    pump 10 %\n"
    "    mark \"up\"\nhookup sim\n    level reads 700: noise 3\n";

static char *make_past(void)
{
    char *folder = make_folder();
    put_file(folder, "quay.rig", rig, -1);
    called c = call_tool(folder, "run quay.rig --fast --for 1s --record past");
    assert_int_equal(c.status, 0);
    call_done(&c);
    return folder;
}

static bool exists(const char *folder, const char *name)
{
    g_autofree char *path = g_build_filename(folder, name, NULL);
    return g_access(path, F_OK) == 0;
}

/* ---- text that wants to be more ------------------------------------------------------------------------ */

/* The recording with a mark and an ending of a stranger's. */
static void poison(const char *folder, const char *text)
{
    g_autofree char *path = g_build_filename(folder, "past.json", NULL);
    json_t *summary = json_load_file(path, 0, NULL);
    json_object_set_new(summary, "ending", json_string(text));
    assert_int_equal(json_dump_file(summary, path, 0), 0);
    json_decref(summary);
    json_t *mark = json_pack("{s:f, s:s, s:s, s:s}", "t", 0.4, "event", "mark", "of", text, "says", text);
    g_autofree char *line = json_dumps(mark, JSON_COMPACT);
    put_file(folder, "past.events.jsonl", line, -1);
    json_decref(mark);
}

static const char *const poisons[] = {
    "a\nset print 'taken'\nprint 'x'\n",
    "a'\nsystem 'touch taken'\n#",
    "a\"; system(\"touch taken\"); \"",
    "`touch taken`",
    "$(touch taken)",
    "a' noenhanced; !touch taken\n!touch taken\n",
    "@taken",
    "a\r!touch taken\r",
    "EOD\n!touch taken\n",
    "\\\n!touch taken\n",
    "{/Symbol a}_b^c %s %n",
    "'",
    "''",
    "\"",
    "\\",
    "\x1b]0;owned\x07\x1b[2J",
    "\xc2\x9b"
    "2J",
    "\xe2\x80\xae"
    "txt.exe\xe2\x81\xa6",
    "\xe2\x80\xa8!touch taken\xe2\x80\xa9",
};

static void test_text_is_data(void **unused)
{
    (void)unused;
    char *folder = make_past();
    for (size_t i = 0; i < G_N_ELEMENTS(poisons); i++) {
        poison(folder, poisons[i]);
        static const char *const calls[] = {"plot past -o past.png", "plot past -o past.svg", "list past"};
        for (size_t k = 0; k < G_N_ELEMENTS(calls); k++) {
            called c = call_tool(folder, calls[k]);
            if (c.status != 0 || exists(folder, "taken")) {
                fail_msg("'%s' with '%s' ended with %d: %s", calls[k], poisons[i], c.status, c.err);
            }
            for (const char *at = c.out; *at; at = g_utf8_next_char(at)) {
                const gunichar letter = g_utf8_get_char(at);
                assert_true(letter == '\n' || (letter >= 0x20 && letter != 0x7f && (letter < 0x80 || letter >= 0xa0)));
                assert_true(letter < 0x202a || letter > 0x202e);
            }
            call_done(&c);
        }
    }
    remove_folder(folder);
}

/* Whatever bytes a text has, gnuplot reads one string and nothing else: it prints it, and then what comes behind. */
static void test_text_is_data_by_chance(void **unused)
{
    (void)unused;
    static const char spice[] = "'\"`\\\n\r\t$@!#;%{}()[]|&<> ax0\x01\x1b\x7f\xc2\x85\xe2\x80\xa8";
    g_autoptr(GString) script = g_string_new("set print '-'\n");
    g_autoptr(GRand) chance = g_rand_new_with_seed(4);
    const guint texts = 4000;
    for (guint i = 0; i < texts; i++) {
        char text[24] = {0};
        const gint length = g_rand_int_range(chance, 0, 23);
        for (gint k = 0; k < length; k++) {
            text[k] = spice[g_rand_int_range(chance, 0, sizeof spice - 1)];
        }
        g_string_append(script, "print 'text'; got = ");
        gnuplot_quote(script, text);
        g_string_append_c(script, '\n');
    }
    char *folder = make_folder();
    put_file(folder, "script", script->str, (gssize)script->len);
    g_autofree char *out = NULL, *err = NULL;
    const char *argv[] = {"gnuplot", "-d", "script", NULL};
    gint status = 0;
    assert_true(g_spawn_sync(folder, (char **)argv, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL, &out, &err, &status, NULL));
    if (status != 0 || *err) {
        fail_msg("%s", err);
    }
    guint lines = 0;
    for (const char *at = out; g_str_has_prefix(at, "text\n"); at += strlen("text\n")) {
        lines++;
    }
    assert_int_equal(lines, texts);
    g_autoptr(GPtrArray) names = list_files(folder, "");
    assert_int_equal(names->len, 1);
    remove_folder(folder);
}

/* A name that would be no file but an order. */
static void test_names_are_data(void **unused)
{
    (void)unused;
    char *folder = make_past();
    called c = call_tool(folder, "plot past -o \"x'\n!touch taken\n.png\"");
    assert_int_equal(c.status, 0);
    assert_false(exists(folder, "taken"));
    assert_true(exists(folder, "x'\n!touch taken\n.png"));
    call_done(&c);
    c = call_tool(folder, "check \"no\x1b[2J.rig\"");
    assert_null(strchr(c.err, '\x1b'));
    call_done(&c);
    put_file(folder, "esc.rig",
             "rig a\ntick 20 ms\nsensor s\xc2\x9b"
             " counts 0..9\non start\n    mark \"a\xc2\x9b"
             "[b\x1b\"\n",
             -1);
    c = call_tool(folder, "check esc.rig");
    assert_says(c.err, "this name holds a character that cannot be shown");
    assert_null(strchr(c.err, '\x1b'));
    assert_null(strstr(c.err, "\xc2\x9b"));
    call_done(&c);
    remove_folder(folder);
}

/* ---- names that exist ---------------------------------------------------------------------------------- */

static void test_nothing_is_written_over(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"run quay.rig --fast --for 1s --record past", 2, "past.csv is there already"},
        {"run quay.rig --fast --for 1s --record past.csv", 2, "past.csv is there already"},
        {"run plays.rig --fast --for 1s --record past --overwrite", 2, "is what the rig plays"},
        {"run quay.rig --fast --for 1s --record ''", 2, "names no recording"},
        {"run quay.rig --fast --for 1s --record new/", 2, "names no recording"},
        {"run quay.rig --fast --for 1s --record -", 2, "names no recording"},
        {"run quay.rig --fast --for 1s --overwrite", 2, "--overwrite goes with --record"},
        {"run quay.rig --fast --for 1s --record notes", 2, "notes.json is there already"},
        {"run quay.rig --fast --for 1s --record past --overwrite --set deep=1m", 2, "units do not go together"},
        {"check pipe", 2, "is a pipe, and no plain file"},
        {"run pipes.rig --fast --for 1s", 2, "is a pipe, and no plain file"},
    };
    char *folder = make_past();
    g_autofree char *pipe = g_build_filename(folder, "pipe", NULL);
    assert_int_equal(mkfifo(pipe, 0600), 0);
    put_file(folder, "notes.json", "{}", -1);
    put_file(
        folder, "plays.rig",
        "rig p\ntick 10 ms\nsensor level counts 0..4095\nhookup sim\n    level plays \"past.csv\" \"level [counts]\"\n",
        -1);
    put_file(folder, "pipes.rig", "rig p\ntick 10 ms\nsensor s counts 0..9\nhookup sim\n    s plays \"pipe\"\n", -1);
    g_autofree char *before = get_file(folder, "past.csv");
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    g_autofree char *after = get_file(folder, "past.csv");
    assert_string_equal(before, after);
    assert_false(exists(folder, "notes.csv"));
    remove_folder(folder);
}

/* Written over on request: what a killed run left is cleared away, the old one stands until a row is out. */
static void test_overwriting(void **unused)
{
    (void)unused;
    char *folder = make_past();
    put_file(folder, "past.csv.tmp-999999", "left", -1);
    put_file(folder, "past.csv.tmp-1", "of a process that lives", -1);
    called c = call_tool(folder, "run quay.rig --fast --for 2s --record past --overwrite");
    assert_int_equal(c.status, 0);
    call_done(&c);
    c = call_tool(folder, "list past");
    assert_says(c.out, "2 s, 200 rows");
    call_done(&c);
    assert_false(exists(folder, "past.csv.tmp-999999"));
    assert_true(exists(folder, "past.csv.tmp-1"));
    remove_folder(folder);
}

/* A key takes the next free name, and says so. */
static void test_a_key_takes_a_free_name(void **unused)
{
    (void)unused;
    char *folder = make_past();
    person p = person_watch(folder, "watch quay.rig", 24, 100);
    person_sees(&p, "live ");
    person_types(&p, "rpast\r");
    person_sees(&p, "recording past-2, since there is a recording past already");
    person_looks_on(&p, 300);
    person_types(&p, "r");
    person_sees(&p, "recorded past-2");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    assert_true(exists(folder, "past-2.json"));
    remove_folder(folder);
}

/* ---- streams and locales ------------------------------------------------------------------------------- */

static int call_shell(const char *folder, const char *line, char **err)
{
    const char *argv[] = {"sh", "-c", line, NULL};
    gint status = 0;
    assert_true(g_spawn_sync(folder, (char **)argv, NULL, G_SPAWN_SEARCH_PATH, NULL, NULL, NULL, err, &status, NULL));
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}

/* Output that cannot be printed is told, by status and, where anybody could still read it, in words. */
static void test_lost_output(void **unused)
{
    (void)unused;
    static const char *const calls[] = {"check quay.rig",
                                        "list past",
                                        "inspect quay.rig --fast --for 1s",
                                        "divider 1kohm 10kohm",
                                        "--help",
                                        "list --help",
                                        "run quay.rig --fast --for 10s",
                                        "jog quay.rig pump --to 5% --fast",
                                        "calibrate quay.rig pump --unit ml --trial 1s=2 --trial 2s=4 --dry-run",
                                        "plot past -o ignored.png"};
    char *folder = make_past();
    for (size_t i = 0; i < G_N_ELEMENTS(calls); i++) {
        g_autofree char *full = g_strconcat(RIGPULSE_TOOL " ", calls[i], " >/dev/full", NULL), *says = NULL;
        g_autofree char *closed = g_strconcat(RIGPULSE_TOOL " ", calls[i], " >&-", NULL), *also = NULL;
        g_autofree char *piped = g_strconcat("(sleep 0.3; " RIGPULSE_TOOL " ", calls[i], "; echo $? >&2) | true", NULL);
        g_autofree char *told = NULL;
        if (call_shell(folder, full, &says) != 1 || !strstr(says, "standard output cannot be written") ||
            call_shell(folder, closed, &also) != 1 || !strstr(also, "standard output cannot be written")) {
            fail_msg("%s: %s%s", calls[i], says, also);
        }
        call_shell(folder, piped, &told);
        assert_string_equal(told, "1\n"); /* nobody reads: nothing is to be said */
    }
    remove_folder(folder);
}

/* Options are UTF-8, whatever the locale says. */
static void test_letters_of_units(void **unused)
{
    (void)unused;
    static const char *const locales[] = {"C", "POSIX", "C.UTF-8", "nowhere_NO.latin1"};
    char *folder = make_past();
    for (size_t i = 0; i < G_N_ELEMENTS(locales); i++) {
        g_autofree char *err = NULL, *more = NULL;
        g_autofree char *divider =
            g_strconcat("LC_ALL=", locales[i], " " RIGPULSE_TOOL " divider '1 kΩ' '100 kΩ' >/dev/null", NULL);
        g_autofree char *refused =
            g_strconcat("LC_ALL=", locales[i], " " RIGPULSE_TOOL " run quay.rig --fast --for '5 µ°'", NULL);
        assert_int_equal(call_shell(folder, divider, &err), 0);
        assert_int_equal(call_shell(folder, refused, &more), 2);
        assert_says(more, "--for 5 µ°: ");
    }
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_text_is_data),   cmocka_unit_test(test_text_is_data_by_chance),
        cmocka_unit_test(test_names_are_data), cmocka_unit_test(test_nothing_is_written_over),
        cmocka_unit_test(test_overwriting),    cmocka_unit_test(test_a_key_takes_a_free_name),
        cmocka_unit_test(test_lost_output),    cmocka_unit_test(test_letters_of_units),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
