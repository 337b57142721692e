/* The loader's check of an image. It trusts nothing: whatever passes here can be ticked for ever without a look aside.
 * References are checked first (references.c), so that what follows may go by them. */
#include "verify.h"

#include "memory.h"
#include "ops.h"
#include "references.h"

static const uint32_t element_bytes[RGP_SECTIONS] = {
#define RGP_SECTION_BYTES(name, type) sizeof(type),
    RGP_SECTION_LIST(RGP_SECTION_BYTES)
#undef RGP_SECTION_BYTES
};

static bool aligned(const void *p)
{
    return (uintptr_t)p % RGP_IMAGE_ALIGN == 0;
}

static rgp_status check_frame(const rgp_image_header *image, uint32_t size)
{
    if (!image || size < sizeof *image || size > RGP_IMAGE_SIZE_MAX) {
        return RGP_E_SIZE;
    }
    if (!aligned(image)) {
        return RGP_E_ALIGNMENT;
    }
    if (image->magic != RGP_IMAGE_MAGIC || image->version != RGP_IMAGE_VERSION || image->sections != RGP_SECTIONS ||
        image->reserved != 0) {
        return RGP_E_FORMAT;
    }
    if (image->size != size) {
        return RGP_E_SIZE;
    }
    if (image->checksum != rgp_image_checksum(image, size)) {
        return RGP_E_DAMAGED;
    }
    for (uint32_t i = 0; i < RGP_SECTIONS; i++) {
        const rgp_image_section s = image->section[i];
        if (s.offset % RGP_IMAGE_ALIGN != 0) {
            return RGP_E_ALIGNMENT;
        }
        if (s.offset < sizeof *image || s.offset > size || s.count > (size - s.offset) / element_bytes[i] ||
            (i != RGP_SECTION_TEXT && i != RGP_SECTION_CONFIGS && s.count >= RGP_SLOTS_MAX)) {
            return RGP_E_INDEX;
        }
    }
    return image->tick_us >= 1 && image->tick_us <= 60000000u ? RGP_OK : RGP_E_RANGE;
}

static rgp_status check_names(image_view *v)
{
    const rgp_image_name *name = ROWS(v, NAMES, rgp_image_name);
    const char *text = ROWS(v, TEXT, char);
    const uint32_t length = COUNT(v, TEXT);
    v->at = (rgp_image_fault){RGP_SECTION_TEXT, length};
    if (length > 0 && text[length - 1] != '\0') {
        return RGP_E_INDEX;
    }
    FOR_ROWS (v, NAMES, i) {
        if (name[i].text >= length || name[i].unit >= length) {
            return RGP_E_INDEX;
        }
        if (i > 0 && rgp_image_name_key(&name[i]) <= rgp_image_name_key(&name[i - 1])) {
            return RGP_E_ORDER;
        }
    }
    return RGP_OK;
}

static bool is_time(float seconds)
{
    return rgp_finite(seconds) && seconds >= 0.0f;
}

/* Vetted and timed ones have their places in the order of the sensors. */
static rgp_status check_sensors(image_view *v)
{
    const rgp_image_sensor *sensor = ROWS(v, SENSORS, rgp_image_sensor);
    uint32_t supervised = 0, timed = 0;
    FOR_ROWS (v, SENSORS, i) {
        const rgp_image_sensor *s = &sensor[i];
        if (rgp_supervision_check(&s->supervision) != RGP_OK) {
            return RGP_E_CONFIG;
        }
        if (s->kind > RGP_SENSOR_NAMES || (s->timed && s->kind != RGP_SENSOR_SWITCH) || !is_time(s->fault_after) ||
            !is_time(s->again_after)) {
            return RGP_E_RANGE;
        }
        supervised += s->supervised != 0;
        timed += s->timed != 0;
        if ((s->supervised && s->supervised != supervised) || (s->timed && s->timed != timed)) {
            return RGP_E_INDEX;
        }
    }
    return RGP_OK;
}

