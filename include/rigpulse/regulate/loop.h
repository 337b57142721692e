/* loop (loop supervision): every control loop has around its controller a setpoint that is trimmed and ramped, when it
 * engages and when it cuts out.
 *
 * It waits until both readings are usable and the measured one has been within `within` of the setpoint for `delay`.
 * Engaged, it cuts out when the error has been beyond `beyond` for `beyond_for` (it has fallen, or runs away), when the
 * controller has been saturated for `saturated_for`, or when a reading has been bad for longer than `hold`; until then
 * it is held. What has cut out stays out, or with `again` waits anew. */
#ifndef RIGPULSE_REGULATE_LOOP_H
#define RIGPULSE_REGULATE_LOOP_H

#include "rigpulse/drive/slew.h"
#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* X(name, word) */
#define RGP_LOOP_PHASE_LIST(X)                                                       \
    X(WAITING, "waiting") /* for what it needs: it drives nothing */                 \
    X(ENGAGED, "engaged") /* it drives */                                            \
    X(HELD, "held")       /* readings are bad: the last output stands for a while */ \
    X(OUT, "out")         /* it has cut out */

enum {
#define RGP_LOOP_PHASE_ENUM(name, word) RGP_LOOP_##name,
    RGP_LOOP_PHASE_LIST(RGP_LOOP_PHASE_ENUM)
#undef RGP_LOOP_PHASE_ENUM
        RGP_LOOP_PHASES
};

/* Why it has cut out. */
enum {
    RGP_TRIP_BEYOND = 0,    /* it was too far from its setpoint for too long */
    RGP_TRIP_SATURATED = 1, /* its output was at a limit for too long */
    RGP_TRIP_SENSOR = 2,    /* readings were bad for longer than it may hold */
    RGP_TRIPS
};

/* The settings: the caller's, and only read. */
typedef struct rgp_loop_config {
    float trim;          /* measured units, added to the setpoint */
    float bias;          /* output units, added to the output behind the controller, to test it */
    float ramp;          /* measured units a second: the setpoint moves no faster; 0: at once */
    float within;        /* measured units; 0: it engages anywhere */
    float delay;         /* seconds */
    float beyond;        /* measured units; 0: never */
    float beyond_for;    /* seconds */
    float saturated_for; /* seconds; 0: never */
    float hold;          /* seconds */
    uint32_t again;      /* 1: it engages again; needs a `within` */
} rgp_loop_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_loop_state {
    uint64_t ready_us, away_us, saturated_us,
        bad_us;       /* how long it has been ready, away, saturated, without readings */
    float target;     /* the setpoint, trimmed and on its ramp */
    float output;     /* what the controller has put out last */
    float bound;      /* measured units: as long as nothing is new and the error is below, it goes on; 0: not so */
    uint8_t phase;    /* RGP_LOOP_... */
    uint8_t reason;   /* RGP_TRIP_..., of OUT */
    uint8_t begins;   /* it has engaged in this step */
    uint8_t reserved; /* 0 */
} rgp_loop_state;

/* RGP_E_CONFIG when a setting is not finite or outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_loop_check(const rgp_loop_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_loop_fault(const rgp_loop_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_loop_reset(rgp_loop_state *state);

/* The phase for this step. `saturated`: what the controller said of its last step. `stopped`: it has to wait. dt in
 * seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
uint8_t rgp_loop_step(const rgp_loop_config *config, rgp_loop_state *state, rgp_reading setpoint, rgp_reading measured,
                      bool saturated, bool stopped, float dt);

/* "waiting", "engaged", "held", "out"; "?" for a number that is none. */
const char *rgp_loop_phase_word(uint8_t phase);

/* "it was too far from its setpoint", ...; "?" for a number that is none. */
const char *rgp_trip_text(uint8_t reason);

RGP_DECLARATIONS_END

#endif
