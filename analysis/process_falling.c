/* Fits of a process that runs away from where it balances, held by its loop: it is fitted piece by piece, each as long
 * as it can be foreseen, and each with a beginning of its own (multiple shooting: Bock 1983), since an error at the
 * beginning of all of it would have grown beyond all bounds at its end. Beginnings, gain and balance are linear, and
 * taken out by projection; lag and dead time are searched. */
#include "process_parts.h"

#include "noise.h"
#include "noise_kinds.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_cdf.h>
#include <gsl/gsl_linalg.h>
#include <gsl/gsl_multimin.h>
#include <gsl/gsl_sort.h>

#include <math.h>
#include <string.h>

#define PIECE_LAGS   1.5 /* how long a piece is */
#define PIECE_LEAST  12u /* rows */
#define PIECE_FIRST  64u /* rows, before a lag is known */
#define ROUNDS       3   /* of pieces as long as the lag that was found asks for */
#define LAGS         12  /* of the grid */
#define DEADS        8
#define PUSHED       25.0   /* times the squares that the piece in the middle leaves: somebody pushed it meanwhile */
#define PUSHED_SHARE 0.2    /* of the pieces: more are not left out */
#define ROWS_MOST    2000u  /* that intervals are worked out from */
#define ROWS_SOUGHT  40000u /* that the shape is looked for in; all others then polish it */
#define NOTHING      1e-6   /* of a tick */
#define NEVER        1e300

enum { OF_DRIVEN, OF_ONE, SHARED };

/* A movement of its own. */
typedef struct own {
    double rise, fall;
} own;

typedef struct falling {
    const rgp_process_data *d;
    size_t piece;          /* rows */
    double *answer;        /* by row, of a gain of 1, from rest at the beginning of each piece */
    own *own;              /* by row of a piece: as foresee() has put it */
    double linear[SHARED]; /* gain and balance of the last shape */
    double whole;          /* squares that the beginnings alone leave */
} falling;

/* ---- a piece --------------------------------------------------------------------------------------- */

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

static void put_answer(falling *f, const double *shape)
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
static void project(falling *f, double lag, double *column)
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

static double dot(const double *a, const double *b, size_t count)
{
    double sum = 0.0;
    for (size_t k = 0; k < count; k++) {
        sum += a[k] * b[k];
    }
    return sum;
}

/* ---- the shape ------------------------------------------------------------------------------------- */

/* Projected copies: measured, answer and 1. */
static double **copies_of(const falling *f)
{
    const size_t n = f->d->count;
    double **to = g_new(double *, 3);
    for (size_t c = 0; c < 3; c++) {
        to[c] = g_new0(double, n + 1);
    }
    for (size_t k = 0; k < n; k++) {
        to[0][k] = isnan(f->d->measured[k]) ? 0.0 : f->d->measured[k];
        to[1][k] = f->answer[k];
        to[2][k] = 1.0;
    }
    return to;
}

static void free_copies(double **of)
{
    for (size_t c = 0; c < 3; c++) {
        g_free(of[c]);
    }
    g_free(of);
}

static double squares_of(falling *f, const double *shape)
{
    const size_t n = f->d->count;
    const double lag = exp(shape[0]);
    if (shape[1] < 0.0 || shape[1] > (double)f->piece * f->d->tick || lag < f->d->tick ||
        lag > 20.0 * (double)f->piece * f->d->tick) {
        return NEVER;
    }
    put_answer(f, shape);
    double **c = copies_of(f);
    for (size_t i = 0; i < 3; i++) {
        project(f, lag, c[i]);
    }
    const double yy = dot(c[0], c[0], n), rr = dot(c[1], c[1], n), oo = dot(c[2], c[2], n), yr = dot(c[0], c[1], n),
                 yo = dot(c[0], c[2], n), ro = dot(c[1], c[2], n), determinant = rr * oo - ro * ro;
    free_copies(c);
    if (!(determinant > 1e-12 * rr * oo)) {
        return NEVER;
    }
    f->linear[OF_DRIVEN] = (yr * oo - yo * ro) / determinant;
    f->linear[OF_ONE] = (yo * rr - yr * ro) / determinant;
    f->whole = yy - yo * yo / oo;
    return yy - f->linear[OF_DRIVEN] * yr - f->linear[OF_ONE] * yo;
}

static double for_simplex(const gsl_vector *v, void *self)
{
    return squares_of(self, (const double[]){gsl_vector_get(v, 0), gsl_vector_get(v, 1)});
}

