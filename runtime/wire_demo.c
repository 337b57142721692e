/* The devices of a rig, played by the simulated mechanisms behind pseudo-terminals. */
#include "wire_demo.h"

#include "interrupt.h"

#include "ports/serial/serial.h"
#include "ports/serial/standin.h"
#include "rigpulse/image.h"
#include "sim/sim.h"

#include <gio/gio.h>
#include <math.h>
#include <string.h>

struct rgp_wire_demo {
    const rgp_rig *rig;
    const rgp_image_header *image;
    rgp_sim *sim;
    rgp_standin **device;
    uint32_t devices, sensors, actuators;
    double *raw;
    float *told, *driven;
};

static const rgp_hookup *find_hookup(const rgp_rig *rig, const char *port)
{
    for (uint32_t i = 0; i < rig->hookup_count; i++) {
        if (strcmp(rig->hookups[i].port, port) == 0) {
            return &rig->hookups[i];
        }
    }
    return NULL;
}

static bool begin_devices(rgp_wire_demo *d, const rgp_hookup *serial, GError **error)
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

static void begin_channels(rgp_wire_demo *d)
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

static void take_orders(rgp_wire_demo *d, const rgp_port *port)
{
    for (uint32_t i = 0; i < d->devices; i++) {
        rgp_standin_listen(d->device[i], d->told);
    }
    for (uint32_t i = 0; i < d->actuators; i++) {
        port->write(port->self, (uint16_t)i, d->told[i]);
    }
}

/* Each change once. */
static void tell(rgp_wire_demo *d, double time, void (*told)(void *self, double time, uint16_t actuator, float value),
                 void *self)
{
    for (uint32_t i = 0; i < d->actuators; i++) {
        if (d->told[i] != d->driven[i]) {
            d->driven[i] = d->told[i];
            told(self, time, (uint16_t)i, d->told[i]);
        }
    }
}

static void print_readings(rgp_wire_demo *d, const rgp_port *port)
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

rgp_wire_demo *rgp_wire_demo_new(rgp_rig *rig, uint64_t seed, GError **error)
{
    const rgp_hookup *serial = find_hookup(rig, "serial"), *sim = find_hookup(rig, "sim");
    if (!serial || !sim) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND,
                    "%s: it needs a 'hookup serial' and a 'hookup sim': the one says how the device speaks, the other "
                    "what is behind it",
                    rig->file);
        return NULL;
    }
    rgp_wire_demo *d = g_new0(rgp_wire_demo, 1);
    *d = (rgp_wire_demo){.rig = rig, .image = rig->image};
    rig->hookup = sim;
    begin_channels(d);
    d->sim = rgp_serial_check(rig, serial, error) ? rgp_sim_new(rig, seed, true, error) : NULL;
    if (!d->sim || !begin_devices(d, serial, error)) {
        rgp_wire_demo_free(d);
        return NULL;
    }
    return d;
}

void rgp_wire_demo_free(rgp_wire_demo *d)
{
    if (!d) {
        return;
    }
    for (uint32_t i = 0; i < d->devices; i++) {
        rgp_standin_free(d->device[i]);
    }
    rgp_sim_free(d->sim);
    g_free(d->device);
    g_free(d->raw);
    g_free(d->told);
    g_free(d->driven);
    g_free(d);
}

const char *rgp_wire_demo_path(const rgp_wire_demo *d, uint32_t device)
{
    return device < d->devices ? rgp_standin_path(d->device[device]) : NULL;
}

void rgp_wire_demo_play(rgp_wire_demo *d, double seconds,
                        void (*told)(void *self, double time, uint16_t actuator, float value), void *self)
{
    const rgp_port *port = rgp_sim_port(d->sim);
    const double tick = d->image->tick_us / 1e6;
    interrupt_catch();
    interrupt_ticks_here(true);
    for (uint64_t n = 0; !interrupt_asked() && (double)n * tick < seconds; n++) {
        port->sleep_until(port->self, n * d->image->tick_us);
        take_orders(d, port);
        tell(d, (double)n * tick, told, self);
        print_readings(d, port);
    }
    interrupt_ticks_here(false);
}
