/* Answers of process models, and the squares that the best linear part of one leaves. */
#include "process_parts.h"

#include <math.h>
#include <string.h>

#define LAG_MOST    20.0 /* times as long as what was recorded */
#define UNLIKE_MOST 0.8  /* of two lags, the lesser one as a share: those that are nearer are taken as equal */
#define NEVER       1e300
#define GONE        1e-30 /* of a beginning: less of it is none */

/* ---- answers --------------------------------------------------------------------------------------- */

void rgp_process_answer(const rgp_plant *plant, const rgp_process_data *d, double *to)
{
    rgp_plant_answer(plant, d->tick, d->driven, d->count, to);
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

/* A beginning from row to row, as process_beginning() has it, in steps of its own. */
typedef struct beginning {
    double is, times, plus;
} beginning;

static beginning beginning_of(const fitting *f, double lag)
{
    const double tick = f->data->tick;
    return f->kind == RGP_PROCESS_INTEGRAL ? (beginning){0.0, 1.0, tick} : (beginning){1.0, exp(-tick / lag), 0.0};
}

static inline double next_of(beginning *b)
{
    const double is = b->is;
    b->is = is < GONE && b->plus <= 0.0 ? 0.0 : b->times * is + b->plus;
    return is;
}

/* The normal equations, with the answer and the beginning as they are, and the greatest answer. */
static double put_sums(const fitting *f, double lag, double m[PROCESS_LINEAR][PROCESS_LINEAR + 1])
{
    const rgp_process_data *d = f->data;
    beginning b = beginning_of(f, lag);
    double scale = 0.0, aa = 0.0, a1 = 0.0, ab = 0.0, ay = 0.0, bb = 0.0, b1 = 0.0, by = 0.0, y1 = 0.0;
    for (size_t k = 0; k < d->count; k++) {
        const double answer = f->answer[k], begin = next_of(&b), y = d->measured[k];
        scale = fabs(answer) > scale ? fabs(answer) : scale;
        if (isnan(y)) {
            continue;
        }
        aa += answer * answer;
        a1 += answer;
        ab += answer * begin;
        ay += answer * y;
        bb += begin * begin;
        b1 += begin;
        by += begin * y;
        y1 += y;
    }
    const double all[PROCESS_LINEAR][PROCESS_LINEAR + 1] = {
        {aa, a1, ab, ay}, {a1, (double)f->usable, b1, y1}, {ab, b1, bb, by}};
    memcpy(m, all, sizeof all);
    return scale;
}

/* The best linear part for the answer that is there; false: there is none. */
static bool find_linear(fitting *f, double lag)
{
    double m[PROCESS_LINEAR][PROCESS_LINEAR + 1];
    const double scale = put_sums(f, lag, m), length = (double)f->data->count * f->data->tick,
                 by[PROCESS_LINEAR + 1] = {scale > 0.0 ? 1.0 / scale : 1.0, 1.0,
                                           f->kind == RGP_PROCESS_INTEGRAL ? 1.0 / length : 1.0, 1.0};
    for (size_t i = 0; i < PROCESS_LINEAR; i++) {
        for (size_t c = 0; c <= PROCESS_LINEAR; c++) {
            m[i][c] *= by[i] * by[c] / (double)f->usable;
        }
    }
    const bool found = solve(m, f->linear);
    for (size_t i = 0; i < PROCESS_LINEAR; i++) {
        f->linear[i] *= by[i];
    }
    return found;
}

/* The squares that are left with the best gain, offset and beginning for this shape. */
double process_squares(fitting *f, const double *shape)
{
    const rgp_process_data *d = f->data;
    const double lag = exp(shape[0]), second = f->kind == RGP_PROCESS_LAGS ? exp(shape[2]) : 0.0;
    if (shape[1] < 0.0 || shape[1] > (double)d->count * d->tick / 2.0 ||
        !(lag < LAG_MOST * (double)d->count * d->tick) ||
        (f->kind == RGP_PROCESS_LAGS && (second > UNLIKE_MOST * lag || second < d->tick))) {
        return NEVER;
    }
    const rgp_plant plant = process_plant(f, shape);
    rgp_process_answer(&plant, d, f->answer);
    if (!find_linear(f, lag)) {
        return NEVER;
    }
    beginning b = beginning_of(f, lag);
    double squares = 0.0;
    for (size_t k = 0; k < d->count; k++) {
        const double left = d->measured[k] - f->linear[0] * f->answer[k] - f->linear[1] - f->linear[2] * next_of(&b);
        squares += isnan(left) ? 0.0 : left * left;
    }
    return squares;
}

size_t process_shapes(rgp_process_kind kind)
{
    return kind == RGP_PROCESS_LAGS ? 3 : 2;
}
