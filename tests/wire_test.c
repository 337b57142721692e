/* A newcomer connects a device that prints lines: by the tool alone, with a stand-in in a process of its own; and what
 * is said of hook-ups that cannot be. */
#include "support.h"

#include <jansson.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>

#define TUB                                                                                             \
    "rig tub\ntick 10 ms\nsensor level counts 0..4095, every 100 ms\nsensor lid switch, every 100 ms\n" \
    "actuator pump percent 0..100, rest at 0\n"                                                         \
    "signal depth = level | line 0.004 cm/counts, 0 cm | smooth 20 ms\nwhile depth below 8 cm\n"        \
    "    pump 70 % for 1 s\nnever pump above 90 while lid is on\n"

#define WIRED                                                                                   \
    "hookup serial\n    device board: path \"board.tty\"\n    level takes \"level\" of board\n" \
    "    lid takes \"lid\" of board: on \"open\", off \"shut\"\n    pump sends \"pump {}\" to board: every 1 s\n"

#define SIM                                                                                                          \
    "hookup sim\n    tank t: filled by pump, inflow 500 ml/s, runup 20 ms, area 600 cm2, height 12 cm, start 2 cm\n" \
    "    level sees t depth: 0 at 0 cm, 3000 at 12 cm, noise 3\n    lid reads 0\n"

/* ---- what is said ------------------------------------------------------------------------------------ */

static void test_what_cannot_be(void **unused)
{
    (void)unused;
    static const struct {
        const char *lines, *says;
    } cases[] = {
        {"    level takes column 1 of board\n", ":11:29: error: there is no device 'board'"},
        {"    device board: path \"x\"\n    level takes column 0 of board\n", "a column has a whole number from 1"},
        {"    device board: path \"x\"\n    level takes depth of board\n", "expected 'column'"},
        {"    device board: path \"x\"\n    level takes column 1 of bord\n", "did you mean 'board'?"},
        {"    device board: path \"x\"\n    level take column 1 of board\n", "did you mean 'takes'?"},
        {"    device board: path \"x\"\n    pump sends \"pump\" to board\n", "there is no place for the value in it"},
        {"    device board: path \"x\"\n    pump sends \"{}{}\" to board\n", "the value stands in it twice"},
        {"    device board: path \"x\"\n    pump send \"{}\" to board\n", "an actuator does not 'send'"},
        {"    device board: path \"x\"\n    pmup sends \"{}\" to board\n", "did you mean 'pump'?"},
        {"    device board: path \"x\"\n    level takes column 1 of board\n    level takes column 2 of board\n",
         "'level' is connected twice"},
        {"    device board: path \"x\"\n    at 3 s level stands\n",
         "nothing can be made to happen on the port 'serial'"},
        {"    device board: path \"x\"\n    pump sends \"{}\" to board: evry 1 s\n", "did you mean 'every'?"},
        {"    device board: path \"x\"\n    pump sends \"{}\" to board: 7\n", "there is no setting"},
        {"    device board: path \"x\"\n    level takes column 1 of board: tims 10\n", "did you mean 'times'?"},
        {"    device board: path 7\n", "expected 'path' in quotes"},
        {"    device board: spede 9600\n", "did you mean 'speed'?"},
        {"    device board: speed 9600\n", ":11: 'board' has no path"},
        {"    device board: path \"x\", speed 9601\n", "there is no speed 9601; there are 50, "},
        {"    device board: path \"x\", cr, crlf\n", "take either 'cr' or 'crlf'"},
        {"    device board: path \"x\", json\n    level takes column 1 of board\n",
         "prints JSON, where fields have names"},
        {"    device board: path \"x\"\n    lid takes column 1 of board: times 2\n", "'lid' is a switch: leave out"},
        {"    device board: path \"x\"\n    level takes column 1 of board: on \"a\", off \"b\"\n",
         "'level' is a number"},
        {"    device board: path \"x\"\n    lid takes column 1 of board: on \"a\"\n", "and what for off"},
        {"    device board: path \"x\"\n    level takes column 1 of board: times 0\n", "times 0 is always the same"},
        {"    device board: path \"x\"\n    pump sends \"{}\" to board: on \"a\"\n", "'pump' is driven in numbers"},
        {"    device board: path \"x\"\n    level takes column 1 of board\n    lid takes column 1 of board\n",
         "'lid' takes the same column as 'level'"},
        {"    device board: path \"x\"\n", "actuator 'pump' is not connected"},
        {"\n", "needs a device"},
        {"    device board: path \"/dev/null\"\nhookup serial\n    device b: path \"x\"\n",
         "is a hook-up to 'serial' already"},
    };
    char *folder = make_folder();
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_autofree char *text = g_strconcat(TUB "hookup serial\n", cases[i].lines, NULL);
        put_file(folder, "tub.rig", text, -1);
        called c = call_tool(folder, "check tub.rig");
        if (!strstr(c.err, cases[i].says)) {
            fail_msg("%s: '%s' is not in: %s%s", cases[i].lines, cases[i].says, c.out, c.err);
        }
        call_done(&c);
    }
    remove_folder(folder);
}

