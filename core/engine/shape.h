/* Inside the engine: from what the owners ask to what is written; and reading a reference. */
#ifndef RIGPULSE_ENGINE_SHAPE_H
#define RIGPULSE_ENGINE_SHAPE_H

#include "rigpulse/engine.h"

static inline rp_reading read_ref(const rp_engine *e, uint16_t at)
{
    if (at & RP_REF_CONSTANT) {
        const float *constant = rp_image_at(e->image, RP_SECTION_CONSTANTS);
        return rp_good(constant[at & ~RP_REF_CONSTANT]);
    }
    return rp_engine_value(e, at);
}

/* The claims of continuous drives take their values; what cannot be trusted drives nothing. */
void rp_engine_follow(rp_engine *e);

/* Each actuator's wanted value becomes its output: least power, slew, longest time, guards. */
void rp_engine_shape(rp_engine *e);

#endif
