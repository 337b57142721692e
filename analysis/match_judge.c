/* Which settings a recording tells, and how surely: those that it does not are put back, one after the other. */
#include "match_parts.h"

#include "noise_kinds.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_cdf.h>
#include <gsl/gsl_linalg.h>

#include <math.h>
#include <string.h>

#define SAME_MOST 1e5  /* times the variance of a setting that no other is like: more, and two make one difference */
#define TOGETHER  0.99 /* a correlation of doubts from which on one can make good for the other */
#define WIDE      0.7  /* of a logarithm: half the width of an interval from which on nothing is known */
#define SPARE     4.0  /* half-widths of its interval: what is farther from where it began is needed */
#define CHANCE    3.84 /* squares of noise that 19 of 20 settings which do nothing explain less than */
#define LONG      1e6  /* rows: a lag that no recording is long enough for */
#define HAIR      1e-12
#define CLOSE     1e-7 /* of the greatest: what of a sensor's derivatives is less is no direction of its own */

/* ---- the covariance -------------------------------------------------------------------------------- */

/* Directions of a sensor's derivatives, as many as there are: the longest column, then what the next one adds to that
 * (Gram and Schmidt, with pivots). NULL: there is none. */
static gsl_matrix *basis_of(const gsl_matrix *j)
{
    gsl_matrix *left = gsl_matrix_alloc(j->size1, j->size2), *basis = gsl_matrix_alloc(j->size1, j->size2);
    double first = 0.0;
    size_t rank = 0;
    gsl_matrix_memcpy(left, j);
    for (; rank < j->size2; rank++) {
        size_t longest = 0;
        double most = -1.0;
        for (size_t c = 0; c < j->size2; c++) {
            gsl_vector_view column = gsl_matrix_column(left, c);
            const double length = gsl_blas_dnrm2(&column.vector);
            longest = length > most ? c : longest;
            most = fmax(most, length);
        }
        first = rank == 0 ? most : first;
        if (!(most > CLOSE * first) || most <= 0.0) {
            break;
        }
        gsl_vector_view to = gsl_matrix_column(basis, rank), from = gsl_matrix_column(left, longest);
        gsl_vector_memcpy(&to.vector, &from.vector);
        gsl_vector_scale(&to.vector, 1.0 / most);
        for (size_t c = 0; c < j->size2; c++) {
            gsl_vector_view column = gsl_matrix_column(left, c);
            double along;
            gsl_blas_ddot(&to.vector, &column.vector, &along);
            gsl_blas_daxpy(-along, &to.vector, &column.vector);
        }
    }
    gsl_matrix_free(left);
    gsl_matrix *whole = rank > 0 ? gsl_matrix_alloc(j->size1, rank) : NULL;
    for (size_t c = 0; c < rank; c++) {
        gsl_vector_const_view column = gsl_matrix_const_column(basis, c);
        gsl_matrix_set_col(whole, c, &column.vector);
    }
    gsl_matrix_free(basis);
    return whole;
}

/* Adds J' Sigma J of one sensor. */
static void add_sensor(const matching *m, uint32_t sensor, const gsl_matrix *j, const gsl_vector *left, gsl_matrix *to)
{
    const size_t first = sensor * m->blocks;
    gsl_matrix_const_view of = gsl_matrix_const_submatrix(j, first, 0, m->blocks, j->size2);
    gsl_vector_const_view over = gsl_vector_const_subvector(left, first, m->blocks);
    gsl_matrix *basis = basis_of(&of.matrix);
    if (basis) {
        gsl_matrix *spread = gsl_matrix_alloc(j->size2, j->size2);
        const double ticks = (double)m->each; /* a load is seen as it is: through no lag that is known */
        rgp_noise_spread(&(rgp_noise_rows){basis, &over.vector, ticks, ticks, LONG * ticks}, &of.matrix, spread);
        gsl_matrix_add(to, spread);
        gsl_matrix_free(spread);
        gsl_matrix_free(basis);
    }
}

static void inner_of(const gsl_matrix *j, gsl_matrix *to)
{
    gsl_blas_dgemm(CblasTrans, CblasNoTrans, 1.0, j, j, 0.0, to);
}

/* H of J'J; a hair is added, so that there is one where two columns are the same. */
static void inverse_of(const gsl_matrix *inner, gsl_matrix *to)
{
    gsl_matrix_memcpy(to, inner);
    for (size_t i = 0; i < to->size1; i++) {
        *gsl_matrix_ptr(to, i, i) *= 1.0 + HAIR;
    }
    if (gsl_linalg_cholesky_decomp1(to) || gsl_linalg_cholesky_invert(to)) {
        gsl_matrix_set_identity(to);
        gsl_matrix_scale(to, INFINITY);
    }
}

/* ---- judgement ------------------------------------------------------------------------------------- */

static candidate *nth_free(matching *m, size_t n)
{
    uint32_t i = 0;
    while (!m->candidate[i].free || n > 0) {
        n -= m->candidate[i].free;
        i++;
    }
    return &m->candidate[i];
}

static void put_back(candidate *c, rgp_match_fate fate)
{
    c->free = false;
    c->fate = fate;
    c->now = c->begin;
}

