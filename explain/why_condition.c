/* A condition taken apart: each operation that makes a truth or an event says what is so and what it lacks. */
#include "why_parts.h"

#include "rigpulse/detect.h"

#include <math.h>
#include <string.h>

#define DEEP_MOST 64u

static rgp_reason *explain(const rgp_why *w, uint16_t slot, bool of_edge, uint32_t depth);

/* A comparison, or a state of something. */
static bool is_of_state(const rgp_why *w, uint16_t slot)
{
    const rgp_decoded *step = why_step(w, slot);
    return step && (step->op == RGP_OP_COMPARE || step->op == RGP_OP_EQUALS);
}

/* The condition as it is written; of what an event is made of, as a state: "tide goes low" looks at "tide is low". */
static char *text_of(const rgp_why *w, uint16_t slot, bool of_edge)
{
    static const char *const event_words[] = {" goes ", " leaves "};
    g_autofree char *written = rgp_why_text(w, slot);
    if (why_is_named(w, slot)) {
        const char *name = rgp_image_text(why_image(w), RGP_NAME_SLOT, slot, 0);
        return *written ? g_strdup_printf("%s (%s)", name, written) : g_strdup(name);
    }
    for (size_t i = 0; of_edge && is_of_state(w, slot) && i < G_N_ELEMENTS(event_words); i++) {
        char *at = strstr(written, event_words[i]);
        if (at) {
            return g_strdup_printf("%.*s is %s", (int)(at - written), written, at + strlen(event_words[i]));
        }
    }
    return *written ? g_steal_pointer(&written) : why_subject(w, slot);
}

/* "it" where the condition's text has just named it. */
static void put_subject(const rgp_why *w, uint16_t slot, GString *to)
{
    g_autofree char *subject = why_subject(w, slot);
    const size_t length = strlen(subject);
    const bool named = strncmp(to->str, subject, length) == 0 && to->str[length] == ' ';
    g_string_append(to, named ? "it" : subject);
}

/* "depth is 3 cm" */
static void put_is(const rgp_why *w, uint16_t slot, GString *to)
{
    put_subject(w, slot, to);
    g_string_append(to, " is ");
    why_put_value(w, slot, to);
}

/* ---- comparisons ----------------------------------------------------------------------------------- */

/* The step that makes a slot's value, where it is of that operation; else NULL. */
static const rgp_decoded *step_of(const rgp_why *w, uint16_t slot, uint32_t op)
{
    const rgp_decoded *step = why_step(w, slot);
    return step && step->op == op ? step : NULL;
}

/* "A above B" of two computed values is "A - B above 0": the difference, where it is that; else NULL. */
static const rgp_decoded *difference_of(const rgp_why *w, const rgp_decoded *compare)
{
    const rgp_origin *from = w->rig->origin;
    const rgp_decoded *difference = step_of(w, compare->in[0], RGP_OP_SUBTRACT);
    return difference && from[compare->in[0]].start == from[compare->out].start &&
                   from[compare->in[0]].length == from[compare->out].length
               ? difference
               : NULL;
}

static void put_two(const rgp_why *w, const rgp_decoded *difference, GString *to)
{
    for (uint32_t side = 0; side < 2; side++) {
        g_autofree char *subject = why_subject(w, difference->in[side]);
        g_string_append_printf(to, "%s%s is ", side ? ", " : "", subject);
        why_put_value(w, difference->in[side], to);
    }
}

