/* Events and commands as lines of JSON. */
#include "event_line.h"

#include "explain/describe.h"

json_t *rgp_event_as_line(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                          const rgp_event *event)
{
    g_autoptr(GString) said = g_string_new(NULL);
    const bool edge = event->kind == RGP_EVENT_EDGE; /* has its own moment */
    const double time = ((double)frame->time_us - (edge ? (double)event->value : 0.0)) / 1e6;
    json_t *line = json_pack("{s:f, s:s, s:s}", "t", time, "event", rgp_event_word(event->kind), "of",
                             rgp_event_subject(image, event));
    const uint32_t where = rgp_event_line(image, event);
    if (where) {
        json_object_set_new(line, "line", json_integer(where));
    }
    if (event->kind == RGP_EVENT_PARAM && event->reason) {
        json_object_set_new(line, "by", json_string("rule"));
    }
    if (event->kind == RGP_EVENT_PARAM || event->kind == RGP_EVENT_HAND) {
        json_object_set_new(line, "value", json_real((double)event->value));
    } else if (edge) {
        json_object_set_new(line, "value", json_integer(event->reason));
        json_object_set_new(line, "tick", json_integer((json_int_t)frame->number));
        json_object_set_new(line, "us", json_integer((json_int_t)event->time_us));
    } else if (event->kind == RGP_EVENT_OVERFLOW) {
        json_object_set_new(line, "value", json_integer((json_int_t)event->value));
        json_object_set_new(line, "tick", json_integer((json_int_t)frame->number));
    }
    if (event->kind == RGP_EVENT_FIRED) {
        rgp_describe_why(image, layout, frame, event->source, said);
        json_object_set_new(line, "why", json_string(said->str));
        g_string_truncate(said, 0);
        rgp_describe_actions(image, layout, frame, event->source, said);
        json_object_set_new(line, "did", json_string(said->str));
        g_string_truncate(said, 0);
    }
    rgp_describe_event(image, layout, frame, event, said);
    json_object_set_new(line, "says", json_string(said->str));
    return line;
}

json_t *rgp_command_as_line(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                            uint32_t order)
{
    const rgp_command *c = &rgp_frame_command(layout, frame)[order];
    const char *of = rgp_describe_command_subject(image, c);
    json_t *line = json_pack("{s:f, s:b, s:I, s:I, s:s, s:s, s:f}", "t", (double)frame->time_us / 1e6, "in", 1, "tick",
                             (json_int_t)frame->number, "order", (json_int_t)order, "by", rgp_author_word(c->by), "do",
                             rgp_command_word(c->what), "value", (double)c->value);
    if (*of) {
        json_object_set_new(line, "of", json_string(of));
    }
    if (c->what == RGP_COMMAND_DISTURB) {
        json_object_set_new(line, "which", json_integer(c->which));
    }
    if (c->what == RGP_COMMAND_HOLD) {
        json_object_set_new(line, "seconds", json_real((double)c->seconds));
    }
    return line;
}

char *rgp_line_text(const json_t *line)
{
    return json_dumps(line, JSON_COMPACT | JSON_REAL_PRECISION(12));
}
