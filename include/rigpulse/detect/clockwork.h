/* clockwork: events made of time and of other events.
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

#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#define RP_CLOCKWORK_TIME_MAX 1e8f
#define RP_TIMES_MAX          16u

typedef struct rp_once_config {
    uint32_t reserved; /* 0 */
} rp_once_config;

typedef struct rp_once_state {
    uint32_t done;
} rp_once_state;

/* RP_E_CONFIG unless the reserved field is 0. */
rp_status rp_once_check(const rp_once_config *config);
void rp_once_reset(rp_once_state *state);

/* The input is not looked at. */
rp_reading rp_once_step(const rp_once_config *config, rp_once_state *state, rp_reading in, float dt);

typedef struct rp_every_config {
    float period; /* seconds; above 0, up to RP_CLOCKWORK_TIME_MAX */
} rp_every_config;

typedef struct rp_every_state {
    uint64_t since_us;
    uint64_t runs;
} rp_every_state;

rp_status rp_every_check(const rp_every_config *config);
void rp_every_reset(rp_every_state *state);

/* The input is a condition: while it is false, or bad, the time begins anew. Of several periods in one step one event
 * is told. */
rp_reading rp_every_step(const rp_every_config *config, rp_every_state *state, rp_reading in, float dt);

typedef struct rp_after_config {
    float time; /* seconds; from 0 to RP_CLOCKWORK_TIME_MAX */
} rp_after_config;

typedef struct rp_after_state {
    uint64_t left_us;
    uint64_t waits;
} rp_after_state;

rp_status rp_after_check(const rp_after_config *config);
void rp_after_reset(rp_after_state *state);

/* Once the first event has come nothing of the input is needed: what it tells is good. */
rp_reading rp_after_step(const rp_after_config *config, rp_after_state *state, rp_reading in, float dt);

typedef struct rp_times_config {
    uint32_t count; /* 2 to RP_TIMES_MAX */
    float within;   /* seconds; above 0, up to RP_CLOCKWORK_TIME_MAX */
} rp_times_config;

/* Only the first `count` places of at_us[] are used; RP_TIMES_STATE_BYTES(count) bytes hold them. */
typedef struct rp_times_state {
    uint64_t now_us;
    uint32_t held, newest;
    uint64_t at_us[RP_TIMES_MAX];
} rp_times_state;

#define RP_TIMES_STATE_BYTES(count) (16u + 8u * (count))

rp_status rp_times_check(const rp_times_config *config);
void rp_times_reset(rp_times_state *state);
rp_reading rp_times_step(const rp_times_config *config, rp_times_state *state, rp_reading in, float dt);

typedef struct rp_absent_config {
    float time; /* seconds; above 0, up to RP_CLOCKWORK_TIME_MAX */
} rp_absent_config;

typedef struct rp_absent_state {
    uint64_t since_us;
    uint64_t runs;
} rp_absent_state;

rp_status rp_absent_check(const rp_absent_config *config);
void rp_absent_reset(rp_absent_state *state);

/* While the input is bad the time stands: it cannot be known whether it came. */
rp_reading rp_absent_step(const rp_absent_config *config, rp_absent_state *state, rp_reading in, float dt);

#endif