static void test_what_cannot_be_opened(void **unused)
{
    (void)unused;
    static const struct {
        const char *path, *says;
    } cases[] = {
        {"nowhere", "No such file or directory; is it plugged in?"},
        {"/dev/null", "this is no terminal"},
        {"/", "Is a directory"},
        {"tub.rig/x", "Not a directory"},
    };
    char *folder = make_folder();
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_autofree char *text = g_strdup_printf(
            "rig t\ntick 10 ms\nsensor s counts 0..9, every 1 s\nhookup serial\n    device board: path \"%s\"\n"
            "    s takes column 1 of board\n",
            cases[i].path);
        put_file(folder, "tub.rig", text, -1);
        called c = call_tool(folder, "run tub.rig --for 1s");
        assert_int_equal(c.status, 2);
        assert_says(c.err, cases[i].says);
        assert_says(c.err, "tub.rig:5: ");
        call_done(&c);
        g_autofree char *listen = g_strdup_printf("ports --listen %s --for 1s", cases[i].path);
        const call_case heard[] = {{listen, 2, cases[i].says}};
        check_calls(folder, heard, 1);
    }
    put_file(folder, "both.rig", TUB WIRED SIM, -1);
    put_file(folder, "sim.rig", TUB SIM, -1);
    static const call_case calls[] = {
        {"run both.rig --port sim --for 2s --fast", 0, "on the simulated port"},
        {"run both.rig --for 2s --fast", 2, "--fast is for the simulated port"},
        {"run both.rig --for 2s --seed 3", 2, "--seed is for the simulated port"},
        {"inspect both.rig --port sim --for 2s --fast", 0, "level"},
        {"tune both.rig x --port serail", 2, "--port serail: there is no such port; there are: sim, serial"},
        {"run sim.rig --for 1s --port serial", 2, "there is no 'hookup serial' in it; there is: hookup sim"},
        {"demo serial sim.rig", 2, "it needs a 'hookup serial' and a 'hookup sim'"},
        {"demo serial both.rig --for 0s", 2, "it must be above 0"},
        {"ports", 0, "hookup serial"},
        {"ports --json", 0, "\"devices\""},
        {"ports --listen x --for 0s", 2, "above 0"},
        {"ports --speed 9600", 2, "go with --listen"},
        {"ports --listen x --speed fast", 2, "write the bits a second"},
        {"ports --listen /dev/ptmx --speed 9601", 2, "there is no speed 9601"},
    };
    check_calls(folder, calls, G_N_ELEMENTS(calls));
    remove_folder(folder);
}

/* ---- with a stand-in --------------------------------------------------------------------------------- */

typedef struct other {
    GPid pid;
    char *folder, *told; /* a file */
} other;

