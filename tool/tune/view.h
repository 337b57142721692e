/* Inside tuning on the whole screen: the loop runs, its curves go by, gains change under the keys, tests at the press
 * of one. */
#ifndef TOOL_TUNE_VIEW_H
#define TOOL_TUNE_VIEW_H

#include "tune.h"

#include "tool/terminal/prompt.h"
#include "tool/terminal/show.h"
#include "tool/terminal/view.h"

typedef struct tune_view {
    tuning *t;
    rgp_door *door;
    rgp_door_setup setup;
    rgp_rig *rig;  /* with settings that are not the file's; NULL: they are */
    rgp_rig *next; /* that it is to begin anew with; NULL: the one it has */
    show shown;
    view chart;
    double gain[TUNE_VALUES];
    double offer[TUNE_VALUES]; /* of a model, or by advice */
    bool offered;
    int offers; /* the key that has offered them, and takes them */
    uint32_t chosen, disturbed;
    double step, push;
    double pace;  /* times as fast as the wall clock */
    bool stepped; /* the setpoint is off by `step` */
    prompt prompt;
    note note;
    tune_try test; /* that goes on */
    bool testing, leaving, stopped, help;
    bool renews;       /* the rig is to begin anew */
    bool lost;         /* it could not */
    uint64_t begin_us; /* of the test */
    guint seen;        /* occurrences before it */
} tune_view;

void tune_say(tune_view *v, const char *format, ...) G_GNUC_PRINTF(2, 3);
void tune_ask(tune_view *v, rgp_command_kind what, uint16_t which, double value);

/* view_test.c: gains change at once; with other settings the rig begins anew. False, which has been said, when it
 * cannot. */
bool tune_set_gains(tune_view *v, const double *gain);
void tune_turn_gain(tune_view *v, double factor);

/* view_test.c: a test by its key, followed until it is over; cancelled as if it had not been begun. */
void tune_begin_step(tune_view *v);
void tune_begin_push(tune_view *v);
void tune_begin_disturbance(tune_view *v);
void tune_follow_test(tune_view *v);
void tune_cancel_test(tune_view *v);

/* view_model.c: a model of what has been so far, and gains from it, or by the advice on the newest try; all say what
 * they do. */
void tune_offer_model(tune_view *v);
void tune_offer_advice(tune_view *v);
void tune_take_offer(tune_view *v);

/* view_keys.c */
void tune_key(tune_view *v, int key);
void tune_draw_hints(int row, int width);
void tune_draw_help(void);

/* view_draw.c: the curves are the setpoint and what is measured above, the output and its terms below. */
void tune_choose_curves(tune_view *v);
void tune_draw_view(tune_view *v);

/* The inks of a row of the table of tries: settled, not settled, broken off. */
enum { TUNE_INKS = 3 };
typedef struct tune_ink {
    unsigned with; /* ink */
    const char *word, *says;
} tune_ink;
extern const tune_ink tune_inks[TUNE_INKS];

#endif
