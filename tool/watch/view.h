/* The state of the full-screen view: what it looks at, where in time, and what the person is doing. */
#ifndef TOOL_WATCH_VIEW_H
#define TOOL_WATCH_VIEW_H

#include "tool/terminal/screen.h"
#include "runtime/door.h"

#include "rigpulse/lang.h"

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

typedef struct view view;

/* A line that is typed at the bottom. */
typedef struct view_prompt {
    char *question; /* NULL: nothing is asked */
    GString *answer;
    bool (*take)(view *v, const char *answer); /* false: it is refused, which has been said, and stays to be mended */
    uint32_t which;                            /* for whoever takes it */
} view_prompt;

struct view {
    const rp_rig *rig;
    const rp_image_header *image;
    rp_door *door;
    rp_history *history; /* while it is looked at */
    const char *path;    /* of the rig file; NULL: of a recording */
    rp_rig *file;        /* as it stands on the disk, once something has been written */
    GArray *item;        /* of view_item */
    guint selected, top;
    view_item nothing;
    bool frozen;
    uint64_t row;      /* that is shown */
    uint64_t was_row;  /* before the last jump; UINT64_MAX: there was none */
    uint64_t right_us; /* time at the right edge of the chart */
    double span;       /* seconds in the chart */
    bool close;        /* the scales are those of the curves alone */
    double pace;       /* times as fast as the wall clock */
    view_scale scale[PANELS_MOST];
    struct {
        guint item;
        double value;
        gint64 until;
    } asked;         /* a value that was asked for and may not be seen yet */
    char *recording; /* what is being recorded */
    char *note;      /* what was just done, or is wrong */
    gint64 note_until;
    view_prompt prompt;
    bool help, leaving, stopped;
    gint64 clear_until; /* a second press clears the faults */
    bool *changed;      /* by parameter: a person has changed it */
    bool complained;    /* of the recording; once is enough */
};

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
    return (double)rp_history_time_us(v->history, row) / 1e6;
}

/* The name and the unit of an item's column. */
const char *view_name(const view *v, const view_item *item);
const char *view_unit(const view *v, const view_item *item);

/* Said at the bottom for a while. */
void view_say(view *v, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* Asks for a line at the bottom. */
void view_ask(view *v, bool (*take)(view *v, const char *answer), uint32_t which, const char *format, ...)
    G_GNUC_PRINTF(4, 5);

/* The last time before the shown row that the rule of that line fired; NULL: not yet. */
const rp_occurrence *view_last_firing(const view *v, uint32_t line);

/* watch_list.c, watch_chart.c, watch_events.c: the parts of the picture, within the given cells. */
void view_draw_list(view *v, int row, int rows, int width);
void view_draw_chart(view *v, int row, int column, int rows, int width);
/* The chosen line's note in full, where its row has no room for it; returns the rows it took. */
int view_draw_chosen(const view *v, int row, int rows, int width);
void view_draw_events(const view *v, int row, int column, int rows, int width);

/* watch_keys.c */
void view_key(view *v, int key);
void view_draw_help(void);
void view_draw_hints(view *v, int row, int width);

#endif
