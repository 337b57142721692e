/* The tool as a user calls it: what it prints, what it leaves on the disk, how it ends. */
#include "support.h"

#include "runtime/recording.h"

#include <jansson.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#define BASIN RIGPULSE_SOURCE "/examples/basin.rig"

/* Good calls and bad: status, and a piece of what is said (of the error stream when the status is 2). */
static void test_calls(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"", 2, "Usage: rigpulse COMMAND"},
        {"--help", 0, "Usage: rigpulse COMMAND"},
        {"--version", 0, "rigpulse 0."},
        {"chek", 2, "did you mean 'check'?"},
        {"check", 2, "it needs FILE"},
        {"check a b", 2, "'b' is too much"},
        {"demo harbor", 2, "there is no example 'harbor'; there are: basin, vane"},
        {"check " BASIN, 0, "sound, 0 warnings"},
        {"check " BASIN, 0, "timed action; line 17: while tide is low"},
        {"check --json " BASIN, 0, "\"memory_bytes\":"},
        {"words despike", 0, "window: a bare number, 3 to 31"},
        {"words lag", 0, "mechanism: lag NAME: SETTINGS, driven by ACTUATOR"},
        {"words units", 0, "unit: degC, °C"},
        {"words --json goes", 0, "\"form\": \"BANDS goes NAME\""},
        {"words despik", 2, "the language has no word 'despik'; did you mean 'despike'?"},
        {"words if", 2, "the language has no word 'if': write 'while CONDITION'"},
        {"words kohm", 0, "unit: ohm, Ω"},
        {"words ''", 2, "the language has no word ''"},
        {"words smooth table", 2, "'table' is too much"},
        {"words --syntax smooth", 2, "--syntax is of all words"},
        {"words drive", 0, "it drives an actuator by itself"},
        {"check --jsn " BASIN, 2, "did you mean '--json'?"},
        {"check /nowhere.rig", 2, "No such file"},
        {"check /tmp", 2, "is a folder"},
        {"check " RIGPULSE_SOURCE "/tests/corpus/recordings/basin.csv", 2, "csv: 1 error; nothing was run"},
        {"run " RIGPULSE_SOURCE "/tests/corpus/recordings/basin.json", 2, "this is not a rig file"},
        {"run --help", 0, "Example:"},
        {"run --fsat " BASIN, 2, "did you mean '--fast'?"},
        {"run --fast " BASIN, 2, "--fast needs an end"},
        {"run --fast --for 5 " BASIN, 2, "it needs a unit"},
        {"run --fast --for 0s " BASIN, 2, "from 1 us"},
        {"run --fast --for nan " BASIN, 2, "not a number"},
        {"run --fast --for 1s --seed -1 " BASIN, 2, "whole number"},
        {"run --fast --for 1s --set shallow=2m " BASIN, 2, "from 1 to 6 cm"},
        {"run --fast --for 1s --set shalow=2cm " BASIN, 2, "this rig has no parameter 'shalow'; it has shallow"},
        {"run --fast --for 1s --set shallow=2s " BASIN, 2, "units do not go together"},
        {"run --fast --for 1s --record /nowhere/x " BASIN, 2, "cannot write the recording"},
        {"run --fast --for 20s --set shallow=45mm " BASIN, 0, "because tide is low: depth 4.49"},
        {"plot nothing -o x.png", 2, "nothing.json"},
        {"plot nothing", 2, "-o NAME.png"},
        {"plot nothing -o x.gif", 2, "-o NAME.png"},
        {"plot nothing -o x.png --fast", 2, "there is no option '--fast'; there are --output,"},
        {"plot nothing -ox.png -z", 2, "there is no option '-z'"},
        {"plot nothing -o x.png --size 5x5", 2, "1280x800"},
        {"list " BASIN, 2, "No such file"},
    };
    check_calls("/tmp", cases, sizeof cases / sizeof *cases);
}

static void test_bad_rig_is_shown_and_not_run(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "bad.rig", "rig x\ntick 20 ms\nsensor level counts 0..9\nsignal a = levle\n", -1);
    called c = call_tool(folder, "run bad.rig --for 1s --fast");
    assert_int_equal(c.status, 2);
    assert_string_equal(c.out, "");
    assert_string_equal(c.err, "bad.rig:4:12: error: there is no 'levle' in this rig\n"
                               "    signal a = levle\n"
                               "               ^ did you mean 'level'?\n"
                               "bad.rig: 1 error; nothing was run\n");
    call_done(&c);
    c = call_tool(folder, "check --json bad.rig");
    assert_int_equal(c.status, 2);
    assert_string_equal(c.err, "");
    json_t *all = json_loads(c.out, 0, NULL);
    const char *text, *advice, *kind;
    int sound, errors, line, column, length;
    assert_int_equal(json_unpack(all, "{s:b, s:i, s:[{s:i, s:i, s:i, s:s, s:s, s:s}]}", "sound", &sound, "errors",
                                 &errors, "messages", "line", &line, "column", &column, "length", &length, "kind",
                                 &kind, "text", &text, "advice", &advice),
                     0);
    assert_false(sound);
    assert_int_equal(errors, 1);
    assert_int_equal(line * 10000 + column * 100 + length, 41205);
    assert_string_equal(kind, "error");
    assert_string_equal(text, "there is no 'levle' in this rig");
    assert_string_equal(advice, "did you mean 'level'?");
    json_decref(all);
    call_done(&c);
    remove_folder(folder);
}

