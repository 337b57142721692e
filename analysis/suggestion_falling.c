/* Gains for a process that falls: as far from those that let it swing as from those that let it fall, with the
 * derivative with which it is then least sensitive. */
#include "suggestion_parts.h"

#include <math.h>

#define FILTER_STEPS 2.0  /* of the loop: the filter of one that has none */
#define KPS          12   /* gains that are tried for one that holds it up */
#define KP_MOST      30.0 /* times what just does */
#define RATIOS       24
#define KD_LEAST     0.1 /* of kp times lag */
#define KD_MOST      3.0
#define UNSTABLE     1e3  /* stands for a sensitivity */
#define LOUD         10.0 /* a sensitivity that too much noise is as bad as */
#define BEARABLE     3.0  /* a sensitivity in the corners, a fifth off, that is still suggested */
#define SLOW         0.27 /* of a lag: dead time, half a step and filter together, up to which gains are to be had */

typedef struct search {
    const rgp_suggestion_ask *ask;
    rgp_suggestion *to;
    double filter;
} search;

/* `ratio`: of kd to kp times lag. */
static rgp_pid_gains gains_of(const search *s, double kp, double ratio)
{
    const rgp_plant *p = &s->to->plant;
    return (rgp_pid_gains){
        .kp = (float)(kp / p->gain), .kd = (float)(kp / p->gain * p->lag * ratio), .filter = (float)s->filter};
}

/* With gains in this ratio, as far from swinging as from falling: the mean of the least and the greatest that hold it
 * up, by their logarithms. False where none does. */
static bool between(const search *s, double ratio, rgp_pid_gains *to)
{
    for (int i = 1; i <= KPS; i++) {
        const double kp = pow(KP_MOST, (double)i / KPS);
        const rgp_pid_gains g = gains_of(s, kp, ratio);
        const rgp_margins m = rgp_margins_of(&s->to->plant, &g, s->ask->step);
        if (m.stable && isfinite(m.up)) {
            *to = gains_of(s, kp * sqrt(m.up * m.down), ratio);
            return true;
        }
    }
    return false;
}

/* The sensitivity in the worst of the corners, a fifth off; noise that is too much for the output is as bad as a great
 * one. */
static double worst_at(const search *s, double ratio, rgp_pid_gains *g)
{
    if (!between(s, ratio, g)) {
        return UNSTABLE;
    }
    const rgp_margins m = rgp_margins_of(&s->to->plant, g, s->ask->step);
    double worst = m.stable ? m.sensitivity : UNSTABLE;
    for (int i = 0; i < RGP_CORNERS && worst < UNSTABLE; i++) {
        const rgp_margins corner = rgp_margins_of(&s->to->off[i], g, s->ask->step);
        worst = fmax(worst, corner.stable ? corner.sensitivity : UNSTABLE);
    }
    return worst + LOUD * fmax(0.0, suggestion_rattle(s->ask, g) - 1.0);
}

double rgp_falling_step(const rgp_plant *p)
{
    return fmax(0.0, (SLOW * p->lag - p->dead) / (0.5 + FILTER_STEPS));
}

bool suggestion_falling(const rgp_suggestion_ask *ask, rgp_suggestion *to)
{
    const double own = (double)ask->pid->gain.filter;
    const search s = {ask, to, own > 0.0 ? own : FILTER_STEPS * ask->step};
    double least = INFINITY;
    for (int i = 0; i < RATIOS; i++) {
        rgp_pid_gains g = {.kp = 0.0f};
        const double worst = worst_at(&s, KD_LEAST * pow(KD_MOST / KD_LEAST, (double)i / (RATIOS - 1)), &g);
        to->gain = worst < least ? g : to->gain;
        least = fmin(least, worst);
    }
    to->tau = to->plant.lag;
    to->bound = RGP_BOUND_FALLS;
    rgp_suggestion_judge(to, &to->gain, ask->step);
    return to->worst.stable && to->worst.sensitivity <= BEARABLE && suggestion_rattle(ask, &to->gain) < 1.1;
}
