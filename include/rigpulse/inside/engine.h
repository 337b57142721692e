/* The inside of rigpulse/engine.h: what its inline functions do. */
#ifndef RIGPULSE_INSIDE_ENGINE_H
#define RIGPULSE_INSIDE_ENGINE_H

#include "rigpulse/engine.h"

RGP_DECLARATIONS_BEGIN

static inline rgp_reading rgp_engine_value(const rgp_engine *engine, uint32_t slot)
{
    return rgp_reading_of(engine->value[slot], engine->quality[slot]);
}

RGP_DECLARATIONS_END

#endif
