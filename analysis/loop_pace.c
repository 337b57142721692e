/* The pace of a loop. */
#include "loop_pace.h"

#include "explain/disassembly.h"
#include "rigpulse/image.h"

rgp_loop_pace rgp_loop_pace_of(const rgp_image_header *image, const char *loop)
{
    const int32_t phase = rgp_image_find(image, RGP_FIND_SLOT, loop); /* what a loop is called is its phase */
    rgp_decoded step;
    if (phase < 0 || !rgp_disassembly_writer(image, (uint16_t)phase, UINT32_MAX, &step) || step.pace == 0) {
        return (rgp_loop_pace){NULL, 0};
    }
    const rgp_image_pace *pace = (const rgp_image_pace *)rgp_image_at(image, RGP_SECTION_PACES) + step.pace - 1;
    return (rgp_loop_pace){(const uint16_t *)rgp_image_at(image, RGP_SECTION_PACE_SENSORS) + pace->first,
                           pace->sensors};
}

bool rgp_loop_steps(const rgp_history *h, const rgp_loop_pace *pace, uint64_t row)
{
    bool any = pace->sensors == 0;
    for (uint32_t i = 0; i < pace->sensors; i++) {
        any |= rgp_history_value(h, rgp_history_newness(h, pace->sensor[i]), row) != 0.0f;
    }
    return any;
}
