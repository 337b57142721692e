/* Events and commands in words: a function for each kind, in a table. */
#include "describe.h"

#include <math.h>

const char *rgp_describe_command_subject(const rgp_image_header *image, const rgp_command *command)
{
    switch (command->what) {
    case RGP_COMMAND_SET:
    case RGP_COMMAND_RELEARN:
        return rgp_image_text(image, RGP_NAME_SLOT, command->which, 0);
    case RGP_COMMAND_HAND:
    case RGP_COMMAND_HOLD:
    case RGP_COMMAND_RELEASE:
    case RGP_COMMAND_LOSE:
    case RGP_COMMAND_REGAIN:
        return rgp_image_text(image, RGP_NAME_SLOT, rgp_image_actuator_slot(image, command->which), 0);
    case RGP_COMMAND_PLACE:
    case RGP_COMMAND_LET_GO:
        return rgp_image_text(image, RGP_NAME_SLOT, rgp_image_sensor_slot(image, command->which), 0);
    default:
        return "";
    }
}

/* An event and all that is needed to put it into words. */
typedef struct description {
    const rgp_image_header *image;
    const rgp_frame_layout *layout;
    const rgp_frame *frame;
    const rgp_event *event;
    const char *subject;
    uint32_t line;
    GString *to;
} description;

static void describe_fired(const description *t)
{
    g_string_append_printf(t->to, "%s (line %u) fired, since ", t->subject, t->line);
    rgp_describe_why(t->image, t->layout, t->frame, t->event->source, t->to);
    g_string_append(t->to, ": ");
    rgp_describe_actions(t->image, t->layout, t->frame, t->event->source, t->to);
}

static void describe_dropped(const description *t)
{
    g_string_append_printf(t->to, "%s (line %u) did not fire: it is %s", t->subject, t->line,
                           t->event->reason == RGP_PULSE_ACTING ? "still acting" : "in its holdoff");
}

static void describe_ended(const description *t)
{
    g_string_append_printf(t->to, "%s: the timed action is over", t->subject);
}

static void describe_mark(const description *t)
{
    const rgp_image_action *action =
        (const rgp_image_action *)rgp_image_at(t->image, RGP_SECTION_ACTIONS) + t->event->source;
    g_string_append_printf(t->to, "mark '%s'", t->subject);
    if (action->value == RGP_REF_NONE) {
        return;
    }
    g_string_append(t->to, ": ");
    if (rgp_usable(t->event->reason)) {
        rgp_describe_number((double)t->event->value, rgp_image_unit(t->image, RGP_NAME_MARK, t->event->source, 0),
                            t->to);
    } else {
        g_string_append(t->to, rgp_quality_text(t->event->reason));
    }
}

static void describe_param(const description *t)
{
    g_string_append_printf(t->to, "%s is now ", t->subject);
    rgp_describe_value(t->image, t->event->source, t->event->value, t->to);
}

static void describe_sensor(const description *t)
{
    g_string_append_printf(t->to, "sensor %s: %s", t->subject, rgp_quality_text(t->event->reason));
}

static void describe_fault(const description *t)
{
    g_string_append_printf(t->to, "fault: sensor %s has been %s for too long; what needs it is at rest", t->subject,
                           rgp_quality_text(t->event->reason));
}

static void describe_recovered(const description *t)
{
    g_string_append_printf(t->to, "sensor %s has been well for long enough; what needs it may act again", t->subject);
}

static void describe_learned(const description *t)
{
    if (t->event->reason != RGP_LEARNED_ZERO) {
        const bool learned = t->event->reason == RGP_LEARNED_SPAN;
        g_string_append_printf(t->to, "%s: %s ", t->subject,
                               learned ? "span learned, what goes in moved by"
                                       : "span not learned, the practice begins anew: what goes in moved by only");
        rgp_describe_number((double)t->event->value, "", t->to);
        return;
    }
    g_string_append_printf(t->to, "%s: zero learned, ", t->subject);
    rgp_describe_number((double)t->event->value, "", t->to);
    g_string_append(t->to, " is taken off");
}

