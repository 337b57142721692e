/* turn (peak detector): the turning points of a swing; and swing (amplitude and decay ratio): its reach, the share of
 * it that is left after one more, and the value at which it turned.
 *
 * A turning point counts once the quantity has come back from it by `least`; whatever is smaller is noise. It is told
 * then, with the moment at which it was (see moment.h): that of the extreme of the parabola through the extreme reading
 * and its two neighbours. The first way that it goes has no turning point before it. A bad reading is passed over. */
#ifndef RIGPULSE_DETECT_TURN_H
#define RIGPULSE_DETECT_TURN_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

enum { RGP_TURN_UP = 1, RGP_TURN_DOWN = 2, RGP_TURN_EITHER = 3 }; /* upwards, downwards, or both, as bits */

/* The settings: the caller's, and only read. */
typedef struct rgp_turn_config {
    float least;    /* in the quantity's unit; above 0 */
    uint32_t which; /* RGP_TURN_...: UP at the lowest point, from where it goes up */
} rgp_turn_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_turn_state {
    uint64_t age_us;                /* of the extreme */
    float extreme;                  /* of this way; of a first one the highest yet */
    float lowest;                   /* of a first one */
    float before, after;            /* the readings beside the extreme */
    float to_extreme, from_extreme; /* seconds between them */
    float last;                     /* reading */
    float turned_at;                /* value of the last turning point */
    uint8_t known;                  /* 1: there was a usable reading */
    uint8_t way;         /* RGP_TURN_UP while it rises, RGP_TURN_DOWN while it falls; 0 before it has gone either way */
    uint8_t has_after;   /* 1: there is a reading behind the extreme */
    uint8_t reserved[5]; /* 0 */
} rgp_turn_state;

/* RGP_E_CONFIG when the least swing is not above 0, or `which` is none of the three. Else RGP_OK. Only the settings are
 * looked at. */
rgp_status rgp_turn_check(const rgp_turn_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_turn_fault(const rgp_turn_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_turn_reset(rgp_turn_state *state);

/* A moment on the step that tells a turning point, else 0. dt in seconds; dt = 0 steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_turn_step(const rgp_turn_config *config, rgp_turn_state *state, rgp_reading in, float dt);

enum {
    RGP_SWING_REACH = 0, /* half of the way between two turns */
    RGP_SWING_LEFT = 1,  /* what is left of the swing before */
    RGP_SWING_TURNED = 2 /* the value at the last turn */
};

/* The settings: the caller's, and only read. */
typedef struct rgp_swing_config {
    float least;   /* as of a turning point */
    uint32_t what; /* RGP_SWING_REACH: half the way between the last two turning points, in the quantity's unit;
                      RGP_SWING_LEFT: the share of its reach that a whole swing has left, in percent, from the last
                      three: 100 (way 2 / way 1)^2, whatever the middle. The logarithmic decrement (Rayleigh, 1877) is
                      its logarithm with the sign changed; RGP_SWING_TURNED: the extreme reading of the last turning
                      point. */
} rgp_swing_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_swing_state {
    rgp_turn_state turn; /* of the swing */
    float at[3];         /* the last turning points, the newest first */
    uint32_t turns;      /* so far */
} rgp_swing_state;

/* RGP_E_CONFIG when the least swing is not above 0, or `what` is none of the three. Else RGP_OK. Only the settings are
 * looked at.
 */
rgp_status rgp_swing_check(const rgp_swing_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_swing_fault(const rgp_swing_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_swing_reset(rgp_swing_state *state);

/* The last measure stands until the next turning point; before there is one it is still learning. dt in seconds; dt = 0
 * steps no state.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_swing_step(const rgp_swing_config *config, rgp_swing_state *state, rgp_reading in, float dt);

RGP_DECLARATIONS_END

#endif
