/* The tick: readings -> operations -> rules -> owners -> outputs. */
#include "rigpulse/engine.h"

#include "gather.h"
#include "learner.h"
#include "ops.h"
#include "sequence.h"
#include "shape.h"
#include "tell.h"

/* A sensor's quality for this tick; a change of it is an event. */
static inline void judge(rp_engine *e, uint32_t sensor, rp_quality quality)
{
    rp_quality *const at = &e->quality[(uint32_t)e->sensor_slot + sensor];
    if (*at != quality) {
        *at = quality;
        e->plain[sensor] = quality == RP_GOOD && !e->sensor[sensor].vetted;
        if (e->ticks > 0 || quality != RP_GOOD) {
            tell(e, RP_EVENT_SENSOR, quality, sensor, e->value[(uint32_t)e->sensor_slot + sensor]);
        }
    }
}

/* The arrays that the run functions work on. They take the arrays into locals, so that a store of a byte need not be
 * feared to have moved them. */
typedef struct tape {
    float *value;
    rp_quality *quality;
    const float *constant;
    const uint16_t *operand;
    const unsigned char *config[2]; /* in the image, in memory */
    unsigned char *state;
    rp_loop_link *link;
    float dt;
    rp_engine *engine;
} tape;

/* The four shapes of operations over settings differ in their operands, and in whether they keep a state. A tick takes
 * time, always; said once before the loop, no block has to ask it again. */
#define RUN_OVER_CONFIGS(NAME, operands, step, state_moves, takes_time)                      \
    static void run_##NAME(const tape *t, const rp_image_run *run)                           \
    {                                                                                        \
        float *const value = t->value;                                                       \
        rp_quality *const quality = t->quality;                                              \
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
            const rp_reading out = step;                                                     \
            value[operand[(operands)-1u]] = out.value;                                       \
            quality[operand[(operands)-1u]] = out.quality;                                   \
            operand += (operands);                                                           \
            config += config_stride;                                                         \
            state_moves;                                                                     \
        } while (--left > 0);                                                                \
    }
#define IN(n)      ((rp_reading){value[operand[n]], quality[operand[n]]})
#define CONFIG     ((const void *)config)
#define STATE      ((void *)state)
#define NEXT_STATE state += state_stride
#define TAKES_TIME    \
    if (!(dt > 0.0f)) \
    return

/* The changes of what an operand says: those of a timed switch have been gathered, any other's are found here. */
static rp_edges edges_of(const tape *t, uint16_t slot, rp_edges_memory *memory, bool event, rp_port_edge *room)
{
    const rp_engine *e = t->engine;
    const rp_reading in = {t->value[slot], t->quality[slot]};
    const uint32_t sensor = (uint32_t)slot - e->sensor_slot;
    if (slot < e->sensor_slot || sensor >= e->sensors || !e->sensor[sensor].timed) {
        return rp_edges_find(memory, in, event, e->now_us, t->dt, room);
    }
    const rp_edge_queue *queue = &e->edges[rp_engine_timed(e, sensor)];
    return (rp_edges){in, queue->edge, queue->count, queue->lost, e->now_us};
}

