/* Gains by a rule, and slower until they hold in every corner of the model. */
#include "suggestion_parts.h"

#include <glib.h>
#include <math.h>
#include <string.h>

#define OFF          0.2  /* of a parameter: so far off it may be at least */
#define CORNER_LEAST 0.05 /* of gain and lag: what an interval that reaches to 0 is cut off at */
#define STEPS_LATE   2.0  /* that the answer may come later at least */
#define DEAD_LATE    0.3  /* of the dead time, likewise */
#define FILTER_SHARE 0.1  /* of the derivative time: the filter of a loop that has none */
#define SLOWER_MOST  1e4  /* times the first tau */
#define BISECTED     12

const rgp_want rgp_wants[RGP_WANTS] = {
    {"gentle", "slowly, and never beyond a new setpoint", 3.0, 1.3, 2.0, true},
    {"calm", "slowly, with wide margins", 3.0, 1.3, 2.0, false},
    {"steady", "briskly, with margins that bear a change of the mechanism", 1.5, 1.5, 2.0, false},
    {"quick", "as fast as it bears", 1.0, 1.7, 3.0, false},
};

const rgp_want *rgp_want_of(const char *word)
{
    for (size_t i = 0; i < RGP_WANTS; i++) {
        if (strcmp(rgp_wants[i].word, word) == 0) {
            return &rgp_wants[i];
        }
    }
    return NULL;
}

/* ---- the model ------------------------------------------------------------------------------------- */

static double end_of(const rgp_estimate *e, bool high, double off)
{
    const double by = off * fabs(e->value), end = high ? e->high : e->low, far = isfinite(end) ? end : e->value;
    return high ? fmax(far, e->value + by) : fmin(far, e->value - by);
}

static void put_corners(const rgp_process *p, const rgp_plant *plant, double off, rgp_plant corner[RGP_CORNERS])
{
    rgp_estimate size = p->gain.value < 0.0 ? (rgp_estimate){-p->gain.value, -p->gain.high, -p->gain.low} : p->gain;
    if (p->up != 0.0) { /* stronger to one side: both sides are corners */
        size.low = fmin(size.low, fmin(fabs(p->up), fabs(p->down)));
        size.high = fmax(size.high, fmax(fabs(p->up), fabs(p->down)));
    }
    for (int i = 0; i < RGP_CORNERS; i++) {
        corner[i] = *plant;
        corner[i].gain = fmax(end_of(&size, i & 1, off), CORNER_LEAST * plant->gain);
        corner[i].dead = fmax(0.0, end_of(&p->dead, i & 2, off));
        if (p->kind != RGP_PROCESS_INTEGRAL) {
            corner[i].lag = fmax(end_of(&p->lag, i & 4, off), CORNER_LEAST * plant->lag);
        }
    }
}

static void put_plants(const rgp_process *p, const rgp_stand *on, rgp_suggestion *to)
{
    to->plant = on->plant;
    to->ahead = on->ahead;
    put_corners(p, &to->plant, 0.0, to->corner);
    put_corners(p, &to->plant, OFF, to->off);
}

/* ---- the rule -------------------------------------------------------------------------------------- */

typedef struct search {
    const rgp_suggestion_ask *ask;
    rgp_plant waits; /* with the dead time that the loop has to wait for */
    rgp_suggestion *to;
} search;

/* Ideal gain, integral time and derivative time in series: kp (1 + 1/(Ti s)) (1 + Td s). */
rgp_pid_gains rgp_suggestion_rule(const rgp_plant *p, double filter, double step, double tau)
{
    const double late = p->dead + step / 2.0;
    const bool integral = rgp_process_goes_on(p->kind), two = rgp_process_has_two(p->kind),
               derivative = two && p->second > late;
    const double half = two && !derivative ? p->second / 2.0 : 0.0; /* the half rule */
    const double dead = late + half, lag = p->lag + half, Td = derivative ? p->second : 0.0,
                 Ti = integral ? 4.0 * (tau + dead) : fmin(lag, 4.0 * (tau + dead)),
                 kc = (integral ? 1.0 : lag) / (p->gain * (tau + dead));
    return (rgp_pid_gains){.kp = (float)(kc * (1.0 + Td / Ti)),
                           .ki = (float)(kc / Ti),
                           .kd = (float)(kc * Td),
                           .filter = (float)(derivative && !(filter > 0.0) ? FILTER_SHARE * Td : filter)};
}

/* ---- what it has to hold ------------------------------------------------------------------------------- */

/* RGP_BOUND_RULE: nothing keeps these gains back. */
static rgp_suggestion_bound holds(search *s, double tau)
{
    rgp_suggestion *to = s->to;
    const double step = s->ask->step;
    to->gain = rgp_suggestion_rule(&s->waits, (double)s->ask->pid->gain.filter, step, tau);
    to->tau = tau;
    rgp_suggestion_judge(to, &to->gain, step);
    return !to->worst.stable || to->corners.sensitivity > s->ask->want->sensitivity ? RGP_BOUND_SENSITIVITY
           : to->worst.sensitivity > s->ask->want->off                              ? RGP_BOUND_OFF
           : to->worst.delay < fmax(STEPS_LATE * step, DEAD_LATE * s->waits.dead)   ? RGP_BOUND_DELAY
           : suggestion_rattle(s->ask, &to->gain) > 1.0                             ? RGP_BOUND_NOISE
                                                                                    : RGP_BOUND_RULE;
}

bool rgp_suggestion_of(const rgp_suggestion_ask *ask, rgp_suggestion *to)
{
    *to = (rgp_suggestion){.tau = 0.0};
    const rgp_stand on = rgp_stand_of(ask->model, ask->predict, ask->step);
    put_plants(ask->model, &on, to);
    if (to->plant.kind == RGP_PROCESS_FALLING) {
        return suggestion_falling(ask, to);
    }
    search s = {ask, on.plant, to};
    s.waits.dead = rgp_stand_waits(&on);
    const double first = ask->want->tau * (s.waits.dead + ask->step / 2.0);
    double low = first, high = first;
    rgp_suggestion_bound bound = holds(&s, first);
    to->bound = RGP_BOUND_RULE;
    while (bound != RGP_BOUND_RULE && high < SLOWER_MOST * first) {
        to->bound = bound;
        low = high;
        high *= 2.0;
        bound = holds(&s, high);
    }
    if (bound != RGP_BOUND_RULE) {
        return false;
    }
    for (int i = 0; high > low && i < BISECTED; i++) {
        const double middle = sqrt(low * high);
        const rgp_suggestion_bound here = holds(&s, middle);
        to->bound = here != RGP_BOUND_RULE ? here : to->bound;
        low = here != RGP_BOUND_RULE ? middle : low;
        high = here != RGP_BOUND_RULE ? high : middle;
    }
    return holds(&s, high) == RGP_BOUND_RULE;
}
