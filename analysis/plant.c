/* Processes as difference equations, stepped and at a frequency. */
#include "plant.h"

#include <math.h>

/* A unit that is driven for the first part of a tick, and another for the rest. */
static void begin_falling(rgp_plant_state *s, double tick, double part)
{
    const double lag = s->plant->lag, rest = (1.0 - part) * tick / lag, first = part * tick / lag;
    s->cosh = cosh(tick / lag);
    s->sinh = sinh(tick / lag);
    s->now = cosh(rest) - 1.0;
    s->now_z = sinh(rest);
    s->before = cosh(rest) * (cosh(first) - 1.0) + sinh(rest) * sinh(first);
    s->before_z = sinh(rest) * (cosh(first) - 1.0) + cosh(rest) * sinh(first);
}

void rgp_plant_begin(rgp_plant_state *s, const rgp_plant *plant, double tick)
{
    const double ticks = plant->dead / tick, whole = floor(ticks), part = ticks - whole;
    *s = (rgp_plant_state){.plant = plant, .late = (size_t)whole};
    if (plant->kind == RGP_PROCESS_FALLING) {
        begin_falling(s, tick, part);
        return;
    }
    s->a = rgp_process_goes_on(plant->kind) ? 1.0 : exp(-tick / plant->lag);
    s->b = rgp_process_has_two(plant->kind) ? exp(-tick / plant->second) : 0.0;
    const double keep = pow(s->a, 1.0 - part);
    s->now = rgp_process_goes_on(plant->kind) ? tick * (1.0 - part) : 1.0 - keep;
    s->before = rgp_process_goes_on(plant->kind) ? tick * part : keep * (1.0 - pow(s->a, part));
}

static inline double measured_now(const rgp_plant_state *s)
{
    return s->plant->gain * (rgp_process_has_two(s->plant->kind) ? s->z : s->x);
}

static inline void go_on(rgp_plant_state *s, const double *driven, size_t now)
{
    const double u = driven[now > s->late ? now - s->late : 0],
                 before = driven[now > s->late + 1 ? now - s->late - 1 : 0], was = s->x;
    if (s->plant->kind == RGP_PROCESS_FALLING) {
        s->x = s->cosh * was + s->sinh * s->z + s->now * u + s->before * before;
        s->z = s->sinh * was + s->cosh * s->z + s->now_z * u + s->before_z * before;
        return;
    }
    s->x = s->a * s->x + s->now * u + s->before * before;
    s->z = s->b * s->z + (1.0 - s->b) * (was + s->x) / 2.0;
}

double rgp_plant_measured(const rgp_plant_state *s)
{
    return measured_now(s);
}

void rgp_plant_drive(rgp_plant_state *s, const double *driven, size_t now)
{
    go_on(s, driven, now);
}

/* The same steps as go_on() takes, of all but FALLING, with what stays the same out of the loop. */
static void answer_quickly(const rgp_plant_state *s, const double *driven, size_t count, double *to)
{
    const bool two = rgp_process_has_two(s->plant->kind);
    const double gain = s->plant->gain, a = s->a, b = s->b, now = s->now, before = s->before;
    double x = 0.0, z = 0.0, was_driven = driven[0];
    for (size_t k = 0; k < count; k++) {
        const double u = driven[k > s->late ? k - s->late : 0], was = x;
        to[k] = gain * (two ? z : x);
        x = a * x + now * u + before * was_driven;
        z = b * z + (1.0 - b) * (was + x) / 2.0;
        was_driven = u;
    }
}

void rgp_plant_answer(const rgp_plant *plant, double tick, const double *driven, size_t count, double *to)
{
    rgp_plant_state s;
    rgp_plant_begin(&s, plant, tick);
    if (plant->kind != RGP_PROCESS_FALLING && count > 0) {
        answer_quickly(&s, driven, count, to);
        return;
    }
    for (size_t k = 0; k < count; k++) {
        to[k] = measured_now(&s);
        go_on(&s, driven, k);
    }
}

double complex rgp_plant_response(const rgp_plant_state *s, double complex z)
{
    const double complex late = cpow(z, -(double)s->late);
    if (s->plant->kind == RGP_PROCESS_FALLING) {
        const double complex x = s->now + s->before / z, w = s->now_z + s->before_z / z, away = z - s->cosh;
        return s->plant->gain * late * (away * x + s->sinh * w) / (away * away - s->sinh * s->sinh);
    }
    const double complex x = late * (s->now + s->before / z) / (z - s->a),
                         second =
                             rgp_process_has_two(s->plant->kind) ? (1.0 - s->b) * (1.0 + z) / 2.0 / (z - s->b) : 1.0;
    return s->plant->gain * x * second;
}
