/* The likelihood of each kind of noise, by a filter over its states. */
#include "noise_kinds.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_linalg.h>

#include <glib.h>
#include <math.h>
#include <stdbool.h>
#include <string.h>

#define WHITE_FIRST 40.0 /* times as likely beforehand as any other kind */

enum { LOAD, SEEN, HELD, STATES };

typedef struct kinds {
    const rgp_noise_rows *rows;
    size_t count, parts;
    double fades;                             /* a */
    double load_scale;                        /* variance of the chance in a load whose mean variance of a row is 1 */
    gsl_matrix *white, *walk, *held, *spread; /* of `of`: sums under each part of the noise, and of a kind */
    gsl_matrix *left, *inner;                 /* what is not expected of each column of j; and its squares */
    gsl_vector *over, *b, *x;
} kinds;

/* ---- sums under each part of the noise --------------------------------------------------------------- */

static double scale_of_load(const kinds *k)
{
    double sum = 0.0, row = 0.0, answered = 1.0;
    for (size_t i = 0; i < k->count; i++) { /* the variance of a row is the sum over all chances before it */
        answered *= k->fades;
        row += (1.0 - answered) * (1.0 - answered);
        sum += row;
    }
    return sum > 0.0 ? (double)k->count / sum : 0.0;
}

/* Column by column, backwards: by what each chance of the load has come to in sums of the rows. */
static gsl_matrix *walk_of(const kinds *k, const gsl_matrix *of)
{
    gsl_matrix *through = gsl_matrix_alloc(of->size1, of->size2), *to = gsl_matrix_alloc(of->size2, of->size2);
    for (size_t c = 0; c < of->size2; c++) {
        double all = 0.0, faded = 0.0;
        for (size_t i = of->size1; i-- > 0;) {
            all += gsl_matrix_get(of, i, c);
            faded = gsl_matrix_get(of, i, c) + k->fades * faded;
            gsl_matrix_set(through, i, c, all - k->fades * faded);
        }
    }
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, k->load_scale, through, through, 0.0, to);
    gsl_matrix_free(through);
    return to;
}

/* Each row with all others, by rho to the power of their distance: those before it, and those behind it. */
static void held_of(const gsl_matrix *of, double rho, gsl_matrix *to)
{
    gsl_matrix *through = gsl_matrix_alloc(of->size1, of->size2);
    for (size_t c = 0; c < of->size2; c++) {
        double before = 0.0, behind = 0.0;
        for (size_t i = 0; i < of->size1; i++) {
            before = gsl_matrix_get(of, i, c) + rho * before;
            gsl_matrix_set(through, i, c, before);
        }
        for (size_t i = of->size1; i-- > 0;) {
            *gsl_matrix_ptr(through, i, c) += behind;
            behind = rho * (behind + gsl_matrix_get(of, i, c));
        }
    }
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, of, through, 0.0, to);
    gsl_matrix_free(through);
}

/* ---- the filter --------------------------------------------------------------------------------------- */

/* The doubt of the states, which no reading changes but only that there was one. */
typedef struct filter {
    double a, rho, chance_load, chance_held, white;
    double p[STATES][STATES];
    double gain[STATES], unexpected; /* of this row: of the states by what was not expected; its variance */
} filter;

/* On to the next row, and its reading. */
static void filter_step(filter *f, bool first)
{
    double p[STATES][STATES];
    const double a = f->a, move[STATES][STATES] = {{1.0, 0.0, 0.0}, {1.0 - a, a, 0.0}, {0.0, 0.0, f->rho}};
    double half[STATES][STATES] = {{0}};
    for (int i = 0; i < STATES; i++) {
        for (int k = 0; k < STATES; k++) {
            half[i][k] = move[i][0] * f->p[0][k] + move[i][1] * f->p[1][k] + move[i][2] * f->p[2][k];
        }
    }
    for (int i = 0; i < STATES; i++) {
        for (int k = 0; k < STATES; k++) {
            p[i][k] = half[i][0] * move[k][0] + half[i][1] * move[k][1] + half[i][2] * move[k][2];
        }
    }
    const double share[] = {1.0, 1.0 - a};
    for (int i = LOAD; i <= SEEN; i++) {
        for (int k = LOAD; k <= SEEN; k++) {
            p[i][k] += f->chance_load * share[i] * share[k];
        }
    }
    p[HELD][HELD] += first ? f->chance_held : f->chance_held * (1.0 - f->rho * f->rho);
    double with[STATES]; /* each state with the reading */
    for (int i = 0; i < STATES; i++) {
        with[i] = p[i][SEEN] + p[i][HELD];
    }
    f->unexpected = with[SEEN] + with[HELD] + f->white;
    for (int i = 0; i < STATES; i++) {
        f->gain[i] = with[i] / f->unexpected;
        for (int k = 0; k < STATES; k++) {
            f->p[i][k] = p[i][k] - f->gain[i] * with[k];
        }
    }
}