/* Of those that make no difference of their own, one that is not written, else the last one. */
static bool put_back_alike(matching *m, const gsl_matrix *inner, const gsl_matrix *h)
{
    int worst = -1;
    for (size_t i = 0; i < h->size1; i++) {
        const bool alike = !(gsl_matrix_get(h, i, i) * gsl_matrix_get(inner, i, i) < SAME_MOST);
        const bool keeps = worst >= 0 && !nth_free(m, (size_t)worst)->written && nth_free(m, i)->written;
        worst = alike && !keeps ? (int)i : worst;
    }
    if (worst < 0) {
        return false;
    }
    candidate *c = nth_free(m, (size_t)worst);
    for (size_t i = 0; i < h->size1; i++) {
        const double together = gsl_matrix_get(h, i, (size_t)worst) /
                                sqrt(gsl_matrix_get(h, i, i) * gsl_matrix_get(h, (size_t)worst, (size_t)worst));
        if (i != (size_t)worst && fabs(together) > TOGETHER && c->likes < RGP_MATCH_LIKE) {
            c->like[c->likes++] = (uint32_t)(nth_free(m, i) - m->candidate);
        }
    }
    put_back(c, RGP_MATCH_LIKE_OTHERS);
    return true;
}

static double half_width(const matching *m, const candidate *c, const gsl_matrix *cov, size_t at)
{
    const double freedom = fmax(1.0, (double)(m->blocks * m->seen_count) - (double)cov->size1);
    return gsl_cdf_tdist_Pinv(0.975, freedom) * c->step * sqrt(fmax(0.0, gsl_matrix_get(cov, at, at)));
}

static void keep_intervals(matching *m, const gsl_matrix *cov)
{
    for (size_t i = 0; i < cov->size1; i++) {
        candidate *c = nth_free(m, i);
        const double half = half_width(m, c, cov, i);
        c->low_end = c->now - half;
        c->high_end = c->now + half;
    }
}

/* The one of which least is known, where that is nothing. */
static bool put_back_unknown(matching *m)
{
    candidate *worst = NULL;
    for (uint32_t i = 0; i < m->candidates; i++) {
        candidate *c = &m->candidate[i];
        const bool unknown = c->free && c->logarithm && c->high_end - c->now > WIDE;
        worst = unknown && (!worst || c->high_end - c->low_end > worst->high_end - worst->low_end) ? c : worst;
    }
    if (worst) {
        put_back(worst, RGP_MATCH_NO_DIFFERENCE);
    }
    return worst != NULL;
}

/* Of those that are not written the one that is nearest to where it began, in widths of its interval. */
static candidate *sparest(matching *m, size_t *at)
{
    candidate *best = NULL;
    double least = SPARE;
    for (size_t i = 0; i < match_free(m); i++) {
        candidate *c = nth_free(m, i);
        const double far = fabs(c->now - c->begin) / fmax(c->high_end - c->now, 1e-300);
        if (!c->written && far < least) {
            least = far;
            best = c;
            *at = i;
        }
    }
    return best;
}

/* Without it less is explained, but no more than chance would have explained with it: by the likelihood ratio (Wilks
 * 1938), in squares of the noise that hangs together as much as this one's does. */
static bool put_back_spare(matching *m, double squares, const gsl_matrix *h, const gsl_matrix *cov, bool *sound)
{
    size_t at = 0;
    candidate *c = sparest(m, &at);
    if (!c) {
        return false;
    }
    double without;
    g_autofree double *was = g_new(double, m->candidates + 1);
    match_take(m, was);
    const double size = gsl_matrix_get(cov, at, at) / gsl_matrix_get(h, at, at);
    put_back(c, RGP_MATCH_NOT_NEEDED);
    *sound = match_search(m, &without);
    if (*sound && without - squares < CHANCE * size) {
        return true;
    }
    c->free = true;
    c->fate = RGP_MATCH_FOUND;
    c->written = true; /* it is needed: no further trial */
    match_put(m, was);
    return *sound && put_back_spare(m, squares, h, cov, sound);
}

/* True, and *again, when one has been put back. */
static bool judge_once(matching *m, bool *again)
{
    const size_t free = match_free(m);
    gsl_matrix *j = gsl_matrix_alloc(m->measured->size, free), *inner = gsl_matrix_alloc(free, free),
               *h = gsl_matrix_alloc(free, free), *spread = gsl_matrix_calloc(free, free),
               *half = gsl_matrix_alloc(free, free), *cov = gsl_matrix_alloc(free, free);
    gsl_vector *left = gsl_vector_alloc(m->measured->size);
    double squares;
    bool sound = match_predict(m, left) && match_derivatives(m, j);
    gsl_vector_sub(left, m->measured);
    gsl_blas_ddot(left, left, &squares);
    inner_of(j, inner);
    inverse_of(inner, h);
    *again = sound && put_back_alike(m, inner, h);
    if (sound && !*again) {
        for (uint32_t i = 0; i < m->seen_count; i++) {
            add_sensor(m, i, j, left, spread);
        }
        gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, h, spread, 0.0, half);
        gsl_blas_dgemm(CblasNoTrans, CblasNoTrans, 1.0, half, h, 0.0, cov);
        keep_intervals(m, cov);
        *again = put_back_spare(m, squares, h, cov, &sound) || (sound && put_back_unknown(m));
    }
    gsl_matrix_free(j);
    gsl_matrix_free(inner);
    gsl_matrix_free(h);
    gsl_matrix_free(spread);
    gsl_matrix_free(half);
    gsl_matrix_free(cov);
    gsl_vector_free(left);
    return sound;
}

bool match_judge(matching *m)
{
    bool again = match_free(m) > 0, sound = true;
    while (again && sound) {
        double squares;
        sound = judge_once(m, &again) && (!again || match_search(m, &squares));
        again = again && match_free(m) > 0;
    }
    return sound;
}
