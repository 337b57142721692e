#include "sequence.h"

#include "shape.h"
#include "tell.h"

#include <string.h>

#define NOT_BEGUN   0xFFFFu
#define WITHOUT_END 0xFFFEu

static const rp_image_sequence *image_of(const rp_engine *e, uint16_t sequence)
{
    return e->sequence_of + sequence;
}

static const rp_image_step *step_of(const rp_engine *e, uint16_t sequence, uint16_t step)
{
    return e->step + image_of(e, sequence)->first_step + step;
}

static bool is_true(const rp_engine *e, uint16_t slot)
{
    const rp_reading r = rp_engine_value(e, slot);
    return rp_usable(r.quality) && r.value != 0.0f;
}

void rp_engine_recall_states(rp_engine *e)
{
    const rp_image_state *state = rp_image_at(e->image, RP_SECTION_STATES);
    const uint32_t first = rp_image_state_slot(e->image, 0);
    e->stirred = 0;
    for (uint32_t i = 0; i < e->states; i++) {
        if (state[i].kind == RP_STATE_SEQUENCE) {
            const rp_sequence_state *s = &e->sequence[state[i].of];
            e->value[first + i] = s->runs ? (float)(s->step + 1) : 0.0f;
        } else {
            e->value[first + i] = e->state_next[i];
        }
        if (state[i].kind == RP_STATE_CUE && e->state_next[i] != 0.0f) {
            e->state_next[i] = 0.0f;
            stir(e);
        }
    }
}

/* ---- beginning and ending ---- */

/* However its ending is come to, it is on it from there on, and does not begin it a second time. */
static void enter(rp_engine *e, uint16_t sequence, uint16_t step)
{
    e->sequence[sequence].ending |= step == image_of(e, sequence)->ending;
    e->sequence[sequence].step = step;
    e->sequence[sequence].since_us = e->now_us;
    e->sequence[sequence].until_us = 0;
    e->sequence[sequence].waits = 0;
    stir(e);
}

static void let_go(rp_engine *e, uint16_t sequence)
{
    const rp_image_claim *claim = rp_image_at(e->image, RP_SECTION_CLAIMS);
    for (uint32_t i = 0; i < e->claims; i++) {
        if (claim[i].rank == RP_RANK_SEQUENCE && claim[i].source == sequence && e->claim_active[i]) {
            e->claim_active[i] = 0;
            e->moved = 1;
        }
    }
}

static void forget_cycles(rp_engine *e, uint16_t sequence)
{
    const rp_image_sequence *s = image_of(e, sequence);
    memset(e->counter + s->first_step, 0xFF, s->steps * sizeof *e->counter);
}

void rp_engine_begin(rp_engine *e, uint16_t sequence, bool anew)
{
    rp_sequence_state *s = &e->sequence[sequence];
    const uint32_t drives = rp_image_count(e->image, RP_SECTION_DRIVES);
    if ((s->runs && !anew) || e->blocked[e->rules + drives + sequence]) {
        return;
    }
    tell(e, RP_EVENT_BEGUN, s->runs, sequence, 0.0f);
    let_go(e, sequence);
    forget_cycles(e, sequence);
    *s = (rp_sequence_state){.runs = 1};
    enter(e, sequence, 0);
}

static void be_over(rp_engine *e, uint16_t sequence)
{
    e->sequence[sequence] = (rp_sequence_state){0};
    stir(e);
    let_go(e, sequence);
}

/* Its ending, if it has one and is not on it already; else it is over. */
static void leave(rp_engine *e, uint16_t sequence)
{
    rp_sequence_state *s = &e->sequence[sequence];
    const uint16_t ending = image_of(e, sequence)->ending;
    if (ending == RP_REF_NONE || s->ending) {
        be_over(e, sequence);
        return;
    }
    s->ending = 1;
    forget_cycles(e, sequence);
    enter(e, sequence, ending);
}

void rp_engine_finish(rp_engine *e, uint16_t sequence)
{
    if (e->sequence[sequence].runs && !e->sequence[sequence].ending) {
        tell(e, RP_EVENT_FINISHED, RP_FINISH_ENDED, sequence, 0.0f);
        leave(e, sequence);
    }
}

/* One that a sensor's fault has failed lets go at once, and does not begin before the fault is cleared. */
void rp_engine_fail(rp_engine *e, uint16_t sequence, uint8_t reason)
{
    if (!e->sequence[sequence].runs) {
        return;
    }
    tell(e, RP_EVENT_FAILED, reason, sequence, (float)(e->sequence[sequence].step + 1));
    if (reason == RP_FAIL_SENSOR) {
        be_over(e, sequence);
    } else {
        leave(e, sequence);
    }
}

/* ---- steps ---- */

/* The time is taken once, when the step is entered: what it is computed from may go on changing. */
static bool time_over(rp_engine *e, uint16_t sequence, uint16_t ref)
{
    rp_sequence_state *s = &e->sequence[sequence];
    if (s->until_us == 0) {
        s->until_us = s->since_us + rp_microseconds(read_ref(e, ref).value);
    }
    return e->now_us >= s->until_us;
}

/* Whoever jumps out of a cycle has left it. */
static void leave_cycles(rp_engine *e, uint16_t sequence, uint16_t target)
{
    const rp_image_sequence *s = image_of(e, sequence);
    for (uint16_t i = 0; i < s->steps; i++) {
        const rp_image_step *step = step_of(e, sequence, i);
        if (step->kind == RP_STEP_CYCLE && !(i < target && target < step->target)) {
            e->counter[s->first_step + i] = NOT_BEGUN;
        }
    }
}

