/* PID controller in parallel form: the check of its settings, its reset, and the step with all its options. */
#include "rigpulse/regulate/pid.h"
#include "rigpulse/inside/settings.h"

const char *rgp_pid_fault(const rgp_pid_config *c)
{
    const char *fault = RGP_FAULT_OF(pid);
    return fault ? fault : c->low < c->high ? NULL : RGP_WORDS("high: above low");
}

rgp_status rgp_pid_check(const rgp_pid_config *config)
{
    return rgp_pid_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_pid_reset(rgp_pid_state *state)
{
    *state = (rgp_pid_state){0};
}

/* `reverse` turns signs here and nowhere else, so that everything behind it sees a process that rises. */
float rgp_pid_weigh(const rgp_pid_config *c, rgp_pid_state *s, float setpoint, float measured, float *now)
{
    const float sign = c->reverse ? -1.0f : 1.0f, band = c->deadband;
    const float error = sign * (setpoint - measured);
    const float beyond = error > band ? error - band : error < -band ? error + band : 0.0f;
    *now = sign * (c->slope_weight * setpoint - measured);
    s->weighted = beyond - sign * c->setpoint_softness * (setpoint - s->reference);
    return beyond;
}

/* The first setpoint, and the first slope, which is 0. */
static void prime(const rgp_pid_config *c, rgp_pid_state *s, float setpoint, float measured)
{
    s->primed = 1;
    s->reference = setpoint;
    rgp_pid_weigh(c, s, setpoint, measured, &s->before);
    s->weighted = 0.0f; /* the gains before were 0, and made no part of anything */
}

/* A change of gains makes no step: what the terms lose the integral takes up. Where there is no integral it cannot, and
 * the output steps. */
float rgp_pid_adapt(const rgp_pid_config *c, rgp_pid_state *s, float setpoint, float measured, float dt)
{
    const float passed = s->gap_us > 0 ? rgp_seconds(s->gap_us) + dt : dt;
    if (!s->primed) {
        prime(c, s, setpoint, measured);
    }
    s->i += (s->last.kp - c->gain.kp) * s->weighted + (s->last.kd - c->gain.kd) * s->slope;
    if (!(c->gain.ki > 0.0f) || !rgp_finite(s->i)) {
        s->i = s->lost = 0.0f;
    }
    s->last = c->gain;
    const float rounding = 1e-5f * (c->high - c->low);
    s->slack = c->resolution > rounding ? c->resolution : rounding;
    s->plain = c->setpoint_softness == 0.0f && c->slope_weight == 0.0f && c->deadband == 0.0f && !c->reverse;
    s->share_dt = s->gap_us > 0 ? 0.0f : dt;
    s->share = c->gain.filter > 0.0f ? rgp_decay(passed / c->gain.filter) : 1.0f;
    s->gap_us = 0;
    return passed;
}

/* A dt beyond the tracking time takes all of it back, and no more. */
float rgp_pid_draw_back(const rgp_pid_config *c, float growth, float short_by, float dt)
{
    return c->gain.ki > 0.0f ? growth - short_by * (dt < c->tracking_time ? dt / c->tracking_time : 1.0f) : 0.0f;
}

/* Knowing nothing is better than an infinity that stays in the integral. */
rgp_reading rgp_pid_give_up(const rgp_pid_config *c, rgp_pid_state *s)
{
    rgp_pid_reset(s);
    return (rgp_reading){rgp_limit(0.0f, c->low, c->high), RGP_OUT_OF_RANGE};
}

void rgp_pid_from_ideal(rgp_pid_config *config, float gain, float integral_time, float derivative_time)
{
    config->gain.kp = gain;
    config->gain.ki = integral_time > 0.0f ? gain / integral_time : 0.0f;
    config->gain.kd = gain * derivative_time;
}

void rgp_pid_to_ideal(const rgp_pid_config *config, float *gain, float *integral_time, float *derivative_time)
{
    const bool any = config->gain.kp > 0.0f;
    *gain = config->gain.kp;
    *integral_time = any && config->gain.ki > 0.0f ? config->gain.kp / config->gain.ki : 0.0f;
    *derivative_time = any ? config->gain.kd / config->gain.kp : 0.0f;
}
