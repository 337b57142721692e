/* The full-screen view as a person uses it: what stands on the screen after keys, and what is left behind. */
#include "terminal.h"

#include "runtime/recording.h"

#include <jansson.h>
#include <signal.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

static const char tub[] = "rig tub\ntick 10 ms\nsensor level counts 0..4095, fault after 200 ms\n"
                          "actuator pump percent 0..100, rest at 0\nactuator lamp switch, rest at off\n"
                          "param shallow = 3 cm in 1..6 cm   # by hand\n\n"
                          "signal depth = level | table 0: 0 cm, 2000: 20 cm\n"
                          "bands tide = depth: low below shallow, high; margin 0.2 cm\n\n"
                          "while tide is low\n    pump 80 % for 2 s\n    holdoff 5 s\n"
                          "on start\n    lamp on\n\n"
                          "hookup sim\n    tank basin: filled by pump, leak 0 ml/s, start 5 cm, height 20 cm\n"
                          "    level sees basin depth: 0 at 0 cm, 2000 at 20 cm\n";

static char *make_tub(const char *more)
{
    char *folder = make_folder();
    g_autofree char *text = g_strconcat(tub, more, NULL);
    put_file(folder, "tub.rig", text, -1);
    return folder;
}

#define DOWN "\x1bOB"
#define LEFT "\x1bOD"

/* Watch, change the threshold live, see the effect and why, freeze, find the moment, save, mark, record, stop safely.
 */
static void test_a_sitting(void **unused)
{
    (void)unused;
    char *folder = make_tub("");
    person p = person_watch(folder, "watch tub.rig --record all", 24, 80);
    person_sees(&p, "REC all");
    person_sees(&p, "5.000 cm");
    person_sees(&p, "at rest: nobody asks for it");
    person_sees(&p, "set by line 14: on start");
    person_sees(&p, "low < 3 < high cm");
    person_types(&p, DOWN DOWN DOWN);
    person_sees(&p, ">  shallow");
    person_sees(&p, "Enter type  + - change  ! rest  w write into file");
    person_types(&p, "\r9 cm\r");
    person_sees(&p, "shallow can be from 1 to 6 cm");
    person_types(&p, "\x7f\x7f\x7f\x7f"
                     "5 x\x7f\x7f.5 cm\r");
    person_sees(&p, "shallow is now 5.5 cm");
    person_sees(&p, "acts 1.");
    person_sees(&p, "line 11: pump 80 % for 2 s, then holdoff 5 s");
    person_sees(&p, "more by line 11: while tide is low");
    person_sees(&p, "low < 5.5 < high cm");
    person_sees(&p, "holdoff 3.");
    person_sees(&p, "fires again in 3.");
    person_types(&p, " ");
    person_sees(&p, "FROZEN at ");
    person_sees(&p, "it runs on");
    person_types(&p, "p");
    person_sees(&p, "acts 2.0 s");
    person_sees(&p, "80 %");
    person_types(&p, LEFT);
    person_sees(&p, "ready while tide is low");
    person_types(&p, "w");
    person_sees(&p, "write shallow = 5.5 cm (was 3) into tub.rig? y, n, or the names");
    person_types(&p, "shalow\r");
    person_sees(&p, "'shalow' is not among them; y writes all, n none");
    person_types(&p, "\x7f\x7f\x7fllow\r");
    person_sees(&p, "tub.rig is written");
    person_types(&p, " mhalf full\r");
    person_sees(&p, "mark 'half full' by hand");
    person_types(&p, "!");
    person_sees(&p, "at rest: stopped");
    person_types(&p, "!");
    person_sees(&p, "the rules may act again");
    person_types(&p, "}}");
    person_sees(&p, "pace 4");
    person_types(&p, "{{");
    person_sees(&p, "1 times as fast");
    person_types(&p, DOWN "h++");
    person_sees(&p, "pump by hand: 10 %; h gives it back");
    person_sees(&p, "set by hand");
    person_types(&p, "h");
    person_sees(&p, "pump is given back");
    person_types(&p, DOWN DOWN);
    person_sees(&p, ", since tide is low: depth"); /* the chosen rule's reason, whole */
    person_types(&p, "?");
    person_sees(&p, "freeze the picture");
    person_types(&p, "?");
    person_sees(&p, "tide");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);

    g_autofree char *file = get_file(folder, "tub.rig"), *wanted = g_strdup(tub);
    char *three = strstr(wanted, "3 cm in");
    g_autofree char *edited = g_strdup_printf("%.*s5.5%s", (int)(three - wanted), wanted, three + 1);
    assert_string_equal(file, edited);
    g_autofree char *name = g_build_filename(folder, "all", NULL);
    rgp_recording *r = rgp_recording_read(name, NULL);
    assert_non_null(r);
    assert_int_equal(r->gaps, 0);
    bool marked = false;
    for (guint i = 0; i < rgp_history_occurrences(r->history)->len; i++) {
        const rgp_occurrence *o = rgp_history_occurrences(r->history)->pdata[i];
        marked |= o->kind == RGP_EVENT_MARK && strcmp(o->of, "half full") == 0;
    }
    assert_true(marked);
    rgp_recording_free(r);
    remove_folder(folder);
}

