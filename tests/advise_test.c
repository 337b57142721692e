/* Advice: followed without thinking, and the command: of loops in pieces, plain ones, and those that are not told of.
 */
#include "support.h"

#include "analysis/loop_pace.h"
#include "analysis/loop_pieces.h"

#include "rigpulse/image.h"
#include "runtime/recording.h"

#include <jansson.h>
#include <math.h>
#include <string.h>

/* ---- followed without thinking ---------------------------------------------------------------------- */

/* "kp 2, predict dead 3 s" into what is tried already; a later one of the same name counts. */
static void take_trial(GHashTable *tried, const char *next)
{
    g_auto(GStrv) parts = g_strsplit(next, ", ", -1);
    for (char **part = parts; *part; part++) {
        const gsize name = strcspn(*part, "0123456789");
        assert_true(name > 1 && (*part)[name]);
        g_hash_table_insert(tried, g_strndup(*part, name - 1), g_strdup(*part + name - 1));
    }
}

static char *text_of(GHashTable *tried)
{
    GHashTableIter all;
    gpointer name, value;
    GString *text = g_string_new(NULL);
    g_hash_table_iter_init(&all, tried);
    while (g_hash_table_iter_next(&all, &name, &value)) {
        g_string_append_printf(text, "%s%s%s", text->len ? ", " : "", (char *)name, (char *)value);
    }
    return g_string_free(text, FALSE);
}

static bool is_settled(const char *verdict)
{
    return g_str_has_prefix(verdict, "settled") || g_str_has_prefix(verdict, "stays within");
}

/* Each trial is the next one of the first test of the newest gains that has not settled; those before are tried again,
 * too, since what is said heeds them. How many it took. */
static uint32_t follow(const char *file, const char *loop, const char *test)
{
    g_autoptr(GHashTable) tried = g_hash_table_new_full(g_str_hash, g_str_equal, g_free, g_free);
    g_autoptr(GString) trials = g_string_new(NULL);
    for (uint32_t trial = 1; trial <= 8; trial++) {
        g_autofree char *call = g_strdup_printf("tune %s/examples/poor/%s.rig %s %s --json%s", RIGPULSE_SOURCE, file,
                                                loop, test, trials->str);
        called c = call_tool(NULL, call);
        json_t *all = json_loads(c.out, 0, NULL), *tries = json_object_get(all, "tries");
        const size_t each = json_array_size(tries) / trial;
        g_autofree char *next = NULL;
        size_t settled = 0;
        for (size_t i = json_array_size(tries) - each; i < json_array_size(tries); i++) {
            const json_t *one = json_array_get(tries, i);
            const bool good = is_settled(json_string_value(json_object_get(one, "verdict")));
            settled += good;
            if (!good && !next) {
                next = g_strdup(json_string_value(json_object_get(one, "next")));
            }
        }
        if (trial == 1) { /* as it stands, by its first gain */
            json_t *gains = json_object_get(json_array_get(tries, 0), "gains");
            void *first = json_object_iter(gains);
            g_string_append_printf(trials, " --try '%s %g'", json_object_iter_key(first),
                                   json_number_value(json_object_iter_value(first)));
        }
        json_decref(all);
        call_done(&c);
        if (each > 0 && settled == each) {
            return trial;
        }
        if (!next) {
            fail_msg("%s: nothing more to try after %s", file, trials->str);
        }
        take_trial(tried, next);
        g_autofree char *text = text_of(tried);
        g_string_append_printf(trials, " --try '%s'", text);
    }
    fail_msg("%s does not settle in eight trials", file);
    return 0;
}

static void test_poor_examples_are_settled(void **unused)
{
    (void)unused;
    assert_true(follow("mast", "upright", "--disturb --over 6s") > 1);
    assert_true(follow("pointer", "point", "--step 10deg --over 8s --within 3deg") > 1);
}

static void test_slow_poor_examples_at_length(void **unused)
{
    (void)unused;
    assert_true(follow("boiler", "steam", "--disturb --over 600s") > 1);
    assert_true(follow("ferry", "level", "--disturb --over 12s --within 1.5deg") > 1);
    assert_true(follow("boiler_predict", "steam", "--step 5K") > 1);
}

/* ---- the command ------------------------------------------------------------------------------------ */

