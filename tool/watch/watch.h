/* Inside `rigpulse watch`: the view, and what the person is doing. */
#ifndef TOOL_WATCH_WATCH_H
#define TOOL_WATCH_WATCH_H

#include "runtime/door.h"
#include "tool/terminal/prompt.h"
#include "tool/terminal/view.h"

typedef struct watching {
    view view;
    rgp_door *door;
    const char *path; /* of the rig file; NULL: of a recording */
    rgp_rig *file;    /* as it stands on the disk, once something has been written */
    uint64_t was_row; /* before the last jump; UINT64_MAX: there was none */
    double pace;      /* times as fast as the wall clock */
    struct {
        guint item;
        double value;
        gint64 until;
    } asked;         /* a value that was asked for and may not be seen yet */
    char *recording; /* what is being recorded */
    note note;       /* what was just done, or is wrong */
    prompt prompt;
    bool begins; /* a stretch, at `begun` */
    double begun;
    guint picked;    /* which mark is to be put down elsewhere, from 1; 0: none */
    bool picked_end; /* the end of that stretch */
    bool help, leaving, stopped;
    gint64 clear_until;    /* a second press clears the faults */
    bool *changed;         /* by parameter: a person has changed it */
    bool complained;       /* of the recording; once is enough */
    char *trouble;         /* of a real device, that has been said; NULL: none */
    const char *recorded;  /* the recording that is looked at; NULL: a rig runs */
    struct watch_why *why; /* once it has been asked for */
    bool tells_why;        /* it is shown */
} watching;

/* Said at the bottom for a while; a line that is asked for there. */
void watch_say(watching *w, const char *format, ...) G_GNUC_PRINTF(2, 3);
void watch_ask(watching *w, prompt_take *take, uint32_t which, const char *format, ...) G_GNUC_PRINTF(4, 5);

/* False when the door refuses such a command, which has been said; RGP_COMMANDS: a mark or a recording. */
bool watch_may(watching *w, rgp_command_kind what);
void watch_ask_rig(watching *w, rgp_command_kind what, uint32_t which, float value);

/* items.c */
void watch_find_items(view *v);

/* draw.c */
void watch_draw(watching *w);

/* keys.c */
void watch_key(watching *w, int key);
void watch_draw_help(void);
void watch_draw_hints(const watching *w, int row, int width);

/* The keys' actions: time.c */
void watch_toggle_freeze(watching *w);
void watch_step_back(watching *w);
void watch_step_on(watching *w);
void watch_scroll_back(watching *w);
void watch_scroll_on(watching *w);
void watch_go_first(watching *w);
void watch_go_last(watching *w);
void watch_next_event(watching *w);
void watch_previous_event(watching *w);
void watch_ask_jump(watching *w);
void watch_jump_back(watching *w);

/* picture.c */
void watch_zoom_in(watching *w);
void watch_zoom_out(watching *w);
void watch_value_in(watching *w);
void watch_value_out(watching *w);
void watch_value_auto(watching *w);
void watch_toggle_series(watching *w);
void watch_select_up(watching *w);
void watch_select_down(watching *w);

/* values.c */
void watch_type_value(watching *w);
void watch_value_up(watching *w);
void watch_value_down(watching *w);
void watch_toggle_hand(watching *w);
void watch_toggle_rest(watching *w);
void watch_clear_faults(watching *w);
void watch_go_slower(watching *w);
void watch_go_faster(watching *w);

/* marks.c */
void watch_ask_mark(watching *w);
void watch_mark_stretch(watching *w);
void watch_name_mark(watching *w);
void watch_move_mark(watching *w);
void watch_take_out_mark(watching *w);

/* why.c */
void watch_toggle_why(watching *w);
int watch_draw_why(watching *w, int row, int rows, int width); /* returns the row behind it */
void watch_end_why(watching *w);

/* keeping.c */
void watch_toggle_recording(watching *w);
void watch_ask_write(watching *w);

#endif