static void explain_compare(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_decoded *two = difference_of(w, step);
    const char *unit = why_unit(w, two ? two->in[0] : step->in[0]);
    const rgp_reading is = why_read(w, step->in[0]);
    uint32_t side;
    memcpy(&side, (const unsigned char *)rgp_decoded_config(step) + offsetof(rgp_compare_config, side), sizeof side);
    const float limit = why_setting(w, step, offsetof(rgp_compare_config, limit)),
                margin = why_setting(w, step, offsetof(rgp_compare_config, margin));
    const float over = side == RGP_COMPARE_ABOVE ? is.value - limit : limit - is.value;
    (void)depth;
    if (two) {
        put_two(w, two, to->says);
    } else {
        put_is(w, step->in[0], to->says);
    }
    if (rgp_usable(is.quality)) {
        const bool above = side == RGP_COMPARE_ABOVE ? over >= 0.0f : over < 0.0f;
        g_string_append(to->says, ", ");
        rgp_describe_number(fabs((double)over), unit, to->says);
        g_string_append(to->says, above ? " above " : " below ");
        if (two) {
            g_string_append(to->says, "that");
        } else {
            why_put_setting(w, step, offsetof(rgp_compare_config, limit), unit, to->says);
        }
        if (to->holds == RGP_HOLDS_YES && margin > 0.0f) {
            g_string_append(to->says, over < 0.0f ? "; it stays true until it is " : "; true until it is ");
            rgp_describe_number((double)margin, unit, to->says);
            g_string_append(to->says, side == RGP_COMPARE_ABOVE ? " below" : " above");
        }
    }
    for (uint32_t i = 0; i < (two ? 2u : 1u); i++) {
        why_add_sensors(w, two ? two->in[i] : step->in[0], to);
    }
}

/* ---- bands and names ------------------------------------------------------------------------------- */

/* The value at which band `wanted` is entered from where the value is now, and on which side of it that lies. */
static float entry_of(const rgp_why *w, const rgp_decoded *bands, uint32_t wanted, uint32_t now, size_t *offset)
{
    const rgp_bands_config *config = rgp_decoded_config(bands);
    const uint32_t border = wanted < now ? wanted : wanted - 1;
    const float margin = why_setting(w, bands, offsetof(rgp_bands_config, margin));
    const bool upper = config->above >> border & 1u;
    *offset = offsetof(rgp_bands_config, border) + 4 * border;
    const float at = why_setting(w, bands, *offset);
    return wanted < now ? at - (upper ? margin : 0.0f) : at + (upper ? 0.0f : margin);
}

/* "low begins below shallow 3 cm": what has to be passed to come into a band that it is not in. */
static void put_entry(const rgp_why *w, const rgp_decoded *bands, uint32_t wanted, uint32_t now, rgp_reason *to)
{
    const char *unit = why_unit(w, bands->in[0]);
    size_t offset;
    const float entry = entry_of(w, bands, wanted, now, &offset), value = why_read(w, bands->in[0]).value;
    const bool falls = wanted < now;
    g_string_append(to->says, ", ");
    rgp_describe_number(fabs((double)(value - entry)), unit, to->says);
    g_string_append_printf(to->says, falls ? " above %s, which begins below " : " below %s, which begins above ",
                           rgp_image_text(why_image(w), RGP_NAME_PART, bands->out, wanted));
    if (entry < why_setting(w, bands, offset) || entry > why_setting(w, bands, offset)) {
        rgp_describe_number((double)entry, unit, to->says);
    } else {
        why_put_setting(w, bands, offset, unit, to->says);
    }
}

/* "it lies below shallow 3 cm": the borders of the band that it is in. */
static void put_borders(const rgp_why *w, const rgp_decoded *bands, uint32_t now, rgp_reason *to)
{
    const rgp_bands_config *config = rgp_decoded_config(bands);
    const char *unit = why_unit(w, bands->in[0]);
    const size_t first = offsetof(rgp_bands_config, border);
    g_string_append_printf(to->says, ", and %s lies ", rgp_image_text(why_image(w), RGP_NAME_PART, bands->out, now));
    if (now > 0) {
        g_string_append(to->says, "above ");
        why_put_setting(w, bands, first + 4 * (now - 1), unit, to->says);
    }
    g_string_append(to->says, now > 0 && now < config->borders ? " and below " : now == 0 ? "below " : "");
    if (now < config->borders) {
        why_put_setting(w, bands, first + 4 * now, unit, to->says);
    }
}

