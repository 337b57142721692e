/* The plan of an engine's memory, worked out from memory.def. */
#include "memory.h"

#include <stddef.h>
#include <string.h>

/* The number of sensors that have a place in `field`, which is 32 bits. */
static uint32_t places(const rgp_image_header *image, size_t field)
{
    const unsigned char *sensor = rgp_image_at(image, RGP_SECTION_SENSORS);
    uint32_t count = 0;
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_SENSORS); i++, sensor += sizeof(rgp_image_sensor)) {
        uint32_t place;
        memcpy(&place, sensor + field, sizeof place);
        count += place != 0;
    }
    return count;
}

uint32_t rgp__image_supervised(const rgp_image_header *image)
{
    return places(image, offsetof(rgp_image_sensor, supervised));
}

uint32_t rgp__image_timed(const rgp_image_header *image)
{
    return places(image, offsetof(rgp_image_sensor, timed));
}

/* In a tick a rule takes each of its actions once, and a sequence as many steps as it has. */
uint32_t rgp__image_requests(const rgp_image_header *image)
{
    const rgp_image_rule *rule = rgp_image_at(image, RGP_SECTION_RULES);
    uint32_t requests = 0;
    if (rgp_image_count(image, RGP_SECTION_SEQUENCES) > 0) {
        requests = 2 * rgp_image_count(image, RGP_SECTION_STEPS);
        for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_RULES); i++) {
            requests += rule[i].actions;
        }
    }
    return requests;
}

uint32_t rgp__image_state_bytes(const rgp_image_header *image)
{
    const rgp_image_run *run = rgp_image_at(image, RGP_SECTION_RUNS);
    const uint32_t runs = rgp_image_count(image, RGP_SECTION_RUNS);
    return runs > 0 ? rgp_image_behind_states(&run[runs - 1]) : 0;
}

uint32_t rgp__image_seen(const rgp_image_header *image)
{
    const rgp_image_run *run = rgp_image_at(image, RGP_SECTION_RUNS);
    bool steady = false;
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_RUNS); i++) {
        steady |= run[i].steady;
    }
    return steady ? rgp_image_actuator_slot(image, 0) : 0;
}

uint32_t rgp__image_rule_words(const rgp_image_header *image)
{
    return rgp__image_seen(image) > 0 ? (rgp_image_count(image, RGP_SECTION_RULES) + 31u) / 32u : 0;
}

static uint32_t place(uint32_t *end, uint64_t count, uint32_t size)
{
    const uint32_t at = (*end + 7u) & ~7u;
    *end = (uint32_t)(at + count * size);
    return at;
}

rgp__layout rgp__image_layout(const rgp_image_header *image)
{
    rgp__layout to;
    uint32_t end = 0;
#define RGP__MEMORY(name, type, count, begin) to.offset[RGP__PART_##name] = place(&end, count, sizeof(type));
#include "memory.def"
    to.size = (end + 7u) & ~7u;
    return to;
}

uint32_t rgp_image_memory(const rgp_image_header *image)
{
    return rgp__image_layout(image).size;
}
