/* The owner of an actuator in a tick, over whom it drives, and what has become on the way of what was asked. */
#include "why_parts.h"

#include <math.h>

static const rgp_image_actuator *actuator_at(const rgp_why *w, uint32_t actuator)
{
    return (const rgp_image_actuator *)rgp_image_at(why_image(w), RGP_SECTION_ACTUATORS) + actuator;
}

static const rgp_image_claim *claim_at(const rgp_why *w, uint32_t claim)
{
    return (const rgp_image_claim *)rgp_image_at(why_image(w), RGP_SECTION_CLAIMS) + claim;
}

/* The line of the drive or of the loop that makes a claim of that rank; 0: none is known. */
static void put_drive(const rgp_why *w, uint32_t claim, GString *to)
{
    const rgp_image_loop *loop = rgp_image_at(why_image(w), RGP_SECTION_LOOPS);
    for (uint32_t i = 0; i < rgp_image_count(why_image(w), RGP_SECTION_LOOPS); i++) {
        if (loop[i].claim == claim) {
            g_string_append_printf(to, "loop %s", rgp_image_text(why_image(w), RGP_NAME_LOOP, i, 0));
            return;
        }
    }
    g_string_append(to, "the continuous drive");
}

static void put_claim(const rgp_why *w, uint32_t index, GString *to)
{
    const rgp_image_claim *claim = claim_at(w, index);
    switch (claim->rank) {
    case RGP_RANK_TIMED:
        why_put_rule(w, claim->source, to);
        break;
    case RGP_RANK_SEQUENCE:
        g_string_append_printf(to, "sequence %s", rgp_image_text(why_image(w), RGP_NAME_SEQUENCE, claim->source, 0));
        break;
    case RGP_RANK_LOOP:
        put_drive(w, index, to);
        break;
    case RGP_RANK_LATCH: {
        const uint16_t by = rgp_engine_claim(w->engine, (uint16_t)index)->by;
        if (by != RGP_REF_NONE) {
            why_put_rule(w, by, to);
            g_string_append(to, ", by a plain set,");
        } else {
            g_string_append(to, "a plain set");
        }
        break;
    }
    default:
        g_string_append(to, rgp_rank_text(claim->rank));
    }
}

static void put_asked(const rgp_why *w, uint32_t slot, uint32_t index, GString *to)
{
    const rgp_claim *is = rgp_engine_claim(w->engine, (uint16_t)index);
    g_string_append(to, " asks ");
    rgp_describe_value(why_image(w), slot, is->value, to);
    if (is->active == RGP_CLAIM_PAUSES) {
        g_string_append(to, ", and is between two of its times");
    }
    if (is->until_us != UINT64_MAX) {
        g_string_append_printf(to, ", until %.3f s", (double)is->until_us / 1e6);
    }
}

static rgp_reason *why_owner(const rgp_why *w, uint32_t slot, uint32_t claim)
{
    rgp_reason *r = rgp_reason_new(RGP_HOLDS_FACT, "%s", "");
    put_claim(w, claim, r->says);
    put_asked(w, slot, claim, r->says);
    return r;
}

/* The active claims, the owner's first. */
static void add_claims(const rgp_why *w, uint32_t slot, const rgp_image_actuator *a, rgp_reason *to)
{
    bool owned = false;
    for (uint32_t i = a->first_claim; i < (uint32_t)a->first_claim + a->claims; i++) {
        if (rgp_engine_claim(w->engine, (uint16_t)i)->active != RGP_CLAIM_NONE) {
            rgp_reason *r = rgp_reason_add(to, why_owner(w, slot, i));
            g_string_prepend(r->says, owned ? "over " : "");
            owned = true;
        }
    }
    if (!owned) {
        rgp_reason_add(to, rgp_reason_new(RGP_HOLDS_FACT, "nobody asks anything of it, so it is at rest"));
    }
}

