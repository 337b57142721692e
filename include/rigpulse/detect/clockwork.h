/* clockwork (timers and event counters): events made of time and of other events.
 *
 *   once     one event, at the first step
 *   every    one event each period, the first a period after the first step
 *   after    one event so long after the last one of its input; another one meanwhile begins the time anew
 *   times    one event when its input has come so many times within a time; then the counting begins anew
 *   absent   a condition: its input has not come for a time, counted from the first step or from the last one
 *
 * Their inputs and events are moments (see moment.h). Times are added up in microseconds. */
#ifndef RIGPULSE_DETECT_CLOCKWORK_H
#define RIGPULSE_DETECT_CLOCKWORK_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_CLOCKWORK_TIME_MAX 1e8f /* seconds */
#define RGP_TIMES_MAX          16u  /* events that can be counted */

/* The settings: the caller's, and only read. */
typedef struct rgp_once_config {
    uint32_t reserved; /* 0 */
} rgp_once_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_once_state {
    uint32_t done; /* 1: its event has been given */
} rgp_once_state;

/* RGP_E_CONFIG unless the reserved field is 0. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_once_check(const rgp_once_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_once_fault(const rgp_once_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_once_reset(rgp_once_state *state);

/* The input is not looked at. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_once_step(const rgp_once_config *config, rgp_once_state *state, rgp_reading in, float dt);

/* The settings: the caller's, and only read. */
typedef struct rgp_every_config {
    float period; /* seconds; above 0, up to RGP_CLOCKWORK_TIME_MAX */
} rgp_every_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_every_state {
    uint64_t since_us; /* the time began */
    uint64_t runs;     /* 1: the time runs */
} rgp_every_state;

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
rgp_status rgp_every_check(const rgp_every_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_every_fault(const rgp_every_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_every_reset(rgp_every_state *state);

/* The input is a condition: while it is false, or bad, the time begins anew. Of several periods in one step one event
 * is told. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_every_step(const rgp_every_config *config, rgp_every_state *state, rgp_reading in, float dt);

/* The settings: the caller's, and only read. */
typedef struct rgp_after_config {
    float time; /* seconds; from 0 to RGP_CLOCKWORK_TIME_MAX */
} rgp_after_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_after_state {
    uint64_t left_us; /* until the event */
    uint64_t waits;   /* 1: there will be one */
} rgp_after_state;

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
rgp_status rgp_after_check(const rgp_after_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_after_fault(const rgp_after_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_after_reset(rgp_after_state *state);

/* Once the first event has come nothing of the input is needed: what it tells is good. dt in seconds; dt = 0 steps no
 * state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_after_step(const rgp_after_config *config, rgp_after_state *state, rgp_reading in, float dt);

/* The settings: the caller's, and only read. */
typedef struct rgp_times_config {
    uint32_t count; /* 2 to RGP_TIMES_MAX */
    float within;   /* seconds; above 0, up to RGP_CLOCKWORK_TIME_MAX */
} rgp_times_config;

/* Only the first `count` places of at_us[] are used; RGP_TIMES_STATE_BYTES(count) bytes hold them. */
typedef struct rgp_times_state {
    uint64_t now_us;               /* time since the first step */
    uint32_t held, newest;         /* events within the time; the place of the newest */
    uint64_t at_us[RGP_TIMES_MAX]; /* their times, a ring */
} rgp_times_state;

#define RGP_TIMES_STATE_BYTES(count) (16u + 8u * (count)) /* of a state for so many events */

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
rgp_status rgp_times_check(const rgp_times_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_times_fault(const rgp_times_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_times_reset(rgp_times_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_times_step(const rgp_times_config *config, rgp_times_state *state, rgp_reading in, float dt);

/* The settings: the caller's, and only read. */
typedef struct rgp_absent_config {
    float time; /* seconds; above 0, up to RGP_CLOCKWORK_TIME_MAX */
} rgp_absent_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_absent_state {
    uint64_t since_us; /* the time began */
    uint64_t runs;     /* 1: the time runs */
} rgp_absent_state;

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
rgp_status rgp_absent_check(const rgp_absent_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_absent_fault(const rgp_absent_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_absent_reset(rgp_absent_state *state);

/* While the input is bad the time stands: it cannot be known whether it came. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_absent_step(const rgp_absent_config *config, rgp_absent_state *state, rgp_reading in, float dt);

RGP_DECLARATIONS_END

#endif
