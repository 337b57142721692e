/* Margins where a controller stands. */
#include "stand.h"

#include <glib.h>
#include <math.h>

#define UNKNOWN 1.2 /* times a dead time that is predicted */
#define WAITED  0.4 /* of it */

rgp_plant rgp_process_plant(const rgp_process *p)
{
    static const rgp_process_kind with_second[RGP_PROCESS_KINDS] = {
        [RGP_PROCESS_LAG] = RGP_PROCESS_LAGS,
        [RGP_PROCESS_INTEGRAL] = RGP_PROCESS_GLIDE,
        [RGP_PROCESS_FALLING] = RGP_PROCESS_FALLING,
    };
    return (rgp_plant){.kind = p->second > 0.0 ? with_second[p->kind] : p->kind,
                       .gain = p->gain.value,
                       .lag = p->lag.value,
                       .second = p->second,
                       .dead = fmax(0.0, p->dead.value)};
}

rgp_stand rgp_stand_of(const rgp_process *model, const rgp_predict_config *predict, double step)
{
    rgp_stand on = {.plant = rgp_process_plant(model), .step = step};
    if (predict) {
        on.ahead = (rgp_ahead){copysign(1.0, on.plant.gain) * (double)predict->gain, (double)predict->lag,
                               (double)predict->dead};
    }
    on.plant.gain = fabs(on.plant.gain);
    return on;
}

rgp_margins rgp_stand_margins(const rgp_stand *on, const rgp_pid_gains *g)
{
    static const double off[] = {UNKNOWN, 1.0 / UNKNOWN};
    rgp_margins worst = rgp_margins_ahead(&on->plant, &on->ahead, g, on->step);
    for (size_t i = 0; on->ahead.gain != 0.0 && i < G_N_ELEMENTS(off); i++) {
        rgp_plant other = on->plant;
        other.dead *= off[i];
        const rgp_margins m = rgp_margins_ahead(&other, &on->ahead, g, on->step);
        worst = rgp_margins_worse(&worst, &m);
    }
    return worst;
}

rgp_ahead rgp_plant_line(const rgp_plant *p, double lag)
{
    const double half = rgp_process_has_two(p->kind) ? p->second / 2.0 : 0.0;
    return rgp_process_goes_on(p->kind) ? (rgp_ahead){p->gain * lag, lag, p->dead + half}
                                        : (rgp_ahead){p->gain, p->lag + half, p->dead + half};
}

double rgp_stand_waits(const rgp_stand *on)
{
    const double least = rgp_plant_line(&on->plant, on->ahead.lag).dead, most = 2.0 * least - on->plant.dead,
                 is = on->ahead.dead;
    return on->ahead.gain == 0.0 ? on->plant.dead : fmax(fmax(least - is, is - most), WAITED * least);
}