static void explain_band(const rgp_why *w, const rgp_decoded *bands, uint32_t wanted, rgp_reason *to)
{
    const rgp_reading now = why_read(w, bands->out), in = why_read(w, bands->in[0]);
    const bool known = rgp_usable(now.quality) && rgp_usable(in.quality), there = (uint32_t)now.value == wanted;
    if (known && !there) {
        put_is(w, bands->out, to->says);
        g_string_append(to->says, "; ");
    }
    put_is(w, bands->in[0], to->says);
    if (known && there) {
        put_borders(w, bands, wanted, to);
    } else if (known) {
        put_entry(w, bands, wanted, (uint32_t)now.value, to);
    }
    why_add_sensors(w, bands->in[0], to);
}

/* "lamp is off: it is on"; of bands how far off they are. */
static void explain_state(const rgp_why *w, uint16_t state, float wanted, rgp_reason *to)
{
    const rgp_decoded *bands = step_of(w, state, RGP_OP_BANDS);
    if (bands) {
        explain_band(w, bands, (uint32_t)wanted, to);
        return;
    }
    put_is(w, state, to->says);
}

/* An equality with 0 of another truth is its opposite. */
static void explain_equals(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_decoded *inner = step_of(w, step->in[0], RGP_OP_EQUALS);
    const rgp_equals_config *config = rgp_decoded_config(step);
    if (why_is_named(w, step->in[0]) && !inner) {
        explain_state(w, step->in[0], config->number, to);
    } else if (inner && why_is_named(w, inner->in[0])) {
        explain_state(w, inner->in[0], ((const rgp_equals_config *)rgp_decoded_config(inner))->number, to);
    } else {
        g_string_append(to->says, to->holds == RGP_HOLDS_YES ? "the other is not so" : "the other is so");
        rgp_reason_add(to, explain(w, step->in[0], false, depth + 1));
    }
}

static void explain_known(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    (void)depth;
    put_is(w, step->in[0], to->says);
    why_add_sensors(w, step->in[0], to);
}

/* ---- events ---------------------------------------------------------------------------------------- */

static void put_came(const rgp_why *w, const rgp_decoded *step, rgp_reason *to)
{
    const uint64_t last_us = w->trace->slot[step->out].true_us;
    to->since_us = to->last_us = UINT64_MAX;
    if (to->holds == RGP_HOLDS_YES) {
        g_string_append(to->says, "it came in this tick");
    } else if (last_us == UINT64_MAX) {
        g_string_append(to->says, "it has not come yet");
    } else {
        g_string_append_printf(to->says, "it did not come; it last came at %.3f s", (double)last_us / 1e6);
    }
}

static void explain_edge(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    put_came(w, step, to);
    rgp_reason_add(to, explain(w, step->in[0], true, depth + 1));
}

static void explain_changed(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    (void)depth;
    put_came(w, step, to);
    g_string_append(to->says, "; ");
    put_is(w, step->in[0], to->says);
}

static void explain_turn(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_turn_state *s = rgp_engine_state(w->engine, step->state_offset);
    const char *unit = why_unit(w, step->in[0]);
    g_autofree char *subject = why_subject(w, step->in[0]);
    (void)depth;
    put_came(w, step, to);
    if (to->holds == RGP_HOLDS_NO && s->way) {
        g_string_append_printf(to->says, "; %s %s, and has come back by ", subject,
                               s->way == RGP_TURN_UP ? "rises" : "falls");
        rgp_describe_number(fabs((double)(s->extreme - s->last)), unit, to->says);
        g_string_append(to->says, " from ");
        rgp_describe_number((double)s->extreme, unit, to->says);
    }
    why_add_sensors(w, step->in[0], to);
}

static void explain_once(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    (void)depth;
    put_came(w, step, to);
}

static double us_left(uint64_t since_us, float of_seconds)
{
    return (double)of_seconds - (double)since_us / 1e6;
}

