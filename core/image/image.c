/* An image's own statements: its checksum and its names, found and taken off. */
#include "rigpulse/image.h"

#include <stddef.h>
#include <string.h>

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
        is |= slot == l->trim || slot == l->bias;
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

uint32_t rgp_image_version_of(const void *bytes, uint32_t size)
{
    struct {
        uint32_t magic;
        uint16_t version;
    } head;
    if (size < 8) {
        return 0;
    }
    memcpy(&head.magic, bytes, sizeof head.magic);
    memcpy(&head.version, (const unsigned char *)bytes + offsetof(rgp_image_header, version), sizeof head.version);
    return head.magic == RGP_IMAGE_MAGIC ? head.version : 0;
}

/* The slots of a kind: the first, and how many. */
static uint32_t slots_of(const rgp_image_header *image, rgp_image_kind kind, uint32_t *count)
{
    switch (kind) {
    case RGP_FIND_PARAM:
        *count = rgp_image_count(image, RGP_SECTION_PARAMS);
        return 0;
    case RGP_FIND_SENSOR:
        *count = rgp_image_count(image, RGP_SECTION_SENSORS);
        return rgp_image_sensor_slot(image, 0);
    case RGP_FIND_ACTUATOR:
        *count = rgp_image_count(image, RGP_SECTION_ACTUATORS);
        return rgp_image_actuator_slot(image, 0);
    default:
        *count = image->slots;
        return 0;
    }
}

/* The core does without strcmp(), which not every microcontroller's compiler brings along. */
static bool same_text(const char *a, const char *b)
{
    while (*a != '\0' && *a == *b) {
        a++;
        b++;
    }
    return *a == *b;
}

int32_t rgp_image_find(const rgp_image_header *image, rgp_image_kind kind, const char *name)
{
    const rgp_image_name *of = rgp_image_at(image, RGP_SECTION_NAMES);
    const char *text = rgp_image_at(image, RGP_SECTION_TEXT);
    uint32_t count;
    const uint32_t first = slots_of(image, kind, &count);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_NAMES); i++) {
        if (of[i].kind == RGP_NAME_SLOT && of[i].index - first < count && same_text(text + of[i].text, name)) {
            return (int32_t)(of[i].index - first);
        }
    }
    return -1;
}

uint32_t rgp_image_strip(rgp_image_header *image)
{
    const uint32_t end = image->section[RGP_SECTION_NAMES].offset;
    for (uint32_t i = 0; i < RGP_SECTIONS; i++) {
        if (i != RGP_SECTION_NAMES && i != RGP_SECTION_TEXT && image->section[i].offset > end) {
            return image->size;
        }
    }
    const rgp_image_section none = {end, 0};
    image->section[RGP_SECTION_NAMES] = image->section[RGP_SECTION_TEXT] = none;
    image->size = end;
    image->checksum = rgp_image_checksum(image, end);
    return end;
}
