/* The program of an image: its operations, run by run. No other file of the engine knows what an operation is. */
#include "program.h"

#include "lanes/lanes.h"
#include "steady.h"
#include "tape.h"

#include <string.h>

/* The pace of the n-th operation of a run; NULL: it steps in every tick. */
static const rgp__pace *pace_of(const rgp_engine *e, const rgp_image_run *run, uint32_t n)
{
    const uint16_t pace = image_PACE_STEPS(e)[run->pace - 1u + n];
    return pace ? part_pace(e) + pace - 1 : NULL;
}

/* One operation that steps on new readings, or four that have the same. What does not step leaves its value as it is,
 * but an event never stands. Loops step in every tick, and are told. */
static void step_or_stand(rgp__tape *t, const rgp_image_run *run, uint32_t n, uint32_t count, float dt)
{
    const rgp_op *op = &rgp_ops[run->op];
    const rgp__pace *const pace = pace_of(t->engine, run, n);
    t->same = pace && !pace->fresh;
    t->since = pace && pace->fresh ? pace->dt : dt;
    t->dt = op->loop ? dt : t->since;
    if (!t->same || op->loop) {
        rgp__run_part(t, run, n, count);
    } else if (op->result == RGP_RESULT_EVENT) {
        t->value[t->operand[run->operand + n * rgp_op_operands(run->op) + op->inputs]] = 0.0f;
    }
}

static bool is_alike(const rgp__pace *a, const rgp__pace *b)
{
    return a == b || (a && b && a->fresh == b->fresh && (!a->fresh || a->dt == b->dt));
}

/* Those from the n-th on that step together: four by lanes when all are new, or none, after the same time; else one. */
static uint32_t count_together(const rgp_engine *e, const rgp_image_run *run, uint32_t n)
{
    const rgp__pace *const first = pace_of(e, run, n);
    uint32_t alike = 1;
    if (!rgp_image_by_lanes(run) || n % RGP_LANES != 0) {
        return 1;
    }
    while (alike < RGP_LANES && is_alike(first, pace_of(e, run, n + alike))) {
        alike++;
    }
    return alike < RGP_LANES ? 1 : RGP_LANES;
}

/* Neighbours in a run may have different paces. The time of the tick is put back behind it for the runs that follow. */
static void compute_paced(rgp__tape *t, const rgp_image_run *run, float dt)
{
    for (uint32_t n = 0, count; n < run->count; n += count) {
        count = count_together(t->engine, run, n);
        step_or_stand(t, run, n, count, dt);
    }
    t->dt = t->since = dt;
    t->same = false;
}

/* A tick in which some sensor is not new, or was not in the last one. */
static void compute_lagging(rgp__tape *t, const rgp_image_run *run, const rgp_image_run *end)
{
    const bool unmoved = part_head(t->engine)->unmoved;
    for (; run < end; run++) {
        if (run->steady && unmoved) {
            continue;
        }
        if (run->pace) {
            compute_paced(t, run, part_head(t->engine)->dt);
        } else {
            rgp__run(t, run);
        }
    }
}

/* A tick in which no sensor and no parameter has changed. */
static void compute_unmoved(rgp__tape *t, const rgp_image_run *run, const rgp_image_run *end)
{
    for (; run < end; run++) {
        if (!run->steady) {
            rgp__run(t, run);
        }
    }
}

/* Runs stand in the order in which they are computed: the loader has seen to it that every operand is there by then.
 * What a run writes is not read by itself. */
static void compute(rgp_engine *e)
{
    const rgp__engine_head *const head = part_head(e);
    const rgp_image_run *run = image_RUNS(e), *const end = run + COUNT(e, RUNS);
    rgp__tape t = {.value = part_value(e),
                   .quality = part_quality(e),
                   .constant = image_CONSTANTS(e),
                   .operand = image_OPERANDS(e),
                   .config = {rgp_image_at(e->image, RGP_SECTION_CONFIGS), part_live(e)},
                   .state = part_states(e),
                   .dt = head->dt,
                   .since = head->dt,
                   .engine = e};
    if (head->steady) {
        rgp__engine_look(e);
    }
    if (head->lags) {
        compute_lagging(&t, run, end);
    } else if (head->unmoved) {
        compute_unmoved(&t, run, end);
    } else {
        for (; run < end; run++) {
            rgp__run(&t, run);
        }
    }
    if (t.moves) {
        make_due(e, RGP__DUE_FOLLOW);
    }
}

/* ---- between ticks ---- */

/* Called for each operation, with the place of its operands and of its state. */
typedef void visitor(const rgp_engine *e, uint32_t op, const uint16_t *operand, void *state, void *self);

/* In the order of the image, between ticks or for news; takes time by the number of operations. What goes by lanes
 * knows nothing, and has no state of its own to be shown. */
static void visit(const rgp_engine *e, visitor *call, void *self)
{
    const rgp_image_run *run = image_RUNS(e);
    const uint16_t *operand = image_OPERANDS(e);
    for (uint32_t i = 0; i < COUNT(e, RUNS); i++) {
        const bool apart = !rgp_image_by_lanes(&run[i]);
        for (uint32_t n = 0; n < run[i].count; n++, operand += rgp_op_operands(run[i].op)) {
            if (apart) {
                call(e, run[i].op, operand, part_states(e) + run[i].state + n * run[i].state_stride, self);
            }
        }
    }
}

