/* The threshold that costs least: chosen on the events and the idle time that are not held out.
 *
 * The cost of a limit is the false triggers an hour that it lets through, and the share of events that it misses. Each
 * is the greater of what was seen and of a tail that goes on where nothing was seen: for idle time an exponential above
 * the ninth decile of pieces (peaks over threshold: Pickands 1975, Davison and Smith 1990), for events a normal of the
 * logarithm of their height above idle time. The tails choose inside an empty gap; nothing is promised by them. */
#ifndef ANALYSIS_TRIGGER_CHOICE_H
#define ANALYSIS_TRIGGER_CHOICE_H

#include "trigger_scores.h"

#define RGP_WIDTHS_MOST 24u

typedef struct rgp_trigger_cost {
    double of_false, of_miss; /* their weights */
    double events_an_hour;    /* that are expected */
} rgp_trigger_cost;

/* The scores of one signal for all widths that its events leave room for. */
typedef struct rgp_trigger_widths {
    rgp_trigger_scores at[RGP_WIDTHS_MOST];
    guint count;
} rgp_trigger_widths;
/* `form->width` is the longest one; `stride` 1: all, 2: every other one. */
void rgp_trigger_widths_of(const rgp_series *series, guint name, const rgp_labels *labels, const rgp_trigger_form *form,
                           guint stride, rgp_trigger_widths *to);
void rgp_trigger_widths_clear(rgp_trigger_widths *widths);

typedef struct rgp_trigger_choice {
    guint width;      /* which of the widths */
    double limit;     /* as scores are: below a limit it is negative */
    double low, high; /* between these limits it costs hardly more (5 %) */
    double cost;
} rgp_trigger_choice;

typedef struct rgp_trigger_ask {
    const rgp_labels *labels;
    const rgp_trigger_widths *widths;
    rgp_idle_level idle; /* of the blocks that choose */
    double margin;       /* with which they were taken */
    bool above;
    rgp_trigger_cost cost;
} rgp_trigger_ask;

/* `but`: an event that is left out; UINT_MAX: none. */
rgp_trigger_choice rgp_trigger_choose(const rgp_trigger_ask *ask, guint but);

/* The cost of a limit by the scores of one width. */
double rgp_trigger_cost_at(const rgp_trigger_ask *ask, guint width, double limit);

/* A round number within the flat part, near its middle. */
double rgp_trigger_round(double low, double high);

/* The area under the curve of shares of caught events over shares of idle pieces, for all limits: the chance that an
 * event goes higher than a piece of idle time (Mann and Whitney 1947). Of all events and pieces. */
double rgp_trigger_area(const rgp_labels *labels, const rgp_trigger_scores *scores);

#endif
