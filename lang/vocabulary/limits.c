/* Limits of the numbers in a rig file: a word's setting has those of the block that takes it. */
#include "words.h"

#include "image/settings.h"

#include <math.h>

number_limits limits_between(double low, double high)
{
    return (number_limits){low, high, false, false, false};
}

number_limits limits_of_setting(uint8_t op, uint16_t offset)
{
    const rgp_op_setting *is = rgp_op_setting_at(op, offset);
    return (number_limits){fmax((double)is->low, -GREAT), fmin((double)is->high, GREAT), is->above, is->not_zero,
                           is->odd};
}

/* A block that reads 0 as "it is not said" leaves no 0 for a person to write. */
static number_limits without_none(number_limits limits, bool zero_is_none)
{
    limits.above |= zero_is_none;
    return limits;
}

number_limits stage_limits(const stage_word *word, const stage_setting *is)
{
    return is->shape == SETTING_VALUE ? limits_between(-GREAT, GREAT)
                                      : without_none(limits_of_setting(word->op, is->offset), is->zero_is_none);
}

number_limits detector_limits(const detector_word *word, const detector_setting *is)
{
    return limits_of_setting(word->op, is->offset);
}

/* One minus what lies between 0 and 1 does so, too. */
number_limits loop_limits(const loop_line *line, const loop_setting *is)
{
    return without_none(limits_of_setting(line->op, is->offset), is->zero_is_none);
}
