/* The thread that ticks, or one tick of a stepped session. */
#include "session.h"

#include "interrupt.h"

#include <string.h>

#define PAUSE_US      10000
#define TOLD_EVERY_US 500000u

/* ---- commands ------------------------------------------------------------------------------------- */

static rgp_status hold(session *s, const rgp_command *c)
{
    const uint64_t lasting = (uint64_t)((double)c->seconds * 1e6);
    const rgp_status status = rgp_command_obey(&s->engine, c);
    if (status == RGP_OK) {
        s->held = *c;
        s->let_go_us = rgp_engine_now(&s->engine) + MAX(lasting, 1u);
    }
    return status;
}

rgp_status session_obey(session *s, const rgp_command *c)
{
    rgp_frame_add_command(&s->layout, s->open, c);
    switch (c->what) {
    case RGP_COMMAND_HOLD:
        return hold(s, c);
    case RGP_COMMAND_DISTURB:
        rgp_sim_disturb(s->opened.sim, c->which);
        return RGP_OK;
    case RGP_COMMAND_PLACE:
        rgp_sim_place(s->opened.sim, c->which, (double)c->value);
        return RGP_OK;
    case RGP_COMMAND_LET_GO:
        rgp_sim_let_go(s->opened.sim, c->which);
        return RGP_OK;
    case RGP_COMMAND_PACE:
        rgp_sim_pace(s->opened.sim, (double)c->value);
        return RGP_OK;
    default:
        return rgp_command_obey(&s->engine, c);
    }
}

/* A hand that is not there any more, for whatever reason, holds nothing. */
static void let_go_in_time(session *s, uint64_t now_us)
{
    if (s->let_go_us > 0 && now_us >= s->let_go_us) {
        s->let_go_us = 0;
        session_obey(s, &(rgp_command){.what = RGP_COMMAND_RELEASE, .by = s->held.by, .which = s->held.which});
    }
}

/* One place of the frame stays for a hand that lets go. */
static void take_commands(session *s)
{
    const unsigned asked = atomic_load_explicit(&s->asked, memory_order_acquire);
    unsigned taken = atomic_load_explicit(&s->taken, memory_order_relaxed);
    for (; taken != asked && s->open->commands + 1 < RGP_FRAME_COMMANDS; taken++) {
        session_obey(s, &s->command[taken % SESSION_COMMANDS]);
    }
    atomic_store_explicit(&s->taken, taken, memory_order_release);
}

/* An actuator that was found lost, or found again, in the tick before counts as such from this one on, and a replay has
 * to know. */
static void note_losses(session *s)
{
    for (uint32_t i = 0; i < s->layout.actuators; i++) {
        const bool lost = rgp_engine_is_lost(&s->engine, (uint16_t)i);
        if (lost != s->lost[i]) {
            const rgp_command found = {
                .what = lost ? RGP_COMMAND_LOSE : RGP_COMMAND_REGAIN, .by = RGP_BY_PORT, .which = (uint16_t)i};
            rgp_frame_add_command(&s->layout, s->open, &found);
        }
    }
}

static void remember_losses(session *s)
{
    for (uint32_t i = 0; i < s->layout.actuators; i++) {
        s->lost[i] = rgp_engine_is_lost(&s->engine, (uint16_t)i);
    }
}

/* ---- one tick -------------------------------------------------------------------------------------- */

static void sum_up_storms(session *s)
{
    rgp_event storm;
    while (rgp_limiter_sums_up(s->limiter, rgp_engine_now(&s->engine), &storm)) {
        rgp_frame_add_event(&s->layout, s->open, &storm);
    }
}

void session_tell_delay(session *s)
{
    const rgp_lateness late = rgp_ports_lateness(&s->opened);
    atomic_store(&s->late_sleeps, late.sleeps);
    atomic_store(&s->late_p50, late.p50);
    atomic_store(&s->late_p99, late.p99);
    atomic_store(&s->late_worst, late.worst);
}

/* Everything at rest, and the rig's time stands still, until it goes on. */
static void pause_ticking(session *s)
{
    rgp_engine_rest(&s->engine, s->port);
    atomic_store(&s->paused, true);
    while (atomic_load(&s->pause) && !atomic_load(&s->stop) && !interrupt_asked()) {
        g_usleep(PAUSE_US);
    }
    atomic_store(&s->paused, false);
    rgp_ports_catch_up(&s->opened);
}

