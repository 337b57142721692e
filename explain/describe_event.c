#include "describe.h"

#include <math.h>

static const rp_image_name *name_of_event(const rp_image_header *image, const rp_event *event)
{
    const rp_image_claim *claim = rp_image_at(image, RP_SECTION_CLAIMS);
    switch (event->kind == RP_EVENT_STORM ? event->reason : event->kind) {
    case RP_EVENT_FIRED:
    case RP_EVENT_DROPPED:
        return rp_image_name_of(image, RP_NAME_RULE, event->source, 0);
    case RP_EVENT_ENDED:
        return rp_image_name_of(image, RP_NAME_SLOT, rp_image_actuator_slot(image, claim[event->source].actuator), 0);
    case RP_EVENT_MARK:
        return rp_image_name_of(image, RP_NAME_MARK, event->source, 0);
    case RP_EVENT_PARAM:
    case RP_EVENT_LEARNED:
    case RP_EVENT_GAVE_UP:
        return rp_image_name_of(image, RP_NAME_SLOT, event->source, 0);
    case RP_EVENT_SENSOR:
    case RP_EVENT_EDGE:
    case RP_EVENT_OVERFLOW:
    case RP_EVENT_FAULT:
    case RP_EVENT_RECOVERED:
        return rp_image_name_of(image, RP_NAME_SLOT, rp_image_sensor_slot(image, event->source), 0);
    case RP_EVENT_GUARD:
        return rp_image_name_of(image, RP_NAME_GUARD, event->source, 0);
    case RP_EVENT_BEGUN:
    case RP_EVENT_FINISHED:
    case RP_EVENT_FAILED:
        return rp_image_name_of(image, RP_NAME_SEQUENCE, event->source, 0);
    case RP_EVENT_ENGAGED:
    case RP_EVENT_HELD:
    case RP_EVENT_CUT_OUT:
        return rp_image_name_of(image, RP_NAME_LOOP, event->source, 0);
    case RP_EVENT_STALLED:
        return rp_image_name_of(image, RP_NAME_STALL, event->source, 0);
    case RP_EVENT_STOPPED:
    case RP_EVENT_RESUMED:
        return event->source == RP_REF_NONE ? rp_image_name_of(image, RP_NAME_RIG, 0, 0)
                                            : rp_image_name_of(image, RP_NAME_STOP, event->source, 0);
    case RP_EVENT_SPENT:
    case RP_EVENT_TIRED:
    case RP_EVENT_HAND:
    case RP_EVENT_RELEASED:
        return rp_image_name_of(image, RP_NAME_SLOT, rp_image_actuator_slot(image, event->source), 0);
    default:
        return rp_image_name_of(image, RP_NAME_RIG, 0, 0);
    }
}

const char *rp_tell_subject(const rp_image_header *image, const rp_event *event)
{
    const rp_image_name *name = name_of_event(image, event);
    return name ? (const char *)rp_image_at(image, RP_SECTION_TEXT) + name->text : "?";
}

uint32_t rp_tell_line(const rp_image_header *image, const rp_event *event)
{
    const rp_image_name *name = name_of_event(image, event);
    return name && name->kind != RP_NAME_RIG ? name->line : 0;
}

const char *rp_tell_command_subject(const rp_image_header *image, const rp_command *command)
{
    switch (command->what) {
    case RP_COMMAND_SET:
    case RP_COMMAND_RELEARN:
        return rp_image_text(image, RP_NAME_SLOT, command->which, 0);
    case RP_COMMAND_HAND:
    case RP_COMMAND_HOLD:
    case RP_COMMAND_RELEASE:
        return rp_image_text(image, RP_NAME_SLOT, rp_image_actuator_slot(image, command->which), 0);
    case RP_COMMAND_PLACE:
    case RP_COMMAND_LET_GO:
        return rp_image_text(image, RP_NAME_SLOT, rp_image_sensor_slot(image, command->which), 0);
    default:
        return "";
    }
}

/* An event and all that is needed to put it into words. */
typedef struct telling {
    const rp_image_header *image;
    const rp_frame_shape *shape;
    const rp_frame *frame;
    const rp_event *event;
    const char *subject;
    uint32_t line;
    GString *to;
} telling;

static void tell_fired(const telling *t)
{
    g_string_append_printf(t->to, "%s (line %u) fired, since ", t->subject, t->line);
    rp_tell_why(t->image, t->shape, t->frame, t->event->source, t->to);
    g_string_append(t->to, ": ");
    rp_tell_actions(t->image, t->shape, t->frame, t->event->source, t->to);
}

static void tell_dropped(const telling *t)
{
    g_string_append_printf(t->to, "%s (line %u) did not fire: it is %s", t->subject, t->line,
                           t->event->reason == RP_PULSE_ACTING ? "still acting" : "in its holdoff");
}

