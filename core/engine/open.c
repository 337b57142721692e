/* The loader. It trusts nothing: whatever passes here can be ticked for ever without a look aside. */
#include "rigpulse/engine.h"

#include "layout.h"
#include "ops.h"

#include <string.h>

typedef struct image_view {
    const rp_image_header *image;
    uint32_t params, sensors, actuators, constants, claims, actions;
} image_view;

static const uint32_t element_bytes[RP_SECTIONS] = {
#define RP_SECTION_BYTES(name, type) sizeof(type),
    RP_SECTION_LIST(RP_SECTION_BYTES)
#undef RP_SECTION_BYTES
};

static bool aligned(const void *p)
{
    return (uintptr_t)p % RP_IMAGE_ALIGN == 0;
}

static rp_status check_frame(const rp_image_header *image, uint32_t size)
{
    if (!image || size < sizeof *image || size > RP_IMAGE_SIZE_MAX) {
        return RP_E_SIZE;
    }
    if (!aligned(image)) {
        return RP_E_ALIGNMENT;
    }
    if (image->magic != RP_IMAGE_MAGIC || image->version != RP_IMAGE_VERSION || image->sections != RP_SECTIONS ||
        image->reserved != 0) {
        return RP_E_FORMAT;
    }
    if (image->size != size) {
        return RP_E_SIZE;
    }
    if (image->checksum != rp_image_checksum(image, size)) {
        return RP_E_DAMAGED;
    }
    for (uint32_t i = 0; i < RP_SECTIONS; i++) {
        const rp_image_section s = image->section[i];
        if (s.offset % RP_IMAGE_ALIGN != 0) {
            return RP_E_ALIGNMENT;
        }
        if (s.offset < sizeof *image || s.offset > size || s.count > (size - s.offset) / element_bytes[i] ||
            (i != RP_SECTION_TEXT && i != RP_SECTION_CONFIGS && s.count >= RP_SLOTS_MAX)) {
            return RP_E_INDEX;
        }
    }
    return image->tick_us >= 1 && image->tick_us <= 60000000u ? RP_OK : RP_E_RANGE;
}

static rp_status check_names(const rp_image_header *image)
{
    const rp_image_name *name = rp_image_at(image, RP_SECTION_NAMES);
    const char *text = rp_image_at(image, RP_SECTION_TEXT);
    const uint32_t length = rp_image_count(image, RP_SECTION_TEXT);
    if (length > 0 && text[length - 1] != '\0') {
        return RP_E_INDEX;
    }
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_NAMES); i++) {
        if (name[i].kind >= RP_NAMES || name[i].text >= length || name[i].unit >= length) {
            return RP_E_INDEX;
        }
        if (i > 0 && rp_image_name_key(&name[i]) <= rp_image_name_key(&name[i - 1])) {
            return RP_E_ORDER;
        }
    }
    return RP_OK;
}

static rp_status check_sensors_and_params(const image_view *v)
{
    const rp_image_sensor *sensor = rp_image_at(v->image, RP_SECTION_SENSORS);
    for (uint32_t i = 0; i < v->sensors; i++) {
        if (rp_vet_check(&sensor[i].vet) != RP_OK) {
            return RP_E_CONFIG;
        }
        if (sensor[i].kind > RP_SENSOR_NAMES || sensor[i].vetted > 1 || sensor[i].timed > 1 ||
            (sensor[i].timed && sensor[i].kind != RP_SENSOR_SWITCH) || !rp_finite(sensor[i].fault_after) ||
            sensor[i].fault_after < 0.0f || !rp_finite(sensor[i].again_after) || sensor[i].again_after < 0.0f) {
            return RP_E_RANGE;
        }
    }
    const rp_image_param *param = rp_image_at(v->image, RP_SECTION_PARAMS);
    for (uint32_t i = 0; i < v->params; i++) {
        const rp_image_param p = param[i];
        if (!rp_finite(p.low) || !rp_finite(p.high) || !(p.low <= p.initial && p.initial <= p.high)) {
            return RP_E_RANGE;
        }
    }
    const float *constant = rp_image_at(v->image, RP_SECTION_CONSTANTS);
    for (uint32_t i = 0; i < v->constants; i++) {
        if (!rp_finite(constant[i])) {
            return RP_E_RANGE;
        }
    }
    return RP_OK;
}

