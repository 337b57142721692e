/* Reading an image's own statements: checksum, memory, names. */
#include "rigpulse/engine.h"

#include "layout.h"

#include <stddef.h>

uint32_t rp_crc32(uint32_t seed, const void *bytes, uint32_t size)
{
    const unsigned char *byte = bytes;
    uint32_t crc = ~seed;
    for (uint32_t i = 0; i < size; i++) {
        crc ^= byte[i];
        for (int bit = 0; bit < 8; bit++) {
            crc = crc >> 1 ^ (0xEDB88320u & (0u - (crc & 1u)));
        }
    }
    return ~crc;
}

uint32_t rp_image_checksum(const void *image, uint32_t size)
{
    const unsigned char *bytes = image;
    const uint32_t none = 0, at = offsetof(rp_image_header, checksum), behind = at + sizeof none;
    uint32_t crc = rp_crc32(0, bytes, at);
    crc = rp_crc32(crc, &none, sizeof none);
    return rp_crc32(crc, bytes + behind, size - behind);
}

const rp_image_name *rp_image_name_of(const rp_image_header *image, uint32_t kind, uint32_t index, uint32_t part)
{
    const rp_image_name *name = rp_image_at(image, RP_SECTION_NAMES);
    const uint64_t key = (uint64_t)kind << 32 | (uint64_t)index << 16 | part;
    uint32_t low = 0, high = rp_image_count(image, RP_SECTION_NAMES);
    while (low < high) {
        const uint32_t middle = low + (high - low) / 2;
        if (rp_image_name_key(&name[middle]) < key) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    const bool found = low < rp_image_count(image, RP_SECTION_NAMES) && rp_image_name_key(&name[low]) == key;
    return found && index <= UINT16_MAX && part <= UINT16_MAX ? &name[low] : NULL;
}

int32_t rp_image_term(const rp_image_header *image, uint32_t slot)
{
    const rp_image_loop *loop = rp_image_at(image, RP_SECTION_LOOPS);
    uint32_t i = 0;
    while (i < rp_image_count(image, RP_SECTION_LOOPS) && slot - loop[i].first >= loop[i].terms) {
        i++;
    }
    return i < rp_image_count(image, RP_SECTION_LOOPS) ? (int32_t)(slot - loop[i].first) : -1;
}

bool rp_image_is_detail(const rp_image_header *image, uint32_t slot)
{
    const rp_image_loop *l = rp_image_at(image, RP_SECTION_LOOPS);
    const int32_t term = rp_image_term(image, slot);
    bool is = term > RP_TERM_PHASE && term != RP_TERM_ERROR;
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_LOOPS); i++, l++) {
        for (uint32_t k = 0; k < sizeof l->gain / sizeof *l->gain; k++) {
            is |= slot == l->gain[k] && (l->brought >> k & 1u);
        }
        is |= slot == l->trim || slot == l->push;
    }
    return is;
}

const char *rp_image_text(const rp_image_header *image, uint32_t kind, uint32_t index, uint32_t part)
{
    const rp_image_name *name = rp_image_name_of(image, kind, index, part);
    return name ? (const char *)rp_image_at(image, RP_SECTION_TEXT) + name->text : "?";
}

const char *rp_image_unit(const rp_image_header *image, uint32_t kind, uint32_t index, uint32_t part)
{
    const rp_image_name *name = rp_image_name_of(image, kind, index, part);
    return name ? (const char *)rp_image_at(image, RP_SECTION_TEXT) + name->unit : "";
}

static uint32_t place(uint32_t *end, uint64_t count, uint32_t size)
{
    const uint32_t at = (*end + 7u) & ~7u;
    *end = (uint32_t)(at + count * size);
    return at;
}

rp_layout rp_image_layout(const rp_image_header *image)
{
    const uint32_t claims = rp_image_count(image, RP_SECTION_CLAIMS);
    const rp_image_run *run = rp_image_at(image, RP_SECTION_RUNS);
    rp_layout to = {0};
    uint32_t end = 8; /* so that even an empty rig has an address */
    to.claim_until = place(&end, claims, sizeof(uint64_t));
    to.claim_since = place(&end, claims, sizeof(uint64_t));
    to.sequence = place(&end, rp_image_count(image, RP_SECTION_SEQUENCES), sizeof(rp_sequence_state));
    to.pulse = place(&end, rp_image_count(image, RP_SECTION_RULES), 2 * sizeof(uint64_t));
    const rp_image_sensor *sensor = rp_image_at(image, RP_SECTION_SENSORS);
    uint32_t vetted = 0, timed = 0;
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_SENSORS); i++) {
        vetted += sensor[i].vetted != 0;
        timed += sensor[i].timed != 0;
    }
    to.edges = place(&end, timed, sizeof(rp_edge_queue));
    to.vet = place(&end, vetted, sizeof(rp_vet_state));
    to.fault_us = place(&end, vetted, sizeof(uint64_t));
    to.value = place(&end, image->slots, sizeof(float));
    to.raw = place(&end, rp_image_count(image, RP_SECTION_SENSORS), sizeof(int32_t));
    to.claim_value = place(&end, claims, sizeof(float));
    to.claim_by = place(&end, claims, sizeof(uint16_t));
    to.owner = place(&end, rp_image_count(image, RP_SECTION_ACTUATORS), sizeof(uint16_t));
    to.wanted = place(&end, rp_image_count(image, RP_SECTION_ACTUATORS), sizeof(float));
    to.shaped = place(&end, rp_image_count(image, RP_SECTION_ACTUATORS), sizeof(float));
    to.driven_us = place(&end, rp_image_count(image, RP_SECTION_ACTUATORS), sizeof(uint64_t));
    to.state_next = place(&end, rp_image_count(image, RP_SECTION_STATES), sizeof(float));
    to.link = place(&end, rp_image_count(image, RP_SECTION_LOOPS), sizeof(rp_loop_link));
    to.counter = place(&end, rp_image_count(image, RP_SECTION_STEPS), sizeof(uint16_t));
    to.credit = place(&end, rp_image_count(image, RP_SECTION_ACTUATORS), sizeof(int64_t));
    to.relief = place(&end, rp_image_count(image, RP_SECTION_ACTUATORS), 1);
    to.stall = place(&end, rp_image_count(image, RP_SECTION_STALLS), sizeof(rp_stall_state));
    to.param_next = place(&end, rp_image_count(image, RP_SECTION_PARAMS), sizeof(float));
    to.param_asked = place(&end, rp_image_count(image, RP_SECTION_PARAMS), 1);
    to.guarding = place(&end, rp_image_count(image, RP_SECTION_GUARDS), 1);
    to.quality = place(&end, image->slots, 1);
    to.claim_active = place(&end, claims, 1);
    to.plain = place(&end, rp_image_count(image, RP_SECTION_SENSORS), 1);
    to.fault = place(&end, vetted, 1);
    to.blocked = place(&end,
                       (uint64_t)rp_image_count(image, RP_SECTION_RULES) + rp_image_count(image, RP_SECTION_DRIVES) +
                           rp_image_count(image, RP_SECTION_SEQUENCES),
                       1);
    to.live = place(&end, rp_image_count(image, RP_SECTION_LIVE_CONFIGS), sizeof(uint32_t));
    to.state = place(&end, 0, 1);
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_RUNS); i++) {
        place(&end, run[i].count, run[i].state_stride);
    }
    to.size = (end + 7u) & ~7u;
    return to;
}

uint32_t rp_image_memory(const rp_image_header *image)
{
    return rp_image_layout(image).size;
}
