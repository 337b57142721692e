/* rigpulse plot: a recording as a picture. */
#include "command.h"
#include "picture.h"

#include <stdio.h>

enum { WIDTH = 1280, HEIGHT = 800, SIZE_LEAST = 200, SIZE_MOST = 8000 };

static bool parse_size(const char *text, rp_figure *figure)
{
    int rest = 0;
    return !text || (sscanf(text, "%5ux%5u%n", &figure->width, &figure->height, &rest) == 2 && text[rest] == '\0' &&
                     figure->width >= SIZE_LEAST && figure->width <= SIZE_MOST && figure->height >= SIZE_LEAST &&
                     figure->height <= SIZE_MOST);
}

static int draw(const command *self, const char *name, const rp_figure *figure)
{
    g_autoptr(GError) error = NULL;
    rp_recording *recording = rp_recording_read(name, &error);
    const bool drawn = recording && picture_draw(recording, figure, &error);
    int status = EXIT_DONE;
    if (!drawn) {
        status = command_refuse(self, "%s", error->message);
    } else {
        puts(figure->path);
        if (recording->torn_rows) {
            fprintf(stderr, "rigpulse plot: %u %s cut off or unreadable and left out\n", recording->torn_rows,
                    recording->torn_rows == 1 ? "row was" : "rows were");
            status = EXIT_FAULT;
        }
    }
    rp_recording_free(recording);
    return status;
}

static int run_plot(const command *self, int argc, char **argv)
{
    g_autofree char *output = NULL, *size = NULL;
    rp_figure figure = {.width = WIDTH, .height = HEIGHT};
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &output, "the picture, .png or .svg", "FILE"},
        {"size", 0, 0, G_OPTION_ARG_STRING, &size, "of the picture; 1280x800 if not said", "WIDTHxHEIGHT"},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        return status;
    }
    if (!output || !(g_str_has_suffix(output, ".png") || g_str_has_suffix(output, ".svg"))) {
        return command_refuse(self, "say where to, with -o NAME.png or -o NAME.svg");
    }
    figure.path = output;
    if (!parse_size(size, &figure)) {
        return command_refuse(self, "--size %s: write WIDTHxHEIGHT, each from %d to %d, for example 1280x800", size,
                              SIZE_LEAST, SIZE_MOST);
    }
    return draw(self, argv[1], &figure);
}

const command command_plot = {"plot", "RECORDING -o FILE", "draws a recording as a picture",
                              "rigpulse plot basin.csv -o basin.png", run_plot};
