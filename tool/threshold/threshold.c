/* rigpulse threshold: a limit, a margin, a width and a holdoff from recordings in which idle time and events are
 * marked. */
#include "threshold.h"

#include "live.h"

#include "tool/names.h"
#include "tool/picture.h"
#include "tool/port_option.h"
#include "tool/reading.h"
#include "tool/rewrite.h"
#include "tool/rigfile.h"

#include "analysis/figures/threshold_figure.h"
#include "rigpulse/lang.h"
#include "runtime/ports.h"

#include <stdio.h>
#include <string.h>

#define EVENTS_AN_HOUR 20.0
#define LIVE_EVENT     "event" /* the name of its marks, where nobody gives one */

typedef struct threshold_options {
    char *idle, *event, *avoid, *cost, *events, *picture;
    char *record, *script, *seed;
    gboolean write, undo, anyway, bare, json;
    gboolean live, fast, overwrite;
} threshold_options;

static void clear_options(threshold_options *o)
{
    g_free(o->idle);
    g_free(o->event);
    g_free(o->avoid);
    g_free(o->cost);
    g_free(o->events);
    g_free(o->picture);
    g_free(o->record);
    g_free(o->script);
    g_free(o->seed);
}

/* ---- what an error costs --------------------------------------------------------------------------- */

/* A number above 0 up to the end, or to `stop`. */
static bool parse_weight(const char *text, const char *stop, double *to)
{
    char *end;
    *to = g_ascii_strtod(text, &end);
    return end != text && (stop ? end == stop : !*end) && *to > 0.0 && *to < 1e9;
}

static bool parse_cost(const command *self, const threshold_options *o, rgp_trigger_cost *to)
{
    *to = (rgp_trigger_cost){1.0, 1.0, EVENTS_AN_HOUR};
    if (o->avoid && o->cost) {
        return command_refuse(self, "--avoid and --cost both say what an error weighs; take one"), false;
    }
    if (o->avoid && strcmp(o->avoid, "false") == 0) {
        to->of_false = 5.0;
    } else if (o->avoid && strcmp(o->avoid, "misses") == 0) {
        to->of_miss = 5.0;
    } else if (o->avoid) {
        return command_refuse(self, "--avoid %s: it takes 'false' or 'misses'", o->avoid), false;
    }
    const char *colon = o->cost ? strchr(o->cost, ':') : NULL;
    if (o->cost &&
        !(colon && parse_weight(o->cost, colon, &to->of_false) && parse_weight(colon + 1, NULL, &to->of_miss))) {
        return command_refuse(
                   self, "--cost %s: it takes what a false trigger weighs and what a missed event does: 1:10", o->cost),
               false;
    }
    if (o->events && !parse_weight(o->events, NULL, &to->events_an_hour)) {
        return command_refuse(self, "--events %s: how many events an hour are expected, as a number", o->events), false;
    }
    return true;
}

/* ---- what is asked for ----------------------------------------------------------------------------- */

static bool refuse_subject(const command *self, const rgp_rig *rig, const char *name)
{
    const bool param = rgp_image_find(rig->image, RGP_FIND_PARAM, name) >= 0, line = g_ascii_isdigit(*name),
               slot = rgp_image_find(rig->image, RGP_FIND_SLOT, name) >= 0;
    const char *near = names_nearest(rig->image, name, false);
    if (param || line) {
        command_refuse(
            self, param ? "'%s' is the limit of no rule and no band" : "no rule with a limit begins in line %s", name);
    } else if (slot) {
        command_refuse(self, "'%s' is no number: a threshold holds a number against a limit", name);
    } else {
        command_refuse(self, near ? "there is no value '%s'; did you mean '%s'?" : "there is no value '%s'", name,
                       near);
    }
    return false;
}

/* The one threshold that is meant; where there are several, the user has to say which. */
static bool find_subject(const command *self, rgp_rig *rig, const char *name, rgp_threshold *to, bool *written)
{
    rgp_threshold all[RGP_THRESHOLDS_MAX];
    const char *bare = g_str_has_prefix(name, "line ") ? name + strlen("line ") : name;
    const uint32_t count = rgp_rig_thresholds(rig, bare, all);
    *written = count == 1;
    if (count == 1) {
        *to = all[0];
        return true;
    }
    if (count > 1) {
        g_autoptr(GString) list = g_string_new(NULL);
        for (uint32_t i = 0; i < count; i++) {
            g_string_append_printf(list, "%s%s", i > 0 ? ", " : "", all[i].what);
        }
        command_refuse(self, "'%s' is held against several limits: %s; ask for 'line N', a parameter or a band", name,
                       list->str);
        return false;
    }
    return rgp_rig_threshold_template(rig, bare, to) || refuse_subject(self, rig, bare);
}

/* ---- what is written ------------------------------------------------------------------------------- */

