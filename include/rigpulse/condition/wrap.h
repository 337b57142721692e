/* wrap (modulo one turn): folds an angle that goes on into one turn, from `low` up to, but not including, `low + turn`.
 */
#ifndef RIGPULSE_CONDITION_WRAP_H
#define RIGPULSE_CONDITION_WRAP_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_wrap_config {
    float turn; /* input unit; above 0 */
    float low;  /* input unit */
} rgp_wrap_config;

/* RGP_E_CONFIG when a number is not finite or the turn is not above 0. */
rgp_status rgp_wrap_check(const rgp_wrap_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_wrap_fault(const rgp_wrap_config *config);

static inline rgp_reading rgp_wrap_step(const rgp_wrap_config *config, rgp_reading in)
{
    const float turns = (in.value - config->low) / config->turn;
    if (!(turns > -8e6f && turns < 8e6f)) { /* a float holds no part of a turn any more */
        return rgp_reading_of(config->low, rgp_worst(in.quality, RGP_OUT_OF_RANGE));
    }
    float whole = (float)(int32_t)turns;
    whole -= whole > turns ? 1.0f : 0.0f;
    const float folded = in.value - whole * config->turn;
    return rgp_reading_of(folded < config->low + config->turn ? folded : config->low, in.quality);
}

RGP_DECLARATIONS_END

#endif
