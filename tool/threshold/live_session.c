/* A live session takes each tick: it keeps idle time, and catches events. */
#include "live_session.h"

#include "explain/describe.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>

#include <readline/readline.h>

#define AROUND_S 0.2 /* a stretch reaches so far before and behind what was caught */

void live_tell(const session *s, const char *format, ...)
{
    va_list arguments;
    if (s->prompts) {
        rl_clear_visible_line();
    }
    va_start(arguments, format);
    vprintf(format, arguments);
    va_end(arguments);
    putchar('\n');
    if (s->prompts) {
        rl_on_new_line();
    }
}

void live_put_value(const session *s, double value, GString *to)
{
    rgp_describe_number(value, s->unit, to);
}

guint live_events(const session *s)
{
    guint count = 0;
    for (guint i = 0; i < s->stretch->len; i++) {
        count += !g_array_index(s->stretch, stretch, i).idle;
    }
    return count;
}

bool live_add(session *s, bool idle, double from, double to)
{
    const guint count = s->stretch->len;
    const double free = count > 0 ? g_array_index(s->stretch, stretch, count - 1).to : 0.0;
    const stretch one = {idle, fmax(from, free), to};
    if (one.from < one.to) {
        g_array_append_val(s->stretch, one);
    }
    return s->stretch->len > count;
}

void live_end_idle(session *s)
{
    s->is = PHASE_DONE;
    s->learned = catcher_learn(&s->catcher);
    if (!s->learned) {
        live_tell(s, "  too few readings for idle time; take it anew, and for longer");
        return;
    }
    g_autoptr(GString) text = g_string_new(NULL);
    live_add(s, true, s->began, s->now);
    g_string_append(text, "  idle for ");
    rgp_describe_span(s->now - s->began, text);
    g_string_append(text, ": usually ");
    live_put_value(s, s->catcher.median, text);
    g_string_append(text, ", caught is what goes ");
    if (s->catcher.above) {
        g_string_append(text, "above ");
        live_put_value(s, s->catcher.high, text);
    }
    if (s->catcher.below) {
        g_string_append(text, s->catcher.above ? " or below " : "below ");
        live_put_value(s, s->catcher.low, text);
    }
    live_tell(s, "%s", text->str);
}

static void take_catch(session *s)
{
    const caught *c = &s->catcher.now;
    g_autoptr(GString) text = g_string_new(NULL);
    live_add(s, false, c->from - AROUND_S, c->to + AROUND_S);
    g_string_append_printf(text, "  %s %u: %s to ", s->setup->event, live_events(s),
                           c->peak > s->catcher.median ? "up" : "down");
    live_put_value(s, c->peak, text);
    if (c->to > c->from) {
        g_string_append(text, ", for ");
        rgp_describe_span(c->to - c->from, text);
    } else {
        g_string_append(text, ", in one reading");
    }
    live_tell(s, "%s, at %.2f s", text->str, c->from);
    if (--s->wanted == 0) {
        s->is = PHASE_DONE;
    }
}

static void catch_events(session *s)
{
    switch (catcher_value(&s->catcher, s->now, s->value)) {
    case CATCH_TAKEN:
        take_catch(s);
        break;
    case CATCH_TOO_LONG:
        live_tell(s, "  refused: it has been beyond for %.0f s, which is no event; has idle time become another?",
                  CATCH_MOST_S);
        break;
    case CATCH_BAD:
        live_tell(s, "  refused: it could not be read at %.2f s", s->now);
        break;
    default:
        break;
    }
}

bool live_frame_comes(void *self, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    session *s = self;
    const bool usable = rgp_usable(rgp_frame_quality(layout, frame)[s->slot]);
    s->now = (double)frame->time_us / 1e6;
    s->value = usable ? (double)rgp_frame_value(layout, frame)[s->slot] : (double)NAN;
    if (s->is == PHASE_IDLES) {
        catcher_idle(&s->catcher, s->value);
    } else if (s->is == PHASE_CATCHES) {
        catch_events(s);
    }
    return true;
}

/* The time of a phase is over. */
static void look_at_time(session *s)
{
    if (s->is == PHASE_IDLES && s->now >= s->until) {
        live_end_idle(s);
    } else if (s->is == PHASE_CATCHES && s->now >= s->until) {
        live_tell(s, "  %u more %s to come within that time", s->wanted, s->wanted == 1 ? "was" : "were");
        s->is = PHASE_DONE;
    } else if (s->is == PHASE_WAITS && s->now >= s->until) {
        s->is = PHASE_DONE;
    }
}

bool live_go_on(session *s)
{
    const bool runs = rgp_door_advance(s->door, (uint64_t)((s->now + 0.1) * 1e6));
    look_at_time(s);
    fflush(stdout);
    return runs;
}
