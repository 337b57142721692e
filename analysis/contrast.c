/* A permutation test over blocks: the share of all orders that fit at least as well as the one that was driven. */
#include "contrast.h"

#include <gsl/gsl_cdf.h>
#include <gsl/gsl_randist.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>
#include <string.h>

#define MOST       RGP_CONTRAST_BLOCKS_MOST
#define CLIP       4.0    /* robust deviations */
#define TO_NORMAL  1.4826 /* from the median of absolute deviations to a standard deviation */
#define SAME       1e-9   /* relative: a contrast that rounding alone made smaller counts as equal */
#define INTERVAL   0.975
#define EMPTY_LINE 1e-9

/* The linear map that whitens and takes a straight line out, for one correlation. */
typedef struct model {
    uint32_t n;
    double phi;
    double line[2][MOST]; /* whitened constant and slope, made orthonormal; 0 for one that the whitening took away */
    uint32_t lines;       /* that are not 0 */
} model;

void rgp_contrast_order(gsl_rng *chance, bool *on, uint32_t blocks)
{
    for (uint32_t i = 0; i < blocks; i++) {
        on[i] = i < blocks / 2;
    }
    gsl_ran_shuffle(chance, on, blocks, sizeof *on);
}

static double product(const double *a, const double *b, uint32_t n)
{
    double sum = 0.0;
    for (uint32_t i = 0; i < n; i++) {
        sum += a[i] * b[i];
    }
    return sum;
}

static void take_out(const double *line, double *x, uint32_t n)
{
    const double share = product(line, x, n);
    for (uint32_t i = 0; i < n; i++) {
        x[i] -= share * line[i];
    }
}

static void whiten(double phi, double *x, uint32_t n)
{
    for (uint32_t i = n; i-- > 1;) {
        x[i] -= phi * x[i - 1];
    }
    x[0] *= sqrt(1.0 - phi * phi);
}

static model model_of(double phi, uint32_t n)
{
    model m = {.n = n, .phi = phi};
    for (uint32_t i = 0; i < n; i++) {
        m.line[0][i] = 1.0;
        m.line[1][i] = (double)i - 0.5 * (n - 1);
    }
    for (uint32_t k = 0; k < 2; k++) {
        whiten(phi, m.line[k], n);
        if (k > 0) {
            take_out(m.line[0], m.line[k], n);
        }
        const double length = sqrt(product(m.line[k], m.line[k], n));
        m.lines += length > EMPTY_LINE;
        for (uint32_t i = 0; i < n; i++) {
            m.line[k][i] = length > EMPTY_LINE ? m.line[k][i] / length : 0.0;
        }
    }
    return m;
}

static void reduce(const model *m, double *x)
{
    whiten(m->phi, x, m->n);
    take_out(m->line[0], x, m->n);
    take_out(m->line[1], x, m->n);
}

static double correlation_of(const double *value, uint32_t n)
{
    const model plain = model_of(0.0, n);
    double x[MOST];
    memcpy(x, value, n * sizeof *x);
    reduce(&plain, x);
    const double squares = product(x, x, n);
    return squares > 0.0 ? product(x, x + 1, n - 1) / squares : 0.0;
}

static void clip(double *x, uint32_t n)
{
    double work[MOST], sorted[MOST];
    memcpy(sorted, x, n * sizeof *x);
    const double middle = gsl_stats_median(sorted, 1, n);
    const double most = CLIP * TO_NORMAL * gsl_stats_mad0(x, 1, n, work);
    for (uint32_t i = 0; i < n && most > 0.0; i++) {
        x[i] = fmin(fmax(x[i], middle - most), middle + most);
    }
}

/* ---- all orders ------------------------------------------------------------------------------------ */

/* An order that is half made: the contrast of the blocks that are on so far, and the square of its length. */
typedef struct count {
    uint32_t n;
    double share[MOST]; /* of each block in the contrast */
    double cross[MOST][MOST];
    double least; /* the normalised contrast that counts as equal */
    uint32_t on[MOST];
    uint64_t orders, as_great;
} count;

/* Adds a block to those that are on. */
static void add_block(count *c, uint32_t chosen, uint32_t block, double contrast, double square)
{
    for (; block + (c->n / 2 - chosen) <= c->n; block++) {
        double more = c->cross[block][block];
        for (uint32_t k = 0; k < chosen; k++) {
            more += 2.0 * c->cross[block][c->on[k]];
        }
        c->on[chosen] = block;
        if (chosen + 1 < c->n / 2) {
            add_block(c, chosen + 1, block + 1, contrast + c->share[block], square + more);
        } else {
            const double all = contrast + c->share[block];
            c->orders++;
            c->as_great += fabs(all) >= c->least * sqrt(fmax(square + more, 0.0));
        }
        if (chosen == 0) {
            return; /* an order and its opposite have the same contrast: those with the first block on are half of all
                     */
        }
    }
}

static double share_of_orders(const model *m, const double *left, double least)
{
    count c = {.n = m->n, .least = least * (1.0 - SAME)};
    double column[MOST][MOST];
    for (uint32_t i = 0; i < m->n; i++) {
        memset(column[i], 0, sizeof column[i]);
        column[i][i] = 1.0;
        reduce(m, column[i]);
        c.share[i] = product(column[i], left, m->n);
        for (uint32_t k = 0; k <= i; k++) {
            c.cross[i][k] = c.cross[k][i] = product(column[i], column[k], m->n);
        }
    }
    add_block(&c, 0, 0, 0.0, 0.0);
    return (double)c.as_great / (double)c.orders;
}

rgp_contrast rgp_contrast_of(const double *value, const bool *on, uint32_t blocks)
{
    const double correlation = correlation_of(value, blocks);
    const model m = model_of(correlation < 0.25 ? 0.0 : correlation < 0.75 ? 0.5 : 1.0, blocks);
    double left[MOST], order[MOST];
    memcpy(left, value, blocks * sizeof *left);
    reduce(&m, left);
    clip(left, blocks);
    for (uint32_t i = 0; i < blocks; i++) {
        order[i] = on[i] ? 1.0 : 0.0;
    }
    reduce(&m, order);
    const double length = product(order, order, blocks), contrast = product(order, left, blocks);
    const double squares = product(left, left, blocks);
    const uint32_t freedom = blocks - m.lines - 1 - (m.phi == 1.0);
    rgp_contrast c = {.chance = 1.0};
    if (!(squares > 0.0)) {
        return c;
    }
    c.effect = contrast / length;
    c.error = sqrt(fmax(squares - contrast * c.effect, 0.0) / freedom / length);
    c.band = gsl_cdf_tdist_Pinv(INTERVAL, freedom) * c.error;
    c.chance = share_of_orders(&m, left, fabs(contrast) / sqrt(length));
    return c;
}
