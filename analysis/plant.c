/* Processes as difference equations, stepped and at a frequency. */
#include "plant.h"

#include <math.h>

void rgp_plant_begin(rgp_plant_state *s, const rgp_plant *plant, double tick)
{
    const double ticks = plant->dead / tick, whole = floor(ticks), part = ticks - whole;
    *s = (rgp_plant_state){.plant = plant, .late = (size_t)whole};
    s->a = plant->kind == RGP_PROCESS_INTEGRAL ? 1.0 : exp(-tick / plant->lag);
    s->b = rgp_process_has_two(plant->kind) ? exp(-tick / plant->second) : 0.0;
    const double keep = pow(s->a, 1.0 - part);
    s->now = plant->kind == RGP_PROCESS_INTEGRAL ? tick * (1.0 - part) : 1.0 - keep;
    s->before = plant->kind == RGP_PROCESS_INTEGRAL ? tick * part : keep * (1.0 - pow(s->a, part));
}

double rgp_plant_measured(const rgp_plant_state *s)
{
    return s->plant->gain * (rgp_process_has_two(s->plant->kind) ? s->z : s->x);
}

void rgp_plant_drive(rgp_plant_state *s, const double *driven, size_t now)
{
    const double u = driven[now > s->late ? now - s->late : 0],
                 before = driven[now > s->late + 1 ? now - s->late - 1 : 0], was = s->x;
    s->x = s->a * s->x + s->now * u + s->before * before;
    s->z = s->b * s->z + (1.0 - s->b) * (was + s->x) / 2.0;
}

double complex rgp_plant_response(const rgp_plant_state *s, double complex z)
{
    const double complex late = cpow(z, -(double)s->late), x = late * (s->now + s->before / z) / (z - s->a),
                         second =
                             rgp_process_has_two(s->plant->kind) ? (1.0 - s->b) * (1.0 + z) / 2.0 / (z - s->b) : 1.0;
    return s->plant->gain * x * second;
}