/* Of the rules of a grammar the one that matches first from `from` on, as an editor takes it; the sorts of its parts go
 * to `told` as "text=sort ". Returns the end of the match; -1: none matches. */
static int next_sorts(const json_t *rules, GPtrArray *compiled, const char *line, int from, GString *told)
{
    g_autoptr(GMatchInfo) first = NULL;
    size_t which = 0;
    int start = G_MAXINT, end = -1, low, high;
    for (size_t i = 0; i < json_array_size(rules); i++) {
        g_autoptr(GMatchInfo) match = NULL;
        g_regex_match_full(compiled->pdata[i], line, -1, from, 0, &match, NULL);
        if (g_match_info_matches(match) && g_match_info_fetch_pos(match, 0, &low, &high) && low < start) {
            start = low;
            end = high;
            which = i;
            g_clear_pointer(&first, g_match_info_unref);
            first = g_steal_pointer(&match);
        }
    }
    const char *part, *sort;
    json_t *captures = json_object_get(json_array_get(rules, which), "captures"), *is;
    json_object_foreach(captures, part, is)
    {
        if (first && json_unpack(is, "{s:s}", "name", &sort) == 0) {
            g_autofree char *text = g_match_info_fetch(first, atoi(part));
            g_autofree char *of = g_strndup(sort, strcspn(sort, "."));
            g_string_append_printf(told, text && *text ? "%s=%s " : "", text, of);
        }
    }
    return end;
}

static char *sorts_of(const json_t *rules, GPtrArray *compiled, const char *line)
{
    GString *told = g_string_new(NULL);
    for (int at = 0; at >= 0 && line[at];) {
        at = next_sorts(rules, compiled, line, at, told);
    }
    return g_string_free(told, FALSE);
}

/* Of every example each line in the first column begins with a statement or a comment. */
static void check_first_words(const json_t *rules, GPtrArray *compiled)
{
    g_autofree char *text = NULL;
    const char *name;
    unsigned lines = 0;
    g_autoptr(GDir) folder = g_dir_open(RIGPULSE_SOURCE "/examples", 0, NULL);
    while ((name = g_dir_read_name(folder))) {
        g_autofree char *path = g_build_filename(RIGPULSE_SOURCE "/examples", name, NULL), *rig = NULL;
        if (!g_str_has_suffix(name, ".rig") || !g_file_get_contents(path, &rig, NULL, NULL)) {
            continue;
        }
        g_auto(GStrv) line = g_strsplit(rig, "\n", -1);
        for (guint i = 0; line[i]; i++) {
            g_autofree char *sorts = sorts_of(rules, compiled, line[i]);
            g_autofree char *wanted = g_strdup_printf("%.*s=keyword ", (int)strcspn(line[i], " "), line[i]);
            if (g_ascii_isalpha(*line[i]) && !g_str_has_prefix(sorts, wanted)) {
                fail_msg("%s:%u is seen as %s", name, i + 1, sorts);
            }
            lines += g_ascii_isalpha(*line[i]);
        }
    }
    assert_true(lines > 100);
}

/* The grammar for editors, used by an implementation of regular expressions that is not ours. */
static void test_syntax_for_editors(void **unused)
{
    (void)unused;
    static const struct {
        const char *line, *sorts;
    } cases[] = {
        {"# on top", "# on top=comment "},
        {"sensor level counts 0..4095  # raw",
         "sensor=keyword level=entity 0=constant ..=keyword 4095=constant # raw=comment "},
        {"signal depth = level | despike 5 | smooth 200 ms",
         "signal=keyword depth=entity |=keyword despike=support 5=constant |=keyword smooth=support 200=constant "
         "ms=support "},
        {"on tide goes above 7.5 cm", "on=keyword goes=keyword above=keyword 7.5=constant cm=support "},
        {"    pid kp 20 %/cm, ki 2", "pid=keyword kp=keyword 20=constant %/cm=support ki=keyword 2=constant "},
        {"    level plays \"a.csv\"", "plays=support \"a.csv\"=string "},
        {"signal upon = one_on", "signal=keyword upon=entity "},
    };
    called c = call_tool("/tmp", "words --syntax");
    json_t *grammar = json_loads(c.out, 0, NULL), *rules = json_object_get(grammar, "patterns");
    assert_int_equal(c.status, 0);
    assert_true(json_array_size(rules) > 5);
    g_autoptr(GPtrArray) compiled = g_ptr_array_new_with_free_func((GDestroyNotify)g_regex_unref);
    for (size_t i = 0; i < json_array_size(rules); i++) {
        GRegex *one = g_regex_new(json_string_value(json_object_get(json_array_get(rules, i), "match")), 0, 0, NULL);
        assert_non_null(one);
        g_ptr_array_add(compiled, one);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_autofree char *sorts = sorts_of(rules, compiled, cases[i].line);
        assert_string_equal(sorts, cases[i].sorts);
    }
    check_first_words(rules, compiled);
    json_decref(grammar);
    call_done(&c);
}

