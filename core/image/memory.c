#include "memory.h"

#include <stddef.h>
#include <string.h>

/* The number of sensors that have a place in `field`, which is 32 bits. */
static uint32_t places(const rp_image_header *image, size_t field)
{
    const unsigned char *sensor = rp_image_at(image, RP_SECTION_SENSORS);
    uint32_t count = 0;
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_SENSORS); i++, sensor += sizeof(rp_image_sensor)) {
        uint32_t place;
        memcpy(&place, sensor + field, sizeof place);
        count += place != 0;
    }
    return count;
}

uint32_t rp_image_vetted(const rp_image_header *image)
{
    return places(image, offsetof(rp_image_sensor, vetted));
}

uint32_t rp_image_timed(const rp_image_header *image)
{
    return places(image, offsetof(rp_image_sensor, timed));
}

/* In a tick a rule takes each of its actions once, and a sequence as many steps as it has. */
uint32_t rp_image_requests(const rp_image_header *image)
{
    const rp_image_rule *rule = rp_image_at(image, RP_SECTION_RULES);
    uint32_t requests = 0;
    if (rp_image_count(image, RP_SECTION_SEQUENCES) > 0) {
        requests = 2 * rp_image_count(image, RP_SECTION_STEPS);
        for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_RULES); i++) {
            requests += rule[i].actions;
        }
    }
    return requests;
}

uint32_t rp_image_state_bytes(const rp_image_header *image)
{
    const rp_image_run *run = rp_image_at(image, RP_SECTION_RUNS);
    const uint32_t runs = rp_image_count(image, RP_SECTION_RUNS);
    return runs > 0 ? rp_image_behind_states(&run[runs - 1]) : 0;
}

static uint32_t place(uint32_t *end, uint64_t count, uint32_t size)
{
    const uint32_t at = (*end + 7u) & ~7u;
    *end = (uint32_t)(at + count * size);
    return at;
}

rp_layout rp_image_layout(const rp_image_header *image)
{
    rp_layout to;
    uint32_t end = 0;
#define RP_MEMORY(name, type, count, begin) to.offset[RP_PART_##name] = place(&end, count, sizeof(type));
#include "memory.def"
    to.size = (end + 7u) & ~7u;
    return to;
}

uint32_t rp_image_memory(const rp_image_header *image)
{
    return rp_image_layout(image).size;
}