static void reset_one(const rgp_engine *e, uint32_t op, const uint16_t *operand, void *state, void *self)
{
    (void)e;
    (void)operand;
    (void)self;
    if (rgp_ops[op].reset) {
        rgp_ops[op].reset(state);
    }
}

/* News are asked for in the next tick: what has been reset may learn again. */
static void reset(rgp_engine *e)
{
    visit(e, reset_one, NULL);
    make_due(e, RGP__DUE_NEWS);
}

/* The signal whose stage this is; RGP_REF_NONE: of none, or it knows nothing. */
static uint16_t owner_of(uint32_t op, const uint16_t *operand)
{
    return rgp_op_is_owned(op) ? operand[rgp_op_operands(op) - 1] : (uint16_t)RGP_REF_NONE;
}

typedef struct relearning {
    uint16_t slot;
    bool any;
} relearning;

static void relearn_one(const rgp_engine *e, uint32_t op, const uint16_t *operand, void *state, void *self)
{
    relearning *r = self;
    if (owner_of(op, operand) == r->slot) {
        r->any = true;
        reset_one(e, op, operand, state, NULL);
    }
}

/* False when the slot's stages know nothing: then nothing was done. */
static bool relearn(rgp_engine *e, uint16_t slot)
{
    relearning r = {slot, false};
    visit(e, relearn_one, &r);
    make_due(e, RGP__DUE_NEWS);
    return r.any;
}

static const rgp_event learning_events[] = {
    [RGP_LEARNING_DONE] = {.kind = RGP_EVENT_LEARNED},
    [RGP_LEARNING_ANEW] = {.kind = RGP_EVENT_LEARNED, .reason = RGP_LEARNED_NO_SPAN},
    [RGP_LEARNING_GAVE_UP] = {.kind = RGP_EVENT_GAVE_UP},
};

/* News are told once: asking takes them back. *self becomes true while there will be more. */
static void raise_news(const rgp_engine *e, uint32_t op, const uint16_t *operand, void *state, void *self)
{
    if (rgp_ops[op].knows != RGP_KNOWS_LEARNS) {
        return;
    }
    const rgp_learning is = rgp_op_news(op, state);
    *(bool *)self |= is.going != 0;
    if (is.what != RGP_LEARNING_ON) {
        const rgp_event *event = &learning_events[is.what];
        const uint8_t spans = is.what == RGP_LEARNING_DONE && op == RGP_OP_SPAN ? RGP_LEARNED_SPAN : 0;
        raise_event(e, event->kind, (uint8_t)(event->reason | spans), owner_of(op, operand), is.value);
    }
}

/* False when nothing learns any more: nobody is asked in later ticks until something is reset. */
static bool news(rgp_engine *e)
{
    bool going = false;
    visit(e, raise_news, &going);
    return going;
}

/* setting = parameter * scale + offset, in the unit of the setting, in each place that the parameter sets. */
static void patch(rgp_engine *e, uint16_t param, float value)
{
    const rgp_image_patch *p = image_PATCHES(e);
    for (uint32_t i = 0; i < COUNT(e, PATCHES); i++) {
        if (p[i].param == param) {
            const float field = value * p[i].scale + p[i].offset;
            memcpy(part_live(e) + p[i].live_offset, &field, sizeof field);
        }
    }
}

/* True when the operation that this setting is of does not take its settings. */
static bool is_impossible(const rgp_engine *e, uint32_t live_offset)
{
    uint32_t copy[RGP_LANES_SET_MAX / 4u];
    rgp_op_live of;
    return rgp_op_locate_live(e->image, live_offset, &of) &&
           rgp_ops[of.run->op].fault(rgp_op_config(of.run, part_live(e) + of.run->config, of.n, copy));
}

/* All or nothing: when one operation refuses the new settings the old value is put into all of them again. Sound for
 * the old value, they are so again. */
static bool patch_settings(rgp_engine *e, uint16_t param, float value)
{
    const rgp_image_patch *p = image_PATCHES(e);
    patch(e, param, value);
    for (uint32_t i = 0; i < COUNT(e, PATCHES); i++) {
        if (p[i].param == param && is_impossible(e, p[i].live_offset)) {
            patch(e, param, e->value[param]);
            return false;
        }
    }
    return true;
}

typedef struct keeping {
    const rgp_image_retained *of;
    uint16_t place; /* of the next stage of its slot */
    rgp__retainer_visit *visit;
    void *self;
} keeping;

/* Stages of one signal are told apart by their order in it. */
static void keep_one(const rgp_engine *e, uint32_t op, const uint16_t *operand, void *state, void *self)
{
    keeping *k = self;
    const rgp_op_retainer *how = rgp_op_retainer_of(op);
    (void)e;
    if (how && owner_of(op, operand) == k->of->slot) {
        const rgp__retainer retainer = {k->of->key, how->kind, k->place++, state, how->retain, how->restore};
        k->visit(k->self, &retainer);
    }
}

/* Once through the program for each slot that is retained; asked when a rig begins and ends, not in ticks. */
static void retainers(const rgp_engine *e, rgp__retainer_visit *call, void *self)
{
    for (uint32_t i = 0; i < COUNT(e, RETAINED); i++) {
        keeping k = {&image_RETAINED(e)[i], 0, call, self};
        visit(e, keep_one, &k);
    }
}

const rgp_program rgp__program_of_image = {
    .compute = compute,
    .reset = reset,
    .relearn = relearn,
    .set = patch_settings,
    .news = news,
    .retainers = retainers,
};
