/* rigpulse mark: moments and stretches of a recording get names, and are listed, moved and taken out. */
#include "tool/command.h"
#include "tool/reading.h"

#include "runtime/marks.h"

#include <stdio.h>
#include <string.h>

typedef struct mark_options {
    char *name, *move, *remove;
    gboolean json;
} mark_options;

/* ---- what is written ------------------------------------------------------------------------------- */

static bool parse_seconds(const command *self, const char *whole, const char *text, double *seconds)
{
    const char *why;
    return rgp_quantity_parse(text, "s", seconds, &why) ||
           (command_refuse(self, "'%s': %s; a time is meant, as in 12.5s or 10..30s", whole, why), false);
}

/* "12.3 s", or "10..30 s": a first end without a unit has that of the second. */
static bool parse_times(const command *self, const char *text, double *from, double *until)
{
    g_auto(GStrv) ends = g_strsplit(text, "..", 2);
    if (!ends[0] || !ends[1]) {
        const bool read = parse_seconds(self, text, text, from);
        *until = *from;
        return read;
    }
    char *behind_first, *behind_second;
    g_ascii_strtod(ends[0], &behind_first);
    g_ascii_strtod(ends[1], &behind_second);
    g_autofree char *first = g_strconcat(ends[0], *g_strstrip(behind_first) ? "" : behind_second, NULL);
    return parse_seconds(self, text, first, from) && parse_seconds(self, text, ends[1], until);
}

/* "2=WHAT", or where nothing becomes of it "2": the mark of that number. */
static bool parse_which(const command *self, const char *option, const char *text, guint *which, const char **what)
{
    const char *equals = strchr(text, '=');
    g_autofree char *number = g_strndup(text, equals ? (gsize)(equals - text) : strlen(text));
    guint64 n;
    if ((what && !equals) || !g_ascii_string_to_unsigned(number, 10, 1, G_MAXINT32, &n, NULL)) {
        command_refuse(self, "--%s %s: write the mark's number%s", option, text,
                       !what                         ? ", as the list has it"
                       : strcmp(option, "name") == 0 ? " and what it becomes: 2=idle"
                                                     : " and what it becomes: 2=12.5s, 2=10..30s");
        return false;
    }
    *which = (guint)n - 1;
    if (what) {
        *what = equals + 1;
    }
    return true;
}

/* ---- what is there --------------------------------------------------------------------------------- */

static void print_marks(const rgp_recording *r)
{
    g_autoptr(GPtrArray) marks = rgp_marks_of(r->history);
    for (guint i = 0; i < marks->len; i++) {
        const rgp_occurrence *o = marks->pdata[i];
        printf("%4u  %10.3f", i + 1, o->time);
        if (o->until > o->time) {
            printf(" .. %10.3f s  stretch '%s'\n", o->until, o->of);
        } else {
            printf(" %16s %s '%s'\n", "s ", "mark", o->of);
        }
    }
    if (marks->len == 0) {
        puts("no marks; 'rigpulse mark RECORDING NAME 10..30s' puts a stretch, with '12.5s' a mark");
    }
}

static void print_marks_json(const rgp_recording *r)
{
    g_autoptr(GPtrArray) marks = rgp_marks_of(r->history);
    json_t *all = json_array();
    for (guint i = 0; i < marks->len; i++) {
        const rgp_occurrence *o = marks->pdata[i];
        json_array_append_new(all, json_pack("{s:i, s:s, s:f, s:f}", "number", (int)i + 1, "name", o->of, "t", o->time,
                                             "until", o->until));
    }
    command_print_json(all);
}

/* ---- the command ----------------------------------------------------------------------------------- */

static bool do_change(const command *self, rgp_recording *r, const rgp_mark_change *to)
{
    g_autoptr(GError) error = NULL;
    return rgp_mark_change_one(r, to, &error) || (command_refuse(self, "%s: %s", r->name, error->message), false);
}

/* All of the times, or none where one of them is none. */
static bool put_all(const command *self, rgp_recording *r, const char *name, char **when)
{
    rgp_mark_change to = {.what = RGP_MARK_PUT, .name = name};
    for (char **one = when; *one; one++) {
        if (!parse_times(self, *one, &to.from, &to.until)) {
            return false;
        }
    }
    for (char **one = when; *one; one++) {
        if (!parse_times(self, *one, &to.from, &to.until) || !do_change(self, r, &to)) {
            return false;
        }
    }
    return true;
}

static bool rename_one(const command *self, rgp_recording *r, const char *text)
{
    rgp_mark_change to = {.what = RGP_MARK_NAME};
    return parse_which(self, "name", text, &to.which, &to.name) && do_change(self, r, &to);
}

static bool move_one(const command *self, rgp_recording *r, const char *text)
{
    rgp_mark_change to = {.what = RGP_MARK_MOVE};
    const char *when;
    return parse_which(self, "move", text, &to.which, &when) && parse_times(self, when, &to.from, &to.until) &&
           do_change(self, r, &to);
}

static bool remove_one(const command *self, rgp_recording *r, const char *text)
{
    rgp_mark_change to = {.what = RGP_MARK_REMOVE};
    return parse_which(self, "remove", text, &to.which, NULL) && do_change(self, r, &to);
}

static int mark_it(const command *self, const mark_options *o, int argc, char **argv)
{
    g_autoptr(GError) error = NULL;
    const int asked = (argc >= 4) + (o->name != NULL) + (o->move != NULL) + (o->remove != NULL);
    if (argc == 3) {
        return command_refuse(self, "'%s' needs a time: '12.5s', or '10..30s' for a stretch", argv[2]);
    }
    if (asked > 1) {
        return command_refuse(self, "one change at a time: the numbers of the marks follow the order of their times");
    }
    rgp_recording *r = reading_whole(argv[1], &error);
    if (!r) {
        return command_refuse(self, "%s", error->message);
    }
    const bool done = argc >= 4   ? put_all(self, r, argv[2], argv + 3)
                      : o->name   ? rename_one(self, r, o->name)
                      : o->move   ? move_one(self, r, o->move)
                      : o->remove ? remove_one(self, r, o->remove)
                                  : true;
    if (done && o->json) {
        print_marks_json(r);
    } else if (done) {
        print_marks(r);
    }
    const bool odd = r->odd_mark > 0;
    if (done && odd) {
        g_autofree char *complaint = rgp_recording_complaint(r);
        fprintf(o->json ? stderr : stdout, "%s\n", complaint);
    }
    rgp_recording_free(r);
    return !done ? EXIT_USAGE : odd ? EXIT_FAULT : EXIT_DONE;
}

static int run_mark(const command *self, int argc, char **argv)
{
    mark_options o = {0};
    const GOptionEntry entries[] = {
        {"name", 0, 0, G_OPTION_ARG_FILENAME, &o.name, "gives a mark another name, such as '2=idle'", "NUMBER=NAME"},
        {"move", 0, 0, G_OPTION_ARG_FILENAME, &o.move, "moves a mark, such as '2=12.5s'", "NUMBER=TIME"},
        {"remove", 0, 0, G_OPTION_ARG_FILENAME, &o.remove, "takes a mark out", "NUMBER"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 1, 1000, &status)) {
        status = mark_it(self, &o, argc, argv);
    }
    g_free(o.name);
    g_free(o.move);
    g_free(o.remove);
    return status;
}

const command command_mark = {"mark", "RECORDING [NAME TIME|FROM..TO ...]",
                              "gives moments and stretches of a recording a name", "rigpulse mark basin idle 20..28s",
                              run_mark};