/* A finished recording: events, steps, a jump to a change, and no changing; also one that was cut off. */
static void test_a_recording(void **unused)
{
    (void)unused;
    char *folder = make_tub("    at 2 s basin placed 9 cm\n    at 6 s basin placed 2 cm\n");
    called c = call_tool(folder, "run tub.rig --for 12s --fast --record past --quiet");
    assert_int_equal(c.status, 0);
    call_done(&c);
    for (int torn = 0; torn < 2; torn++) {
        person p = person_watch(folder, "watch --from past", 40, 130);
        person_sees(&p, torn ? "cut off or unreadable" : "FROZEN at 11.990 s of 12.0 s, recorded, complete");
        person_types(&p, "<");
        person_sees(&p, "FROZEN at 0.000 s");
        person_types(&p, "/depth 2 cm\r");
        person_sees(&p, "FROZEN at 2.");
        person_sees(&p, "7.0");
        person_types(&p, "n");
        person_sees(&p, "line 11: pump 80 % for 2 s");
        person_sees(&p, "acts 2.0 s");
        person_types(&p, "/7 s\r");
        person_sees(&p, "FROZEN at 7.000 s");
        person_types(&p, "/-0.4 s\r");
        person_sees(&p, "FROZEN at 6.600 s");
        person_types(&p, "b");
        person_sees(&p, "FROZEN at 7.000 s");
        person_types(&p, "/depth 99 cm\r");
        person_sees(&p, "does not change by more than that");
        person_types(&p, "!");
        person_sees(&p, "this is a recording");
        person_types(&p, "q");
        assert_int_equal(person_leaves(&p, NULL), torn);
        g_autofree char *table = get_file(folder, "past.csv");
        put_file(folder, "past.csv", table, (gssize)strlen(table) - 20);
    }
    remove_folder(folder);
}

/* The page that tells why follows the moment and the chosen line; also where there is hardly any room, and not for a
 * rig that runs. */
static void test_why(void **unused)
{
    (void)unused;
    char *folder = make_tub("    at 2 s basin placed 9 cm\n    at 6 s basin placed 2 cm\n");
    called c = call_tool(folder, "run tub.rig --for 12s --fast --record past --quiet");
    call_done(&c);
    person p = person_watch(folder, "watch --from past", 40, 130);
    person_sees(&p, "FROZEN at 11.990 s");
    person_types(&p, "y");
    person_sees(&p, "level is ");
    person_types(&p, "/7 s\r");
    person_sees(&p, " at 7.000 s");
    person_types(&p, "<");
    person_sees(&p, " at 0.000 s");
    for (int i = 0; i < 12; i++) {
        person_types(&p, "j");
    }
    person_sees(&p, "line 14 'on start' fired");
    for (int columns = 1; columns < 130; columns += 9) {
        person_resizes(&p, 1 + columns / 3, columns);
        person_looks_on(&p, 5);
    }
    person_resizes(&p, 40, 130);
    person_sees(&p, "line 14 'on start' fired");
    person_types(&p, "yq");
    assert_int_equal(person_leaves(&p, NULL), 0);
    p = person_watch(folder, "watch tub.rig", 40, 130);
    person_sees(&p, "live ");
    person_types(&p, "y");
    person_sees(&p, "why is told of what is recorded");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    p = person_watch(folder, "watch tub.rig --record live", 40, 130);
    person_sees(&p, "REC live");
    person_looks_on(&p, 2500);
    person_types(&p, "y");
    person_sees(&p, "FROZEN");
    person_types(&p, "[");
    person_sees(&p, "level is ");
    for (int i = 0; i < 12; i++) {
        person_types(&p, "j");
    }
    person_types(&p, "<");
    person_sees(&p, "line 14 'on start' fired at 0.000 s");
    person_types(&p, "y");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    remove_folder(folder);
}

