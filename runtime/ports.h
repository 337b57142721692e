/* The ports that a rig can be hooked up to. */
#ifndef RUNTIME_PORTS_H
#define RUNTIME_PORTS_H

#include "rigpulse/lang.h"

#include <glib.h>

/* The words of their hook-ups; for rgp_rig_compile(). */
const rgp_catalog *rgp_ports_catalog(void);

/* Opens the rig's port and closes it again: false with *error when it cannot be opened, as when a file that a sensor
 * plays is missing or wrong. What the port knows of its sensors' noise is heeded (rgp_rig_warn_of_noise()). A rig that
 * is not hooked up passes. *says, to be freed: what there is to say of what its sensors play, a sentence a line; NULL
 * for nothing. */
bool rgp_ports_try(rgp_rig *rig, char **says, GError **error);

#endif
