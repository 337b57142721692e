/* Each option of each command, as the help lists them: left without its value, misspelt, and given what no option
 * takes. One message for one mistake, nothing printed besides, and no text of the caller's turns the terminal. */
#include "support.h"

#include <glib/gstdio.h>
#include <string.h>

static const char rig[] =
    "rig quay\ntick 10 ms\nsensor level counts 0..4095, every 50 ms\nactuator pump percent 0..100, rest at 0\n"
    "param deep = 500 counts in 0..4000 counts\nloop steady: level at deep with pump\n    pid kp 1 %/counts, ki 0\n"
    "hookup sim\n    level reads 700: noise 3\n";

/* Values that some options would take for a number, a time, a name or a list, and none as it is. */
static const char *const odd[] = {"", "-", "\033[31mred", "1e999", "nan s", "%n%s", "\xff\xfe", "=,=;"};

typedef struct option {
    char *name;
    bool wants_value;
} option;

/* Of a help text, without its own; to be given back with g_array_unref(). */
static GArray *options_of(const char *help)
{
    GArray *all = g_array_new(FALSE, FALSE, sizeof(option));
    g_auto(GStrv) line = g_strsplit(help, "\n", -1);
    for (char **l = line; *l; l++) {
        const char *at = strstr(*l, "--");
        const bool is_option = at && strspn(*l, " ") > 0 && (at == *l + strspn(*l, " ") || (*l)[2] == '-');
        if (is_option && !g_str_has_prefix(at, "--help")) {
            const size_t length = strcspn(at + 2, "= ,");
            const option one = {g_strndup(at + 2, length), at[2 + length] == '='};
            g_array_append_val(all, one);
        }
    }
    return all;
}

static void free_options(GArray *all)
{
    for (guint i = 0; i < all->len; i++) {
        g_free(g_array_index(all, option, i).name);
    }
    g_array_unref(all);
}

/* Nothing raw reaches the terminal, and it ended by itself. */
static void check_printable(const char *arguments, const called *c)
{
    if (c->status < 0 || c->status > 2 || strchr(c->out, '\033') || strchr(c->err, '\033') ||
        !g_utf8_validate(c->err, -1, NULL) || !g_utf8_validate(c->out, -1, NULL)) {
        fail_msg("rigpulse %s: status %d\n%s\n%s", arguments, c->status, c->out, c->err);
    }
}

/* It is refused, by one message of the command's. */
static void check_refused(const char *folder, const char *command, const char *arguments, const char *says)
{
    called c = call_tool(folder, arguments);
    g_autofree char *begins = g_strdup_printf("rigpulse %s: ", command);
    check_printable(arguments, &c);
    if (c.status != 2 || c.out[0] != '\0' || !g_str_has_prefix(c.err, begins) || !strstr(c.err, says)) {
        fail_msg("rigpulse %s: status %d, not refused for '%s'\n%s\n%s", arguments, c.status, says, c.out, c.err);
    }
    call_done(&c);
}

static void check_option(const char *folder, const char *command, const option *o)
{
    if (o->wants_value) {
        g_autofree char *left_out = g_strdup_printf("%s --%s", command, o->name);
        check_refused(folder, command, left_out, o->name);
    } else {
        g_autofree char *too_much = g_strdup_printf("%s --%s=1", command, o->name);
        check_refused(folder, command, too_much, o->name);
    }
    g_autofree char *typo = g_strdup_printf("%s --%sx", command, o->name);
    check_refused(folder, command, typo, o->name);
}

/* All of them, or where that takes long another one of each option. */
static void check_odd_values(const char *folder, const char *command, const option *o, guint turn)
{
    for (size_t i = 0; o->wants_value && i < OFTEN(G_N_ELEMENTS(odd) * 5u) / 5u; i++) {
        g_autofree char *value = g_shell_quote(odd[(i + turn) % G_N_ELEMENTS(odd)]),
                        *arguments = g_strdup_printf("%s --%s=%s quay.rig steady", command, o->name, value);
        called c = call_tool(folder, arguments);
        check_printable(arguments, &c);
        call_done(&c);
    }
}

