/* rigpulse survey: a figure of simulated runs over values of one or two parameters, and how much worlds matter. */
#include "survey.h"

#include "tool/command.h"
#include "tool/names.h"
#include "tool/picture.h"
#include "tool/progress.h"
#include "tool/rewrite.h"
#include "tool/rigfile.h"

#include "rigpulse/edit.h"

#include "analysis/figures/survey_figure.h"
#include "files/files.h"
#include "runtime/setting.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define WORLDS      6u
#define WORLDS_MOST 200u
#define VALUES_ONE  9u /* of one parameter; of two each */
#define VALUES_TWO  5u
#define VALUES_MOST 50u
#define RUNS_MOST   100000u
#define BEST        3
#define TICKS_BRIEF 500.0 /* of a run that only tells which figures there are */
#define SECONDS     60.0

typedef struct survey_options {
    char **vary, **set, **against;
    char *figure, *worlds, *off, *length, *from, *picture;
    int best;
    gboolean more, write, json;
} survey_options;

typedef struct surveying {
    const command *self;
    const survey_options *o;
    rgp_rig *rig;
    char *text;
    const char *loop; /* that is asked for, or NULL */
    rgp_survey_ask ask;
    char *figure;
    uint32_t runs;
} surveying;

/* ---- what is asked for ----------------------------------------------------------------------------- */

/* A parameter, or a gain of the loop that is asked for, which is written bare as in its line. */
static int32_t find_param(const surveying *s, const char *name, bool *gain, GError **error)
{
    const rgp_image_header *image = s->rig->image;
    g_autofree char *whole = s->loop ? g_strdup_printf("%s_%s", s->loop, name) : NULL;
    const int32_t of_loop = whole ? rgp_image_find(image, RGP_FIND_PARAM, whole) : -1;
    *gain = of_loop >= 0;
    return *gain ? of_loop : rgp_param_find(image, name, error);
}

/* An end of a range: one without a unit has that of the other end, or of the gain. */
static bool parse_end(const surveying *s, int32_t param, const char *text, const char *unit, double *to, GError **error)
{
    char *behind;
    g_ascii_strtod(text, &behind);
    g_autofree char *with = g_strconcat(text, *g_strchug(behind) ? "" : " ", *behind ? "" : unit, NULL);
    return rgp_param_value(s->rig->image, (uint32_t)param, with, to, error);
}

static bool refuse_vary(const surveying *s, const char *text, const char *why)
{
    command_refuse(s->self, "--vary %s: %s", text, why);
    return false;
}

/* "NAME=A..B[,N]". */
static bool parse_axis(const surveying *s, const char *text, uint32_t usual, rgp_survey_axis *to)
{
    g_autoptr(GError) error = NULL;
    g_auto(GStrv) name = g_strsplit(text, "=", 2);
    g_auto(GStrv) end = g_strsplit(name[0] && name[1] ? name[1] : "", "..", 2);
    if (g_strv_length(end) != 2) {
        return refuse_vary(s, text, "it takes NAME=A..B, or NAME=A..B,N");
    }
    char *comma = strchr(end[1], ','), *behind;
    guint64 values = usual;
    bool gain;
    if (comma && !g_ascii_string_to_unsigned(comma + 1, 10, 2, VALUES_MOST, &values, NULL)) {
        return refuse_vary(s, text, "N is a whole number from 2 to 50");
    }
    if (comma) {
        *comma = '\0';
    }
    const int32_t param = find_param(s, g_strstrip(name[0]), &gain, &error);
    if (param < 0) {
        return refuse_vary(s, text, error->message);
    }
    const char *own = gain ? rgp_image_unit(s->rig->image, RGP_NAME_SLOT, (uint32_t)param, 0) : "";
    g_ascii_strtod(end[1], &behind);
    if (!parse_end(s, param, end[0], *behind ? behind : own, &to->low, &error) ||
        !parse_end(s, param, end[1], own, &to->high, &error)) {
        return refuse_vary(s, text, error->message);
    }
    to->values = (uint32_t)values;
    to->name = rgp_image_text(s->rig->image, RGP_NAME_SLOT, (uint32_t)param, 0);
    to->unit = rgp_image_unit(s->rig->image, RGP_NAME_SLOT, (uint32_t)param, 0);
    return to->low < to->high || refuse_vary(s, text, "A is not less than B");
}