/* `check` looks at the files that a hook-up plays, before anything runs. */
static void test_played_files_are_checked(void **unused)
{
    (void)unused;
    static const char rig[] = "rig x\ntick 20 ms\nsensor s counts 0..99\nbands b = s: low below 9 counts, high\n"
                              "hookup sim\n    s plays \"t.csv\"\n";
    static const struct {
        int status;
        const char *table, *says;
    } cases[] = {
        {2, NULL, "x.rig:6: "},
        {2, "time,v\n0,1\n0.1,abc\n", "row 3: what is to be played is no number"},
        {2, "time,v\n0,1\n0.1,on\n", "row 3: what is to be played is no number: 'on'"},
        {2, "time,v\n0,1\n0.1,3 cm\n", "row 3: what is to be played is no number"},
        {2, "time;v\n0,0;1\n0,1;2\n", "row 1: its columns are divided by ';'"},
        {2, "time,v\n0,1\n0,2\n", "row 3: its time is not behind that of the row before"},
        {2, "time\n0\n1\n", "there is no column beside the first"},
        {2, "0,1\n1,2\n", "row 1: its first row is no header"},
        {2, "time,a,b [V]\n0,1,2\n", "row 1: there is no column 's'; there is: 'a', 'b'\n"},
        {2, "time,level,ss [V],samples\n0,1,2,\n", "row 1: there is no column 's'; there is: 'level', 'ss'\n"},
        {2, "time,v\n1700000000000,1\n", "row 2: its time is beyond 3000 years: is it in seconds?"},
        {2, "time,v\n0,1\n0.1\n0.2,3\n", "row 3: it ends before the column that is to be played"},
        {0, "time,v\n5,1\n6,1\n7,1\n", "t.csv begins at 5 s: before that 's' has no reading"},
        {0, "time,v [V]\n0,1\n1,2\n", "t.csv has its readings in V, 's' is in counts: the numbers are taken"},
        {0, "time,v\n0,1\n1,2\n2,3\n3,4\n", ""}, /* a slope is no noise */
        {0, "time,v\n0,1\n1,8\n2,3\n3,9\n", "x.rig:4:7: warning: 'b' has no margin and 's' has noise"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        char *folder = make_folder();
        put_file(folder, "x.rig", rig, -1);
        if (cases[i].table) {
            put_file(folder, "t.csv", cases[i].table, -1);
        }
        called c = call_tool(folder, "check x.rig");
        const bool told = *cases[i].says ? strstr(c.err, cases[i].says) != NULL : *c.err == '\0';
        if (c.status != cases[i].status || !told || (*c.out != '\0') != (c.status == 0)) {
            fail_msg("case %zu ended with %d: %s%s", i, c.status, c.out, c.err);
        }
        call_done(&c);
        remove_folder(folder);
    }
}

/* Small rigs, good and odd, run from the command line: how they end, and what is said. */
static void test_small_rigs(void **unused)
{
    (void)unused;
    static const struct {
        const char *lines;
        int status;
        const char *says;
    } cases[] = {
        {"hookup sim\n", 0, "done after 1 s: 100 ticks"}, /* nothing in it at all */
        {"", 2, "not hooked up"},
        {"hookup board\n", 2, "there is no port 'board'"},
        {"sensor s counts 0..9\nhookup sim\n", 0, "missing"},
        {"sensor s counts 0..9\nhookup sim\n    s plays \"none.csv\"\n", 2, "none.csv"},
        {"sensor s counts 0..9, fault after 100 ms\nhookup sim\n", 1, "1 fault: what it concerns was left at rest"},
        {"sensor s counts 0..9\nhookup sim\n    s reads 5\n    at 500 ms s drops for 100 ms\n", 0,
         "0.500  > sensor s: missing"},
        {"sensor s counts 0..9\nhookup sim\n    s reads 5\n    at 500 ms s drops for 100 ms\n", 0,
         "0.600  > sensor s: good"},
        {"sensor s counts 0..9\nsignal z = s | zero over 100 ms, spread 1 counts, drift 1 counts\nhookup sim\n    s "
         "reads 5\n",
         0, "z: zero learned, 5 is taken off"},
        {"sensor s counts 0..900\nsignal z = s | zero over 100 ms, spread 9 counts, drift 9 counts\nhookup sim\n"
         "    s reads 500: noise 1, warmup 60 over 800 ms\n",
         0, "0.300  > z: its zero has drifted by -"},
        {"sensor s counts 0..900\nsignal z = s | zero over 100 ms, spread 1 counts, drift 1 counts, tries 2\nhookup "
         "sim\n"
         "    s reads 500: noise 40\n",
         1, "fault: the zero of z could not be learned"},
        {"actuator a switch, rest at on\non start\n    a off\nhookup sim\n", 0,
         "because the rig started (line 4: on start)"},
        {"sensor s counts 0..9\nwhile s above 3 counts\n    mark up\nhookup sim\n    s reads 5\n", 0,
         "0.200  > while s above 3 counts: 'fired' again and again; told in short from here"},
        {"sensor s counts 0..9\nactuator a percent 0..100, rest at 0\nnever a stalled, s moves 2 counts in 100 ms\n"
         "drive a = s * 10 %/counts\nhookup sim\n    s reads 5\n",
         1, "(line 5): a is driven and nothing moves"},
        {"sensor clock s 0..86399\non clock goes above 7 h 30 min\n    mark up\nhookup sim\n"
         "    clock tells 7 h 29 min: pace 120\n",
         0, "0.510  > mark 'up'"},
        {"sensor s counts 0..9\nsignal z = s / 2\non start\n    mark up z\n    mark late s | zero over 1 h, spread 1 "
         "counts, "
         "drift 1 counts\nhookup sim\n    s reads 5\n",
         0, "mark 'up': 2.5 counts, mark 'late': still learning"},
        {"sensor hue names red, green\nhookup sim\n    hue reads 1\n", 0, "green"},
        {"sensor s counts 0..9\non s goes above 5 counts\n    mark up\nhookup sim\n    s plays \"s.csv\"\n", 0,
         "0.500  > mark 'up'"},
    };
    char *folder = make_folder();
    put_file(folder, "s.csv", "t,s\n0,1\n0.5,9\n", -1);
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *text = g_strdup_printf("rig x\ntick 10 ms\n%s", cases[i].lines);
        put_file(folder, "x.rig", text, -1);
        called c = call_tool(folder, "run x.rig --for 1s --fast --record r --overwrite");
        if (c.status != cases[i].status || !strstr(c.status == 2 ? c.err : c.out, cases[i].says)) {
            fail_msg("case %zu ended with %d: %s%s", i, c.status, c.out, c.err);
        }
        call_done(&c);
        if (c.status != 2) {
            c = call_tool(folder, "list r");
            assert_int_equal(c.status, 0);
            assert_says(c.out, "1 s, 100 rows");
            call_done(&c);
        }
    }
    remove_folder(folder);
}