static rgp_status check_params(image_view *v)
{
    const rgp_image_param *param = ROWS(v, PARAMS, rgp_image_param);
    FOR_ROWS (v, PARAMS, i) {
        const rgp_image_param p = param[i];
        if (!rgp_finite(p.low) || !rgp_finite(p.high) || !(p.low <= p.initial && p.initial <= p.high)) {
            return RGP_E_RANGE;
        }
    }
    const float *constant = ROWS(v, CONSTANTS, float);
    FOR_ROWS (v, CONSTANTS, i) {
        if (!rgp_finite(constant[i])) {
            return RGP_E_RANGE;
        }
    }
    return RGP_OK;
}

static bool travel_sound(const rgp_image_actuator *a)
{
    return rgp_finite(a->low) && rgp_finite(a->high) && a->low <= a->rest && a->rest <= a->high &&
           a->kind <= RGP_ACTUATOR_NAMES && a->inverted <= 1;
}

static bool least_sound(const rgp_image_actuator *a)
{
    return a->least >= 0.0f && a->least <= a->high && !(a->low < 0.0f && a->least > -a->low) &&
           !(a->rest != 0.0f && a->rest < a->least && a->rest > -a->least);
}

static bool times_sound(const rgp_image_actuator *a)
{
    return is_time(a->slew) && a->longest >= 0.0f && a->longest <= RGP_LONGEST_MAX && a->duty >= 0.0f &&
           a->duty < 1.0f && a->window >= 0.0f && a->window <= RGP_DUTY_WINDOW_MAX &&
           !(a->duty > 0.0f && !(a->window > 0.0f));
}

/* Rows that belong to actuators stand in the order of these, none left out and none twice. */
typedef struct next_rows {
    uint32_t claim, guard, stall;
} next_rows;

static bool rows_follow(const image_view *v, const rgp_image_actuator *a, next_rows *next)
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
static bool claims_sound(const image_view *v, const rgp_image_actuator *a, uint32_t actuator)
{
    const rgp_image_claim *claim = ROWS(v, CLAIMS, rgp_image_claim) + a->first_claim;
    const rgp_image_action *action = ROWS(v, ACTIONS, rgp_image_action);
    bool sound = claim->rank == RGP_RANK_HAND;
    for (uint32_t i = 0; i < a->claims; i++) {
        const bool timed = claim[i].rank == RGP_RANK_TIMED;
        sound &= claim[i].actuator == actuator && claim[i].rank > RGP_RANK_REST && claim[i].rank <= RGP_RANK_HAND &&
                 (i == 0 || claim[i].rank <= claim[i - 1].rank);
        sound &= !timed || (claim[i].action < COUNT(v, ACTIONS) && action[claim[i].action].kind == RGP_ACTION_TIMED);
    }
    return sound;
}

static rgp_status check_actuators(image_view *v)
{
    const rgp_image_actuator *actuator = ROWS(v, ACTUATORS, rgp_image_actuator);
    next_rows next = {0, 0, 0};
    FOR_ROWS (v, ACTUATORS, i) {
        const rgp_image_actuator *a = &actuator[i];
        if (!travel_sound(a) || !least_sound(a) || !times_sound(a)) {
            return RGP_E_RANGE;
        }
        if (!rows_follow(v, a, &next) || !claims_sound(v, a, i)) {
            return RGP_E_INDEX;
        }
    }
    const bool all = next.claim == COUNT(v, CLAIMS) && next.guard == COUNT(v, GUARDS) && next.stall == COUNT(v, STALLS);
    return all ? RGP_OK : RGP_E_INDEX;
}

/* An action drives by a claim of the rank that goes with it. */
static bool rank_fits(const image_view *v, const rgp_image_action *a)
{
    const uint8_t rank = ROWS(v, CLAIMS, rgp_image_claim)[a->claim].rank;
    const bool steps = a->kind == RGP_ACTION_SET || a->kind == RGP_ACTION_STEP;
    return rank == (a->kind == RGP_ACTION_TIMED ? RGP_RANK_TIMED : RGP_RANK_LATCH) ||
           (steps && rank == RGP_RANK_SEQUENCE);
}

