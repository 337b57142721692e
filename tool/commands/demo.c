/* rigpulse demo: an example of the harbour, from its readings to a picture. */
#include "demo_serial.h"

#include "tool/picture.h"
#include "tool/plain/play.h"
#include "tool/rigfile.h"

#include <errno.h>
#include <glib/gstdio.h>
#include <stdio.h>
#include <string.h>

/* The examples, and how long each takes to show what it has to. */
static const struct {
    const char *name;
    uint32_t seconds;
} examples[] = {{"basin", 90}, {"vane", 60},    {"lamp", 80},      {"beacon", 120}, {"deck", 60},      {"bridge", 70},
                {"trap", 60},  {"feeder", 115}, {"crossing", 100}, {"buoy", 60},    {"lookout", 60},   {"boiler", 2400},
                {"ferry", 60}, {"mast", 30},    {"pointer", 60},   {"fender", 60},  {"quay_eye", 120}, {"paddles", 90}};

/* Beside the tool as it was built, or where it was installed. */
static char *find_example(const char *name)
{
    g_autofree char *tool = g_file_read_link("/proc/self/exe", NULL);
    g_autofree char *folder = g_path_get_dirname(tool ? tool : ".");
    const char *const places[] = {"examples", "../share/rigpulse/examples"};
    for (size_t i = 0; i < G_N_ELEMENTS(places); i++) {
        g_autofree char *path = g_build_filename(folder, places[i], name, NULL);
        if (g_file_test(path, G_FILE_TEST_IS_REGULAR)) {
            return g_canonicalize_filename(path, NULL);
        }
    }
    return g_build_filename("examples", name, NULL);
}

static int draw_demo(const command *self, const char *record, const char *file)
{
    g_autoptr(GError) error = NULL;
    g_autofree char *path = g_strconcat(record, ".png", NULL);
    const rgp_figure figure = {.path = path, .width = 1280, .height = 800};
    rgp_recording *recording = rgp_recording_read(record, &error);
    const bool drawn = recording && picture_draw(recording, &figure, &error);
    rgp_recording_free(recording);
    if (!drawn) {
        command_refuse(self, "%s", error->message);
        return EXIT_FAULT;
    }
    printf("\nThe picture of this run: %s\n"
           "Next: read the rig file, change something in it, and watch it live: rigpulse watch %s\n",
           path, file);
    return EXIT_DONE;
}

/* The file's own account: the comment at its head. */
static void print_head(const rgp_rig *rig)
{
    const char *line = rig->source;
    while (*line == '#') {
        const size_t length = strcspn(line, "\n");
        const size_t skip = length > 1 && line[1] == ' ' ? 2 : 1;
        printf("%.*s\n", (int)(length - skip), line + skip);
        line += length + (line[length] == '\n');
    }
}

/* The place of an example's name; G_N_ELEMENTS(examples) when there is no such. */
static size_t find_name(const char *name)
{
    size_t i = 0;
    while (i < G_N_ELEMENTS(examples) && strcmp(examples[i].name, name) != 0) {
        i++;
    }
    return i;
}

static int refuse_name(const command *self, const char *name)
{
    g_autoptr(GString) all = g_string_new(NULL);
    for (size_t i = 0; i < G_N_ELEMENTS(examples); i++) {
        g_string_append_printf(all, "%s, ", examples[i].name);
    }
    g_string_append(all, "and serial");
    return command_refuse(self, "there is no example '%s'; there are: %s", name, all->str);
}

static int show_example(const command *self, size_t which, const char *folder)
{
    const char *name = examples[which].name;
    g_autofree char *record = g_build_filename(folder, name, NULL), *rig_name = g_strconcat(name, ".rig", NULL);
    g_autofree char *file = find_example(rig_name);
    rgp_rig *rig = rigfile_load(self, file);
    if (!rig) {
        return EXIT_USAGE;
    }
    print_head(rig);
    printf("\n%s, %u s in simulated time\n\n", file, examples[which].seconds);
    rgp_door_setup setup = {.rig = rig,
                            .seed = 1,
                            .length_us = examples[which].seconds * 1000000ull,
                            .fast = true,
                            .record = record,
                            .overwrite = true};
    const int status = play(self, &setup, PLAY_ALL);
    rgp_rig_free(rig);
    /* what an example shows may be a fault */
    return status == EXIT_DONE || which > 0 ? draw_demo(self, record, file) : status;
}

static int run_demo(const command *self, int argc, char **argv)
{
    g_autofree char *output = NULL, *length = NULL, *seed = NULL;
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &output,
         "folder for recording and picture; rigpulse-demo if not said", "FOLDER"},
        {"for", 0, 0, G_OPTION_ARG_FILENAME, &length, "demo serial: how long; else until it is ended by hand", "TIME"},
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &seed, "demo serial: of the simulated noise; 1 if not said", "NUMBER"},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 0, 2, &status)) {
        return status;
    }
    if (argc > 1 && strcmp(argv[1], "serial") == 0) {
        g_autofree char *file = argc > 2 ? g_strdup(argv[2]) : find_example("serial_basin.rig");
        return output ? command_refuse(self, "'demo serial' draws nothing; leave out --output")
                      : demo_serial(self, file, length, seed);
    }
    if (argc > 2 || length || seed) {
        return command_refuse(self,
                              argc > 2 ? "'%s' is too much; it takes [EXAMPLE], or serial [FILE]"
                                       : "--for and --seed go with 'demo serial'",
                              argv[argc - 1]);
    }
    const char *folder = output ? output : "rigpulse-demo", *name = argc > 1 ? argv[1] : examples[0].name;
    const size_t which = find_name(name);
    if (which == G_N_ELEMENTS(examples)) {
        return refuse_name(self, name);
    }
    if (g_mkdir_with_parents(folder, 0777) != 0) {
        return command_refuse(self, "%s: %s", folder, g_strerror(errno));
    }
    return show_example(self, which, folder);
}

const command command_demo = {"demo", "[EXAMPLE | serial [FILE]]",
                              "runs an example of the model harbour and draws what happened", "rigpulse demo trap",
                              run_demo};
