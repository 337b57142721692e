/* Frames as plain lines: readings each second, events with their reasons. */
#include "live.h"

#include "explain/describe.h"

#include <stdio.h>
#include <string.h>

#define ROW_US         1000000u
#define ROWS_A_HEADING 20u
#define WAITS_US       1000000u /* that a loop may wait without a word */
#define COLUMN_LEAST   8
#define PART_MOST      26

typedef struct live_column {
    uint32_t slot;
    int width;
} live_column;

/* Letters of the longest name that a value of this slot can have, and that is shown whole. */
static int longest_part(const rgp_image_header *image, uint32_t slot)
{
    glong longest = 0;
    for (uint32_t part = 0; rgp_image_name_of(image, RGP_NAME_PART, slot, part); part++) {
        longest = MAX(longest, g_utf8_strlen(rgp_image_text(image, RGP_NAME_PART, slot, part), -1));
    }
    return (int)MIN(longest, PART_MOST);
}

static void add_columns(live *l, uint32_t from, uint32_t end)
{
    for (uint32_t slot = from; slot < end; slot++) {
        if (rgp_image_name_of(l->image, RGP_NAME_SLOT, slot, 0) && !rgp_image_is_detail(l->image, slot)) {
            const glong name = g_utf8_strlen(rgp_image_text(l->image, RGP_NAME_SLOT, slot, 0), -1);
            const glong unit = g_utf8_strlen(rgp_image_unit(l->image, RGP_NAME_SLOT, slot, 0), -1);
            const live_column column = {slot,
                                        MAX(MAX(COLUMN_LEAST, (int)MAX(name, unit)), longest_part(l->image, slot))};
            g_array_append_val(l->column, column);
        }
    }
}

void live_begin(live *l, const rgp_image_header *image, bool events_only)
{
    *l = (live){.image = image, .events_only = events_only};
    l->column = g_array_new(FALSE, FALSE, sizeof(live_column));
    l->zeros = drift_new(image);
    l->waits_us = g_new0(uint64_t, rgp_image_count(image, RGP_SECTION_LOOPS) + 1);
    const uint32_t sensors = rgp_image_sensor_slot(image, 0), actuators = rgp_image_actuator_slot(image, 0);
    const uint32_t computed = actuators + rgp_image_count(image, RGP_SECTION_ACTUATORS);
    add_columns(l, sensors, actuators);
    add_columns(l, computed, image->slots);
    add_columns(l, actuators, computed);
}

void live_end(live *l)
{
    g_array_unref(l->column);
    drift_free(l->zeros);
    g_free(l->waits_us);
}

static void put_right(const char *text, int width)
{
    const int length = (int)g_utf8_strlen(text, -1);
    if (length > width) {
        g_autofree char *head = g_utf8_substring(text, 0, width - 1);
        printf("  %s…", head);
    } else {
        printf("  %*s%s", width - length, "", text);
    }
}

static void print_heading(const live *l)
{
    printf("\n%8s", "time");
    for (guint i = 0; i < l->column->len; i++) {
        const live_column c = g_array_index(l->column, live_column, i);
        put_right(rgp_image_text(l->image, RGP_NAME_SLOT, c.slot, 0), c.width);
    }
    printf("\n%8s", "s");
    for (guint i = 0; i < l->column->len; i++) {
        const live_column c = g_array_index(l->column, live_column, i);
        put_right(rgp_image_unit(l->image, RGP_NAME_SLOT, c.slot, 0), c.width);
    }
    putchar('\n');
}

static void print_row(live *l, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    g_autoptr(GString) text = g_string_new(NULL);
    if (l->rows++ % ROWS_A_HEADING == 0) {
        print_heading(l);
    }
    printf("%8.1f", (double)frame->time_us / 1e6);
    for (guint i = 0; i < l->column->len; i++) {
        const live_column c = g_array_index(l->column, live_column, i);
        const rgp_quality quality = rgp_frame_quality(layout, frame)[c.slot];
        g_string_truncate(text, 0);
        if (rgp_usable(quality)) {
            rgp_describe_cell(l->image, c.slot, rgp_frame_value(layout, frame)[c.slot], text);
        } else {
            g_string_assign(text, rgp_quality_word(quality));
        }
        put_right(text->str, c.width);
    }
    putchar('\n');
}

/* True for a mark that a rule puts: its firing tells of it. One that a sequence puts stands alone. */
static bool is_told_with_its_rule(const rgp_image_header *image, const rgp_event *event)
{
    const rgp_image_rule *rule = rgp_image_at(image, RGP_SECTION_RULES);
    bool is = false;
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_RULES) && event->kind == RGP_EVENT_MARK; i++) {
        is |= event->source >= rule[i].first_action && event->source < rule[i].first_action + rule[i].actions;
    }
    return is;
}

static void print_event(live *l, const rgp_frame_layout *layout, const rgp_frame *frame, const rgp_event *event)
{
    g_autoptr(GString) text = g_string_new(NULL);
    const double time = (double)frame->time_us / 1e6;
    if (event->kind == RGP_EVENT_FIRED) {
        l->fired++;
        rgp_describe_actions(l->image, layout, frame, event->source, text);
        printf("%8.3f  > %s\n", time, text->str);
        g_string_truncate(text, 0);
        rgp_describe_why(l->image, layout, frame, event->source, text);
        printf("%8s    because %s (line %u: %s)\n", "", text->str, rgp_event_line(l->image, event),
               rgp_event_subject(l->image, event));
    } else if (event->kind != RGP_EVENT_ENDED && !is_told_with_its_rule(l->image, event)) {
        l->faults += rgp_event_is_fault(event);
        rgp_describe_event(l->image, layout, frame, event, text);
        printf("%8.3f  > %s\n", time, text->str);
    }
}

/* A loop that has been waiting for a second says what for, once. */
static void print_waiting(live *l, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    const rgp_image_loop *loop = rgp_image_at(l->image, RGP_SECTION_LOOPS);
    for (uint32_t i = 0; i < rgp_image_count(l->image, RGP_SECTION_LOOPS); i++) {
        const float *value = rgp_frame_value(layout, frame);
        const rgp_quality *quality = rgp_frame_quality(layout, frame);
        const uint32_t error = loop[i].first + RGP_TERM_ERROR;
        if (value[loop[i].first] != (float)RGP_LOOP_WAITING) {
            l->waits_us[i] = frame->time_us;
        } else if (l->waits_us[i] != UINT64_MAX && frame->time_us - l->waits_us[i] >= WAITS_US) {
            g_autoptr(GString) text = g_string_new(NULL);
            rgp_describe_waiting(l->image, i, value[error], quality[error], text);
            printf("%8.3f  > %s %s\n", (double)frame->time_us / 1e6, rgp_image_text(l->image, RGP_NAME_LOOP, i, 0),
                   text->str);
            l->waits_us[i] = UINT64_MAX;
        }
    }
}

bool live_frame(live *l, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    const rgp_event *event = rgp_frame_event(layout, frame);
    for (uint32_t i = 0; i < frame->events; i++) {
        if (event[i].kind != RGP_EVENT_EDGE) {
            print_event(l, layout, frame, &event[i]);
        }
    }
    drift_frame(l->zeros, layout, frame);
    print_waiting(l, layout, frame);
    if (!l->events_only && frame->time_us >= l->next_us) {
        l->next_us = (frame->time_us / ROW_US + 1) * ROW_US;
        print_row(l, layout, frame);
    }
    return ferror(stdout) == 0;
}
