/* The parts that all commands share: options, refusals, JSON. */
#include "command.h"

#include "port_option.h"

#include "rigpulse/lang.h"

#include <errno.h>
#include <stdio.h>
#include <string.h>

static void say(const command *self, const char *format, va_list arguments)
{
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    fprintf(stderr, "rigpulse %s: %s\n", self->name, rgp_make_printable(text, true));
}

int command_refuse(const command *self, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    say(self, format, arguments);
    va_end(arguments);
    return EXIT_USAGE;
}

bool command_fails(const command *self, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    say(self, format, arguments);
    va_end(arguments);
    return false;
}

void command_print_json(json_t *whole)
{
    json_dumpf(whole, stdout, JSON_INDENT(2) | JSON_REAL_PRECISION(9));
    putchar('\n');
    json_decref(whole);
}

/* The options that there are, as one would type them. */
static GPtrArray *option_words(const GOptionEntry *entries)
{
    GPtrArray *words = g_ptr_array_new_with_free_func(g_free);
    for (const GOptionEntry *e = entries; e && e->long_name; e++) {
        if (*e->long_name) {
            g_ptr_array_add(words, g_strconcat("--", e->long_name, NULL));
        }
    }
    g_ptr_array_add(words, g_strdup("--help"));
    return words;
}

/* A letter behind one dash, with or without its value. */
static bool is_short_option(const GOptionEntry *entries, const char *typed)
{
    bool is = typed[0] == '-' && typed[1] == 'h';
    for (const GOptionEntry *e = entries; e && e->long_name; e++) {
        is |= typed[0] == '-' && e->short_name && typed[1] == e->short_name;
    }
    return is;
}

static int refuse_option(const command *self, const GOptionEntry *entries, int argc, char **argv, const GError *error)
{
    if (!g_error_matches(error, G_OPTION_ERROR, G_OPTION_ERROR_UNKNOWN_OPTION)) {
        return command_refuse(self, "%s", error->message);
    }
    g_autoptr(GPtrArray) words = option_words(entries);
    for (int i = 1; i < argc; i++) {
        g_autofree char *typed = g_strndup(argv[i], strcspn(argv[i], "="));
        if (*typed != '-' || is_short_option(entries, typed) ||
            g_ptr_array_find_with_equal_func(words, typed, g_str_equal, NULL)) {
            continue;
        }
        const char *near = rgp_nearest_word(typed, (const char *const *)words->pdata, words->len);
        g_autofree char *all = NULL;
        if (!near) {
            g_ptr_array_add(words, NULL);
            all = g_strjoinv(", ", (char **)words->pdata);
        }
        return command_refuse(
            self, near ? "there is no option '%s'; did you mean '%s'?" : "there is no option '%s'; there are %s", typed,
            near ? near : all);
    }
    return command_refuse(self, "%s", error->message);
}

/* The first that has a value and takes none, which the parser would pass over; NULL: there is none. */
static const char *needless_value(const GOptionEntry *entries, char **argv)
{
    for (char **a = argv + 1; *a && !g_str_equal(*a, "--"); a++) {
        const size_t length = strcspn(*a, "=");
        for (const GOptionEntry *e = entries; (*a)[length] && e && e->long_name; e++) {
            const bool is_it = g_str_has_prefix(*a, "--") && strlen(e->long_name) + 2 == length &&
                               strncmp(*a + 2, e->long_name, length - 2) == 0;
            if (is_it && e->arg == G_OPTION_ARG_NONE) {
                return *a;
            }
        }
    }
    return NULL;
}

bool command_options(const command *self, const GOptionEntry *entries, int *argc, char ***argv, int least, int most,
                     int *status)
{
    g_autofree char *title = g_strdup_printf("%s", self->arguments);
    g_autofree char *after = g_strdup_printf("Example:\n  %s\n", self->example);
    g_autoptr(GError) error = NULL;
    g_autofree char *program = g_strconcat("rigpulse ", self->name, NULL);
    const int given = *argc;
    g_autofree char **before = g_memdup2(*argv, ((gsize)given + 1) * sizeof **argv);
    const char *needless = needless_value(entries, before);
    if (needless) {
        const int name = (int)strcspn(needless, "=");
        *status = command_refuse(self, "'%.*s' takes no value: leave '%s' away", name, needless, needless + name);
        return false;
    }
    GOptionContext *context = g_option_context_new(title);
    g_set_prgname(program);
    g_option_context_set_summary(context, self->summary);
    g_option_context_set_description(context, after);
    if (entries) {
        g_option_context_add_main_entries(context, entries, NULL);
    }
    const bool sound = g_option_context_parse(context, argc, argv, &error);
    g_option_context_free(context);
    if (!sound) {
        *status = refuse_option(self, entries, given, before, error);
        return false;
    }
    if (*argc - 1 < least || *argc - 1 > most) {
        *status = *argc - 1 < least
                      ? command_refuse(self, "it needs %s; for example: %s", self->arguments, self->example)
                      : command_refuse(self, "'%s' is too much; it takes %s", (*argv)[most + 1],
                                       *self->arguments ? self->arguments : "no arguments");
        return false;
    }
    if (!port_option_take(&error)) {
        *status = command_refuse(self, "%s", error->message);
        return false;
    }
    return true;
}

bool command_seed(const command *self, const char *text, uint64_t *seed)
{
    char *end;
    errno = 0;
    *seed = text ? g_ascii_strtoull(text, &end, 10) : 1;
    if (text && (errno != 0 || *end != '\0' || !g_ascii_isdigit(*text))) {
        command_refuse(self, "--seed %s: it must be a whole number, 0 or more", text);
        return false;
    }
    return true;
}
