/* One line a tick: its number and a checksum over every value, quality, owner, timer and state, bit for bit; and
 * the outputs themselves. The same here and on the target. */
#ifndef TESTS_TARGET_TRACE_H
#define TESTS_TARGET_TRACE_H

#include "engine/inside.h"

#include <string.h>

static char *trace_hex(char *to, uint32_t number)
{
    for (int shift = 28; shift >= 0; shift -= 4) {
        *to++ = "0123456789abcdef"[number >> shift & 15u];
    }
    *to++ = ' ';
    return to;
}

static void trace_tick(const rgp_engine *e, uint32_t tick, void (*put)(void *self, const char *line), void *self)
{
    char line[80], *at = line;
    uint32_t crc = rgp_crc32(0, e->value, e->image->slots * 4u);
    crc = rgp_crc32(crc, e->quality, e->image->slots);
    for (uint16_t i = 0; i < rgp_image_count(e->image, RGP_SECTION_ACTUATORS); i++) {
        const uint16_t owner = rgp_engine_owner(e, i);
        crc = rgp_crc32(crc, &owner, sizeof owner);
    }
    for (uint16_t i = 0; i < rgp_image_count(e->image, RGP_SECTION_RULES); i++) {
        const uint64_t left = rgp_engine_rule(e, i).left_us;
        crc = rgp_crc32(crc, &left, sizeof left);
    }
    crc = rgp_crc32(crc, part_states(e), rgp__image_state_bytes(e->image));
    at = trace_hex(at, tick);
    at = trace_hex(at, crc);
    for (uint16_t i = 0; i < 4 && i < rgp_image_count(e->image, RGP_SECTION_ACTUATORS); i++) {
        const float output = rgp_engine_output(e, i);
        uint32_t bits;
        memcpy(&bits, &output, sizeof bits);
        at = trace_hex(at, bits);
    }
    at[-1] = '\n';
    *at = '\0';
    put(self, line);
}

#endif
