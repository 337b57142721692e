#include "rigpulse/detect/edges.h"

#include "rigpulse/detect/moment.h"
#include "rigpulse/numeric.h"

rp_edges rp_edges_find(rp_edges_memory *memory, rp_reading in, bool event, uint64_t now_us, float dt,
                       rp_port_edge *room)
{
    rp_edges found = {.now = in, .edge = room, .now_us = now_us};
    if (!rp_usable(in.quality) || dt <= 0.0f) {
        return found;
    }
    const uint8_t is = in.value != 0.0f;
    if (event ? is : memory->known && is != memory->is) {
        const uint64_t age = event ? rp_microseconds(rp_moment_age(in.value)) : 0;
        *room = (rp_port_edge){now_us > age ? now_us - age : 0, is};
        found.count = 1;
    }
    memory->known = 1;
    memory->is = is;
    return found;
}
