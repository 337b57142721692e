/* A control loop in a tick: its phase and terms, and why it does not drive where it does not. */
#include "why_parts.h"

static const rgp_image_loop *loop_at(const rgp_why *w, uint32_t loop)
{
    return (const rgp_image_loop *)rgp_image_at(why_image(w), RGP_SECTION_LOOPS) + loop;
}

static void put_term(const rgp_why *w, const rgp_image_loop *l, uint32_t term, GString *to)
{
    const uint16_t slot = (uint16_t)(l->first + term);
    g_string_append_printf(to, "%s ", rgp_image_text(why_image(w), RGP_NAME_SLOT, slot, 0));
    why_put_value(w, slot, to);
}

static void add_measured(const rgp_why *w, const rgp_image_loop *l, rgp_reason *to)
{
    g_autofree char *subject = why_subject(w, l->measured);
    rgp_reason *r = rgp_reason_add(to, rgp_reason_new(RGP_HOLDS_FACT, "%s is ", subject));
    why_put_value(w, l->measured, r->says);
    g_string_append(r->says, ", ");
    put_term(w, l, RGP_TERM_TARGET, r->says);
    g_string_append(r->says, ", ");
    put_term(w, l, RGP_TERM_ERROR, r->says);
    why_add_sensors(w, l->measured, r);
}

static void add_terms(const rgp_why *w, const rgp_image_loop *l, rgp_reason *to)
{
    if (l->terms <= RGP_TERM_UNLIMITED) {
        return;
    }
    rgp_reason *r = rgp_reason_add(to, rgp_reason_new(RGP_HOLDS_FACT, "%s", ""));
    for (uint32_t term = RGP_TERM_P; term <= RGP_TERM_UNLIMITED; term++) {
        g_string_append(r->says, term > RGP_TERM_P ? ", " : "");
        put_term(w, l, term, r->says);
    }
    if (why_holds(why_read(w, (uint16_t)(l->first + RGP_TERM_SATURATED))) == RGP_HOLDS_YES) {
        rgp_reason_add(
            to, rgp_reason_new(RGP_HOLDS_FACT,
                               "less is driven than is asked, or its integral was cut at a limit: it is saturated"));
    }
}

rgp_reason *rgp_why_loop(const rgp_why *w, uint32_t loop)
{
    const rgp_image_loop *l = loop_at(w, loop);
    const rgp_event *last = &w->trace->loop[loop];
    const rgp_reading phase = why_read(w, l->first), error = why_read(w, (uint16_t)(l->first + RGP_TERM_ERROR));
    rgp_reason *r = rgp_reason_new(RGP_HOLDS_FACT, "loop %s is ", rgp_image_text(why_image(w), RGP_NAME_LOOP, loop, 0));
    why_put_value(w, l->first, r->says);
    g_string_append_printf(r->says, " at %.3f s", (double)w->frame->time_us / 1e6);
    if (last->time_us != UINT64_MAX) {
        rgp_reason *event =
            rgp_reason_add(r, rgp_reason_new(RGP_HOLDS_FACT, "at %.3f s: ", (double)last->time_us / 1e6));
        rgp_describe_event(why_image(w), w->layout, w->frame, last, event->says);
    }
    if (phase.value == (float)RGP_LOOP_WAITING) {
        rgp_reason *waits = rgp_reason_add(r, rgp_reason_new(RGP_HOLDS_FACT, "it "));
        rgp_describe_waiting(why_image(w), loop, error.value, error.quality, waits->says);
    }
    if (l->condition != RGP_REF_NONE) {
        rgp_reason_add(r, why_condition(w, l->condition));
    }
    add_measured(w, l, r);
    add_terms(w, l, r);
    rgp_reason_add(r, rgp_why_actuator(w, l->actuator));
    return r;
}