/* False when the language does not take it, which has been said. */
static bool takes_text(const command *self, const rgp_rig *rig, const char *text)
{
    rgp_rig *made = text ? rgp_rig_compile(rig->file, text, strlen(text), rgp_ports_catalog()) : NULL;
    const bool sound = made && made->image;
    if (!sound) {
        command_refuse(self, "the result cannot be written:\n%s", made ? rgp_rig_report(made) : "memory has run out");
    }
    rgp_rig_free(made);
    return sound;
}

static int write_it(const command *self, const rgp_threshold_study *s, const rgp_threshold_request *r, const char *path,
                    bool quiet)
{
    const rgp_trigger *t = &s->chosen.trigger;
    const rgp_threshold_numbers to = {rgp_trigger_number(t->limit), rgp_trigger_number(t->margin),
                                      rgp_trigger_number(t->width_s), rgp_trigger_number(t->holdoff_s)};
    const char *text = rgp_edit_threshold(r->rig, r->where, &to);
    g_autofree char *what = g_strdup_printf("threshold %s", r->where->what);
    g_autoptr(GError) error = NULL;
    if (!takes_text(self, r->rig, text)) {
        return EXIT_USAGE;
    }
    if (!rewrite_file(path, r->rig->source, text, what, &error)) {
        return command_refuse(self, "%s", error->message);
    }
    if (!quiet) {
        printf("\n%s is written; 'rigpulse threshold %s --undo' takes it back\n", path, path);
    }
    return EXIT_DONE;
}

static int finish(const command *self, const threshold_options *o, const rgp_threshold_study *s,
                  const rgp_threshold_request *r, const char *path)
{
    if (o->json) {
        command_print_json(threshold_json(s, r));
    } else {
        threshold_print(s, r);
    }
    if (*s->says) {
        fprintf(stderr, "rigpulse threshold: %s\n", s->says);
    }
    if (o->picture) {
        g_autoptr(GError) error = NULL;
        g_autoptr(GString) script = rgp_threshold_script(s, o->picture);
        if (!picture_run(script, o->picture, &error)) {
            return command_refuse(self, "%s", error->message);
        }
    }
    if (o->write && !r->written) {
        return command_refuse(self,
                              "no line holds '%s' against a limit, so there is nothing to write into; paste the lines",
                              r->where->value);
    }
    if (o->write && s->refusal->len > 0 && !o->anyway) {
        fprintf(stderr,
                "rigpulse threshold: nothing is written, since nothing can be promised of it; --anyway writes it\n");
        return EXIT_FAULT;
    }
    return o->write ? write_it(self, s, r, path, o->json) : s->refusal->len > 0 ? EXIT_FAULT : EXIT_DONE;
}

/* ---- the command ----------------------------------------------------------------------------------- */

static GPtrArray *read_all(const command *self, char **name)
{
    GPtrArray *all = g_ptr_array_new_with_free_func((GDestroyNotify)rgp_recording_free);
    for (; *name; name++) {
        g_autoptr(GError) error = NULL;
        rgp_recording *one = reading_whole(*name, &error);
        if (!one) {
            command_refuse(self, "%s", error->message);
            g_ptr_array_unref(all);
            return NULL;
        }
        g_ptr_array_add(all, one);
    }
    return all;
}

static int study(const command *self, const threshold_options *o, rgp_threshold_request *r, const char *path)
{
    g_autoptr(GError) error = NULL;
    rgp_threshold_study *s = rgp_threshold_study_of(r, &error);
    if (!s) {
        return command_refuse(self, "%s", error->message);
    }
    const int status = finish(self, o, s, r, path);
    rgp_threshold_study_free(s);
    return status;
}

/* The recording of a live session; NULL when there is none, which has been said. To be freed. */
static char *take_live(const command *self, const threshold_options *o, const rgp_threshold_request *r,
                       const char *path, int *status)
{
    g_autofree char *base = g_path_get_basename(path);
    live_setup live = {.self = self,
                       .rig = r->rig,
                       .where = r->where,
                       .written = r->written,
                       .idle = r->idle,
                       .event = r->event ? r->event : LIVE_EVENT,
                       .script = o->script,
                       .fast = o->fast,
                       .overwrite = o->overwrite};
    char *record = o->record ? g_strdup(o->record) : g_strdup_printf("%.*s-live", (int)strcspn(base, "."), base);
    live.record = record;
    if (!command_seed(self, o->seed, &live.seed) || !rigfile_fits_port(self, r->rig, o->fast, o->seed != NULL, false)) {
        *status = EXIT_USAGE;
    } else if (live_take(&live, status)) {
        return record;
    }
    g_free(record);
    return NULL;
}

/* From the recordings that are named, or from one that is made now. */
static int study_runs(const command *self, const threshold_options *o, rgp_threshold_request *r, const char *path,
                      char **runs)
{
    int status = EXIT_USAGE;
    g_autofree char *live = o->live ? take_live(self, o, r, path, &status) : NULL;
    char *const only[] = {live, NULL};
    if (o->live && !live) {
        return status;
    }
    if (o->live && !r->event) {
        r->event = LIVE_EVENT;
    }
    g_autoptr(GPtrArray) all = read_all(self, o->live ? (char **)only : runs);
    if (!all) {
        return EXIT_USAGE;
    }
    r->run = (rgp_recording *const *)all->pdata;
    r->runs = all->len;
    return study(self, o, r, path);
}

