/* The other end of a wire, for demonstrations and tests: a pseudo-terminal on which a program prints lines as a device
 * of a rig's hook-up would, and takes its orders. */
#ifndef PORTS_SERIAL_STANDIN_H
#define PORTS_SERIAL_STANDIN_H

#include "rigpulse/lang.h"

#include <glib.h>

typedef struct rgp_standin rgp_standin;

/* Device `which` of a hook-up to "serial", at its path, which becomes a link to the pseudo-terminal. NULL with *error,
 * as when there is something at that path already. */
rgp_standin *rgp_standin_new(const rgp_rig *rig, const rgp_hookup *hookup, uint32_t which, GError **error);

/* Takes the link away. */
void rgp_standin_free(rgp_standin *standin);

const char *rgp_standin_path(const rgp_standin *standin);

/* Prints a line of raw readings, by sensor of the rig, where somebody has it open; NAN: none. */
void rgp_standin_print(rgp_standin *standin, const double *raw);

/* Takes the orders that have come: value[i] becomes what actuator i of the rig was told last, and stays else. */
void rgp_standin_listen(rgp_standin *standin, float *value);

/* Bytes that no device should print, for tests. */
void rgp_standin_write(rgp_standin *standin, const char *bytes);

#endif
