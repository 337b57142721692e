/* The events of a recording, put into its history while the rows are read that they belong to. */
#include "recording_parts.h"

#include "explain/describe.h"
#include "files/files.h"
#include "record_name.h"

#include <math.h>
#include <string.h>

typedef struct rgp_events_reading {
    char *text, *next; /* the file, and the line that is read next */
    json_t *waiting;   /* the line before it, whose row is not there yet; NULL: none */
    double time;       /* of that */
} rgp_events_reading;

static uint8_t kind_of(const char *word)
{
    uint8_t kind = 0;
    while (kind < RGP_EVENTS && strcmp(rgp_event_word(kind), word) != 0) {
        kind++;
    }
    return kind;
}

/* A copy that can be shown; of NULL, NULL. */
static char *shown(const char *text)
{
    char *copy = g_strdup(text);
    return copy ? rgp_make_printable(copy, false) : NULL;
}

/* The row of the first tick that is not before it; of what is behind all, the last one. */
static void put_event(rgp_recording *to, json_t *event)
{
    const char *kind, *of, *says, *why = NULL, *did = NULL;
    double time;
    int rig_line = 0;
    if (json_unpack(event, "{s:F, s:s, s:s, s:s, s?i, s?s, s?s}", "t", &time, "event", &kind, "of", &of, "says", &says,
                    "line", &rig_line, "why", &why, "did", &did) != 0 ||
        kind_of(kind) == RGP_EVENT_EDGE) {
        return;
    }
    const uint64_t row = rgp_history_find(to->history, (uint64_t)llround(CLAMP(time, 0.0, 1e12) * 1e6));
    const rgp_occurrence o = {.row = MIN(row, to->rows - 1u),
                              .time = time,
                              .kind = kind_of(kind),
                              .line = rig_line > 0 ? (uint32_t)rig_line : 0,
                              .of = shown(of),
                              .says = shown(says),
                              .why = shown(why),
                              .did = shown(did)};
    rgp_history_occurred(to->history, &o);
    if (o.kind == RGP_EVENT_FIRED && !to->index) {
        rgp_recording_rule_fired(to, o.line, (uint32_t)o.row);
    }
}

static void take_waiting(rgp_recording *to)
{
    rgp_events_reading *e = to->events;
    put_event(to, e->waiting);
    rgp_inputs_line(to->inputs, e->waiting);
    json_decref(e->waiting);
    e->waiting = NULL;
}

/* False when there is no further line. */
static bool read_line(rgp_events_reading *e)
{
    while (!e->waiting && *e->next) {
        char *line = e->next, *end = line + strcspn(line, "\n");
        e->next = *end ? end + 1 : end;
        *end = '\0';
        e->waiting = json_loads(line, 0, NULL);
        const json_t *time = json_object_get(e->waiting, "t");
        e->time = json_is_number(time) ? json_number_value(time) : 0.0;
    }
    return e->waiting != NULL;
}

void rgp_recording_begin_events(rgp_recording *to)
{
    g_autofree char *path = record_part(to->name, RECORD_EVENTS), *text = NULL;
    if (rgp_file_read(path, &text, NULL, NULL)) {
        to->events = g_new0(rgp_events_reading, 1);
        to->events->text = to->events->next = g_steal_pointer(&text);
    }
}

void rgp_recording_row_is_read(rgp_recording *to)
{
    const double now = (double)rgp_recording_time_us(to, to->rows - 1) / 1e6;
    while (to->events && read_line(to->events) && to->events->time <= now + 5e-7) {
        take_waiting(to);
    }
    rgp_recording_put_timers(to, to->rows - 1, rgp_recording_time_us(to, to->rows - 1));
}

void rgp_recording_end_events(rgp_recording *to)
{
    while (to->events && to->rows > 0 && read_line(to->events)) {
        take_waiting(to);
    }
    if (to->events) {
        json_decref(to->events->waiting);
        g_free(to->events->text);
        g_clear_pointer(&to->events, g_free);
    }
}
