/* Fits of a process that runs away from where it balances, held by its loop: it is fitted piece by piece, each as long
 * as it can be foreseen, and each with a beginning of its own (multiple shooting: Bock 1983), since an error at the
 * beginning of all of it would have grown beyond all bounds at its end. Beginnings, gain and balance are linear, and
 * taken out by projection; lag and dead time are searched. */
#include "process_falling.h"

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
#define ROWS_SOUGHT  40000u /* that the shape is looked for in; all others then polish it */

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
        return FALLING_NEVER;
    }
    process_falling_answer(f, shape);
    double **c = copies_of(f);
    for (size_t i = 0; i < 3; i++) {
        process_falling_project(f, lag, c[i]);
    }
    const double yy = dot(c[0], c[0], n), rr = dot(c[1], c[1], n), oo = dot(c[2], c[2], n), yr = dot(c[0], c[1], n),
                 yo = dot(c[0], c[2], n), ro = dot(c[1], c[2], n), determinant = rr * oo - ro * ro;
    free_copies(c);
    if (!(determinant > 1e-12 * rr * oo)) {
        return FALLING_NEVER;
    }
    f->linear[OF_DRIVEN] = (yr * oo - yo * ro) / determinant;
    f->linear[OF_ONE] = (yo * rr - yr * ro) / determinant;
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

/* Pieces as long as a lag asks for. */
static size_t piece_for(const falling *f, double lag)
{
    const double rows = PIECE_LAGS * lag / f->d->tick;
    return (size_t)fmax(fmin(rows, (double)f->d->count / 4.0), PIECE_LEAST);
}

/* Pieces as long as what was found asks for. */
static double search_pieces(falling *f, double *shape)
{
    double squares = FALLING_NEVER;
    for (int i = 0; i < ROUNDS; i++) {
        squares = search_shape(f, shape);
        if (squares >= FALLING_NEVER || i + 1 == ROUNDS) {
            break;
        }
        f->piece = piece_for(f, exp(shape[0]));
    }
    return squares;
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
    g_autofree own *beginning = process_falling_beginnings(f, exp(shape[0]));
    g_autofree double *fitted = g_new(double, n + 1);
    process_falling_fitted(f, shape, beginning, fitted);
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

/* In the way `by`, and again without the pieces in which it was pushed, which become NAN in `measured`. */
static double search_without_pushes(falling *f, double by(falling *, double *), double *measured, double *shape)
{
    double squares = by(f, shape);
    for (int i = 0; i < ROUNDS && squares < FALLING_NEVER && leave_pushed_out(f, shape, measured); i++) {
        squares = by(f, shape);
    }
    return squares;
}

static double movement_of(const rgp_process_data *d, size_t from, size_t rows)
{
    double sum = 0.0, squares = 0.0, n = 1.0;
    for (size_t k = from; k < from + rows; k++) {
        const double is = isnan(d->measured[k]) ? 0.0 : d->measured[k];
        sum += is;
        squares += is * is;
        n += isnan(d->measured[k]) ? 0.0 : 1.0;
    }
    return squares - sum * sum / n;
}

rgp_process_data process_falling_busy(const rgp_process_data *all, size_t rows)
{
    double most = -1.0;
    size_t best = 0;
    for (size_t from = 0; all->count > rows && from + rows <= all->count; from += rows) {
        const double moves = movement_of(all, from, rows);
        best = moves > most ? from : best;
        most = fmax(most, moves);
    }
    return (rgp_process_data){all->driven + best, all->measured + best, MIN(all->count, rows), all->tick};
}

/* Lag, dead time and the length of the pieces, by the busiest stretch. */
static double search_in_part(falling *f, double *shape)
{
    const rgp_process_data busy = process_falling_busy(f->d, ROWS_SOUGHT);
    g_autofree double *measured = g_memdup2(busy.measured, ROWS_SOUGHT * sizeof *measured);
    const rgp_process_data data = {busy.driven, measured, ROWS_SOUGHT, busy.tick};
    falling part = *f;
    part.d = &data;
    const double squares = search_without_pushes(&part, search_pieces, measured, shape);
    f->piece = part.piece;
    return squares;
}

/* The numbers of a shape that was found by pieces, by the innovations of the busiest stretch. */
static bool find_numbers(falling *f, const rgp_process_data *all, double *shape, double *error)
{
    const rgp_process_data part = process_falling_busy(all, ROWS_SOUGHT);
    const size_t from = (size_t)(part.driven - all->driven);
    double linear[SHARED];
    if (!process_innovations(&part, shape, linear, error)) {
        return false;
    }
    f->from = from;
    f->to = from + part.count;
    f->piece = piece_for(f, exp(shape[0]));
    process_falling_answer(f, shape);
    memcpy(f->linear, linear, sizeof linear);
    return true;
}

bool process_fit_falling(const rgp_process_data *all, rgp_process *to)
{
    g_autofree double *answer = g_new0(double, all->count + 1);
    g_autofree double *measured = g_memdup2(all->measured, all->count * sizeof(double));
    g_autofree own *room = g_new0(own, all->count + PIECE_FIRST);
    const rgp_process_data data = {all->driven, measured, all->count, all->tick};
    falling f = {.d = &data, .answer = answer, .own = room, .piece = PIECE_FIRST};
    double shape[2] = {0}, error[FALLING_NUMBERS];
    const bool great = all->count > ROWS_SOUGHT;
    if (all->count < 4u * PIECE_FIRST || (great && search_in_part(&f, shape) >= FALLING_NEVER)) {
        return false;
    }
    const bool found = search_without_pushes(&f, great ? polish : search_pieces, measured, shape) < FALLING_NEVER &&
                       find_numbers(&f, all, shape, error);
    if (found) {
        process_falling_tell(&f, shape, error, to);
    }
    return found;
}
