/* A look at a run: its channels as a list, chosen ones as curves, its events, at a place in time. The parts of the
 * picture are drawn from the history alone. */
#ifndef TOOL_TERMINAL_VIEW_H
#define TOOL_TERMINAL_VIEW_H

#include "runtime/history.h"

typedef enum item_kind { ITEM_SENSOR, ITEM_SIGNAL, ITEM_BANDS, ITEM_PARAM, ITEM_ACTUATOR, ITEM_RULE } item_kind;

#define SERIES_MOST 6
#define PANELS_MOST 3

/* A line of the list. */
typedef struct view_item {
    item_kind kind;
    uint32_t index; /* slot; of a rule its number */
    uint32_t column;
    int series; /* in the chart, or -1 */
    int apart;  /* curves of one unit with different numbers have axes of their own */
} view_item;

typedef struct view_scale {
    bool fixed;
    double low, high;
} view_scale;

typedef struct view {
    const rgp_image_header *image;
    rgp_history *history; /* while it is looked at */
    GArray *item;         /* of view_item */
    guint selected, top;
    view_item nothing;
    bool frozen;
    uint64_t row;      /* that is shown */
    uint64_t right_us; /* time at the right edge of the chart */
    double span;       /* seconds in the chart */
    bool close;        /* the scales are those of the curves alone */
    view_scale scale[PANELS_MOST];
} view;

static inline view_item *view_item_at(const view *v, guint i)
{
    return &g_array_index(v->item, view_item, i);
}

/* The chosen line; of a rig in which there is nothing, one that nothing can be done with. */
static inline view_item *view_selected(view *v)
{
    v->nothing = (view_item){ITEM_RULE, 0, 0, -1, 0};
    return v->item->len > 0 ? view_item_at(v, v->selected) : &v->nothing;
}

static inline double view_time(const view *v, uint64_t row)
{
    return (double)rgp_history_time_us(v->history, row) / 1e6;
}

static inline rgp_quality view_quality(const view *v, const view_item *i)
{
    return rgp_history_quality(v->history, i->column, v->row);
}

static inline float view_value(const view *v, const view_item *i)
{
    return rgp_history_value(v->history, i->column, v->row);
}

/* True of a sequence: its value is the step that it is at. */
bool view_is_sequence(const view *v, const view_item *item);

/* The note of an item: what there is to know besides its value. */
void view_put_note(const view *v, const view_item *item, GString *to);

/* The name and the unit of an item's column. */
const char *view_name(const view *v, const view_item *item);
const char *view_unit(const view *v, const view_item *item);

/* The last time before the shown row that the rule of that line fired; NULL: not yet. */
const rgp_occurrence *view_last_firing(const view *v, uint32_t line);

/* The parts of the picture, within the given cells: list.c, chart.c, events.c. */
void view_draw_list(view *v, int row, int rows, int width);
void view_draw_chart(view *v, int row, int column, int rows, int width);
/* The chosen line's note in full, where its row has no room for it; returns the rows it took. */
int view_draw_chosen(const view *v, int row, int rows, int width);
void view_draw_events(const view *v, int row, int column, int rows, int width);

#endif
