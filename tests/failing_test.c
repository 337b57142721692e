/* Each command, when the n-th opening, writing, handing to the disk, renaming or allocation fails, for each n: it ends
 * with a status of the README and a message, or, where GLib cannot have memory, dies by its hand; a rig file is the old
 * one or the new one, and no temporary file stays behind. */
#include "support.h"

#include <glib/gstdio.h>

#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#define PATIENCE_S       20
#define ALLOCATIONS_EACH 40 /* of the first ones each is tried, later ones ever more rarely */

static const char basin[] =
    "rig basin\ntick 20 ms\nsensor level counts 0..4095\nactuator pump percent 0..100, rest at 0\n"
    "signal depth = level | table 312: 0 cm, 3020: 12 cm\n"
    "loop bath: depth at 5 cm with pump\n    pid kp 20, ki 2, kd 0\n"
    "hookup sim\n    tank tub: filled by pump, inflow 60 ml/s, leak 20 ml/s, start 3 cm\n"
    "    level sees tub depth: 312 at 0 cm, 3020 at 12 cm\n";

static const char *const commands[] = {
    "check basin.rig",
    "run basin.rig --fast --for 2s --record new --kept kept",
    "run basin.rig --fast --for 2s --record old --overwrite",
    "inspect basin.rig --fast --for 1s",
    "calibrate basin.rig depth -p 2cm -p 9cm --place --fast",
    "calibrate basin.rig --undo",
    "jog basin.rig pump --to 50% --fast",
    "tune basin.rig bath --step 1cm --over 1s --try 'kp 10' --save 1",
    "list old",
    "plot old -o new.png",
    "divider 1kohm 100kohm",
};

static char *prepare(void)
{
    char *folder = make_folder();
    put_file(folder, "basin.rig", basin, -1);
    called c = call_tool(folder, "run basin.rig --fast --for 1s --record old");
    assert_int_equal(c.status, 0);
    call_done(&c);
    c = call_tool(folder, "calibrate basin.rig depth -p 3cm -p 8cm --place --fast");
    assert_int_equal(c.status, 0);
    call_done(&c);
    return folder;
}

/* A copy of the same folder for each try. */
static char *make_harbour(void)
{
    static char *prepared;
    char *folder = make_folder();
    prepared = prepared ? prepared : prepare();
    g_autoptr(GPtrArray) names = list_files(prepared, "");
    for (guint i = 0; i < names->len; i++) {
        gsize length;
        g_autofree char *from = g_build_filename(prepared, names->pdata[i], NULL), *bytes = NULL;
        assert_true(g_file_get_contents(from, &bytes, &length, NULL));
        put_file(folder, names->pdata[i], bytes, (gssize)length);
    }
    return folder;
}

static void set_up(void *limit)
{
    const rlim_t *bytes = limit;
    if (bytes) {
        setrlimit(RLIMIT_FSIZE, &(struct rlimit){*bytes, *bytes});
    }
    alarm(PATIENCE_S); /* stays set in the program that is started */
    setrlimit(RLIMIT_CORE, &(struct rlimit){0, 0});
}

static called call_failing(const char *folder, const char *arguments, const char *failing, rlim_t *limit)
{
    called c = {0};
    g_autofree char *line = g_strconcat(RIGPULSE_TOOL " ", arguments, NULL);
    g_autofree char *calls = g_build_filename(folder, "calls", NULL);
    g_auto(GStrv) argv = NULL;
    g_auto(GStrv) with = g_get_environ();
    int status = 0;
    with = g_environ_setenv(with, "LD_PRELOAD", RIGPULSE_NTH, true);
    with = g_environ_setenv(with, "RIGPULSE_FAIL", failing, true);
    with = g_environ_setenv(with, "RIGPULSE_CALLS", calls, true);
    with = g_environ_setenv(with, "G_SLICE", "always-malloc", true);
    assert_true(g_shell_parse_argv(line, NULL, &argv, NULL));
    assert_true(g_spawn_sync(folder, argv, with, G_SPAWN_DEFAULT, set_up, limit, &c.out, &c.err, &status, NULL));
    c.status = WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
    return c;
}