/* A power cycle, a dry run, a bound, and amounts by trial, as a user calls them. */
static void test_trials_and_power_cycles(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    static const char rig[] =
        "rig x\ntick 10 ms\nsensor place mm 0..200\nsensor g switch\n"
        "actuator m percent -100..100, rest at 0, inverted\nactuator a percent 0..100, rest at 0\n"
        "signal n = g | count\nkeep n\ndrive m = g is on\n";
    g_autofree char *text = g_strconcat(rig, "hookup sim\n", NULL);
    put_file(folder, "bad.rig", text, -1);
    put_file(folder, "x.rig",
             "rig x\ntick 10 ms\nsensor place mm 0..200\nsensor g switch\nactuator m percent -100..100, rest at 0, "
             "inverted\nactuator a percent 0..100, rest at 0\nsignal n = g | count\nkeep n\non start\n    m 80 %\n"
             "hookup sim\n    carriage c: driven by m reversed, fastest 40 mm/s, coast 10 ms, travel 150 mm\n"
             "    place sees c place: 0 at 0 mm, 200 at 200 mm\n    g reads 0\n    at 200 ms g pins for 100 ms\n",
             -1);
    put_file(folder, "torn", "not what it was", -1);
    const call_case cases[] = {
        {"check bad.rig", 2, "'m' is driven in percent, but this is a condition"},
        {"run x.rig --for 2s --fast --kept n", 0, "n: nothing kept yet, a clean start"},
        {"run x.rig --for 2s --fast --kept n", 0, "n: 1 kept value taken up"},
        {"run x.rig --for 2s --fast --kept n --record r", 0, "1.0        32       off"}, /* at 80 % of 40 mm/s */
        {"list r", 0, "2 counts to 3 counts"},
        {"run x.rig --for 2s --fast --kept torn", 0, "torn: this is nothing that a rig keeps"},
        {"run x.rig --for 2s --fast --kept /nowhere/n", 2, "--kept: "},
        {"run " RIGPULSE_SOURCE "/examples/basin.rig --for 2s --fast --kept n", 2, "this rig keeps nothing"},
        {"run x.rig --for 2s --fast --dry", 0, "a dry run"},
        {"run x.rig --for 2s --fast --power 25", 0, "nothing is driven further than 25 %"},
        {"run x.rig --for 2s --fast --power 0", 2, "--power 0: "},
        {"run x.rig --for 2s --fast --power 25 --dry", 2, "--dry drives nothing at all"},
        {"plot r --around place -o p.png", 2, "--around needs --along"},
        {"plot r --around nothing --along place -o p.png", 2, "there is no value 'nothing'"},
        {"plot r --around n --along place -o p.png", 2, "'place' is no angle"},
        {"calibrate x.rig a --trial 2s=3", 2, "in which unit"},
        {"calibrate x.rig a --unit ml --trial 2s=30 --trial 5s", 2, "write TIME=AMOUNT"},
        {"calibrate x.rig a --unit ml --trial 2s=30 --trial 2s=30", 2, "at least two trials with different amounts"},
        {"calibrate x.rig n --trial 2s=30", 2, "--trial and --power are for an actuator"},
        {"calibrate x.rig a --point 3", 2, "'a' is an actuator"},
        {"calibrate x.rig a --unit ml --trial 1s=10 --trial 2.5s=40 --trial 1500ms=20", 0,
         "1 ml in 0.05 s, after 0.5 s"},
        {"calibrate x.rig a --trial 1s=812 --trial 3s=2436 --dry-run", 0, "gives 1 ml in 1.232 ms"},
        {"calibrate x.rig a --trial 1s=10 --trial 3s=30", 0, "gives 1 ml in 100 ms after 0 ms"},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    g_autofree char *after = get_file(folder, "x.rig");
    assert_says(after, "rest at 0, gives 1 ml in 100 ms after 0 ms\n");
    called c = call_tool(folder, "run x.rig --for 2s --fast --dry --quiet --record d");
    call_done(&c);
    c = call_tool(folder, "list d");
    assert_says(c.out, "place");
    call_done(&c);
    g_autofree char *dry = get_file(folder, "d.csv");
    assert_null(strstr(dry, ",64,"));
    assert_says(dry, ",80"); /* shown, and not driven */
    remove_folder(folder);
}

/* Every example as `demo` shows it: what to watch for, what happened, a picture. */
static void test_every_demo(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"demo trap -o d", 0, "mark 'a gate stands wrong: too slow by the way"},
        {"demo feeder -o d", 0, "auger is driven and nothing moves"},
        {"demo crossing -o d", 0, "mark 'stuck: look at the bridge'"},
        {"demo buoy -o d", 0, "mark 'calm'"},
        {"demo fender -o d", 0, "mark 'bump'"},
        {"demo quay_eye -o d", 0, "mark 'boat'"},
        {"demo paddles -o d", 0, "mark 'there'"},
        {"demo lookout -o d", 0, "Watch for: the beam is 15 deg wide"},
        {"demo mast -o d", 0, "upright engages"},
        {"demo ferry -o d", 0, "level engages"},
        {"demo lamp -o d", 0, "horn 330 Hz for 0.7 s, 2 times every 1.2 s"},
        {"demo bridge -o d", 0, "never anything while button is on (line 20) keeps"},
        {"plot d/lookout --around distance --along arm --found bearing -o d/around.svg", 0, "d/around.svg"},
        {"list d/crossing", 0, "let_through"},
        {"check d/none.rig", 2, "none.rig"},
    };
    char *folder = make_folder();
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    g_autofree char *picture = get_file(folder, "d/around.svg");
    assert_says(picture, "the last pass");
    assert_says(picture, "bearing: ");
    assert_says(picture, "-60°"); /* the sector that was swept, and no more */
    assert_null(strstr(picture, "90°"));
    remove_folder(folder);
}

