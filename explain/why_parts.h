/* Shared by the files that explain a tick: what a slot is called, what stands in it, and its past. */
#ifndef EXPLAIN_WHY_PARTS_H
#define EXPLAIN_WHY_PARTS_H

#include "describe.h"
#include "disassembly.h"
#include "why.h"

static inline const rgp_image_header *why_image(const rgp_why *w)
{
    return w->engine->image;
}

static inline bool why_is_named(const rgp_why *w, uint16_t slot)
{
    return !(slot & RGP_REF_CONSTANT) && rgp_image_name_of(why_image(w), RGP_NAME_SLOT, slot, 0) != NULL;
}

/* The operation that makes a slot's value; NULL: none does, it is given. */
static inline const rgp_decoded *why_step(const rgp_why *w, uint16_t slot)
{
    const rgp_decoded *step = slot & RGP_REF_CONSTANT ? NULL : &w->trace->step[slot];
    return step && step->out == slot ? step : NULL;
}

/* Of a slot or a constant. */
rgp_reading why_read(const rgp_why *w, uint16_t ref);

/* The unit of a slot, "" for none. */
const char *why_unit(const rgp_why *w, uint16_t slot);

/* "depth", or of what has no name the text that it is computed by. To be freed. */
char *why_subject(const rgp_why *w, uint16_t slot);

/* A value with its unit, or its name; of what cannot be trusted what is wrong with it. */
void why_put_value(const rgp_why *w, uint16_t slot, GString *to);

/* A setting of a step, with the parameter's name where one sets it: "shallow 3 cm". */
void why_put_setting(const rgp_why *w, const rgp_decoded *step, size_t offset, const char *unit, GString *to);

static inline float why_setting(const rgp_why *w, const rgp_decoded *step, size_t offset)
{
    int32_t param;
    return rgp_disassembly_setting(why_image(w), step, (uint32_t)offset, w->engine->value, &param);
}

/* Seconds with as many digits as are read: "1.2 s". */
void why_put_seconds(double seconds, GString *to);

static inline rgp_holds why_holds(rgp_reading r)
{
    return !rgp_usable(r.quality) ? RGP_HOLDS_UNKNOWN : r.value != 0.0f ? RGP_HOLDS_YES : RGP_HOLDS_NO;
}

/* A reason of a slot's truth, with its past: since when it is true, or when it last was. */
rgp_reason *why_truth(const rgp_why *w, uint16_t slot, const char *text);

/* The condition in a slot, taken apart. */
rgp_reason *why_condition(const rgp_why *w, uint16_t slot);

/* A fact for each sensor, of at most a few, that a value is made of: its reading, and how old that is. */
void why_add_sensors(const rgp_why *w, uint16_t slot, rgp_reason *to);

/* "line 11 'while tide is low'": the rule as it is written. */
void why_put_rule(const rgp_why *w, uint32_t rule, GString *to);

#endif
