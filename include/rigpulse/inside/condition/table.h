/* The inside of rigpulse/condition/table.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_CONDITION_TABLE_H
#define RIGPULSE_INSIDE_CONDITION_TABLE_H

#include "rigpulse/condition/table.h"
#include "rigpulse/numeric.h"

RGP_DECLARATIONS_BEGIN

/* On the line from one point to the next. */
static inline float rgp__table_between(float from_in, float from_out, float to_in, float to_out, float x)
{
    const float slope = (to_out - from_out) / (to_in - from_in);
    return from_out + (x - from_in) * slope;
}

/* The part of rgp_table_step() for the outermost points and beyond where the table is not clamped. */
rgp_reading rgp_table_beyond(const rgp_table_config *config, rgp_reading in);

static inline rgp_reading rgp_table_step(const rgp_table_config *config, rgp_reading in)
{
    const rgp_table_point *p = config->point;
    const rgp_table_point *const last = p + config->count - 1;
    if (!(in.value > p->in && in.value < last->in)) {
        return config->beyond == RGP_TABLE_CLAMPED
                   ? rgp_reading_of(in.value >= last->in ? last->out : p->out, in.quality)
                   : rgp_table_beyond(config, in);
    }
    do { /* ends at the last point at the latest */
        p++;
    } while (in.value >= p->in);
    return rgp_reading_of(rgp__table_between(p[-1].in, p[-1].out, p->in, p->out, in.value), in.quality);
}

RGP_DECLARATIONS_END

#endif
