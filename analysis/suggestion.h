/* Gains for a model of what a loop regulates. A published rule gives how they stand to one another for a closed loop of
 * a wanted time constant tau (Skogestad 2003):
 *
 *   kp = lag / (gain (tau + dead)),  integral time = the lesser of lag and 4 (tau + dead);  for an integral
 *   kp = 1 / (gain (tau + dead)),    integral time = 4 (tau + dead);  a second lag beyond the dead time is cancelled by
 *   a derivative (its series form, turned into the parallel one)
 *
 * with half a step of the loop in the dead time; behind a 'predict' line with what that leaves of it (stand.h). Then
 * tau grows until, in every corner of the model's intervals, the sensitivity is at most the wanted one, until it is at
 * most another one with each of gain, lag and dead time a fifth off, and until the answer may come later by two steps
 * and by three tenths of the dead time, and the noise of a reading moves the output by a twentieth of its travel at
 * most. */
#ifndef ANALYSIS_SUGGESTION_H
#define ANALYSIS_SUGGESTION_H

#include "stand.h"

/* A kind of loop that a person may want. */
typedef struct rgp_want {
    const char *word, *says;
    double tau;         /* of the dead time: what it begins with */
    double sensitivity; /* at most, within the model's intervals */
    double off;         /* and where the mechanism is a fifth off */
    bool shy;           /* a new setpoint is not gone beyond */
} rgp_want;

enum { RGP_WANTS = 4 };
extern const rgp_want rgp_wants[RGP_WANTS];

/* NULL: there is no such word. */
const rgp_want *rgp_want_of(const char *word);

typedef struct rgp_suggestion_ask {
    const rgp_process *model;
    const rgp_pid_config *pid; /* of the loop, as it stands */
    const rgp_want *want;
    double step;                       /* seconds from one step of the loop to the next */
    const rgp_predict_config *predict; /* the line on whose word it acts; NULL: there is none */
} rgp_suggestion_ask;

/* The reason for which the gains are no greater. */
typedef enum rgp_suggestion_bound {
    RGP_BOUND_RULE,
    RGP_BOUND_SENSITIVITY,
    RGP_BOUND_OFF,
    RGP_BOUND_DELAY,
    RGP_BOUND_NOISE,
    RGP_BOUND_FALLS /* of a process that falls: lesser ones are no better either */
} rgp_suggestion_bound;

enum { RGP_CORNERS = 8 };

typedef struct rgp_suggestion {
    rgp_plant plant;               /* the model as one */
    rgp_ahead ahead;               /* the loop's 'predict' line, if it has one */
    rgp_plant corner[RGP_CORNERS]; /* gain, lag and dead time at the ends of their intervals */
    rgp_plant off[RGP_CORNERS];    /* and a fifth off at least */
    rgp_pid_gains gain;
    double tau; /* seconds */
    rgp_suggestion_bound bound;
    rgp_margins margins, corners, worst; /* of the model, and the least of each in the corners, and a fifth off */
} rgp_suggestion;

/* The gains of the rule for a closed loop of time constant tau on a process with a gain above 0 that does not fall.
 * `filter`: seconds, of the derivative as it stands; 0: it has none, and gets one. */
rgp_pid_gains rgp_suggestion_rule(const rgp_plant *plant, double filter, double step, double tau);

/* The longest step of a loop in seconds with which such gains are to be had for a process that falls; 0: none is short
 * enough. (Its dead time, half a step and a filter of two steps are 0.27 of its lag together: the least sensitivity is
 * then about 2, and grows steeply from there on.) */
double rgp_falling_step(const rgp_plant *plant);

/* False when no gains do it: the loop steps too slowly for what was found. A process that falls gets no integral, but
 * gains that may grow by the factor by which they may shrink, with the derivative with which the sensitivity is least
 * where each of its numbers may be a fifth off; what is wanted has no say in it. */
bool rgp_suggestion_of(const rgp_suggestion_ask *ask, rgp_suggestion *to);

/* The same margins of other gains. */
void rgp_suggestion_judge(rgp_suggestion *of, const rgp_pid_gains *gains, double step);

#endif