static const char chatters[] = "rig chatters\ntick 10 ms\nsensor eye counts 0..1000\nactuator lamp switch, rest at "
                               "off\nactuator horn switch, rest at off\n"
                               "on eye goes above 500\n    lamp on for 20 ms\n"
                               "on eye goes above 560\n    horn on for 20 ms\n"
                               "hookup sim\n    eye plays \"eye.csv\"\n";

static void put_eye(const char *folder)
{
    g_autoptr(GString) table = g_string_new("time,value\n");
    for (int i = 0; i < 2000; i++) {
        g_string_append_printf(table, "%.2f,%d\n", i * 0.01, i % 400 < 100 && i % 10 < 5 ? 540 : 460);
    }
    put_file(folder, "eye.csv", table->str, -1);
}

static void test_command(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "chatters.rig", chatters, -1);
    put_eye(folder);
    g_autofree char *boil =
        g_strdup_printf("run %s/examples/poor/boiler.rig --for 20min --fast --record boil --quiet", RIGPULSE_SOURCE);
    g_autofree char *cold =
        g_strdup_printf("run %s/examples/poor/boiler.rig --for 10min --fast --record cold --quiet", RIGPULSE_SOURCE);
    const call_case cases[] = {
        {cold, 0, ""},
        {"advise cold", 0, "it swings every 50 s"}, /* of which it has only had two: most of the run is the way up */
        {boil, 0, ""},
        {"advise boil", 0, "steam with kp 100, ki 1, kd 0"},
        {"advise boil", 0, "it swings every 49 s"}, /* and the way up from cold is no part of it */
        {"advise boil steam --begin 400s", 0, "it swings every"},
        {"advise boil steam --begin 400s", 0, "next: rigpulse tune FILE steam --try '"},
        {"advise boil steam --json", 0, "\"cause\": "},
        {"advise boil --begin 400s --until 402s", 0, "nothing is told of it: it is too short"},
        {"advise boil stem", 2, "did you mean 'steam'?"},
        {"advise boil steam --begin nowhere", 2, "it is no time"},
        {"advise boil --begin 20s --until 10s", 2, "nothing between"},
        {"advise nothing", 2, "nothing"},
        {"advise", 2, "it needs RECORDING"},
        {"advise boil -o boil.txt", 2, "boil.txt"},
        {"run chatters.rig --for 20s --fast --record eye_run --quiet", 0, ""},
        {"advise eye_run", 0, "line 6 chatters: it fired "},
        {"advise eye_run", 0, "line 8 never fired"},
        {"advise eye_run --json", 0, "\"hint\": \"line 6 chatters"},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    remove_folder(folder);
}

/* Gains that change in the middle; two rules as a pair; two owners in turn; a guard that holds all the time. */
static const char quarrels[] =
    "rig quarrels\ntick 50 ms\nsensor raw counts 0..4095, every 1 s\nsensor eye counts 0..1000, every 1 s\n"
    "sensor door switch\nactuator heat percent 0..100, rest at 0\nactuator horn switch, rest at off\n"
    "actuator bell switch, rest at off\nparam strength = 0.6 in 0..50\nsignal warm = raw / 40 counts\n"
    "loop w: warm at 50 with heat\n    pid kp strength, ki 0.2, kd 0\n    one way\n"
    "on eye goes above 500\n    strength 12\n"
    "on eye goes above 500\n    mark \"second\"\n"
    "on door goes on\n    horn on for 400 ms, priority 1\n"
    "on door goes off\n    horn on for 200 ms, priority 2\n"
    "while raw above -1\n    bell on for 100 ms\n"
    "never bell on while eye above 50\n"
    "on eye above 600 for 20 ms\n    mark \"late\"\n"
    "hookup sim\n    lag l: driven by heat, gain 0.8, time 4 s, dead 1 s\n"
    "    raw sees l value: 0 at 0, 4000 at 100, noise 3\n    eye plays \"eye.csv\"\n    door plays \"door.csv\"\n";

static void put_table(const char *folder, const char *name, int period, int high, int low)
{
    g_autoptr(GString) table = g_string_new("time,value\n");
    for (int i = 0; i < 4000; i++) {
        g_string_append_printf(table, "%.2f,%d\n", i * 0.05, i % period < period / 2 ? low : high);
    }
    put_file(folder, name, table->str, -1);
}

