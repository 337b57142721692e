/* rigpulse demo serial: a device on a wire, played by a program. */
#include "demo_serial.h"

#include "tool/rigfile.h"

#include "explain/describe.h"
#include "rigpulse/image.h"
#include "runtime/wire_demo.h"

#include <stdio.h>

#define LONGEST_S 1e7

static void say_told(void *self, double time, uint16_t actuator, float value)
{
    const rgp_image_header *image = self;
    const uint32_t slot = rgp_image_actuator_slot(image, actuator);
    g_autoptr(GString) text = g_string_new(NULL);
    rgp_describe_value(image, slot, value, text);
    printf("%8.3f  told: %s %s\n", time, rgp_image_text(image, RGP_NAME_SLOT, slot, 0), text->str);
    fflush(stdout);
}

static void say_beginning(const rgp_wire_demo *d, const rgp_rig *rig, const char *path)
{
    const rgp_image_header *image = rig->image;
    for (uint32_t i = 0; rgp_wire_demo_path(d, i); i++) {
        printf("%s prints a line every %g ms\n", rgp_wire_demo_path(d, i), image->tick_us / 1000.0);
    }
    printf("In a second terminal, as with a real device:\n"
           "  rigpulse ports --listen %s\n"
           "  rigpulse watch %s --port serial\n"
           "Ctrl-C ends it, as a wire that is pulled.\n",
           rgp_wire_demo_path(d, 0), path);
    fflush(stdout);
}

static int play_rig(const command *self, rgp_rig *rig, const char *path, double seconds, uint64_t seed)
{
    g_autoptr(GError) error = NULL;
    rgp_wire_demo *d = rgp_wire_demo_new(rig, seed, &error);
    if (!d) {
        return command_refuse(self, "%s", error->message);
    }
    say_beginning(d, rig, path);
    rgp_wire_demo_play(d, seconds, say_told, (void *)rig->image);
    rgp_wire_demo_free(d);
    return EXIT_DONE;
}

int demo_serial(const command *self, const char *path, const char *length, const char *seed_text)
{
    double seconds = LONGEST_S;
    uint64_t seed;
    const char *why;
    if (length && !rgp_quantity_parse(length, "s", &seconds, &why)) {
        return command_refuse(self, "--for %s: %s; for example --for 60s", length, why);
    }
    if (!(seconds > 0.0 && seconds <= LONGEST_S)) {
        return command_refuse(self, "--for %s: it must be above 0 and at most %g s", length, LONGEST_S);
    }
    rgp_rig *rig = command_seed(self, seed_text, &seed) ? rigfile_load(self, path) : NULL;
    const int status = rig ? play_rig(self, rig, path, seconds, seed) : EXIT_USAGE;
    rgp_rig_free(rig);
    return status;
}
