/* Sequences: each goes on as far as it can. */
#include "sequence.h"

#include "act.h"
#include "phase.h"

#include <string.h>

#define NOT_BEGUN   0xFFFFu
#define WITHOUT_END 0xFFFEu

static const rgp_image_sequence *image_of(const rgp_engine *e, uint16_t sequence)
{
    return image_SEQUENCES(e) + sequence;
}

static rgp__sequence_state *state_of(const rgp_engine *e, uint16_t sequence)
{
    return part_sequence(e) + sequence;
}

static const rgp_image_step *step_of(const rgp_engine *e, uint16_t sequence, uint16_t step)
{
    return image_STEPS(e) + image_of(e, sequence)->first_step + step;
}

/* A condition that cannot be known is not true: a step goes on waiting. */
static bool is_true(const rgp_engine *e, uint16_t slot)
{
    const rgp_reading r = rgp_engine_value(e, slot);
    return rgp_usable(r.quality) && r.value != 0.0f;
}

/* ---- beginning and ending ---- */

/* However its ending is come to, it is on it from there on, and does not begin it a second time. */
static void enter(rgp_engine *e, uint16_t sequence, uint16_t step)
{
    rgp__sequence_state *s = state_of(e, sequence);
    s->ending |= step == image_of(e, sequence)->ending;
    s->step = step;
    s->since_us = part_head(e)->now_us;
    s->until_us = 0;
    s->waits = 0;
    make_due(e, RGP__DUE_STATES);
}

/* Claims of a sequence are all of its own rank, one for each actuator that it drives. */
static void let_go(rgp_engine *e, uint16_t sequence)
{
    const rgp_image_claim *of = image_CLAIMS(e);
    rgp_claim *const claim = part_claim(e);
    for (uint32_t i = 0; i < COUNT(e, CLAIMS); i++) {
        if (of[i].rank == RGP_RANK_SEQUENCE && of[i].source == sequence && claim[i].active) {
            claim[i].active = RGP_CLAIM_NONE;
            make_due(e, RGP__DUE_OUTPUTS);
        }
    }
}

/* 0xFFFF is NOT_BEGUN. */
static void forget_cycles(rgp_engine *e, uint16_t sequence)
{
    const rgp_image_sequence *s = image_of(e, sequence);
    memset(part_counter(e) + s->first_step, 0xFF, s->steps * sizeof(uint16_t));
}

/* As before its first step; whether a fault keeps it from that stays. */
static void forget(rgp__sequence_state *s)
{
    *s = (rgp__sequence_state){.blocked = s->blocked};
}

/* One that runs already goes on as it is, unless it is to begin anew. */
static void begin_sequence(rgp_engine *e, uint16_t sequence, bool anew)
{
    rgp__sequence_state *s = state_of(e, sequence);
    if ((s->runs && !anew) || s->blocked) {
        return;
    }
    raise_event(e, RGP_EVENT_BEGUN, s->runs, sequence, 0.0f);
    let_go(e, sequence);
    forget_cycles(e, sequence);
    forget(s);
    s->runs = 1;
    enter(e, sequence, 0);
}

static void finish_sequence(rgp_engine *e, uint16_t sequence)
{
    forget(state_of(e, sequence));
    make_due(e, RGP__DUE_STATES);
    let_go(e, sequence);
}

void rgp__engine_forget_sequences(rgp_engine *e)
{
    part_head(e)->requests = 0;
    for (uint32_t i = 0; i < COUNT(e, SEQUENCES); i++) {
        forget(&part_sequence(e)[i]);
    }
    make_due(e, RGP__DUE_STATES);
}

/* Its ending, if it has one and is not on it already; else it is over. */
static void leave(rgp_engine *e, uint16_t sequence)
{
    rgp__sequence_state *s = state_of(e, sequence);
    const uint16_t ending = image_of(e, sequence)->ending;
    if (ending == RGP_REF_NONE || s->ending) {
        finish_sequence(e, sequence);
        return;
    }
    s->ending = 1;
    forget_cycles(e, sequence);
    enter(e, sequence, ending);
}

