/* A process as difference equations from tick to tick: what is driven is held over a tick, and the dead time need be no
 * whole number of ticks. One definition, for answers that are computed and for their response to frequencies.
 *
 *   lag       x[k+1] = a x[k] + (1 - a^(1-f)) u[k-d] + a^(1-f) (1 - a^f) u[k-d-1],  a = e^(-tick/lag)
 *   lags      z[k+1] = b z[k] + (1 - b) (x[k] + x[k+1]) / 2,  b = e^(-tick/second)
 *   integral  x[k+1] = x[k] + tick ((1 - f) u[k-d] + f u[k-d-1])
 *   glide     an integral behind a lag: z of `lags` behind x of `integral`
 *   falling   x'' = (x + u) / lag^2, held over a part p of a tick: x = x cosh(p/lag) + w sinh(p/lag) + u (cosh(p/lag) -
 * 1), w = w cosh(p/lag) + x sinh(p/lag) + u sinh(p/lag), with w = lag x'; by u[k-d-1] for f of it, then by u[k-d]
 *
 * with a dead time of d + f ticks (Astrom and Wittenmark, "Computer-Controlled Systems", 1997). */
#ifndef ANALYSIS_PLANT_H
#define ANALYSIS_PLANT_H

#include <complex.h>
#include <stdbool.h>
#include <stddef.h>

typedef enum rgp_process_kind {
    RGP_PROCESS_LAG,
    RGP_PROCESS_LAGS,
    RGP_PROCESS_TWIN, /* two equal lags */
    RGP_PROCESS_INTEGRAL,
    RGP_PROCESS_GLIDE,   /* an integral and a lag, `second` */
    RGP_PROCESS_FALLING, /* away from where it balances, by e in each lag; what is driven shifts that place by -gain */
    RGP_PROCESS_KINDS
} rgp_process_kind;

typedef struct rgp_plant {
    rgp_process_kind kind;
    double gain;              /* measured units for a unit driven; of an integral those a second */
    double lag, second, dead; /* seconds; `second` of two lags, and equal to the first of TWIN; of GLIDE */
} rgp_plant;

static inline bool rgp_process_has_two(rgp_process_kind kind)
{
    return kind == RGP_PROCESS_LAGS || kind == RGP_PROCESS_TWIN || kind == RGP_PROCESS_GLIDE;
}

/* It goes on for as long as it is driven. */
static inline bool rgp_process_goes_on(rgp_process_kind kind)
{
    return kind == RGP_PROCESS_INTEGRAL || kind == RGP_PROCESS_GLIDE;
}

typedef struct rgp_plant_state {
    const rgp_plant *plant;
    double a, b;
    double now, before; /* what a unit adds to x that was driven d ticks ago, and one that was driven a tick earlier */
    size_t late;        /* d */
    double x, z;        /* of FALLING z is lag times the speed */
    double cosh, sinh, now_z, before_z; /* of FALLING: of a tick; what units add to z */
} rgp_plant_state;

/* At rest at 0. Seconds. */
void rgp_plant_begin(rgp_plant_state *state, const rgp_plant *plant, double tick);

/* The measured value now, before anything is driven in this tick. */
double rgp_plant_measured(const rgp_plant_state *state);

/* On to the next tick. `driven`: by tick from the first one on, up to `now`; what stands first was driven before. */
void rgp_plant_drive(rgp_plant_state *state, const double *driven, size_t now);

/* The measured value in each of so many ticks, from rest at 0 on. */
void rgp_plant_answer(const rgp_plant *plant, double tick, const double *driven, size_t count, double *to);

/* Measured for driven at the complex frequency z = e^(j w tick). */
double complex rgp_plant_response(const rgp_plant_state *state, double complex z);

#endif