static void add_guards(const rgp_why *w, const rgp_image_actuator *a, rgp_reason *to)
{
    const rgp_image_guard *guard = rgp_image_at(why_image(w), RGP_SECTION_GUARDS);
    for (uint32_t i = a->first_guard; i < (uint32_t)a->first_guard + a->guards; i++) {
        if (!rgp_engine_is_guarding(w->engine, (uint16_t)i)) {
            continue;
        }
        const rgp_image_name *name = rgp_image_name_of(why_image(w), RGP_NAME_GUARD, i, 0);
        rgp_reason *r =
            rgp_reason_add(to, rgp_reason_new(RGP_HOLDS_FACT, "line %u keeps it from that: %s", name ? name->line : 0u,
                                              rgp_image_text(why_image(w), RGP_NAME_GUARD, i, 0)));
        if (guard[i].side != RGP_GUARD_WITH && !(guard[i].condition & RGP_REF_CONSTANT)) {
            rgp_reason_add(r, why_condition(w, guard[i].condition));
        }
    }
}

static void add_relief(const rgp_why *w, uint32_t actuator, rgp_reason *to)
{
    const rgp_event *event = &w->trace->actuator[actuator].relief;
    if (event->time_us != UINT64_MAX && event->time_us >= w->trace->actuator[actuator].since_us) {
        rgp_reason *r = rgp_reason_add(to, rgp_reason_new(RGP_HOLDS_FACT, "at %.3f s: ", (double)event->time_us / 1e6));
        rgp_describe_event(why_image(w), w->layout, w->frame, event, r->says);
    }
}

/* An actuator's means change what was asked: bound, least power, slew. All that are at work are told. */
static void add_means(const rgp_why *w, uint32_t slot, const rgp_image_actuator *a, float asked, float written,
                      rgp_reason *to)
{
    const float bound = rgp_engine_bound_percent(w->engine);
    const char *unit = rgp_image_unit(why_image(w), RGP_NAME_SLOT, slot, 0);
    if (asked == written) {
        return;
    }
    rgp_reason *r = rgp_reason_add(to, rgp_reason_new(RGP_HOLDS_FACT, "asked is "));
    rgp_describe_value(why_image(w), slot, asked, r->says);
    if (bound < 100.0f) {
        g_string_append_printf(r->says, "; the run is bound to %g %% of its travel", (double)bound);
    }
    if (a->least > 0.0f && asked != 0.0f && fabsf(asked) < a->least) {
        g_string_append(r->says, "; less than ");
        rgp_describe_number((double)a->least, unit, r->says);
        g_string_append(r->says, " does not move it, so it is raised to that");
    }
    if (a->slew > 0.0f) {
        g_string_append(r->says, "; it changes by at most ");
        rgp_describe_number((double)a->slew, unit, r->says);
        g_string_append(r->says, " a second");
    }
}

rgp_reason *rgp_why_actuator(const rgp_why *w, uint32_t actuator)
{
    const rgp_image_actuator *a = actuator_at(w, actuator);
    const uint32_t slot = rgp_image_actuator_slot(why_image(w), actuator);
    const uint16_t owner = rgp_engine_owner(w->engine, (uint16_t)actuator);
    const float asked = rgp_engine_asked(w->engine, (uint16_t)actuator), written = w->engine->value[slot];
    rgp_reason *r = rgp_reason_new(RGP_HOLDS_FACT, a->kind == RGP_ACTUATOR_NUMBER ? "%s is at " : "%s is ",
                                   rgp_image_text(why_image(w), RGP_NAME_SLOT, slot, 0));
    rgp_describe_value(why_image(w), slot, written, r->says);
    g_string_append_printf(r->says, " at %.3f s, owner ", (double)w->frame->time_us / 1e6);
    rgp_describe_owner(why_image(w), owner, r->says);
    r->since_us = w->trace->actuator[actuator].since_us;
    if (owner == RGP_OWNER_STOP) {
        rgp_reason_add(r, rgp_reason_new(RGP_HOLDS_FACT, "everything is stopped, and nobody drives"));
    } else if (owner == RGP_OWNER_FAULT) {
        rgp_reason_add(r, rgp_reason_new(RGP_HOLDS_FACT, "its port cannot drive it; rest is tried again and again"));
    } else {
        add_claims(w, slot, a, r);
    }
    if (owner == RGP_OWNER_GUARD) {
        add_guards(w, a, r);
        add_relief(w, actuator, r);
    } else {
        add_means(w, slot, a, asked, written, r);
    }
    return r;
}
