/* The tick: readings -> operations -> rules -> owners -> outputs. */
#include "rigpulse/engine.h"

#include "ops.h"

static void tell(rp_engine *e, uint8_t kind, uint8_t reason, uint32_t source, float value)
{
    if (e->listener) {
        const rp_event event = {kind, reason, (uint16_t)source, value};
        e->listener(e->listener_self, &event);
    }
}

/* What the run functions work on. They take the arrays into locals, so that a store of a byte need not be
 * feared to have moved them; and they leave the tape where the next run begins. */
typedef struct tape {
    float *value;
    rp_quality *quality;
    const float *constant;
    const uint16_t *operand;
    const unsigned char *config[2]; /* in the image, in memory */
    unsigned char *state;
    float dt;
} tape;

#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes)                                        \
    static void run_##NAME(tape *t, const rp_image_run *run)                                       \
    {                                                                                              \
        float *const value = t->value;                                                             \
        rp_quality *const quality = t->quality;                                                    \
        const uint16_t *operand = t->operand;                                                      \
        const unsigned char *config = t->config[run->live];                                        \
        unsigned char *state = t->state;                                                           \
        const uint32_t config_stride = run->config_stride, state_stride = run->state_stride;       \
        const float dt = t->dt;                                                                    \
        for (const uint16_t *const end = operand + 2u * run->count; operand < end; operand += 2) { \
            const rp_reading in = {value[operand[0]], quality[operand[0]]};                        \
            const rp_reading out = rp_##block##_step((const void *)config, (void *)state, in, dt); \
            value[operand[1]] = out.value;                                                         \
            quality[operand[1]] = out.quality;                                                     \
            config += config_stride;                                                               \
            state += state_stride;                                                                 \
        }                                                                                          \
        t->operand = operand;                                                                      \
        t->config[run->live] = config;                                                             \
        t->state += ((uint32_t)(state - t->state) + 7u) & ~7u;                                     \
    }
#define RP_OP_MAP(NAME, block, config_bytes)                                                       \
    static void run_##NAME(tape *t, const rp_image_run *run)                                       \
    {                                                                                              \
        float *const value = t->value;                                                             \
        rp_quality *const quality = t->quality;                                                    \
        const uint16_t *operand = t->operand;                                                      \
        const unsigned char *config = t->config[run->live];                                        \
        const uint32_t config_stride = run->config_stride;                                         \
        for (const uint16_t *const end = operand + 2u * run->count; operand < end; operand += 2) { \
            const rp_reading in = {value[operand[0]], quality[operand[0]]};                        \
            const rp_reading out = rp_##block##_step((const void *)config, in);                    \
            value[operand[1]] = out.value;                                                         \
            quality[operand[1]] = out.quality;                                                     \
            config += config_stride;                                                               \
        }                                                                                          \
        t->operand = operand;                                                                      \
        t->config[run->live] = config;                                                             \
    }
#define RP_OP_JOIN(NAME, expression)                                                               \
    static void run_##NAME(tape *t, const rp_image_run *run)                                       \
    {                                                                                              \
        const uint16_t *operand = t->operand;                                                      \
        for (const uint16_t *const end = operand + 3u * run->count; operand < end; operand += 3) { \
            const rp_reading in_a = ref(t, operand[0]), in_b = ref(t, operand[1]);                 \
            const float a = in_a.value, b = in_b.value;                                            \
            const rp_reading out = rp_number(expression, rp_worst(in_a.quality, in_b.quality));    \
            t->value[operand[2]] = out.value;                                                      \
            t->quality[operand[2]] = out.quality;                                                  \
        }                                                                                          \
        t->operand = operand;                                                                      \
    }

static inline rp_reading ref(const tape *t, uint16_t at)
{
    return at & RP_REF_CONSTANT ? rp_good(t->constant[at & ~RP_REF_CONSTANT])
                                : (rp_reading){t->value[at], t->quality[at]};
}

#include "ops.def"

static void (*const run_op[RP_OPS])(tape *, const rp_image_run *) = {
#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes) run_##NAME,
#define RP_OP_MAP(NAME, block, config_bytes)                run_##NAME,
#define RP_OP_JOIN(NAME, expression)                        run_##NAME,
#include "ops.def"
};

static void compute(rp_engine *e, float dt)
{
    const rp_image_run *run = rp_image_at(e->image, RP_SECTION_RUNS);
    const rp_image_run *const end = run + rp_image_count(e->image, RP_SECTION_RUNS);
    tape t = {.value = e->value,
              .quality = e->quality,
              .constant = rp_image_at(e->image, RP_SECTION_CONSTANTS),
              .operand = rp_image_at(e->image, RP_SECTION_OPERANDS),
              .config = {rp_image_at(e->image, RP_SECTION_CONFIGS), e->live},
              .state = e->state,
              .dt = dt};
    for (; run < end; run++) {
        run_op[run->op](&t, run);
    }
}

static rp_reading read_ref(const rp_engine *e, uint16_t at)
{
    if (at & RP_REF_CONSTANT) {
        const float *constant = rp_image_at(e->image, RP_SECTION_CONSTANTS);
        return rp_good(constant[at & ~RP_REF_CONSTANT]);
    }
    return rp_engine_value(e, at);
}