static rp_status check_actuators(const image_view *v)
{
    const rp_image_actuator *actuator = rp_image_at(v->image, RP_SECTION_ACTUATORS);
    const rp_image_claim *claim = rp_image_at(v->image, RP_SECTION_CLAIMS);
    const rp_image_action *action = rp_image_at(v->image, RP_SECTION_ACTIONS);
    const uint32_t guards = rp_image_count(v->image, RP_SECTION_GUARDS);
    const uint32_t stalls = rp_image_count(v->image, RP_SECTION_STALLS);
    uint32_t next = 0, next_guard = 0, next_stall = 0;
    for (uint32_t i = 0; i < v->actuators; i++) {
        const rp_image_actuator a = actuator[i];
        if (!rp_finite(a.low) || !rp_finite(a.high) || !(a.low <= a.rest && a.rest <= a.high) ||
            a.kind > RP_ACTUATOR_NAMES || a.inverted > 1 || !(a.least >= 0.0f && a.least <= a.high) ||
            (a.low < 0.0f && a.least > -a.low) || (a.rest != 0.0f && a.rest < a.least && a.rest > -a.least)) {
            return RP_E_RANGE;
        }
        if (a.first_claim != next || a.claims < 1 || a.claims > v->claims - next) {
            return RP_E_INDEX;
        }
        if (!rp_finite(a.slew) || a.slew < 0.0f || !(a.longest >= 0.0f && a.longest <= RP_LONGEST_MAX)) {
            return RP_E_RANGE;
        }
        if (!(a.duty >= 0.0f && a.duty < 1.0f) || !(a.window >= 0.0f && a.window <= RP_DUTY_WINDOW_MAX) ||
            (a.duty > 0.0f && !(a.window > 0.0f))) {
            return RP_E_RANGE;
        }
        if (a.first_guard != next_guard || a.guards > guards - next_guard) {
            return RP_E_INDEX;
        }
        if (a.first_stall != next_stall || a.stalls > stalls - next_stall) {
            return RP_E_INDEX;
        }
        next_guard += a.guards;
        next_stall += a.stalls;
        uint8_t above = RP_RANK_HAND;
        for (uint32_t end = next + a.claims; next < end; next++) {
            const bool timed = claim[next].rank == RP_RANK_TIMED;
            if (timed && (claim[next].action >= v->actions || action[claim[next].action].kind != RP_ACTION_TIMED)) {
                return RP_E_INDEX;
            }
            if (claim[next].actuator != i || claim[next].rank <= RP_RANK_REST || claim[next].rank > above) {
                return RP_E_INDEX;
            }
            above = claim[next].rank;
        }
        if (claim[a.first_claim].rank != RP_RANK_HAND) {
            return RP_E_INDEX;
        }
    }
    return next == v->claims && next_guard == guards && next_stall == stalls ? RP_OK : RP_E_INDEX;
}

static bool ref_exists(const image_view *v, uint16_t ref)
{
    return ref & RP_REF_CONSTANT ? (ref & ~RP_REF_CONSTANT) < v->constants : ref < v->image->slots;
}

