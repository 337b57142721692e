/* Answers of process models, and the squares that the best linear part of one leaves. */
#include "process_parts.h"

#include <math.h>

#define LAG_MOST    20.0 /* times as long as what was recorded */
#define UNLIKE_MOST 0.8  /* of two lags, the lesser one as a share: those that are nearer are taken as equal */
#define NEVER       1e300

/* ---- answers --------------------------------------------------------------------------------------- */

void rgp_process_answer(const rgp_plant *plant, const rgp_process_data *d, double *to)
{
    rgp_plant_state s;
    rgp_plant_begin(&s, plant, d->tick);
    for (size_t k = 0; k < d->count; k++) {
        to[k] = rgp_plant_measured(&s);
        rgp_plant_drive(&s, d->driven, k);
    }
}

rgp_plant process_plant(const fitting *f, const double *shape)
{
    return (rgp_plant){f->kind, 1.0, exp(shape[0]), exp(shape[f->kind == RGP_PROCESS_TWIN ? 0 : 2]), shape[1]};
}

/* ---- the linear part ------------------------------------------------------------------------------- */

double process_beginning(const fitting *f, double lag, size_t k)
{
    const double since = (double)k * f->data->tick;
    return f->kind == RGP_PROCESS_INTEGRAL ? since : exp(-since / lag);
}

/* Of the normal equations of three columns, by Gauss with pivots; false where they are no three. */
static bool solve(double m[PROCESS_LINEAR][PROCESS_LINEAR + 1], double *to)
{
    for (size_t i = 0; i < PROCESS_LINEAR; i++) {
        size_t best = i;
        for (size_t k = i + 1; k < PROCESS_LINEAR; k++) {
            best = fabs(m[k][i]) > fabs(m[best][i]) ? k : best;
        }
        if (fabs(m[best][i]) < 1e-12) {
            return false;
        }
        for (size_t c = 0; c <= PROCESS_LINEAR; c++) {
            const double t = m[i][c];
            m[i][c] = m[best][c];
            m[best][c] = t;
        }
        for (size_t k = 0; k < PROCESS_LINEAR; k++) {
            const double by = k == i ? 0.0 : m[k][i] / m[i][i];
            for (size_t c = i; c <= PROCESS_LINEAR; c++) {
                m[k][c] -= by * m[i][c];
            }
        }
    }
    for (size_t i = 0; i < PROCESS_LINEAR; i++) {
        to[i] = m[i][PROCESS_LINEAR] / m[i][i];
    }
    return true;
}

/* The squares that are left with the best gain, offset and beginning for this shape. */
double process_squares(fitting *f, const double *shape)
{
    const rgp_process_data *d = f->data;
    const double lag = exp(shape[0]), second = f->kind == RGP_PROCESS_LAGS ? exp(shape[2]) : 0.0;
    double m[PROCESS_LINEAR][PROCESS_LINEAR + 1] = {{0}}, scale = 0.0, squares = 0.0;
    if (shape[1] < 0.0 || shape[1] > (double)d->count * d->tick / 2.0 ||
        !(lag < LAG_MOST * (double)d->count * d->tick) ||
        (f->kind == RGP_PROCESS_LAGS && (second > UNLIKE_MOST * lag || second < d->tick))) {
        return NEVER;
    }
    const rgp_plant plant = process_plant(f, shape);
    rgp_process_answer(&plant, d, f->answer);
    for (size_t k = 0; k < d->count; k++) {
        scale = fmax(scale, fabs(f->answer[k]));
    }
    const double slope = f->kind == RGP_PROCESS_INTEGRAL ? 1.0 / ((double)d->count * d->tick) : 1.0,
                 shrink = scale > 0.0 ? 1.0 / scale : 1.0;
    for (size_t k = 0; k < d->count; k++) {
        const double row[PROCESS_LINEAR + 1] = {f->answer[k] * shrink, 1.0, process_beginning(f, lag, k) * slope,
                                                d->measured[k]};
        for (size_t i = 0; !isnan(d->measured[k]) && i < PROCESS_LINEAR; i++) {
            for (size_t c = 0; c <= PROCESS_LINEAR; c++) {
                m[i][c] += row[i] * row[c] / (double)f->usable;
            }
        }
    }
    if (!solve(m, f->linear)) {
        return NEVER;
    }
    f->linear[0] *= shrink;
    f->linear[2] *= slope;
    for (size_t k = 0; k < d->count; k++) {
        const double left =
            d->measured[k] - f->linear[0] * f->answer[k] - f->linear[1] - f->linear[2] * process_beginning(f, lag, k);
        squares += isnan(left) ? 0.0 : left * left;
    }
    return squares;
}

size_t process_shapes(rgp_process_kind kind)
{
    return kind == RGP_PROCESS_LAGS ? 3 : 2;
}