static void explain_every(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_every_state *s = rgp_engine_state(w->engine, step->state_offset);
    (void)depth;
    put_came(w, step, to);
    g_string_append(to->says, ", and comes next in ");
    why_put_seconds(us_left(s->since_us, why_setting(w, step, offsetof(rgp_every_config, period))), to->says);
}

static void explain_after(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_after_state *s = rgp_engine_state(w->engine, step->state_offset);
    put_came(w, step, to);
    if (s->waits) {
        g_string_append(to->says, ", and comes in ");
        why_put_seconds((double)s->left_us / 1e6, to->says);
    }
    rgp_reason_add(to, explain(w, step->in[0], false, depth + 1));
}

static void explain_times(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_times_state *s = rgp_engine_state(w->engine, step->state_offset);
    const rgp_times_config *config = rgp_decoded_config(step);
    put_came(w, step, to);
    if (to->holds == RGP_HOLDS_NO) {
        g_string_append_printf(to->says, "; so far %u of %u times", s->held, config->count);
    }
    rgp_reason_add(to, explain(w, step->in[0], false, depth + 1));
}

/* ---- conditions with a time ------------------------------------------------------------------------ */

static void put_for(const rgp_why *w, const rgp_decoded *step, size_t offset, double is_s, rgp_reason *to)
{
    g_string_append(to->says, "for ");
    why_put_seconds(is_s, to->says);
    if (to->holds != RGP_HOLDS_YES) {
        g_string_append(to->says, " of ");
        why_put_setting(w, step, offset, "s", to->says);
    }
}

static void explain_lasts(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_lasts_state *s = rgp_engine_state(w->engine, step->state_offset);
    if (s->is_true) {
        g_string_append(to->says, "true ");
        put_for(w, step, offsetof(rgp_lasts_config, time), (double)s->since_us / 1e6, to);
    } else {
        g_string_append(to->says, "the time has not begun");
    }
    rgp_reason_add(to, explain(w, step->in[0], false, depth + 1));
}

static void explain_still(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_still_state *s = rgp_engine_state(w->engine, step->state_offset);
    (void)depth;
    put_is(w, step->in[0], to->says);
    g_string_append(to->says, ", still ");
    put_for(w, step, offsetof(rgp_still_config, time), s->known ? (double)s->since_us / 1e6 : 0.0, to);
    why_add_sensors(w, step->in[0], to);
}

static void explain_moved(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_moved_state *s = rgp_engine_state(w->engine, step->state_offset);
    const char *unit = why_unit(w, step->in[0]);
    (void)depth;
    put_is(w, step->in[0], to->says);
    if (s->known && rgp_usable(why_read(w, step->in[0]).quality)) {
        g_string_append(to->says, ", away by ");
        rgp_describe_number(fabs((double)(why_read(w, step->in[0]).value - s->baseline)), unit, to->says);
        g_string_append(to->says, " from its slow baseline ");
        rgp_describe_number((double)s->baseline, unit, to->says);
    }
    why_add_sensors(w, step->in[0], to);
}

static void explain_absent(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    const rgp_absent_state *s = rgp_engine_state(w->engine, step->state_offset);
    g_string_append(to->says, "it has not come ");
    put_for(w, step, offsetof(rgp_absent_config, time), (double)s->since_us / 1e6, to);
    rgp_reason_add(to, explain(w, step->in[0], false, depth + 1));
}

/* ---- several --------------------------------------------------------------------------------------- */

/* "A and B and C" is one list. */
static void add_sides(const rgp_why *w, uint16_t slot, uint32_t op, rgp_reason *to, uint32_t depth)
{
    const rgp_decoded *step = step_of(w, slot, op);
    if (depth < DEEP_MOST && !why_is_named(w, slot) && step) {
        add_sides(w, step->in[0], op, to, depth + 1);
        add_sides(w, step->in[1], op, to, depth + 1);
    } else {
        rgp_reason_add(to, explain(w, slot, false, depth + 1));
    }
}

