/* The ports that there are: the simulated one, and devices on a wire. */
#include "ports.h"

#include "rigpulse/image.h"

#include <gio/gio.h>
#include <string.h>

enum { PORT_SIM, PORT_SERIAL, PORTS };

static rgp_catalog *catalogs(void)
{
    static rgp_catalog all[PORTS];
    static gsize ready = 0;
    if (g_once_init_enter(&ready)) {
        all[PORT_SIM] = *rgp_sim_catalog();
        all[PORT_SERIAL] = *rgp_serial_catalog();
        for (int i = 0; i + 1 < PORTS; i++) {
            all[i].next = &all[i + 1];
        }
        g_once_init_leave(&ready, 1);
    }
    return all;
}

const rgp_catalog *rgp_ports_catalog(void)
{
    return catalogs();
}

bool rgp_ports_choose(const char *port)
{
    rgp_catalog *all = catalogs();
    for (int i = 0; port && i < PORTS; i++) {
        if (strcmp(all[i].port, port) == 0) {
            all->wanted = all[i].port;
            return true;
        }
    }
    all->wanted = NULL;
    return !port;
}

static bool guarded;

void rgp_ports_guard(void)
{
    guarded = true;
}

static bool is_to(const rgp_hookup *hookup, int port)
{
    return hookup && strcmp(hookup->port, catalogs()[port].port) == 0;
}

bool rgp_ports_is_real(const rgp_rig *rig)
{
    return is_to(rig->hookup, PORT_SERIAL);
}

static bool refuse_unhooked(const rgp_rig *rig, GError **error)
{
    if (rig->hookup_count > 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "%s: there is no 'hookup %s' in it; there is: hookup %s",
                    rig->file, catalogs()->wanted, rig->hookups[0].port);
    } else {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND,
                    "%s: this rig is not hooked up to a port; add 'hookup sim' and below it what its channels are "
                    "connected to",
                    rig->file);
    }
    return false;
}

bool rgp_ports_open(rgp_opened *opened, const rgp_rig *rig, const rgp_opening *how, GError **error)
{
    *opened = (rgp_opened){0};
    if (!rig->hookup) {
        return refuse_unhooked(rig, error);
    }
    if (is_to(rig->hookup, PORT_SERIAL)) {
        opened->serial = rgp_serial_new(rig, guarded, error);
        opened->port = opened->serial ? rgp_serial_port(opened->serial) : NULL;
    } else {
        opened->sim = rgp_sim_new(rig, how->seed, how->paced, error);
        opened->port = opened->sim ? rgp_sim_port(opened->sim) : NULL;
    }
    return opened->port != NULL;
}

void rgp_ports_close(rgp_opened *opened)
{
    rgp_sim_free(opened->sim);
    rgp_serial_free(opened->serial);
    *opened = (rgp_opened){0};
}

rgp_lateness rgp_ports_lateness(const rgp_opened *opened)
{
    return opened->sim ? rgp_sim_lateness(opened->sim) : rgp_serial_lateness(opened->serial);
}

void rgp_ports_catch_up(const rgp_opened *opened)
{
    if (opened->sim) {
        rgp_sim_catch_up(opened->sim);
    } else {
        rgp_serial_catch_up(opened->serial);
    }
}

static bool try_sim(rgp_rig *rig, char **says, GError **error)
{
    rgp_sim *sim = rgp_sim_new(rig, 1, false, error);
    if (!sim) {
        return false;
    }
    for (uint32_t i = 0; i < rgp_image_count(rig->image, RGP_SECTION_SENSORS); i++) {
        if (rgp_sim_noise(sim, i) > 0.0) {
            rgp_rig_warn_of_noise(rig, i);
        }
    }
    *says = rgp_sim_says(sim);
    rgp_sim_free(sim);
    return true;
}

bool rgp_ports_try(rgp_rig *rig, char **says, GError **error)
{
    const rgp_hookup *counts = rig->hookup;
    bool sound = true;
    *says = NULL;
    for (uint32_t i = 0; i < rig->hookup_count && sound; i++) {
        rig->hookup = &rig->hookups[i];
        sound = is_to(rig->hookup, PORT_SERIAL) ? rgp_serial_check(rig, rig->hookup, error) : try_sim(rig, says, error);
    }
    rig->hookup = counts;
    return sound;
}
