/* rigpulse demo: the tide basin, from readings to a picture. */
#include "picture.h"
#include "play.h"
#include "rigfile.h"

#include <errno.h>
#include <glib/gstdio.h>
#include <stdio.h>

#define DEMO_SECONDS 90u

/* Beside the tool as it was built, or where it was installed. */
static char *find_example(const char *name)
{
    g_autofree char *tool = g_file_read_link("/proc/self/exe", NULL);
    g_autofree char *folder = g_path_get_dirname(tool ? tool : ".");
    const char *const places[] = {"../examples", "examples", "../share/examples"};
    for (size_t i = 0; i < G_N_ELEMENTS(places); i++) {
        g_autofree char *path = g_build_filename(folder, places[i], name, NULL);
        if (g_file_test(path, G_FILE_TEST_IS_REGULAR)) {
            return g_canonicalize_filename(path, NULL);
        }
    }
    return g_build_filename("examples", name, NULL);
}

static int draw_demo(const command *self, const char *record)
{
    g_autoptr(GError) error = NULL;
    g_autofree char *path = g_strconcat(record, ".png", NULL);
    const rp_figure figure = {path, 1280, 800};
    rp_recording *recording = rp_recording_read(record, &error);
    const bool drawn = recording && picture_draw(recording, &figure, &error);
    rp_recording_free(recording);
    if (!drawn) {
        command_refuse(self, "%s", error->message);
        return EXIT_FAULT;
    }
    printf("\nThe picture of this run: %s\n"
           "Next: read the rig file, change 'shallow' in it, and watch it live with 'rigpulse watch'.\n",
           path);
    return EXIT_DONE;
}

static int run_demo(const command *self, int argc, char **argv)
{
    g_autofree char *output = NULL;
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &output,
         "folder for recording and picture; rigpulse-demo if not said", "FOLDER"},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 0, 0, &status)) {
        return status;
    }
    const char *folder = output ? output : "rigpulse-demo";
    if (g_mkdir_with_parents(folder, 0777) != 0) {
        return command_refuse(self, "%s: %s", folder, g_strerror(errno));
    }
    g_autofree char *record = g_build_filename(folder, "basin", NULL);
    g_autofree char *file = find_example("basin.rig");
    rp_rig *rig = rigfile_load(self, file);
    if (!rig) {
        return EXIT_USAGE;
    }
    printf("The tide basin of Pebble Quay, %u s in simulated time: %s\n"
           "A leak lets the water fall; when the tide is low the pump fires for 2 s and then waits for the water to "
           "settle.\nAt 40 s a bucket is taken out, at 70 s a flood comes in.\n\n",
           DEMO_SECONDS, file);
    session_setup setup = {.rig = rig, .seed = 1, .length_us = DEMO_SECONDS * 1000000u, .fast = true, .record = record};
    status = play(self, &setup, false);
    rp_rig_free(rig);
    return status == EXIT_DONE ? draw_demo(self, record) : status;
}

const command command_demo = {"demo", "", "runs the tide basin of the model harbour and draws what happened",
                              "rigpulse demo", run_demo};