/* Another value of the same parameter by --set would never be heeded. */
static bool is_free(const surveying *s, const char *text, const char *name)
{
    for (char **one = s->o->set; one && *one; one++) {
        g_autofree char *set = g_strstrip(g_strndup(*one, strcspn(*one, "=")));
        if (strcmp(set, name) == 0) {
            return refuse_vary(s, text, "--set gives this parameter one value; take one of the two out");
        }
    }
    return true;
}

static bool parse_axes(surveying *s)
{
    const guint axes = s->o->vary ? g_strv_length(s->o->vary) : 0;
    if (axes < 1 || axes > RGP_SURVEY_AXES) {
        command_refuse(s->self, "it takes one --vary NAME=A..B, or two; for example: %s", s->self->example);
        return false;
    }
    s->ask.axes = axes;
    for (guint i = 0; i < axes; i++) {
        if (!parse_axis(s, s->o->vary[i], axes > 1 ? VALUES_TWO : VALUES_ONE, &s->ask.axis[i]) ||
            !is_free(s, s->o->vary[i], s->ask.axis[i].name)) {
            return false;
        }
    }
    if (axes == 2 && strcmp(s->ask.axis[0].name, s->ask.axis[1].name) == 0) {
        return refuse_vary(s, s->o->vary[1], "it is varied already");
    }
    return true;
}

static bool parse_seconds(const surveying *s, const char *option, const char *text, double least, double *to)
{
    const char *why;
    if (text && (!rgp_quantity_parse(text, "s", to, &why) || !(*to > least && *to <= 1e7))) {
        command_refuse(s->self, "%s %s: write a time, for example %s 60s", option, text, option);
        return false;
    }
    return true;
}

static bool parse_worlds(surveying *s)
{
    guint64 worlds = WORLDS;
    const char *why;
    double percent = 0.0;
    if (s->o->worlds && !g_ascii_string_to_unsigned(s->o->worlds, 10, 1, WORLDS_MOST, &worlds, NULL)) {
        command_refuse(s->self, "--worlds %s: write a whole number from 1 to %u", s->o->worlds, WORLDS_MOST);
        return false;
    }
    if (s->o->off && (!rgp_quantity_parse(s->o->off, "%", &percent, &why) || !(percent >= 0.0 && percent <= 90.0))) {
        command_refuse(s->self, "--off %s: write a share from 0 %% to 90 %%, as in --off 20%%", s->o->off);
        return false;
    }
    s->ask.worlds = (uint32_t)worlds;
    s->ask.off = percent / 100.0;
    return true;
}

/* The first figure that tells how well a loop does, where nobody names one. */
static char *usual_figure(const surveying *s)
{
    const rgp_image_header *image = s->rig->image;
    const char *loop = s->loop                                         ? s->loop
                       : rgp_image_count(image, RGP_SECTION_LOOPS) > 0 ? rgp_image_text(image, RGP_NAME_LOOP, 0, 0)
                                                                       : NULL;
    return loop ? g_strdup_printf("%s IAE", loop) : NULL;
}

/* "line 17 fired" is told by the rule's text, as in all figures. */
static char *wanted_figure(const surveying *s)
{
    const rgp_image_header *image = s->rig->image;
    const char *text = s->o->figure;
    char *end = NULL;
    const guint64 line = text && g_str_has_prefix(text, "line ") ? g_ascii_strtoull(text + 5, &end, 10) : 0;
    for (uint32_t i = 0; line > 0 && i < rgp_image_count(image, RGP_SECTION_RULES); i++) {
        if (rgp_image_name_of(image, RGP_NAME_RULE, i, 0)->line == line) {
            const bool interval = strcmp(end, " interval") == 0;
            return g_strdup_printf("%s: %s", interval ? "interval" : "fired",
                                   rgp_image_text(image, RGP_NAME_RULE, i, 0));
        }
    }
    return text ? g_strdup(text) : usual_figure(s);
}

