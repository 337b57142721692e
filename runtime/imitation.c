/* The recorded outputs are written to the simulated port, tick by tick. */
#include "imitation.h"

#include "rigpulse/image.h"
#include "sim/sim.h"

#include <gio/gio.h>
#include <string.h>

struct rgp_imitation {
    const rgp_rig *rig;
    bool happens;
    uint64_t rows, *time_us; /* by row, on the port's clock */
    uint32_t actuators;
    float **driven; /* by actuator, by row; NULL: it drives no mechanism */
    bool *stops;    /* by row: readings are wanted, or something is driven otherwise than before */
};

#define BEGINS_TICKS 2u /* a history that begins later than that begins in the middle of a run */

static bool drives(const rgp_hookup *h, uint32_t actuator)
{
    bool any = false;
    for (uint32_t i = 0; i < h->mechanisms; i++) {
        for (uint32_t k = 0; k < RGP_KIND_TERMINALS_MAX; k++) {
            any |= h->mechanism[i].actuator[k] == (int32_t)actuator;
        }
    }
    return any;
}

static void take_times(rgp_imitation *im, const rgp_history *h)
{
    const uint64_t first = rgp_history_first(h), begin = im->rows > 0 ? rgp_history_time_us(h, first) : 0,
                   tick = rgp_history_image(h)->tick_us, off = begin > BEGINS_TICKS * tick ? begin : 0;
    im->time_us = g_new(uint64_t, im->rows + 1);
    for (uint64_t i = 0; i < im->rows; i++) {
        im->time_us[i] = rgp_history_time_us(h, first + i) - off;
    }
}

/* A value that is not known stays as it was. */
static bool take_driven(rgp_imitation *im, const rgp_history *h, uint32_t actuator, GError **error)
{
    const char *name =
        rgp_image_text(im->rig->image, RGP_NAME_SLOT, rgp_image_actuator_slot(im->rig->image, actuator), 0);
    const int32_t column = rgp_history_named(h, name);
    if (column < 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND,
                    "the recording has no '%s', which drives a mechanism of this rig: is it of another rig?", name);
        return false;
    }
    const rgp_image_actuator *is =
        (const rgp_image_actuator *)rgp_image_at(im->rig->image, RGP_SECTION_ACTUATORS) + actuator;
    const uint64_t first = rgp_history_first(h);
    float now = is->rest;
    im->driven[actuator] = g_new(float, im->rows + 1);
    for (uint64_t i = 0; i < im->rows; i++) {
        now = rgp_usable(rgp_history_quality(h, (uint32_t)column, first + i))
                  ? rgp_history_value(h, (uint32_t)column, first + i)
                  : now;
        im->driven[actuator][i] = now;
        im->stops[i] |= i == 0 || now != im->driven[actuator][i - 1];
    }
    return true;
}

rgp_imitation *rgp_imitation_new(const rgp_imitation_ask *ask, GError **error)
{
    rgp_imitation *im = g_new0(rgp_imitation, 1);
    im->rig = ask->rig;
    im->happens = ask->happens;
    im->rows = ask->until - rgp_history_first(ask->history);
    im->actuators = rgp_image_count(ask->rig->image, RGP_SECTION_ACTUATORS);
    im->driven = g_new0(float *, im->actuators + 1);
    im->stops = g_new0(bool, im->rows + 1);
    take_times(im, ask->history);
    bool sound = true;
    for (uint32_t i = 0; i < im->actuators && sound; i++) {
        sound = !drives(ask->rig->hookup, i) || take_driven(im, ask->history, i, error);
    }
    if (!sound) {
        rgp_imitation_free(im);
        return NULL;
    }
    return im;
}

void rgp_imitation_free(rgp_imitation *im)
{
    if (!im) {
        return;
    }
    for (uint32_t i = 0; i < im->actuators; i++) {
        g_free(im->driven[i]);
    }
    g_free(im->driven);
    g_free(im->stops);
    g_free(im->time_us);
    g_free(im);
}

uint64_t rgp_imitation_rows(const rgp_imitation *im)
{
    return im->rows;
}

void rgp_imitation_want(rgp_imitation *im, uint64_t row)
{
    im->stops[row] = true;
}

static void write_all(const rgp_imitation *im, const rgp_port *port, uint64_t row)
{
    for (uint32_t i = 0; i < im->actuators; i++) {
        if (im->driven[i]) {
            port->write(port->self, (uint16_t)i, im->driven[i][row]);
        }
    }
}

bool rgp_imitation_run(const rgp_imitation *im, const rgp_mechanism_item *mechanism, const uint32_t *sensor,
                       uint32_t sensors, double *const *reading, GError **error)
{
    rgp_hookup hookup = *im->rig->hookup;
    rgp_rig rig = *im->rig;
    hookup.mechanism = mechanism;
    hookup.disturbances = im->happens ? hookup.disturbances : 0;
    rig.hookup = &hookup;
    rgp_sim *sim = rgp_sim_new(&rig, 1, false, error);
    if (!sim) {
        return false;
    }
    const rgp_port *port = rgp_sim_port(sim);
    for (uint64_t row = 0; row < im->rows; row++) {
        if (!im->stops[row]) {
            continue;
        }
        port->sleep_until(port->self, im->time_us[row]);
        for (uint32_t i = 0; i < sensors; i++) {
            reading[i][row] = rgp_sim_counts(sim, sensor[i]);
        }
        write_all(im, port, row);
    }
    rgp_sim_free(sim);
    return true;
}
