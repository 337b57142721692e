/* The loader's check of an image. It trusts nothing: whatever passes here can be ticked for ever without a look aside.
 * References are checked first (references.c), so that what follows may go by them. */
#include "memory.h"
#include "ops.h"
#include "references.h"

#include <string.h>

/* The image, and the section and row that the check has come to: an error carries them. */
typedef struct image_view {
    const rp_image_header *image;
    rp_image_fault at;
} image_view;

#define ROWS(view, NAME, type) ((const type *)rp_image_at((view)->image, RP_SECTION_##NAME))
#define COUNT(view, NAME)      rp_image_count((view)->image, RP_SECTION_##NAME)

/* Each row of a section by itself. */
#define FOR_ROWS(view, NAME, i)                          \
    (view)->at = (rp_image_fault){RP_SECTION_##NAME, 0}; \
    for (uint32_t i = 0; i < COUNT(view, NAME); i++, (view)->at.row = i)

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

static rp_status check_names(image_view *v)
{
    const rp_image_name *name = ROWS(v, NAMES, rp_image_name);
    const char *text = ROWS(v, TEXT, char);
    const uint32_t length = COUNT(v, TEXT);
    v->at = (rp_image_fault){RP_SECTION_TEXT, length};
    if (length > 0 && text[length - 1] != '\0') {
        return RP_E_INDEX;
    }
    FOR_ROWS (v, NAMES, i) {
        if (name[i].text >= length || name[i].unit >= length) {
            return RP_E_INDEX;
        }
        if (i > 0 && rp_image_name_key(&name[i]) <= rp_image_name_key(&name[i - 1])) {
            return RP_E_ORDER;
        }
    }
    return RP_OK;
}

static bool is_time(float seconds)
{
    return rp_finite(seconds) && seconds >= 0.0f;
}

/* Vetted and timed ones have their places in the order of the sensors. */
static rp_status check_sensors(image_view *v)
{
    const rp_image_sensor *sensor = ROWS(v, SENSORS, rp_image_sensor);
    uint32_t vetted = 0, timed = 0;
    FOR_ROWS (v, SENSORS, i) {
        const rp_image_sensor *s = &sensor[i];
        if (rp_vet_check(&s->vet) != RP_OK) {
            return RP_E_CONFIG;
        }
        if (s->kind > RP_SENSOR_NAMES || (s->timed && s->kind != RP_SENSOR_SWITCH) || !is_time(s->fault_after) ||
            !is_time(s->again_after)) {
            return RP_E_RANGE;
        }
        vetted += s->vetted != 0;
        timed += s->timed != 0;
        if ((s->vetted && s->vetted != vetted) || (s->timed && s->timed != timed)) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

static rp_status check_params(image_view *v)
{
    const rp_image_param *param = ROWS(v, PARAMS, rp_image_param);
    FOR_ROWS (v, PARAMS, i) {
        const rp_image_param p = param[i];
        if (!rp_finite(p.low) || !rp_finite(p.high) || !(p.low <= p.initial && p.initial <= p.high)) {
            return RP_E_RANGE;
        }
    }
    const float *constant = ROWS(v, CONSTANTS, float);
    FOR_ROWS (v, CONSTANTS, i) {
        if (!rp_finite(constant[i])) {
            return RP_E_RANGE;
        }
    }
    return RP_OK;
}

static bool travel_sound(const rp_image_actuator *a)
{
    return rp_finite(a->low) && rp_finite(a->high) && a->low <= a->rest && a->rest <= a->high &&
           a->kind <= RP_ACTUATOR_NAMES && a->inverted <= 1;
}

static bool least_sound(const rp_image_actuator *a)
{
    return a->least >= 0.0f && a->least <= a->high && !(a->low < 0.0f && a->least > -a->low) &&
           !(a->rest != 0.0f && a->rest < a->least && a->rest > -a->least);
}

static bool times_sound(const rp_image_actuator *a)
{
    return is_time(a->slew) && a->longest >= 0.0f && a->longest <= RP_LONGEST_MAX && a->duty >= 0.0f &&
           a->duty < 1.0f && a->window >= 0.0f && a->window <= RP_DUTY_WINDOW_MAX &&
           !(a->duty > 0.0f && !(a->window > 0.0f));
}

/* Rows that belong to actuators stand in the order of these, none left out and none twice. */
typedef struct next_rows {
    uint32_t claim, guard, stall;
} next_rows;

static bool rows_follow(const image_view *v, const rp_image_actuator *a, next_rows *next)
{
    if (a->first_claim != next->claim || a->claims < 1 || a->claims > COUNT(v, CLAIMS) - next->claim ||
        a->first_guard != next->guard || a->guards > COUNT(v, GUARDS) - next->guard || a->first_stall != next->stall ||
        a->stalls > COUNT(v, STALLS) - next->stall) {
        return false;
    }
    next->claim += a->claims;
    next->guard += a->guards;
    next->stall += a->stalls;
    return true;
}

/* In falling rank, the hand's first. */
static bool claims_sound(const image_view *v, const rp_image_actuator *a, uint32_t actuator)
{
    const rp_image_claim *claim = ROWS(v, CLAIMS, rp_image_claim) + a->first_claim;
    const rp_image_action *action = ROWS(v, ACTIONS, rp_image_action);
    bool sound = claim->rank == RP_RANK_HAND;
    for (uint32_t i = 0; i < a->claims; i++) {
        const bool timed = claim[i].rank == RP_RANK_TIMED;
        sound &= claim[i].actuator == actuator && claim[i].rank > RP_RANK_REST && claim[i].rank <= RP_RANK_HAND &&
                 (i == 0 || claim[i].rank <= claim[i - 1].rank);
        sound &= !timed || (claim[i].action < COUNT(v, ACTIONS) && action[claim[i].action].kind == RP_ACTION_TIMED);
    }
    return sound;
}

static rp_status check_actuators(image_view *v)
{
    const rp_image_actuator *actuator = ROWS(v, ACTUATORS, rp_image_actuator);
    next_rows next = {0, 0, 0};
    FOR_ROWS (v, ACTUATORS, i) {
        const rp_image_actuator *a = &actuator[i];
        if (!travel_sound(a) || !least_sound(a) || !times_sound(a)) {
            return RP_E_RANGE;
        }
        if (!rows_follow(v, a, &next) || !claims_sound(v, a, i)) {
            return RP_E_INDEX;
        }
    }
    const bool all = next.claim == COUNT(v, CLAIMS) && next.guard == COUNT(v, GUARDS) && next.stall == COUNT(v, STALLS);
    return all ? RP_OK : RP_E_INDEX;
}

/* An action drives by a claim of the rank that goes with it. */
static bool rank_fits(const image_view *v, const rp_image_action *a)
{
    const uint8_t rank = ROWS(v, CLAIMS, rp_image_claim)[a->claim].rank;
    const bool steps = a->kind == RP_ACTION_SET || a->kind == RP_ACTION_STEP;
    return rank == (a->kind == RP_ACTION_TIMED ? RP_RANK_TIMED : RP_RANK_LATCH) || (steps && rank == RP_RANK_SEQUENCE);
}

static rp_status check_actions(image_view *v)
{
    const rp_image_action *action = ROWS(v, ACTIONS, rp_image_action);
    const rp_image_state *state = ROWS(v, STATES, rp_image_state);
    FOR_ROWS (v, ACTIONS, i) {
        const rp_image_action *a = &action[i];
        if ((a->kind == RP_ACTION_STATE && state[a->claim].kind == RP_STATE_SEQUENCE) ||
            (a->kind == RP_ACTION_TIMED && a->times < 1) || (rp_action_drives(a->kind) && !rank_fits(v, a))) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

static rp_status check_rules(image_view *v)
{
    const rp_image_rule *rule = ROWS(v, RULES, rp_image_rule);
    FOR_ROWS (v, RULES, i) {
        const rp_image_rule *r = &rule[i];
        if (r->repeats > 1 || (r->trigger == RP_REF_NONE && r->repeats) || r->first_action > COUNT(v, ACTIONS) ||
            r->actions > COUNT(v, ACTIONS) - r->first_action) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

static rp_status check_paces(image_view *v)
{
    const rp_image_pace *pace = ROWS(v, PACES, rp_image_pace);
    FOR_ROWS (v, PACES, i) {
        if (pace[i].sensors < 1 || pace[i].first > COUNT(v, PACE_SENSORS) ||
            pace[i].sensors > COUNT(v, PACE_SENSORS) - pace[i].first) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

/* The settings of one run: every config of the right length, sound by its own block's check. */
static rp_status check_configs(const rp_image_run *run, const unsigned char *config, uint32_t room)
{
    const rp_op *op = &rp_ops[run->op];
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
        if ((op->state_bytes ? op->state_bytes(config) : 0) != run->state_stride) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

/* Whole numbers are those of sensors. */
static bool whole_sound(const image_view *v, const rp_image_run *run)
{
    const uint16_t *operand = ROWS(v, OPERANDS, uint16_t) + run->operand;
    const uint32_t first = rp_image_sensor_slot(v->image, 0);
    bool sound = run->whole <= 1 && (!run->whole || rp_op_takes_whole(run->op));
    for (uint32_t n = 0; sound && run->whole && n < run->count; n++, operand += rp_op_operands(run->op)) {
        sound = *operand >= first && (uint32_t)*operand - first < COUNT(v, SENSORS);
    }
    return sound;
}

/* Runs that have paces have theirs one behind the other. */
static bool pace_sound(const image_view *v, const rp_image_run *run, uint32_t *paced)
{
    if (run->pace == 0) {
        return true;
    }
    const uint16_t *pace = ROWS(v, PACE_STEPS, uint16_t) + *paced;
    if (rp_ops[run->op].steps != RP_STEPS_NEW || run->pace != *paced + 1 ||
        run->count > COUNT(v, PACE_STEPS) - *paced) {
        return false;
    }
    *paced += run->count;
    uint32_t i = 0;
    while (i < run->count && pace[i] <= COUNT(v, PACES)) {
        i++;
    }
    return i == run->count;
}

static rp_status check_runs(image_view *v)
{
    const rp_image_run *run = ROWS(v, RUNS, rp_image_run);
    const unsigned char *const config[2] = {rp_image_at(v->image, RP_SECTION_CONFIGS),
                                            rp_image_at(v->image, RP_SECTION_LIVE_CONFIGS)};
    const uint32_t room[2] = {4 * COUNT(v, CONFIGS), 4 * COUNT(v, LIVE_CONFIGS)};
    const uint32_t operands = COUNT(v, OPERANDS);
    uint32_t operand = 0, used[2] = {0, 0}, state = 0, paced = 0;
    FOR_ROWS (v, RUNS, i) {
        if (run[i].op >= RP_OPS || run[i].live > 1 || run[i].count < 1 || !pace_sound(v, &run[i], &paced)) {
            return RP_E_INDEX;
        }
        uint32_t *const from = &used[run[i].live];
        const uint32_t needs = run[i].count * rp_op_operands(run[i].op);
        if (run[i].operand != operand || run[i].config != *from || run[i].state != state ||
            operands - operand < needs || !whole_sound(v, &run[i])) {
            return RP_E_INDEX;
        }
        const rp_status status = check_configs(&run[i], config[run[i].live] + *from, room[run[i].live] - *from);
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
    return operand == operands && used[0] == room[0] && used[1] == room[1] && paced == COUNT(v, PACE_STEPS)
               ? RP_OK
               : RP_E_INDEX;
}

static rp_status check_patches(image_view *v)
{
    const rp_image_patch *patch = ROWS(v, PATCHES, rp_image_patch);
    FOR_ROWS (v, PATCHES, i) {
        uint32_t op, config;
        if (!rp_op_locate_live(v->image, patch[i].live_offset, &op, &config) ||
            !rp_op_is_live(op, patch[i].live_offset - config)) {
            return RP_E_INDEX;
        }
        if (!rp_finite(patch[i].scale) || !rp_finite(patch[i].offset)) {
            return RP_E_RANGE;
        }
    }
    return RP_OK;
}

static rp_status check_guards(image_view *v)
{
    const rp_image_actuator *actuator = ROWS(v, ACTUATORS, rp_image_actuator);
    const rp_image_guard *guard = ROWS(v, GUARDS, rp_image_guard);
    FOR_ROWS (v, GUARDS, i) {
        const rp_image_actuator *a = &actuator[guard[i].actuator];
        if (i < a->first_guard || i >= (uint32_t)a->first_guard + a->guards) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

static rp_status check_stalls(image_view *v)
{
    const rp_image_actuator *actuator = ROWS(v, ACTUATORS, rp_image_actuator);
    const rp_image_stall *stall = ROWS(v, STALLS, rp_image_stall);
    FOR_ROWS (v, STALLS, i) {
        const rp_image_actuator *a = &actuator[stall[i].actuator];
        if (i < a->first_stall || i >= (uint32_t)a->first_stall + a->stalls) {
            return RP_E_INDEX;
        }
        if (!rp_finite(stall[i].amount) || !(stall[i].amount > 0.0f) || !rp_finite(stall[i].time) ||
            !(stall[i].time > 0.0f)) {
            return RP_E_RANGE;
        }
    }
    return RP_OK;
}

/* Targets count from the first step of their sequence. */
static bool target_sound(const rp_image_sequence *s, const rp_image_step *step)
{
    const bool needs = step->kind == RP_STEP_GO || step->kind == RP_STEP_CYCLE || step->kind == RP_STEP_AGAIN;
    const bool may = step->kind == RP_STEP_AWAIT && step->target != RP_REF_NONE;
    return !(needs || may) || step->target < s->steps;
}

/* The last step of each is an END, so that none runs on into the next. */
static rp_status check_sequences(image_view *v)
{
    const rp_image_sequence *sequence = ROWS(v, SEQUENCES, rp_image_sequence);
    const rp_image_step *step = ROWS(v, STEPS, rp_image_step);
    const uint32_t steps = COUNT(v, STEPS);
    FOR_ROWS (v, SEQUENCES, i) {
        const rp_image_sequence *s = &sequence[i];
        if (s->first_step > steps || s->steps < 1 || s->steps > steps - s->first_step ||
            (s->ending != RP_REF_NONE && s->ending >= s->steps) ||
            step[s->first_step + s->steps - 1u].kind != RP_STEP_END) {
            return RP_E_INDEX;
        }
        for (uint32_t k = 0; k < s->steps; k++) {
            if (!target_sound(s, &step[s->first_step + k])) {
                v->at = (rp_image_fault){RP_SECTION_STEPS, s->first_step + k};
                return RP_E_INDEX;
            }
        }
    }
    return RP_OK;
}

static bool is_loop_claim(const image_view *v, uint16_t claim, uint16_t actuator)
{
    const rp_image_claim *of = &ROWS(v, CLAIMS, rp_image_claim)[claim];
    return of->rank == RP_RANK_LOOP && of->actuator == actuator;
}

static rp_status check_drives(image_view *v)
{
    const rp_image_drive *drive = ROWS(v, DRIVES, rp_image_drive);
    FOR_ROWS (v, DRIVES, i) {
        if (!is_loop_claim(v, drive[i].claim, drive[i].actuator)) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

/* The operation whose first result is the loop's: the place of its state, and how many results it has. */
static bool loop_is_computed(const image_view *v, const rp_image_loop *loop)
{
    const rp_image_run *run = ROWS(v, RUNS, rp_image_run);
    const uint16_t *operand = ROWS(v, OPERANDS, uint16_t);
    for (uint32_t i = 0; i < COUNT(v, RUNS); i++) {
        const rp_op *op = &rp_ops[run[i].op];
        for (uint32_t n = 0; n < run[i].count; n++, operand += rp_op_operands(run[i].op)) {
            if (op->loop && operand[op->inputs] == loop->first) {
                return loop->terms == op->outputs && loop->state == run[i].state + n * run[i].state_stride;
            }
        }
    }
    return false;
}

static rp_status check_loops(image_view *v)
{
    const rp_image_loop *loop = ROWS(v, LOOPS, rp_image_loop);
    FOR_ROWS (v, LOOPS, i) {
        if (loop[i].brought > 7u || !is_loop_claim(v, loop[i].claim, loop[i].actuator) ||
            !loop_is_computed(v, &loop[i])) {
            return RP_E_INDEX;
        }
    }
    return RP_OK;
}

/* The operands of one operation: each stands for something that is there by then, and its results for slots in a row.
 */
static rp_status check_operands(const image_view *v, const rp_op *op, const uint16_t *operand, uint32_t given,
                                unsigned char *known)
{
    for (uint32_t k = 0; k < op->inputs; k++) {
        const bool constant = operand[k] & RP_REF_CONSTANT;
        if (!rp_image_has_ref(v->image, operand[k]) || (constant && !op->refs)) {
            return RP_E_INDEX;
        }
        if (!constant && !known[operand[k]]) {
            return RP_E_ORDER;
        }
    }
    for (uint32_t k = op->inputs; k < (uint32_t)op->inputs + op->outputs; k++) {
        const bool next = k == op->inputs || operand[k] == operand[k - 1] + 1;
        if (operand[k] < given || operand[k] >= v->image->slots || !next) {
            return RP_E_INDEX;
        }
        known[operand[k]] = 1;
    }
    const uint16_t owner = op->knows ? operand[op->inputs + op->outputs] : (uint16_t)RP_REF_NONE;
    return owner < v->image->slots || owner == RP_REF_NONE ? RP_OK : RP_E_INDEX;
}

/* `known` has a byte a slot, as scratch. */
static rp_status check_order(image_view *v, unsigned char *known)
{
    const uint32_t given = rp_image_state_slot(v->image, COUNT(v, STATES));
    memset(known, 0, v->image->slots);
    memset(known, 1, given);
    const rp_image_run *run = ROWS(v, RUNS, rp_image_run);
    const uint16_t *operand = ROWS(v, OPERANDS, uint16_t);
    FOR_ROWS (v, RUNS, i) {
        for (uint32_t n = 0; n < run[i].count; n++, operand += rp_op_operands(run[i].op)) {
            const rp_status status = check_operands(v, &rp_ops[run[i].op], operand, given, known);
            if (status != RP_OK) {
                return status;
            }
        }
    }
    uint32_t slot = given;
    while (slot < v->image->slots && known[slot]) {
        slot++;
    }
    return slot < v->image->slots ? RP_E_ORDER : RP_OK;
}

static rp_status check_slots(image_view *v)
{
    const uint32_t slots = v->image->slots;
    return slots < RP_SLOTS_MAX && slots >= rp_image_state_slot(v->image, COUNT(v, STATES)) ? RP_OK : RP_E_INDEX;
}

static rp_status check_references(image_view *v)
{
    return rp_image_check_references(v->image, &v->at);
}

static rp_status check_rows(image_view *v)
{
    static rp_status (*const check[])(image_view *) = {
        check_slots,  check_references, check_names,   check_sensors, check_params, check_actuators,
        check_paces,  check_runs,       check_patches, check_actions, check_rules,  check_guards,
        check_stalls, check_sequences,  check_drives,  check_loops,
    };
    rp_status status = RP_OK;
    for (uint32_t i = 0; status == RP_OK && i < sizeof check / sizeof *check; i++) {
        status = check[i](v);
    }
    return status;
}

/* The memory that is stated has to be what the sections need. */
static rp_status check_memory(const rp_image_header *image, const void *memory, uint32_t memory_size)
{
    const uint32_t size = rp_image_memory(image);
    if (size != image->memory || size > memory_size || !memory) {
        return RP_E_MEMORY;
    }
    return aligned(memory) ? RP_OK : RP_E_ALIGNMENT;
}

rp_status rp_image_verify(const void *image, uint32_t size, void *memory, uint32_t memory_size, rp_image_fault *fault)
{
    image_view v = {.image = image, .at = {RP_SECTIONS, 0}};
    rp_status status = check_frame(image, size);
    if (status == RP_OK) {
        status = check_rows(&v);
    }
    if (status == RP_OK) {
        status = check_memory(image, memory, memory_size);
        v.at = (rp_image_fault){RP_SECTIONS, 0};
    }
    if (status == RP_OK) {
        status = check_order(&v, memory);
    }
    if (fault && status != RP_OK) {
        *fault = v.at;
    }
    return status;
}