/* The same view of a recording that is played as if it ran: it goes by, can be frozen, and says no to all but looking.
 */
/* Marks and stretches are put, named, moved and taken out at the place that is shown; the command sees the same. */
static void test_marks_of_a_recording(void **unused)
{
    (void)unused;
    static const struct {
        const char *typed, *seen;
    } keys[] = {
        {"<", "FROZEN at 0.000 s"},
        {"x", "there is no mark here"},
        {"/1 s\r", "FROZEN at 1.000 s"},
        {"M", "a stretch begins at 1.000 s"},
        {"/3 s\r", "FROZEN at 3.000 s"},
        {"M", "a name for the stretch from 1.000 to 3.000 s"},
        {"idle\r", "stretch 'idle', from 1.000 to 3.000 s"},
        {"/5 s\r", "FROZEN at 5.000 s"},
        {"m", "a word for the mark"},
        {"bots\r", "mark 'bots' at 5.000 s"},
        {"N", "another name for 'bots'"},
        {"boat\r", "it is 'boat' now"},
        {"t", "'boat' is picked"},
        {"/6.5 s\r", "FROZEN at 6.500 s"},
        {"t", "'boat' is at 6.500 s now"},
        {"/3 s\r", "FROZEN at 3.000 s"},
        {"t", "the end of 'idle' is picked"},
        {"/4 s\r", "FROZEN at 4.000 s"},
        {"t", "'idle' is at 4.000 s now"},
        {"<n", "FROZEN at 1.000 s"},
        {"/9 s\r", "FROZEN at 9.000 s"},
        {"m", "a word for the mark"},
        {"wrong\r", "mark 'wrong' at 9.000 s"},
        {"x", "'wrong' is taken out"},
        {"q", ""},
    };
    char *folder = make_tub("    at 2 s basin placed 9 cm\n");
    called c = call_tool(folder, "run tub.rig --for 12s --fast --record past --quiet");
    assert_int_equal(c.status, 0);
    call_done(&c);
    person p = person_watch(folder, "watch --from past", 40, 130);
    person_sees(&p, "recorded, complete");
    for (size_t i = 0; i < sizeof keys / sizeof *keys; i++) {
        person_types(&p, keys[i].typed);
        if (*keys[i].seen) {
            person_sees(&p, keys[i].seen);
        }
    }
    assert_int_equal(person_leaves(&p, NULL), 0);
    const call_case cases[] = {
        {"mark past", 0,
         "   1       1.000 ..      4.000 s  stretch 'idle'\n   2       6.500               s  mark 'boat'\n"},
        {"mark past calm 7..8s", 0, "   3       7.000 ..      8.000 s  stretch 'calm'"},
        {"mark past.csv --move 1=500ms..2s", 0, "   1       0.500 ..      2.000 s  stretch 'idle'"},
        {"mark past --name 3=still", 0, "stretch 'still'"},
        {"mark past --remove 2", 0, "   2       7.000 ..      8.000 s  stretch 'still'"},
        {"mark past --json", 0, "\"until\": 8.0"},
        {"list past", 0, "0.500 s  stretch 'idle', to 2.000 s"},
        {"mark past x", 2, "'x' needs a time: '12.5s', or '10..30s'"},
        {"mark past x 3", 2, "'3': it needs a unit; a time is meant"},
        {"mark past x 13s", 2, "the recording goes from 0.000 to 11.990 s"},
        {"mark past x 3..1s", 2, "a stretch ends behind its beginning"},
        {"mark past idle 500ms..2s", 2, "'idle' is there already"},
        {"mark past --remove 3", 2, "the marks go from 1 to 2"},
        {"mark past --remove 0", 2, "write the mark's number"},
        {"mark past --name idle", 2, "write the mark's number and what it becomes"},
        {"mark past --name 1=", 2, "a mark needs a name"},
        {"mark past --remove 1 --name 1=b", 2, "one change at a time"},
        {"mark nothing x 3s", 2, "there is no recording of that name"},
        {"plot past -o past.svg", 0, "past.svg"},
    };
    check_calls(folder, cases, sizeof cases / sizeof *cases);
    g_autofree char *marks = get_file(folder, "past.marks.jsonl"), *odd = g_strconcat(marks, "{\"t\":1}\n", NULL);
    assert_string_equal(marks, "{\"t\":0.5,\"until\":2.0,\"name\":\"idle\"}\n"
                               "{\"t\":7.0,\"until\":8.0,\"name\":\"still\"}\n");
    put_file(folder, "past.marks.jsonl", odd, -1);
    const call_case after[] = {
        {"mark past", 1, "line 3 of its marks is no mark, and is left out"},
        {"mark past x 3s", 2,
         "past.marks.jsonl: line 3 is no mark; mend the line or remove it, so that nothing is lost"},
        {"run tub.rig --for 2s --fast --record past --quiet", 2, "is there already"},
        {"run tub.rig --for 2s --fast --record past --overwrite --quiet", 0, "recorded"},
        {"mark past", 0, "no marks"},
    };
    check_calls(folder, after, sizeof after / sizeof *after);
    remove_folder(folder);
}

