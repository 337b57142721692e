/* Leaving, however it comes: each command, on each signal that asks for it, at several moments; a terminal that goes
 * away; suspended and continued; and dying, before which the port goes to rest. */
#include "terminal.h"

#include "runtime/interrupt.h"

#include <poll.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

static const char basin[] =
    "rig basin\ntick 10 ms\nsensor level counts 0..4095\nactuator pump percent 0..100, rest at 0\n"
    "signal depth = level | table 312: 0 cm, 3020: 12 cm\n"
    "loop bath: depth at 5 cm with pump\n    pid kp 20, ki 2, kd 0\n    one way\n"
    "hookup sim\n    tank tub: filled by pump, inflow 60 ml/s, leak 20 ml/s, start 3 cm\n"
    "    level sees tub depth: 312 at 0 cm, 3020 at 12 cm, noise 2\n";

static char *make_harbour(void)
{
    char *folder = make_folder();
    put_file(folder, "basin.rig", basin, -1);
    return folder;
}

/* ---- without a terminal ------------------------------------------------------------------------------ */

/* Its standard input stays open, with nothing to read. */
static pid_t start(const char *folder, const char *arguments, int *input, int *output)
{
    g_autofree char *line = g_strconcat(RIGPULSE_TOOL " ", arguments, NULL);
    g_auto(GStrv) argv = NULL;
    GPid child = 0;
    assert_true(g_shell_parse_argv(line, NULL, &argv, NULL));
    assert_true(g_spawn_async_with_pipes(folder, argv, NULL, G_SPAWN_DO_NOT_REAP_CHILD | G_SPAWN_STDERR_TO_DEV_NULL,
                                         NULL, NULL, &child, input, output, NULL, NULL));
    return child;
}

static char *read_all(int file)
{
    GString *all = g_string_new(NULL);
    char piece[4096];
    for (ssize_t got; (got = read(file, piece, sizeof piece)) > 0;) {
        g_string_append_len(all, piece, got);
    }
    close(file);
    return g_string_free(all, FALSE);
}

static int end_of(pid_t child)
{
    int status = 0;
    assert_int_equal(waitpid(child, &status, 0), child);
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}

/* The call with a signal after so many milliseconds. On a busy machine that may be before it has begun, which ends it
 * without a word and with nothing driven: then it gets more time. */
static int signalled(const char *folder, const char *arguments, int number, guint moment, char **said)
{
    int status = -number;
    *said = g_strdup("");
    for (guint more = 1; more <= 16 && status == -number && **said == '\0'; more *= 2) {
        int input, output;
        const pid_t child = start(folder, arguments, &input, &output);
        g_usleep(more * moment * 1000u);
        kill(child, number);
        g_free(*said);
        *said = read_all(output);
        status = end_of(child);
        close(input);
    }
    return status;
}

static void test_signals(void **unused)
{
    (void)unused;
    static const struct {
        const char *arguments, *says;
    } cases[] = {
        {"run basin.rig", "interrupted after"},
        {"run basin.rig --record r --overwrite", "interrupted after"},
        {"run basin.rig --fast --for 1e7s --quiet", "interrupted after"},
        {"watch basin.rig", "interrupted after"},
        {"jog basin.rig pump --to 50%", "interrupted; pump is at rest"},
        {"jog basin.rig pump --least", "interrupted; pump is at rest"},
        {"inspect basin.rig --for 60s", "interrupted; nothing was driven"},
        {"calibrate basin.rig depth -p 3cm -p 6cm --window 60s", "basin.rig is as it was"},
        {"calibrate basin.rig depth", "basin.rig is as it was"},
        {"calibrate basin.rig pump --unit ml", "interrupted; pump is at rest, and basin.rig as it was"},
        {"model basin.rig bath", "interrupted; pump is at rest, and no model was made"},
        {"suggest basin.rig bath --test relay --write", "interrupted; pump is at rest, and no model was made"},
        {"tune basin.rig bath --step 1cm --over 10h", "everything at rest: interrupted"},
    };
    static const int numbers[] = {SIGINT, SIGTERM, SIGHUP};
    static const guint moments[] = {400, 600, 900};
    char *folder = make_harbour();
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        for (size_t k = 0; k < G_N_ELEMENTS(numbers); k++) {
            g_autofree char *said = NULL;
            const int status = signalled(folder, cases[i].arguments, numbers[k], moments[(k + i) % 3], &said);
            if (status != 0 || !(strstr(said, cases[i].says) || strstr(said, "interrupted before"))) {
                fail_msg("%s, signal %d: ended with %d: %s", cases[i].arguments, numbers[k], status, said);
            }
        }
    }
    remove_folder(folder);
}

/* In the middle of a trial: the auger stops, and no fit is made of it. */
static void test_a_signal_while_a_trial_drives(void **unused)
{
    (void)unused;
    char *folder = make_harbour();
    int input, output;
    const pid_t child = start(folder, "calibrate basin.rig pump --unit ml", &input, &output);
    assert_int_equal(write(input, "30s\n", 4), 4);
    g_usleep(1500000);
    kill(child, SIGTERM);
    g_autofree char *said = read_all(output);
    assert_int_equal(end_of(child), 0);
    assert_says(said, "interrupted; pump is at rest");
    close(input);
    remove_folder(folder);
}

/* ---- at a terminal ------------------------------------------------------------------------------------ */