static void explain_sides(const rgp_why *w, const rgp_decoded *step, rgp_reason *to, uint32_t depth)
{
    if (!why_is_named(w, step->out)) {
        g_string_truncate(to->says, 0);
    }
    g_string_append(to->says, step->op == RGP_OP_BOTH ? "all of these" : "at least one of these");
    to->since_us = to->last_us = UINT64_MAX;
    add_sides(w, step->in[0], step->op, to, depth);
    add_sides(w, step->in[1], step->op, to, depth);
}

static void (*const explain_step[RGP_OPS])(const rgp_why *w, const rgp_decoded *step, rgp_reason *to,
                                           uint32_t depth) = {
    [RGP_OP_COMPARE] = explain_compare, [RGP_OP_EQUALS] = explain_equals,   [RGP_OP_KNOWN] = explain_known,
    [RGP_OP_EDGE] = explain_edge,       [RGP_OP_CHANGED] = explain_changed, [RGP_OP_TURN] = explain_turn,
    [RGP_OP_ONCE] = explain_once,       [RGP_OP_EVERY] = explain_every,     [RGP_OP_AFTER] = explain_after,
    [RGP_OP_TIMES] = explain_times,     [RGP_OP_LASTS] = explain_lasts,     [RGP_OP_STILL] = explain_still,
    [RGP_OP_MOVED] = explain_moved,     [RGP_OP_ABSENT] = explain_absent,   [RGP_OP_BOTH] = explain_sides,
    [RGP_OP_ANY] = explain_sides,
};

/* A slot that nothing computes is given: a cue, a term of a loop, a signal that is another's copy. */
static void explain_given(const rgp_why *w, uint16_t slot, rgp_reason *to)
{
    g_string_append(to->says, "it is ");
    why_put_value(w, slot, to->says);
}

static rgp_reason *explain(const rgp_why *w, uint16_t slot, bool of_edge, uint32_t depth)
{
    const rgp_decoded *step = why_step(w, slot);
    if (slot & RGP_REF_CONSTANT || depth > DEEP_MOST) {
        return rgp_reason_new(RGP_HOLDS_FACT, "...");
    }
    g_autofree char *text = text_of(w, slot, of_edge);
    rgp_reason *r = why_truth(w, slot, text);
    g_string_append(r->says, ": ");
    if (step && explain_step[step->op]) {
        explain_step[step->op](w, step, r, depth);
    } else {
        explain_given(w, slot, r);
    }
    return r;
}

rgp_reason *rgp_why_value(const rgp_why *w, uint32_t slot)
{
    const rgp_decoded *step = why_step(w, (uint16_t)slot);
    g_autofree char *text = rgp_why_text(w, (uint16_t)slot), *name = why_subject(w, (uint16_t)slot);
    rgp_reason *r = rgp_reason_new(RGP_HOLDS_FACT, "%s is ", name);
    why_put_value(w, (uint16_t)slot, r->says);
    g_string_append_printf(r->says, " at %.3f s", (double)w->frame->time_us / 1e6);
    if (step && explain_step[step->op]) {
        rgp_reason_add(r, explain(w, (uint16_t)slot, false, 0));
    } else if (step && step->op == RGP_OP_BANDS) {
        rgp_reason *of = rgp_reason_add(r, rgp_reason_new(RGP_HOLDS_FACT, "%s", ""));
        explain_band(w, step, (uint32_t)why_read(w, (uint16_t)slot).value, of);
    } else {
        if (*text) {
            rgp_reason_add(r, rgp_reason_new(RGP_HOLDS_FACT, "it is %s", text));
        }
        why_add_sensors(w, (uint16_t)slot, r);
    }
    return r;
}

rgp_reason *why_condition(const rgp_why *w, uint16_t slot)
{
    return explain(w, slot, false, 0);
}
