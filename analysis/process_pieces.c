/* Pieces of a process that falls, each with a beginning of its own: its movement by itself, and by what is driven. */
#include "process_falling.h"

#include <math.h>

/* The two ways in which it moves by itself: away, to 1 at the end of the piece, and back, from 1; by row of a piece. */
static void foresee(falling *f, double lag)
{
    const double length = (double)f->piece * f->d->tick;
    for (size_t k = 0; k < f->piece; k++) {
        const double t = (double)k * f->d->tick;
        f->own[k].rise = exp((t - length) / lag);
        f->own[k].fall = exp(-t / lag);
    }
}

void process_falling_answer(falling *f, const double *shape)
{
    const rgp_plant plant = {RGP_PROCESS_FALLING, 1.0, exp(shape[0]), 0.0, shape[1]};
    rgp_plant_state s;
    for (size_t k = 0; k < f->d->count; k++) {
        if (k % f->piece == 0) {
            rgp_plant_begin(&s, &plant, f->d->tick);
        }
        f->answer[k] = rgp_plant_measured(&s);
        rgp_plant_drive(&s, f->d->driven, k);
    }
}

/* The share of both in a column, by least squares over the rows that were measured. */
static own share_of(const falling *f, size_t from, const double *column)
{
    double g[3] = {0}, rise = 0.0, fall = 0.0;
    for (size_t k = from; k < MIN(from + f->piece, f->d->count); k++) {
        if (!isnan(f->d->measured[k])) {
            const own *is = &f->own[k - from];
            g[0] += is->rise * is->rise;
            g[1] += is->rise * is->fall;
            g[2] += is->fall * is->fall;
            rise += is->rise * column[k];
            fall += is->fall * column[k];
        }
    }
    const double determinant = g[0] * g[2] - g[1] * g[1];
    return determinant > 1e-9 * g[0] * g[2]
               ? (own){(rise * g[2] - fall * g[1]) / determinant, (fall * g[0] - rise * g[1]) / determinant}
               : (own){0.0, 0.0};
}

/* Takes that out; rows that were not measured become 0. */
void process_falling_project(falling *f, double lag, double *column)
{
    foresee(f, lag);
    for (size_t from = 0; from < f->d->count; from += f->piece) {
        const own of = share_of(f, from, column);
        for (size_t k = from; k < MIN(from + f->piece, f->d->count); k++) {
            const own *is = &f->own[k - from];
            column[k] = isnan(f->d->measured[k]) ? 0.0 : column[k] - of.rise * is->rise - of.fall * is->fall;
        }
    }
}

/* The beginnings of all pieces, with the shape that was searched last. */
own *process_falling_beginnings(falling *f, double lag)
{
    const size_t n = f->d->count;
    own *to = g_new0(own, n / f->piece + 1);
    g_autofree double *over = g_new0(double, n + 1);
    for (size_t k = 0; k < n; k++) {
        over[k] = f->d->measured[k] - f->linear[OF_DRIVEN] * f->answer[k] - f->linear[OF_ONE];
    }
    foresee(f, lag);
    for (size_t from = 0; from < n; from += f->piece) {
        to[from / f->piece] = share_of(f, from, over);
    }
    return to;
}

/* The movement with a shape, by row. */
void process_falling_fitted(falling *f, const double *shape, const own *beginning, double *to)
{
    process_falling_answer(f, shape);
    foresee(f, exp(shape[0]));
    for (size_t k = 0; k < f->d->count; k++) {
        const own *of = &beginning[k / f->piece], *is = &f->own[k % f->piece];
        to[k] = of->rise * is->rise + of->fall * is->fall + f->linear[OF_DRIVEN] * f->answer[k] + f->linear[OF_ONE];
    }
}
