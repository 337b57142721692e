/* rigpulse demo serial: the devices of a rig that is hooked up both to 'serial' and to 'sim', played by the simulated
 * mechanisms behind pseudo-terminals. Who opens those finds what the real device would print. */
#include "demo_serial.h"

#include "tool/rigfile.h"

#include "explain/describe.h"
#include "ports/serial/standin.h"
#include "runtime/interrupt.h"
#include "runtime/ports.h"

#include "rigpulse/image.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define LONGEST_S 1e7

typedef struct wire_demo {
    const rgp_rig *rig;
    const rgp_image_header *image;
    rgp_sim *sim;
    rgp_standin **device;
    uint32_t devices, sensors, actuators;
    double *raw;
    float *told, *driven;
} wire_demo;

static const rgp_hookup *find_hookup(const rgp_rig *rig, const char *port)
{
    for (uint32_t i = 0; i < rig->hookup_count; i++) {
        if (strcmp(rig->hookups[i].port, port) == 0) {
            return &rig->hookups[i];
        }
    }
    return NULL;
}

static bool begin_devices(wire_demo *d, const rgp_hookup *serial, GError **error)
{
    d->device = g_new0(rgp_standin *, serial->mechanisms + 1);
    for (; d->devices < serial->mechanisms; d->devices++) {
        d->device[d->devices] = rgp_standin_new(d->rig, serial, d->devices, error);
        if (!d->device[d->devices]) {
            return false;
        }
    }
    return true;
}

static void begin_channels(wire_demo *d)
{
    const rgp_image_actuator *a = rgp_image_at(d->image, RGP_SECTION_ACTUATORS);
    d->sensors = rgp_image_count(d->image, RGP_SECTION_SENSORS);
    d->actuators = rgp_image_count(d->image, RGP_SECTION_ACTUATORS);
    d->raw = g_new0(double, d->sensors + 1);
    d->told = g_new0(float, d->actuators + 1);
    d->driven = g_new0(float, d->actuators + 1);
    for (uint32_t i = 0; i < d->actuators; i++) {
        d->told[i] = d->driven[i] = a[i].inverted ? a[i].low + a[i].high - a[i].rest : a[i].rest;
    }
}

static void end_demo(wire_demo *d)
{
    for (uint32_t i = 0; i < d->devices; i++) {
        rgp_standin_free(d->device[i]);
    }
    rgp_sim_free(d->sim);
    g_free(d->device);
    g_free(d->raw);
    g_free(d->told);
    g_free(d->driven);
}

/* Each change of what it is told is a line. */
static void take_orders(wire_demo *d, const rgp_port *port, double time)
{
    for (uint32_t i = 0; i < d->devices; i++) {
        rgp_standin_listen(d->device[i], d->told);
    }
    for (uint32_t i = 0; i < d->actuators; i++) {
        if (d->told[i] != d->driven[i]) {
            const uint32_t slot = rgp_image_actuator_slot(d->image, i);
            g_autoptr(GString) value = g_string_new(NULL);
            rgp_describe_value(d->image, slot, d->told[i], value);
            printf("%8.3f  told: %s %s\n", time, rgp_image_text(d->image, RGP_NAME_SLOT, slot, 0), value->str);
            fflush(stdout);
        }
        d->driven[i] = d->told[i];
        port->write(port->self, (uint16_t)i, d->told[i]);
    }
}

static void print_readings(wire_demo *d, const rgp_port *port)
{
    for (uint32_t i = 0; i < d->sensors; i++) {
        rgp_sample sample = {.quality = RGP_MISSING};
        port->read(port->self, (uint16_t)i, &sample);
        d->raw[i] = sample.quality == RGP_GOOD ? (double)sample.raw : (double)NAN;
    }
    for (uint32_t i = 0; i < d->devices; i++) {
        rgp_standin_print(d->device[i], d->raw);
    }
}

static void play(wire_demo *d, double seconds)
{
    const rgp_port *port = rgp_sim_port(d->sim);
    const double tick = d->image->tick_us / 1e6;
    interrupt_catch();
    interrupt_ticks_here(true);
    for (uint64_t n = 0; !interrupt_asked() && (double)n * tick < seconds; n++) {
        port->sleep_until(port->self, n * d->image->tick_us);
        take_orders(d, port, (double)n * tick);
        print_readings(d, port);
    }
    interrupt_ticks_here(false);
}

static void say_beginning(const wire_demo *d, const char *path)
{
    for (uint32_t i = 0; i < d->devices; i++) {
        printf("%s prints a line every %g ms\n", rgp_standin_path(d->device[i]), d->image->tick_us / 1000.0);
    }
    printf("In a second terminal, as with a real device:\n"
           "  rigpulse ports --listen %s\n"
           "  rigpulse watch %s --port serial\n"
           "Ctrl-C ends it, as a wire that is pulled.\n",
           rgp_standin_path(d->device[0]), path);
    fflush(stdout);
}

static int play_rig(const command *self, rgp_rig *rig, const char *path, double seconds, uint64_t seed)
{
    const rgp_hookup *serial = find_hookup(rig, "serial"), *sim = find_hookup(rig, "sim");
    g_autoptr(GError) error = NULL;
    if (!serial || !sim) {
        return command_refuse(self,
                              "%s: it needs a 'hookup serial' and a 'hookup sim': the one says how the device "
                              "speaks, the other what is behind it",
                              path);
    }
    wire_demo d = {.rig = rig, .image = rig->image};
    rig->hookup = sim;
    begin_channels(&d);
    d.sim = rgp_serial_check(rig, serial, &error) ? rgp_sim_new(rig, seed, true, &error) : NULL;
    const bool begun = d.sim && begin_devices(&d, serial, &error);
    if (begun) {
        say_beginning(&d, path);
        play(&d, seconds);
    } else {
        command_refuse(self, "%s", error->message);
    }
    end_demo(&d);
    return begun ? EXIT_DONE : EXIT_USAGE;
}

int demo_serial(const command *self, const char *path, const char *length, const char *seed_text)
{
    double seconds = LONGEST_S;
    uint64_t seed;
    const char *why = "it must be above 0";
    if (length && (!rgp_quantity_parse(length, "s", &seconds, &why) || !(seconds > 0.0 && seconds <= LONGEST_S))) {
        return command_refuse(self, "--for %s: %s; for example --for 60s", length, why);
    }
    rgp_rig *rig = command_seed(self, seed_text, &seed) ? rigfile_load(self, path) : NULL;
    const int status = rig ? play_rig(self, rig, path, seconds, seed) : EXIT_USAGE;
    rgp_rig_free(rig);
    return status;
}