/* From a shape that is about right. */
static double polish(falling *f, double *shape)
{
    gsl_vector *at = gsl_vector_alloc(2), *step = gsl_vector_alloc(2);
    gsl_multimin_fminimizer *s = gsl_multimin_fminimizer_alloc(gsl_multimin_fminimizer_nmsimplex2, 2);
    gsl_multimin_function function = {for_simplex, 2, f};
    gsl_vector_set(at, 0, shape[0]);
    gsl_vector_set(at, 1, shape[1]);
    gsl_vector_set(step, 0, 0.2);
    gsl_vector_set(step, 1, fmax(f->d->tick, shape[1] / 4.0));
    gsl_multimin_fminimizer_set(s, &function, at, step);
    for (int i = 0; i < 200 && gsl_multimin_fminimizer_size(s) > 1e-6; i++) {
        if (gsl_multimin_fminimizer_iterate(s)) {
            break;
        }
    }
    shape[0] = gsl_vector_get(s->x, 0);
    shape[1] = gsl_vector_get(s->x, 1);
    gsl_multimin_fminimizer_free(s);
    gsl_vector_free(at);
    gsl_vector_free(step);
    return squares_of(f, shape);
}

static double search_shape(falling *f, double *shape)
{
    const double length = (double)f->piece * f->d->tick;
    double least = INFINITY;
    for (int i = 0; i < LAGS; i++) {
        for (int k = 0; k < DEADS; k++) {
            const double at[] = {log(length / 8.0) + log(64.0) * i / (LAGS - 1),
                                 length / 4.0 * k * k / (DEADS * DEADS)};
            const double squares = squares_of(f, at);
            if (squares < least) {
                least = squares;
                memcpy(shape, at, sizeof at);
            }
        }
    }
    return polish(f, shape);
}

/* Pieces as long as what was found asks for. */
static double search_pieces(falling *f, double *shape)
{
    double squares = NEVER;
    for (int i = 0; i < ROUNDS; i++) {
        squares = search_shape(f, shape);
        const double rows = PIECE_LAGS * exp(shape[0]) / f->d->tick;
        const size_t next = (size_t)fmin(fmax(rows, PIECE_LEAST), (double)f->d->count / 4.0);
        if (squares >= NEVER || i + 1 == ROUNDS) {
            break;
        }
        f->piece = MAX(next, PIECE_LEAST);
    }
    return squares;
}

/* ---- the fit and its doubt ------------------------------------------------------------------------- */

/* The beginnings of all pieces, with the shape that was searched last. */
static own *beginnings_of(falling *f, double lag)
{
    const size_t n = f->d->count;
    own *to = g_new0(own, n / f->piece + 1);
    g_autofree double *over = g_new(double, n + 1);
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
static void put_fitted(falling *f, const double *shape, const own *beginning, double *to)
{
    put_answer(f, shape);
    foresee(f, exp(shape[0]));
    for (size_t k = 0; k < f->d->count; k++) {
        const own *of = &beginning[k / f->piece], *is = &f->own[k % f->piece];
        to[k] = of->rise * is->rise + of->fall * is->fall + f->linear[OF_DRIVEN] * f->answer[k] + f->linear[OF_ONE];
    }
}

enum { BY_GAIN, BY_BALANCE, BY_LAG, BY_DEAD, PARTS };

/* By the number `which` of the shape, in steps of it. */
static void put_derivative(falling *f, const double *shape, const own *beginning, size_t which, double step, double *to)
{
    double up[] = {shape[0], shape[1]}, down[] = {shape[0], shape[1]};
    g_autofree double *other = g_new(double, f->d->count + 1);
    up[which] += step;
    down[which] = which == 1 ? fmax(0.0, shape[1] - step) : shape[which] - step;
    put_fitted(f, up, beginning, to);
    put_fitted(f, down, beginning, other);
    for (size_t k = 0; k < f->d->count; k++) {
        to[k] = (to[k] - other[k]) / (up[which] - down[which]);
    }
}

/* Means of so many rows that there are not too many, of a projected column. */
static void put_means(const double *column, size_t each, gsl_vector *to)
{
    for (size_t row = 0; row < to->size; row++) {
        double sum = 0.0;
        for (size_t k = row * each; k < (row + 1) * each; k++) {
            sum += column[k] / (double)each;
        }
        gsl_vector_set(to, row, sum);
    }
}

/* The plain estimate's covariance; false where there is none. */
static bool covariance_of(falling *f, const double *shape, const own *beginning, const double *fitted, gsl_matrix *cov)
{
    const size_t n = f->d->count, each = MAX(1, (n + ROWS_MOST - 1) / ROWS_MOST), rows = n / each;
    gsl_matrix *j = gsl_matrix_alloc(rows, PARTS), *h = gsl_matrix_alloc(PARTS, PARTS),
               *spread = gsl_matrix_alloc(PARTS, PARTS), *half = gsl_matrix_alloc(PARTS, PARTS);
    gsl_vector *left = gsl_vector_alloc(rows), *mean = gsl_vector_alloc(rows);
    g_autofree double *column = g_new0(double, n + 1);
    for (int which = -1; which < PARTS; which++) {
        for (size_t k = 0; k < n; k++) {
            column[k] = which < 0 ? f->d->measured[k] - fitted[k] : which == BY_GAIN ? f->answer[k] : 1.0;
        }
        if (which >= BY_LAG) {
            put_derivative(f, shape, beginning, (size_t)(which - BY_LAG), which == BY_LAG ? 0.01 : f->d->tick / 2.0,
                           column);
            put_answer(f, shape);
        }
        project(f, exp(shape[0]), column);
        put_means(column, each, which < 0 ? left : mean);
        if (which >= 0) {
            gsl_matrix_set_col(j, (size_t)which, mean);
        }
    }
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, j, j, 0.0, h);
    const bool sound = gsl_linalg_cholesky_decomp1(h) == 0 && gsl_linalg_cholesky_invert(h) == 0;
    if (sound) {
        const double ticks = (double)each, row_s = ticks * f->d->tick;
        rgp_noise_spread(&(rgp_noise_rows){j, left, row_s, ticks, exp(shape[0])}, j, spread);
        gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, h, spread, 0.0, half);
        gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, half, h, 0.0, cov);
    }
    gsl_matrix *const matrix[] = {j, h, spread, half};
    for (size_t i = 0; i < G_N_ELEMENTS(matrix); i++) {
        gsl_matrix_free(matrix[i]);
    }
    gsl_vector_free(left);
    gsl_vector_free(mean);
    return sound;
}

