/* The distance of a rule from firing: how many of its conditions are not true, and of a single one by how much. */
#include "why_parts.h"

#include "rigpulse/detect.h"

#include <math.h>
#include <string.h>

#define DEEP_MOST 64u

static rgp_lack lack_of(const rgp_why *w, uint16_t slot, bool of_opposite, uint32_t depth);

/* The amount that a comparison's value has to move: to the limit, or to be false again past the margin. */
static float from_limit(const rgp_why *w, const rgp_decoded *step, bool of_opposite)
{
    const float limit = why_setting(w, step, offsetof(rgp_compare_config, limit)),
                margin = why_setting(w, step, offsetof(rgp_compare_config, margin)),
                value = why_read(w, step->in[0]).value;
    uint32_t side;
    memcpy(&side, (const unsigned char *)rgp_decoded_config(step) + offsetof(rgp_compare_config, side), sizeof side);
    const float over = side == RGP_COMPARE_ABOVE ? value - limit : limit - value;
    return of_opposite ? over + margin : -over;
}

/* The nearest border that leads into a band, or out of it. */
static float from_band(const rgp_why *w, const rgp_decoded *bands, uint32_t wanted, bool of_opposite)
{
    const rgp_bands_config *config = rgp_decoded_config(bands);
    const float value = why_read(w, bands->in[0]).value,
                margin = why_setting(w, bands, offsetof(rgp_bands_config, margin));
    const uint32_t now = (uint32_t)why_read(w, bands->out).value;
    float least = INFINITY;
    for (uint32_t i = 0; i < config->borders; i++) {
        const bool upper = config->above >> i & 1u, is_above = now > i,
                   leads = of_opposite   ? i == now || i + 1 == now
                           : wanted <= i ? is_above && wanted == i
                                         : !is_above && wanted == i + 1;
        const float border = why_setting(w, bands, offsetof(rgp_bands_config, border) + 4 * i),
                    at = is_above ? border - (upper ? margin : 0.0f) : border + (upper ? 0.0f : margin);
        least = leads ? fminf(least, fabsf(value - at)) : least;
    }
    return least;
}

static rgp_lack one(uint16_t slot, float amount, const char *unit)
{
    return (rgp_lack){1, slot, amount, unit, false};
}

static rgp_lack of_equals(const rgp_why *w, const rgp_decoded *step, bool of_opposite, uint32_t depth)
{
    const float wanted = ((const rgp_equals_config *)rgp_decoded_config(step))->number;
    const rgp_decoded *inner = why_step(w, step->in[0]);
    if (inner && inner->op == RGP_OP_BANDS) {
        return one(step->out, from_band(w, inner, (uint32_t)wanted, of_opposite), why_unit(w, inner->in[0]));
    }
    return inner && !why_is_named(w, step->in[0]) && wanted == 0.0f ? lack_of(w, step->in[0], !of_opposite, depth + 1)
                                                                    : one(step->out, INFINITY, "");
}

static rgp_lack of_time(const rgp_decoded *step, float whole_s, uint64_t so_far_us)
{
    return one(step->out, whole_s - (float)((double)so_far_us / 1e6), "s");
}