static rp_status check_rules(const image_view *v)
{
    const rp_image_claim *claim = rp_image_at(v->image, RP_SECTION_CLAIMS);
    const rp_image_action *action = rp_image_at(v->image, RP_SECTION_ACTIONS);
    const rp_image_state *state = rp_image_at(v->image, RP_SECTION_STATES);
    for (uint32_t i = 0; i < v->actions; i++) {
        const rp_image_action a = action[i];
        if (a.kind >= RP_ACTIONS) {
            return RP_E_INDEX;
        }
        const bool timed = a.kind == RP_ACTION_TIMED, drives = rp_action_drives(a.kind);
        if (a.kind == RP_ACTION_PARAM && (a.claim >= v->params || !ref_exists(v, a.value))) {
            return RP_E_INDEX;
        }
        const bool of_sequence = a.kind == RP_ACTION_BEGIN || a.kind == RP_ACTION_FINISH;
        if ((of_sequence && a.claim >= rp_image_count(v->image, RP_SECTION_SEQUENCES)) ||
            (a.kind == RP_ACTION_STATE &&
             (a.claim >= rp_image_count(v->image, RP_SECTION_STATES) || state[a.claim].kind == RP_STATE_SEQUENCE)) ||
            ((of_sequence || a.kind == RP_ACTION_STATE) && !ref_exists(v, a.value))) {
            return RP_E_INDEX;
        }
        if (a.kind == RP_ACTION_MARK && a.value != RP_REF_NONE && !ref_exists(v, a.value)) {
            return RP_E_INDEX;
        }
        if (a.kind == RP_ACTION_RELEARN && a.value >= v->image->slots) {
            return RP_E_INDEX;
        }
        if ((drives && (a.claim >= v->claims || !ref_exists(v, a.value))) || (timed && !ref_exists(v, a.duration))) {
            return RP_E_INDEX;
        }
        if (timed && (a.times < 1 || !ref_exists(v, a.period))) {
            return RP_E_INDEX;
        }
        const bool by_sequence =
            (a.kind == RP_ACTION_SET || a.kind == RP_ACTION_STEP) && drives && claim[a.claim].rank == RP_RANK_SEQUENCE;
        if (drives && !by_sequence && claim[a.claim].rank != (timed ? RP_RANK_TIMED : RP_RANK_LATCH)) {
            return RP_E_INDEX;
        }
    }
    const rp_image_rule *rule = rp_image_at(v->image, RP_SECTION_RULES);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_RULES); i++) {
        const rp_image_rule r = rule[i];
        const bool at_start = r.trigger == RP_REF_NONE && !r.repeats;
        if (r.repeats > 1 || !(at_start || ref_exists(v, r.trigger)) || !ref_exists(v, r.holdoff) ||
            r.first_action > v->actions || r.actions > v->actions - r.first_action) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

static rp_status check_needs(const image_view *v)
{
    const rp_image_need *need = rp_image_at(v->image, RP_SECTION_NEEDS);
    const uint32_t rules = rp_image_count(v->image, RP_SECTION_RULES) + rp_image_count(v->image, RP_SECTION_DRIVES) +
                           rp_image_count(v->image, RP_SECTION_SEQUENCES);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_NEEDS); i++) {
        if (need[i].sensor >= v->sensors || need[i].rule >= rules) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

/* The settings of one run: every config of the right length, sound by its own block's check. */
static rp_status check_configs(const image_view *v, const rp_image_run *run, const unsigned char *config, uint32_t room)
{
    const rp_op *op = &rp_ops[run->op];
    const bool loops = rp_op_is_loop(run->op);
    if (!op->check) {
        return run->config_stride == 0 && run->state_stride == 0 && !run->live ? RP_OK : RP_E_INDEX;
    }
    if (run->config_stride < RP_OP_HEAD || run->config_stride % 4 != 0 || room / run->config_stride < run->count) {
        return RP_E_INDEX;
    }
    for (uint32_t i = 0; i < run->count; i++, config += run->config_stride) {
        if (op->config_bytes(config) != run->config_stride) {
            return RP_E_INDEX;
        }
        if (op->check(config) != RP_OK) {
            return RP_E_CONFIG;
        }
        if (loops &&
            ((const rp_loop_config *)(const void *)config)->link >= rp_image_count(v->image, RP_SECTION_LOOPS)) {
            return RP_E_INDEX;
        }
        if ((op->state_bytes ? op->state_bytes(config) : 0) != run->state_stride) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

static rp_status check_runs(const image_view *v)
{
    const rp_image_run *run = rp_image_at(v->image, RP_SECTION_RUNS);
    const unsigned char *const config[2] = {rp_image_at(v->image, RP_SECTION_CONFIGS),
                                            rp_image_at(v->image, RP_SECTION_LIVE_CONFIGS)};
    const uint32_t room[2] = {4 * rp_image_count(v->image, RP_SECTION_CONFIGS),
                              4 * rp_image_count(v->image, RP_SECTION_LIVE_CONFIGS)};
    const uint32_t operands = rp_image_count(v->image, RP_SECTION_OPERANDS);
    uint32_t operand = 0, used[2] = {0, 0}, state = 0;
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_RUNS); i++) {
        if (run[i].op >= RP_OPS || run[i].live > 1 || run[i].count < 1) {
            return RP_E_INDEX;
        }
        uint32_t *const from = &used[run[i].live];
        const uint32_t needs = run[i].count * rp_op_operands(run[i].op);
        if (run[i].operand != operand || run[i].config != *from || run[i].state != state ||
            operands - operand < needs) {
            return RP_E_INDEX;
        }
        const rp_status status = check_configs(v, &run[i], config[run[i].live] + *from, room[run[i].live] - *from);
        if (status != RP_OK) {
            return status;
        }
        operand += needs;
        *from += (uint32_t)run[i].count * run[i].config_stride;
        state = rp_image_behind_states(&run[i]);
        if (state > RP_IMAGE_SIZE_MAX) {
            return RP_E_INDEX;
        }
    }
    return operand == operands && used[0] == room[0] && used[1] == room[1] ? RP_OK : RP_E_INDEX;
}

static rp_status check_patches(const image_view *v)
{
    const rp_image_patch *patch = rp_image_at(v->image, RP_SECTION_PATCHES);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_PATCHES); i++) {
        uint32_t op, config;
        if (patch[i].param >= v->params || !rp_op_locate_live(v->image, patch[i].live_offset, &op, &config) ||
            !rp_op_is_live(op, patch[i].live_offset - config)) {
            return RP_E_INDEX;
        }
        if (!rp_finite(patch[i].scale) || !rp_finite(patch[i].offset)) {
            return RP_E_RANGE;
        }
    }
    return RP_OK;
}