static uint32_t count_lines(const char *text, const char *with)
{
    uint32_t count = 0;
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    for (char **line = lines; *line; line++) {
        count += strstr(*line, with) != NULL;
    }
    return count;
}

/* Events that come tick after tick are told in short; what timers are worked out from, and each change of a measured
 * switch, is told in full. */
static void test_storms(void **unused)
{
    (void)unused;
    static const struct {
        const char *lines, *event;
        uint32_t least, most; /* lines of it in the events of 5 s */
    } cases[] = {
        {"while s above 3 counts\n    mark up\n", "\"event\":\"fired\"", 100, 110},
        {"while s above 3 counts\n    mark up\n", "\"event\":\"storm\"", 18, 20},
        {"while s above 3 counts\n    a 5 % for 10 ms\n    holdoff 10 ms\n", "\"event\":\"fired\"", 249, 251},
        {"signal n = k | count\n", "\"event\":\"edge\"", 166, 168},
        {"signal n = k | count\non k goes on\n    mark up\n    holdoff 1 h\n", "\"event\":\"dropped\"", 80, 84},
    };
    char *folder = make_folder();
    g_autoptr(GString) gate = g_string_new("t,k\n");
    for (int i = 0; i < 168; i++) {
        g_string_append_printf(gate, "%g,%d\n", 0.03 * i, i % 2);
    }
    put_file(folder, "k.csv", gate->str, -1);
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_autofree char *text = g_strdup_printf("rig x\ntick 10 ms\nsensor s counts 0..9\nsensor k switch\n"
                                                "actuator a percent 0..100, rest at 0\n%shookup sim\n    s reads 5\n"
                                                "    k plays \"k.csv\"\n",
                                                cases[i].lines);
        put_file(folder, "x.rig", text, -1);
        called c = call_tool(folder, "run x.rig --for 5s --fast --quiet --record r --overwrite");
        assert_int_equal(c.status, 0);
        call_done(&c);
        g_autofree char *events = get_file(folder, "r.events.jsonl");
        const uint32_t lines = count_lines(events, cases[i].event);
        if (lines < cases[i].least || lines > cases[i].most) {
            fail_msg("'%s': %u lines of %s", cases[i].lines, lines, cases[i].event);
        }
    }
    remove_folder(folder);
}

