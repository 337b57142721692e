/* Inside of what is said of a diagnosis: a run that is told of, and what its model bears out. */
#ifndef ANALYSIS_DIAGNOSIS_TELLING_H
#define ANALYSIS_DIAGNOSIS_TELLING_H

#include "diagnosis_words.h"

#include <math.h>

#define EXPLAINED       0.7 /* of what moved: a model that is to be built on */
#define WELL_EXPLAINED  0.9
#define HALF_EXPLAINED  0.5 /* by a model that may be right */
#define UNSTABLE        2.5 /* the sign `sensitivity` of a loop that its model has not stable */
#define ROOM            2.0 /* by which gains are to be able to grow */
#define HARDLY_ANY_ROOM 1.1
#define SOME_ROOM       1.4
#define LITTLE_P        0.6   /* of what the rule has */
#define SLOW_I          0.3   /* of what the rule has for such a kp */
#define NEXT_TO_NOTHING 0.5   /* of the band */
#define MOSTLY_I        0.7   /* quarter turns by which the integral lags: it makes most of the swing */
#define CERTAIN         0.999 /* as trials before have shown */

typedef struct telling {
    const rgp_loop_run *run;
    const rgp_diagnosis *d;
    const rgp_trial_names *names;
} telling;

static inline bool has_model(const telling *t)
{
    return t->d->explained > EXPLAINED;
}

/* Such a model makes the swing, too, if there is one. */
static inline bool knows_all(const telling *t)
{
    return t->d->explained >= RGP_ALL_BUT_ALL;
}

/* By its model. */
static inline bool is_stable(const rgp_diagnosis *d)
{
    return d->sign.sensitivity < UNSTABLE;
}

static inline bool is_calm(const telling *t)
{
    return isnan(t->d->period) || t->d->swing < NEXT_TO_NOTHING * t->d->band;
}

/* Behind a 'predict' line, where all margins are the worst of three, by how much the gains may grow. */
static inline bool is_near_swinging(const rgp_diagnosis *d)
{
    const bool is_near =
        d->sign.predicted > 0.0 ? d->sign.grow < log(SOME_ROOM) : d->sign.sensitivity > log(RGP_SENSITIVE);
    return d->sign.grow > 0.0 && d->explained > WELL_EXPLAINED && is_near;
}

/* By a model that may be right there is far less P than the rule has, and room for more: that calms an integral, too.
 */
static inline bool lacks_p(const telling *t)
{
    const rgp_signs *s = &t->d->sign;
    return s->explained > HALF_EXPLAINED && s->kp_off < log(LITTLE_P) && s->grow > log(ROOM);
}

/* Of what swings, the integral makes most. */
static inline bool is_mostly_i(const telling *t)
{
    return t->d->sign.lag_of_i > MOSTLY_I && t->run->pid->gain.ki > 0.0f;
}

/* By a model, beside its P the integral does little. */
static inline bool has_slow_i(const telling *t)
{
    return has_model(t) && !is_mostly_i(t) && t->d->sign.ki_off < t->d->sign.kp_off + log(SLOW_I);
}

/* Of a 'predict' line. A swing alone is explained as well by a model of the other sign, and half a period more of dead
 * time, which tells nothing of that line. */
static inline bool has_sign_of_line(const telling *t)
{
    return t->d->model.gain.value * (double)t->run->predict->gain > 0.0;
}

/* The loop is known to be moved from outside, by trials before. */
static inline bool is_outside(const rgp_diagnosis *d)
{
    return d->chance[RGP_CAUSE_OUTSIDE] >= CERTAIN;
}

/* It comes to a limit in each swing, as one does that grows until something stops it, and no model tells by what. */
static inline bool is_cut_off(const rgp_diagnosis *d)
{
    return d->sign.cut > RGP_CUT && d->explained <= 0.0;
}

/* A model has it that the loop itself is near swinging, of which a swing that is kept up is no sign; or nobody knows.
 */
static inline bool is_doubtful(const rgp_diagnosis *d)
{
    const bool is_near =
        !rgp_diagnosis_kept_up(d) && d->explained > HALF_EXPLAINED && d->sign.sensitivity > log(RGP_SENSITIVE);
    return !is_outside(d) && (is_near || is_cut_off(d));
}

#endif