/* The part of a value that is not expected, in its deviations; the states of its column go on. */
static double unexpected_of(const filter *f, double *state, double value)
{
    const double load = state[LOAD], seen = f->a * state[SEEN] + (1.0 - f->a) * load, held = f->rho * state[HELD],
                 left = value - seen - held;
    state[LOAD] = load + f->gain[LOAD] * left;
    state[SEEN] = seen + f->gain[SEEN] * left;
    state[HELD] = held + f->gain[HELD] * left;
    return left / sqrt(f->unexpected);
}

/* All columns of j, and the residual; gives the logarithm of the determinant. NAN where it is none. */
static double filter_all(kinds *k, filter f)
{
    const rgp_noise_rows *r = k->rows;
    double sum = 0.0;
    g_autofree double *state = g_new0(double, (k->parts + 1) * STATES);
    for (size_t i = 0; i < k->count; i++) {
        filter_step(&f, i == 0);
        sum += log(f.unexpected);
        for (size_t c = 0; c < k->parts; c++) {
            gsl_matrix_set(k->left, i, c, unexpected_of(&f, &state[c * STATES], gsl_matrix_get(r->j, i, c)));
        }
        gsl_vector_set(k->over, i, unexpected_of(&f, &state[k->parts * STATES], gsl_vector_get(r->residual, i)));
    }
    return sum;
}

/* The restricted likelihood, and the size of the noise. False where it is none. */
static bool likelihood_of(kinds *k, const filter *f, double *likelihood, double *size)
{
    const double determinant = filter_all(k, *f);
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, k->left, k->left, 0.0, k->inner);
    gsl_blas_dgemv(CblasTrans, 1.0, k->left, k->over, 0.0, k->b);
    if (!isfinite(determinant) || gsl_linalg_cholesky_decomp1(k->inner) != 0 ||
        gsl_linalg_cholesky_solve(k->inner, k->b, k->x) != 0) {
        return false;
    }
    double squares, taken, inner = 0.0;
    gsl_blas_ddot(k->over, k->over, &squares);
    gsl_blas_ddot(k->b, k->x, &taken);
    for (size_t i = 0; i < k->parts; i++) {
        inner += 2.0 * log(gsl_matrix_get(k->inner, i, i));
    }
    const double freedom = (double)(k->count - k->parts);
    *size = fmax(squares - taken, 1e-300) / freedom;
    *likelihood = -0.5 * (determinant + inner + freedom * log(*size));
    return true;
}

/* ---- all kinds ---------------------------------------------------------------------------------------- */

static void add_share(gsl_matrix *to, double share, const gsl_matrix *of)
{
    for (size_t i = 0; i < to->size1; i++) {
        for (size_t c = 0; c < to->size2; c++) {
            *gsl_matrix_ptr(to, i, c) += share * gsl_matrix_get(of, i, c);
        }
    }
}

static void tell(kinds *k, rgp_noise_kind kind, void (*each)(void *self, const rgp_noise_kind *kind), void *self)
{
    const double rho = kind.correlation > 0.0 ? pow(kind.correlation, k->rows->ticks) : 0.0, rest = 1.0 - kind.load;
    const filter f = {.a = k->fades,
                      .rho = rho,
                      .chance_load = kind.load * k->load_scale,
                      .chance_held = rest * (1.0 - kind.white),
                      .white = rest * kind.white};
    if (likelihood_of(k, &f, &kind.weight, &kind.size)) {
        kind.weight += kind.correlation <= 0.0 && kind.load <= 0.0 ? log(WHITE_FIRST) : 0.0;
        gsl_matrix_set_zero(k->spread);
        add_share(k->spread, kind.size * f.white, k->white);
        add_share(k->spread, kind.size * f.chance_held, k->held);
        add_share(k->spread, kind.size * kind.load, k->walk);
        kind.spread = k->spread;
        each(self, &kind);
    }
}