/* A view, how it is entered, and the words that show that it stands. */
static const struct {
    const char *arguments, *shows;
} views[] = {{"watch basin.rig", "live "},
             {"watch basin.rig --for 200ms", "ended after 0.2 s"},
             {"watch --from past", "recorded, complete"},
             {"jog basin.rig pump", "at rest"},
             {"tune basin.rig bath", "bath"}};

static char *make_past(void)
{
    char *folder = make_harbour();
    called c = call_tool(folder, "run basin.rig --fast --for 2s --record past");
    assert_int_equal(c.status, 0);
    call_done(&c);
    return folder;
}

static void test_signals_in_views(void **unused)
{
    (void)unused;
    static const int numbers[] = {SIGINT, SIGTERM, SIGHUP};
    char *folder = make_past();
    for (size_t i = 0; i < G_N_ELEMENTS(views); i++) {
        for (size_t k = 0; k < G_N_ELEMENTS(numbers); k++) {
            g_autofree char *left = NULL;
            person p = person_watch(folder, views[i].arguments, 24, 80);
            person_sees(&p, views[i].shows);
            kill(p.child, numbers[k]);
            assert_int_equal(person_leaves(&p, &left), 0);
            assert_says(left, "\x1b[?1049l");
        }
    }
    remove_folder(folder);
}

/* The process ends by itself, and does not spend the machine's time until then. */
static void test_a_terminal_that_goes_away(void **unused)
{
    (void)unused;
    char *folder = make_past();
    for (size_t i = 0; i < G_N_ELEMENTS(views); i++) {
        person p = person_watch(folder, views[i].arguments, 24, 80);
        struct rusage used;
        int status = 0;
        person_sees(&p, views[i].shows);
        close(p.terminal);
        assert_int_equal(wait4(p.child, &status, 0, &used), p.child);
        assert_true(WIFEXITED(status));
        assert_true(used.ru_utime.tv_sec < 2);
        vterm_free(p.model);
        g_string_free(p.seen, TRUE);
    }
    remove_folder(folder);
}

/* Ctrl-Z gives the terminal back and stops the process; continued, it is as before, and no tick was late by that. */
static void test_suspended(void **unused)
{
    (void)unused;
    char *folder = make_past();
    for (size_t i = 0; i < G_N_ELEMENTS(views); i++) {
        int status = 0;
        person p = person_watch(folder, views[i].arguments, 24, 100);
        person_sees(&p, views[i].shows);
        kill(p.child, SIGTSTP);
        for (int patience = 1000; waitpid(p.child, &status, WUNTRACED | WNOHANG) == 0 && patience > 0; patience--) {
            person_looks_on(&p, 5);
        }
        if (!WIFSTOPPED(status)) {
            g_autofree char *screen = person_screen(&p);
            fail_msg("%s does not stop (%x): %s", views[i].arguments, (unsigned)status, screen);
        }
        g_usleep(1500000);
        kill(p.child, SIGCONT);
        person_looks_on(&p, 200);
        person_sees(&p, views[i].shows);
        if (i == 0) {
            g_autofree char *screen = person_screen(&p);
            const double live = g_ascii_strtod(strstr(screen, "live ") + 5, NULL);
            assert_true(live < 1.4); /* the time in which it was stopped is none of the rig's */
        }
        person_types(&p, "q");
        assert_int_equal(person_leaves(&p, NULL), 0);
    }
    remove_folder(folder);
}

/* ---- dying -------------------------------------------------------------------------------------------- */

static void write_rest(void *self)
{
    const int *to = self;
    assert_int_equal(write(*to, "rest", 4), 4);
}

static int fill_the_stack(volatile int depth)
{
    volatile char room[4096];
    room[0] = (char)depth;
    return depth < 1 << 20 ? fill_the_stack(depth + 1) + room[0] : 0;
}

static void die(int how)
{
    const char *const nowhere = NULL;
    setrlimit(RLIMIT_CORE, &(struct rlimit){0, 0});
    switch (how) {
    case 0:
        raise(SIGABRT);
        break;
    case 1:
        raise(SIGQUIT);
        break;
    case 2:
        _exit(*(const volatile char *)nowhere);
    default:
        _exit(fill_the_stack(0));
    }
}

/* Whatever ends it, the port has gone to rest before. */
static void test_dying(void **unused)
{
    (void)unused;
    static const int numbers[] = {SIGABRT, SIGQUIT, SIGSEGV, SIGSEGV};
    for (int how = 0; how < (int)G_N_ELEMENTS(numbers); how++) {
        int ends[2], status = 0;
        char said[8] = {0};
        assert_int_equal(pipe(ends), 0);
        const pid_t child = fork();
        if (child == 0) {
            const rgp_port port = {.self = &ends[1], .rest_now = write_rest};
            interrupt_guard(&port);
            interrupt_catch();
            die(how);
            _exit(0);
        }
        close(ends[1]);
        assert_int_equal(waitpid(child, &status, 0), child);
        assert_true(WIFSIGNALED(status));
        assert_int_equal(WTERMSIG(status), numbers[how]);
        assert_int_equal(read(ends[0], said, sizeof said), 4);
        assert_string_equal(said, "rest");
        close(ends[0]);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_signals),          cmocka_unit_test(test_a_signal_while_a_trial_drives),
        cmocka_unit_test(test_signals_in_views), cmocka_unit_test(test_a_terminal_that_goes_away),
        cmocka_unit_test(test_suspended),        cmocka_unit_test(test_dying),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
