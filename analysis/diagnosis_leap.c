/* The rule of the suggestions for the model of a stretch, as far as one trial may go. */
#include "diagnosis_leap.h"

#include "diagnosis_moves.h"

#include "suggestion.h"

#define LEAPS   4.0 /* times a gain */
#define BRISK   1.5 /* times the dead time: the closed loop's time constant */
#define SLOWER  1.4
#define SLOWEST 100.0

/* By how much too far it goes. */
static double too_far(const rgp_pid_gains *g, const rgp_pid_gains *now)
{
    const double kp = now->kp > 0.0f ? (double)g->kp / (double)now->kp : 0.0,
                 ki = now->ki > 0.0f ? (double)g->ki / (double)now->ki : 0.0;
    return fmax(kp, ki) / LEAPS;
}

static float no_less(float gain, float now)
{
    return fmaxf(gain, now / (float)LEAPS);
}

/* A run tells a lesser lag from dead time badly, and what leads the one swings on with the other. */
static bool bears_delay(const rgp_stand *on, const rgp_pid_gains *g)
{
    rgp_stand late = *on;
    late.plant.dead += late.plant.second;
    late.plant.second = 0.0;
    return isfinite(rgp_worst_sensitivity(&late, g, INFINITY));
}

bool rgp_leap(const telling *t, rgp_pid_gains *to)
{
    const rgp_pid_gains *now = &t->run->pid->gain;
    const double step = t->d->step;
    const rgp_stand on = rgp_stand_of(&t->d->model, t->run->predict, step);
    rgp_plant waits = on.plant;
    bool is_calm = false;
    waits.dead = rgp_stand_waits(&on);
    const double late = waits.dead + step / 2.0;
    for (double tau = BRISK * late; !is_calm && tau < SLOWEST * late; tau *= SLOWER) {
        *to = rgp_suggestion_rule(&waits, (double)now->filter, step, tau);
        is_calm =
            too_far(to, now) <= 1.0 && rgp_worst_sensitivity(&on, to, RGP_CALM) <= RGP_CALM && bears_delay(&on, to);
    }
    to->kp = no_less(to->kp, now->kp);
    to->ki = no_less(to->ki, now->ki);
    return is_calm && knows_all(t);
}
