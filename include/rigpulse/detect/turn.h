/* turn: the turning points of a swing; and swing: how far it reaches, and how much of that is left after one more.
 *
 * A turning point counts once the quantity has come back from it by `least`; whatever is smaller is noise. It is told
 * then, with the moment at which it was (see moment.h): that of the extreme of the parabola through the extreme reading
 * and its two neighbours. The first way that it goes has no turning point before it. A bad reading is passed over. */
#ifndef RIGPULSE_DETECT_TURN_H
#define RIGPULSE_DETECT_TURN_H

#include "rigpulse/reading.h"
#include "rigpulse/status.h"

enum { RP_TURN_UP = 1, RP_TURN_DOWN = 2, RP_TURN_EITHER = 3 };

typedef struct rp_turn_config {
    float least;    /* in the quantity's unit; above 0 */
    uint32_t which; /* RP_TURN_...: UP at the lowest point, from where it goes up */
} rp_turn_config;

typedef struct rp_turn_state {
    uint64_t age_us;                /* of the extreme */
    float extreme;                  /* of this way; of a first one the highest yet */
    float lowest;                   /* of a first one */
    float before, after;            /* the readings beside the extreme */
    float to_extreme, from_extreme; /* seconds between them */
    float last;                     /* reading */
    float turned_at;                /* value of the last turning point */
    uint8_t known;
    uint8_t way; /* RP_TURN_UP while it rises, RP_TURN_DOWN while it falls; 0 before it has gone either way */
    uint8_t has_after;
} rp_turn_state;

/* RP_E_CONFIG when the least swing is not above 0, or `which` is none of the three. */
rp_status rp_turn_check(const rp_turn_config *config);

void rp_turn_reset(rp_turn_state *state);

/* A moment on the step that tells a turning point, else 0. dt in seconds; dt = 0 steps no state. */
rp_reading rp_turn_step(const rp_turn_config *config, rp_turn_state *state, rp_reading in, float dt);

enum { RP_SWING_REACH = 0, RP_SWING_LEFT = 1 };

typedef struct rp_swing_config {
    float least;   /* as of a turning point */
    uint32_t what; /* RP_SWING_REACH: half the way between the last two turning points, in the quantity's unit;
                      RP_SWING_LEFT: the share of its reach that a whole swing has left, in percent, from the last
                      three: 100 (way 2 / way 1)^2, whatever the middle. The logarithmic decrement (Rayleigh, 1877) is
                      its logarithm with the sign changed. */
} rp_swing_config;

typedef struct rp_swing_state {
    rp_turn_state turn;
    float at[3]; /* the last turning points, the newest first */
    uint32_t turns;
} rp_swing_state;

/* RP_E_CONFIG when the least swing is not above 0, or `what` is neither. */
rp_status rp_swing_check(const rp_swing_config *config);

void rp_swing_reset(rp_swing_state *state);

/* The last measure stands until the next turning point; before there is one it is still learning. */
rp_reading rp_swing_step(const rp_swing_config *config, rp_swing_state *state, rp_reading in, float dt);

#endif