static rgp_estimate estimate(double value, double error)
{
    const double half = gsl_cdf_ugaussian_Pinv(0.975) * error;
    return (rgp_estimate){value, value - half, value + half};
}

static void put_estimates(const falling *f, const double *shape, const gsl_matrix *cov, rgp_process *to)
{
    const double half_tick = f->d->tick / 2.0;
    const rgp_estimate lag = estimate(shape[0], sqrt(gsl_matrix_get(cov, BY_LAG, BY_LAG)));
    to->gain = estimate(f->linear[OF_DRIVEN], sqrt(gsl_matrix_get(cov, BY_GAIN, BY_GAIN)));
    to->lag = (rgp_estimate){exp(lag.value), exp(lag.low), exp(lag.high)};
    to->dead = estimate(shape[1], hypot(sqrt(gsl_matrix_get(cov, BY_DEAD, BY_DEAD)), half_tick));
    to->dead.low = fmax(0.0, to->dead.low);
    to->dead.value = to->dead.value > NOTHING * f->d->tick ? to->dead.value : 0.0; /* a simplex never gets to 0 */
    to->rest = f->linear[OF_ONE];
}

static void put_noise(const falling *f, rgp_process *to)
{
    double low = INFINITY, high = -INFINITY;
    g_autofree double *left = g_new(double, f->d->count + 1);
    size_t n = 0;
    for (size_t k = 0; k < f->d->count; k++) {
        left[n] = f->d->measured[k] - to->fitted[k];
        n += isnan(left[n]) ? 0 : 1;
        low = fmin(low, to->fitted[k]);
        high = fmax(high, to->fitted[k]);
    }
    to->excursion = high - low;
    to->left = rgp_noise_coloured(left, n);
    to->noise = fmax(rgp_noise_of(left, n).sigma, rgp_noise_of_readings(f->d->measured, f->d->count).step / sqrt(12.0));
}

/* Mean squares of what is left of each piece; NAN of one without rows. Sorted they are in `sorted`; gives how many. */
static size_t left_of_pieces(const falling *f, const double *fitted, double *left, double *sorted)
{
    size_t pieces = 0, sound = 0;
    for (size_t from = 0; from < f->d->count; from += f->piece, pieces++) {
        double sum = 0.0, n = 0.0;
        for (size_t k = from; k < MIN(from + f->piece, f->d->count); k++) {
            const double over = f->d->measured[k] - fitted[k];
            sum += isnan(over) ? 0.0 : over * over;
            n += isnan(over) ? 0.0 : 1.0;
        }
        left[pieces] = n > 2.0 ? sum / (n - 2.0) : (double)NAN;
        if (!isnan(left[pieces])) {
            sorted[sound++] = left[pieces];
        }
    }
    gsl_sort(sorted, 1, sound);
    return sound;
}

