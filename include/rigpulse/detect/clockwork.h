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

#include "rigpulse/linkage.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

#define RGP_CLOCKWORK_TIME_MAX 1e8f
#define RGP_TIMES_MAX          16u

typedef struct rgp_once_config {
    uint32_t reserved; /* 0 */
} rgp_once_config;

typedef struct rgp_once_state {
    uint32_t done;
} rgp_once_state;

/* RGP_E_CONFIG unless the reserved field is 0. */
rgp_status rgp_once_check(const rgp_once_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_once_fault(const rgp_once_config *config);
void rgp_once_reset(rgp_once_state *state);

/* The input is not looked at. */
rgp_reading rgp_once_step(const rgp_once_config *config, rgp_once_state *state, rgp_reading in, float dt);

typedef struct rgp_every_config {
    float period; /* seconds; above 0, up to RGP_CLOCKWORK_TIME_MAX */
} rgp_every_config;

typedef struct rgp_every_state {
    uint64_t since_us;
    uint64_t runs;
} rgp_every_state;

rgp_status rgp_every_check(const rgp_every_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_every_fault(const rgp_every_config *config);
void rgp_every_reset(rgp_every_state *state);

/* The input is a condition: while it is false, or bad, the time begins anew. Of several periods in one step one event
 * is told. */
rgp_reading rgp_every_step(const rgp_every_config *config, rgp_every_state *state, rgp_reading in, float dt);

typedef struct rgp_after_config {
    float time; /* seconds; from 0 to RGP_CLOCKWORK_TIME_MAX */
} rgp_after_config;

typedef struct rgp_after_state {
    uint64_t left_us;
    uint64_t waits;
} rgp_after_state;

rgp_status rgp_after_check(const rgp_after_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_after_fault(const rgp_after_config *config);
void rgp_after_reset(rgp_after_state *state);

/* Once the first event has come nothing of the input is needed: what it tells is good. */
rgp_reading rgp_after_step(const rgp_after_config *config, rgp_after_state *state, rgp_reading in, float dt);

typedef struct rgp_times_config {
    uint32_t count; /* 2 to RGP_TIMES_MAX */
    float within;   /* seconds; above 0, up to RGP_CLOCKWORK_TIME_MAX */
} rgp_times_config;

/* Only the first `count` places of at_us[] are used; RGP_TIMES_STATE_BYTES(count) bytes hold them. */
typedef struct rgp_times_state {
    uint64_t now_us;
    uint32_t held, newest;
    uint64_t at_us[RGP_TIMES_MAX];
} rgp_times_state;

#define RGP_TIMES_STATE_BYTES(count) (16u + 8u * (count))

rgp_status rgp_times_check(const rgp_times_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_times_fault(const rgp_times_config *config);
void rgp_times_reset(rgp_times_state *state);
rgp_reading rgp_times_step(const rgp_times_config *config, rgp_times_state *state, rgp_reading in, float dt);

typedef struct rgp_absent_config {
    float time; /* seconds; above 0, up to RGP_CLOCKWORK_TIME_MAX */
} rgp_absent_config;

typedef struct rgp_absent_state {
    uint64_t since_us;
    uint64_t runs;
} rgp_absent_state;

rgp_status rgp_absent_check(const rgp_absent_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_absent_fault(const rgp_absent_config *config);
void rgp_absent_reset(rgp_absent_state *state);

/* While the input is bad the time stands: it cannot be known whether it came. */
rgp_reading rgp_absent_step(const rgp_absent_config *config, rgp_absent_state *state, rgp_reading in, float dt);

RGP_DECLARATIONS_END

#endif
