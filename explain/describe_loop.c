/* Control loops in words. */
#include "describe.h"

#include "image/ops.h"
#include "disassembly.h"

#include <math.h>

/* The settings that every kind of loop begins with; NULL for a loop that nothing computes. */
static const rp_loop_config *config_of(const rp_image_header *image, const rp_image_loop *loop)
{
    rp_step step;
    for (uint32_t i = 0; rp_program_at(image, i, &step); i++) {
        if (step.out == loop->first && rp_ops[step.op].loop) {
            return step.config;
        }
    }
    return NULL;
}

void rp_tell_waiting(const rp_image_header *image, uint32_t loop, float error, rp_quality quality, GString *to)
{
    const rp_image_loop *l = (const rp_image_loop *)rp_image_at(image, RP_SECTION_LOOPS) + loop;
    const rp_loop_config *config = config_of(image, l);
    const char *unit = rp_image_unit(image, RP_NAME_SLOT, l->first + RP_TERM_ERROR, 0);
    if (!rp_usable(quality)) {
        g_string_append_printf(to, "waits: what it goes by is %s", rp_quality_text(quality));
    } else if (config && config->within > 0.0f && fabsf(error) > config->within) {
        g_string_append(to, "waits: ");
        rp_tell_number(fabs((double)error), unit, to);
        g_string_append(to, " off, engages within ");
        rp_tell_number((double)config->within, unit, to);
    } else if (l->only != RP_REF_NONE) {
        g_string_append(to, "waits: it is armed only while its condition is true");
    } else if (config && config->delay > 0.0f) {
        g_string_append(to, "waits: engages after ");
        rp_tell_number((double)config->delay, "s", to);
    } else {
        g_string_append(to, "waits");
    }
}