/* Its whole name: a part that only one has is enough. */
static bool has_line(const char *lines, const char *line)
{
    g_auto(GStrv) each = g_strsplit(lines, "\n", -1);
    return g_strv_contains((const gchar *const *)each, line);
}

/* The names of a short run, when what is wanted is one of them; else those of a run as long as all will be. */
static char *figures_of(const surveying *s, const char *wanted, GError **error)
{
    const double tick_s = (double)((const rgp_image_header *)s->rig->image)->tick_us / 1e6;
    rgp_survey_ask brief = s->ask;
    brief.length_s = fmin(s->ask.length_s, fmax(0.0, s->ask.from_s) + TICKS_BRIEF * tick_s);
    g_autofree char *few = wanted ? rgp_survey_figures(&brief, NULL) : NULL;
    return few && has_line(few, wanted) ? g_steal_pointer(&few) : rgp_survey_figures(&s->ask, error);
}

static bool find_figure(surveying *s, GError **error)
{
    g_autofree char *wanted = wanted_figure(s), *all = NULL;
    if (wanted && g_str_has_prefix(wanted, "time ")) {
        s->figure = g_steal_pointer(&wanted);
        s->ask.figure = s->figure;
        return rgp_survey_checks(&s->ask, s->rig, error);
    }
    all = figures_of(s, wanted, error);
    if (!all) {
        return false;
    }
    g_auto(GStrv) name = g_strsplit(g_strchomp(all), "\n", -1);
    guint found = 0;
    for (char **one = name; wanted && *one; one++) {
        if (strcmp(*one, wanted) == 0 || (found != G_MAXUINT && strstr(*one, wanted))) {
            found = strcmp(*one, wanted) == 0 ? G_MAXUINT : found + 1;
            g_free(s->figure);
            s->figure = g_strdup(*one);
        }
    }
    if (found == 1 || found == G_MAXUINT) {
        s->ask.figure = s->figure;
        return true;
    }
    if (!*name) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "a run of %g s is too short for any figure: take a longer --for", s->ask.length_s);
        return false;
    }
    g_autofree char *list = g_strjoinv("', '", name);
    g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "%s%s%s; there are: '%s', and 'time VALUE above LIMIT'",
                wanted ? "--figure " : "say which figure, with --figure", wanted ? wanted : "",
                !wanted      ? ""
                : found == 0 ? ": there is none of that name"
                             : ": several have that in their name",
                list);
    return false;
}

static bool prepare(surveying *s, const char *path)
{
    g_autoptr(GError) error = NULL;
    s->ask = (rgp_survey_ask){.path = path, .text = s->text, .set = s->o->set, .length_s = SECONDS, .more = s->o->more};
    if (!parse_axes(s) || !parse_seconds(s, "--for", s->o->length, 0.0, &s->ask.length_s) ||
        !parse_seconds(s, "--from", s->o->from, -1.0, &s->ask.from_s) || !parse_worlds(s)) {
        return false;
    }
    if (s->ask.from_s >= s->ask.length_s) {
        command_refuse(s->self, "--from %s: the runs last %g s", s->o->from, s->ask.length_s);
        return false;
    }
    if (!find_figure(s, &error)) {
        command_refuse(s->self, "%s", error->message);
        return false;
    }
    s->runs = s->ask.worlds * s->ask.axis[0].values * (s->ask.axes > 1 ? s->ask.axis[1].values : 1);
    if (s->runs > RUNS_MOST) {
        command_refuse(s->self, "these would be %u runs; at most %u are made: take fewer values or --worlds", s->runs,
                       RUNS_MOST);
        return false;
    }
    return true;
}