static rgp_status check_actions(image_view *v)
{
    const rgp_image_action *action = ROWS(v, ACTIONS, rgp_image_action);
    const rgp_image_state *state = ROWS(v, STATES, rgp_image_state);
    FOR_ROWS (v, ACTIONS, i) {
        const rgp_image_action *a = &action[i];
        if ((a->kind == RGP_ACTION_STATE && state[a->claim].kind == RGP_STATE_SEQUENCE) ||
            (a->kind == RGP_ACTION_TIMED && a->times < 1) || (rgp_action_drives(a->kind) && !rank_fits(v, a))) {
            return RGP_E_INDEX;
        }
    }
    return RGP_OK;
}

static rgp_status check_rules(image_view *v)
{
    const rgp_image_rule *rule = ROWS(v, RULES, rgp_image_rule);
    FOR_ROWS (v, RULES, i) {
        const rgp_image_rule *r = &rule[i];
        if (r->repeats > 1 || (r->trigger == RGP_REF_NONE && r->repeats) || r->first_action > COUNT(v, ACTIONS) ||
            r->actions > COUNT(v, ACTIONS) - r->first_action) {
            return RGP_E_INDEX;
        }
    }
    return RGP_OK;
}

static rgp_status check_paces(image_view *v)
{
    const rgp_image_pace *pace = ROWS(v, PACES, rgp_image_pace);
    FOR_ROWS (v, PACES, i) {
        if (pace[i].sensors < 1 || pace[i].first > COUNT(v, PACE_SENSORS) ||
            pace[i].sensors > COUNT(v, PACE_SENSORS) - pace[i].first) {
            return RGP_E_INDEX;
        }
    }
    return RGP_OK;
}

static rgp_status check_guards(image_view *v)
{
    const rgp_image_actuator *actuator = ROWS(v, ACTUATORS, rgp_image_actuator);
    const rgp_image_guard *guard = ROWS(v, GUARDS, rgp_image_guard);
    FOR_ROWS (v, GUARDS, i) {
        const rgp_image_actuator *a = &actuator[guard[i].actuator];
        if (i < a->first_guard || i >= (uint32_t)a->first_guard + a->guards) {
            return RGP_E_INDEX;
        }
    }
    return RGP_OK;
}

static rgp_status check_stalls(image_view *v)
{
    const rgp_image_actuator *actuator = ROWS(v, ACTUATORS, rgp_image_actuator);
    const rgp_image_stall *stall = ROWS(v, STALLS, rgp_image_stall);
    FOR_ROWS (v, STALLS, i) {
        const rgp_image_actuator *a = &actuator[stall[i].actuator];
        if (i < a->first_stall || i >= (uint32_t)a->first_stall + a->stalls) {
            return RGP_E_INDEX;
        }
        if (!rgp_finite(stall[i].amount) || !(stall[i].amount > 0.0f) || !rgp_finite(stall[i].time) ||
            !(stall[i].time > 0.0f)) {
            return RGP_E_RANGE;
        }
    }
    return RGP_OK;
}

/* Targets count from the first step of their sequence. */
static bool target_sound(const rgp_image_sequence *s, const rgp_image_step *step)
{
    const bool needs = step->kind == RGP_STEP_GO || step->kind == RGP_STEP_CYCLE || step->kind == RGP_STEP_AGAIN;
    const bool may = step->kind == RGP_STEP_AWAIT && step->target != RGP_REF_NONE;
    return !(needs || may) || step->target < s->steps;
}

/* The last step of each is an END, so that none runs on into the next. */
static rgp_status check_sequences(image_view *v)
{
    const rgp_image_sequence *sequence = ROWS(v, SEQUENCES, rgp_image_sequence);
    const rgp_image_step *step = ROWS(v, STEPS, rgp_image_step);
    const uint32_t steps = COUNT(v, STEPS);
    FOR_ROWS (v, SEQUENCES, i) {
        const rgp_image_sequence *s = &sequence[i];
        if (s->first_step > steps || s->steps < 1 || s->steps > steps - s->first_step ||
            (s->ending != RGP_REF_NONE && s->ending >= s->steps) ||
            step[s->first_step + s->steps - 1u].kind != RGP_STEP_END) {
            return RGP_E_INDEX;
        }
        for (uint32_t k = 0; k < s->steps; k++) {
            if (!target_sound(s, &step[s->first_step + k])) {
                v->at = (rgp_image_fault){RGP_SECTION_STEPS, s->first_step + k};
                return RGP_E_INDEX;
            }
        }
    }
    return RGP_OK;
}

