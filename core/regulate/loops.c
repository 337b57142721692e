#include "rigpulse/regulate/loops.h"

rp_status rp_pid_loop_check(const rp_pid_loop_config *config)
{
    const rp_status status = rp_loop_check(&config->loop);
    return status == RP_OK ? rp_pid_check(&config->pid) : status;
}

rp_status rp_onoff_loop_check(const rp_onoff_loop_config *config)
{
    const rp_status status = rp_loop_check(&config->loop);
    return status == RP_OK ? rp_onoff_check(&config->onoff) : status;
}

rp_status rp_nudge_loop_check(const rp_nudge_loop_config *config)
{
    const rp_status status = rp_loop_check(&config->loop);
    return status == RP_OK ? rp_nudge_check(&config->nudge) : status;
}

void rp_pid_loop_reset(rp_pid_loop_state *state)
{
    *state = (rp_pid_loop_state){.link = state->link};
}

void rp_onoff_loop_reset(rp_onoff_loop_state *state)
{
    *state = (rp_onoff_loop_state){.link = state->link};
}

void rp_nudge_loop_reset(rp_nudge_loop_state *state)
{
    *state = (rp_nudge_loop_state){.link = state->link};
}

/* The phase, and the terms that every loop has but its output, whose qualities are those of what goes in. Gives the
 * setpoint that the controller sees. */
static inline rp_reading begin(const rp_loop_config *config, rp_loop_state *state, rp_loop_link *link,
                               const rp_loop_input *in, bool saturated, float dt, float *term, rp_quality *quality)
{
    if (link->news & RP_NEWS_ANEW && state->phase == RP_LOOP_OUT) {
        rp_loop_reset(state);
    }
    link->news &= (uint8_t)~RP_NEWS_ANEW;
    const uint8_t phase =
        rp_loop_step(config, state, in->setpoint, in->measured, saturated, link->news & RP_NEWS_STOPPED, dt);
    const rp_reading error =
        rp_number(state->target - in->measured.value, rp_worst(in->setpoint.quality, in->measured.quality));
    link->phase = phase;
    link->reason = state->reason;
    term[RP_TERM_PHASE] = (float)phase;
    term[RP_TERM_TARGET] = state->target;
    term[RP_TERM_ERROR] = error.value;
    quality[RP_TERM_PHASE] = RP_GOOD;
    quality[RP_TERM_TARGET] = in->setpoint.quality;
    quality[RP_TERM_ERROR] = error.quality;
    return (rp_reading){state->target, in->setpoint.quality};
}

/* The driven value: the controller's output and the push, within the limits; of a loop that is held, as it was. Gives
 * whether it simply goes on: it was engaged before this step (`went_on`), and nothing is new. */
static inline bool end(const rp_loop_config *config, rp_loop_state *state, rp_loop_link *link, rp_reading output,
                       bool went_on, float low, float high, float *term, rp_quality *quality)
{
    const bool held = state->phase == RP_LOOP_HELD;
    if (state->phase == RP_LOOP_ENGAGED) {
        state->output = rp_limit(output.value + config->push, low, high);
        link->news &= (uint8_t)~RP_NEWS_RETUNED;
    }
    const bool drives = held || state->phase == RP_LOOP_ENGAGED;
    term[RP_TERM_OUTPUT] = drives ? state->output : 0.0f;
    quality[RP_TERM_OUTPUT] = held ? RP_HELD : drives ? output.quality : RP_MISSING;
    link->taken = state->output;
    return went_on && link->phase == RP_LOOP_ENGAGED && link->news == 0 && rp_usable(output.quality);
}

/* While it is engaged: its own step, or that of whoever drives instead; between two measurements none, but the output
 * goes along with whoever drives. */