static void describe_gave_up(const description *t)
{
    g_string_append_printf(t->to, "fault: the zero of %s could not be learned: in the last window it moved by ",
                           t->subject);
    rgp_describe_number((double)t->event->value, "", t->to);
}

static void describe_guard(const description *t)
{
    const rgp_image_guard *guard =
        (const rgp_image_guard *)rgp_image_at(t->image, RGP_SECTION_GUARDS) + t->event->source;
    const uint32_t slot = rgp_image_actuator_slot(t->image, guard->actuator);
    const char *actuator = rgp_image_text(t->image, RGP_NAME_SLOT, slot, 0);
    if (t->event->reason) {
        g_string_append_printf(t->to, "%s (line %u) keeps %s no longer", t->subject, t->line, actuator);
        return;
    }
    g_string_append_printf(t->to, "%s (line %u) keeps %s at ", t->subject, t->line, actuator);
    rgp_describe_value(t->image, slot, t->event->value, t->to);
}

static void describe_spent(const description *t)
{
    g_string_append_printf(t->to, "%s has been driven for its longest, ", t->subject);
    rgp_describe_number((double)t->event->value, "s", t->to);
    g_string_append(t->to, ": it rests until nobody asks for it");
}

static void describe_begun(const description *t)
{
    g_string_append_printf(t->to, "%s begins%s", t->subject, t->event->reason ? " anew" : "");
}

static void describe_finished(const description *t)
{
    static const char *const how[] = {"is done", "is ended", "ends: what it lives in is no longer so"};
    g_string_append_printf(t->to, "%s %s", t->subject, how[t->event->reason % G_N_ELEMENTS(how)]);
}

static void describe_failed(const description *t)
{
    static const char *const how[] = {"has not come in time", "cannot be known", "needs a sensor that has a fault"};
    const rgp_image_sequence *of =
        (const rgp_image_sequence *)rgp_image_at(t->image, RGP_SECTION_SEQUENCES) + t->event->source;
    const rgp_image_name *at = rgp_image_name_of(t->image, RGP_NAME_PART, rgp_image_state_slot(t->image, of->state),
                                                 (uint32_t)t->event->value);
    g_string_append_printf(t->to, "fault: %s has failed at line %u, '%s': it %s", t->subject, at ? at->line : t->line,
                           at ? (const char *)rgp_image_at(t->image, RGP_SECTION_TEXT) + at->text : "?",
                           how[t->event->reason % G_N_ELEMENTS(how)]);
}

static void describe_engaged(const description *t)
{
    g_string_append_printf(t->to, "%s engages", t->subject);
}

static void describe_held(const description *t)
{
    g_string_append_printf(t->to, "%s is held: what it measures is bad", t->subject);
}

static void describe_cut_out(const description *t)
{
    const bool again = t->event->value != 0.0f;
    g_string_append_printf(t->to, "%s%s cuts out: %s; %s", again ? "" : "fault: ", t->subject,
                           rgp_trip_text(t->event->reason),
                           again ? "it engages again near its setpoint" : "it rests until faults are cleared");
}

static void describe_tired(const description *t)
{
    g_string_append_printf(t->to, "%s has spent its duty: it rests for ", t->subject);
    rgp_describe_number((double)t->event->value, "s", t->to);
}

static void describe_stalled(const description *t)
{
    const rgp_image_stall *stall =
        (const rgp_image_stall *)rgp_image_at(t->image, RGP_SECTION_STALLS) + t->event->source;
    g_string_append_printf(
        t->to, "%s (line %u): %s is driven and nothing moves: it rests until nobody asks for it", t->subject, t->line,
        rgp_image_text(t->image, RGP_NAME_SLOT, rgp_image_actuator_slot(t->image, stall->actuator), 0));
}

static void describe_edge(const description *t)
{
    g_string_append_printf(t->to, "%s went %s, ", t->subject, t->event->reason ? "on" : "off");
    rgp_describe_number((double)t->event->value / 1000.0, "ms", t->to);
    g_string_append(t->to, " before this tick");
}

