/* Inside the engine: the arrays of its memory and of its image, by name; and what all its files need. */
#ifndef RIGPULSE_ENGINE_INSIDE_H
#define RIGPULSE_ENGINE_INSIDE_H

#include "image/memory.h"
#include "rigpulse/engine.h"
#include "rigpulse/numeric.h"

_Static_assert(RP_ENGINE_PARTS == RP_PARTS, "rp_engine has room for each array of memory.def");

/* part_claim(e), ...: element 0 of an array of the memory. */
#define RP_MEMORY(name, type, count, begin)                  \
    static inline type *part_##name(const rp_engine *engine) \
    {                                                        \
        return (type *)engine->part[RP_PART_##name];         \
    }
#include "image/memory.def"

/* image_RULES(e), ...: element 0 of a section of the image. */
#define RP_SECTION_ROWS(name, type)                                         \
    static inline const type *image_##name(const rp_engine *engine)         \
    {                                                                       \
        return (const type *)rp_image_at(engine->image, RP_SECTION_##name); \
    }
RP_SECTION_LIST(RP_SECTION_ROWS)
#undef RP_SECTION_ROWS

#define COUNT(engine, name) rp_image_count((engine)->image, RP_SECTION_##name)

static inline void tell(const rp_engine *e, uint8_t kind, uint8_t reason, uint32_t source, float value)
{
    if (e->listener) {
        const rp_event event = {kind, reason, (uint16_t)source, value};
        e->listener(e->listener_self, &event);
    }
}

static inline void make_due(const rp_engine *e, uint32_t due)
{
    part_head(e)->due |= due;
}

static inline rp_reading read_ref(const rp_engine *e, uint16_t at)
{
    return at & RP_REF_CONSTANT ? rp_good(image_CONSTANTS(e)[at & ~RP_REF_CONSTANT]) : rp_engine_value(e, at);
}

/* True when what hangs on a condition may act: a slot, or RP_REF_NONE for none. One that cannot be known is not true.
 */
static inline bool is_armed(const rp_engine *e, uint16_t only)
{
    return only == RP_REF_NONE || (e->value[only] != 0.0f && rp_usable(e->quality[only]));
}

#endif
