/* The words of a hook-up to devices that print lines, as the compiler hands them over: places in the items' settings.
 */
#ifndef PORTS_SERIAL_WORDS_H
#define PORTS_SERIAL_WORDS_H

#include "rigpulse/catalog.h"

enum {
    DEVICE_PATH,
    DEVICE_SPEED,
    DEVICE_JSON,
    DEVICE_CR,
    DEVICE_CRLF,
    DEVICE_RESTARTS,
    DEVICE_START,
    DEVICE_END,
    DEVICE_COMMENT
};

enum { TAKES_TIMES, TAKES_PLUS, TAKES_ON, TAKES_OFF };

enum { SENDS_EVERY, SENDS_DECIMALS, SENDS_ON, SENDS_OFF };

#define SENDS_MARK        "{}"
#define SENDS_AS_NEEDED   -1.0 /* decimals: the fewest that say it */
#define DEVICE_SPEED_MOST 4000000.0

extern const rgp_mechanism_kind serial_device;
extern const rgp_sensor_kind serial_takes;
extern const rgp_actuator_kind serial_sends;

/* "\n" or what else ends a line that is sent to a device of these settings. */
const char *serial_line_end(const double *device_value);

#endif