static void test_a_played_recording(void **unused)
{
    (void)unused;
    char *folder = make_tub("");
    called c = call_tool(folder, "run tub.rig --for 20s --fast --quiet --record past");
    assert_int_equal(c.status, 0);
    call_done(&c);
    person p = person_watch(folder, "watch --from past --pace 8", 24, 80);
    person_sees(&p, "played 1");
    person_sees(&p, "5.000 cm");
    person_types(&p, "!");
    person_sees(&p, "this is a recording: it can be looked at, not changed");
    person_types(&p, " ");
    person_sees(&p, "it runs on");
    person_types(&p, " }");
    person_sees(&p, "16 times as fast as the wall clock");
    person_sees(&p, "at 20.0 s of 20.0 s, recorded, complete");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    c = call_tool(folder, "watch --from past --seed 3");
    assert_int_equal(c.status, 2);
    assert_says(c.err, "or played with --pace");
    call_done(&c);
    remove_folder(folder);
}

/* A spike of one tick among 6000 stands at the top of the chart, and so it does when all of the run is looked at. */
static void test_a_spike(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "s.csv", "t,s\n0,100\n30,900\n30.009,100\n", -1);
    put_file(folder, "spike.rig", "rig spike\ntick 10 ms\nsensor s counts 0..999\nhookup sim\n    s plays \"s.csv\"\n",
             -1);
    called c = call_tool(folder, "run spike.rig --for 60s --fast --quiet --record spike");
    assert_int_equal(c.status, 0);
    call_done(&c);
    person p = person_watch(folder, "watch --from spike", 30, 100);
    person_sees(&p, "1 s");
    person_types(&p, "ZZ");
    person_sees(&p, "20.0 s");
    person_looks_on(&p, 400);
    g_autofree char *screen = person_screen(&p);
    g_auto(GStrv) lines = g_strsplit(screen, "\n", -1);
    int first = -1, last = -1;
    for (int row = 3; lines[row]; row++) { /* below the header and the list */
        bool dots = false;
        for (const char *at = lines[row]; *at; at = g_utf8_next_char(at)) {
            dots |= g_utf8_get_char(at) > 0x2800 && g_utf8_get_char(at) < 0x2900;
        }
        first = dots && first < 0 ? row : first;
        last = dots ? row : last;
    }
    assert_true(first > 0 && last - first >= 10); /* from the level all the way up to the spike */
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    remove_folder(folder);
}