static rgp_lack of_step(const rgp_why *w, const rgp_decoded *step, bool of_opposite, uint32_t depth)
{
    const void *state = rgp_engine_state(w->engine, step->state_offset);
    const char *unit = why_unit(w, step->in[0]);
    const float value = why_read(w, step->in[0]).value;
    switch (step->op) {
    case RGP_OP_COMPARE:
        return one(step->out, from_limit(w, step, of_opposite), unit);
    case RGP_OP_EQUALS:
        return of_equals(w, step, of_opposite, depth);
    case RGP_OP_EDGE: {
        const bool falls = ((const rgp_edge_config *)rgp_decoded_config(step))->which == RGP_EDGE_FALL;
        const rgp_lack inner = lack_of(w, step->in[0], falls, depth + 1);
        return inner.conditions > 0 ? inner
                                    : one(step->out, INFINITY, ""); /* it would have to leave that state first */
    }
    case RGP_OP_LASTS: {
        const rgp_lasts_state *s = state;
        return !s->is_true || of_opposite
                   ? lack_of(w, step->in[0], of_opposite, depth + 1)
                   : of_time(step, why_setting(w, step, offsetof(rgp_lasts_config, time)), s->since_us);
    }
    case RGP_OP_STILL:
        return of_time(step, why_setting(w, step, offsetof(rgp_still_config, time)),
                       ((const rgp_still_state *)state)->since_us);
    case RGP_OP_ABSENT:
        return of_time(step, why_setting(w, step, offsetof(rgp_absent_config, time)),
                       ((const rgp_absent_state *)state)->since_us);
    case RGP_OP_MOVED: {
        const rgp_moved_state *s = state;
        return one(step->out, why_setting(w, step, offsetof(rgp_moved_config, amount)) - fabsf(value - s->baseline),
                   unit);
    }
    case RGP_OP_TURN: {
        const rgp_turn_state *s = state;
        return one(step->out, why_setting(w, step, offsetof(rgp_turn_config, least)) - fabsf(s->extreme - s->last),
                   unit);
    }
    case RGP_OP_TIMES: {
        const rgp_times_state *s = state;
        const rgp_times_config *config = rgp_decoded_config(step);
        return one(step->out, (float)config->count - (float)s->held, "times");
    }
    default:
        return one(step->out, INFINITY, "");
    }
}

static rgp_lack both(rgp_lack a, rgp_lack b)
{
    rgp_lack sum = a.conditions > 0 ? a : b;
    sum.conditions = a.conditions + b.conditions;
    sum.slot = sum.conditions == 1 ? sum.slot : (uint16_t)RGP_REF_NONE;
    return sum;
}

static rgp_lack nearer(rgp_lack a, rgp_lack b)
{
    return a.conditions < b.conditions || (a.conditions == b.conditions && a.amount <= b.amount) ? a : b;
}

/* `of_opposite`: what it lacks to be false. */
static rgp_lack lack_of(const rgp_why *w, uint16_t slot, bool of_opposite, uint32_t depth)
{
    const rgp_decoded *step = why_step(w, slot);
    const rgp_holds holds = why_holds(why_read(w, slot));
    if (holds == (of_opposite ? RGP_HOLDS_NO : RGP_HOLDS_YES)) {
        return (rgp_lack){0, RGP_REF_NONE, 0.0f, "", false};
    }
    if (holds == RGP_HOLDS_UNKNOWN || depth > DEEP_MOST || !step) {
        return one(slot, INFINITY, "");
    }
    if (step->op == RGP_OP_BOTH || step->op == RGP_OP_ANY) {
        const rgp_lack a = lack_of(w, step->in[0], of_opposite, depth + 1),
                       b = lack_of(w, step->in[1], of_opposite, depth + 1);
        return (step->op == RGP_OP_BOTH) != of_opposite ? both(a, b) : nearer(a, b);
    }
    return of_step(w, step, of_opposite, depth);
}

/* True when an event that is part of it comes in this tick. */
static bool came(const rgp_why *w, uint16_t slot, uint32_t depth)
{
    const rgp_decoded *step = why_step(w, slot);
    if (!step || depth > DEEP_MOST) {
        return false;
    }
    if (step->op == RGP_OP_BOTH || step->op == RGP_OP_ANY) {
        return came(w, step->in[0], depth + 1) || came(w, step->in[1], depth + 1);
    }
    return rgp_ops[step->op].result == RGP_RESULT_EVENT && why_holds(why_read(w, slot)) == RGP_HOLDS_YES;
}

rgp_lack rgp_why_lack(const rgp_why *w, uint32_t rule)
{
    const uint16_t trigger = ((const rgp_image_rule *)rgp_image_at(why_image(w), RGP_SECTION_RULES))[rule].trigger;
    rgp_lack lack = {1, RGP_REF_NONE, INFINITY, "", false};
    if (trigger < RGP_REF_NONE) {
        lack = lack_of(w, trigger, false, 0);
        lack.came = came(w, trigger, 0);
    }
    return lack;
}
