/* rigpulse jog: one actuator by hand, with nothing else driven, and which sensors answer. */
#include "tool/port_option.h"
#include "jog.h"

#include "tool/rewrite.h"
#include "tool/rigfile.h"

#include "runtime/ports.h"
#include "rigpulse/edit.h"

#include <math.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#define HOLD_S    1.5
#define HOLD_MOST 60.0

/* ---- the command ----------------------------------------------------------------------------------- */

/* With no least power that would raise small ones. */
static rgp_rig *bare_rig(rgp_rig *file, const char *name)
{
    rgp_place place;
    const rgp_place *const which = &place;
    const double none = 0.0;
    const bool raises = rgp_rig_least_place(file, name, &place) && place.written;
    const char *text = raises ? rgp_edit_places(file, &which, &none, 1) : file->source;
    return text ? rgp_rig_compile(file->file, text, strlen(text), rgp_ports_catalog()) : NULL;
}

static bool find_actuator(jog *j, const char *name)
{
    const rgp_image_header *image = j->file->image;
    const uint32_t count = rgp_image_count(image, RGP_SECTION_ACTUATORS);
    g_autofree const char **names = g_new0(const char *, count + 1);
    for (uint32_t i = 0; i < count; i++) {
        names[i] = rgp_image_text(image, RGP_NAME_SLOT, rgp_image_actuator_slot(image, i), 0);
        if (strcmp(names[i], name) == 0) {
            j->actuator = i;
            return true;
        }
    }
    g_autofree char *all = g_strjoinv(", ", (char **)(void *)names);
    command_refuse(j->self, "%s: there is no actuator '%s'; there %s %s", j->path, name, count == 1 ? "is" : "are",
                   count ? all : "none");
    return false;
}

typedef struct jog_options {
    char *to, *hold, *seed;
    gboolean least, write, fast;
} jog_options;

static bool read_power(const jog *j, const char *text, double *power)
{
    const rgp_image_header *image = j->file->image;
    const uint32_t slot = rgp_image_actuator_slot(image, j->actuator);
    const char *unit = rgp_image_unit(image, RGP_NAME_SLOT, slot, 0), *why;
    uint32_t parts = 0;
    for (; rgp_image_name_of(image, RGP_NAME_PART, slot, parts); parts++) {
        if (strcmp(rgp_image_text(image, RGP_NAME_PART, slot, parts), text) == 0) {
            *power = parts;
            return true;
        }
    }
    if (parts > 0) {
        command_refuse(j->self, "--to %s: it has no such name; write for instance --to %s", text,
                       rgp_image_text(image, RGP_NAME_PART, slot, parts - 1));
        return false;
    }
    if (!rgp_quantity_parse(text, unit, power, &why)) {
        command_refuse(j->self, "--to %s: %s; write for instance --to '30 %s'", text, why, unit);
        return false;
    }
    return true;
}

static int jog_it(jog *j, const jog_options *o, const char *actuator)
{
    jog_script what = {.least = o->least, .write = o->write, .fast = o->fast};
    const char *why;
    const double least = jog_hold_least(j);
    what.hold = fmax(HOLD_S, least);
    if (!command_seed(j->self, o->seed, &j->seed)) {
        return EXIT_USAGE;
    }
    if (o->hold &&
        (!rgp_quantity_parse(o->hold, "s", &what.hold, &why) || !(what.hold >= least && what.hold <= HOLD_MOST))) {
        return command_refuse(j->self, "--hold %s: write a time from %g s to %g s", o->hold, least, HOLD_MOST);
    }
    if ((o->to && o->least) || (o->write && !o->least)) {
        return command_refuse(j->self, "take one of --to and --least; --write goes with --least");
    }
    if (!find_actuator(j, actuator) || (o->to && !read_power(j, o->to, &what.power))) {
        return EXIT_USAGE;
    }
    const uint32_t slot = rgp_image_actuator_slot(j->file->image, j->actuator);
    const char *unit = rgp_image_unit(j->file->image, RGP_NAME_SLOT, slot, 0);
    if (o->least && *unit && strcmp(unit, "%") != 0) {
        return command_refuse(j->self, "'%s' is not driven in percent: there is no least power to find", actuator);
    }
    j->rig = bare_rig(j->file, actuator);
    if (!j->rig || !j->rig->image) {
        return command_refuse(j->self, "%s cannot be taken without its least power", j->path);
    }
    if (o->to || o->least) {
        return jog_by_script(j, &what);
    }
    return isatty(STDIN_FILENO) && isatty(STDOUT_FILENO)
               ? jog_by_keys(j)
               : command_refuse(j->self, "this is no terminal; say what to do with --to VALUE or --least");
}

static int run_jog(const command *self, int argc, char **argv)
{
    jog_options o = {0};
    const GOptionEntry entries[] = {
        {"to", 0, 0, G_OPTION_ARG_FILENAME, &o.to, "drive it with that now and then, and say what answers", "VALUE"},
        {"hold", 0, 0, G_OPTION_ARG_FILENAME, &o.hold, "for so long at a time; 1.5 s if not said", "TIME"},
        {"least", 0, 0, G_OPTION_ARG_NONE, &o.least, "find the least power that moves something", NULL},
        {"write", 0, 0, G_OPTION_ARG_NONE, &o.write, "write that into the rig file", NULL},
        {"fast", 0, 0, G_OPTION_ARG_NONE, &o.fast, "in simulated time, as fast as the machine can", NULL},
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &o.seed, "of the simulated noise; 1 if not said", "NUMBER"},
        PORT_ENTRIES,
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 2, 2, &status)) {
        return status;
    }
    jog j = {.self = self, .path = argv[1], .least = -1.0};
    j.file = rigfile_load(self, argv[1]);
    status =
        j.file && rigfile_fits_port(self, j.file, o.fast, o.seed != NULL, false) ? jog_it(&j, &o, argv[2]) : EXIT_USAGE;
    rgp_rig_free(j.rig);
    rgp_rig_free(j.file);
    g_free(o.to);
    g_free(o.hold);
    g_free(o.seed);
    return status;
}

const command command_jog = {"jog", "FILE ACTUATOR", "moves one actuator by hand and says which sensors answer",
                             "rigpulse jog examples/basin.rig pump", run_jog};
