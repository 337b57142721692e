/* rigpulse plot: a recording as a picture. */
#include "tool/command.h"
#include "tool/reading.h"
#include "tool/picture.h"

#include "analysis/figures/course_figure.h"
#include "analysis/figures/overlay_figure.h"
#include "analysis/figures/polar.h"

#include "runtime/moment.h"

#include <gio/gio.h>
#include <stdio.h>
#include <string.h>

enum { WIDTH = 1280, HEIGHT = 800, SIZE_LEAST = 200, SIZE_MOST = 8000 };

static bool parse_size(const char *text, rgp_figure *figure)
{
    int rest = 0;
    return !text || (sscanf(text, "%5ux%5u%n", &figure->width, &figure->height, &rest) == 2 && text[rest] == '\0' &&
                     figure->width >= SIZE_LEAST && figure->width <= SIZE_MOST && figure->height >= SIZE_LEAST &&
                     figure->height <= SIZE_MOST);
}

typedef struct plot_options {
    char *output, *size, *value, *along, *found, *from, *to, *over;
    gboolean xy, histogram, spectrum;
    char **name; /* of the values that are drawn; empty: all */
    rgp_figure figure;
} plot_options;

/* ---- which part of it ------------------------------------------------------------------------------ */

/* `text` NULL: as it is. */
static bool read_moment(const rgp_recording *r, const char *option, const char *text, double *seconds, GError **error)
{
    if (!text || rgp_moment_of(r->history, text, seconds)) {
        return true;
    }
    g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT,
                "%s %s: it is no time, no mark of the recording, and no line that fired in it; for example %s 20s",
                option, text, option);
    return false;
}

static bool read_part(const rgp_recording *r, plot_options *o, GError **error)
{
    const double end = (double)rgp_recording_time_us(r, r->rows - 1) / 1e6;
    double from = (double)rgp_recording_time_us(r, 0) / 1e6, to = end;
    if (!read_moment(r, "--from", o->from, &from, error) || !read_moment(r, "--to", o->to, &to, error)) {
        return false;
    }
    if (!(from < to) || from >= end || from < 0.0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT,
                    "there is nothing from %g to %g s; the recording goes from %g to %g s", from, to,
                    (double)rgp_recording_time_us(r, 0) / 1e6, end);
        return false;
    }
    o->figure.from = from;
    o->figure.to = to;
    o->figure.names = *o->name ? o->name : NULL;
    return true;
}

/* The slot of a named value that the recording has; -1 when there is none, which is an error. */
static int32_t find_value(const rgp_recording *r, const char *name, GError **error)
{
    g_autoptr(GPtrArray) all = g_ptr_array_new();
    for (uint32_t slot = 0; slot < r->image->slots; slot++) {
        if (r->has[slot]) {
            g_ptr_array_add(all, (gpointer)rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0));
            if (strcmp(all->pdata[all->len - 1], name) == 0) {
                return (int32_t)slot;
            }
        }
    }
    const char *near = rgp_nearest_word(name, (const char *const *)all->pdata, all->len);
    g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND,
                near ? "there is no value '%s' in this recording; did you mean '%s'?"
                     : "there is no value '%s' in this recording; 'rigpulse list' shows them%s",
                name, near ? near : "");
    return -1;
}

/* ---- the forms ------------------------------------------------------------------------------------- */

static bool run_script(GString *script, char *why, const rgp_figure *figure, GError **error)
{
    if (!script) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "%s", why);
        g_free(why);
        return false;
    }
    const bool drawn = picture_run(script, figure->path, error);
    g_string_free(script, TRUE);
    return drawn;
}

static bool draw_around(const rgp_recording *r, const plot_options *o, GError **error)
{
    char *why = NULL;
    const int32_t value = find_value(r, o->value, error), along = value < 0 ? -1 : find_value(r, o->along, error);
    const int32_t found = along < 0 || !o->found ? -1 : find_value(r, o->found, error);
    if (value < 0 || along < 0 || (o->found && found < 0)) {
        return false;
    }
    GString *script = rgp_polar_script(r, (uint32_t)value, (uint32_t)along, found, &o->figure, &why);
    return run_script(script, why, &o->figure, error);
}

static rgp_course *course_of(const rgp_recording *r, const plot_options *o, const char *name)
{
    return rgp_course_of(r->history, name, (uint64_t)(o->figure.from * 1e6 + 0.5),
                         (uint64_t)(o->figure.to * 1e6 + 0.5) + 1);
}

static bool draw_form(const rgp_recording *r, const plot_options *o, GError **error)
{
    char *why = NULL;
    rgp_course *first = course_of(r, o, o->name[0]), *second = o->xy ? course_of(r, o, o->name[1]) : NULL;
    GString *script = o->xy          ? rgp_xy_script(first, second, &o->figure, &why)
                      : o->histogram ? rgp_histogram_script(first, &o->figure, &why)
                                     : rgp_spectrum_script(first, &o->figure, &why);
    rgp_course_free(first);
    rgp_course_free(second);
    return run_script(script, why, &o->figure, error);
}