/* Every operand stands for something that is there by then. `known` has a byte a slot, as scratch. */
static rp_status check_order(const image_view *v, unsigned char *known)
{
    const uint32_t given = v->params + v->sensors + v->actuators + rp_image_count(v->image, RP_SECTION_STATES);
    memset(known, 0, v->image->slots);
    memset(known, 1, given);
    const rp_image_run *run = rp_image_at(v->image, RP_SECTION_RUNS);
    const uint16_t *operand = rp_image_at(v->image, RP_SECTION_OPERANDS);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_RUNS); i++) {
        const rp_op *op = &rp_ops[run[i].op];
        for (uint32_t n = 0; n < run[i].count; n++, operand += rp_op_operands(run[i].op)) {
            for (uint32_t k = 0; k < op->inputs; k++) {
                const bool constant = operand[k] & RP_REF_CONSTANT;
                if (!ref_exists(v, operand[k]) || (constant && !op->refs)) {
                    return RP_E_INDEX;
                }
                if (!constant && !known[operand[k]]) {
                    return RP_E_ORDER;
                }
            }
            for (uint32_t k = op->inputs; k < rp_op_operands(run[i].op); k++) {
                const bool next = k == op->inputs || operand[k] == operand[k - 1] + 1;
                if (operand[k] < given || operand[k] >= v->image->slots || !next) {
                    return RP_E_INDEX;
                }
                known[operand[k]] = 1;
            }
        }
    }
    for (uint32_t i = 0; i < v->image->slots; i++) {
        if (!known[i]) {
            return RP_E_ORDER;
        }
    }
    return RP_OK;
}