static GPid spawn(const char *folder, const char *arguments, const char *output)
{
    g_autofree char *line = g_strdup_printf("sh -c 'exec " RIGPULSE_TOOL " %s > %s 2>&1'", arguments, output);
    g_auto(GStrv) argv = NULL;
    GPid pid = 0;
    assert_true(g_shell_parse_argv(line, NULL, &argv, NULL));
    assert_true(
        g_spawn_async(folder, argv, NULL, G_SPAWN_SEARCH_PATH | G_SPAWN_DO_NOT_REAP_CHILD, NULL, NULL, &pid, NULL));
    return pid;
}

static void end_process(GPid pid, int signal_number)
{
    int status;
    kill(pid, signal_number);
    waitpid(pid, &status, 0);
}

/* Waits until a file says that, for at most so many seconds. */
static void wait_for(const char *folder, const char *file, const char *says, double seconds)
{
    g_autofree char *path = g_build_filename(folder, file, NULL);
    for (double passed = 0.0; passed < seconds; passed += 0.02) {
        g_autofree char *text = NULL;
        if (g_file_get_contents(path, &text, NULL, NULL) && strstr(text, says)) {
            return;
        }
        g_usleep(20000);
    }
    g_autofree char *text = get_file(folder, file);
    fail_msg("after %g s '%s' is not in: %s", seconds, says, text);
}

static GPid begin_board(const char *folder)
{
    const GPid pid = spawn(folder, "demo serial both.rig", "told.txt");
    wait_for(folder, "told.txt", "Ctrl-C ends it", 10.0);
    return pid;
}

/* The lines that `ports --listen` prints, below a rig's head, are a rig that runs. */
static void test_a_newcomer_connects_it(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "both.rig", TUB WIRED SIM, -1);
    const GPid board = begin_board(folder);
    called c = call_tool(folder, "ports --listen board.tty --for 1.5s --json");
    assert_int_equal(c.status, 0);
    json_t *heard = json_loads(c.out, 0, NULL);
    call_done(&c);
    assert_non_null(heard);
    assert_in_range((uint64_t)json_integer_value(json_object_get(heard, "lines")), 60, 200);
    const json_t *level = json_array_get(json_object_get(heard, "columns"), 0);
    assert_string_equal(json_string_value(json_object_get(level, "name")), "level");
    assert_near(json_real_value(json_object_get(level, "noise")), 3.0, 1.0);
    g_autofree char *text =
        g_strconcat("rig mine\ntick 20 ms\n", json_string_value(json_object_get(heard, "hookup")), NULL);
    json_decref(heard);
    put_file(folder, "mine.rig", text, -1);
    c = call_tool(folder, "run mine.rig --for 1s");
    assert_int_equal(c.status, 0);
    assert_says(c.out, "rig mine on the serial port");
    assert_says(c.out, "level");
    call_done(&c);
    end_process(board, SIGINT);
    g_autoptr(GPtrArray) links = list_files(folder, ".tty");
    assert_int_equal(links->len, 0);
    remove_folder(folder);
}

/* Run, recorded and replayed; calibrated and jogged; opened twice. */
static void test_the_commands_on_it(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "both.rig", TUB WIRED SIM, -1);
    const GPid board = begin_board(folder);
    static const call_case calls[] = {
        {"run both.rig --for 2s --record run", 0, "board: "},
        {"replay both.rig run", 0, "bit for bit"},
        {"calibrate both.rig depth --rezero 5cm --anyway --dry-run", 0, "line 6    was"},
        {"calibrate both.rig depth --place --point 5cm", 2, "what is connected is real"},
        {"jog both.rig pump --to 60% --hold 0.4s", 0, "level        answers: up by"},
    };
    check_calls(folder, calls, G_N_ELEMENTS(calls));
    const GPid first = spawn(folder, "run both.rig", "first.txt");
    wait_for(folder, "first.txt", "     0.0 ", 10.0);
    static const call_case busy[] = {{"run both.rig --for 1s", 2, "it is in use; another program has it open"}};
    check_calls(folder, busy, 1);
    end_process(first, SIGTERM);
    end_process(board, SIGTERM);
    remove_folder(folder);
}

