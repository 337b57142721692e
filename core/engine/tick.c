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

/* What one run works on. The arrays are taken out of the engine so that a store of a byte need not be
 * feared to have moved them. */
typedef struct span {
    float *value;
    rp_quality *quality;
    const float *constant;
    const uint16_t *operand;
    const unsigned char *config;
    unsigned char *state;
    uint32_t count, config_stride, state_stride;
    float dt;
} span;

static inline rp_reading slot(const span *s, uint16_t at)
{
    return (rp_reading){s->value[at], s->quality[at]};
}

static inline rp_reading ref(const span *s, uint16_t at)
{
    return at & RP_REF_CONSTANT ? rp_good(s->constant[at & ~RP_REF_CONSTANT]) : slot(s, at);
}

static inline void put(const span *s, uint16_t at, rp_reading r)
{
    s->value[at] = r.value;
    s->quality[at] = r.quality;
}

#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes)                                                \
    static void run_##NAME(span s)                                                                         \
    {                                                                                                      \
        for (; s.count; s.count--, s.operand += 2) {                                                       \
            put(&s, s.operand[1],                                                                          \
                rp_##block##_step((const void *)s.config, (void *)s.state, slot(&s, s.operand[0]), s.dt)); \
            s.config += s.config_stride;                                                                   \
            s.state += s.state_stride;                                                                     \
        }                                                                                                  \
    }
#define RP_OP_MAP(NAME, block, config_bytes)                                                          \
    static void run_##NAME(span s)                                                                    \
    {                                                                                                 \
        for (; s.count; s.count--, s.operand += 2) {                                                  \
            put(&s, s.operand[1], rp_##block##_step((const void *)s.config, slot(&s, s.operand[0]))); \
            s.config += s.config_stride;                                                              \
        }                                                                                             \
    }
#define RP_OP_JOIN(NAME, expression)                                                            \
    static void run_##NAME(span s)                                                              \
    {                                                                                           \
        for (; s.count; s.count--, s.operand += 3) {                                            \
            const rp_reading in_a = ref(&s, s.operand[0]), in_b = ref(&s, s.operand[1]);        \
            const float a = in_a.value, b = in_b.value;                                         \
            put(&s, s.operand[2], rp_number(expression, rp_worst(in_a.quality, in_b.quality))); \
        }                                                                                       \
    }
#include "ops.def"

static void (*const run_op[RP_OPS])(span) = {
#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes) run_##NAME,
#define RP_OP_MAP(NAME, block, config_bytes)                run_##NAME,
#define RP_OP_JOIN(NAME, expression)                        run_##NAME,
#include "ops.def"
};

static void compute(rp_engine *e, float dt)
{
    const rp_image_run *run = rp_image_at(e->image, RP_SECTION_RUNS);
    const unsigned char *config[2] = {rp_image_at(e->image, RP_SECTION_CONFIGS), e->live};
    span s = {.value = e->value,
              .quality = e->quality,
              .constant = rp_image_at(e->image, RP_SECTION_CONSTANTS),
              .operand = rp_image_at(e->image, RP_SECTION_OPERANDS),
              .state = e->state,
              .dt = dt};
    for (uint32_t i = rp_image_count(e->image, RP_SECTION_RUNS); i; i--, run++) {
        s.count = run->count;
        s.config = config[run->live];
        s.config_stride = run->config_stride;
        s.state_stride = run->state_stride;
        run_op[run->op](s);
        s.operand += run->count * (rp_ops[run->op].inputs + 1u);
        config[run->live] += (uint32_t)run->count * run->config_stride;
        s.state += ((uint32_t)run->count * run->state_stride + 7u) & ~7u;
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

static const rp_image_action *actions_of(const rp_engine *e, const rp_image_rule *rule)
{
    return (const rp_image_action *)rp_image_at(e->image, RP_SECTION_ACTIONS) + rule->first_action;
}

/* A computed amount that cannot be trusted fires nothing. */
static bool amounts_usable(const rp_engine *e, const rp_image_rule *rule)
{
    const rp_image_action *action = actions_of(e, rule);
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

static void fire(rp_engine *e, uint32_t index, const rp_image_rule *rule)
{
    const rp_image_action *action = actions_of(e, rule);
    uint64_t longest = 0;
    tell(e, RP_EVENT_FIRED, 0, index, 0.0f);
    for (uint32_t i = 0; i < rule->actions; i++) {
        if (action[i].kind == RP_ACTION_MARK) {
            tell(e, RP_EVENT_MARK, 0, rule->first_action + i, 0.0f);
            continue;
        }
        const uint16_t claim = action[i].claim;
        uint64_t until = UINT64_MAX;
        if (action[i].kind == RP_ACTION_TIMED) {
            const uint64_t width = microseconds(read_ref(e, action[i].duration).value);
            longest = width > longest ? width : longest;
            until = e->now_us + width;
        }
        e->claim_value[claim] = read_ref(e, action[i].value).value;
        e->claim_until[claim] = until;
        e->claim_active[claim] = 1;
    }
    rp_pulse_fire(&e->rule[index], e->now_us, longest, microseconds(read_ref(e, rule->holdoff).value));
}

static bool wants(const rp_engine *e, const rp_image_rule *rule)
{
    if (rule->trigger == RP_REF_NONE) {
        return e->ticks == 0;
    }
    const rp_reading trigger = read_ref(e, rule->trigger);
    return trigger.value != 0.0f && rp_usable(trigger.quality);
}

static void decide(rp_engine *e)
{
    const rp_image_rule *rule = rp_image_at(e->image, RP_SECTION_RULES);
    const uint32_t rules = rp_image_count(e->image, RP_SECTION_RULES);
    for (uint32_t i = 0; i < rules; i++) {
        if (!wants(e, &rule[i])) {
            continue;
        }
        const rp_pulse_phase phase = rp_pulse_at(&e->rule[i], e->now_us);
        if (phase == RP_PULSE_READY) {
            if (amounts_usable(e, &rule[i])) {
                fire(e, i, &rule[i]);
            }
        } else if (!rule[i].repeats) {
            tell(e, RP_EVENT_DROPPED, (uint8_t)phase, i, 0.0f);
        }
    }
}

static void end_claims(rp_engine *e)
{
    const uint32_t claims = rp_image_count(e->image, RP_SECTION_CLAIMS);
    for (uint32_t i = 0; i < claims; i++) {
        if (e->claim_active[i] && e->now_us >= e->claim_until[i]) {
            e->claim_active[i] = 0;
            tell(e, RP_EVENT_ENDED, 0, i, e->claim_value[i]);
        }
    }
}

static void drive(rp_engine *e)
{
    const rp_image_actuator *actuator = rp_image_at(e->image, RP_SECTION_ACTUATORS);
    const uint32_t actuators = rp_image_count(e->image, RP_SECTION_ACTUATORS);
    float *const output = e->value + rp_image_actuator_slot(e->image, 0);
    for (uint32_t i = 0; i < actuators; i++) {
        const rp_image_actuator *a = &actuator[i];
        const uint32_t owner = rp_claim_owner(e->claim_active + a->first_claim, a->claims);
        if (e->stopped || owner == a->claims) {
            e->owner[i] = e->stopped ? RP_OWNER_STOP : RP_OWNER_REST;
            output[i] = a->rest;
        } else {
            e->owner[i] = (uint16_t)(a->first_claim + owner);
            output[i] = rp_limit(e->claim_value[e->owner[i]], a->low, a->high);
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
    end_claims(e);
    if (!e->stopped) {
        decide(e);
    }
    drive(e);
    e->ticks += e->ticks < UINT32_MAX;
}

rp_status rp_engine_sense(rp_engine *e, uint16_t sensor, const rp_sample *sample)
{
    if (sensor >= rp_image_count(e->image, RP_SECTION_SENSORS)) {
        return RP_E_INDEX;
    }
    const rp_image_sensor *s = (const rp_image_sensor *)rp_image_at(e->image, RP_SECTION_SENSORS) + sensor;
    const uint32_t at = rp_image_sensor_slot(e->image, sensor);
    rp_quality quality = sample->quality < RP_QUALITIES ? sample->quality : RP_MISSING;
    if (rp_usable(quality)) {
        quality = sample->raw < s->low || sample->raw > s->high ? RP_OUT_OF_RANGE : quality;
        e->raw[sensor] = sample->raw;
        e->value[at] = (float)sample->raw;
    }
    const bool news = e->ticks > 0 ? quality != e->quality[at] : quality != RP_GOOD;
    e->quality[at] = quality;
    if (news) {
        tell(e, RP_EVENT_SENSOR, quality, sensor, e->value[at]);
    }
    return RP_OK;
}