static void describe_storm(const description *t)
{
    if (t->event->value > 0.0f) {
        g_string_append_printf(t->to, "%s: '%s' %.0f times more", t->subject, rgp_event_word(t->event->reason),
                               (double)t->event->value);
    } else {
        g_string_append_printf(t->to, "%s: '%s' again and again; told in short from here", t->subject,
                               rgp_event_word(t->event->reason));
    }
}

static void describe_overflow(const description *t)
{
    g_string_append_printf(t->to, "%s changed %.0f times more than there was room for", t->subject,
                           (double)t->event->value);
}

static void describe_cleared(const description *t)
{
    g_string_append(t->to, "faults cleared");
}

static void describe_hand(const description *t)
{
    g_string_append_printf(t->to, "%s by hand: ", t->subject);
    rgp_describe_value(t->image, rgp_image_actuator_slot(t->image, t->event->source), t->event->value, t->to);
}

static void describe_released(const description *t)
{
    g_string_append_printf(t->to, "%s given back by the hand", t->subject);
}

static void describe_stopped(const description *t)
{
    if (t->event->source == RGP_REF_NONE) {
        g_string_append(t->to, "stopped: everything to rest");
    } else {
        g_string_append_printf(t->to, "%s (line %u): everything to rest", t->subject, t->line);
    }
}

static void describe_resumed(const description *t)
{
    g_string_append(t->to, "resumed");
}

static void describe_lost(const description *t)
{
    g_string_append_printf(t->to, "fault: %s cannot be driven; it is nobody's, and rest is tried again and again",
                           t->subject);
}

static void describe_regained(const description *t)
{
    g_string_append_printf(t->to, "%s can be driven again", t->subject);
}

static void (*const describe_kind[RGP_EVENTS])(const description *t) = {
    [RGP_EVENT_FIRED] = describe_fired,         [RGP_EVENT_DROPPED] = describe_dropped,
    [RGP_EVENT_ENDED] = describe_ended,         [RGP_EVENT_MARK] = describe_mark,
    [RGP_EVENT_PARAM] = describe_param,         [RGP_EVENT_SENSOR] = describe_sensor,
    [RGP_EVENT_FAULT] = describe_fault,         [RGP_EVENT_LEARNED] = describe_learned,
    [RGP_EVENT_GAVE_UP] = describe_gave_up,     [RGP_EVENT_GUARD] = describe_guard,
    [RGP_EVENT_ON_TIME_LIMIT] = describe_spent, [RGP_EVENT_BEGUN] = describe_begun,
    [RGP_EVENT_FINISHED] = describe_finished,   [RGP_EVENT_FAILED] = describe_failed,
    [RGP_EVENT_DUTY_LIMIT] = describe_tired,    [RGP_EVENT_STALLED] = describe_stalled,
    [RGP_EVENT_EDGE] = describe_edge,           [RGP_EVENT_STORM] = describe_storm,
    [RGP_EVENT_OVERFLOW] = describe_overflow,   [RGP_EVENT_CLEARED] = describe_cleared,
    [RGP_EVENT_HAND] = describe_hand,           [RGP_EVENT_RELEASED] = describe_released,
    [RGP_EVENT_STOPPED] = describe_stopped,     [RGP_EVENT_RESUMED] = describe_resumed,
    [RGP_EVENT_RECOVERED] = describe_recovered, [RGP_EVENT_ENGAGED] = describe_engaged,
    [RGP_EVENT_HELD] = describe_held,           [RGP_EVENT_TRIPPED] = describe_cut_out,
    [RGP_EVENT_LOST] = describe_lost,           [RGP_EVENT_REGAINED] = describe_regained,
};

void rgp_describe_event(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                        const rgp_event *event, GString *to)
{
    const description t = {image, layout, frame, event, rgp_event_subject(image, event), rgp_event_line(image, event),
                           to};
    if (event->kind < RGP_EVENTS && describe_kind[event->kind]) {
        describe_kind[event->kind](&t);
    } else {
        g_string_append(to, rgp_event_word(event->kind));
    }
}