/* Why each kind of event fired, in words. Readings: s falls from 90 by 10 each 100 ms, then stays; k is on at 300 to
 * 400 and at 500 to 600 ms. */
static void test_reasons(void **unused)
{
    (void)unused;
    static const struct {
        const char *rule, *says;
    } cases[] = {
        {"on s moved 15 counts over 1 s", "because s has moved by more than 15 counts, to 70 counts"},
        {"on s turns up by 5 counts", "because s has turned, by 5 counts"},
        {"on s still for 300 ms", "because s has stood still for 0.3 s"},
        {"on every 400 ms", "because another 0.4 s are over"},
        {"on 150 ms after k goes on", "because 0.15 s have passed since the event"},
        {"on 2 times k goes on within 1 s", "because 2 times within 1 s: k is on"},
        {"on no k goes on for 250 ms", "because the event has not come for 0.25 s"},
        {"on b changes", "because b is now mid"},
        {"on k goes on or b goes low", "because k is on"},
        {"on b goes low or k goes on", "because k is on"},
        {"on k leaves on and s below 50 counts", "because k is no longer on and s 30 counts is below 50 counts"},
        {"while s below 35 counts and k is off or b is low", "because b is low: s 30 counts is below 32 counts"},
        {"on seq changes", "because seq is now"},
        {"on given", "because given was given"},
        {"on pump is driven for 100 ms", "because pump is driven for 0.1 s"},
        {"on seq is running for 100 ms", "because seq is running for 0.1 s"},
        {"on seq is idle for 100 ms", "because seq is idle for 0.1 s"},
    };
    char *folder = make_folder();
    put_file(folder, "s.csv",
             "t,s\n0,90\n0.1,80\n0.2,70\n0.3,60\n0.4,50\n0.5,40\n0.6,30\n0.7,40\n0.75,40\n0.9,40\n1.1,40\n", -1);
    put_file(folder, "k.csv", "t,k\n0,0\n0.3,1\n0.4,0\n0.5,1\n0.6,0\n", -1);
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_autofree char *text = g_strdup_printf(
            "rig x\ntick 10 ms\nsensor s counts 0..99\nsensor k switch\nactuator pump percent 0..100, rest at 0\n"
            "bands b = s: low below 32 counts, mid, high above 75 counts\ncue given\nsequence seq\n    pump 5 %%\n"
            "    dwell 400 ms\n    cue given\non start\n    begin seq\n%s\n    mark up\n    holdoff 2 s\nhookup sim\n"
            "    s plays \"s.csv\"\n    k plays \"k.csv\"\n",
            cases[i].rule);
        put_file(folder, "x.rig", text, -1);
        called c = call_tool(folder, "run x.rig --for 1500ms --fast --quiet");
        if (c.status != 0 || !strstr(c.out, cases[i].says)) {
            fail_msg("'%s' is to say '%s' in: %s%s", cases[i].rule, cases[i].says, c.out, c.err);
        }
        call_done(&c);
    }
    remove_folder(folder);
}

/* A run on the wall clock takes its time, and says how late its ticks were. */
static void test_paced_run(void **unused)
{
    (void)unused;
    const gint64 begun = g_get_monotonic_time();
    called c = call_tool("/tmp", "run " BASIN " --for 700ms --quiet");
    assert_true(g_get_monotonic_time() - begun >= 600000);
    assert_int_equal(c.status, 0);
    assert_says(c.out, "lateness of the ticks: half within");
    call_done(&c);
}

