/* Inside the engine: telling whoever listens. */
#ifndef RIGPULSE_ENGINE_TELL_H
#define RIGPULSE_ENGINE_TELL_H

#include "rigpulse/engine.h"

static inline void tell(rp_engine *e, uint8_t kind, uint8_t reason, uint32_t source, float value)
{
    if (e->listener) {
        const rp_event event = {kind, reason, (uint16_t)source, value};
        e->listener(e->listener_self, &event);
    }
}

#endif