/* ---- what comes out -------------------------------------------------------------------------------- */

static void free_other(void *self)
{
    survey_other *other = self;
    rgp_survey_free(other->survey);
    g_free(other->text);
    g_free(other);
}

static bool run_other(const surveying *s, const char *path, GPtrArray *to)
{
    g_autoptr(GError) error = NULL;
    gsize length;
    rgp_rig *rig = rigfile_load(s->self, path);
    survey_other *other = g_new0(survey_other, 1);
    g_ptr_array_add(to, other);
    other->path = path;
    if (rig && rgp_file_read(path, &other->text, &length, &error)) {
        other->ask = s->ask;
        other->ask.path = path;
        other->ask.text = other->text;
        other->ask.axes = 0;
        other->ask.set = NULL;
        other->survey = rgp_survey_of(&other->ask, NULL, NULL, &error);
    }
    rgp_rig_free(rig);
    if (error) {
        command_refuse(s->self, "%s: %s", path, error->message);
    }
    return other->survey != NULL;
}

/* Those come first: what is wrong with one of them is to be known before the long work. */
static bool run_others(const surveying *s, GPtrArray *to)
{
    bool sound = true;
    for (char **path = s->o->against; sound && path && *path; path++) {
        sound = run_other(s, *path, to);
    }
    return sound;
}

static bool draw(const surveying *s, const rgp_survey *v)
{
    g_autoptr(GError) error = NULL;
    g_autoptr(GString) script = rgp_survey_script(v, s->o->picture);
    if (!picture_run(script, s->o->picture, &error)) {
        command_refuse(s->self, "%s", error->message);
        return false;
    }
    return true;
}

static bool tell(const surveying *s, const rgp_survey *v, const GPtrArray *others)
{
    if (s->o->json) {
        survey_print_json(v, others);
    } else {
        survey_print(v, (uint32_t)s->o->best, others);
    }
    return !s->o->picture || v->whole == 0 || draw(s, v);
}

/* As they are told, so that what stands in the file is what was read. */
static double written(double value)
{
    char text[G_ASCII_DTOSTR_BUF_SIZE];
    return g_ascii_strtod(g_ascii_formatd(text, sizeof text, "%.4g", value), NULL);
}

/* The best values into the file; all else stays as it is. */
static bool write_best(const surveying *s, const rgp_survey *v)
{
    rgp_place place[RGP_SURVEY_AXES];
    const rgp_place *which[RGP_SURVEY_AXES];
    double number[RGP_SURVEY_AXES];
    g_autofree uint32_t *order = rgp_survey_order(v);
    g_autoptr(GError) error = NULL;
    if (v->stopped || v->whole == 0) {
        fputs("nothing is written, since it was stopped before its end\n", stderr);
        return true;
    }
    for (uint32_t i = 0; i < v->ask->axes; i++) {
        if (!rgp_rig_param_place(s->rig, v->ask->axis[i].name, &place[i])) {
            command_refuse(s->self, "--write: '%s' stands nowhere as a number", v->ask->axis[i].name);
            return false;
        }
        which[i] = &place[i];
        number[i] = written(v->cell[order[0]].at[i]);
    }
    g_autofree char *what = g_strdup_printf("survey %s", v->ask->figure);
    const char *text = rgp_edit_places(s->rig, which, number, v->ask->axes);
    if (!text || !rewrite_file(v->ask->path, s->rig->source, text, what, &error)) {
        command_refuse(s->self, "--write: %s", error ? error->message : "the file cannot be edited");
        return false;
    }
    fprintf(s->o->json ? stderr : stdout, "%s is written with the best; 'rigpulse calibrate %s --undo' takes it back\n",
            v->ask->path, v->ask->path);
    return true;
}

