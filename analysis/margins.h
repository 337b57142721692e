/* Margins: the distance of a loop from swinging on for ever. A PID controller, as its block computes, on a process,
 * both at the pace in which the loop steps.
 *
 * The loop gain L is measured for the error; S = 1 / (1 + L) is the sensitivity. The loop is stable when 1 + L goes
 * round 0 as often as the process alone runs away, once or not at all, while z goes round the unit circle (Nyquist
 * 1932); the margins are those of Astrom and Hagglund, "Advanced
 * PID Control", 2006. Limits, dead band and slew are no part of it: it is about small movements. */
#ifndef ANALYSIS_MARGINS_H
#define ANALYSIS_MARGINS_H

#include "plant.h"

#include "rigpulse/regulate/pid.h"

#include <stdbool.h>

typedef struct rgp_margins {
    bool stable;        /* all else is of a stable loop, NAN where it is none */
    double sensitivity; /* the greatest |S|: 1 and more */
    double up, down;    /* the gains may grow by this factor, and shrink to this share, until it swings, or falls;
                           INFINITY, 0: by any */
    double swing;       /* seconds: the period of what it swings with when the gains have grown by `up` */
    double phase;       /* degrees that the loop may lag more; INFINITY: any */
    double delay;       /* seconds that the answer may come later; INFINITY: any */
} rgp_margins;

/* `step`: seconds from one step of the loop to the next. A process that falls when it is driven is taken as one that
 * rises, since `reverse` makes good for it. */
rgp_margins rgp_margins_of(const rgp_plant *plant, const rgp_pid_gains *gains, double step);

/* The worse of each of two; of a loop that is not stable, that one. `swing` goes with `up`. */
rgp_margins rgp_margins_worse(const rgp_margins *a, const rgp_margins *b);

/* A 'predict' line adds to what is measured: of the answer of a lag behind a dead time what is still under way (Smith
 * 1957). */
typedef struct rgp_ahead {
    double gain;      /* measured units for a unit driven, as of a plant that rises; 0: there is no such line */
    double lag, dead; /* seconds */
} rgp_ahead;

/* The same of a controller that acts on what such a line says; `ahead` may be NULL. */
rgp_margins rgp_margins_ahead(const rgp_plant *plant, const rgp_ahead *ahead, const rgp_pid_gains *gains, double step);

#endif