static bool check_options(const command *self, const threshold_options *o, const char *path, const char *name,
                          char **runs)
{
    if (!picture_fits(self, o->picture)) {
        return false;
    }
    if (o->live && *runs) {
        command_refuse(self, "--live makes a recording of its own; '%s' is one too many", *runs);
        return false;
    }
    if (!o->live && (o->record || o->script || o->seed || o->fast || o->overwrite)) {
        command_refuse(self, "--record, --script, --seed, --fast and --overwrite go with --live");
        return false;
    }
    if (!o->live && !*runs) {
        command_refuse(
            self, "it takes recordings in which idle time and events are marked, threshold %s %s RUN..., or --live",
            path, name);
        return false;
    }
    return true;
}

static int find_threshold(const command *self, const threshold_options *o, const char *path, const char *name,
                          char **runs)
{
    rgp_threshold where;
    rgp_threshold_request r = {
        .idle = o->idle ? o->idle : "idle", .event = o->event, .remedies = !o->bare, .where = &where};
    if (!parse_cost(self, o, &r.cost) || !check_options(self, o, path, name, runs)) {
        return EXIT_USAGE;
    }
    r.rig = rigfile_load(self, path);
    if (!r.rig) {
        return EXIT_USAGE;
    }
    const int status =
        find_subject(self, r.rig, name, &where, &r.written) ? study_runs(self, o, &r, path, runs) : EXIT_USAGE;
    rgp_rig_free(r.rig);
    return status;
}

static int run_threshold(const command *self, int argc, char **argv)
{
    threshold_options o = {NULL};
    const GOptionEntry entries[] = {
        {"idle", 0, 0, G_OPTION_ARG_FILENAME, &o.idle, "the name of stretches in which nothing happened; 'idle'",
         "NAME"},
        {"event", 0, 0, G_OPTION_ARG_FILENAME, &o.event, "the name of the event's marks; else the only other one",
         "NAME"},
        {"avoid", 0, 0, G_OPTION_ARG_FILENAME, &o.avoid, "which error weighs five times as much", "false|misses"},
        {"cost", 0, 0, G_OPTION_ARG_FILENAME, &o.cost, "what a false trigger weighs, and a missed event", "A:B"},
        {"events", 0, 0, G_OPTION_ARG_FILENAME, &o.events, "how many are expected an hour; 20 if not said", "NUMBER"},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.picture, "draw it, as .png or .svg", "PICTURE"},
        {"bare", 0, 0, G_OPTION_ARG_NONE, &o.bare, "do not try which stage would help", NULL},
        {"write", 0, 0, G_OPTION_ARG_NONE, &o.write, "put the numbers into the file", NULL},
        {"anyway", 0, 0, G_OPTION_ARG_NONE, &o.anyway, "also when nothing can be promised of them", NULL},
        {"undo", 0, 0, G_OPTION_ARG_NONE, &o.undo, "take the last change of the file back", NULL},
        {"live", 0, 0, G_OPTION_ARG_NONE, &o.live, "take idle time and events now, in a dialogue", NULL},
        {"script", 0, 0, G_OPTION_ARG_FILENAME, &o.script, "the same by orders from a file; - is standard input",
         "FILE"},
        {"record", 0, 0, G_OPTION_ARG_FILENAME, &o.record, "the name of its recording; else FILE-live", "NAME"},
        {"overwrite", 0, 0, G_OPTION_ARG_NONE, &o.overwrite, "also over a recording of that name", NULL},
        {"fast", 0, 0, G_OPTION_ARG_NONE, &o.fast, "simulated time, as fast as it goes", NULL},
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &o.seed, "of the simulated noise; 1 if not said", "NUMBER"},
        PORT_ENTRIES,
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 1, 1000, &status)) {
        clear_options(&o);
        return status;
    }
    if (o.undo && o.write) {
        status = command_refuse(self, "--write and --undo: take one of the two");
    } else if (o.undo) {
        status = rewrite_take_back(self, argv[1]);
    } else if (argc < 3) {
        status = command_refuse(self, "it takes a value, a parameter, a band or 'line N', and recordings");
    } else if (strcmp(argv[2], "line") == 0 && argc > 3) { /* written without quotes */
        g_autofree char *line = g_strjoin(" ", argv[2], argv[3], NULL);
        status = find_threshold(self, &o, argv[1], line, argv + 4);
    } else {
        status = find_threshold(self, &o, argv[1], argv[2], argv + 3);
    }
    clear_options(&o);
    return status;
}

const command command_threshold = {"threshold", "FILE VALUE|PARAM|BAND|'line N' RECORDING...",
                                   "finds a limit, a margin, a width and a holdoff from marked recordings",
                                   "rigpulse threshold fender.rig knock quay.csv", run_threshold};
