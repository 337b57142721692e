/* The check of an image's program: settings that each block holds sound, operands that are there by then. */
#include "verify.h"

#include "lanes/lanes.h"
#include "memory.h"
#include "ops.h"
#include "references.h"

#include <string.h>

/* The settings of one run: every config of the right length, sound by its own block's check. */
static rgp_status check_configs(const rgp_image_run *run, const unsigned char *settings, uint32_t room)
{
    const rgp_op *op = &rgp_ops[run->op];
    if (!op->fault) {
        return run->config_stride == 0 && run->state_stride == 0 && !run->live ? RGP_OK : RGP_E_INDEX;
    }
    if (run->config_stride < RGP_OP_HEAD || run->config_stride % 4 != 0 || room / run->config_stride < run->count) {
        return RGP_E_INDEX;
    }
    if (rgp_image_by_lanes(run) &&
        (run->count % RGP_LANES != 0 || run->count > RGP_LANES_RUN_MAX || run->config_stride > RGP_LANES_SET_MAX)) {
        return RGP_E_INDEX;
    }
    for (uint32_t i = 0; i < run->count; i++) {
        uint32_t copy[RGP_LANES_SET_MAX / 4u];
        const void *const config = rgp_op_config(run, settings, i, copy);
        if (op->config_bytes(config) != run->config_stride) {
            return RGP_E_INDEX;
        }
        if (op->fault(config)) {
            return RGP_E_CONFIG;
        }
        if ((op->state_bytes ? op->state_bytes(config) : 0) != run->state_stride) {
            return RGP_E_INDEX;
        }
    }
    return RGP_OK;
}

/* Whole numbers are those of sensors. */
static bool whole_sound(const image_view *v, const rgp_image_run *run)
{
    const uint16_t *operand = ROWS(v, OPERANDS, uint16_t) + run->operand;
    const uint32_t first = rgp_image_sensor_slot(v->image, 0);
    bool sound = rgp_op_takes_whole(run->op);
    for (uint32_t n = 0; sound && n < run->count; n++, operand += rgp_op_operands(run->op)) {
        sound = *operand >= first && (uint32_t)*operand - first < COUNT(v, SENSORS);
    }
    return sound;
}

/* Fours, of one input and one result; each of them in a row where the run says so. */
static bool lanes_sound(const image_view *v, const rgp_image_run *run)
{
    const unsigned char *config = rgp_image_at(v->image, run->live ? RGP_SECTION_LIVE_CONFIGS : RGP_SECTION_CONFIGS);
    const uint16_t *operand = ROWS(v, OPERANDS, uint16_t) + run->operand;
    bool sound = run->state_stride % 4u == 0 && run->state_stride <= RGP_LANES_STATE_MAX;
    for (uint32_t n = 0; sound && n < run->count; n++) {
        uint32_t copy[RGP_LANES_SET_MAX / 4u];
        sound = rgp_op_goes_by_lanes(run->op, rgp_op_config(run, config + run->config, n, copy));
    }
    for (uint32_t n = 1; sound && run->way == RGP_WAY_ROWS && n < run->count; n++) {
        sound = n % RGP_LANES == 0 ||
                (operand[2 * n] == operand[2 * n - 2] + 1 && operand[2 * n + 1] == operand[2 * n - 1] + 1);
    }
    return sound;
}

static bool way_sound(const image_view *v, const rgp_image_run *run)
{
    return run->way == RGP_WAY_WHOLE  ? whole_sound(v, run)
           : !rgp_image_by_lanes(run) ? run->way == RGP_WAY_PLAIN
                                      : run->way < RGP_WAYS && lanes_sound(v, run);
}

/* Nothing that takes time, and nothing that another operation writes over. `known` is STEADY of the slots that change
 * with sensors and parameters alone. */
enum { KNOWN = 1, STEADY = 2 };

static bool steady_sound(const rgp_image_run *run, const uint16_t *operand, const unsigned char *known)
{
    const rgp_op *op = &rgp_ops[run->op];
    const uint16_t to = operand[op->inputs];
    if (!run->steady) {
        return known[to] != STEADY;
    }
    bool sound = run->steady == 1 && op->pace == RGP_PACE_ALL && run->way != RGP_WAY_WHOLE;
    for (uint32_t i = 0; sound && i < op->inputs; i++) {
        sound = operand[i] & RGP_REF_CONSTANT || known[operand[i]] == STEADY;
    }
    return sound;
}

