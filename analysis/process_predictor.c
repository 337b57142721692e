/* A predictor of a process that falls: with gains of its own it foresees the next reading from those before and from
 * what was driven. Its own error fades, although the process runs away (Luenberger 1964). */
#include "process_innovations.h"

#include <gsl/gsl_linalg.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

#define WEIGHINGS 3 /* rounds of weights */

typedef struct predictor {
    rgp_plant plant;
    rgp_plant_state is; /* its cosh and sinh of a tick, and what a unit driven does */
    double holds;       /* of the noise of a reading, from row to row */
    double k[3];        /* the predictor's gains: for both parts of the movement, and for that noise */
} predictor;

static double pole_of(double logit)
{
    return 1.0 / (1.0 + exp(-logit));
}

/* The gains that put the poles there: by comparison of the powers of z in
 * (z^2 - 2 c z + 1) (z - holds + k3) + (k1 (z - c) + k2 s) (z - holds) = (z^2 - sum z + product) (z - third). */
static void place_poles(predictor *p, double sum, double product, double third)
{
    const double h = p->holds, c = p->is.cosh, one = 2.0 * c + h - sum - third,
                 two = product + sum * third - 1.0 - 2.0 * c * h, last = h - product * third;
    p->k[2] = (last + h * two + h * h * one) / (1.0 - 2.0 * c * h + h * h);
    p->k[0] = one - p->k[2];
    p->k[1] = (two + h * p->k[0] + 2.0 * c * p->k[2] + c * p->k[0]) / p->is.sinh;
}

static void begin(predictor *p, const predicting *f, const double *at)
{
    const bool holds = f->sought > PLAIN;
    const double product = tanh(at[PRODUCT]);
    p->plant = (rgp_plant){RGP_PROCESS_FALLING, 1.0, exp(at[LAG]), 0.0, at[DEAD]};
    rgp_plant_begin(&p->is, &p->plant, f->d->tick);
    p->holds = holds ? pole_of(at[HOLDS]) : 0.0;
    place_poles(p, (1.0 + product) * tanh(at[SUM]), product, holds ? pole_of(at[THIRD]) : 0.0);
}

/* One channel on by a row, by the part of the reading that it did not foresee. */
static void go_on(const predictor *p, double *x, double over)
{
    const double was = x[0];
    x[0] = p->is.cosh * was + p->is.sinh * x[1] + p->k[0] * over;
    x[1] = p->is.sinh * was + p->is.cosh * x[1] + p->k[1] * over;
    x[2] = p->holds * x[2] + p->k[2] * over;
}

/* And by what was driven. */
static void drive(const predictor *p, const double *driven, size_t row, double *x)
{
    const size_t late = p->is.late;
    const double now = driven[row > late ? row - late : 0], before = driven[row > late + 1 ? row - late - 1 : 0];
    x[0] += p->is.now * now + p->is.before * before;
    x[1] += p->is.now_z * now + p->is.before_z * before;
}

static double foreseen(const double *x)
{
    return x[0] + x[2];
}

/* A reading that is missing teaches nothing; behind a gap in which it would be foreseen no more it begins anew. */
static void predict(predicting *f, const double *at)
{
    predictor p;
    begin(&p, f, at);
    double x[CHANNELS][3] = {[BY_PLACE] = {-1.0}, [BY_SPEED] = {0.0, -1.0}};
    size_t gap = 0, fades = 0, first = 0;
    for (; first < f->d->count && isnan(f->d->measured[first]); first++) {
        f->channel[OF_MEASURED][first] = NAN;
    }
    for (size_t k = first; k < f->d->count; k++) {
        const bool seen = !isnan(f->d->measured[k]);
        if (seen && gap > f->bridged) {
            memset(x, 0, sizeof x);
            x[OF_MEASURED][0] = f->d->measured[k];
            x[BY_ONE][0] = 1.0;
            fades = k + f->fades;
        }
        gap = seen ? 0 : gap + 1;
        const double reads[CHANNELS] = {[OF_MEASURED] = f->d->measured[k], [BY_ONE] = 1.0};
        for (size_t c = 0; c < CHANNELS; c++) {
            const double over = reads[c] - foreseen(x[c]);
            f->channel[c][k] = seen && k >= fades ? over : (double)NAN;
            go_on(&p, x[c], seen ? over : 0.0);
        }
        drive(&p, f->d->driven, k, x[BY_DRIVEN]);
    }
}

