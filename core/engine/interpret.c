/* The program of an image: its operations, run by run. No other file of the engine knows what an operation is. */
#include "program.h"

#include "image/ops.h"
#include "steady.h"

#include <string.h>

/* The arrays that the run functions work on. They take the arrays into locals, so that a store of a byte need not be
 * feared to have moved them. */
typedef struct tape {
    float *value;
    rgp_quality *quality;
    const float *constant;
    const uint16_t *operand;
    const unsigned char *config[2]; /* in the image, in memory */
    unsigned char *state;
    float dt;    /* of this tick; of what steps on new readings, since the last of those */
    float since; /* of loops: since they have measured anew */
    bool same;   /* of loops: they have not, in this tick */
    bool moves;  /* left by loops: one does not simply go on */
    const rgp_engine *engine;
} tape;

/* A constant is always good. */
static inline rgp_reading ref(const tape *t, uint16_t at)
{
    return at & RGP_REF_CONSTANT ? rgp_good(t->constant[at & ~RGP_REF_CONSTANT])
                                 : (rgp_reading){t->value[at], t->quality[at]};
}

/* The shapes of operations over settings differ in their operands, and in whether they keep a state. A tick takes
 * time, always; said once before the loop, no block has to ask it again. */
#define RUN_OVER_CONFIGS(NAME, operands, owned, step, state_moves, takes_time)               \
    static void run_##NAME(tape *t, const rgp_image_run *run)                                \
    {                                                                                        \
        float *const value = t->value;                                                       \
        rgp_quality *const quality = t->quality;                                             \
        const uint16_t *operand = t->operand + run->operand;                                 \
        const unsigned char *config = t->config[run->live] + run->config;                    \
        unsigned char *state = t->state + run->state;                                        \
        const uint32_t config_stride = run->config_stride, state_stride = run->state_stride; \
        const float dt = t->dt;                                                              \
        (void)state_stride;                                                                  \
        (void)state;                                                                         \
        (void)dt;                                                                            \
        takes_time;                                                                          \
        uint32_t left = run->count;                                                          \
        do {                                                                                 \
            const rgp_reading out = step;                                                    \
            value[operand[(operands)-1u]] = out.value;                                       \
            quality[operand[(operands)-1u]] = out.quality;                                   \
            operand += (operands) + (owned);                                                 \
            config += config_stride;                                                         \
            state_moves;                                                                     \
        } while (--left > 0);                                                                \
    }
#define IN(n)      ((rgp_reading){value[operand[n]], quality[operand[n]]})
#define CONFIG     ((const void *)config)
#define STATE      ((void *)state)
#define NEXT_STATE state += state_stride
#define TAKES_TIME    \
    if (!(dt > 0.0f)) \
    return

/* The changes of what an operand says: those of a timed switch lie in its queue, any other's are found here. */
static rgp_edges edges_of(const tape *t, uint16_t slot, rgp_edges_memory *memory, bool event, rgp_port_edge *room)
{
    const rgp_engine *e = t->engine;
    const uint64_t now_us = part_head(e)->now_us;
    const rgp_reading in = {t->value[slot], t->quality[slot]};
    const uint32_t first = rgp_image_sensor_slot(e->image, 0), sensor = (uint32_t)slot - first;
    if (slot < first || sensor >= COUNT(e, SENSORS) || !image_SENSORS(e)[sensor].timed) {
        return rgp_edges_find(memory, in, event, now_us, t->dt, room);
    }
    const rgp__edge_queue *queue = &part_edges(e)[image_SENSORS(e)[sensor].timed - 1];
    return (rgp_edges){in, queue->edge, queue->count, queue->lost, now_us};
}