/* Too small, to nothing and back; a terminal without colour. */
static void test_sizes(void **unused)
{
    (void)unused;
    char *folder = make_tub("");
    g_setenv("NO_COLOR", "1", TRUE);
    person p = person_watch(folder, "watch tub.rig", 24, 80);
    person_sees(&p, "1 depth");
    person_resizes(&p, 6, 30);
    person_sees(&p, "too small");
    person_resizes(&p, 0, 0);
    person_looks_on(&p, 300);
    person_resizes(&p, 40, 140);
    person_sees(&p, "5.000 cm");
    person_sees(&p, "? all keys");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    g_unsetenv("NO_COLOR");
    remove_folder(folder);
}

/* Each view in terminals of every height up to 60 rows, and of widths around all that makes a difference, from one to
 * the next without a pause: it is still there, and shows what it should once there is room. */
static void test_all_sizes(void **unused)
{
    (void)unused;
    static const struct {
        const char *arguments, *shows;
        int step; /* of rows */
    } cases[] = {{"watch --from past", "recorded, complete", 1},
                 {"watch tub.rig", "live ", 3},
                 {"jog tub.rig pump", "at rest", 3},
                 {"tune loop.rig bath", "bath", 3}};
    static const int columns[] = {1,  2,  7,  12,  13,  21,  39,  40,  41,  60, 79,
                                  80, 81, 99, 100, 119, 120, 121, 160, 220, 250};
    char *folder = make_tub("");
    g_autofree char *loop = get_file(RIGPULSE_SOURCE "/examples", "boiler.rig");
    put_file(folder, "loop.rig", loop, -1);
    called c = call_tool(folder, "run tub.rig --fast --for 20s --record past");
    call_done(&c);
    char *steam = strstr(loop, "loop ");
    g_autofree char *name = g_strndup(steam + 5, strcspn(steam + 5, ":"));
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_autofree char *tune = g_strconcat("tune loop.rig ", name, NULL);
        const bool tunes = g_str_has_prefix(cases[i].arguments, "tune");
        person p = person_watch(folder, tunes ? tune : cases[i].arguments, 24, 80);
        person_sees(&p, tunes ? name : cases[i].shows);
        for (int rows = 1; rows <= 60; rows += cases[i].step) {
            for (size_t k = 0; k < G_N_ELEMENTS(columns); k++) {
                person_resizes(&p, rows, columns[k]);
                person_looks_on(&p, 4);
            }
        }
        person_resizes(&p, 24, 80);
        person_sees(&p, tunes ? name : cases[i].shows);
        person_types(&p, "q");
        assert_int_equal(person_leaves(&p, NULL), 0);
    }
    remove_folder(folder);
}

/* A rig with nothing in it, and every key. */
static void test_an_empty_rig(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "e.rig", "rig empty\ntick 10 ms\nhookup sim\n", -1);
    person p = person_watch(folder, "watch e.rig", 24, 80);
    person_sees(&p, "nothing has happened yet");
    person_types(&p, "g+-h\r np[]<>zZvVfrx\r\x1b"
                     "0c" DOWN LEFT "w?");
    person_sees(&p, "All keys");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    remove_folder(folder);
}

/* An entry that is refused stays to be mended, with the reason; what is typed meanwhile is no key. */
static void test_a_typing_error(void **unused)
{
    (void)unused;
    char *folder = make_tub("");
    person p = person_watch(folder, "watch tub.rig", 24, 80);
    person_sees(&p, "shallow");
    for (int i = 0; i < 3; i++) {
        person_types(&p, DOWN);
    }
    person_types(&p, "\r");
    person_sees(&p, "shallow, in cm: _");
    person_types(&p, "0.5 kg\r");
    person_sees(&p, "shallow, in cm: 0.5 kg_");
    person_sees(&p, "unit");
    person_types(&p, "0c");
    person_sees(&p, "shallow, in cm: 0.5 kg0c_");
    person_types(&p, "\x7f\x7f\x7f\x7f\x7f\x7f\x7f"
                     "4.5 cm\r");
    person_sees(&p, "shallow = 4.5 cm");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    remove_folder(folder);
}