static rp_status check_guards(const image_view *v)
{
    const rp_image_actuator *actuator = rp_image_at(v->image, RP_SECTION_ACTUATORS);
    const rp_image_guard *guard = rp_image_at(v->image, RP_SECTION_GUARDS);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_GUARDS); i++) {
        const rp_image_guard g = guard[i];
        const bool limits = g.side == RP_GUARD_ABOVE || g.side == RP_GUARD_BELOW;
        if (g.actuator >= v->actuators || g.side >= RP_GUARD_SIDES ||
            g.condition >= (g.side == RP_GUARD_WITH ? v->actuators : v->image->slots) ||
            (limits && !ref_exists(v, g.limit))) {
            return RP_E_INDEX;
        }
        const rp_image_actuator *a = &actuator[g.actuator];
        if (i < a->first_guard || i >= (uint32_t)a->first_guard + a->guards) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

static bool step_sound(const image_view *v, const rp_image_sequence *s, const rp_image_step *step)
{
    const bool no_slot = step->what == RP_REF_NONE, slot = step->what < v->image->slots;
    const bool no_value = step->value == RP_REF_NONE, value = ref_exists(v, step->value);
    const bool target = step->target < s->steps, no_target = step->target == RP_REF_NONE;
    switch (step->kind) {
    case RP_STEP_DO:
        return step->what < v->actions;
    case RP_STEP_DWELL:
        return value;
    case RP_STEP_AWAIT:
        return slot && (value || no_value) && (target || no_target);
    case RP_STEP_GO:
        return (slot || no_slot) && target;
    case RP_STEP_CYCLE:
        return (slot || no_slot) && (value || no_value) && target;
    case RP_STEP_AGAIN:
        return target;
    default:
        return step->kind == RP_STEP_END;
    }
}

/* The last step of each is an END, so that none runs on into the next. */
static rp_status check_sequences(const image_view *v)
{
    const rp_image_sequence *sequence = rp_image_at(v->image, RP_SECTION_SEQUENCES);
    const rp_image_step *step = rp_image_at(v->image, RP_SECTION_STEPS);
    const rp_image_state *state = rp_image_at(v->image, RP_SECTION_STATES);
    const uint32_t steps = rp_image_count(v->image, RP_SECTION_STEPS),
                   states = rp_image_count(v->image, RP_SECTION_STATES);
    const uint32_t sequences = rp_image_count(v->image, RP_SECTION_SEQUENCES);
    for (uint32_t i = 0; i < states; i++) {
        if (state[i].kind >= RP_STATES || (state[i].kind == RP_STATE_SEQUENCE && state[i].of >= sequences)) {
            return RP_E_INDEX;
        }
    }
    for (uint32_t i = 0; i < sequences; i++) {
        const rp_image_sequence *s = &sequence[i];
        if (s->first_step > steps || s->steps < 1 || s->steps > steps - s->first_step || s->state >= states ||
            (s->only != RP_REF_NONE && s->only >= v->image->slots) ||
            (s->ending != RP_REF_NONE && s->ending >= s->steps) ||
            step[s->first_step + s->steps - 1u].kind != RP_STEP_END) {
            return RP_E_INDEX;
        }
        for (uint32_t k = 0; k < s->steps; k++) {
            if (!step_sound(v, s, &step[s->first_step + k])) {
                return RP_E_INDEX;
            }
        }
    }
    return RP_OK;
}

static rp_status check_stalls(const image_view *v)
{
    const rp_image_actuator *actuator = rp_image_at(v->image, RP_SECTION_ACTUATORS);
    const rp_image_stall *stall = rp_image_at(v->image, RP_SECTION_STALLS);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_STALLS); i++) {
        const rp_image_stall s = stall[i];
        if (s.actuator >= v->actuators || s.value >= v->image->slots) {
            return RP_E_INDEX;
        }
        const rp_image_actuator *a = &actuator[s.actuator];
        if (i < a->first_stall || i >= (uint32_t)a->first_stall + a->stalls) {
            return RP_E_INDEX;
        }
        if (!rp_finite(s.amount) || !(s.amount > 0.0f) || !rp_finite(s.time) || !(s.time > 0.0f)) {
            return RP_E_RANGE;
        }
    }
    return RP_OK;
}

