/* The ports that a rig can be hooked up to. */
#ifndef RUNTIME_PORTS_H
#define RUNTIME_PORTS_H

#include "rigpulse/lang.h"

#include <glib.h>

/* The words of their hook-ups; for rp_rig_compile(). */
const rp_catalog *rp_ports_catalog(void);

/* Opens the rig's port and closes it again: false with *error when it cannot be opened, as when a file that a sensor
 * plays is missing or wrong. What the port knows of its sensors' noise is heeded (rp_rig_heed_noise()). A rig that is
 * not hooked up passes. */
bool rp_ports_try(rp_rig *rig, GError **error);

#endif