/* A sensor's fault while it is watched: named, cleared by a key, and the run goes on. */
static void test_a_fault(void **unused)
{
    (void)unused;
    char *folder = make_tub("    at 1 s level drops for 1 s\n");
    person p = person_watch(folder, "watch tub.rig", 24, 80);
    person_sees(&p, "fault: sensor level has been missing for too long");
    person_sees(&p, "waits for the fault to be cleared");
    person_sees(&p, "sensor level: good");
    person_types(&p, "c");
    person_sees(&p, "c once more clears the faults");
    person_types(&p, "c");
    person_sees(&p, "faults cleared");
    person_sees(&p, "ready while tide is low");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    remove_folder(folder);
}

static uint32_t rows_of(const char *folder, char **ending)
{
    g_autofree char *name = g_build_filename(folder, "all", NULL);
    rgp_recording *r = rgp_recording_read(name, NULL);
    assert_non_null(r);
    assert_int_equal(r->gaps, 0);
    const uint32_t rows = r->rows;
    assert_int_equal(rgp_recording_time_us(r, rows - 1), (rows - 1) * 10000);
    *ending = g_strdup(r->ending);
    rgp_recording_free(r);
    return rows;
}

/* A sequence's step, who drives by it, a stall, and colours, as a person sees them. */
static void test_a_sequence(void **unused)
{
    (void)unused;
    char *folder =
        make_tub("actuator board names dark, red, rest at dark\nsequence show\n    board red\n    dwell 3 s\n"
                 "    board dark\n    await tide is low, however long\non start\n    begin show\n");
    g_autofree char *text = get_file(folder, "tub.rig");
    g_autofree char *early = g_strdup(strstr(text, "hookup sim"));
    char *const cut = strstr(text, "hookup sim");
    g_autofree char *behind = g_strdup(strstr(cut, "actuator board"));
    early[strlen(early) - strlen(behind)] = '\0';
    *cut = '\0';
    g_autofree char *whole = g_strconcat(text, behind, early, NULL);
    put_file(folder, "tub.rig", whole, -1);
    person p = person_watch(folder, "watch tub.rig", 30, 100);
    person_sees(&p, "step 2");
    person_sees(&p, "2: dwell 3 s, for 0.");
    person_sees(&p, "by show: 2: dwell 3 s");
    person_sees(&p, "show begins");
    person_sees(&p, "4: await tide is low, however long");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    remove_folder(folder);
}

/* A terminal that reads nothing for 5 s costs no tick and no row. */
static void test_a_stalled_terminal(void **unused)
{
    (void)unused;
    char *folder = make_tub("");
    g_autofree char *ending = NULL;
    person p = person_watch(folder, "watch tub.rig --record all", 50, 200);
    person_sees(&p, "5.000 cm");
    g_usleep(5000000);
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    assert_true(rows_of(folder, &ending) >= 500);
    assert_string_equal(ending, "complete");
    remove_folder(folder);
}

/* The terminal goes away, or a signal comes: the recording is closed, and the terminal is as it was. */
static void test_ends(void **unused)
{
    (void)unused;
    static const int numbers[] = {SIGTERM, SIGINT, SIGSEGV, 0};
    for (size_t i = 0; i < sizeof numbers / sizeof *numbers; i++) {
        char *folder = make_tub("");
        g_autofree char *ending = NULL, *left = NULL;
        person p = person_watch(folder, "watch tub.rig --record all", 24, 80);
        person_sees(&p, "5.000 cm");
        if (numbers[i]) {
            kill(p.child, numbers[i]);
            const int status = person_leaves(&p, &left);
            assert_says(left, "\x1b[?1049l");
            assert_int_equal(status, numbers[i] == SIGSEGV ? -SIGSEGV : 0);
        } else {
            int status;
            close(p.terminal);
            assert_int_equal(waitpid(p.child, &status, 0), p.child);
            assert_true(WIFEXITED(status));
            vterm_free(p.model);
            g_string_free(p.seen, TRUE);
        }
        if (numbers[i] != SIGSEGV) {
            rows_of(folder, &ending);
            assert_string_equal(ending, "interrupted");
        }
        remove_folder(folder);
    }
}