/* Leaves out pieces in the middle of which somebody pushed it, by what they leave; true when there were any. */
static bool leave_pushed_out(falling *f, const double *shape, double *measured)
{
    const size_t n = f->d->count;
    g_autofree double *left = g_new0(double, n / f->piece + 1), *sorted = g_new(double, n / f->piece + 1);
    g_autofree own *beginning = beginnings_of(f, exp(shape[0]));
    g_autofree double *fitted = g_new(double, n + 1);
    put_fitted(f, shape, beginning, fitted);
    const size_t sound = left_of_pieces(f, fitted, left, sorted);
    const double most = sound > 0 ? PUSHED * sorted[sound / 2] : INFINITY;
    size_t out = 0;
    for (size_t k = 0; k < n; k++) {
        out += left[k / f->piece] > most && k % f->piece == 0 ? 1 : 0;
    }
    for (size_t k = 0; k < n && (double)out <= PUSHED_SHARE * (double)sound; k++) {
        measured[k] = left[k / f->piece] > most ? (double)NAN : measured[k];
    }
    return out > 0 && (double)out <= PUSHED_SHARE * (double)sound;
}

/* Rows that were left out as pushed were not fitted either. */
static void leave_gaps(const falling *f, double *fitted)
{
    for (size_t k = 0; k < f->d->count; k++) {
        fitted[k] = isnan(f->d->measured[k]) ? (double)NAN : fitted[k];
    }
}

/* All that is told, of the shape that was found. */
static bool tell(falling *f, const double *shape, double squares, rgp_process *to)
{
    g_autofree own *beginning = beginnings_of(f, exp(shape[0]));
    g_autofree double *fitted = g_new0(double, f->d->count + 1);
    gsl_matrix *cov = gsl_matrix_alloc(PARTS, PARTS);
    put_fitted(f, shape, beginning, fitted);
    const bool sound = covariance_of(f, shape, beginning, fitted, cov);
    if (sound) {
        leave_gaps(f, fitted);
        *to = (rgp_process){.kind = RGP_PROCESS_FALLING, .fitted = g_steal_pointer(&fitted)};
        to->weight[RGP_PROCESS_FALLING] = 1.0;
        to->fit = 100.0 * (1.0 - squares / fmax(f->whole, 1e-300));
        put_estimates(f, shape, cov, to);
        put_noise(f, to);
    }
    gsl_matrix_free(cov);
    return sound;
}

/* In the way `by`, and again without the pieces in which it was pushed, which become NAN in `measured`. */
static double search_without_pushes(falling *f, double by(falling *, double *), double *measured, double *shape)
{
    double squares = by(f, shape);
    for (int i = 0; i < ROUNDS && squares < NEVER && leave_pushed_out(f, shape, measured); i++) {
        squares = by(f, shape);
    }
    return squares;
}

/* The first of those rows, as many as the shape is looked for in, among which most is driven to and fro. */
static size_t busiest(const rgp_process_data *all)
{
    double most = -1.0;
    size_t best = 0;
    for (size_t from = 0; from + ROWS_SOUGHT <= all->count; from += ROWS_SOUGHT) {
        double way = 0.0;
        for (size_t k = from + 1; k < from + ROWS_SOUGHT; k++) {
            way += fabs(all->driven[k] - all->driven[k - 1]);
        }
        if (way > most) {
            most = way;
            best = from;
        }
    }
    return best;
}

/* Lag, dead time and the length of the pieces, by the busiest stretch. */
static double search_in_part(falling *f, double *shape)
{
    const size_t from = busiest(f->d);
    g_autofree double *measured = g_memdup2(f->d->measured + from, ROWS_SOUGHT * sizeof *measured);
    const rgp_process_data data = {f->d->driven + from, measured, ROWS_SOUGHT, f->d->tick};
    falling part = *f;
    part.d = &data;
    const double squares = search_without_pushes(&part, search_pieces, measured, shape);
    f->piece = part.piece;
    return squares;
}

bool process_fit_falling(const rgp_process_data *all, rgp_process *to)
{
    g_autofree double *answer = g_new0(double, all->count + 1);
    g_autofree double *measured = g_memdup2(all->measured, all->count * sizeof(double));
    g_autofree own *room = g_new0(own, all->count + PIECE_FIRST);
    const rgp_process_data data = {all->driven, measured, all->count, all->tick};
    falling f = {.d = &data, .answer = answer, .own = room, .piece = PIECE_FIRST};
    double shape[2] = {0};
    const bool great = all->count > ROWS_SOUGHT;
    if (all->count < 4u * PIECE_FIRST || (great && search_in_part(&f, shape) >= NEVER)) {
        return false;
    }
    const double squares = search_without_pushes(&f, great ? polish : search_pieces, measured, shape);
    return squares < NEVER && tell(&f, shape, squares, to);
}
