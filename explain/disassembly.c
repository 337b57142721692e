/* The operations of an image, decoded one by one and searched by what they write. */
#include "disassembly.h"

#include <string.h>

typedef bool wanted(const rgp_decoded *step, uint32_t key);

/* The last operation before `before` for which `want` holds. */
static bool search(const rgp_image_header *image, uint32_t before, wanted *want, uint32_t key, rgp_decoded *found)
{
    const rgp_image_run *run = rgp_image_at(image, RGP_SECTION_RUNS);
    const uint16_t *operand = rgp_image_at(image, RGP_SECTION_OPERANDS);
    const unsigned char *const config[2] = {rgp_image_at(image, RGP_SECTION_CONFIGS),
                                            rgp_image_at(image, RGP_SECTION_LIVE_CONFIGS)};
    uint32_t place = 0;
    bool any = false;
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_RUNS); i++) {
        const uint32_t inputs = rgp_ops[run[i].op].inputs;
        for (uint32_t n = 0; n < run[i].count && place < before; n++, place++, operand += rgp_op_operands(run[i].op)) {
            rgp_decoded s = {
                .place = place,
                .op = run[i].op,
                .in = {operand[0], inputs > 1 ? operand[1] : RGP_REF_NONE, inputs > 2 ? operand[2] : RGP_REF_NONE},
                .out = operand[inputs],
                .owner = rgp_op_is_owned(run[i].op) ? operand[rgp_op_operands(run[i].op) - 1] : (uint16_t)RGP_REF_NONE,
                .config = config[run[i].live] + run[i].config + n * run[i].config_stride,
                .live = run[i].live,
                .live_offset = run[i].config + n * run[i].config_stride,
                .state_offset = run[i].state + n * run[i].state_stride};
            if (want(&s, key)) {
                *found = s;
                any = true;
            }
        }
    }
    return any;
}

static bool writes(const rgp_decoded *step, uint32_t slot)
{
    return step->out == slot;
}

static bool stands_at(const rgp_decoded *step, uint32_t place)
{
    return step->place == place;
}

bool rgp_disassembly_writer(const rgp_image_header *image, uint16_t slot, uint32_t before, rgp_decoded *step)
{
    return search(image, before, writes, slot, step);
}

bool rgp_disassembly_at(const rgp_image_header *image, uint32_t place, rgp_decoded *step)
{
    return search(image, place + 1, stands_at, place, step);
}

float rgp_disassembly_setting(const rgp_image_header *image, const rgp_decoded *step, uint32_t offset,
                              const float *value, int32_t *param)
{
    float setting;
    memcpy(&setting, (const unsigned char *)step->config + offset, sizeof setting);
    *param = -1;
    const rgp_image_patch *patch = rgp_image_at(image, RGP_SECTION_PATCHES);
    for (uint32_t i = 0; step->live && i < rgp_image_count(image, RGP_SECTION_PATCHES); i++) {
        if (patch[i].live_offset == step->live_offset + offset) {
            *param = patch[i].param;
            setting = value[patch[i].param] * patch[i].scale + patch[i].offset;
        }
    }
    return setting;
}

uint32_t rgp_disassembly_limits(const rgp_image_header *image, uint16_t slot, rgp_decoded_limit *limit, uint32_t most)
{
    uint32_t count = 0;
    rgp_decoded step;
    for (uint32_t i = 0; rgp_disassembly_at(image, i, &step); i++) {
        const bool bands = step.op == RGP_OP_BANDS, compare = step.op == RGP_OP_COMPARE;
        if (step.in[0] != slot || !(bands || compare)) {
            continue;
        }
        const uint32_t borders = bands ? ((const rgp_bands_config *)step.config)->borders : 1;
        for (uint32_t k = 0; k < borders && count < most; k++) {
            const size_t offset =
                bands ? offsetof(rgp_bands_config, border) + 4 * k : offsetof(rgp_compare_config, limit);
            limit[count++] = (rgp_decoded_limit){step, (uint32_t)offset};
        }
    }
    return count;
}