static void test_calls(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"watch", 2, "it needs a rig FILE, or --from RECORDING"},
        {"watch tub.rig --from past", 2, "it needs a rig FILE, or --from RECORDING"},
        {"watch --from past --seed 3", 2, "a recording is only looked at"},
        {"watch --from past", 2, "past.json"},
        {"watch tub.rig --for 0s", 2, "from 1 us"},
        {"watch tub.rig --pace none", 2, "from 0.01 to 1000"},
        {"run tub.rig --for 200ms --realtime", 0, "real time: "},
        {"run tub.rig --for 200ms --realtime --fast", 2, "leave out --realtime"},
        {"watch --from past --realtime", 2, "a recording is only looked at"},
        {"run tub.rig --for 5s --pace 50 --quiet", 0, "done after 5 s: 500 ticks"},
        {"watch tub.rig --for 200ms", 0, "done after 0.2 s: 20 ticks"}, /* no terminal: plain lines */
        {"watch none.rig", 2, "No such file"},
    };
    char *folder = make_tub("");
    check_calls(folder, cases, sizeof cases / sizeof *cases);
    remove_folder(folder);
}

/* By a script: what answers and which way, also of a wire that is swapped; the least power, and its place in the file.
 */
static void test_jog_by_script(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"jog tub.rig pump --to 50% --fast", 0, "level        answers: up by"},
        {"jog wrong.rig pump --to 50% --fast", 0, "level        answers: down by"},
        {"jog tub.rig lamp --to on --fast", 0, "back at rest; nothing answers"},
        {"jog basin.rig lamp --to on --fast", 0, "level        does not answer; an effect above"},
        {"jog basin.rig lamp --to on --fast --seed 2", 0, "level        does not answer"},
        {"jog basin.rig lamp --to on --fast --seed 3", 0, "level        does not answer"},
        {"jog basin.rig pump --least --fast --hold 3s --seed 4", 0, "is 14 %, seen by level (13 % was silent"},
        {"jog basin.rig pump --least --fast --hold 3s --seed 5", 0, "is 14 %, seen by level (13 % was silent"},
        {"jog basin.rig pump --least --fast --seed 1", 2, "take a longer --hold"},
        {"jog bridge.rig bridge --to 50% --fast", 0, "bottom       answers: changes, from about 0."},
        {"jog bridge.rig bridge --to -50% --fast", 0, "kept from it in 10 of 10: never bridge below 0 while"},
        {"jog bridge.rig bridge --to -50% --fast", 0, "back at rest; it was never driven"},
        {"jog tub.rig pump --least --fast --write --hold 3s", 0, "the least power that moves something is 14 %"},
        {"check tub.rig", 0, "actuator  pump"},
        {"jog tub.rig pump --least --fast --hold 3s", 0, "the least power that moves something is 14 %"},
        {"calibrate tub.rig --undo", 0, "taken back: jog"},
        {"jog tub.rig lamp --least --fast", 2, "it is on or off"},
        {"jog tub.rig pump --to 130% --fast", 2, "can go from 0 to 100"},
        {"jog tub.rig pump --to 3cm --fast", 2, "units do not go together"},
        {"jog tub.rig pimp --to 3% --fast", 2, "there are pump, lamp"},
        {"jog tub.rig pump --to 3% --least", 2, "take one of"},
        {"jog tub.rig pump --hold 0s --to 3%", 2, "from 0.2 s to 60 s"},
        {"jog tub.rig pump", 2, "this is no terminal"},
        {"jog tub.rig", 2, "it needs FILE ACTUATOR"},
    };
    char *folder = make_folder();
    g_autofree char *text = g_strdup(tub), *line = strstr(text, "leak 0");
    g_autofree char *stalls = g_strdup_printf("%.*sstalls 13 %%, %s", (int)(line - text), text, line);
    g_steal_pointer(&line);
    put_file(folder, "tub.rig", stalls, -1);
    g_auto(GStrv) parts = g_strsplit(tub, "0 at 0 cm, 2000 at 20 cm", 2);
    g_autofree char *wrong = g_strjoin("2000 at 0 cm, 0 at 20 cm", parts[0], parts[1], NULL);
    put_file(folder, "wrong.rig", wrong, -1);
    g_autofree char *bridge = get_file(RIGPULSE_SOURCE "/examples", "bridge.rig");
    put_file(folder, "bridge.rig", bridge, -1);
    g_autofree char *basin = get_file(RIGPULSE_SOURCE "/examples", "basin.rig");
    put_file(folder, "basin.rig", basin, -1);
    check_calls(folder, cases, sizeof cases / sizeof *cases);
    g_autofree char *after = get_file(folder, "tub.rig");
    assert_string_equal(after, stalls);
    remove_folder(folder);
}

