/* The ports that a rig can be hooked up to, and the one that it is: simulated, or devices on a wire. */
#ifndef RUNTIME_PORTS_H
#define RUNTIME_PORTS_H

#include "ports/serial/serial.h"
#include "sim/sim.h"

/* The words of their hook-ups, one list behind the other; for rgp_rig_compile(). */
const rgp_catalog *rgp_ports_catalog(void);

/* From now on the hook-up to that port counts in every rig that is compiled with the catalogue; NULL: the first one of
 * its file. False when there is no such port. */
bool rgp_ports_choose(const char *port);

/* From now on a second process brings the devices of a real port to rest when this one dies. */
void rgp_ports_guard(void);

/* The port of a rig that has been chosen by its hook-up. One of the two is there. */
typedef struct rgp_opened {
    const rgp_port *port;
    rgp_sim *sim;
    rgp_serial *serial;
} rgp_opened;

typedef struct rgp_opening {
    uint64_t seed; /* of a simulated one */
    bool paced;    /* likewise; a real one always is */
} rgp_opening;

/* True of a rig whose time passes by itself, on hardware. */
bool rgp_ports_is_real(const rgp_rig *rig);

/* False with *error when it cannot be opened, or the rig has no hook-up that counts. The rig must outlive it. */
bool rgp_ports_open(rgp_opened *opened, const rgp_rig *rig, const rgp_opening *how, GError **error);
void rgp_ports_close(rgp_opened *opened);

rgp_lateness rgp_ports_lateness(const rgp_opened *opened);

/* Between sleeps: what has passed since the last one is not the rig's time. */
void rgp_ports_catch_up(const rgp_opened *opened);

/* Holds the rig's hook-ups against their ports, each: false with *error when one could not be opened for what stands in
 * it, as when a file that a sensor plays is missing or wrong. Devices are not opened. What a port knows of its sensors'
 * noise is heeded (rgp_rig_warn_of_noise()). A rig that is not hooked up passes. *says, to be freed: what there is to
 * say of what its sensors play, a sentence a line; NULL for nothing. */
bool rgp_ports_try(rgp_rig *rig, char **says, GError **error);

#endif
