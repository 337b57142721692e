/* Reading an image's own statements: checksum and names. */
#include "rigpulse/image.h"

#include <stddef.h>

uint32_t rgp_crc32(uint32_t seed, const void *bytes, uint32_t size)
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

uint32_t rgp_image_checksum(const void *image, uint32_t size)
{
    const unsigned char *bytes = image;
    const uint32_t none = 0, at = offsetof(rgp_image_header, checksum), behind = at + sizeof none;
    uint32_t crc = rgp_crc32(0, bytes, at);
    crc = rgp_crc32(crc, &none, sizeof none);
    return rgp_crc32(crc, bytes + behind, size - behind);
}

const rgp_image_name *rgp_image_name_of(const rgp_image_header *image, uint32_t kind, uint32_t index, uint32_t part)
{
    const rgp_image_name *name = rgp_image_at(image, RGP_SECTION_NAMES);
    const uint64_t key = (uint64_t)kind << 32 | (uint64_t)index << 16 | part;
    uint32_t low = 0, high = rgp_image_count(image, RGP_SECTION_NAMES);
    while (low < high) {
        const uint32_t middle = low + (high - low) / 2;
        if (rgp_image_name_key(&name[middle]) < key) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    const bool found = low < rgp_image_count(image, RGP_SECTION_NAMES) && rgp_image_name_key(&name[low]) == key;
    return found && index <= UINT16_MAX && part <= UINT16_MAX ? &name[low] : NULL;
}

int32_t rgp_image_term(const rgp_image_header *image, uint32_t slot)
{
    const rgp_image_loop *loop = rgp_image_at(image, RGP_SECTION_LOOPS);
    uint32_t i = 0;
    while (i < rgp_image_count(image, RGP_SECTION_LOOPS) && slot - loop[i].first >= loop[i].terms) {
        i++;
    }
    return i < rgp_image_count(image, RGP_SECTION_LOOPS) ? (int32_t)(slot - loop[i].first) : -1;
}

bool rgp_image_is_detail(const rgp_image_header *image, uint32_t slot)
{
    const rgp_image_loop *l = rgp_image_at(image, RGP_SECTION_LOOPS);
    const int32_t term = rgp_image_term(image, slot);
    bool is = term > RGP_TERM_PHASE && term != RGP_TERM_ERROR;
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_LOOPS); i++, l++) {
        for (uint32_t k = 0; k < sizeof l->gain / sizeof *l->gain; k++) {
            is |= slot == l->gain[k] && (l->brought >> k & 1u);
        }
        is |= slot == l->trim || slot == l->push;
    }
    return is;
}

const char *rgp_image_text(const rgp_image_header *image, uint32_t kind, uint32_t index, uint32_t part)
{
    const rgp_image_name *name = rgp_image_name_of(image, kind, index, part);
    return name ? (const char *)rgp_image_at(image, RGP_SECTION_TEXT) + name->text : "?";
}

const char *rgp_image_unit(const rgp_image_header *image, uint32_t kind, uint32_t index, uint32_t part)
{
    const rgp_image_name *name = rgp_image_name_of(image, kind, index, part);
    return name ? (const char *)rgp_image_at(image, RGP_SECTION_TEXT) + name->unit : "";
}