static int survey(surveying *s)
{
    g_autoptr(GError) error = NULL;
    g_autoptr(GPtrArray) others = g_ptr_array_new_with_free_func(free_other);
    if (!run_others(s, others)) {
        return EXIT_USAGE;
    }
    progress passed = progress_begin(s->runs);
    rgp_survey *v = rgp_survey_of(&s->ask, progress_tell, &passed, &error);
    progress_end(&passed);
    if (!v) {
        return command_refuse(s->self, "%s", error->message);
    }
    const bool told = tell(s, v, others) && (!s->o->write || write_best(s, v));
    rgp_survey_free(v);
    return told ? EXIT_DONE : EXIT_USAGE;
}

/* ---- the command ----------------------------------------------------------------------------------- */

static int survey_file(const command *self, const survey_options *o, const char *path, const char *loop)
{
    g_autoptr(GError) error = NULL;
    gsize length;
    surveying s = {.self = self, .o = o, .loop = loop};
    if (!picture_fits(self, o->picture)) {
        return EXIT_USAGE;
    }
    if (o->best < 1) {
        return command_refuse(self, "--best %d: at least 1 has to be told", o->best);
    }
    s.rig = rigfile_load(self, path);
    int status = EXIT_USAGE;
    uint32_t found;
    const bool meant = s.rig && (!loop || names_loop_or_refuse(self, s.rig->image, path, loop, &found));
    if (meant && !rgp_file_read(path, &s.text, &length, &error)) {
        command_refuse(self, "%s", error->message);
    } else if (meant && prepare(&s, path)) {
        status = survey(&s);
    }
    rgp_rig_free(s.rig);
    g_free(s.text);
    g_free(s.figure);
    return status;
}

static int run_survey(const command *self, int argc, char **argv)
{
    survey_options o = {.best = BEST};
    const GOptionEntry entries[] = {
        {"vary", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.vary,
         "a parameter, or a gain of LOOP, from A to B; twice for a map", "NAME=A..B[,N]"},
        {"figure", 0, 0, G_OPTION_ARG_FILENAME, &o.figure,
         "what is looked at, such as 'line 17 fired'; else LOOP's IAE", "TEXT"},
        {"more", 0, 0, G_OPTION_ARG_NONE, &o.more, "a greater figure is the better one", NULL},
        {"worlds", 0, 0, G_OPTION_ARG_FILENAME, &o.worlds, "in so many each value is tried; 6 if not said", "NUMBER"},
        {"off", 0, 0, G_OPTION_ARG_FILENAME, &o.off, "how far mechanisms may be from what is written, as in 20%",
         "SHARE"},
        {"for", 0, 0, G_OPTION_ARG_FILENAME, &o.length, "how long each run is; 60 s if not said", "TIME"},
        {"from", 0, 0, G_OPTION_ARG_FILENAME, &o.from, "from when on it is looked at", "TIME"},
        {"set", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.set, "another value of another parameter", "NAME=VALUE"},
        {"against", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.against, "another rig file in the same worlds", "FILE"},
        {"best", 0, 0, G_OPTION_ARG_INT, &o.best, "so many of the best are told; 3 if not said", "NUMBER"},
        {"write", 0, 0, G_OPTION_ARG_NONE, &o.write, "write the best into the rig file", NULL},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.picture, "draw it, as .png or .svg", "PICTURE"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 1, 2, &status)) {
        status = survey_file(self, &o, argv[1], argc > 2 ? argv[2] : NULL);
    }
    g_strfreev(o.vary);
    g_strfreev(o.set);
    g_strfreev(o.against);
    g_free(o.figure);
    g_free(o.worlds);
    g_free(o.off);
    g_free(o.length);
    g_free(o.from);
    g_free(o.picture);
    return status;
}

const command command_survey = {
    "survey", "FILE [LOOP]", "tries values of parameters in many simulated runs, and says which are best",
    "rigpulse survey mast.rig upright --vary kp=20..100 --vary kd=1..9 --off 20%", run_survey};
