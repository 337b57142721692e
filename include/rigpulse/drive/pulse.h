/* pulse (monostable with hold-off): an action that is fired is acting for a stated time and then refuses for a
 * holdoff, so that its effect can settle before it may act again. Times are port times in microseconds;
 * an action ends at the first tick that is not before its end, so times are rounded up to ticks. */
#ifndef RIGPULSE_DRIVE_PULSE_H
#define RIGPULSE_DRIVE_PULSE_H

#include "rigpulse/linkage.h"

#include <stdint.h>

RGP_DECLARATIONS_BEGIN

/* The phases of an action, in their order. */
typedef enum rgp_pulse_phase {
    RGP_PULSE_READY,  /* it may be fired */
    RGP_PULSE_ACTING, /* it has been, and its time runs */
    RGP_PULSE_HOLDOFF /* its time is over, and it refuses for a while */
} rgp_pulse_phase;

/* Its face differs from that of other blocks: it is asked and fired at times of the port's clock, not stepped by what
 * has passed, since what fires it comes between steps, and since an end that is a time cannot drift. It has no
 * settings: each firing brings its own width and holdoff. */

typedef struct rgp_pulse_state {
    uint64_t acts_until; /* microseconds on the port's clock */
    uint64_t ready_at;   /* likewise: the end of the holdoff */
} rgp_pulse_state;

/* Ready, as memory of zeroes is. */
static inline void rgp_pulse_reset(rgp_pulse_state *state);

/* The phase at a time of the port's clock, in microseconds.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
static inline rgp_pulse_phase rgp_pulse_at(const rgp_pulse_state *state, uint64_t now);

/* Starts an action of `width` microseconds, followed by `holdoff` microseconds of refusing. Either may be
 * 0; the caller has asked rgp_pulse_at() first. A sum past the end of time is cut to the end of time. */
static inline void rgp_pulse_fire(rgp_pulse_state *state, uint64_t now, uint64_t width, uint64_t holdoff);

RGP_DECLARATIONS_END

#include "rigpulse/inside/drive/pulse.h"

#endif