/* The demo's story, by what is in its files. */
static void test_demo(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    called c = call_tool(folder, "demo");
    assert_int_equal(c.status, 0);
    assert_says(c.out, "pump 80 % for 2 s, then holdoff 3 s");
    assert_says(c.out, "because tide is low: depth 2.9");
    assert_says(c.out, "rigpulse-demo/basin.png");
    g_autofree char *picture = get_file(folder, "rigpulse-demo/basin.png");
    assert_memory_equal(picture, "\x89PNG", 4);
    g_autofree char *events = get_file(folder, "rigpulse-demo/basin.events.jsonl");
    g_auto(GStrv) lines = g_strsplit(g_strchomp(events), "\n", -1);
    uint32_t fired = 0;
    double last = -100.0;
    for (char **line = lines; *line; line++) {
        json_t *event = json_loads(*line, 0, NULL);
        assert_non_null(event);
        const char *kind = json_string_value(json_object_get(event, "event"));
        const char *of = json_string_value(json_object_get(event, "of"));
        const double time = json_number_value(json_object_get(event, "t"));
        if (strcmp(kind, "fired") == 0 && strcmp(of, "while tide is low") == 0) {
            assert_true(time - last >= 5.0 - 1e-9); /* 2 s of pump, 3 s of holdoff */
            last = time;
            fired++;
        }
        json_decref(event);
    }
    assert_in_range(fired, 4, 10);
    call_done(&c);
    c = call_tool(folder, "list rigpulse-demo/basin.csv");
    assert_int_equal(c.status, 0);
    assert_says(c.out, "recording of rig basin: 90 s, 4500 rows, seed 1, complete");
    call_done(&c);
    c = call_tool(folder, "list --json rigpulse-demo/basin");
    json_t *listed = json_loads(c.out, 0, NULL);
    assert_int_equal(json_integer_value(json_object_get(listed, "rows")), 4500);
    json_decref(listed);
    call_done(&c);
    c = call_tool(folder, "plot rigpulse-demo/basin.json -o x.svg --size 640x400");
    assert_int_equal(c.status, 0);
    g_autofree char *drawing = get_file(folder, "x.svg");
    assert_says(drawing, "high water");
    call_done(&c);
    remove_folder(folder);
}

/* Same file and seed: the same bytes, all three files. */
static void test_runs_are_repeatable(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    static const char *const runs[] = {"--seed 5 --record a", "--seed 5 --record b", "--seed 6 --record c"};
    for (size_t i = 0; i < 3; i++) {
        g_autofree char *arguments = g_strdup_printf("run --fast --for 30s --quiet %s " BASIN, runs[i]);
        called c = call_tool(folder, arguments);
        assert_int_equal(c.status, 0);
        call_done(&c);
    }
    static const char *const endings[] = {".csv", ".events.jsonl", ".json"};
    for (size_t i = 0; i < 3; i++) {
        char *text[3];
        for (int k = 0; k < 3; k++) {
            g_autofree char *name = g_strdup_printf("%c%s", 'a' + k, endings[i]);
            text[k] = get_file(folder, name);
        }
        assert_string_equal(text[0], text[1]);
        assert_string_not_equal(text[0], text[2]);
        for (int k = 0; k < 3; k++) {
            g_free(text[k]);
        }
    }
    remove_folder(folder);
}

static GPid start_tool(const char *folder, const char *arguments)
{
    g_autofree char *line = g_strconcat(RIGPULSE_TOOL " ", arguments, NULL);
    g_auto(GStrv) argv = NULL;
    GPid pid = 0;
    assert_true(g_shell_parse_argv(line, NULL, &argv, NULL));
    assert_true(g_spawn_async(folder, argv, NULL, G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDOUT_TO_DEV_NULL, NULL, NULL,
                              &pid, NULL));
    return pid;
}

static void wait_for_rows(const char *folder, gsize bytes)
{
    g_autofree char *path = g_build_filename(folder, "r.csv", NULL);
    for (int i = 0; i < 200; i++) {
        g_autofree char *text = NULL;
        gsize length = 0;
        if (g_file_get_contents(path, &text, &length, NULL) && length > bytes) {
            return;
        }
        g_usleep(50000);
    }
    fail_msg("nothing was recorded");
}

/* An interrupted run ends well; a killed one leaves what was flushed. */
static void test_interrupted_and_killed(void **unused)
{
    (void)unused;
    static const struct {
        int number, status;
        const char *ending;
    } cases[] = {
        {SIGINT, 0, "interrupted"}, {SIGTERM, 0, "interrupted"}, {SIGKILL, -SIGKILL, "still running, or cut off"}};
    for (size_t i = 0; i < 3; i++) {
        char *folder = make_folder();
        const GPid pid = start_tool(folder, "run " BASIN " --record r");
        int status = 0;
        wait_for_rows(folder, 1000);
        kill(pid, cases[i].number);
        assert_int_equal(waitpid(pid, &status, 0), pid);
        assert_int_equal(WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status), cases[i].status);
        g_autofree char *name = g_build_filename(folder, "r", NULL);
        rgp_recording *r = rgp_recording_read(name, NULL);
        assert_non_null(r);
        assert_true(r->rows > 10);
        assert_string_equal(r->ending, cases[i].ending);
        rgp_recording_free(r);
        remove_folder(folder);
    }
}