/* On its ending it is not ended again: an ending is short, and brings things to where they have to be. */
static void finish(rgp_engine *e, uint16_t sequence)
{
    if (state_of(e, sequence)->runs && !state_of(e, sequence)->ending) {
        raise_event(e, RGP_EVENT_FINISHED, RGP_FINISH_ENDED, sequence, 0.0f);
        leave(e, sequence);
    }
}

/* One that a sensor's fault has failed lets go at once, and does not begin before the fault is cleared. */
void rgp__engine_fail(rgp_engine *e, uint16_t sequence, uint8_t reason)
{
    if (!state_of(e, sequence)->runs) {
        return;
    }
    raise_event(e, RGP_EVENT_FAILED, reason, sequence, (float)(state_of(e, sequence)->step + 1));
    if (reason == RGP_FAIL_SENSOR) {
        finish_sequence(e, sequence);
    } else {
        leave(e, sequence);
    }
}

/* ---- steps ---- */

/* The time is taken once, when the step is entered: what it is computed from may go on changing. */
static bool time_over(rgp_engine *e, uint16_t sequence, uint16_t ref)
{
    rgp__sequence_state *s = state_of(e, sequence);
    if (s->until_us == 0) {
        s->until_us = s->since_us + rgp_microseconds(read_ref(e, ref).value);
    }
    return part_head(e)->now_us >= s->until_us;
}

/* Whoever jumps out of a cycle has left it. */
static void leave_cycles(rgp_engine *e, uint16_t sequence, uint16_t target)
{
    const rgp_image_sequence *s = image_of(e, sequence);
    for (uint16_t i = 0; i < s->steps; i++) {
        const rgp_image_step *step = step_of(e, sequence, i);
        if (step->kind == RGP_STEP_CYCLE && !(i < target && target < step->target)) {
            part_counter(e)[s->first_step + i] = NOT_BEGUN;
        }
    }
}

/* A jump leaves the cycles that its target is not in; a step to the next one cannot leave any but by their end. */
static void go_to_step(rgp_engine *e, uint16_t sequence, uint16_t target)
{
    leave_cycles(e, sequence, target);
    enter(e, sequence, target);
}

static void go_to_next_step(rgp_engine *e, uint16_t sequence)
{
    enter(e, sequence, (uint16_t)(state_of(e, sequence)->step + 1));
}

/* The time of an await is over. */
static void be_late(rgp_engine *e, uint16_t sequence, const rgp_image_step *step)
{
    if (step->target != RGP_REF_NONE) {
        go_to_step(e, sequence, step->target);
    } else {
        rgp__engine_fail(e, sequence, RGP_FAIL_LATE);
    }
}

/* The slot that it waits for is kept, so that the ticks until then cost two comparisons. */
static void wait_for(rgp__sequence_state *s, uint16_t slot)
{
    s->waits = 1;
    s->awaits = slot;
}

/* Behind a drive it looks from the next tick on: until then nothing can have come of that. */
static void await(rgp_engine *e, uint16_t sequence, const rgp_image_step *step, bool *waits)
{
    rgp__sequence_state *s = state_of(e, sequence);
    *waits = s->drove;
    if (s->drove) {
        return;
    }
    if (is_true(e, step->what)) {
        go_to_next_step(e, sequence);
    } else if (step->value == RGP_REF_NONE) {
        s->until_us = UINT64_MAX;
        wait_for(s, step->what);
    } else if (time_over(e, sequence, step->value)) {
        be_late(e, sequence, step);
    } else {
        wait_for(s, step->what);
    }
    *waits = s->waits;
}

/* The counter holds the rounds that are left; how many there are is asked once, when the cycle is entered. */
static void cycle(rgp_engine *e, uint16_t sequence, const rgp_image_step *step)
{
    uint16_t *left = &part_counter(e)[image_of(e, sequence)->first_step + state_of(e, sequence)->step];
    if (*left == NOT_BEGUN) {
        const float times = step->value == RGP_REF_NONE ? 0.0f : read_ref(e, step->value).value;
        *left = step->value == RGP_REF_NONE ? WITHOUT_END : (uint16_t)rgp_limit(times + 0.5f, 0.0f, 60000.0f);
    }
    if (*left == 0 || (step->what != RGP_REF_NONE && is_true(e, step->what))) {
        *left = NOT_BEGUN;
        enter(e, sequence, step->target);
        return;
    }
    *left = *left == WITHOUT_END ? WITHOUT_END : (uint16_t)(*left - 1);
    go_to_next_step(e, sequence);
}