static inline rp_reading regulate(const rp_pid_loop_config *config, rp_pid_loop_state *state, const rp_loop_input *in,
                                  rp_reading target)
{
    rp_pid_state *const pid = &state->pid;
    const uint8_t news = state->link.news;
    const bool begins = state->loop.begins;
    if (begins) {
        rp_pid_reset(pid);
    }
    if (news & RP_NEWS_RETUNED) {
        rp_pid_retune(pid);
    }
    const rp_pid_input input = {.setpoint = {target.value, rp_worst(target.quality, in->feed.quality)},
                                .measured = in->measured,
                                .feed = in->feed.value,
                                .taken = state->link.taken - config->loop.push};
    if (in->same && !begins) {
        return rp_pid_stand(&config->pid, pid, &input, news & RP_NEWS_TAKEN);
    }
    return begins || !(news & RP_NEWS_TAKEN) ? rp_pid_step(&config->pid, pid, &input, in->since)
                                             : rp_pid_follow(&config->pid, pid, &input, in->since);
}

bool rp_pid_loop_move(const rp_pid_loop_config *config, rp_pid_loop_state *state, const rp_loop_input *in, float dt,
                      float *term, rp_quality *quality)
{
    rp_pid_state *const pid = &state->pid;
    const bool saturated = pid->saturated && !(state->link.news & RP_NEWS_TAKEN);
    const bool went_on = state->link.phase == RP_LOOP_ENGAGED;
    const rp_reading target = begin(&config->loop, &state->loop, &state->link, in, saturated, dt, term, quality);
    rp_reading output = {0.0f, RP_MISSING};
    if (state->loop.phase == RP_LOOP_ENGAGED) {
        output = regulate(config, state, in, target);
    } else if (state->loop.phase == RP_LOOP_HELD) {
        output.quality = RP_HELD;
    } else {
        rp_pid_reset(pid);
    }
    const bool goes_on = end(&config->loop, &state->loop, &state->link, output, went_on, config->pid.low,
                             config->pid.high, term, quality);
    term[RP_TERM_P] = pid->p;
    term[RP_TERM_I] = pid->i;
    term[RP_TERM_D] = pid->d;
    term[RP_TERM_ASKED] = pid->asked;
    term[RP_TERM_SATURATED] = pid->saturated ? 1.0f : 0.0f;
    for (uint32_t i = RP_TERM_P; i < RP_TERMS; i++) {
        quality[i] = output.quality;
    }
    return goes_on;
}

/* It keeps no time of its own: a measurement that is not new makes no difference to it. */
bool rp_onoff_loop_step(const rp_onoff_loop_config *config, rp_onoff_loop_state *state, const rp_loop_input *in,
                        float dt, float *term, rp_quality *quality)
{
    const bool went_on = state->link.phase == RP_LOOP_ENGAGED;
    const rp_reading target = begin(&config->loop, &state->loop, &state->link, in, false, dt, term, quality);
    rp_reading output = {0.0f, RP_MISSING};
    if (state->loop.phase == RP_LOOP_ENGAGED) {
        if (state->loop.begins) {
            rp_onoff_reset(&state->onoff);
        }
        output = rp_onoff_step(&config->onoff, &state->onoff, target, in->measured, dt);
    }
    return end(&config->loop, &state->loop, &state->link, output, went_on, config->onoff.low, config->onoff.high, term,
               quality);
}

bool rp_nudge_loop_step(const rp_nudge_loop_config *config, rp_nudge_loop_state *state, const rp_loop_input *in,
                        float dt, float *term, rp_quality *quality)
{
    const bool went_on = state->link.phase == RP_LOOP_ENGAGED;
    const rp_reading target = begin(&config->loop, &state->loop, &state->link, in, false, dt, term, quality);
    const float taken = state->link.taken - config->loop.push;
    rp_reading output = {0.0f, RP_MISSING};
    if (state->loop.phase == RP_LOOP_ENGAGED) {
        if (state->loop.begins) {
            rp_nudge_reset(&state->nudge);
        } else if (state->link.news & RP_NEWS_TAKEN) {
            rp_nudge_follow(&config->nudge, &state->nudge, taken);
        }
        output = in->same && !state->loop.begins
                     ? (rp_reading){state->nudge.output, rp_worst(target.quality, in->measured.quality)}
                     : rp_nudge_step(&config->nudge, &state->nudge, target, in->measured, taken, in->since);
    }
    return end(&config->loop, &state->loop, &state->link, output, went_on, config->nudge.low, config->nudge.high, term,
               quality);
}
