#include "rigpulse/regulate/pid.h"

static bool not_negative(float x)
{
    return rp_finite(x) && x >= 0.0f;
}

static bool a_share(float x)
{
    return x >= 0.0f && x <= 1.0f;
}

rp_status rp_pid_check(const rp_pid_config *c)
{
    const bool gains = not_negative(c->gain.kp) && not_negative(c->gain.ki) && not_negative(c->gain.kd);
    const bool times =
        not_negative(c->gain.filter) && c->gain.filter <= 1e6f && not_negative(c->back) && c->back <= 1e6f;
    const bool limits = rp_finite(c->low) && rp_finite(c->high) && c->low < c->high && not_negative(c->deadband);
    return gains && times && limits && a_share(c->weight) && a_share(c->slope_weight) && c->reverse <= 1 ? RP_OK
                                                                                                         : RP_E_CONFIG;
}

void rp_pid_reset(rp_pid_state *state)
{
    *state = (rp_pid_state){0};
}

float rp_pid_weigh(const rp_pid_config *c, rp_pid_state *s, const rp_pid_input *in, float *now)
{
    const float sign = c->reverse ? -1.0f : 1.0f, band = c->deadband;
    const float setpoint = in->setpoint.value, measured = in->measured.value, error = sign * (setpoint - measured);
    const float beyond = error > band ? error - band : error < -band ? error + band : 0.0f;
    *now = sign * (c->slope_weight * setpoint - measured);
    s->weighted = beyond - sign * (1.0f - c->weight) * (setpoint - s->reference);
    return beyond;
}

/* The first setpoint, and the first slope, which is 0. */
static void prime(const rp_pid_config *c, rp_pid_state *s, const rp_pid_input *in)
{
    s->primed = 1;
    s->reference = in->setpoint.value;
    s->asked = in->taken;
    s->slack = 1e-5f * (c->high - c->low);
    rp_pid_weigh(c, s, in, &s->before);
    s->weighted = 0.0f; /* the gains before were 0, and made no part of anything */
}

void rp_pid_adapt(const rp_pid_config *c, rp_pid_state *s, const rp_pid_input *in, float dt)
{
    if (!s->primed) {
        prime(c, s, in);
    }
    s->i += (s->last.kp - c->gain.kp) * s->weighted + (s->last.kd - c->gain.kd) * s->slope;
    if (!(c->gain.ki > 0.0f) || !rp_finite(s->i)) {
        s->i = s->lost = 0.0f;
    }
    s->last = c->gain;
    s->plain = !(c->weight < 1.0f) && c->slope_weight == 0.0f && c->deadband == 0.0f && !c->reverse;
    s->share_dt = dt;
    s->share = c->gain.filter > 0.0f ? rp_decay(dt / c->gain.filter) : 1.0f;
}

float rp_pid_held_back(const rp_pid_config *c, float growth, float short_by, float dt)
{
    if (c->back > 0.0f) {
        return growth - short_by * (dt < c->back ? dt / c->back : 1.0f);
    }
    return (growth > 0.0f && short_by > 0.0f) || (growth < 0.0f && short_by < 0.0f) ? 0.0f : growth;
}

/* Without back-calculation an integral that only pushes further out does not go on. */
rp_reading rp_pid_beyond(const rp_pid_config *c, rp_pid_state *s, float others, float growth, rp_quality quality)
{
    const float asked = others + s->i;
    if (!rp_finite(asked)) {
        rp_pid_reset(s);
        return (rp_reading){rp_limit(0.0f, c->low, c->high), RP_OUT_OF_RANGE};
    }
    if (!(c->back > 0.0f) && (asked > c->high ? growth > 0.0f : growth < 0.0f)) {
        s->i -= growth;
        s->lost = 0.0f;
    }
    s->asked = others + s->i;
    s->output = rp_limit(s->asked, c->low, c->high);
    s->saturated |= s->output != s->asked;
    return (rp_reading){s->output, quality};
}

void rp_pid_from_ideal(rp_pid_config *config, float gain, float integral_time, float derivative_time)
{
    config->gain.kp = gain;
    config->gain.ki = integral_time > 0.0f ? gain / integral_time : 0.0f;
    config->gain.kd = gain * derivative_time;
}

void rp_pid_to_ideal(const rp_pid_config *config, float *gain, float *integral_time, float *derivative_time)
{
    const bool any = config->gain.kp > 0.0f;
    *gain = config->gain.kp;
    *integral_time = any && config->gain.ki > 0.0f ? config->gain.kp / config->gain.ki : 0.0f;
    *derivative_time = any ? config->gain.kd / config->gain.kp : 0.0f;
}
