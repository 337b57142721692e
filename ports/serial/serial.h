/* The serial port: devices that print their readings as lines of text, CSV or JSON, and take lines as orders, on a
 * serial wire or a pseudo-terminal, as the rig's hook-up says.
 *
 * The thread that ticks never waits for a device: another one reads the lines, opens what has gone away again, and
 * hands over the newest readings. A tick makes at most one system call for each device, and only when something is
 * sent. */
#ifndef PORTS_SERIAL_SERIAL_H
#define PORTS_SERIAL_SERIAL_H

#include "ports/clock.h"
#include "rigpulse/lang.h"
#include "rigpulse/port.h"

#include <glib.h>

typedef struct rgp_serial rgp_serial;

/* The words of a hook-up; for rgp_rig_compile(). */
const rgp_catalog *rgp_serial_catalog(void);

/* Holds the hook-up against what can be: opens nothing. False with *error, which names the line. */
bool rgp_serial_check(const rgp_rig *rig, const rgp_hookup *hookup, GError **error);

/* Opens the devices of the rig's hook-up to "serial", which it must have, and sends them their start orders. The rig
 * must outlive the port. `guard`: a second process brings them to rest when this one dies. NULL with *error, which says
 * which device, what was found, and the way out. */
rgp_serial *rgp_serial_new(const rgp_rig *rig, bool guard, GError **error);

/* Sends the end orders, and closes the devices. What drives them must have been brought to rest before. */
void rgp_serial_free(rgp_serial *serial);

const rgp_port *rgp_serial_port(rgp_serial *serial);
rgp_lateness rgp_serial_lateness(const rgp_serial *serial);

/* Between sleeps: the time since the last tick is not the rig's. */
void rgp_serial_catch_up(rgp_serial *serial);

/* The trouble that there is now, in a line, to be freed; NULL: none. Any thread. */
char *rgp_serial_trouble(rgp_serial *serial);

/* The account of the run, a line a device, to be freed: lines, those that could not be read, times away. */
char *rgp_serial_account(rgp_serial *serial);

#endif
