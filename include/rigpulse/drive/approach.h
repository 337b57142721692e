/* approach (position servo): the power that brings a mechanism to a place: full far from it, less and less within
 * `slowing` of it, none within a tolerance.
 *
 * It starts again only when it is off by twice the tolerance, so that noise does not set it going. Of what goes round,
 * the nearer way is taken. */
#ifndef RIGPULSE_DRIVE_APPROACH_H
#define RIGPULSE_DRIVE_APPROACH_H

#include "rigpulse/condition/wrap.h"
#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_approach_config {
    float slowing; /* in the place's unit; above 0 */
    float within;  /* in the place's unit; from 0 to `slowing` */
    float turn;    /* of what goes round: one turn, in the place's unit; 0: it does not */
} rgp_approach_config;

typedef struct rgp_approach_state {
    uint32_t there;
} rgp_approach_state;

/* RGP_E_CONFIG when a setting is outside its range. */
static inline const char *rgp_approach_fault(const rgp_approach_config *c)
{
    return !(rgp_finite(c->slowing) && c->slowing > 0.0f)    ? RGP_WORDS("slowing: above 0")
           : !(c->within >= 0.0f && c->within <= c->slowing) ? RGP_WORDS("within: 0 to slowing")
           : !(rgp_finite(c->turn) && c->turn >= 0.0f)       ? RGP_WORDS("turn: 0 or more")
                                                             : NULL;
}

static inline rgp_status rgp_approach_check(const rgp_approach_config *config)
{
    return rgp_approach_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

static inline void rgp_approach_reset(rgp_approach_state *state)
{
    state->there = 0;
}

/* The nearest of all the ways round: from -turn/2 to turn/2. */
static inline rgp_reading rgp_approach_way(rgp_reading way, float turn)
{
    const rgp_wrap_config half = {turn, -0.5f * turn};
    return turn > 0.0f ? rgp_wrap_step(&half, way) : way;
}

/* Percent, -100 to 100. dt in seconds; dt = 0 steps no state. */
static inline rgp_reading rgp_approach_step(const rgp_approach_config *config, rgp_approach_state *state,
                                            rgp_reading place, rgp_reading target, float dt)
{
    const rgp_reading round = rgp_approach_way(
        rgp_number(target.value - place.value, rgp_worst(place.quality, target.quality)), config->turn);
    const rgp_quality quality = round.quality;
    const float way = round.value;
    const float far = way < 0.0f ? -way : way;
    if (rgp_usable(quality) && dt > 0.0f) {
        state->there = far <= config->within * (state->there ? 2.0f : 1.0f);
    }
    const float power = far >= config->slowing ? (way < 0.0f ? -100.0f : 100.0f) : 100.0f * way / config->slowing;
    return rgp_number(state->there ? 0.0f : power, quality);
}

RGP_DECLARATIONS_END

#endif
