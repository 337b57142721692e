/* Reading an image's own statements: checksum and names. */
#include "rigpulse/image.h"

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
