/* The part that all loops share: engaging, the ramp of the setpoint, holding, tripping. */
#include "rigpulse/regulate/loop.h"

#include "rigpulse/numeric.h"
#include "rigpulse/inside/settings.h"

#define BOUNDLESS 3e38f

const char *rgp_loop_fault(const rgp_loop_config *c)
{
    const char *fault = RGP_FAULT_OF(loop);
    return fault ? fault : c->again == 0 || c->within > 0.0f ? NULL : RGP_WORDS("again: 0, or 1 with a within above 0");
}

rgp_status rgp_loop_check(const rgp_loop_config *config)
{
    return rgp_loop_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_loop_reset(rgp_loop_state *state)
{
    *state = (rgp_loop_state){0};
}

static void cut_out(rgp_loop_state *s, uint8_t reason)
{
    *s = (rgp_loop_state){.phase = RGP_LOOP_OUT, .reason = reason, .target = s->target};
}

/* A loop that has been ready for long enough engages, and its setpoint sets out from where the mechanism is. */
static void wait_on(const rgp_loop_config *c, rgp_loop_state *s, float goal, float measured, float dt)
{
    const float off = goal > measured ? goal - measured : measured - goal;
    const bool fits = !(c->within > 0.0f) || off <= c->within;
    s->target = goal;
    s->ready_us = fits ? s->ready_us + rgp_microseconds(dt) : 0;
    if (fits && s->ready_us > rgp_microseconds(c->delay) && (s->phase == RGP_LOOP_WAITING || c->again)) {
        *s = (rgp_loop_state){.phase = RGP_LOOP_ENGAGED, .begins = 1};
        s->target = c->ramp > 0.0f ? rgp_slew(goal, measured, c->ramp * dt) : goal;
    }
}

static void watch_engaged(const rgp_loop_config *c, rgp_loop_state *s, float goal, float measured, bool saturated,
                          float dt)
{
    s->phase = RGP_LOOP_ENGAGED;
    const uint64_t passed = rgp_microseconds(dt);
    s->bad_us = 0;
    s->target = c->ramp > 0.0f ? rgp_slew(goal, s->target, c->ramp * dt) : goal;
    const float off = s->target > measured ? s->target - measured : measured - s->target;
    s->away_us = c->beyond > 0.0f && off > c->beyond ? s->away_us + passed : 0;
    s->saturated_us = saturated && c->saturated_for > 0.0f ? s->saturated_us + passed : 0;
    if (s->away_us > rgp_microseconds(c->beyond_for)) {
        cut_out(s, RGP_TRIP_BEYOND);
    } else if (s->saturated_us > rgp_microseconds(c->saturated_for)) {
        cut_out(s, RGP_TRIP_SATURATED);
    } else if (s->away_us == 0 && c->saturated_for == 0.0f && c->ramp == 0.0f) {
        s->bound = c->beyond > 0.0f ? c->beyond : BOUNDLESS;
    }
}

uint8_t rgp_loop_step(const rgp_loop_config *c, rgp_loop_state *s, rgp_reading setpoint, rgp_reading measured,
                      bool saturated, bool stopped, float dt)
{
    const bool usable = rgp_usable(rgp_worst(setpoint.quality, measured.quality));
    const float goal = setpoint.value + c->trim;
    s->begins = 0;
    s->bound = 0.0f;
    if (!(dt > 0.0f)) {
        return s->phase;
    }
    const bool drives = s->phase == RGP_LOOP_ENGAGED || s->phase == RGP_LOOP_HELD;
    if (stopped && drives) {
        rgp_loop_reset(s);
    } else if (stopped || (!usable && !drives)) {
        s->ready_us = 0;
    } else if (!usable) {
        s->bad_us += rgp_microseconds(dt);
        s->phase = RGP_LOOP_HELD;
        if (s->bad_us > rgp_microseconds(c->hold)) {
            cut_out(s, RGP_TRIP_SENSOR);
        }
    } else if (drives) {
        watch_engaged(c, s, goal, measured.value, saturated, dt);
    } else {
        wait_on(c, s, goal, measured.value, dt);
    }
    s->target = stopped && usable ? goal : s->target;
    return s->phase;
}

const char *rgp_loop_phase_word(uint8_t phase)
{
    static const char *const word[RGP_LOOP_PHASES] = {
#define RGP_LOOP_PHASE_WORD(name, text) text,
        RGP_LOOP_PHASE_LIST(RGP_LOOP_PHASE_WORD)
#undef RGP_LOOP_PHASE_WORD
    };
    return phase < RGP_LOOP_PHASES ? word[phase] : "?";
}

const char *rgp_trip_text(uint8_t reason)
{
    static const char *const text[RGP_TRIPS] = {
        [RGP_TRIP_BEYOND] = "it was too far from its setpoint",
        [RGP_TRIP_SATURATED] = "it was saturated for too long",
        [RGP_TRIP_SENSOR] = "what it measures was bad for too long",
    };
    return reason < RGP_TRIPS ? text[reason] : "?";
}