static void tell_ended(const telling *t)
{
    g_string_append_printf(t->to, "%s: the timed action is over", t->subject);
}

static void tell_mark(const telling *t)
{
    const rp_image_action *action =
        (const rp_image_action *)rp_image_at(t->image, RP_SECTION_ACTIONS) + t->event->source;
    g_string_append_printf(t->to, "mark '%s'", t->subject);
    if (action->value == RP_REF_NONE) {
        return;
    }
    g_string_append(t->to, ": ");
    if (rp_usable(t->event->reason)) {
        rp_tell_number((double)t->event->value, rp_image_unit(t->image, RP_NAME_MARK, t->event->source, 0), t->to);
    } else {
        g_string_append(t->to, rp_quality_text(t->event->reason));
    }
}

static void tell_param(const telling *t)
{
    g_string_append_printf(t->to, "%s is now ", t->subject);
    rp_tell_value(t->image, t->event->source, t->event->value, t->to);
}

static void tell_sensor(const telling *t)
{
    g_string_append_printf(t->to, "sensor %s: %s", t->subject, rp_quality_text(t->event->reason));
}

static void tell_fault(const telling *t)
{
    g_string_append_printf(t->to, "fault: sensor %s has been %s for too long; what needs it is at rest", t->subject,
                           rp_quality_text(t->event->reason));
}

static void tell_recovered(const telling *t)
{
    g_string_append_printf(t->to, "sensor %s has been well for long enough; what needs it may act again", t->subject);
}

static void tell_learned(const telling *t)
{
    if (t->event->reason != RP_LEARNED_ZERO) {
        const bool learned = t->event->reason == RP_LEARNED_SPAN;
        g_string_append_printf(t->to, "%s: %s ", t->subject,
                               learned ? "span learned, what goes in moved by"
                                       : "span not learned, the practice begins anew: what goes in moved by only");
        rp_tell_number((double)t->event->value, "", t->to);
        return;
    }
    g_string_append_printf(t->to, "%s: zero learned, ", t->subject);
    rp_tell_number((double)t->event->value, "", t->to);
    g_string_append(t->to, " is taken off");
}

static void tell_gave_up(const telling *t)
{
    g_string_append_printf(t->to, "fault: the zero of %s could not be learned: in the last window it moved by ",
                           t->subject);
    rp_tell_number((double)t->event->value, "", t->to);
}

static void tell_guard(const telling *t)
{
    const rp_image_guard *guard = (const rp_image_guard *)rp_image_at(t->image, RP_SECTION_GUARDS) + t->event->source;
    const uint32_t slot = rp_image_actuator_slot(t->image, guard->actuator);
    const char *actuator = rp_image_text(t->image, RP_NAME_SLOT, slot, 0);
    if (t->event->reason) {
        g_string_append_printf(t->to, "%s (line %u) keeps %s no longer", t->subject, t->line, actuator);
        return;
    }
    g_string_append_printf(t->to, "%s (line %u) keeps %s at ", t->subject, t->line, actuator);
    rp_tell_value(t->image, slot, t->event->value, t->to);
}

static void tell_spent(const telling *t)
{
    g_string_append_printf(t->to, "%s has been driven for its longest, ", t->subject);
    rp_tell_number((double)t->event->value, "s", t->to);
    g_string_append(t->to, ": it rests until nobody asks for it");
}

static void tell_begun(const telling *t)
{
    g_string_append_printf(t->to, "%s begins%s", t->subject, t->event->reason ? " anew" : "");
}

static void tell_finished(const telling *t)
{
    static const char *const how[] = {"is done", "is ended", "ends: what it lives in is no longer so"};
    g_string_append_printf(t->to, "%s %s", t->subject, how[t->event->reason % G_N_ELEMENTS(how)]);
}

static void tell_failed(const telling *t)
{
    static const char *const how[] = {"has not come in time", "cannot be known", "needs a sensor that has a fault"};
    const rp_image_sequence *of =
        (const rp_image_sequence *)rp_image_at(t->image, RP_SECTION_SEQUENCES) + t->event->source;
    const rp_image_name *at =
        rp_image_name_of(t->image, RP_NAME_PART, rp_image_state_slot(t->image, of->state), (uint32_t)t->event->value);
    g_string_append_printf(t->to, "fault: %s has failed at line %u, '%s': it %s", t->subject, at ? at->line : t->line,
                           at ? (const char *)rp_image_at(t->image, RP_SECTION_TEXT) + at->text : "?",
                           how[t->event->reason % G_N_ELEMENTS(how)]);
}

static void tell_engaged(const telling *t)
{
    g_string_append_printf(t->to, "%s engages", t->subject);
}

static void tell_held(const telling *t)
{
    g_string_append_printf(t->to, "%s is held: what it measures is bad", t->subject);
}

