/* supervision (signal validation): a raw reading is held against its range, its fastest change and its age.
 *
 * In this order: missing, outside the declared range, pinned at a rail, late (older than its due), changed faster than
 * is possible, stuck (not one count of change for so long). Each but the range is off unless its setting is given. A
 * sample that stands is held against the fastest change once, when it comes, and against time at each step. */
#ifndef RIGPULSE_CONDITION_SUPERVISION_H
#define RIGPULSE_CONDITION_SUPERVISION_H

#include "rigpulse/linkage.h"
#include "rigpulse/port.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_supervision_config {
    int32_t low, high; /* the declared range; low < high */
    uint32_t pinned;   /* 1: a reading at either end of the range is pinned */
    uint32_t due_us;   /* a reading older than this is late; 0: off */
    float stuck;       /* seconds without a change; 0: off */
    float jump;        /* counts a second, the fastest possible change; 0: off */
} rgp_supervision_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_supervision_state {
    rgp_sample sample;   /* the newest one; the caller puts it here */
    int32_t accepted;    /* the last that was good */
    int32_t raw;         /* the last of any */
    uint64_t since_us;   /* `accepted` */
    uint64_t same_us;    /* since `raw` changed */
    uint8_t known;       /* 1: something has been accepted */
    uint8_t fresh;       /* 1: the sample is a new one; the caller puts it here, a step takes it back */
    rgp_quality verdict; /* of the newest sample, for as long as it stands: by what it is, not by its age */
} rgp_supervision_state;

/* RGP_E_CONFIG when low is not below high or a time or speed is negative or not finite. Else RGP_OK. Only the settings
 * are looked at. */
rgp_status rgp_supervision_check(const rgp_supervision_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_supervision_fault(const rgp_supervision_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_supervision_reset(rgp_supervision_state *state);

/* The quality of state->sample at `now_us`, port time. dt in seconds since the last call.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_quality rgp_supervision_step(const rgp_supervision_config *config, rgp_supervision_state *state, uint64_t now_us,
                                 float dt);

RGP_DECLARATIONS_END

#endif
