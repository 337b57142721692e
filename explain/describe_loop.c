/* Control loops in words. */
#include "describe.h"

#include "image/ops.h"
#include "disassembly.h"

#include <math.h>

/* The settings that every kind of loop begins with; NULL for a loop that nothing computes. */
static const rgp_loop_config *config_of(const rgp_image_header *image, const rgp_image_loop *loop)
{
    rgp_decoded step;
    for (rgp_steps all = rgp_steps_of(image); rgp_steps_next(&all, &step);) {
        if (step.out == loop->first && rgp_ops[step.op].loop) {
            return step.config;
        }
    }
    return NULL;
}

void rgp_describe_waiting(const rgp_image_header *image, uint32_t loop, float error, rgp_quality quality, GString *to)
{
    const rgp_image_loop *l = (const rgp_image_loop *)rgp_image_at(image, RGP_SECTION_LOOPS) + loop;
    const rgp_loop_config *config = config_of(image, l);
    const char *unit = rgp_image_unit(image, RGP_NAME_SLOT, l->first + RGP_TERM_ERROR, 0);
    if (!rgp_usable(quality)) {
        g_string_append_printf(to, "waits: what it goes by is %s", rgp_quality_text(quality));
    } else if (config && config->within > 0.0f && fabsf(error) > config->within) {
        g_string_append(to, "waits: ");
        rgp_describe_number(fabs((double)error), unit, to);
        g_string_append(to, " off, engages within ");
        rgp_describe_number((double)config->within, unit, to);
    } else if (l->condition != RGP_REF_NONE) {
        g_string_append(to, "waits: it is armed only while its condition is true");
    } else if (config && config->delay > 0.0f) {
        g_string_append(to, "waits: engages after ");
        rgp_describe_number((double)config->delay, "s", to);
    } else {
        g_string_append(to, "waits");
    }
}
