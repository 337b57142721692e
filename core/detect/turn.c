/* turn and swing (turning points of an oscillation, its reach and decay): the check of its settings, and its reset. */
#include "rigpulse/detect/turn.h"

#include "rigpulse/detect/moment.h"
#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

const char *rgp_turn_fault(const rgp_turn_config *c)
{
    return RGP_FAULT_OF(turn);
}

rgp_status rgp_turn_check(const rgp_turn_config *config)
{
    return rgp_turn_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_turn_reset(rgp_turn_state *state)
{
    *state = (rgp_turn_state){0};
}

/* The time after the extreme reading at which the parabola through it and its neighbours has its own; never farther
 * than half way to a neighbour. */
static float beside_extreme(const rgp_turn_state *s)
{
    const float p = s->to_extreme, q = s->from_extreme;
    const float left = (s->extreme - s->before) / p, right = (s->after - s->extreme) / q; /* slopes */
    const float bend = (right - left) / (p + q);
    if (!s->has_after || !(p > 0.0f) || bend == 0.0f) {
        return 0.0f;
    }
    const float slope = (left * q + right * p) / (p + q); /* at the extreme reading */
    const float shift = -0.5f * slope / bend;
    return shift < -0.5f * p ? -0.5f * p : shift > 0.5f * q ? 0.5f * q : shift;
}

/* The neighbours of the extreme reading are kept for the parabola: the one before it at once, the one behind it when it
 * comes. */
static void take_extreme(rgp_turn_state *s, float value, float dt)
{
    s->before = s->last;
    s->to_extreme = dt;
    s->extreme = value;
    s->age_us = 0;
    s->has_after = 0;
}

/* The first way is found when it is clear of the highest or of the lowest yet. */
static void find_way(const rgp_turn_config *config, rgp_turn_state *s, float value, float dt)
{
    if (value - s->lowest >= config->least || s->extreme - value >= config->least) {
        s->way = value - s->lowest >= config->least ? RGP_TURN_UP : RGP_TURN_DOWN;
        take_extreme(s, value, dt);
        return;
    }
    s->extreme = value > s->extreme ? value : s->extreme;
    s->lowest = value < s->lowest ? value : s->lowest;
}

rgp_reading rgp_turn_step(const rgp_turn_config *config, rgp_turn_state *s, rgp_reading in, float dt)
{
    float told = 0.0f;
    s->age_us += rgp_microseconds(dt);
    if (!rgp_usable(in.quality) || dt <= 0.0f) {
        return (rgp_reading){0.0f, in.quality};
    }
    if (!s->known) {
        *s = (rgp_turn_state){.known = 1, .extreme = in.value, .lowest = in.value, .last = in.value};
        return (rgp_reading){0.0f, in.quality};
    }
    const float sign = s->way == RGP_TURN_DOWN ? -1.0f : 1.0f;
    if (!s->way) {
        find_way(config, s, in.value, dt);
    } else if (sign * (in.value - s->extreme) > 0.0f) {
        take_extreme(s, in.value, dt);
    } else {
        if (!s->has_after) {
            s->has_after = 1;
            s->after = in.value;
            s->from_extreme = rgp_seconds(s->age_us);
        }
        if (sign * (s->extreme - in.value) >= config->least) {
            const uint8_t turns = s->way == RGP_TURN_UP ? RGP_TURN_DOWN : RGP_TURN_UP;
            told = config->which & turns ? rgp_moment(rgp_seconds(s->age_us) - beside_extreme(s)) : 0.0f;
            s->turned_at = s->extreme;
            s->way = turns;
            take_extreme(s, in.value, dt);
        }
    }
    s->last = in.value;
    return (rgp_reading){told, in.quality};
}

const char *rgp_swing_fault(const rgp_swing_config *c)
{
    return RGP_FAULT_OF(swing);
}

rgp_status rgp_swing_check(const rgp_swing_config *config)
{
    return rgp_swing_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_swing_reset(rgp_swing_state *state)
{
    *state = (rgp_swing_state){0};
}

static const uint32_t turns_needed[] = {[RGP_SWING_REACH] = 2, [RGP_SWING_LEFT] = 3, [RGP_SWING_TURNED] = 1};

rgp_reading rgp_swing_step(const rgp_swing_config *config, rgp_swing_state *s, rgp_reading in, float dt)
{
    const rgp_turn_config turn = {config->least, RGP_TURN_EITHER};
    if (rgp_turn_step(&turn, &s->turn, in, dt).value != 0.0f) {
        s->at[2] = s->at[1];
        s->at[1] = s->at[0];
        s->at[0] = s->turn.turned_at;
        s->turns += s->turns < 3;
    }
    if (s->turns < turns_needed[config->what]) {
        return (rgp_reading){0.0f, rgp_worst(in.quality, RGP_LEARNING)};
    }
    if (config->what == RGP_SWING_TURNED) {
        return rgp_number(s->at[0], in.quality);
    }
    const float way = s->at[0] - s->at[1], earlier = s->at[1] - s->at[2];
    if (config->what == RGP_SWING_REACH) {
        return rgp_number(0.5f * (way < 0.0f ? -way : way), in.quality);
    }
    return rgp_number(100.0f * (way / earlier) * (way / earlier), in.quality);
}
