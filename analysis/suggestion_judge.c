/* The margins of gains in all corners of a model, and what noise makes of them. */
#include "suggestion_parts.h"

#include <math.h>

#define NOISE_SHARE 0.05 /* of the travel: by how much the noise of a reading may move the output */

static rgp_margins least_of(const rgp_suggestion *of, const rgp_plant corner[RGP_CORNERS], const rgp_margins *nominal,
                            const rgp_pid_gains *gains, double step)
{
    rgp_margins worst = *nominal;
    for (int i = 0; i < RGP_CORNERS; i++) {
        const rgp_margins m = rgp_margins_ahead(&corner[i], &of->ahead, gains, step);
        worst = rgp_margins_worse(&worst, &m);
    }
    return worst;
}

void rgp_suggestion_judge(rgp_suggestion *of, const rgp_pid_gains *gains, double step)
{
    of->margins = rgp_margins_ahead(&of->plant, &of->ahead, gains, step);
    of->corners = least_of(of, of->corner, &of->margins, gains, step);
    of->worst = least_of(of, of->off, &of->corners, gains, step);
}

double suggestion_rattle(const rgp_suggestion_ask *ask, const rgp_pid_gains *g)
{
    const rgp_coloured *left = &ask->model->left;
    const double rounding = ask->model->step / sqrt(12.0), travel = (double)ask->pid->high - (double)ask->pid->low,
                 change = hypot(left->sigma * sqrt(2.0 * (1.0 - left->hold)), rounding * sqrt(2.0));
    return ((double)g->kp * hypot(left->sigma, rounding) +
            (double)g->kd / fmax((double)g->filter, ask->step) * change) /
           (NOISE_SHARE * travel);
}