/* A reading every 0.12 s, and gaps of 2 s in which the sensor is missing: the pace is that of the readings. */
static void test_slow_sensor(void **unused)
{
    (void)unused;
    static const char slow[] = "rig slow\ntick 10 ms\nsensor eye counts 0..1000, every 300 ms\n"
                               "actuator lamp switch, rest at off\non eye above 500 for 50 ms\n    lamp on for 200 ms\n"
                               "hookup sim\n    eye plays \"eye.csv\"\n";
    char *folder = make_folder();
    g_autoptr(GString) table = g_string_new("time,value\n");
    double time = 0.0;
    for (int i = 0; i < 300; i++) {
        time += i % 20 ? 0.12 : 2.0;
        g_string_append_printf(table, "%.2f,%d\n", time, 500 + (int)(300.0 * sin(2.0 * time)));
    }
    put_file(folder, "slow.rig", slow, -1);
    put_file(folder, "eye.csv", table->str, -1);
    const call_case cases[] = {
        {"run slow.rig --for 30s --fast --record slow --quiet", 0, ""},
        {"advise slow", 0, "line 5 asks for 0.05 s, and 'eye' has a new reading every 0.12 s"},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    remove_folder(folder);
}

/* A mast that balances at 1.5 deg is held beside that, and stands: its wheel has to go faster and faster, until it
 * drives all it has. */
static void test_leaning(void **unused)
{
    (void)unused;
    static const char mast[] =
        "rig mast\ntick 5 ms\nsensor level counts -16384..16384\nactuator wheel percent -100..100, "
        "rest at 0\nsignal lean = level | line 0.0035 deg/counts, 0 deg\nparam aim = 1 deg in -5 "
        "deg..5 deg\nloop upright: lean at aim with wheel\n    pid kp 60, ki 0, kd 5, filter 10 ms\n"
        "    reverse\n    engage within 4 deg, after 300 ms\nhookup sim\n    mast pole: spun by "
        "wheel, balance 1.5 deg, start 1 deg\n    level sees pole lean: -16384 at -57.344 deg, 16384 "
        "at 57.344 deg, noise 2\n    at 0 s pole placed 1 deg for 1 s\n";
    char *folder = make_folder();
    put_file(folder, "mast.rig", mast, -1);
    const call_case cases[] = {
        {"run mast.rig --for 15s --fast --record off --quiet", 0, ""},
        {"advise off", 0, "it balances above the setpoint, mostly by more than the"},
        {"run mast.rig --for 15s --fast --record past --quiet --set aim=2.3deg", 0, ""},
        {"advise past", 0, "it balances below the setpoint"},
        {"run mast.rig --for 15s --fast --record on --quiet --set aim=1.5deg", 0, ""},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    called c = call_tool(folder, "advise on");
    assert_null(strstr(c.out, "leans"));
    call_done(&c);
    remove_folder(folder);
}

static void test_quarrels_at_length(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "quarrels.rig", quarrels, -1);
    put_table(folder, "eye.csv", 800, 900, 100);
    put_table(folder, "door.csv", 6, 1, 0);
    const call_case cases[] = {
        {"run quarrels.rig --for 200s --fast --record all --quiet", 0, ""},
        {"advise all w", 0, "w with kp 0.6, ki 0.2, kd 0, 0 s to 20"},
        {"advise all w", 0, "w with kp 12, ki 0.2, kd 0, 20"},
        {"advise all", 0, "lines 14 and 16 fire as a pair: 5 times"},
        {"advise all", 0, "line 20 chatters: it fired "},
        {"advise all", 0, "'horn' is taken by one owner from another "},
        {"advise all", 0, "line 25 asks for 0.02 s, and 'eye' has a new reading every "},
        {"advise all", 0, "a guard keeps 'bell' from what is asked for "},
        {"advise all -o w.png", 0, "w with kp 12"},
        {"advise all -o w.txt", 2, "w.txt"},
        {"run quarrels.rig --for 30s --fast --record short --quiet --advise", 0, "w with kp 0.6"},
        {"run quarrels.rig --for 3s --fast --advise", 2, "--advise needs --record"},
        {"run quarrels.rig --for 3s --fast --record r --json --advise", 2, "it is no event"},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    remove_folder(folder);
}

/* The recording without some of its rows. */
static void leave_rows_out(const char *folder, const char *from, const char *to, guint first, guint last)
{
    static const char *const ends[] = {".json", ".events.jsonl", ".csv"};
    for (size_t i = 0; i < G_N_ELEMENTS(ends); i++) {
        g_autofree char *name = g_strconcat(from, ends[i], NULL), *text = get_file(folder, name);
        g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
        g_autoptr(GString) rest = g_string_new(NULL);
        for (guint k = 0; lines[k] && lines[k][0]; k++) {
            if (i < 2 || k < first || k > last) {
                g_string_append_printf(rest, "%s\n", lines[k]);
            }
        }
        g_autofree char *other = g_strconcat(to, ends[i], NULL);
        put_file(folder, other, rest->str, -1);
    }
}

static const char scheduled[] =
    "rig scheduled\ntick 20 ms\nsensor raw counts 0..4095, every 20 ms\nactuator heat percent 0..100, rest at 0\n"
    "param strength = 0.6 in 0..50\nsignal warm = raw / 40 counts\n"
    "loop w: warm at 50 with heat\n    pid kp strength, ki 0.2, kd 0\n    one way\n%s"
    "hookup sim\n    lag l: driven by heat, gain 0.8, time 4 s, dead 1 s\n"
    "    raw sees l value: 0 at 0, 4000 at 100, noise 3\n";

/* A row of a loop by its columns, cell by cell. */
static void insist_row(const rgp_history *h, uint32_t loop, uint64_t row, const rgp_response_row *is)
{
    const rgp_image_header *image = rgp_history_image(h);
    const rgp_image_loop *l = rgp_image_loop_at(image, loop);
    const uint32_t target = (uint32_t)rgp_history_slot(h, l->first + RGP_TERM_TARGET),
                   error = (uint32_t)rgp_history_slot(h, l->first + RGP_TERM_ERROR),
                   saturated = (uint32_t)rgp_history_slot(h, l->first + RGP_TERM_SATURATED),
                   output = (uint32_t)rgp_history_slot(h, rgp_image_actuator_slot(image, l->actuator));
    const rgp_loop_pace pace = rgp_loop_pace_of(image, rgp_image_text(image, RGP_NAME_LOOP, loop, 0));
    assert_true(is->time == (double)rgp_history_time_us(h, row) / 1e6);
    assert_true(is->target == (double)rgp_history_value(h, target, row));
    assert_true(is->measured == (double)rgp_history_value(h, (uint32_t)rgp_history_slot(h, l->measured), row));
    assert_true(is->output == (double)rgp_history_value(h, output, row));
    assert_int_equal(is->usable, rgp_usable(rgp_history_quality(h, error, row)));
    assert_int_equal(is->saturated, rgp_usable(rgp_history_quality(h, saturated, row)) &&
                                        rgp_history_value(h, saturated, row) != 0.0f);
    assert_int_equal(is->stands, !rgp_loop_steps(h, &pace, row));
}

/* The loop drives in a row with a gain; 0: it does not. */
static float gain_in(const rgp_history *h, uint32_t loop, uint64_t row)
{
    const rgp_image_loop *l = rgp_image_loop_at(rgp_history_image(h), loop);
    const bool drives = rgp_history_value(h, rgp_history_owner(h, l->actuator), row) == (float)l->claim;
    return drives ? rgp_history_setting(h, l->gain[0], row) : 0.0f;
}

/* Rows of many at once are what they are one by one, and pieces end where, row by row, something has changed. */
static void insist_pieces(const char *folder, const char *name, guint wanted)
{
    g_autofree char *path = g_build_filename(folder, name, NULL);
    rgp_recording *from = rgp_recording_read(path, NULL);
    rgp_history *h = from->history;
    g_autoptr(GPtrArray) pieces = rgp_loop_pieces(h, 0, 0, rgp_history_end(h));
    g_autoptr(GArray) rows = rgp_response_rows(h, 0, 0, rgp_history_end(h));
    uint64_t row = 0;
    assert_int_equal(pieces->len, wanted);
    for (guint i = 0; i < pieces->len; i++) {
        const rgp_loop_piece *p = pieces->pdata[i];
        for (; row < p->from; row++) {
            assert_true(gain_in(h, 0, row) == 0.0f);
        }
        const uint64_t gap = row > 0 ? rgp_history_time_us(h, row) - rgp_history_time_us(h, row - 1) : 0;
        assert_true(row == 0 || gain_in(h, 0, row) != gain_in(h, 0, row - 1) || gap > 200000u);
        for (; row < p->to; row++) {
            insist_row(h, 0, row, &g_array_index(rows, rgp_response_row, row));
            assert_true(gain_in(h, 0, row) == p->pid.gain.kp);
        }
    }
    assert_true(row == rgp_history_end(h));
    rgp_recording_free(from);
}

static void test_pieces_by_rows(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *text = g_strdup_printf(scheduled, "    engage within 100, after 3 s\n"
                                                       "on every 23 s\n    strength strength + 0.1\n");
    char *const every = strstr(text, "every 20 ms");
    memcpy(every, "every 60 ms", strlen("every 60 ms"));
    put_file(folder, "slow.rig", text, -1);
    const call_case call = {"run slow.rig --for 3min --fast --record slow --quiet", 0, ""}; /* 9000 rows */
    check_calls(folder, &call, 1);
    leave_rows_out(folder, "slow", "parted", 5000, 5400);
    insist_pieces(folder, "slow", 8);
    insist_pieces(folder, "parted", 9);
    remove_folder(folder);
}

/* Gains that change all the time are told of in one line, and by what is no chatter; rows that are missing part a run.
 */
static void test_pieces(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *ramp = g_strdup_printf(scheduled, "on every 500 ms\n    strength strength + 0.01\n"),
                    *still = g_strdup_printf(scheduled, "");
    put_file(folder, "ramp.rig", ramp, -1);
    put_file(folder, "still.rig", still, -1);
    static const call_case made_cases[] = {{"run ramp.rig --for 30s --fast --record ramp --quiet", 0, ""},
                                           {"run still.rig --for 60s --fast --record still --quiet", 0, ""}};
    check_calls(folder, made_cases, G_N_ELEMENTS(made_cases));
    leave_rows_out(folder, "still", "parted", 1000, 1800);
    static const call_case cases[] = {
        {"advise ramp", 0, "w: of 60 of the 60 gains that it ran with nothing is told"},
        {"advise still --json", 0, "\"parts\": 1,"},
        {"advise parted --json", 0, "\"parts\": 2,"},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    called c = call_tool(folder, "advise ramp");
    assert_null(strstr(c.out, "chatters"));
    call_done(&c);
    remove_folder(folder);
}

/* Loops without gains, on one mechanism; what decides differs. */
static void put_plain(const char *folder, const char *name, const char *least, const char *loop, const char *mechanism,
                      int noise)
{
    g_autofree char *text = g_strdup_printf(
        "rig plain\ntick 50 ms\nsensor raw counts 0..4095\nactuator heat percent 0..100, rest at 0%s\n"
        "signal warm = raw / 40 counts\nloop w: warm at 50 with heat\n    %s\n    one way\n"
        "hookup sim\n    lag l: driven by heat, %s\n    raw sees l value: 0 at 0, 4000 at 100, noise %d\n",
        least, loop, mechanism, noise);
    put_file(folder, name, text, -1);
}

static void test_plain_loops(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_plain(folder, "late.rig", "", "on-off margin 0.5", "gain 0.8, time 4 s, dead 1 s", 2);
    put_plain(folder, "wide.rig", "", "on-off margin 30", "gain 0.8, time 4 s, dead 0.05 s", 2);
    put_plain(folder, "noisy.rig", "", "on-off margin 0", "gain 0.8, time 40 s, dead 0.05 s", 60);
    put_plain(folder, "slow.rig", "", "on-off margin 0.5, on at least 3 s", "gain 0.8, time 4 s, dead 0.05 s", 2);
    put_plain(folder, "weak.rig", "", "on-off margin 0.5", "gain 0.3, time 4 s, dead 1 s", 2);
    put_plain(folder, "turned.rig", "", "on-off margin 0.5\n    reverse", "gain 0.8, time 4 s, dead 1 s", 2);
    put_plain(folder, "jerks.rig", ", least 70 %", "pid kp 2, ki 0.5, kd 0", "gain 0.8, time 4 s, dead 0.2 s", 2);
    static const call_case cases[] = {
        {"run late.rig --for 120s --fast --record late --quiet", 0, ""},
        {"run wide.rig --for 120s --fast --record wide --quiet", 0, ""},
        {"run noisy.rig --for 120s --fast --record noisy --quiet", 0, ""},
        {"run slow.rig --for 120s --fast --record slow --quiet", 0, ""},
        {"run weak.rig --for 120s --fast --record weak --quiet", 0, ""},
        {"run turned.rig --for 60s --fast --record turned --quiet", 0, ""},
        {"run jerks.rig --for 120s --fast --record jerks --quiet", 0, ""},
        {"advise late", 0, "a lesser margin does not help"},
        {"advise late --json", 0, "\"says\": \"it swings every "},
        {"advise late --until 1s", 0, "it is too short"},
        {"advise late -o late.png", 2, "there is nothing of 'w' to draw"},
        {"advise wide", 0, "its margin is 30"},
        {"advise noisy", 0, "it switches by noise"},
        {"advise slow", 0, "its least times make the swing"},
        {"advise turned", 0, "nothing drives it there: the loop drives the wrong way"},
        {"advise weak", 0, "all it has is not enough"},
        {"tune late.rig w --step 5 --over 30s --try 'margin 2'", 0, "; its margin is 2; "},
        {"advise jerks", 0, "'heat' is at its least, 70, for "},
    };
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    called c = call_tool(folder, "advise wide");
    assert_null(strstr(c.out, "help")); /* nothing is the matter with it */
    call_done(&c);
    remove_folder(folder);
}

/* A nudged loop that is moved from outside does not hunt. */
static void test_nudge(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *pointer =
        g_strdup_printf("run %s/examples/pointer.rig --for 3min --fast --record p --quiet", RIGPULSE_SOURCE);
    g_autofree char *hunts =
        g_strdup_printf("run %s/examples/poor/pointer.rig --for 1min --fast --record h --quiet", RIGPULSE_SOURCE);
    const call_case cases[] = {{pointer, 0, ""},
                               {"advise p point", 0, "it comes slowly"},
                               {hunts, 0, ""},
                               {"advise h point", 0, "it hunts: its steps come faster than it answers"},
                               {"advise h point", 0, "next: rigpulse tune FILE point --try 'stride 3'"}};
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    remove_folder(folder);
}

/* A line that fits, and one whose dead time is far too long: the advice has the boiler's own instead, with which it
 * settles at once. */
static void test_predict(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *boiler = get_file(RIGPULSE_SOURCE "/examples", "boiler_predict.rig");
    g_autofree char *late = replaced(boiler, "dead 12 s", "dead 30 s");
    put_file(folder, "fits.rig", boiler, -1);
    put_file(folder, "late.rig", late, -1);
    g_autofree char *nameless = replaced(boiler, "warmth at target", "warmth + 0 K at target");
    put_file(folder, "nameless.rig", nameless, -1);
    const call_case cases[] = {
        {"run fits.rig --for 40min --fast --record f --quiet", 0, ""},
        {"advise f", 0, "sure healthy: it ends within 0.092 K"},
        {"run nameless.rig --for 1min --fast --record n --quiet", 0, ""},
        {"advise n", 0, "nothing is told of it, since it acts on its 'predict' line, and what it measures has no name"},
        {"run late.rig --for 40min --fast --record l --quiet", 0, ""},
        {"advise l", 0, "the dead time is 12 s, not 30 s, the gain over the lag 0.75 of"},
        {"advise l", 0, "next: rigpulse tune FILE steam --try 'predict dead 11.6 s'"},
        {"tune late.rig steam --step '5 K' --try 'predict dead 11.4 s'", 0, "try 1: sure healthy"},
        {"tune late.rig steam --step '5 K' --try 'kp 75'", 0, "its 'predict' line misses"}};
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    remove_folder(folder);
}

/* A loop that is swung by its own setpoint is not sent to look for something else that does it. */
static void test_led(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autoptr(GString) way = g_string_new("time,value\n");
    for (int i = 0; i <= 1200; i++) {
        g_string_append_printf(way, "%d,%.0f\n", i, 2000.0 + 400.0 * sin(2.0 * G_PI * i / 24.0));
    }
    put_file(folder, "way.csv", way->str, -1);
    g_autofree char *plain = g_strdup_printf(scheduled, ""),
                    *asked = replaced(plain, "warm at 50 with", "warm at goal with"),
                    *goal = replaced(asked, "signal warm",
                                     "sensor ask counts 0..4095\nsignal goal = ask / 40 counts\n"
                                     "signal warm"),
                    *led = replaced(goal, "noise 3\n", "noise 3\n    ask plays \"way.csv\"\n");
    put_file(folder, "led.rig", led, -1);
    const call_case cases[] = {{"run led.rig --for 10min --fast --record led --quiet", 0, ""},
                               {"advise led", 0, "swings from outside"},
                               {"advise led", 0, "it swings every 24 s by"},
                               {"advise led", 0, "and its setpoint swings with that period"},
                               {"advise led", 0, "one with 'feed', which drives at once what a setpoint needs"}};
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    remove_folder(folder);
}

/* The mast as it is, driven the wrong way, and with a derivative whose filter takes all that it leads. */
static void test_what_falls_at_length(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *mast = get_file(RIGPULSE_SOURCE "/examples", "mast.rig"),
                    *wrong = replaced(mast, "    reverse\n", ""),
                    *slow = replaced(mast, "filter 10 ms", "filter 100 ms");
    put_file(folder, "mast.rig", mast, -1);
    put_file(folder, "wrong.rig", wrong, -1);
    put_file(folder, "slow.rig", slow, -1);
    const call_case cases[] = {
        {"run mast.rig --for 1min --fast --record mast --quiet", 0, ""},
        {"advise mast", 0, "sure healthy"},
        {"advise mast", 0,
         "it falls by e in 0.19 s without its loop, and its gains could grow 3.6 times before it swung"},
        {"advise mast --json", 0, "\"may shrink to\": 0.09"},
        {"run wrong.rig --for 1min --fast --record wrong --quiet", 0, ""},
        {"advise wrong", 0, "sure the wrong way: what it drives makes the error greater, and it falls"},
        {"run slow.rig --for 1min --fast --record slow --quiet", 0, ""},
        {"advise slow", 0, " D missing: it swings"},
        {"advise slow", 0, "next: rigpulse tune FILE upright --try 'filter 0.025 s'"}};
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    remove_folder(folder);
}

/* The same boilers with ticks of 20 ms: it is their movement that says how long a part is, and advice heeds no tick. */
static void test_quick_ticks_at_length(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    static const char *const files[][2] = {
        {"poor", "poor/boiler.rig"}, {"late", "poor/boiler_predict.rig"}, {"good", "boiler.rig"}};
    for (size_t i = 0; i < G_N_ELEMENTS(files); i++) {
        g_autofree char *is = get_file(RIGPULSE_SOURCE "/examples", files[i][1]),
                        *ticks = replaced(is, "tick 200 ms", "tick 20 ms"),
                        *quick = replaced(ticks, "every 1 s", "every 200 ms"),
                        *name = g_strconcat(files[i][0], ".rig", NULL);
        put_file(folder, name, quick, -1);
    }
    const call_case cases[] = {{"run poor.rig --for 1h --fast --record poor --quiet", 0, ""},
                               {"advise poor", 0, "D missing: it swings every 4"},
                               {"advise poor", 0, "something is the matter in 4 of 4 parts"},
                               {"run late.rig --for 1h --fast --record late --quiet", 0, ""},
                               {"advise late", 0, "sure dead time: it swings every 35 s"},
                               {"advise late --json", 0, "\"parts\": 1,"},
                               {"run good.rig --for 1h --fast --record good --quiet", 0, ""},
                               {"advise good", 0, "sure healthy: it ends within 0."},
                               {"advise good", 0, "a load came and stayed: about -9.4 % of the travel at 25.1 min"}};
    check_calls(folder, cases, G_N_ELEMENTS(cases));
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_pieces),
        cmocka_unit_test(test_pieces_by_rows),
        cmocka_unit_test(test_poor_examples_are_settled),
        cmocka_unit_test(test_slow_poor_examples_at_length),
        cmocka_unit_test(test_command),
        cmocka_unit_test(test_slow_sensor),
        cmocka_unit_test(test_leaning),
        cmocka_unit_test(test_quarrels_at_length),
        cmocka_unit_test(test_plain_loops),
        cmocka_unit_test(test_nudge),
        cmocka_unit_test(test_predict),
        cmocka_unit_test(test_led),
        cmocka_unit_test(test_what_falls_at_length),
        cmocka_unit_test(test_quick_ticks_at_length),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
