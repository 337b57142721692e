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
    const bool gains = not_negative(c->kp) && not_negative(c->ki) && not_negative(c->kd);
    const bool times = not_negative(c->filter) && c->filter <= 1e6f && not_negative(c->back) && c->back <= 1e6f;
    const bool limits = rp_finite(c->low) && rp_finite(c->high) && c->low < c->high && not_negative(c->deadband);
    return gains && times && limits && a_share(c->weight) && a_share(c->slope_weight) && c->reverse <= 1 ? RP_OK
                                                                                                         : RP_E_CONFIG;
}

void rp_pid_reset(rp_pid_state *state)
{
    *state = (rp_pid_state){0};
}

void rp_pid_adapt(const rp_pid_config *c, rp_pid_state *s, float dt)
{
    s->i += (s->kp - c->kp) * s->weighted + (s->kd - c->kd) * s->slope;
    if (!(c->ki > 0.0f) || !rp_finite(s->i)) {
        s->i = s->lost = 0.0f;
    }
    s->kp = c->kp;
    s->ki = c->ki;
    s->kd = c->kd;
    s->share_dt = dt;
    s->share_time = c->filter;
    s->share = c->filter > 0.0f ? rp_decay(dt / c->filter) : 1.0f;
}

void rp_pid_from_ideal(rp_pid_config *config, float gain, float integral_time, float derivative_time)
{
    config->kp = gain;
    config->ki = integral_time > 0.0f ? gain / integral_time : 0.0f;
    config->kd = gain * derivative_time;
}

void rp_pid_to_ideal(const rp_pid_config *config, float *gain, float *integral_time, float *derivative_time)
{
    const bool any = config->kp > 0.0f;
    *gain = config->kp;
    *integral_time = any && config->ki > 0.0f ? config->kp / config->ki : 0.0f;
    *derivative_time = any ? config->kd / config->kp : 0.0f;
}
