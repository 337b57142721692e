/* Settings of actions and rules as they were at a row. */
#include "history.h"

#include "explain/disassembly.h"

/* The column that it comes from, and a line where it is kept there in another unit; a constant has no column. */
typedef struct source {
    int32_t column;
    float constant;
    bool by_line;
    rgp_line_config line;
} source;

static source source_of(const rgp_history *h, uint16_t ref)
{
    const rgp_image_header *image = rgp_history_image(h);
    const float *constant = rgp_image_at(image, RGP_SECTION_CONSTANTS);
    rgp_decoded step;
    if (ref & RGP_REF_CONSTANT) {
        return (source){.column = -1, .constant = constant[ref & ~RGP_REF_CONSTANT]};
    }
    source is = {.column = rgp_history_slot(h, ref)};
    if (is.column < 0 && rgp_disassembly_writer(image, ref, UINT32_MAX, &step) && step.op == RGP_OP_LINE) {
        is = (source){rgp_history_slot(h, step.in[0]), 0.0f, true, *(const rgp_line_config *)rgp_decoded_config(&step)};
    }
    return is;
}

float rgp_history_setting(const rgp_history *h, uint16_t ref, uint64_t row)
{
    const source from = source_of(h, ref);
    const float is = from.column >= 0 ? rgp_history_value(h, (uint32_t)from.column, row) : from.constant;
    return from.by_line && from.column >= 0 ? from.line.gain * is + from.line.offset : is;
}

uint64_t rgp_history_setting_stays(const rgp_history *h, uint16_t ref, uint64_t row)
{
    const source from = source_of(h, ref);
    return from.column >= 0 ? rgp_history_stays(h, (uint32_t)from.column, row) : rgp_history_end(h);
}