/* One step; `waits` when it is not over yet. */
static void take_step(rgp_engine *e, uint16_t sequence, bool *waits)
{
    const rgp_image_step *step = step_of(e, sequence, state_of(e, sequence)->step);
    switch (step->kind) {
    case RGP_STEP_DO:
        if (rgp__engine_act(e, step->what)) {
            state_of(e, sequence)->drove |= rgp_action_drives(image_ACTIONS(e)[step->what].kind) != 0;
            go_to_next_step(e, sequence);
        } else {
            rgp__engine_fail(e, sequence, RGP_FAIL_UNKNOWN);
        }
        break;
    case RGP_STEP_DWELL:
        if (state_of(e, sequence)->until_us == 0 && !rgp_usable(read_ref(e, step->value).quality)) {
            rgp__engine_fail(e, sequence, RGP_FAIL_UNKNOWN);
        } else if (time_over(e, sequence, step->value)) {
            go_to_next_step(e, sequence);
        } else {
            wait_for(state_of(e, sequence), RGP_REF_NONE);
            *waits = true;
        }
        break;
    case RGP_STEP_AWAIT:
        await(e, sequence, step, waits);
        break;
    case RGP_STEP_GO:
        if (step->what == RGP_REF_NONE || is_true(e, step->what)) {
            go_to_step(e, sequence, step->target);
        } else {
            go_to_next_step(e, sequence);
        }
        break;
    case RGP_STEP_CYCLE:
        cycle(e, sequence, step);
        break;
    case RGP_STEP_AGAIN:
        enter(e, sequence, step->target);
        break;
    default:
        raise_event(e, RGP_EVENT_FINISHED, RGP_FINISH_DONE, sequence, 0.0f);
        finish_sequence(e, sequence);
    }
}

/* As many steps as it has at most, so that a tick takes a bounded time; one that has gone round goes on in the next. */
static void run_sequence(rgp_engine *e, uint16_t sequence)
{
    const rgp_image_sequence *s = image_of(e, sequence);
    bool waits = false;
    state_of(e, sequence)->drove = 0;
    if (s->condition != RGP_REF_NONE && !is_true(e, s->condition) && !state_of(e, sequence)->ending) {
        raise_event(e, RGP_EVENT_FINISHED, RGP_FINISH_ONLY, sequence, 0.0f);
        leave(e, sequence);
    }
    for (uint16_t i = 0; i < s->steps && state_of(e, sequence)->runs && !waits; i++) {
        take_step(e, sequence, &waits);
    }
}

/* Nothing has come of what it waits for: most ticks of most sequences are over with this. */
static bool goes_on_waiting(const rgp_engine *e, uint16_t sequence)
{
    const rgp__sequence_state *s = state_of(e, sequence);
    const uint16_t condition = image_of(e, sequence)->condition;
    return s->waits && part_head(e)->now_us < s->until_us && (s->awaits == RGP_REF_NONE || !is_true(e, s->awaits)) &&
           (condition == RGP_REF_NONE || s->ending || is_true(e, condition));
}

/* Rules have asked in this tick, sequences in the last one. What is asked from here on waits for the next. */
static void take_up(rgp_engine *e)
{
    rgp__engine_head *const head = part_head(e);
    const rgp__request *request = part_request(e), *const end = request + head->requests;
    for (; request < end; request++) {
        if (request->begins) {
            begin_sequence(e, request->sequence, request->anew);
        } else {
            finish(e, request->sequence);
        }
    }
    head->requests = 0;
}

/* Behind the rules, whose requests are taken up here; in the order of the file. What a sequence asks of another one
 * counts from the next tick on, whatever their order. */
void rgp__phase_sequences(rgp_engine *e)
{
    const uint16_t sequences = (uint16_t)(part_head(e)->stopped ? 0 : COUNT(e, SEQUENCES));
    if (sequences > 0 && part_head(e)->requests > 0) {
        take_up(e);
    }
    for (uint16_t i = 0; i < sequences; i++) {
        if (state_of(e, i)->runs && !goes_on_waiting(e, i)) {
            run_sequence(e, i);
        }
    }
}