static rp_status check_stops_and_keeps(const image_view *v)
{
    const rp_image_stop *stop = rp_image_at(v->image, RP_SECTION_STOPS);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_STOPS); i++) {
        const bool releases = stop[i].release != RP_REF_NONE;
        if (stop[i].condition >= v->image->slots || (releases && stop[i].release >= v->image->slots)) {
            return RP_E_INDEX;
        }
    }
    const rp_image_keep *keep = rp_image_at(v->image, RP_SECTION_KEEPS);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_KEEPS); i++) {
        if (keep[i].slot >= v->image->slots) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

static rp_status check_drives(const image_view *v)
{
    const rp_image_claim *claim = rp_image_at(v->image, RP_SECTION_CLAIMS);
    const rp_image_drive *drive = rp_image_at(v->image, RP_SECTION_DRIVES);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_DRIVES); i++) {
        if (drive[i].claim >= v->claims || claim[drive[i].claim].rank != RP_RANK_LOOP ||
            drive[i].value >= v->image->slots || claim[drive[i].claim].actuator != drive[i].actuator ||
            (drive[i].only >= v->image->slots && drive[i].only != RP_REF_NONE)) {
            return RP_E_INDEX;
        }
    }
    const rp_image_loop *loop = rp_image_at(v->image, RP_SECTION_LOOPS);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_LOOPS); i++) {
        const rp_image_loop *l = &loop[i];
        if (l->claim >= v->claims || claim[l->claim].rank != RP_RANK_LOOP || claim[l->claim].actuator != l->actuator ||
            l->terms > RP_TERMS || (uint32_t)l->first + l->terms > v->image->slots || !ref_exists(v, l->measured) ||
            !ref_exists(v, l->setpoint) || l->trim >= v->params || l->push >= v->params || l->brought > 7u ||
            (l->only >= v->image->slots && l->only != RP_REF_NONE)) {
            return RP_E_INDEX;
        }
        for (uint32_t k = 0; k < sizeof l->gain / sizeof *l->gain; k++) {
            if (l->gain[k] >= v->params && l->gain[k] != RP_REF_NONE) {
                return RP_E_INDEX;
            }
        }
    }
    return RP_OK;
}

static rp_status check_image(const image_view *v)
{
    if (v->image->slots >= RP_SLOTS_MAX ||
        v->image->slots < v->params + v->sensors + v->actuators + rp_image_count(v->image, RP_SECTION_STATES)) {
        return RP_E_INDEX;
    }
    rp_status (*const check[])(const image_view *) = {
        check_sensors_and_params,
        check_actuators,
        check_runs,
        check_patches,
        check_rules,
        check_needs,
        check_guards,
        check_stalls,
        check_sequences,
        check_stops_and_keeps,
        check_drives,
    };
    rp_status status = check_names(v->image);
    for (uint32_t i = 0; status == RP_OK && i < sizeof check / sizeof *check; i++) {
        status = check[i](v);
    }
    return status;
}

static void look_up(rp_engine *e, const image_view *v)
{
    e->sensor = rp_image_at(v->image, RP_SECTION_SENSORS);
    e->actuator = rp_image_at(v->image, RP_SECTION_ACTUATORS);
    e->action = rp_image_at(v->image, RP_SECTION_ACTIONS);
    e->rule = rp_image_at(v->image, RP_SECTION_RULES);
    e->guard = rp_image_at(v->image, RP_SECTION_GUARDS);
    e->sequence_of = rp_image_at(v->image, RP_SECTION_SEQUENCES);
    e->step = rp_image_at(v->image, RP_SECTION_STEPS);
    e->sensors = (uint16_t)v->sensors;
    e->actuators = (uint16_t)v->actuators;
    e->rules = (uint16_t)rp_image_count(v->image, RP_SECTION_RULES);
    e->claims = (uint16_t)v->claims;
    e->sequences = (uint16_t)rp_image_count(v->image, RP_SECTION_SEQUENCES);
    e->states = (uint16_t)rp_image_count(v->image, RP_SECTION_STATES);
    e->loops = (uint16_t)rp_image_count(v->image, RP_SECTION_LOOPS);
    e->stops = (uint16_t)rp_image_count(v->image, RP_SECTION_STOPS);
    for (uint32_t i = 0; i < v->sensors; i++) {
        e->vetted = (uint16_t)(e->vetted + e->sensor[i].vetted);
        e->timed = (uint16_t)(e->timed + e->sensor[i].timed);
    }
    e->follows = (uint16_t)rp_image_count(v->image, RP_SECTION_DRIVES);
    e->arms = 0;
    for (uint32_t i = 0; i < e->follows; i++) {
        e->arms |= ((const rp_image_drive *)rp_image_at(v->image, RP_SECTION_DRIVES))[i].only != RP_REF_NONE;
    }
    e->sensor_slot = (uint16_t)v->params;
    e->actuator_slot = (uint16_t)(v->params + v->sensors);
}

