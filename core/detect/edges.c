/* The edges of a switch that its port does not tell, found in its levels. */
#include "rigpulse/detect/edges.h"

#include "rigpulse/detect/moment.h"
#include "rigpulse/numeric.h"

rgp_edges rgp_edges_find(rgp_edges_memory *memory, rgp_reading in, bool event, uint64_t now_us, float dt,
                         rgp_port_edge *room)
{
    rgp_edges found = {.now = in, .edge = room, .now_us = now_us};
    if (!rgp_usable(in.quality) || dt <= 0.0f) {
        return found;
    }
    const uint8_t is = in.value != 0.0f;
    if (event ? is : memory->known && is != memory->is) {
        const uint64_t age = event ? rgp_microseconds(rgp_moment_age(in.value)) : 0;
        *room = (rgp_port_edge){now_us > age ? now_us - age : 0, is};
        found.count = 1;
    }
    memory->known = 1;
    memory->is = is;
    return found;
}