static void go(rp_engine *e, uint16_t sequence, uint16_t target)
{
    leave_cycles(e, sequence, target);
    enter(e, sequence, target);
}

static void next(rp_engine *e, uint16_t sequence)
{
    enter(e, sequence, (uint16_t)(e->sequence[sequence].step + 1));
}

static void be_late(rp_engine *e, uint16_t sequence, const rp_image_step *step)
{
    if (step->target != RP_REF_NONE) {
        go(e, sequence, step->target);
    } else {
        rp_engine_fail(e, sequence, RP_FAIL_LATE);
    }
}

static void wait_for(rp_sequence_state *s, uint16_t slot)
{
    s->waits = 1;
    s->awaits = slot;
}

/* Behind a drive it looks from the next tick on: until then nothing can have come of that. */
static void await(rp_engine *e, uint16_t sequence, const rp_image_step *step, bool *waits)
{
    rp_sequence_state *s = &e->sequence[sequence];
    *waits = s->drove;
    if (s->drove) {
        return;
    }
    if (is_true(e, step->what)) {
        next(e, sequence);
    } else if (step->value == RP_REF_NONE) {
        s->until_us = UINT64_MAX;
        wait_for(s, step->what);
    } else if (time_over(e, sequence, step->value)) {
        be_late(e, sequence, step);
    } else {
        wait_for(s, step->what);
    }
    *waits = s->waits;
}

static void cycle(rp_engine *e, uint16_t sequence, const rp_image_step *step)
{
    uint16_t *left = &e->counter[image_of(e, sequence)->first_step + e->sequence[sequence].step];
    if (*left == NOT_BEGUN) {
        const float times = step->value == RP_REF_NONE ? 0.0f : read_ref(e, step->value).value;
        *left = step->value == RP_REF_NONE ? WITHOUT_END : (uint16_t)rp_limit(times + 0.5f, 0.0f, 60000.0f);
    }
    if (*left == 0 || (step->what != RP_REF_NONE && is_true(e, step->what))) {
        *left = NOT_BEGUN;
        enter(e, sequence, step->target);
        return;
    }
    *left = *left == WITHOUT_END ? WITHOUT_END : (uint16_t)(*left - 1);
    next(e, sequence);
}

/* One step; `waits` when it is not over yet. */
static void take_step(rp_engine *e, uint16_t sequence, bool *waits)
{
    const rp_image_step *step = step_of(e, sequence, e->sequence[sequence].step);
    switch (step->kind) {
    case RP_STEP_DO:
        if (rp_engine_act(e, step->what)) {
            e->sequence[sequence].drove |= rp_action_drives(e->action[step->what].kind) != 0;
            next(e, sequence);
        } else {
            rp_engine_fail(e, sequence, RP_FAIL_UNKNOWN);
        }
        break;
    case RP_STEP_DWELL:
        if (e->sequence[sequence].until_us == 0 && !rp_usable(read_ref(e, step->value).quality)) {
            rp_engine_fail(e, sequence, RP_FAIL_UNKNOWN);
        } else if (time_over(e, sequence, step->value)) {
            next(e, sequence);
        } else {
            wait_for(&e->sequence[sequence], RP_REF_NONE);
            *waits = true;
        }
        break;
    case RP_STEP_AWAIT:
        await(e, sequence, step, waits);
        break;
    case RP_STEP_GO:
        if (step->what == RP_REF_NONE || is_true(e, step->what)) {
            go(e, sequence, step->target);
        } else {
            next(e, sequence);
        }
        break;
    case RP_STEP_CYCLE:
        cycle(e, sequence, step);
        break;
    case RP_STEP_AGAIN:
        enter(e, sequence, step->target);
        break;
    default:
        tell(e, RP_EVENT_FINISHED, RP_FINISH_DONE, sequence, 0.0f);
        be_over(e, sequence);
    }
}

/* As many steps as it has at most, so that a tick takes a bounded time; one that has gone round goes on in the next. */
static void run(rp_engine *e, uint16_t sequence)
{
    const rp_image_sequence *s = image_of(e, sequence);
    bool waits = false;
    e->sequence[sequence].drove = 0;
    if (s->only != RP_REF_NONE && !is_true(e, s->only) && !e->sequence[sequence].ending) {
        tell(e, RP_EVENT_FINISHED, RP_FINISH_ONLY, sequence, 0.0f);
        leave(e, sequence);
    }
    for (uint16_t i = 0; i < s->steps && e->sequence[sequence].runs && !waits; i++) {
        take_step(e, sequence, &waits);
    }
}

/* Nothing has come of what it waits for: most ticks of most sequences are over with this. */
static bool goes_on_waiting(const rp_engine *e, uint16_t sequence)
{
    const rp_sequence_state *s = &e->sequence[sequence];
    const uint16_t only = image_of(e, sequence)->only;
    return s->waits && e->now_us < s->until_us && (s->awaits == RP_REF_NONE || !is_true(e, s->awaits)) &&
           (only == RP_REF_NONE || s->ending || is_true(e, only));
}

void rp_engine_run_sequences(rp_engine *e)
{
    for (uint16_t i = 0; i < e->sequences; i++) {
        if (e->sequence[i].runs && !goes_on_waiting(e, i)) {
            run(e, i);
        }
    }
}
