/* The operations of an image, decoded one by one and searched by what they write. */
#include "disassembly.h"

#include <string.h>

rgp_steps rgp_steps_of(const rgp_image_header *image)
{
    return (rgp_steps){.image = image, .operand = rgp_image_at(image, RGP_SECTION_OPERANDS)};
}

/* Of the first operation of a run. */
static const unsigned char *settings_of(const rgp_image_header *image, const rgp_image_run *run)
{
    const unsigned char *all = rgp_image_at(image, run->live ? RGP_SECTION_LIVE_CONFIGS : RGP_SECTION_CONFIGS);
    return all + run->config;
}

bool rgp_steps_next(rgp_steps *all, rgp_decoded *step)
{
    const rgp_image_run *run = (const rgp_image_run *)rgp_image_at(all->image, RGP_SECTION_RUNS) + all->run;
    if (all->run == rgp_image_count(all->image, RGP_SECTION_RUNS)) {
        return false;
    }
    const uint32_t inputs = rgp_ops[run->op].inputs, operands = rgp_op_operands(run->op), n = all->in_run;
    const uint16_t *operand = all->operand;
    *step = (rgp_decoded){
        .place = all->place++,
        .op = run->op,
        .in = {operand[0], inputs > 1 ? operand[1] : RGP_REF_NONE, inputs > 2 ? operand[2] : RGP_REF_NONE},
        .out = operand[inputs],
        .owner = rgp_op_is_owned(run->op) ? operand[operands - 1] : (uint16_t)RGP_REF_NONE,
        .pace = run->pace ? ((const uint16_t *)rgp_image_at(all->image, RGP_SECTION_PACE_STEPS))[run->pace - 1 + n] : 0,
        .run = run,
        .n = n,
        .state_offset = run->state + n * run->state_stride};
    const void *const config = rgp_op_config(run, settings_of(all->image, run), n, step->copy);
    step->config = config == step->copy ? NULL : config;
    all->operand += operands;
    if (++all->in_run == run->count) {
        all->in_run = 0;
        all->run++;
    }
    return true;
}

bool rgp_disassembly_writer(const rgp_image_header *image, uint16_t slot, uint32_t before, rgp_decoded *step)
{
    rgp_decoded one;
    bool any = false;
    for (rgp_steps all = rgp_steps_of(image); rgp_steps_next(&all, &one) && one.place < before;) {
        if (one.out == slot) {
            *step = one;
            any = true;
        }
    }
    return any;
}

float rgp_disassembly_setting(const rgp_image_header *image, const rgp_decoded *step, uint32_t offset,
                              const float *value, int32_t *param)
{
    const uint32_t place = rgp_op_setting_place(step->run, step->n, offset);
    float setting;
    memcpy(&setting, settings_of(image, step->run) + place, sizeof setting);
    *param = -1;
    const rgp_image_patch *patch = rgp_image_at(image, RGP_SECTION_PATCHES);
    for (uint32_t i = 0; step->run->live && i < rgp_image_count(image, RGP_SECTION_PATCHES); i++) {
        if (patch[i].live_offset == step->run->config + place) {
            *param = patch[i].param;
            setting = value[patch[i].param] * patch[i].scale + patch[i].offset;
        }
    }
    return setting;
}

float rgp_disassembly_scale(const rgp_image_header *image, const rgp_decoded *step, uint16_t param)
{
    const rgp_image_patch *patch = rgp_image_at(image, RGP_SECTION_PATCHES);
    rgp_op_live of;
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_PATCHES); i++) {
        if (patch[i].param == param && rgp_op_locate_live(image, patch[i].live_offset, &of) && of.run == step->run &&
            of.n == step->n) {
            return patch[i].scale;
        }
    }
    return 1.0f;
}

uint32_t rgp_disassembly_limits(const rgp_image_header *image, uint16_t slot, rgp_decoded_limit *limit, uint32_t most)
{
    uint32_t count = 0;
    rgp_decoded step;
    for (rgp_steps all = rgp_steps_of(image); rgp_steps_next(&all, &step);) {
        const bool bands = step.op == RGP_OP_BANDS, compare = step.op == RGP_OP_COMPARE;
        if (step.in[0] != slot || !(bands || compare)) {
            continue;
        }
        const uint32_t borders = bands ? ((const rgp_bands_config *)rgp_decoded_config(&step))->borders : 1;
        for (uint32_t k = 0; k < borders && count < most; k++) {
            const size_t offset =
                bands ? offsetof(rgp_bands_config, border) + 4 * k : offsetof(rgp_compare_config, limit);
            limit[count++] = (rgp_decoded_limit){step, (uint32_t)offset};
        }
    }
    return count;
}
