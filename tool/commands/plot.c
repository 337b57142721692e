/* rigpulse plot: a recording as a picture. */
#include "tool/command.h"
#include "tool/reading.h"
#include "tool/picture.h"

#include "analysis/figures/polar.h"

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

/* The values drawn around an arm: names of values. */
typedef struct around {
    const char *value, *along, *found;
} around;

/* The slot of a named value that the recording has; -1 when there is none, which is an error. */
static int32_t find_value(const rgp_recording *r, const char *name, GError **error)
{
    for (uint32_t slot = 0; slot < r->image->slots; slot++) {
        if (r->has[slot] && strcmp(rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0), name) == 0) {
            return (int32_t)slot;
        }
    }
    g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "there is no value '%s' in this recording", name);
    return -1;
}

static bool draw_around(const rgp_recording *r, const around *a, const rgp_figure *figure, GError **error)
{
    g_autofree char *why = NULL;
    const int32_t value = find_value(r, a->value, error), along = value < 0 ? -1 : find_value(r, a->along, error);
    const int32_t found = along < 0 || !a->found ? -1 : find_value(r, a->found, error);
    if (value < 0 || along < 0 || (a->found && found < 0)) {
        return false;
    }
    GString *script = rgp_polar_script(r, (uint32_t)value, (uint32_t)along, found, figure, &why);
    if (!script) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "%s", why);
        return false;
    }
    const bool drawn = picture_run(script, figure->path, error);
    g_string_free(script, TRUE);
    return drawn;
}

static int draw_to_file(const command *self, const char *name, const around *a, const rgp_figure *figure)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *recording = reading_whole(name, &error);
    const bool drawn =
        recording && (a->value ? draw_around(recording, a, figure, &error) : picture_draw(recording, figure, &error));
    int status = EXIT_DONE;
    if (!drawn) {
        status = command_refuse(self, "%s", error->message);
    } else {
        puts(figure->path);
        g_autofree char *complaint = rgp_recording_complaint(recording);
        if (complaint) {
            fprintf(stderr, "rigpulse plot: %s\n", complaint);
            status = EXIT_FAULT;
        }
    }
    rgp_recording_free(recording);
    return status;
}

static int run_plot(const command *self, int argc, char **argv)
{
    g_autofree char *output = NULL, *size = NULL, *value = NULL, *along = NULL, *found = NULL;
    rgp_figure figure = {.width = WIDTH, .height = HEIGHT};
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &output, "the picture, .png or .svg", "FILE"},
        {"size", 0, 0, G_OPTION_ARG_FILENAME, &size, "of the picture; 1280x800 if not said", "WIDTHxHEIGHT"},
        {"around", 0, 0, G_OPTION_ARG_FILENAME, &value, "draw this value around the arm on which it was read", "VALUE"},
        {"along", 0, 0, G_OPTION_ARG_FILENAME, &along, "with --around: the angle of the arm", "ANGLE"},
        {"found", 0, 0, G_OPTION_ARG_FILENAME, &found, "with --around: an angle to point at", "ANGLE"},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        return status;
    }
    const around a = {value, along, found};
    if ((value != NULL) != (along != NULL) || (found && !value)) {
        return command_refuse(
            self, "--around needs --along, and --found needs both; for example --around distance --along arm");
    }
    if (!output || !picture_is_named(output)) {
        return command_refuse(self, "say where to, with -o NAME.png or -o NAME.svg");
    }
    figure.path = output;
    if (!parse_size(size, &figure)) {
        return command_refuse(self, "--size %s: write WIDTHxHEIGHT, each from %d to %d, for example 1280x800", size,
                              SIZE_LEAST, SIZE_MOST);
    }
    return draw_to_file(self, argv[1], &a, &figure);
}

const command command_plot = {"plot", "RECORDING -o FILE", "draws a recording as a picture",
                              "rigpulse plot basin.csv -o basin.png", run_plot};