static void tell_cut_out(const telling *t)
{
    const bool again = t->event->value != 0.0f;
    g_string_append_printf(t->to, "%s%s cuts out: %s; %s", again ? "" : "fault: ", t->subject,
                           rp_cut_text(t->event->reason),
                           again ? "it engages again near its setpoint" : "it rests until faults are cleared");
}

static void tell_tired(const telling *t)
{
    g_string_append_printf(t->to, "%s has spent its duty: it rests for ", t->subject);
    rp_tell_number((double)t->event->value, "s", t->to);
}

static void tell_stalled(const telling *t)
{
    const rp_image_stall *stall = (const rp_image_stall *)rp_image_at(t->image, RP_SECTION_STALLS) + t->event->source;
    g_string_append_printf(t->to, "%s (line %u): %s is driven and nothing moves: it rests until nobody asks for it",
                           t->subject, t->line,
                           rp_image_text(t->image, RP_NAME_SLOT, rp_image_actuator_slot(t->image, stall->actuator), 0));
}

static void tell_edge(const telling *t)
{
    g_string_append_printf(t->to, "%s went %s, ", t->subject, t->event->reason ? "on" : "off");
    rp_tell_number((double)t->event->value / 1000.0, "ms", t->to);
    g_string_append(t->to, " before this tick");
}

static void tell_storm(const telling *t)
{
    if (t->event->value > 0.0f) {
        g_string_append_printf(t->to, "%s: '%s' %.0f times more", t->subject, rp_event_word(t->event->reason),
                               (double)t->event->value);
    } else {
        g_string_append_printf(t->to, "%s: '%s' again and again; told in short from here", t->subject,
                               rp_event_word(t->event->reason));
    }
}

static void tell_overflow(const telling *t)
{
    g_string_append_printf(t->to, "%s changed %.0f times more than there was room for", t->subject,
                           (double)t->event->value);
}

static void tell_cleared(const telling *t)
{
    g_string_append(t->to, "faults cleared");
}

static void tell_hand(const telling *t)
{
    g_string_append_printf(t->to, "%s by hand: ", t->subject);
    rp_tell_value(t->image, rp_image_actuator_slot(t->image, t->event->source), t->event->value, t->to);
}

static void tell_released(const telling *t)
{
    g_string_append_printf(t->to, "%s given back by the hand", t->subject);
}

static void tell_stopped(const telling *t)
{
    if (t->event->source == RP_REF_NONE) {
        g_string_append(t->to, "stopped: everything to rest");
    } else {
        g_string_append_printf(t->to, "%s (line %u): everything to rest", t->subject, t->line);
    }
}

static void tell_resumed(const telling *t)
{
    g_string_append(t->to, "resumed");
}

static void (*const tell_kind[RP_EVENTS])(const telling *t) = {
    [RP_EVENT_FIRED] = tell_fired,         [RP_EVENT_DROPPED] = tell_dropped, [RP_EVENT_ENDED] = tell_ended,
    [RP_EVENT_MARK] = tell_mark,           [RP_EVENT_PARAM] = tell_param,     [RP_EVENT_SENSOR] = tell_sensor,
    [RP_EVENT_FAULT] = tell_fault,         [RP_EVENT_LEARNED] = tell_learned, [RP_EVENT_GAVE_UP] = tell_gave_up,
    [RP_EVENT_GUARD] = tell_guard,         [RP_EVENT_SPENT] = tell_spent,     [RP_EVENT_BEGUN] = tell_begun,
    [RP_EVENT_FINISHED] = tell_finished,   [RP_EVENT_FAILED] = tell_failed,   [RP_EVENT_TIRED] = tell_tired,
    [RP_EVENT_STALLED] = tell_stalled,     [RP_EVENT_EDGE] = tell_edge,       [RP_EVENT_STORM] = tell_storm,
    [RP_EVENT_OVERFLOW] = tell_overflow,   [RP_EVENT_CLEARED] = tell_cleared, [RP_EVENT_HAND] = tell_hand,
    [RP_EVENT_RELEASED] = tell_released,   [RP_EVENT_STOPPED] = tell_stopped, [RP_EVENT_RESUMED] = tell_resumed,
    [RP_EVENT_RECOVERED] = tell_recovered, [RP_EVENT_ENGAGED] = tell_engaged, [RP_EVENT_HELD] = tell_held,
    [RP_EVENT_CUT_OUT] = tell_cut_out,
};

void rp_tell_event(const rp_image_header *image, const rp_frame_shape *shape, const rp_frame *frame,
                   const rp_event *event, GString *to)
{
    const telling t = {image, shape, frame, event, rp_tell_subject(image, event), rp_tell_line(image, event), to};
    if (event->kind < RP_EVENTS && tell_kind[event->kind]) {
        tell_kind[event->kind](&t);
    } else {
        g_string_append(to, rp_event_word(event->kind));
    }
}