/* A loop is tuned on the wire as on the bench: ticks that fall out are no end of a test. */
static void test_tuning(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(
        folder, "both.rig",
        "rig heat\ntick 10 ms\nsensor probe counts 0..4095, every 200 ms\nactuator burner percent 0..100, rest at 0\n"
        "param target = 40 °C in 20 °C..80 °C\nsignal warmth = probe | line 0.03 K/counts, 0 °C\n"
        "loop steam: warmth at target with burner\n    pid kp 1 %/K, ki 6 %/K/s, kd 0\n    one way\n    hold 2 s\n"
        "hookup serial\n    device board: path \"board.tty\", json\n    probe takes \"probe\" of board\n"
        "    burner sends \"B{}\" to board\nhookup sim\n    lag plate: driven by burner, time 150 ms, start 20 °C\n"
        "    probe sees plate value: 0 at 0 °C, 4095 at 122.85 °C, noise 1\n",
        -1);
    const GPid board = begin_board(folder);
    static const call_case calls[] = {
        {"tune both.rig steam --step 5K --over 1.5s --try 'kp 1, ki 6' --port sim", 0, "settled in "},
        {"tune both.rig steam --step 5K --over 1.5s --try 'kp 1, ki 6'", 0, "settled in "},
        {"tune both.rig steam --disturb", 2, "the hook-up states no disturbance"},
    };
    check_calls(folder, calls, G_N_ELEMENTS(calls));
    end_process(board, SIGINT);
    remove_folder(folder);
}

/* The last order stays, but for a guardian's word. */
static void test_a_process_that_is_killed(void **unused)
{
    (void)unused;
    for (int guarded = 0; guarded < 2; guarded++) {
        char *folder = make_folder();
        put_file(folder, "both.rig", TUB WIRED SIM, -1);
        const GPid board = begin_board(folder);
        const GPid run = spawn(folder, guarded ? "run both.rig --guard" : "run both.rig", "run.txt");
        wait_for(folder, "told.txt", "pump 70 %", 10.0);
        end_process(run, SIGKILL);
        if (guarded) {
            wait_for(folder, "told.txt", "pump 0 %", 20.0);
        } else {
            g_usleep(300000);
            g_autofree char *told = get_file(folder, "told.txt");
            assert_null(strstr(told, "pump 0 %"));
        }
        end_process(board, SIGINT);
        remove_folder(folder);
    }
}

/* The wire is pulled while it runs, and put back. */
static void test_a_wire_that_is_pulled(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "both.rig", TUB WIRED SIM, -1);
    GPid board = begin_board(folder);
    const GPid run = spawn(folder, "run both.rig --record run", "run.txt");
    wait_for(folder, "told.txt", "pump 70 %", 10.0);
    end_process(board, SIGINT);
    wait_for(folder, "run.txt", "fault: pump cannot be driven", 20.0);
    board = begin_board(folder);
    wait_for(folder, "run.txt", "pump can be driven again", 20.0);
    wait_for(folder, "told.txt", "pump 70 %", 20.0);
    end_process(run, SIGINT);
    wait_for(folder, "told.txt", "pump 0 %", 20.0);
    wait_for(folder, "run.txt", "it was gone 1 time", 1.0);
    end_process(board, SIGINT);
    static const call_case replayed[] = {{"replay both.rig run", 0, "bit for bit"}};
    check_calls(folder, replayed, 1);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_what_cannot_be),
        cmocka_unit_test(test_what_cannot_be_opened),
        cmocka_unit_test(test_a_newcomer_connects_it),
        cmocka_unit_test(test_the_commands_on_it),
        cmocka_unit_test(test_tuning),
        cmocka_unit_test(test_a_process_that_is_killed),
        cmocka_unit_test(test_a_wire_that_is_pulled),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