static void place(rp_engine *e, unsigned char *memory, const rp_layout *at)
{
    e->claim_until = (void *)(memory + at->claim_until);
    e->claim_since = (void *)(memory + at->claim_since);
    e->pulse = (void *)(memory + at->pulse);
    e->vet = (void *)(memory + at->vet);
    e->fault_us = (void *)(memory + at->fault_us);
    e->fault = memory + at->fault;
    e->blocked = memory + at->blocked;
    e->value = (void *)(memory + at->value);
    e->sensed = e->value + e->sensor_slot;
    e->plain = memory + at->plain;
    e->sequence = (void *)(memory + at->sequence);
    e->counter = (void *)(memory + at->counter);
    e->link = (void *)(memory + at->link);
    e->state_next = (void *)(memory + at->state_next);
    e->apart = (void *)(memory + at->wanted);
    e->raw = (void *)(memory + at->raw);
    e->claim_value = (void *)(memory + at->claim_value);
    e->claim_by = (void *)(memory + at->claim_by);
    e->owner = (void *)(memory + at->owner);
    e->shaped = (void *)(memory + at->shaped);
    e->driven_us = (void *)(memory + at->driven_us);
    e->guarding = memory + at->guarding;
    e->credit = (void *)(memory + at->credit);
    e->relief = memory + at->relief;
    e->stall = (void *)(memory + at->stall);
    e->edges = (void *)(memory + at->edges);
    e->param_next = (void *)(memory + at->param_next);
    e->param_asked = memory + at->param_asked;
    e->quality = memory + at->quality;
    e->claim_active = memory + at->claim_active;
    e->live = memory + at->live;
    e->state = memory + at->state;
}

/* The live settings were sound as they lie in the image; they have to be so with the parameters in. */
static rp_status check_initial_params(rp_engine *engine)
{
    rp_status status = RP_OK;
    for (uint32_t i = 0; status == RP_OK && i < rp_image_count(engine->image, RP_SECTION_PARAMS); i++) {
        status = rp_engine_set(engine, (uint16_t)i, engine->value[i]);
    }
    return status;
}

rp_status rp_engine_open(rp_engine *engine, const void *image, uint32_t image_size, void *memory, uint32_t memory_size)
{
    rp_status status = check_frame(image, image_size);
    if (status != RP_OK) {
        return status;
    }
    const rp_image_header *header = image;
    const image_view view = {
        header,
        rp_image_count(header, RP_SECTION_PARAMS),
        rp_image_count(header, RP_SECTION_SENSORS),
        rp_image_count(header, RP_SECTION_ACTUATORS),
        rp_image_count(header, RP_SECTION_CONSTANTS),
        rp_image_count(header, RP_SECTION_CLAIMS),
        rp_image_count(header, RP_SECTION_ACTIONS),
    };
    status = check_image(&view);
    if (status != RP_OK) {
        return status;
    }
    const rp_layout layout = rp_image_layout(header);
    if (layout.size != header->memory || layout.size > memory_size || !memory) {
        return RP_E_MEMORY;
    }
    if (!aligned(memory)) {
        return RP_E_ALIGNMENT;
    }
    status = check_order(&view, (unsigned char *)memory + layout.quality);
    if (status != RP_OK) {
        return status;
    }
    memset(engine, 0, sizeof *engine);
    engine->image = header;
    look_up(engine, &view);
    place(engine, memory, &layout);
    rp_engine_reset(engine);
    return check_initial_params(engine);
}