/* ---- the linear numbers ----------------------------------------------------------------------------- */

double innovations_weight(const predicting *f, size_t row)
{
    const double off = fabs(f->left[row]);
    return f->scale > 0.0 && off > HUBER * f->scale ? HUBER * f->scale / off : 1.0;
}

void innovations_stiffen(gsl_matrix *h, double by)
{
    for (size_t i = 0; i < h->size1; i++) {
        gsl_matrix_set(h, i, i, (1.0 + by) * gsl_matrix_get(h, i, i) + G_MINDOUBLE);
    }
}

/* By least squares, with less weight for what is far off by the scale of the round before. */
static bool solve(predicting *f)
{
    double squares[LINEAR * LINEAR] = {0}, by[LINEAR] = {0};
    gsl_matrix_view h = gsl_matrix_view_array(squares, LINEAR, LINEAR);
    gsl_vector_view pull = gsl_vector_view_array(by, LINEAR), to = gsl_vector_view_array(f->linear, LINEAR);
    for (size_t k = 0; k < f->d->count; k++) {
        const double w = isnan(f->channel[OF_MEASURED][k]) ? 0.0 : innovations_weight(f, k);
        for (size_t a = 0; w > 0.0 && a < LINEAR; a++) {
            by[a] -= w * f->channel[BY_DRIVEN + a][k] * f->channel[OF_MEASURED][k];
            for (size_t b = 0; b <= a; b++) {
                squares[a * LINEAR + b] += w * f->channel[BY_DRIVEN + a][k] * f->channel[BY_DRIVEN + b][k];
            }
        }
    }
    innovations_stiffen(&h.matrix, LITTLE);
    return gsl_linalg_cholesky_decomp1(&h.matrix) == 0 &&
           gsl_linalg_cholesky_solve(&h.matrix, &pull.vector, &to.vector) == 0;
}

static void put_left(predicting *f)
{
    for (size_t k = 0; k < f->d->count; k++) {
        f->left[k] = f->channel[OF_MEASURED][k];
        for (size_t i = 0; i < LINEAR; i++) {
            f->left[k] += f->linear[i] * f->channel[BY_DRIVEN + i][k];
        }
    }
}

/* The spread of the innovations, by the median of their sizes. */
static double scale_of(const predicting *f)
{
    size_t n = 0;
    for (size_t k = 0; k < f->d->count; k++) {
        if (!isnan(f->left[k])) {
            f->room[n++] = fabs(f->left[k]);
        }
    }
    return n > 0 ? gsl_stats_median(f->room, 1, n) / MEDIAN_OF_NORMAL : 0.0;
}

bool innovations_possible(const predicting *f, const double *at)
{
    const rgp_process_data *d = f->d;
    const double lag = exp(at[LAG]);
    return at[DEAD] >= 0.0 && at[DEAD] < lag && lag > d->tick && lag < (double)d->count * d->tick / 4.0;
}

void innovations_look(predicting *f, const double *at)
{
    predict(f, at);
    put_left(f);
}

bool innovations_begin(predicting *f, const double *at)
{
    bool sound = innovations_possible(f, at);
    f->scale = 0.0;
    if (sound) {
        predict(f, at);
    }
    for (int i = 0; i < WEIGHINGS && sound; i++) {
        sound = solve(f);
        put_left(f);
        f->scale = scale_of(f);
    }
    return sound && f->scale > 0.0;
}