/* A full disk: the run goes on, says so, and ends with status 1. */
static void test_full_disk(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    struct rlimit before, small = {20000, 20000};
    getrlimit(RLIMIT_FSIZE, &before);
    small.rlim_max = before.rlim_max;
    setrlimit(RLIMIT_FSIZE, &small);
    called c = call_tool(folder, "run --fast --for 30s --record r " BASIN);
    setrlimit(RLIMIT_FSIZE, &before);
    assert_int_equal(c.status, 1);
    assert_says(c.err, "File too large");
    assert_says(c.out, "done after 30 s: 1500 ticks");
    call_done(&c);
    remove_folder(folder);
}

/* A row that was cut off in its middle is left out, and that is said. */
static void test_torn_recording(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    called c = call_tool(folder, "run --fast --for 2s --record r " BASIN);
    call_done(&c);
    g_autofree char *table = get_file(folder, "r.csv");
    put_file(folder, "r.csv", table, (gssize)strlen(table) - 20);
    c = call_tool(folder, "list r");
    assert_int_equal(c.status, 1);
    assert_says(c.out, "1.98 s, 99 rows");
    assert_says(c.out, "1 row was cut off");
    call_done(&c);
    put_file(folder, "r.json", "{\"recording\": 2}", -1);
    c = call_tool(folder, "list r");
    assert_int_equal(c.status, 2);
    assert_says(c.err, "not a recording");
    call_done(&c);
    remove_folder(folder);
}

/* Written values read back are the values of the run: a second reading of the same bytes in the same units. */
static void test_recording_reads_back(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "x.rig",
             "rig x\ntick 10 ms\nsensor s counts 0..4095\nactuator b switch, rest at off\nsignal d = s | table 0: 0 "
             "cm, 4095: 7 cm\n"
             "while d below 3 cm\n    b on\n    holdoff 1 s\nhookup sim\n    s plays \"s.csv\"\n",
             -1);
    put_file(folder, "s.csv", "t,s\n0,4095\n0.05,0\n0.1,1234\n0.15,5000\n", -1);
    called c = call_tool(folder, "run --fast --for 200ms --record r x.rig");
    assert_int_equal(c.status, 0);
    call_done(&c);
    g_autofree char *name = g_build_filename(folder, "r", NULL);
    rgp_recording *r = rgp_recording_read(name, NULL);
    assert_int_equal(r->rows, 20);
    assert_true(rgp_recording_time_us(r, 7) == 70000);
    assert_true(rgp_recording_value(r, 2, 0) == 7.0f && rgp_recording_value(r, 2, 5) == 0.0f);
    assert_true(rgp_recording_value(r, 2, 12) == (float)(0.0 + 1234.0f * (7.0f / 4095.0f)));
    assert_true(rgp_recording_value(r, 1, 4) == 0.0f && rgp_recording_value(r, 1, 5) == 1.0f);
    assert_true(rgp_recording_value(r, 0, 19) == 5000.0f); /* as it was played, */
    assert_int_equal(rgp_recording_quality(r, 0, 19), RGP_OUT_OF_RANGE);
    rgp_recording_free(r);
    remove_folder(folder);
}

/* A count that no float holds is recorded as it came. */
static void test_great_counts_are_recorded(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "great.rig",
             "rig great\ntick 20 ms\nsensor s counts 0..2000000000\nhookup sim\n    s reads 16777217\n", -1);
    called c = call_tool(folder, "run great.rig --for 100ms --fast --record r");
    assert_int_equal(c.status, 0);
    call_done(&c);
    g_autofree char *table = get_file(folder, "r.csv");
    assert_says(table, "0.020000,16777217,");
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_great_counts_are_recorded),
        cmocka_unit_test(test_calls),
        cmocka_unit_test(test_bad_rig_is_shown_and_not_run),
        cmocka_unit_test(test_played_files_are_checked),
        cmocka_unit_test(test_demo),
        cmocka_unit_test(test_small_rigs),
        cmocka_unit_test(test_trials_and_power_cycles),
        cmocka_unit_test(test_reasons),
        cmocka_unit_test(test_every_demo),
        cmocka_unit_test(test_storms),
        cmocka_unit_test(test_paced_run),
        cmocka_unit_test(test_syntax_for_editors),
        cmocka_unit_test(test_runs_are_repeatable),
        cmocka_unit_test(test_full_disk),
        cmocka_unit_test(test_interrupted_and_killed),
        cmocka_unit_test(test_torn_recording),
        cmocka_unit_test(test_recording_reads_back),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