/* Runs that have paces have theirs one behind the other. */
static bool pace_sound(const image_view *v, const rgp_image_run *run, uint32_t *paced)
{
    if (run->pace == 0) {
        return true;
    }
    const uint16_t *pace = ROWS(v, PACE_STEPS, uint16_t) + *paced;
    if (rgp_ops[run->op].steps != RGP_STEPS_NEW || run->pace != *paced + 1 ||
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

rgp_status rgp__image_check_runs(image_view *v)
{
    const rgp_image_run *run = ROWS(v, RUNS, rgp_image_run);
    const unsigned char *const config[2] = {rgp_image_at(v->image, RGP_SECTION_CONFIGS),
                                            rgp_image_at(v->image, RGP_SECTION_LIVE_CONFIGS)};
    const uint32_t room[2] = {4 * COUNT(v, CONFIGS), 4 * COUNT(v, LIVE_CONFIGS)};
    const uint32_t operands = COUNT(v, OPERANDS);
    uint32_t operand = 0, used[2] = {0, 0}, state = 0, paced = 0;
    FOR_ROWS (v, RUNS, i) {
        if (run[i].op >= RGP_OPS || run[i].live > 1 || run[i].count < 1 || !pace_sound(v, &run[i], &paced)) {
            return RGP_E_INDEX;
        }
        uint32_t *const from = &used[run[i].live];
        const uint32_t needs = run[i].count * rgp_op_operands(run[i].op);
        if (run[i].operand != operand || run[i].config != *from || run[i].state != state ||
            operands - operand < needs) {
            return RGP_E_INDEX;
        }
        const rgp_status status = check_configs(&run[i], config[run[i].live] + *from, room[run[i].live] - *from);
        if (status != RGP_OK || !way_sound(v, &run[i])) {
            return status != RGP_OK ? status : RGP_E_INDEX;
        }
        operand += needs;
        *from += (uint32_t)run[i].count * run[i].config_stride;
        state = rgp_image_behind_states(&run[i]);
        if (state > RGP_IMAGE_SIZE_MAX) {
            return RGP_E_INDEX;
        }
    }
    return operand == operands && used[0] == room[0] && used[1] == room[1] && paced == COUNT(v, PACE_STEPS)
               ? RGP_OK
               : RGP_E_INDEX;
}

rgp_status rgp__image_check_patches(image_view *v)
{
    const rgp_image_patch *patch = ROWS(v, PATCHES, rgp_image_patch);
    FOR_ROWS (v, PATCHES, i) {
        rgp_op_live setting;
        if (!rgp_op_locate_live(v->image, patch[i].live_offset, &setting) ||
            !rgp_op_is_live(setting.run->op, setting.at)) {
            return RGP_E_INDEX;
        }
        if (!rgp_finite(patch[i].scale) || !rgp_finite(patch[i].offset)) {
            return RGP_E_RANGE;
        }
    }
    return RGP_OK;
}

/* The operands of one operation: each stands for something that is there by then, and its results for slots in a row.
 */
static rgp_status check_operands(const image_view *v, const rgp_image_run *run, const uint16_t *operand, uint32_t given,
                                 unsigned char *known)
{
    const rgp_op *op = &rgp_ops[run->op];
    for (uint32_t k = 0; k < op->inputs; k++) {
        const bool constant = operand[k] & RGP_REF_CONSTANT;
        if (!rgp__image_has_ref(v->image, operand[k]) || (constant && !op->refs)) {
            return RGP_E_INDEX;
        }
        if (!constant && !known[operand[k]]) {
            return RGP_E_ORDER;
        }
    }
    if (operand[op->inputs] >= v->image->slots || !steady_sound(run, operand, known)) {
        return RGP_E_INDEX;
    }
    for (uint32_t k = op->inputs; k < (uint32_t)op->inputs + op->outputs; k++) {
        const bool next = k == op->inputs || operand[k] == operand[k - 1] + 1;
        if (operand[k] < given || operand[k] >= v->image->slots || !next) {
            return RGP_E_INDEX;
        }
        known[operand[k]] = run->steady ? STEADY : KNOWN;
    }
    const uint16_t owner = op->knows ? operand[op->inputs + op->outputs] : (uint16_t)RGP_REF_NONE;
    return owner < v->image->slots || owner == RGP_REF_NONE ? RGP_OK : RGP_E_INDEX;
}

rgp_status rgp__image_check_order(image_view *v, unsigned char *known)
{
    const uint32_t given = rgp_image_state_slot(v->image, COUNT(v, STATES));
    memset(known, 0, v->image->slots);
    memset(known, KNOWN, given);
    memset(known, STEADY, rgp_image_actuator_slot(v->image, 0));
    const rgp_image_run *run = ROWS(v, RUNS, rgp_image_run);
    const uint16_t *operand = ROWS(v, OPERANDS, uint16_t);
    FOR_ROWS (v, RUNS, i) {
        for (uint32_t n = 0; n < run[i].count; n++, operand += rgp_op_operands(run[i].op)) {
            const rgp_status status = check_operands(v, &run[i], operand, given, known);
            if (status != RGP_OK) {
                return status;
            }
        }
    }
    uint32_t slot = given;
    while (slot < v->image->slots && known[slot]) {
        slot++;
    }
    return slot < v->image->slots ? RGP_E_ORDER : RGP_OK;
}
