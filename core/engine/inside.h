/* Inside the engine: the arrays of its memory and of its image, by name; and what all its files need. */
#ifndef RIGPULSE_ENGINE_INSIDE_H
#define RIGPULSE_ENGINE_INSIDE_H

#include "image/memory.h"
#include "rigpulse/engine.h"
#include "rigpulse/numeric.h"

_Static_assert(RGP_ENGINE_PARTS == RGP__PARTS, "rgp_engine has room for each array of memory.def");

/* part_claim(e), ...: element 0 of an array of the memory. */
#define RGP__MEMORY(name, type, count, begin)                 \
    static inline type *part_##name(const rgp_engine *engine) \
    {                                                         \
        return (type *)engine->part[RGP__PART_##name];        \
    }
#include "image/memory.def"

/* image_RULES(e), ...: element 0 of a section of the image. */
#define RGP_SECTION_ROWS(name, type)                                          \
    static inline const type *image_##name(const rgp_engine *engine)          \
    {                                                                         \
        return (const type *)rgp_image_at(engine->image, RGP_SECTION_##name); \
    }
RGP_SECTION_LIST(RGP_SECTION_ROWS)
#undef RGP_SECTION_ROWS

#define COUNT(engine, name) rgp_image_count((engine)->image, RGP_SECTION_##name)

static inline void raise_event_at(const rgp_engine *e, uint64_t time_us, uint8_t kind, uint8_t reason, uint32_t source,
                                  float value)
{
    if (e->listener) {
        const rgp_event event = {kind, reason, (uint16_t)source, value, time_us};
        e->listener(e->listener_self, &event);
    }
}

static inline void raise_event(const rgp_engine *e, uint8_t kind, uint8_t reason, uint32_t source, float value)
{
    raise_event_at(e, part_head(e)->now_us, kind, reason, source, value);
}

static inline void make_due(const rgp_engine *e, uint32_t due)
{
    part_head(e)->due |= due;
}

static inline rgp_reading read_ref(const rgp_engine *e, uint16_t at)
{
    return at & RGP_REF_CONSTANT ? rgp_good(image_CONSTANTS(e)[at & ~RGP_REF_CONSTANT]) : rgp_engine_value(e, at);
}

/* True when what hangs on a condition may act: a slot, or RGP_REF_NONE for none. One that cannot be known is not true.
 */
static inline bool is_armed(const rgp_engine *e, uint16_t only)
{
    return only == RGP_REF_NONE || (e->value[only] != 0.0f && rgp_usable(e->quality[only]));
}

#endif