#define RUN_STAGE(NAME, block, outputs, owned) \
    RUN_OVER_CONFIGS(NAME, 2u, owned, rgp_##block##_step(CONFIG, STATE, IN(0), dt), NEXT_STATE, TAKES_TIME)
#define RUN_PAIR(NAME, block, outputs, owned) \
    RUN_OVER_CONFIGS(NAME, 3u, owned, rgp_##block##_step(CONFIG, STATE, IN(0), IN(1), dt), NEXT_STATE, TAKES_TIME)
#define RUN_MAP(NAME, block, outputs, owned) \
    RUN_OVER_CONFIGS(NAME, 2u, owned, rgp_##block##_step(CONFIG, IN(0)), (void)0, (void)0)
#define RUN_MAP3(NAME, block, outputs, owned) \
    RUN_OVER_CONFIGS(NAME, 4u, owned, rgp_##block##_step(CONFIG, IN(0), IN(1), IN(2)), (void)0, (void)0)
#define RUN_EDGES(NAME, block, outputs, owned)                                                                    \
    static rgp_reading measure_##NAME(const tape *t, const uint16_t *operand, const rgp_##block##_config *config, \
                                      rgp_##block##_state *state)                                                 \
    {                                                                                                             \
        rgp_port_edge room;                                                                                       \
        const rgp_edges in = edges_of(t, operand[0], &state->memory, config->event != 0, &room);                  \
        return rgp_##block##_step(config, state, &in, t->dt);                                                     \
    }                                                                                                             \
    RUN_OVER_CONFIGS(NAME, 2u, owned, measure_##NAME(t, operand, CONFIG, STATE), NEXT_STATE, TAKES_TIME)
#define RUN_EDGES2(NAME, block, outputs, owned)                                                                   \
    static rgp_reading measure_##NAME(const tape *t, const uint16_t *operand, const rgp_##block##_config *config, \
                                      rgp_##block##_state *state)                                                 \
    {                                                                                                             \
        rgp_port_edge room[2];                                                                                    \
        const rgp_edges a = edges_of(t, operand[0], &state->gate[0].memory, false, &room[0]);                     \
        const rgp_edges b = edges_of(t, operand[1], &state->gate[1].memory, false, &room[1]);                     \
        return rgp_##block##_step(config, state, &a, &b, t->dt);                                                  \
    }                                                                                                             \
    RUN_OVER_CONFIGS(NAME, 3u, owned, measure_##NAME(t, operand, CONFIG, STATE), NEXT_STATE, TAKES_TIME)
#define RUN_JOIN(NAME, expression, outputs, owned)                                                 \
    static void run_##NAME(tape *t, const rgp_image_run *run)                                      \
    {                                                                                              \
        const uint16_t *operand = t->operand + run->operand;                                       \
        uint32_t left = run->count;                                                                \
        do {                                                                                       \
            const rgp_reading in_a = ref(t, operand[0]), in_b = ref(t, operand[1]);                \
            const float a = in_a.value, b = in_b.value;                                            \
            const rgp_reading out = rgp_number(expression, rgp_worst(in_a.quality, in_b.quality)); \
            t->value[operand[2]] = out.value;                                                      \
            t->quality[operand[2]] = out.quality;                                                  \
            operand += 3;                                                                          \
        } while (--left > 0);                                                                      \
    }
#define RUN_LOOP(NAME, block, outputs, owned)                                                                          \
    static void run_##NAME(tape *t, const rgp_image_run *run)                                                          \
    {                                                                                                                  \
        const uint16_t *operand = t->operand + run->operand;                                                           \
        const unsigned char *config = t->config[run->live] + run->config;                                              \
        unsigned char *state = t->state + run->state;                                                                  \
        const float dt = t->dt;                                                                                        \
        bool all_go_on = true;                                                                                         \
        TAKES_TIME;                                                                                                    \
        for (uint32_t left = run->count; left > 0; left--) {                                                           \
            const rgp_loop_input in = {ref(t, operand[0]), ref(t, operand[1]), ref(t, operand[2]), t->since, t->same}; \
            all_go_on &= rgp_##block##_step(CONFIG, STATE, &in, dt, t->value + operand[3], t->quality + operand[3]);   \
            operand += 3 + (outputs);                                                                                  \
            config += run->config_stride;                                                                              \
            state += run->state_stride;                                                                                \
        }                                                                                                              \
        t->moves |= !all_go_on;                                                                                        \
    }

#define RGP_OP(NAME, shape, block, outputs, config_bytes, state_bytes, steps, pace, result, range, knows, verb) \
    RUN_##shape(NAME, block, outputs, (RGP_KNOWS_##knows != RGP_KNOWS_NOTHING))
#include "image/ops.def"

static void (*const run_op[RGP_OPS])(tape *, const rgp_image_run *) = {
#define RGP_OP(NAME, ...) run_##NAME,
#include "image/ops.def"
};

/* First stages of sensors whose numbers no float may hold. */
#define WHOLE_MAP(block)   rgp_##block##_whole(CONFIG, raw[at], quality)
#define WHOLE_STAGE(block) rgp_##block##_whole(CONFIG, STATE, raw[at], quality, t->dt)
#define RGP_OP_WHOLE(NAME, shape, block)                                                 \
    static void whole_##NAME(const tape *t, const rgp_image_run *run)                    \
    {                                                                                    \
        const int32_t *const raw = t->engine->raw;                                       \
        const uint32_t first = rgp_image_sensor_slot(t->engine->image, 0);               \
        const uint16_t *operand = t->operand + run->operand;                             \
        const unsigned char *config = t->config[run->live] + run->config;                \
        unsigned char *state = t->state + run->state;                                    \
        for (uint32_t n = 0; n < run->count; n++, operand += rgp_op_operands(run->op)) { \
            const uint32_t at = operand[0] - first;                                      \
            const rgp_quality quality = t->quality[operand[0]];                          \
            const rgp_reading out = WHOLE_##shape(block);                                \
            t->value[operand[1]] = out.value;                                            \
            t->quality[operand[1]] = out.quality;                                        \
            config += run->config_stride;                                                \
            state += run->state_stride;                                                  \
        }                                                                                \
        (void)state;                                                                     \
    }
#include "image/ops.def"

/* The few first stages that take a sensor's whole number. */
static void run_whole(const tape *t, const rgp_image_run *run)
{
    switch (run->op) {
#define RGP_OP_WHOLE(NAME, shape, block) \
    case RGP_OP_##NAME:                  \
        whole_##NAME(t, run);            \
        break;
#include "image/ops.def"
    default:
        break;
    }
}

/* The one place that chooses between whole numbers and floats: the image says which, once a run. */
static inline void run_one(tape *t, const rgp_image_run *run)
{
    if (run->whole) {
        run_whole(t, run);
    } else {
        run_op[run->op](t, run);
    }
}

/* One operation that steps on new readings, as a run of its own. What does not step leaves its value as it is, but an
 * event never stands. Loops step in every tick, and are told. */
static void step_or_stand(tape *t, const rgp_image_run *one, const rgp__pace *pace, float dt)
{
    const rgp_op *op = &rgp_ops[one->op];
    t->same = pace && !pace->fresh;
    t->since = pace && pace->fresh ? pace->dt : dt;
    t->dt = op->loop ? dt : t->since;
    if (!t->same || op->loop) {
        run_one(t, one);
    } else if (op->result == RGP_RESULT_EVENT) {
        t->value[t->operand[one->operand + op->inputs]] = 0.0f;
    }
}

/* Element by element, since neighbours in a run may have different paces. The time of the tick is put back behind it
 * for the runs that follow. */
static void compute_paced(tape *t, const rgp_image_run *run, float dt)
{
    const uint16_t *const pace = image_PACE_STEPS(t->engine) + run->pace - 1;
    rgp_image_run one = *run;
    one.count = 1;
    for (uint32_t n = 0; n < run->count; n++) {
        step_or_stand(t, &one, pace[n] ? part_pace(t->engine) + pace[n] - 1 : NULL, dt);
        one.operand += rgp_op_operands(run->op);
        one.config += run->config_stride;
        one.state += run->state_stride;
    }
    t->dt = t->since = dt;
    t->same = false;
}

/* A tick in which some sensor is not new, or was not in the last one. */
static void compute_lagging(tape *t, const rgp_image_run *run, const rgp_image_run *end)
{
    const bool unmoved = part_head(t->engine)->unmoved;
    for (; run < end; run++) {
        if (run->steady && unmoved) {
            continue;
        }
        if (run->pace) {
            compute_paced(t, run, part_head(t->engine)->dt);
        } else {
            run_one(t, run);
        }
    }
}

/* A tick in which no sensor and no parameter has changed. */
static void compute_unmoved(tape *t, const rgp_image_run *run, const rgp_image_run *end)
{
    for (; run < end; run++) {
        if (!run->steady) {
            run_one(t, run);
        }
    }
}

/* Runs stand in the order in which they are computed: the loader has seen to it that every operand is there by then.
 * What a run writes is not read by itself. */
static void compute(rgp_engine *e)
{
    const rgp__engine_head *const head = part_head(e);
    const rgp_image_run *run = image_RUNS(e), *const end = run + COUNT(e, RUNS);
    tape t = {.value = part_value(e),
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
            run_one(&t, run);
        }
    }
    if (t.moves) {
        make_due(e, RGP__DUE_FOLLOW);
    }
}

/* ---- between ticks ---- */

/* Called for each operation, with the place of its operands and of its state. */
typedef void visitor(const rgp_engine *e, uint32_t op, const uint16_t *operand, void *state, void *self);

/* In the order of the image, between ticks or for news; takes time by the number of operations. */
static void visit(const rgp_engine *e, visitor *call, void *self)
{
    const rgp_image_run *run = image_RUNS(e);
    const uint16_t *operand = image_OPERANDS(e);
    for (uint32_t i = 0; i < COUNT(e, RUNS); i++) {
        for (uint32_t n = 0; n < run[i].count; n++, operand += rgp_op_operands(run[i].op)) {
            call(e, run[i].op, operand, part_states(e) + run[i].state + n * run[i].state_stride, self);
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

/* All or nothing: when one operation refuses the new settings the old value is put into all of them again. Sound for
 * the old value, they are so again. */
static bool patch_settings(rgp_engine *e, uint16_t param, float value)
{
    const rgp_image_patch *p = image_PATCHES(e);
    patch(e, param, value);
    for (uint32_t i = 0; i < COUNT(e, PATCHES); i++) {
        uint32_t op, config;
        if (p[i].param == param && rgp_op_locate_live(e->image, p[i].live_offset, &op, &config) &&
            rgp_ops[op].fault(part_live(e) + config)) {
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

/* clang-format off */
static const rgp__phase phases[] = {
    {RGP__DUE_LOSSES, rgp__phase_losses},
    {RGP__DUE_PARAMS, rgp__phase_params},
    {RGP__DUE_WATCH, rgp__phase_watch},
    {RGP__DUE_EDGES, rgp__phase_edge_queue},
    {RGP__DUE_STATES, rgp__phase_states},
    {RGP__DUE_TICK, rgp__phase_pace},
    {RGP__DUE_TICK, rgp__phase_compute},
    {RGP__DUE_NEWS, rgp__phase_news},
    {RGP__DUE_STOPS, rgp__phase_stops},
    {RGP__DUE_CLAIMS, rgp__phase_expire},
    {RGP__DUE_RULES, rgp__phase_rules},
    {RGP__DUE_SEQUENCES, rgp__phase_sequences},
    {RGP__DUE_DRIVES, rgp__phase_follow},
    {RGP__DUE_OUTPUTS, rgp__phase_arbitrate},
    {RGP__DUE_CONDITIONING, rgp__phase_output_conditioning},
    {RGP__DUE_CONDITIONING, rgp__phase_guard},
    {RGP__DUE_LOOPS | RGP__DUE_EDGES, rgp__phase_publish},
};
/* clang-format on */

const rgp_program rgp__program_of_image = {
    .phase = phases,
    .phases = sizeof phases / sizeof *phases,
    .compute = compute,
    .reset = reset,
    .relearn = relearn,
    .set = patch_settings,
    .news = news,
    .retainers = retainers,
};
