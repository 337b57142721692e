/* A process at a glance: the likeliest model alone, and with loads that came in between where those explain far more.
 */
#include "process_parts.h"

#include "numerics.h"

#include <math.h>
#include <string.h>

#define AS_WELL 1.3 /* times what another model leaves over */

/* With loads there is more to search, and it begins near. */
static const search rough = {6, 16, 60, 1e-3, PROCESS_AVERAGED, true},
                    around = {4, 8, 80, 1e-3, PROCESS_AVERAGED, true};

static model *likeliest_of(model m[PROCESS_AVERAGED], rgp_process *to)
{
    return &m[process_likeliest(m, process_weigh(m, to), to)->f.kind];
}

/* With all care. */
static double search_on(model *m)
{
    fitting f = m->f;
    f.how = &process_careful;
    const double squares = process_search_around(&f, m->shape);
    memcpy(m->f.linear, f.linear, sizeof f.linear);
    return squares;
}

static void keep(model *best, double way, rgp_process *to)
{
    const bool integral = rgp_process_goes_on(best->f.kind);
    to->kind = integral ? RGP_PROCESS_INTEGRAL : RGP_PROCESS_LAG;
    to->gain = (rgp_estimate){.value = best->f.linear[0]};
    if (way * to->gain.value <= 0.0) {
        process_doubts(best);
        to->gain = process_estimate(best->component, OF_GAIN);
    } else if (best->f.period > 0.0) {
        const double error = 2.0 * process_gain_error(best);
        to->gain.low = to->gain.value - error;
        to->gain.high = to->gain.value + error;
    }
    to->lag.value = integral ? 0.0 : exp(best->shape[0]);
    to->second = process_second(best);
    to->wave = best->f.period > 0.0 ? exp(best->shape[SHAPE_WAVE]) : 0.0;
    to->height = best->f.period > 0.0 ? hypot(best->f.linear[PROCESS_LINEAR + best->f.loads],
                                              best->f.linear[PROCESS_LINEAR + best->f.loads + 1u])
                                      : 0.0;
    to->loads = best->f.loads;
    for (size_t i = 0; i < to->loads; i++) {
        to->came[i] = (rgp_process_load){{.value = best->shape[SHAPE_LOAD + i]}, {.value = process_size(best, i)}};
    }
    to->dead.value = process_dead(best->shape[1], best->f.data->tick);
    to->fit = 100.0 * (1.0 - best->squares / fmax(process_variance(best->f.data, best->f.usable), 1e-300));
}

bool process_glance_at(fitting *f, double way, bool careful, rgp_process *to)
{
    model m[PROCESS_AVERAGED];
    f->how = f->loads > 0 ? &around : &rough;
    const bool enough = process_fit_all(f, m);
    if (enough) {
        model *best = likeliest_of(m, to);
        best->squares = careful ? search_on(best) : best->squares;
        keep(best, way, to);
        process_clear_all(m);
    }
    return enough;
}

/* A swing alone is explained by a gain of the other sign and half a period more of dead time, too: of two models that
 * explain about as much it is the one of that way. */
static void prefer_way(fitting *f, double way, rgp_process *to)
{
    rgp_process other = *to;
    f->way = way;
    if (process_glance_at(f, way, true, &other) && 100.0 - other.fit < AS_WELL * (100.0 - to->fit)) {
        *to = other;
    }
}

bool rgp_process_glance(const rgp_process_data *data, double way, rgp_process *to)
{
    fitting f = process_room(data);
    *to = (rgp_process){.kind = RGP_PROCESS_LAG};
    rgp_numerics_go_on();
    const bool enough = process_glance_at(&f, way, true, to);
    if (enough && way * to->gain.value < 0.0) {
        prefer_way(&f, way, to);
    }
    process_room_free(&f);
    return enough;
}