/* A second run over it, for as long as both last. */
static bool draw_over(const rgp_recording *r, const plot_options *o, GError **error)
{
    rgp_recording *other = reading_whole(o->over, error);
    if (!other) {
        return false;
    }
    g_auto(GStrv) chosen = *o->name ? NULL : rgp_course_names(r->image);
    char **names = *o->name ? o->name : chosen;
    const guint values = g_strv_length(names);
    g_autofree rgp_course **course = g_new0(rgp_course *, 2 * values + 1);
    g_autofree char *title = g_strdup_printf("%s, from %g to %g s", rgp_image_text(r->image, RGP_NAME_RIG, 0, 0),
                                             o->figure.from, o->figure.to);
    bool sound = true;
    for (guint v = 0; v < values && sound; v++) {
        course[2 * v] = course_of(r, o, names[v]);
        course[2 * v + 1] = course_of(other, o, names[v]);
        sound = course[2 * v + 1] || find_value(other, names[v], error) >= 0;
    }
    if (sound) {
        char *kinds[] = {r->name, other->name, NULL};
        const rgp_overlay overlay = {.title = title, .kind = kinds, .value = names, .course = course};
        sound = run_script(rgp_overlay_script(&overlay, o->figure.path), NULL, &o->figure, error);
    }
    for (guint i = 0; i < 2 * values; i++) {
        rgp_course_free(course[i]);
    }
    rgp_recording_free(other);
    return sound;
}

static bool draw_it(const rgp_recording *r, plot_options *o, GError **error)
{
    if (!read_part(r, o, error)) {
        return false;
    }
    for (char **name = o->name; *name; name++) {
        if (find_value(r, *name, error) < 0) {
            return false;
        }
    }
    if (o->value) {
        return draw_around(r, o, error);
    }
    if (o->xy || o->histogram || o->spectrum) {
        return draw_form(r, o, error);
    }
    return o->over ? draw_over(r, o, error) : picture_draw(r, &o->figure, error);
}

/* ---- the command ----------------------------------------------------------------------------------- */

static int draw_to_file(const command *self, const char *name, plot_options *o)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *recording = reading_whole(name, &error);
    int status = EXIT_DONE;
    if (!recording || !draw_it(recording, o, &error)) {
        status = command_refuse(self, "%s", error->message);
    } else {
        puts(o->figure.path);
        g_autofree char *complaint = rgp_recording_complaint(recording);
        if (complaint) {
            fprintf(stderr, "rigpulse plot: %s\n", complaint);
            status = EXIT_FAULT;
        }
    }
    rgp_recording_free(recording);
    return status;
}

static bool options_fit(const command *self, const plot_options *o)
{
    const guint names = g_strv_length(o->name),
                forms = (guint)(o->xy + o->histogram + o->spectrum) + (o->over != NULL) + (o->value != NULL);
    const char *wrong =
        (o->value != NULL) != (o->along != NULL) || (o->found && !o->value)
            ? "--around needs --along, and --found needs both; for example --around distance --along arm"
        : forms > 1           ? "take one of --xy, --histogram, --spectrum, --over and --around"
        : o->xy && names != 2 ? "--xy takes two values; for example: rigpulse plot basin depth pump --xy -o basin.png"
        : (o->histogram || o->spectrum) && names != 1 ? "--histogram and --spectrum take one value; for example: "
                                                        "rigpulse plot basin level --histogram -o level.png"
        : o->value && names > 0                       ? "--around and --along say which values are drawn"
        : !o->output || !picture_is_named(o->output)  ? "say where to, with -o NAME.png or -o NAME.svg"
                                                      : NULL;
    if (wrong) {
        command_refuse(self, "%s", wrong);
    }
    return !wrong;
}

static int run_plot(const command *self, int argc, char **argv)
{
    plot_options o = {.figure = {.width = WIDTH, .height = HEIGHT}};
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.output, "the picture, .png or .svg", "FILE"},
        {"size", 0, 0, G_OPTION_ARG_FILENAME, &o.size, "of the picture; 1280x800 if not said", "WIDTHxHEIGHT"},
        {"from", 0, 0, G_OPTION_ARG_FILENAME, &o.from,
         "draw what comes behind a time, a mark or the first firing of 'line N'", "MOMENT"},
        {"to", 0, 0, G_OPTION_ARG_FILENAME, &o.to, "and what comes before one", "MOMENT"},
        {"over", 0, 0, G_OPTION_ARG_FILENAME, &o.over, "a second run over it, and their difference", "RECORDING"},
        {"xy", 0, 0, G_OPTION_ARG_NONE, &o.xy, "the second named value over the first", NULL},
        {"histogram", 0, 0, G_OPTION_ARG_NONE, &o.histogram, "how often which number", NULL},
        {"spectrum", 0, 0, G_OPTION_ARG_NONE, &o.spectrum, "how much of it at which frequency", NULL},
        {"around", 0, 0, G_OPTION_ARG_FILENAME, &o.value, "draw this value around the arm on which it was read",
         "VALUE"},
        {"along", 0, 0, G_OPTION_ARG_FILENAME, &o.along, "with --around: the angle of the arm", "ANGLE"},
        {"found", 0, 0, G_OPTION_ARG_FILENAME, &o.found, "with --around: an angle to point at", "ANGLE"},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 1, G_MAXINT - 1, &status)) {
        o.name = argv + 2;
        o.figure.path = o.output;
        status = EXIT_USAGE;
        if (!options_fit(self, &o)) {
            /* said already */
        } else if (!parse_size(o.size, &o.figure)) {
            command_refuse(self, "--size %s: write WIDTHxHEIGHT, each from %d to %d, for example 1280x800", o.size,
                           SIZE_LEAST, SIZE_MOST);
        } else {
            status = draw_to_file(self, argv[1], &o);
        }
    }
    char *const texts[] = {o.output, o.size, o.value, o.along, o.found, o.from, o.to, o.over};
    for (size_t i = 0; i < G_N_ELEMENTS(texts); i++) {
        g_free(texts[i]);
    }
    return status;
}

const command command_plot = {"plot", "RECORDING [VALUE...] -o FILE", "draws a recording as a picture",
                              "rigpulse plot basin.csv -o basin.png", run_plot};
