/* Which sensors and parameters have changed since the last tick; rules that hang on nothing else. */
#include "steady.h"

#include "begin.h"
#include "image/ops.h"

#include <string.h>

#define MARK 0x80u /* of a quality, while the engine begins: its slot is made by a steady run */

static void mark_slots(rgp_engine *e)
{
    const rgp_image_run *run = image_RUNS(e);
    const uint16_t *operand = image_OPERANDS(e);
    for (uint32_t i = 0; i < COUNT(e, RUNS); i++) {
        const rgp_op *op = &rgp_ops[run[i].op];
        for (uint32_t n = 0; n < run[i].count; n++, operand += rgp_op_operands(run[i].op)) {
            for (uint32_t k = 0; run[i].steady && k < op->outputs; k++) {
                part_quality(e)[operand[op->inputs + k]] |= MARK;
            }
        }
    }
}

/* The rules whose triggers are not made by steady runs. */
void rgp__begin_unsteady(rgp_engine *e)
{
    const rgp_image_rule *rule = image_RULES(e);
    if (rgp__image_seen(e->image) == 0) {
        return;
    }
    mark_slots(e);
    for (uint32_t i = 0; i < COUNT(e, RULES); i++) {
        const bool steady = rule[i].trigger < RGP_REF_NONE && part_quality(e)[rule[i].trigger] & MARK;
        part_unsteady(e)[i / 32u] |= (uint32_t)!steady << i % 32u;
    }
    for (uint32_t i = 0; i < e->image->slots; i++) {
        part_quality(e)[i] &= (rgp_quality)~MARK;
    }
}

void rgp__engine_look(rgp_engine *e)
{
    rgp__engine_head *const head = part_head(e);
    const uint32_t count = rgp_image_actuator_slot(e->image, 0);
    const size_t bytes = count * sizeof(float);
    head->unmoved = head->moves > 0 && memcmp(part_seen(e), e->value, bytes) == 0 &&
                    memcmp(part_seen_quality(e), e->quality, count) == 0;
    if (!head->unmoved) {
        memcpy(part_seen(e), e->value, bytes);
        memcpy(part_seen_quality(e), e->quality, count);
        head->moves = head->moves < UINT32_MAX ? head->moves + 1u : 1u;
    }
}
