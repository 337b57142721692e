/* A run at whose end a loop was lost. */
#include "loop_lost.h"

#include "noise.h"

#include "explain/describe.h"

#include <math.h>

#define LEAST_ROWS 8u
#define BEYOND     4.0  /* noises: that far on a side it is on that side */
#define SWINGS     3u   /* turns: from there on it swings */
#define LEADS      0.5  /* quarter turns: then it is not for want of a derivative */
#define WANTED     0.33 /* quarter turns, 30 degrees */
#define TIMES      2.0  /* the gains, where it is not held at all */

rgp_lost rgp_lost_of(const rgp_loop_run *run)
{
    rgp_lost is = {.period = NAN};
    g_autofree double *measured = g_new0(double, run->rows + 1);
    size_t n = 0;
    for (size_t i = 0; i < run->rows; i++) {
        measured[n] = run->row[i].measured;
        n += run->row[i].usable && !run->row[i].stands;
    }
    if (n < LEAST_ROWS) {
        return is;
    }
    const double beyond = BEYOND * rgp_noise_of(measured, n).sigma;
    double side = 0.0, first = 0.0, last = 0.0;
    for (size_t i = 0; i < run->rows; i++) {
        const rgp_response_row *r = &run->row[i];
        const double error = r->target - r->measured;
        if (r->usable && fabs(error) > beyond && side * error <= 0.0) {
            is.turns += side * error < 0.0;
            first = is.turns == 1 && side * error < 0.0 ? r->time : first;
            last = r->time;
            side = error > 0.0 ? 1.0 : -1.0;
        }
    }
    is.known = true;
    if (is.turns >= SWINGS) {
        is.period = 2.0 * (last - first) / (is.turns - 1);
        const double w = 2.0 * G_PI / is.period;
        is.lead = atan((double)run->pid->gain.kd * w / fmax((double)run->pid->gain.kp, 1e-12)) / (G_PI / 2.0);
    }
    return is;
}

void rgp_lost_say(const rgp_loop_run *run, const rgp_lost *lost, GString *to)
{
    const double length = run->rows > 0 ? run->row[run->rows - 1].time - run->row[0].time : 0.0;
    if (!lost->known) {
        g_string_append(to, "the loop is lost at once");
    } else if (lost->turns >= SWINGS) {
        g_string_append_printf(to,
                               "the loop is lost after %s s: it swings to and fro every %s s, and the derivative "
                               "leads by %.0f deg",
                               rgp_digits(length, 2).text, rgp_digits(lost->period, 2).text, 90.0 * lost->lead);
    } else {
        g_string_append_printf(to,
                               "the loop is lost after %s s: it goes off to one side, which gains that are too small "
                               "do, or a wrong sign",
                               rgp_digits(length, 2).text);
    }
}

char *rgp_lost_trial(const rgp_loop_run *run, const rgp_lost *lost, const rgp_trial_names *names)
{
    const rgp_pid_gains *g = &run->pid->gain;
    GString *to = g_string_new(NULL);
    if (!lost->known) {
        return g_string_free(to, TRUE);
    }
    if (lost->turns < SWINGS) {
        rgp_trial_put_all(to, names, g, TIMES);
    } else if (lost->lead < LEADS) {
        const double kd = (double)g->kp * tan(WANTED * G_PI / 2.0) * lost->period / (2.0 * G_PI);
        rgp_trial_put_gain(to, names, 2, fmax(TIMES * (double)g->kd, kd));
    } else {
        rgp_trial_put_all(to, names, g, 1.0 / TIMES);
    }
    return g_string_free(to, FALSE);
}