static bool is_loop_claim(const image_view *v, uint16_t claim, uint16_t actuator)
{
    const rgp_image_claim *of = &ROWS(v, CLAIMS, rgp_image_claim)[claim];
    return of->rank == RGP_RANK_LOOP && of->actuator == actuator;
}

static rgp_status check_drives(image_view *v)
{
    const rgp_image_drive *drive = ROWS(v, DRIVES, rgp_image_drive);
    FOR_ROWS (v, DRIVES, i) {
        if (!is_loop_claim(v, drive[i].claim, drive[i].actuator)) {
            return RGP_E_INDEX;
        }
    }
    return RGP_OK;
}

/* The operation whose first result is the loop's: the place of its state, and how many results it has. */
static bool loop_is_computed(const image_view *v, const rgp_image_loop *loop)
{
    const rgp_image_run *run = ROWS(v, RUNS, rgp_image_run);
    const uint16_t *operand = ROWS(v, OPERANDS, uint16_t);
    for (uint32_t i = 0; i < COUNT(v, RUNS); i++) {
        const rgp_op *op = &rgp_ops[run[i].op];
        for (uint32_t n = 0; n < run[i].count; n++, operand += rgp_op_operands(run[i].op)) {
            if (op->loop && operand[op->inputs] == loop->first) {
                return loop->terms == op->outputs && loop->state == run[i].state + n * run[i].state_stride;
            }
        }
    }
    return false;
}

static rgp_status check_loops(image_view *v)
{
    const rgp_image_loop *loop = ROWS(v, LOOPS, rgp_image_loop);
    FOR_ROWS (v, LOOPS, i) {
        if (loop[i].brought > 7u || !is_loop_claim(v, loop[i].claim, loop[i].actuator) ||
            !loop_is_computed(v, &loop[i])) {
            return RGP_E_INDEX;
        }
    }
    return RGP_OK;
}

static rgp_status check_slots(image_view *v)
{
    const uint32_t slots = v->image->slots;
    return slots < RGP_SLOTS_MAX && slots >= rgp_image_state_slot(v->image, COUNT(v, STATES)) ? RGP_OK : RGP_E_INDEX;
}

static rgp_status check_references(image_view *v)
{
    return rgp__image_check_references(v->image, &v->at);
}

static rgp_status check_rows(image_view *v)
{
    static rgp_status (*const check[])(image_view *) = {
        check_slots,   check_references,      check_names,
        check_sensors, check_params,          check_actuators,
        check_paces,   rgp__image_check_runs, rgp__image_check_patches,
        check_actions, check_rules,           check_guards,
        check_stalls,  check_sequences,       check_drives,
        check_loops,
    };
    rgp_status status = RGP_OK;
    for (uint32_t i = 0; status == RGP_OK && i < sizeof check / sizeof *check; i++) {
        status = check[i](v);
    }
    return status;
}

/* The memory that is stated has to be what the sections need. */
static rgp_status check_memory(const rgp_image_header *image, const void *memory, uint32_t memory_size)
{
    const uint32_t size = rgp_image_memory(image);
    if (size != image->memory || size > memory_size || !memory) {
        return RGP_E_MEMORY;
    }
    return aligned(memory) ? RGP_OK : RGP_E_ALIGNMENT;
}

rgp_status rgp_image_verify(const void *image, uint32_t size, void *memory, uint32_t memory_size,
                            rgp_image_fault *fault)
{
    image_view v = {.image = image, .at = {RGP_SECTIONS, 0}};
    rgp_status status = check_frame(image, size);
    if (status == RGP_OK) {
        status = check_rows(&v);
    }
    if (status == RGP_OK) {
        status = check_memory(image, memory, memory_size);
        v.at = (rgp_image_fault){RGP_SECTIONS, 0};
    }
    if (status == RGP_OK) {
        status = rgp__image_check_order(&v, memory);
    }
    if (fault && status != RGP_OK) {
        *fault = v.at;
    }
    return status;
}
