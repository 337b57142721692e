/* The three loops: the check of its settings, its reset, and their step outside the short way. */
#include "rigpulse/regulate/loops.h"

const char *rgp_pid_loop_fault(const rgp_pid_loop_config *config)
{
    const char *fault = rgp_loop_fault(&config->loop);
    return fault ? fault : rgp_pid_fault(&config->pid);
}

rgp_status rgp_pid_loop_check(const rgp_pid_loop_config *config)
{
    return rgp_pid_loop_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

const char *rgp_onoff_loop_fault(const rgp_onoff_loop_config *config)
{
    const char *fault = rgp_loop_fault(&config->loop);
    return fault ? fault : rgp_onoff_fault(&config->onoff);
}

rgp_status rgp_onoff_loop_check(const rgp_onoff_loop_config *config)
{
    return rgp_onoff_loop_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

const char *rgp_nudge_loop_fault(const rgp_nudge_loop_config *config)
{
    const char *fault = rgp_loop_fault(&config->loop);
    return fault ? fault : rgp_nudge_fault(&config->nudge);
}

rgp_status rgp_nudge_loop_check(const rgp_nudge_loop_config *config)
{
    return rgp_nudge_loop_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_pid_loop_reset(rgp_pid_loop_state *state)
{
    *state = (rgp_pid_loop_state){.link = state->link};
}

void rgp_onoff_loop_reset(rgp_onoff_loop_state *state)
{
    *state = (rgp_onoff_loop_state){.link = state->link};
}

void rgp_nudge_loop_reset(rgp_nudge_loop_state *state)
{
    *state = (rgp_nudge_loop_state){.link = state->link};
}

/* The phase, and the terms that every loop has but its output, whose qualities are those of what goes in. Gives the
 * setpoint that the controller sees. */
static inline rgp_reading prepare_loop(const rgp_loop_config *config, rgp_loop_state *state, rgp_loop_link *link,
                                       const rgp_loop_input *in, bool saturated, float dt, float *term,
                                       rgp_quality *quality)
{
    if (link->news & RGP_NEWS_ANEW && state->phase == RGP_LOOP_OUT) {
        rgp_loop_reset(state);
    }
    link->news &= (uint8_t)~RGP_NEWS_ANEW;
    const uint8_t phase =
        rgp_loop_step(config, state, in->setpoint, in->measured, saturated, link->news & RGP_NEWS_STOPPED, dt);
    const rgp_reading error =
        rgp_number(state->target - in->measured.value, rgp_worst(in->setpoint.quality, in->measured.quality));
    link->phase = phase;
    link->reason = state->reason;
    term[RGP_TERM_PHASE] = (float)phase;
    term[RGP_TERM_TARGET] = state->target;
    term[RGP_TERM_ERROR] = error.value;
    quality[RGP_TERM_PHASE] = RGP_GOOD;
    quality[RGP_TERM_TARGET] = in->setpoint.quality;
    quality[RGP_TERM_ERROR] = error.quality;
    return (rgp_reading){state->target, in->setpoint.quality};
}

/* The driven value: the controller's output and the push, within the limits; of a loop that is held, as it was. Gives
 * whether it simply goes on: it was engaged before this step (`went_on`), and nothing is new. */
static inline bool finish_loop(const rgp_loop_config *config, rgp_loop_state *state, rgp_loop_link *link,
                               rgp_reading output, bool went_on, float low, float high, float *term,
                               rgp_quality *quality)
{
    const bool held = state->phase == RGP_LOOP_HELD;
    if (state->phase == RGP_LOOP_ENGAGED) {
        state->output = rgp_limit(output.value + config->bias, low, high);
        link->news &= (uint8_t)~RGP_NEWS_RETUNED;
    }
    const bool drives = held || state->phase == RGP_LOOP_ENGAGED;
    term[RGP_TERM_OUTPUT] = drives ? state->output : 0.0f;
    quality[RGP_TERM_OUTPUT] = held ? RGP_HELD : drives ? output.quality : RGP_MISSING;
    link->driven = state->output;
    return went_on && link->phase == RGP_LOOP_ENGAGED && link->news == 0 && rgp_usable(output.quality);
}

/* While it is engaged: its own step, or that of whoever drives instead; between two measurements none, but the output
 * goes along with whoever drives. */
static inline rgp_reading regulate(const rgp_pid_loop_config *config, rgp_pid_loop_state *state,
                                   const rgp_loop_input *in, rgp_reading target)
{
    rgp_pid_state *const pid = &state->pid;
    const uint8_t news = state->link.news;
    const bool begins = state->loop.begins;
    if (begins) {
        rgp_pid_reset(pid);
    }
    if (news & RGP_NEWS_RETUNED) {
        rgp_pid_retune(pid);
    }
    const float driven = state->link.driven - config->loop.bias;
    const rgp_pid_input input = {.setpoint = {target.value, rgp_worst(target.quality, in->feed_forward.quality)},
                                 .measured = in->measured,
                                 .feed_forward = in->feed_forward.value,
                                 .shortfall = pid->primed ? pid->output - driven : 0.0f};
    if (in->same && !begins) {
        return rgp_pid_stand(&config->pid, pid, &input, driven, news & RGP_NEWS_TAKEN);
    }
    return begins || !(news & RGP_NEWS_TAKEN) ? rgp_pid_step(&config->pid, pid, &input, in->since)
                                              : rgp_pid_follow(&config->pid, pid, &input, driven, in->since);
}

/* The long way of a step: the short one in the header is for a loop that was engaged, has nothing new to heed, and is
 * within its bound. Both give the same bits. */
bool rgp_pid_loop_move(const rgp_pid_loop_config *config, rgp_pid_loop_state *state, const rgp_loop_input *in, float dt,
                       float *term, rgp_quality *quality)
{
    rgp_pid_state *const pid = &state->pid;
    const bool saturated = pid->saturated && !(state->link.news & RGP_NEWS_TAKEN);
    const bool went_on = state->link.phase == RGP_LOOP_ENGAGED;
    const rgp_reading target =
        prepare_loop(&config->loop, &state->loop, &state->link, in, saturated, dt, term, quality);
    rgp_reading output = {0.0f, RGP_MISSING};
    if (state->loop.phase == RGP_LOOP_ENGAGED) {
        output = regulate(config, state, in, target);
    } else if (state->loop.phase == RGP_LOOP_HELD) {
        output.quality = RGP_HELD;
    } else {
        rgp_pid_reset(pid);
    }
    const bool goes_on = finish_loop(&config->loop, &state->loop, &state->link, output, went_on, config->pid.low,
                                     config->pid.high, term, quality);
    term[RGP_TERM_P] = pid->p;
    term[RGP_TERM_I] = pid->i;
    term[RGP_TERM_D] = pid->d;
    term[RGP_TERM_UNLIMITED] = pid->unlimited;
    term[RGP_TERM_SATURATED] = pid->saturated ? 1.0f : 0.0f;
    for (uint32_t i = RGP_TERM_P; i < RGP_TERMS; i++) {
        quality[i] = output.quality;
    }
    return goes_on;
}

/* It keeps no time of its own: a measurement that is not new makes no difference to it. */
bool rgp_onoff_loop_step(const rgp_onoff_loop_config *config, rgp_onoff_loop_state *state, const rgp_loop_input *in,
                         float dt, float *term, rgp_quality *quality)
{
    const bool went_on = state->link.phase == RGP_LOOP_ENGAGED;
    const rgp_reading target = prepare_loop(&config->loop, &state->loop, &state->link, in, false, dt, term, quality);
    rgp_reading output = {0.0f, RGP_MISSING};
    if (state->loop.phase == RGP_LOOP_ENGAGED) {
        if (state->loop.begins) {
            rgp_onoff_reset(&state->onoff);
        }
        output = rgp_onoff_step(&config->onoff, &state->onoff, target, in->measured, dt);
    }
    return finish_loop(&config->loop, &state->loop, &state->link, output, went_on, config->onoff.low,
                       config->onoff.high, term, quality);
}

/* Whoever has driven meanwhile has left the actuator where it is: the next step goes on from there. */
bool rgp_nudge_loop_step(const rgp_nudge_loop_config *config, rgp_nudge_loop_state *state, const rgp_loop_input *in,
                         float dt, float *term, rgp_quality *quality)
{
    const bool went_on = state->link.phase == RGP_LOOP_ENGAGED;
    const rgp_reading target = prepare_loop(&config->loop, &state->loop, &state->link, in, false, dt, term, quality);
    const float driven = state->link.driven - config->loop.bias;
    rgp_reading output = {0.0f, RGP_MISSING};
    if (state->loop.phase == RGP_LOOP_ENGAGED) {
        if (state->loop.begins) {
            rgp_nudge_reset(&state->nudge);
        } else if (state->link.news & RGP_NEWS_TAKEN) {
            rgp_nudge_follow(&config->nudge, &state->nudge, driven);
        }
        output = in->same && !state->loop.begins
                     ? (rgp_reading){state->nudge.output, rgp_worst(target.quality, in->measured.quality)}
                     : rgp_nudge_step(&config->nudge, &state->nudge, target, in->measured, driven, in->since);
    }
    return finish_loop(&config->loop, &state->loop, &state->link, output, went_on, config->nudge.low,
                       config->nudge.high, term, quality);
}