/* Sleeps to a tick. False when there is to be none any more. */
static bool sleep_to(session *s, uint64_t now_us)
{
    s->port->sleep_until(s->port->self, now_us);
    while (atomic_load(&s->pause) && !atomic_load(&s->stop) && !interrupt_asked()) {
        pause_ticking(s);
        s->port->sleep_until(s->port->self, now_us);
    }
    s->interrupted = interrupt_asked();
    return !s->interrupted && !atomic_load(&s->stop);
}

static bool has_next(const session *s)
{
    const uint64_t end = s->setup->length_us;
    return s->fault == RGP_OK && (end == 0 || s->due_us < end);
}

/* The samples of a tick, in the engine's time. Of a tick that took no time, and has left its frame open, one that was
 * new is so still. */
static void take_samples(session *s)
{
    rgp_sample *const to = rgp_frame_sample(&s->layout, s->open);
    const uint64_t ahead_us = rgp_engine_now(&s->engine) - s->front.now_us;
    for (uint32_t i = 0; i < s->layout.sensors; i++) {
        const bool was_new = s->stood && !to[i].same;
        to[i] = s->sample[i];
        to[i].time_us += ahead_us;
        to[i].same = (uint8_t)(to[i].same && !was_new);
    }
}

/* Of a real port: whole ticks that have gone by since this one was due are not made up for. */
static uint64_t ticks_gone(const session *s)
{
    const uint64_t now_us = s->front.now_us;
    return !s->opened.sim && now_us > s->due_us ? (now_us - s->due_us) / s->engine.image->tick_us : 0;
}

/* The tick for which the time has come, up to its frame. A clock that stands, or that has gone back, makes none: the
 * frame stays open, with what was asked and told. */
static void tick(session *s)
{
    const uint64_t each_us = s->engine.image->tick_us, before_us = rgp_engine_now(&s->engine);
    s->open->number = s->ticks;
    note_losses(s);
    take_commands(s);
    let_go_in_time(s, s->due_us);
    remember_losses(s);
    s->fault = rgp_engine_tick(&s->engine, s->port);
    sum_up_storms(s);
    take_samples(s);
    s->stood = s->ticks > 0 && rgp_engine_now(&s->engine) == before_us;
    rgp_frame_take(&s->layout, s->open, &s->engine);
    if (s->ticks % (TOLD_EVERY_US / each_us + 1) == 0) {
        session_tell_delay(s);
        if (s->retained) {
            retain_copy(s->retained, &s->engine);
        }
    }
    s->ticks += !s->stood;
    s->end_us += each_us;
    s->due_us += each_us * (1 + ticks_gone(s));
}

bool session_advance(session *s, uint64_t until_us)
{
    while (has_next(s) && s->end_us < until_us && sleep_to(s, s->due_us)) {
        tick(s);
        if (!s->stood) {
            session_keep(s, s->open);
            *s->open = (rgp_frame){0};
        }
    }
    return has_next(s) && !s->interrupted && !atomic_load(&s->stop);
}

/* ---- the thread ------------------------------------------------------------------------------------ */

static bool is_time_to_tick(const session *s)
{
    return !session_half_full(s) || atomic_load(&s->stop);
}

/* A place for the next frame. Simulated time can wait for one; a real clock cannot. */
rgp_frame *session_next_frame(session *s)
{
    rgp_frame *frame = s->ring ? rgp_ring_begin(s->ring) : NULL;
    while (!frame && s->ring && s->fast && !atomic_load(&s->stop)) {
        session_wait(s, &s->ticker_waits, &s->drained, is_time_to_tick);
        frame = rgp_ring_begin(s->ring);
    }
    *s->spare = (rgp_frame){0};
    return frame ? frame : s->spare;
}

static void hand_over(session *s)
{
    if (s->open == s->spare) {
        s->gaps++;
    } else {
        rgp_ring_commit(s->ring);
        if (s->fast && session_half_full(s)) {
            session_wake(s, &s->keeper_waits, &s->filled);
        }
    }
    s->open = session_next_frame(s);
}

gpointer session_tick_all(gpointer self)
{
    session *s = self;
    interrupt_ticks_here(true);
    while (has_next(s) && sleep_to(s, s->due_us)) {
        tick(s);
        if (!s->stood) {
            hand_over(s);
        }
    }
    rgp_engine_rest(&s->engine, s->port);
    session_tell_delay(s);
    if (s->retained) {
        retain_copy(s->retained, &s->engine);
    }
    interrupt_ticks_here(false);
    atomic_store(&s->ticked_out, true);
    session_wake(s, &s->keeper_waits, &s->filled);
    return NULL;
}