/* By a person: driven while the key repeats, at rest when it is let go. */
static void test_jog_by_keys(void **unused)
{
    (void)unused;
    char *folder = make_tub("");
    person p = person_watch(folder, "jog tub.rig pump", 24, 80);
    person_sees(&p, "500 counts");
    person_sees(&p, "0 %   at rest");
    person_types(&p, "\x1bOB");
    person_sees(&p, "pump goes one way only");
    person_types(&p, "\x1bOC\x1bOC");
    person_sees(&p, "a press: ↑ 50 %");
    person_looks_on(&p, 1000);
    for (int i = 0; i < 20; i++) {
        person_types(&p, "\x1bOA");
        person_looks_on(&p, 50);
    }
    person_sees(&p, "50 %   driven by hand");
    person_sees(&p, "up by ");
    person_sees(&p, "0 %   at rest");
    person_types(&p, "w");
    person_sees(&p, "tub.rig is written: least 50 %");
    person_types(&p, "q");
    assert_int_equal(person_leaves(&p, NULL), 0);
    g_autofree char *text = get_file(folder, "tub.rig");
    assert_says(text, "actuator pump percent 0..100, rest at 0, least 50 %\n");
    remove_folder(folder);
}

/* Either way from its rest in its own unit, and by its names; the page of keys does not drive. */
static void test_jog_units(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    person lever = person_watch(folder, "jog " RIGPULSE_SOURCE "/examples/ferry.rig lever", 24, 80);
    person_sees(&lever, "a press: ↑ 2.5 deg, ↓ -2.5 deg");
    person_types(&lever, "?");
    person_sees(&lever, "held: drives it down from its rest");
    person_types(&lever, "?\x1bOC\x1bOB");
    person_sees(&lever, "-5 deg   driven by hand");
    person_types(&lever, "w");
    person_sees(&lever, "only what is driven in percent");
    person_types(&lever, "q");
    assert_int_equal(person_leaves(&lever, NULL), 0);
    person light = person_watch(folder, "jog " RIGPULSE_SOURCE "/examples/crossing.rig light", 24, 80);
    person_sees(&light, "red to green");
    person_types(&light, "\x1bOB");
    person_sees(&light, "↑ drives it with the name");
    person_types(&light, "\x1bOA");
    person_sees(&light, "green   driven by hand");
    person_sees(&light, "red   at rest");
    person_types(&light, "q");
    assert_int_equal(person_leaves(&light, NULL), 0);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_calls),
        cmocka_unit_test(test_a_sitting),
        cmocka_unit_test(test_a_recording),
        cmocka_unit_test(test_why),
        cmocka_unit_test(test_marks_of_a_recording),
        cmocka_unit_test(test_a_played_recording),
        cmocka_unit_test(test_a_spike),
        cmocka_unit_test(test_sizes),
        cmocka_unit_test(test_all_sizes),
        cmocka_unit_test(test_a_typing_error),
        cmocka_unit_test(test_a_fault),
        cmocka_unit_test(test_a_sequence),
        cmocka_unit_test(test_an_empty_rig),
        cmocka_unit_test(test_ends),
        cmocka_unit_test(test_a_stalled_terminal),
        cmocka_unit_test(test_jog_by_script),
        cmocka_unit_test(test_jog_by_keys),
        cmocka_unit_test(test_jog_units),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
