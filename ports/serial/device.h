/* One device on a wire. Three have to do with it: the thread that reads takes its lines and opens it again when it was
 * away; the thread that ticks takes its newest readings and sends orders, and leaves off where it would have to wait;
 * a signal handler may bring it to rest. */
#ifndef PORTS_SERIAL_DEVICE_H
#define PORTS_SERIAL_DEVICE_H

#include "line.h"
#include "order.h"

#include "rigpulse/image.h"
#include "rigpulse/port.h"

#include <stdatomic.h>

#define DEVICE_OUT 4096u /* bytes on their way to it */

typedef struct device_reading {
    int32_t raw;
    rgp_quality quality;
    uint64_t stamp_ns; /* when its line was whole, on the system's clock */
    uint32_t lines;    /* that have told it, so far */
} device_reading;

typedef struct device_sensor {
    const rgp_sensor_item *item;
    bool is_switch;
    device_reading fresh;  /* of the thread that reads */
    device_reading newest; /* under the lock */
} device_sensor;

/* Of the thread that ticks. */
typedef struct device_actuator {
    const rgp_actuator_item *item;
    bool is_switch;
    float rest, value;
    bool waits;        /* to be sent */
    uint64_t sent_ns;  /* last; 0: never */
    uint32_t openings; /* of the device, then */
} device_actuator;

typedef struct device {
    const rgp_mechanism_item *item;
    char *path;
    unsigned speed;
    const char *line_end, *comment;
    device_sensor *sensor;
    device_actuator *actuator;
    unsigned sensors, actuators;
    char *rest;                /* lines that bring it to rest, and end it */
    atomic_int fd;             /* -1: away */
    atomic_bool ready;         /* it may be driven, and its lines count */
    atomic_uint openings;      /* how often it has been opened */
    uint64_t opened_ns;        /* of the thread that reads */
    uint64_t ready_ns, try_ns; /* likewise: then it is ready; then it is tried again */
    line_buffer bytes;         /* likewise */
    line_cells cells;          /* likewise */

    GMutex lock; /* of what follows, up to the next blank line, and of each sensor's newest reading */
    uint64_t lines, unread, away, gone_ns;
    char *last_unread;
    char *trouble; /* now; NULL: none */

    char out[DEVICE_OUT]; /* of the thread that ticks: begun and not taken yet */
    gsize out_length;
    uint32_t out_openings; /* of the device, when that began */
    uint64_t stuck_ns;     /* since when it takes nothing; 0: it does */
} device;

/* Device `which` of a hook-up; `folder`: where relative paths count from. */
void device_begin(device *d, const rgp_rig *rig, const rgp_hookup *h, uint32_t which, const char *folder);
void device_end(device *d);

/* Opens it and sends its start order, waiting until it has started; the thread that reads runs not yet. */
bool device_open(device *d, GError **error);

/* By the thread that reads: takes what has come. False when it has gone away. */
bool device_read(device *d);
void device_lose(device *d, uint64_t now_ns);
void device_try_again(device *d, uint64_t now_ns);

/* By the thread that ticks. RGP_E_CHANNEL: it is away, or takes nothing any more. */
rgp_status device_write(device *d, device_actuator *a, float value, uint64_t now_ns);
void device_send(device *d, uint64_t now_ns);

/* Any thread, any moment: rest, and the end order. */
void device_rest_now(const device *d);

/* By the thread that ticks, at its end: what is on its way is given a moment to go out, then the end order. */
void device_finish(device *d);

#endif