/* Whole seconds and the rest apart, so that a long time loses nothing below the float's own step. */
static uint64_t microseconds(float seconds)
{
    const float s = rp_limit(seconds, 0.0f, 1e9f);
    const uint32_t whole = (uint32_t)s;
    return (uint64_t)whole * 1000000u + (uint32_t)((s - (float)whole) * 1e6f + 0.5f);
}

/* A computed amount that cannot be trusted fires nothing. */
static bool amounts_usable(const rp_engine *e, const rp_image_rule *rule)
{
    const rp_image_action *action = e->action + rule->first_action;
    for (uint32_t i = 0; i < rule->actions; i++) {
        if (action[i].kind != RP_ACTION_MARK && !rp_usable(read_ref(e, action[i].value).quality)) {
            return false;
        }
        if (action[i].kind == RP_ACTION_TIMED && !rp_usable(read_ref(e, action[i].duration).quality)) {
            return false;
        }
    }
    return rp_usable(read_ref(e, rule->holdoff).quality);
}

static void claim(rp_engine *e, uint16_t claim, float value, uint64_t until)
{
    e->claim_value[claim] = value;
    e->claim_until[claim] = until;
    e->claim_active[claim] = 1;
    if (until < e->next_end_us) {
        e->next_end_us = until;
    }
}

static void fire(rp_engine *e, uint32_t index, const rp_image_rule *rule)
{
    const rp_image_action *action = e->action + rule->first_action;
    uint64_t longest = 0;
    tell(e, RP_EVENT_FIRED, 0, index, 0.0f);
    for (uint32_t i = 0; i < rule->actions; i++) {
        if (action[i].kind == RP_ACTION_MARK) {
            tell(e, RP_EVENT_MARK, 0, rule->first_action + i, 0.0f);
            continue;
        }
        uint64_t until = UINT64_MAX;
        if (action[i].kind == RP_ACTION_TIMED) {
            const uint64_t width = microseconds(read_ref(e, action[i].duration).value);
            longest = width > longest ? width : longest;
            until = e->now_us + width;
        }
        claim(e, action[i].claim, read_ref(e, action[i].value).value, until);
    }
    rp_pulse_fire(&e->pulse[index], e->now_us, longest, microseconds(read_ref(e, rule->holdoff).value));
}

static void consider(rp_engine *e, uint32_t index, const rp_image_rule *rule)
{
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
    for (uint32_t i = 0; i < e->rules; i++, rule++) {
        const uint32_t slot = rule->trigger;
        if (slot < RP_REF_NONE) {
            if (value[slot] != 0.0f && rp_usable(e->quality[slot])) {
                consider(e, i, rule);
            }
        } else if (slot == RP_REF_NONE ? e->ticks == 0 : read_ref(e, rule->trigger).value != 0.0f) {
            consider(e, i, rule);
        }
    }
}

static void end_claims(rp_engine *e)
{
    e->next_end_us = UINT64_MAX;
    for (uint32_t i = 0; i < e->claims; i++) {
        if (!e->claim_active[i]) {
            continue;
        }
        if (e->now_us >= e->claim_until[i]) {
            e->claim_active[i] = 0;
            tell(e, RP_EVENT_ENDED, 0, i, e->claim_value[i]);
        } else if (e->claim_until[i] < e->next_end_us) {
            e->next_end_us = e->claim_until[i];
        }
    }
}

static void drive(rp_engine *e)
{
    const rp_image_actuator *a = e->actuator, *const end = a + e->actuators;
    const uint8_t *const active = e->claim_active;
    float *output = e->value + e->actuator_slot;
    uint16_t *owner = e->owner;
    for (; a < end; a++, output++, owner++) {
        const uint32_t claims = e->stopped ? 0 : a->claims;
        const uint32_t i = rp_claim_owner(active + a->first_claim, claims);
        if (i == claims) {
            *owner = e->stopped ? RP_OWNER_STOP : RP_OWNER_REST;
            *output = a->rest;
        } else {
            *owner = (uint16_t)(a->first_claim + i);
            *output = rp_limit(e->claim_value[*owner], a->low, a->high);
        }
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
    compute(e, (float)passed * 1e-6f);
    if (e->now_us >= e->next_end_us) {
        end_claims(e);
    }
    if (!e->stopped) {
        decide(e);
    }
    drive(e);
    e->ticks += e->ticks < UINT32_MAX;
}

rp_status rp_engine_sense(rp_engine *e, uint16_t sensor, const rp_sample *sample)
{
    if (sensor >= e->sensors) {
        return RP_E_INDEX;
    }
    const uint32_t at = (uint32_t)e->sensor_slot + sensor;
    const rp_quality before = e->quality[at];
    rp_quality quality = sample->quality;
    if (rp_usable(quality)) {
        const rp_image_sensor *s = &e->sensor[sensor];
        const int32_t raw = sample->raw;
        e->raw[sensor] = raw;
        e->value[at] = (float)raw;
        if (raw < s->low || raw > s->high) {
            quality = RP_OUT_OF_RANGE;
        }
    } else if (quality >= RP_QUALITIES) {
        quality = RP_MISSING;
    }
    if (quality != before) {
        e->quality[at] = quality;
        if (e->ticks > 0 || quality != RP_GOOD) {
            tell(e, RP_EVENT_SENSOR, quality, sensor, e->value[at]);
        }
    }
    return RP_OK;
}