static long calls_of(const char *folder)
{
    g_autofree char *text = get_file(folder, "calls");
    return atol(text);
}

/* The rig file is whole, and nothing temporary is left of a process that has ended by itself. */
static void check_folder(const char *folder, const char *said, bool died)
{
    g_autofree char *text = get_file(folder, "basin.rig");
    if (!g_str_has_prefix(text, "rig basin\n") || !g_str_has_suffix(text, "3020 at 12 cm\n")) {
        fail_msg("%s: the rig file is now: %s", said, text);
    }
    g_autoptr(GPtrArray) names = list_files(folder, "");
    for (guint i = 0; i < names->len && !died; i++) {
        if (strstr(names->pdata[i], ".tmp-")) {
            fail_msg("%s: %s is left", said, (char *)names->pdata[i]);
        }
    }
}

static void try_one(const char *folder, const char *command, const char *failing, rlim_t *limit, bool may_die)
{
    called c = call_failing(folder, command, failing, limit);
    if (c.status == -SIGALRM) {
        fail_msg("%s, with %s: does not end: %s%s", command, failing, c.out, c.err);
    }
    const bool died = c.status == -SIGTRAP || c.status == -SIGABRT;
    if (died ? !may_die : c.status < 0 || c.status > 2) {
        fail_msg("%s, with %s: ended with %d: %s%s", command, failing, c.status, c.out, c.err);
    }
    if (!died && c.status != 0 && *c.err == '\0' && *c.out == '\0') {
        fail_msg("%s, with %s: ended with %d and without a word", command, failing, c.status);
    }
    check_folder(folder, command, died);
    call_done(&c);
}

/* The number of calls that the tool makes when nothing fails. */
static long count_calls(const char *command, const char *function)
{
    g_autofree char *none = g_strconcat(function, ":0", NULL);
    char *folder = make_harbour();
    called c = call_failing(folder, command, none, NULL);
    const long count = calls_of(folder);
    call_done(&c);
    remove_folder(folder);
    return count;
}

static long try_each(const char *function, const char *ever, bool may_die)
{
    long tries = 0;
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        const long count = count_calls(commands[i], function);
        for (long n = 1; n <= count; n += n > ALLOCATIONS_EACH && may_die ? n / 8 : 1) {
            g_autofree char *failing = g_strdup_printf("%s:%ld%s", function, n, ever);
            char *folder = make_harbour();
            try_one(folder, commands[i], failing, NULL, may_die);
            remove_folder(folder);
            tries++;
        }
    }
    return tries;
}

static void test_files(void **unused)
{
    (void)unused;
    static const char *const functions[] = {"open", "write", "fsync", "rename"};
    for (size_t i = 0; i < G_N_ELEMENTS(functions); i++) {
        const long once = try_each(functions[i], "", false), ever = try_each(functions[i], ":ever", false);
        print_message("%s: the n-th failed %ld times, and from the n-th on %ld times\n", functions[i], once, ever);
    }
}

static void test_memory(void **unused)
{
    (void)unused;
    print_message("malloc: the n-th failed %ld times\n", try_each("malloc", "", true));
}

/* No file may grow beyond a limit, as on a disk that fills up in the middle of a row, a picture or a summary. */
static void test_full_disk(void **unused)
{
    (void)unused;
    static const rlim_t limits[] = {0, 1, 100, 1000, 4096, 5000, 20000};
    for (size_t i = 0; i < G_N_ELEMENTS(commands); i++) {
        for (size_t k = 0; k < G_N_ELEMENTS(limits); k++) {
            rlim_t limit = limits[k];
            char *folder = make_harbour();
            try_one(folder, commands[i], "open:0", &limit, false);
            remove_folder(folder);
        }
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_files),
        cmocka_unit_test(test_memory),
        cmocka_unit_test(test_full_disk),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