static kinds begin(const rgp_noise_rows *r, const gsl_matrix *of)
{
    const size_t rows = r->j->size1, parts = r->j->size2, columns = of->size2;
    kinds k = {.rows = r, .count = rows, .parts = parts, .fades = exp(-r->row_s / r->lag)};
    k.load_scale = scale_of_load(&k);
    k.white = gsl_matrix_alloc(columns, columns);
    k.held = gsl_matrix_alloc(columns, columns);
    k.spread = gsl_matrix_alloc(columns, columns);
    k.walk = walk_of(&k, of);
    k.left = gsl_matrix_alloc(rows, parts);
    k.inner = gsl_matrix_alloc(parts, parts);
    k.over = gsl_vector_alloc(rows);
    k.b = gsl_vector_alloc(parts);
    k.x = gsl_vector_alloc(parts);
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, of, of, 0.0, k.white);
    return k;
}

static void end(kinds *k)
{
    gsl_matrix *const matrix[] = {k->white, k->walk, k->held, k->spread, k->left, k->inner};
    gsl_vector *const vector[] = {k->over, k->b, k->x};
    for (size_t i = 0; i < G_N_ELEMENTS(matrix); i++) {
        gsl_matrix_free(matrix[i]);
    }
    for (size_t i = 0; i < G_N_ELEMENTS(vector); i++) {
        gsl_vector_free(vector[i]);
    }
}

void rgp_noise_kinds(const rgp_noise_rows *r, const gsl_matrix *of,
                     void (*each)(void *self, const rgp_noise_kind *kind), void *self)
{
    static const double correlation[] = {0.0, 0.3, 0.6, 0.8, 0.9, 0.95, 0.975, 0.99, 0.997},
                        white[] = {0.0, 0.15, 0.4, 0.7, 0.9}, load[] = {0.0, 0.001, 0.003, 0.01, 0.03, 0.1, 0.3, 0.6};
    kinds k = begin(r, of);
    for (size_t i = 0; i < G_N_ELEMENTS(correlation); i++) {
        held_of(of, i == 0 ? 0.0 : pow(correlation[i], r->ticks), k.held);
        for (size_t w = 0; w < (i == 0 ? 1 : G_N_ELEMENTS(white)); w++) { /* without a correlation all of it is white */
            for (size_t l = 0; l < G_N_ELEMENTS(load); l++) {
                tell(&k,
                     (rgp_noise_kind){.correlation = correlation[i], .white = i == 0 ? 1.0 : white[w], .load = load[l]},
                     each, self);
            }
        }
    }
    end(&k);
}

/* The mean over all kinds, as it grows. */
typedef struct expected {
    gsl_matrix *sum;
    double weight, most; /* their sum, as a share of e^most */
} expected;

static void add_to_mean(void *self, const rgp_noise_kind *kind)
{
    expected *e = self;
    const double less = exp(fmin(0.0, e->most - kind->weight));
    e->most = fmax(e->most, kind->weight);
    const double share = exp(kind->weight - e->most);
    e->weight = e->weight * less + share;
    for (size_t i = 0; i < e->sum->size1; i++) {
        for (size_t c = 0; c < e->sum->size2; c++) {
            gsl_matrix_set(e->sum, i, c,
                           gsl_matrix_get(e->sum, i, c) * less + share * gsl_matrix_get(kind->spread, i, c));
        }
    }
}

void rgp_noise_spread(const rgp_noise_rows *r, const gsl_matrix *of, gsl_matrix *to)
{
    expected e = {to, 0.0, -INFINITY};
    gsl_matrix_set_zero(to);
    rgp_noise_kinds(r, of, add_to_mean, &e);
    gsl_matrix_scale(to, e.weight > 0.0 ? 1.0 / e.weight : 0.0);
}