/* Of commands that end by themselves, and draw nothing on the whole screen. */
static bool may_run(const char *command)
{
    return !g_str_equal(command, "watch") && !g_str_equal(command, "demo") && !g_str_equal(command, "ports");
}

/* Calls that once with each command's name and its help. */
static guint each_command(const char *folder, void (*call)(const char *folder, const char *command, const char *help))
{
    called help = call_tool(folder, "--help");
    g_auto(GStrv) line = g_strsplit(help.out, "\n", -1);
    guint commands = 0;
    for (char **l = line; *l; l++) {
        if (g_str_has_prefix(*l, "  ") && g_ascii_islower((*l)[2])) {
            g_autofree char *command = g_strndup(*l + 2, strcspn(*l + 2, " ")),
                            *ask = g_strconcat(command, " --help", NULL);
            called c = call_tool(folder, ask);
            call(folder, command, c.out);
            call_done(&c);
            commands++;
        }
    }
    call_done(&help);
    return commands;
}

static guint options;

static void check_options(const char *folder, const char *command, const char *help)
{
    GArray *all = options_of(help);
    for (guint i = 0; i < all->len; i++, options++) {
        if (OFTEN(5u) > 1u) { /* the sanitizers find nothing in them that odd values do not show */
            check_option(folder, command, &g_array_index(all, option, i));
        }
        if (may_run(command)) {
            check_odd_values(folder, command, &g_array_index(all, option, i), options);
        }
    }
    free_options(all);
}

static void test_options(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "quay.rig", rig, -1);
    assert_true(each_command(folder, check_options) > 20 && options > 80);
    remove_folder(folder);
}

/* All that the command needs, by its usage, of which the first is that file. NULL: its first is no file, or it writes
 * one, whose kind no usage says. */
static char *call_with(const char *command, const char *help, const char *file)
{
    static const char before[] = "[OPTION?] ";
    const char *usage = strstr(help, before);
    g_autofree char *line = usage ? g_strndup(usage + strlen(before), strcspn(usage + strlen(before), "\n")) : NULL;
    if (!line || strstr(line, "-o ") || !(g_str_has_prefix(line, "FILE") || g_str_has_prefix(line, "RECORDING"))) {
        return NULL;
    }
    g_auto(GStrv) word = g_strsplit(line, " ", -1);
    GString *to = g_string_new(command);
    g_string_append_printf(to, " %s", file);
    for (char **w = word + 1; *w && **w != '['; w++) { /* what may be left away stands at the end */
        g_string_append(to, " steady");
    }
    return g_string_free(to, FALSE);
}

/* A file that is not there, a folder, one with nothing in it, and one of noise: told in words that name it. */
static void check_files(const char *folder, const char *command, const char *help)
{
    static const char *const files[] = {"nowhere", "a_folder", "empty", "noise"};
    for (size_t i = 0; i < G_N_ELEMENTS(files); i++) {
        g_autofree char *arguments = call_with(command, help, files[i]);
        if (arguments) {
            called c = call_tool(folder, arguments);
            check_printable(arguments, &c);
            if (c.status == 0 || c.out[0] != '\0' || !strstr(c.err, files[i])) {
                fail_msg("rigpulse %s: status %d\n%s\n%s", arguments, c.status, c.out, c.err);
            }
            call_done(&c);
        }
    }
}

static void test_files(void **unused)
{
    (void)unused;
    static const char noise[] = "\x7f\x00\xff\x1b[31m\n,,,\"\n\xfe{}[\r\n";
    static const char *const endings[] = {"", ".json", ".csv", ".events.jsonl"};
    char *folder = make_folder();
    g_autofree char *inner = g_build_filename(folder, "a_folder", NULL);
    assert_int_equal(g_mkdir(inner, 0755), 0);
    for (size_t i = 0; i < G_N_ELEMENTS(endings); i++) {
        g_autofree char *empty = g_strconcat("empty", endings[i], NULL),
                        *is_noise = g_strconcat("noise", endings[i], NULL);
        put_file(folder, empty, "", 0);
        put_file(folder, is_noise, noise, sizeof noise - 1);
    }
    each_command(folder, check_files);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_options), cmocka_unit_test(test_files)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
