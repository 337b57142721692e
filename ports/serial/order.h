/* The lines that are sent to a device: a text with the value of an actuator in it. */
#ifndef PORTS_SERIAL_ORDER_H
#define PORTS_SERIAL_ORDER_H

#include "rigpulse/lang.h"

#include <glib.h>

#define ORDER_MOST 512u /* bytes of a line */

/* Writes the line for a value, with its end, and returns its bytes. `is_switch`: on and off have words. */
gsize order_compose(const rgp_actuator_item *item, bool is_switch, const char *line_end, float value,
                    char to[ORDER_MOST]);

/* The value that a line without its end says; NAN: it is no such line. */
float order_read(const rgp_actuator_item *item, bool is_switch, const char *line);

#endif