#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes) \
    RUN_OVER_CONFIGS(NAME, 2u, rp_##block##_step(CONFIG, STATE, IN(0), dt), NEXT_STATE, TAKES_TIME)
#define RP_OP_PAIR(NAME, block, config_bytes, state_bytes) \
    RUN_OVER_CONFIGS(NAME, 3u, rp_##block##_step(CONFIG, STATE, IN(0), IN(1), dt), NEXT_STATE, TAKES_TIME)
#define RP_OP_MAP(NAME, block, config_bytes) \
    RUN_OVER_CONFIGS(NAME, 2u, rp_##block##_step(CONFIG, IN(0)), (void)0, (void)0)
#define RP_OP_MAP3(NAME, block, config_bytes) \
    RUN_OVER_CONFIGS(NAME, 4u, rp_##block##_step(CONFIG, IN(0), IN(1), IN(2)), (void)0, (void)0)
#define RP_OP_EDGES(NAME, block, config_bytes, state_bytes)                                                     \
    static rp_reading measure_##NAME(const tape *t, const uint16_t *operand, const rp_##block##_config *config, \
                                     rp_##block##_state *state)                                                 \
    {                                                                                                           \
        rp_port_edge room;                                                                                      \
        const rp_edges in = edges_of(t, operand[0], &state->memory, config->event != 0, &room);                 \
        return rp_##block##_step(config, state, &in, t->dt);                                                    \
    }                                                                                                           \
    RUN_OVER_CONFIGS(NAME, 2u, measure_##NAME(t, operand, CONFIG, STATE), NEXT_STATE, TAKES_TIME)
#define RP_OP_EDGES2(NAME, block, config_bytes, state_bytes)                                                    \
    static rp_reading measure_##NAME(const tape *t, const uint16_t *operand, const rp_##block##_config *config, \
                                     rp_##block##_state *state)                                                 \
    {                                                                                                           \
        rp_port_edge room[2];                                                                                   \
        const rp_edges a = edges_of(t, operand[0], &state->gate[0].memory, false, &room[0]);                    \
        const rp_edges b = edges_of(t, operand[1], &state->gate[1].memory, false, &room[1]);                    \
        return rp_##block##_step(config, state, &a, &b, t->dt);                                                 \
    }                                                                                                           \
    RUN_OVER_CONFIGS(NAME, 3u, measure_##NAME(t, operand, CONFIG, STATE), NEXT_STATE, TAKES_TIME)
#define RP_OP_JOIN(NAME, expression)                                                            \
    static void run_##NAME(const tape *t, const rp_image_run *run)                              \
    {                                                                                           \
        const uint16_t *operand = t->operand + run->operand;                                    \
        uint32_t left = run->count;                                                             \
        do {                                                                                    \
            const rp_reading in_a = ref(t, operand[0]), in_b = ref(t, operand[1]);              \
            const float a = in_a.value, b = in_b.value;                                         \
            const rp_reading out = rp_number(expression, rp_worst(in_a.quality, in_b.quality)); \
            t->value[operand[2]] = out.value;                                                   \
            t->quality[operand[2]] = out.quality;                                               \
            operand += 3;                                                                       \
        } while (--left > 0);                                                                   \
    }

#define RP_OP_LOOP(NAME, block, outputs, config_bytes, state_bytes)                                                    \
    static void run_##NAME(const tape *t, const rp_image_run *run)                                                     \
    {                                                                                                                  \
        const uint16_t *operand = t->operand + run->operand;                                                           \
        const unsigned char *config = t->config[run->live] + run->config;                                              \
        unsigned char *state = t->state + run->state;                                                                  \
        const float dt = t->dt;                                                                                        \
        bool all_go_on = true;                                                                                         \
        TAKES_TIME;                                                                                                    \
        for (uint32_t left = run->count; left > 0; left--) {                                                           \
            const rp_##block##_config *const c = (const void *)config;                                                 \
            const rp_loop_input in = {ref(t, operand[0]), ref(t, operand[1]), ref(t, operand[2]),                      \
                                      &t->link[c->loop.link]};                                                         \
            all_go_on &= rp_##block##_step(c, (void *)state, &in, dt, t->value + operand[3], t->quality + operand[3]); \
            operand += 3 + (outputs);                                                                                  \
            config += run->config_stride;                                                                              \
            state += run->state_stride;                                                                                \
        }                                                                                                              \
        if (!all_go_on) {                                                                                              \
            t->engine->astir = 1;                                                                                      \
        }                                                                                                              \
    }

static inline rp_reading ref(const tape *t, uint16_t at)
{
    return at & RP_REF_CONSTANT ? rp_good(t->constant[at & ~RP_REF_CONSTANT])
                                : (rp_reading){t->value[at], t->quality[at]};
}

#include "ops.def"

static void (*const run_op[RP_OPS])(const tape *, const rp_image_run *) = {
#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes)         run_##NAME,
#define RP_OP_PAIR(NAME, block, config_bytes, state_bytes)          run_##NAME,
#define RP_OP_MAP(NAME, block, config_bytes)                        run_##NAME,
#define RP_OP_MAP3(NAME, block, config_bytes)                       run_##NAME,
#define RP_OP_EDGES(NAME, block, config_bytes, state_bytes)         run_##NAME,
#define RP_OP_EDGES2(NAME, block, config_bytes, state_bytes)        run_##NAME,
#define RP_OP_JOIN(NAME, expression)                                run_##NAME,
#define RP_OP_LOOP(NAME, block, outputs, config_bytes, state_bytes) run_##NAME,
#include "ops.def"
};

static void compute(rp_engine *e, float dt)
{
    const rp_image_run *run = rp_image_at(e->image, RP_SECTION_RUNS);
    const rp_image_run *const end = run + rp_image_count(e->image, RP_SECTION_RUNS);
    const tape t = {.value = e->value,
                    .quality = e->quality,
                    .constant = rp_image_at(e->image, RP_SECTION_CONSTANTS),
                    .operand = rp_image_at(e->image, RP_SECTION_OPERANDS),
                    .config = {rp_image_at(e->image, RP_SECTION_CONFIGS), e->live},
                    .state = e->state,
                    .link = e->link,
                    .dt = dt,
                    .engine = e};
    for (; run < end; run++) {
        run_op[run->op](&t, run);
    }
}

/* Tells of what has been learned, or could not be, since the last tick. */
static void tell_learners(rp_engine *e)
{
    const rp_image_run *run = rp_image_at(e->image, RP_SECTION_RUNS);
    const uint16_t *operand = rp_image_at(e->image, RP_SECTION_OPERANDS);
    for (uint32_t i = 0; i < rp_image_count(e->image, RP_SECTION_RUNS); i++) {
        const uint32_t operands = rp_op_operands(run[i].op);
        for (uint32_t n = 0; n < run[i].count; n++, operand += operands) {
            rp_event news;
            void *const state = e->state + run[i].state + n * run[i].state_stride;
            if (rp_learner_news(run[i].op, state, &news)) {
                e->learners = (uint16_t)(e->learners - *rp_learner_told(run[i].op, state));
                tell(e, news.kind, news.reason, operand[operands - 1], news.value);
            }
        }
    }
}

static void tell_phase(rp_engine *e, uint32_t loop, rp_loop_link *is)
{
    const rp_image_loop *l = (const rp_image_loop *)rp_image_at(e->image, RP_SECTION_LOOPS) + loop;
    const uint8_t was = is->told;
    is->told = is->phase;
    if (is->phase == RP_LOOP_OUT) {
        tell(e, RP_EVENT_CUT_OUT, is->reason, loop, (float)l->again);
    } else if (is->phase == RP_LOOP_ENGAGED && was != RP_LOOP_HELD) {
        tell(e, RP_EVENT_ENGAGED, 0, loop, 0.0f);
    } else if (is->phase == RP_LOOP_HELD) {
        tell(e, RP_EVENT_HELD, 0, loop, 0.0f);
    }
}

/* Somebody else owns its actuator, or a guard does, or it has a least power: that it gets that is no less than was
 * asked. */
static void note_owner(const rp_engine *e, const rp_image_loop *l, bool armed, rp_loop_link *link, float written)
{
    const rp_image_actuator *a = &e->actuator[l->actuator];
    const float asked = e->claim_value[l->claim];
    const uint32_t owner = a->first_claim + rp_claim_owner(e->claim_active + a->first_claim, a->claims);
    const bool raised = a->least > 0.0f && asked != 0.0f && asked < a->least && asked > -a->least &&
                        written == (asked > 0.0f ? a->least : -a->least);
    const bool stopped = e->stopped || !armed, mine = !stopped && owner == l->claim;
    link->news |= (uint8_t)((mine ? 0 : RP_NEWS_TAKEN) | (stopped ? RP_NEWS_STOPPED : 0));
    link->taken = raised && mine ? asked : written;
}

/* The news of a loop; and what it has come to drive, and whether it did, which its next step has to know. */
static void note_loops(rp_engine *e)
{
    const rp_image_loop *loop = rp_image_at(e->image, RP_SECTION_LOOPS);
    const float *const written = e->value + e->actuator_slot;
    for (uint32_t i = 0; i < e->loops; i++) {
        const uint32_t actuator = loop[i].actuator;
        rp_loop_link *const link = &e->link[i];
        if (link->phase != link->told) {
            tell_phase(e, i, link);
        }
        link->taken = written[actuator];
        link->news &= (uint8_t) ~(RP_NEWS_STOPPED | RP_NEWS_TAKEN);
        const bool armed = rp_engine_is_armed(e, loop[i].only);
        if (e->owner[actuator] != loop[i].claim || e->shapes || !armed) {
            note_owner(e, &loop[i], armed, link, written[actuator]);
        }
    }
}

/* A computed amount that cannot be trusted fires nothing. */
static bool amounts_usable(const rp_engine *e, const rp_image_rule *rule)
{
    const rp_image_action *action = e->action + rule->first_action;
    for (uint32_t i = 0; i < rule->actions; i++) {
        const bool takes = rp_action_drives(action[i].kind) || action[i].kind == RP_ACTION_PARAM;
        if (takes && !rp_usable(read_ref(e, action[i].value).quality)) {
            return false;
        }
        if (action[i].kind == RP_ACTION_TIMED && (!rp_usable(read_ref(e, action[i].duration).quality) ||
                                                  !rp_usable(read_ref(e, action[i].period).quality))) {
            return false;
        }
    }
    return rp_usable(read_ref(e, rule->holdoff).quality);
}

/* Of a claim: it is none, it drives, or it is between two of its times and asks for rest. */
enum { CLAIM_NONE, CLAIM_DRIVES, CLAIM_PAUSES };

static void claim(rp_engine *e, uint32_t rule, uint16_t claim, float value, uint64_t until)
{
    e->claim_by[claim] = (uint16_t)rule;
    e->claim_value[claim] = value;
    e->claim_since[claim] = e->now_us;
    e->claim_until[claim] = until;
    e->claim_active[claim] = CLAIM_DRIVES;
    e->moved = 1;
}

/* The time that a timed action takes with all its times. */
static uint64_t width_of(const rp_engine *e, const rp_image_action *action)
{
    const uint64_t once = rp_microseconds(read_ref(e, action->duration).value);
    return once + (action->times - 1u) * rp_microseconds(read_ref(e, action->period).value);
}

/* When the claim of an action that has more than one time goes on or off next, by which it now is either. */
static uint64_t repeat_claim(rp_engine *e, uint32_t claim, const rp_image_action *action)
{
    const uint64_t once = rp_microseconds(read_ref(e, action->duration).value);
    const uint64_t period = rp_microseconds(read_ref(e, action->period).value);
    const uint64_t since = e->now_us - e->claim_since[claim], into = period > 0 ? since % period : 0;
    const uint8_t is = into < once ? CLAIM_DRIVES : CLAIM_PAUSES;
    e->moved |= is != e->claim_active[claim];
    e->claim_active[claim] = is;
    const uint64_t next = e->now_us - into + (is == CLAIM_DRIVES ? once : period);
    return next < e->claim_until[claim] ? next : e->claim_until[claim];
}

static void heed_end(rp_engine *e, uint64_t end_us)
{
    if (end_us < e->next_end_us) {
        e->next_end_us = end_us;
    }
}

/* The amount that an action asks for; of a toggle and a step, from what the latch says now. */
static float amount_of(const rp_engine *e, const rp_image_action *action)
{
    const float value = read_ref(e, action->value).value;
    if (action->kind != RP_ACTION_TOGGLE && action->kind != RP_ACTION_STEP) {
        return value;
    }
    const rp_image_claim *claims = rp_image_at(e->image, RP_SECTION_CLAIMS);
    const rp_image_actuator *a = &e->actuator[claims[action->claim].actuator];
    const float latched = e->claim_active[action->claim] ? e->claim_value[action->claim] : a->rest;
    return action->kind == RP_ACTION_STEP ? rp_limit(latched + value, a->low, a->high) : latched != 0.0f ? 0.0f : 1.0f;
}

/* It counts from the next tick on. */
static void ask_param(rp_engine *e, uint16_t param, float value)
{
    const rp_image_param *p = (const rp_image_param *)rp_image_at(e->image, RP_SECTION_PARAMS) + param;
    e->param_next[param] = rp_limit(value, p->low, p->high);
    e->param_asked[param] = 1;
    e->asked = 1;
    e->early = 1;
}

static void grant_params(rp_engine *e)
{
    e->asked = 0;
    for (uint32_t i = 0; i < rp_image_count(e->image, RP_SECTION_PARAMS); i++) {
        if (e->param_asked[i]) {
            e->param_asked[i] = 0;
            rp_engine_set(e, (uint16_t)i, e->param_next[i]);
        }
    }
}

/* A mark may show a value, as far as that can be trusted: the reason is its quality. */
static void tell_mark(rp_engine *e, uint32_t index)
{
    const uint16_t ref = e->action[index].value;
    const rp_reading shown = ref == RP_REF_NONE ? rp_good(0.0f) : read_ref(e, ref);
    tell(e, RP_EVENT_MARK, shown.quality, index, shown.value);
}

/* Actions that drive nothing. */
static void act_aside(rp_engine *e, uint32_t index)
{
    const rp_image_action *action = &e->action[index];
    switch (action->kind) {
    case RP_ACTION_MARK:
        tell_mark(e, index);
        break;
    case RP_ACTION_PARAM:
        ask_param(e, action->claim, read_ref(e, action->value).value);
        break;
    case RP_ACTION_RELEARN:
        rp_engine_relearn(e, action->value);
        break;
    case RP_ACTION_BEGIN:
        rp_engine_begin(e, action->claim, read_ref(e, action->value).value != 0.0f);
        break;
    case RP_ACTION_FINISH:
        rp_engine_finish(e, action->claim);
        break;
    default:
        e->state_next[action->claim] = read_ref(e, action->value).value;
        stir(e);
    }
}

bool rp_engine_act(rp_engine *e, uint32_t action)
{
    const rp_image_action *a = &e->action[action];
    const bool takes = rp_action_drives(a->kind) || a->kind == RP_ACTION_PARAM;
    if (takes && !rp_usable(read_ref(e, a->value).quality)) {
        return false;
    }
    if (rp_action_drives(a->kind)) {
        claim(e, RP_REF_NONE, a->claim, amount_of(e, a), UINT64_MAX);
    } else {
        act_aside(e, action);
    }
    return true;
}

static void fire(rp_engine *e, uint32_t index, const rp_image_rule *rule)
{
    const rp_image_action *action = e->action + rule->first_action;
    uint64_t longest = 0;
    tell(e, RP_EVENT_FIRED, 0, index, 0.0f);
    for (uint32_t i = 0; i < rule->actions; i++) {
        if (!rp_action_drives(action[i].kind)) {
            act_aside(e, rule->first_action + i);
            continue;
        }
        uint64_t until = UINT64_MAX;
        if (action[i].kind == RP_ACTION_TIMED) {
            const uint64_t width = width_of(e, &action[i]);
            longest = width > longest ? width : longest;
            until = e->now_us + width;
        }
        claim(e, index, action[i].claim, amount_of(e, &action[i]), until);
        heed_end(e, action[i].kind == RP_ACTION_TIMED && action[i].times > 1
                        ? repeat_claim(e, action[i].claim, &action[i])
                        : until);
    }
    rp_pulse_fire(&e->pulse[index], e->now_us, longest, rp_microseconds(read_ref(e, rule->holdoff).value));
}

/* The rule's claims are let go (a plain set that another rule has made since stays), and it may not fire until
 * the fault is cleared. */
static void block(rp_engine *e, uint32_t rule)
{
    e->blocked[rule] = 1;
    e->moved = 1;
    const uint32_t drives = rp_image_count(e->image, RP_SECTION_DRIVES);
    if (rule >= e->rules + drives) {
        rp_engine_fail(e, (uint16_t)(rule - e->rules - drives), RP_FAIL_SENSOR);
        return;
    }
    if (rule >= e->rules) {
        return; /* a continuous drive lets go by itself */
    }
    const rp_image_rule *r = &e->rule[rule];
    for (uint32_t i = r->first_action; i < (uint32_t)r->first_action + r->actions; i++) {
        const uint16_t claim = e->action[i].claim;
        if (rp_action_drives(e->action[i].kind) && e->claim_by[claim] == rule) {
            const rp_image_claim *claims = rp_image_at(e->image, RP_SECTION_CLAIMS);
            const uint32_t actuator = claims[claim].actuator;
            e->claim_active[claim] = 0;
            e->relief[actuator] |= RP_RELIEF_FAULT;
        }
    }
}

static void raise_fault(rp_engine *e, uint32_t sensor, rp_quality quality)
{
    const rp_image_need *need = rp_image_at(e->image, RP_SECTION_NEEDS);
    tell(e, RP_EVENT_FAULT, quality, sensor, e->value[e->sensor_slot + sensor]);
    for (uint32_t i = 0; i < rp_image_count(e->image, RP_SECTION_NEEDS); i++) {
        if (need[i].sensor == sensor) {
            block(e, need[i].rule);
        }
    }
}

static bool has_fault(const rp_engine *e, uint32_t sensor)
{
    uint32_t k = 0;
    for (uint32_t i = 0; i < sensor; i++) {
        k += e->sensor[i].vetted;
    }
    return e->sensor[sensor].vetted && e->fault[k];
}

/* Rules that need the sensor, and no other one that has a fault, may act again. */
static void end_fault(rp_engine *e, uint32_t sensor)
{
    const rp_image_need *need = rp_image_at(e->image, RP_SECTION_NEEDS);
    const uint32_t needs = rp_image_count(e->image, RP_SECTION_NEEDS);
    tell(e, RP_EVENT_RECOVERED, 0, sensor, e->value[e->sensor_slot + sensor]);
    for (uint32_t i = 0; i < needs; i++) {
        if (need[i].sensor == sensor) {
            e->blocked[need[i].rule] = 0;
        }
    }
    for (uint32_t i = 0; i < needs; i++) {
        if (has_fault(e, need[i].sensor)) {
            e->blocked[need[i].rule] = 1;
        }
    }
}

/* A fault comes when readings have been bad for long enough, and ends when they have been good for long enough. */
static void time_fault(rp_engine *e, uint32_t sensor, uint32_t k, uint64_t passed)
{
    const rp_image_sensor *s = &e->sensor[sensor];
    const rp_quality quality = e->quality[(uint32_t)e->sensor_slot + sensor];
    const bool goes_on = rp_usable(quality) == (e->fault[k] != 0);
    const float after = e->fault[k] ? s->again_after : s->fault_after;
    e->fault_us[k] = goes_on ? e->fault_us[k] + passed : 0;
    if (!goes_on || after <= 0.0f || e->fault_us[k] < rp_microseconds(after)) {
        return;
    }
    e->fault_us[k] = 0;
    e->fault[k] ^= 1;
    if (e->fault[k]) {
        raise_fault(e, sensor, quality);
    } else {
        end_fault(e, sensor);
    }
}

/* Judges the sensors whose readings are held against more than their range. */
static void vet_sensors(rp_engine *e, float dt)
{
    const uint64_t passed = rp_microseconds(dt);
    uint32_t k = 0;
    for (uint32_t i = 0; k < e->vetted; i++) {
        const rp_image_sensor *s = &e->sensor[i];
        if (!s->vetted) {
            continue;
        }
        judge(e, i, rp_vet_step(&s->vet, &e->vet[k], e->port_us, dt));
        time_fault(e, i, k, passed);
        k++;
    }
}

static void consider(rp_engine *e, uint32_t index, const rp_image_rule *rule)
{
    if (e->blocked[index]) {
        return;
    }
    const rp_pulse_phase phase = rp_pulse_at(&e->pulse[index], e->now_us);
    if (phase == RP_PULSE_READY) {
        if (amounts_usable(e, rule)) {
            fire(e, index, rule);
        }
    } else if (!rule->repeats) {
        tell(e, RP_EVENT_DROPPED, (uint8_t)phase, index, 0.0f);
    }
}

static void decide(rp_engine *e)
{
    const rp_image_rule *rule = e->rule;
    const float *const value = e->value;
    const rp_pulse_state *pulse = e->pulse;
    const uint32_t rules = e->rules;
    for (uint32_t i = 0; i < rules; i++, rule++, pulse++) {
        const uint32_t slot = rule->trigger;
        if (slot < RP_REF_NONE) {
            if (value[slot] == 0.0f || (rule->repeats && e->now_us < pulse->ready_at)) {
                continue;
            }
            if (rp_usable(e->quality[slot])) {
                consider(e, i, rule);
            }
        } else if (slot == RP_REF_NONE ? e->ticks == 0 : read_ref(e, rule->trigger).value != 0.0f) {
            consider(e, i, rule);
        }
    }
}

static void end_claims(rp_engine *e)
{
    const rp_image_claim *claims = rp_image_at(e->image, RP_SECTION_CLAIMS);
    e->next_end_us = UINT64_MAX;
    for (uint32_t i = 0; i < e->claims; i++) {
        if (!e->claim_active[i]) {
            continue;
        }
        if (e->now_us >= e->claim_until[i]) {
            e->claim_active[i] = 0;
            e->moved = 1;
            tell(e, RP_EVENT_ENDED, 0, i, e->claim_value[i]);
        } else if (claims[i].rank == RP_RANK_TIMED && e->action[claims[i].action].times > 1) {
            heed_end(e, repeat_claim(e, i, &e->action[claims[i].action]));
        } else {
            heed_end(e, e->claim_until[i]);
        }
    }
}

/* Chooses each actuator's owner and its output. They stand until a claim changes, unless something is shaped: that goes
 * on from tick to tick. */
static void drive(rp_engine *e)
{
    e->moved = e->shapes | e->hand_only;
    const rp_image_actuator *a = e->actuator, *const end = a + e->actuators;
    const uint8_t *const active = e->claim_active;
    float *output = e->wanted;
    uint16_t *owner = e->owner;
    for (; a < end; a++, output++, owner++) {
        const uint32_t claims = e->stopped ? 0 : e->hand_only ? 1 : a->claims; /* the first is the hand's */
        const uint32_t i = rp_claim_owner(active + a->first_claim, claims);
        if (i == claims) {
            *owner = e->stopped ? RP_OWNER_STOP : RP_OWNER_REST;
            *output = a->rest;
        } else {
            *owner = (uint16_t)(a->first_claim + i);
            *output = active[*owner] == CLAIM_PAUSES ? a->rest : rp_limit(e->claim_value[*owner], a->low, a->high);
        }
    }
    if (e->shapes) {
        rp_engine_shape(e);
    }
}

/* The engine's work before anything is computed. */
static void begin_tick(rp_engine *e, float dt)
{
    if (e->asked) {
        grant_params(e);
    }
    if (e->vetted) {
        vet_sensors(e, dt);
    }
    if (e->timed) {
        rp_engine_gather(e, dt);
    }
    e->early = e->vetted > 0 || e->timed > 0;
    if (e->stirred) {
        rp_engine_recall_states(e);
    }
}

/* A condition that is still learning cannot be known and is no danger yet. */
static void heed_stops(rp_engine *e)
{
    const rp_image_stop *stop = rp_image_at(e->image, RP_SECTION_STOPS);
    for (uint32_t i = 0; i < e->stops; i++) {
        const rp_reading condition = rp_engine_value(e, stop[i].condition);
        const bool usable = rp_usable(condition.quality);
        const bool holds = usable ? condition.value != 0.0f : condition.quality != RP_LEARNING;
        if (holds && !e->stopped) {
            rp_engine_stop_by(e, (uint16_t)i);
        } else if (e->stopped && e->stopped_by == i && !holds && stop[i].release != RP_REF_NONE) {
            const rp_reading release = rp_engine_value(e, stop[i].release);
            if (rp_usable(release.quality) && release.value != 0.0f) {
                rp_engine_resume_by(e, (uint16_t)i);
            }
        }
    }
}

/* The engine's work when everything is computed. */
static void end_computing(rp_engine *e)
{
    if (e->learners) {
        tell_learners(e);
    }
    if (e->timed) {
        rp_engine_ungather(e);
    }
    if (e->stops) {
        heed_stops(e);
    }
    e->late = e->learners || e->timed || e->stops;
}

/* Loops that all go on, and nothing else that could want their actuators: each has left in its link what it drives. */
static void go_on(rp_engine *e)
{
    const rp_image_loop *loop = rp_image_at(e->image, RP_SECTION_LOOPS), *const end = loop + e->loops;
    const rp_image_actuator *const actuator = e->actuator;
    rp_loop_link *link = e->link;
    float *const claimed = e->claim_value, *const wanted = e->wanted;
    for (; loop < end; loop++, link++) {
        const rp_image_actuator *a = &actuator[loop->actuator];
        const float taken = rp_limit(link->taken, a->low, a->high);
        claimed[loop->claim] = wanted[loop->actuator] = link->taken = taken;
    }
}

static void follow(rp_engine *e)
{
    if (!(e->moved || e->astir)) { /* moved, always, while only the hand drives */
        go_on(e);
        return;
    }
    e->astir = e->follows > e->loops || e->arms;
    rp_engine_follow(e);
    if (e->moved) {
        drive(e);
    }
    if (e->loops) {
        note_loops(e);
    }
}

void rp_engine_step(rp_engine *e, uint64_t now_us)
{
    uint64_t passed = e->image->tick_us;
    if (e->ticks > 0) {
        passed = now_us > e->port_us ? now_us - e->port_us : 0;
        e->now_us += passed;
    } else {
        e->now_us = now_us;
    }
    e->port_us = now_us;
    if (passed == 0) {
        return;
    }
    const float dt = rp_seconds(passed);
    if (e->early) {
        begin_tick(e, dt);
    }
    compute(e, dt);
    if (e->late) {
        end_computing(e);
    }
    if (e->now_us >= e->next_end_us) {
        end_claims(e);
    }
    if (!e->stopped) {
        decide(e);
        if (e->sequences) {
            rp_engine_run_sequences(e);
        }
    }
    if (e->follows) {
        follow(e);
    } else if (e->moved) {
        drive(e);
    }
    e->ticks += e->ticks < UINT32_MAX;
}

static inline bool is_plain(const uint8_t *plain, const rp_image_sensor *s, const rp_sample *sample)
{
    return *plain && sample->quality == RP_GOOD && sample->raw >= s->vet.low && sample->raw <= s->vet.high;
}

/* The plain ones first: a loop without calls keeps its addresses in registers. */
void rp_engine_sense_all(rp_engine *e, const rp_sample *sample)
{
    const rp_image_sensor *const s = e->sensor;
    const uint8_t *const plain = e->plain;
    int32_t *const kept = e->raw;
    float *const sensed = e->sensed;
    const uint32_t sensors = e->sensors;
    uint32_t others = 0;
    for (uint32_t i = 0; i < sensors; i++) {
        if (is_plain(&plain[i], &s[i], &sample[i])) {
            kept[i] = sample[i].raw;
            sensed[i] = (float)sample[i].raw;
        } else {
            others++;
        }
    }
    for (uint32_t i = 0; others > 0; i++) {
        if (!is_plain(&plain[i], &s[i], &sample[i])) {
            rp_engine_sense_any(e, (uint16_t)i, &sample[i]);
            others--;
        }
    }
}

rp_status rp_engine_sense_any(rp_engine *e, uint16_t sensor, const rp_sample *sample)
{
    if (sensor >= e->sensors) {
        return RP_E_INDEX;
    }
    const rp_image_sensor *s = &e->sensor[sensor];
    rp_quality quality = sample->quality;
    if (rp_usable(quality)) {
        const int32_t raw = sample->raw;
        e->raw[sensor] = raw;
        e->value[(uint32_t)e->sensor_slot + sensor] = (float)raw;
        if (raw < s->vet.low || raw > s->vet.high) {
            quality = RP_OUT_OF_RANGE;
        }
    } else if (quality >= RP_QUALITIES) {
        quality = RP_MISSING;
    }
    if (s->vetted) {
        uint32_t k = 0;
        for (uint32_t i = 0; i < sensor; i++) {
            k += e->sensor[i].vetted;
        }
        e->vet[k].sample = *sample;
    } else {
        judge(e, sensor, quality);
    }
    return RP_OK;
}
