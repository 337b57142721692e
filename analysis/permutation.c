/* Permutation tests over runs, and the intervals that they give. */
#include "permutation.h"

#include <gsl/gsl_rng.h>
#include <gsl/gsl_randist.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#define PAIRS_EXACT 14u
#define RUNS_MOST   256u /* of both kinds together; more are looked at no further */
#define DRAWS       20000u
#define LEVEL       0.05
#define SAME        1e-9 /* relative: what rounding alone made smaller counts as equal */
#define HALVINGS    40
#define WIDENINGS   60

/* The share of ways that are at least as far off as the one that was seen, when `shift` is taken off. */
typedef double chance_of(const void *self, double shift);

/* The farthest shift to one side that the test would not reject: widened until it does, then halved. */
static double bound(chance_of *chance, const void *self, double mean, double step)
{
    double inside = mean, outside = mean + step;
    for (int i = 0; i < WIDENINGS && chance(self, outside) > LEVEL; i++) {
        inside = outside;
        outside = mean + 2.0 * (outside - mean);
    }
    for (int i = 0; i < HALVINGS; i++) {
        const double middle = 0.5 * (inside + outside);
        *(chance(self, middle) > LEVEL ? &inside : &outside) = middle;
    }
    return inside;
}

static double mean_of(const double *x, uint32_t n)
{
    double sum = 0.0;
    for (uint32_t i = 0; i < n; i++) {
        sum += x[i];
    }
    return sum / n;
}

/* ---- pairs ----------------------------------------------------------------------------------------- */

typedef struct pairs {
    const double *difference;
    uint32_t n;
} pairs;

static uint64_t all_signs(const pairs *p, double shift, double seen)
{
    uint64_t as_far = 0;
    double x[PAIRS_EXACT], sum = 0.0;
    for (uint32_t i = 0; i < p->n; i++) {
        x[i] = p->difference[i] - shift;
        sum += x[i];
    }
    for (uint32_t way = 0;; way++) { /* from each to the next one sign is turned (Gray 1953) */
        as_far += fabs(sum) >= seen;
        if (way == (1u << p->n) - 1u) {
            return as_far;
        }
        uint32_t turned = 0;
        while (!((way + 1u) >> turned & 1u)) {
            turned++;
        }
        sum -= 2.0 * x[turned];
        x[turned] = -x[turned];
    }
}

static double paired_chance(const void *self, double shift)
{
    const pairs *p = self;
    double seen = 0.0, size = 0.0;
    for (uint32_t i = 0; i < p->n; i++) {
        seen += p->difference[i] - shift;
        size += fabs(p->difference[i] - shift);
    }
    seen = fabs(seen) - SAME * size;
    if (p->n <= PAIRS_EXACT) {
        return (double)all_signs(p, shift, seen) / (double)(1u << p->n);
    }
    gsl_rng *rng = gsl_rng_alloc(gsl_rng_taus2);
    uint64_t as_far = 1; /* the one that was seen */
    for (uint32_t draw = 0; draw < DRAWS; draw++) {
        double sum = 0.0;
        for (uint32_t i = 0; i < p->n; i++) {
            const double x = p->difference[i] - shift;
            sum += gsl_rng_get(rng) >> 16 & 1u ? x : -x;
        }
        as_far += fabs(sum) >= seen;
    }
    gsl_rng_free(rng);
    return (double)as_far / (double)(DRAWS + 1u);
}

double rgp_paired_least(uint32_t n)
{
    return n <= PAIRS_EXACT ? 2.0 / (double)(1u << n) : 1.0 / (double)(DRAWS + 1u);
}

rgp_difference rgp_paired(const double *difference, uint32_t n)
{
    const pairs p = {difference, n};
    rgp_difference d = {.judged = n >= RGP_PAIRS_LEAST, .mean = n > 0 ? mean_of(difference, n) : NAN};
    double spread = 0.0;
    for (uint32_t i = 0; i < n; i++) {
        spread = fmax(spread, fabs(difference[i] - d.mean));
    }
    d.low = d.high = d.mean;
    d.chance = 1.0;
    if (d.judged) {
        d.chance = paired_chance(&p, 0.0);
    }
    if (d.judged && spread > 0.0) {
        d.low = bound(paired_chance, &p, d.mean, -spread);
        d.high = bound(paired_chance, &p, d.mean, spread);
    }
    return d;
}

/* ---- no pairs -------------------------------------------------------------------------------------- */

typedef struct heaps {
    const double *first, *second;
    uint32_t firsts, seconds;
} heaps;

/* Welch's t of a heap of which the first so many are of the first kind. */
static double student(const double *x, uint32_t firsts, uint32_t seconds)
{
    const double a = mean_of(x, firsts), b = mean_of(x + firsts, seconds);
    double of_a = 0.0, of_b = 0.0;
    for (uint32_t i = 0; i < firsts; i++) {
        of_a += (x[i] - a) * (x[i] - a);
    }
    for (uint32_t i = firsts; i < firsts + seconds; i++) {
        of_b += (x[i] - b) * (x[i] - b);
    }
    const double error = sqrt(of_a / (firsts - 1.0) / firsts + of_b / (seconds - 1.0) / seconds);
    return error > 0.0 ? (b - a) / error : b == a ? 0.0 : copysign(INFINITY, b - a);
}

static double ways_of(uint32_t n, uint32_t k)
{
    double ways = 1.0;
    for (uint32_t i = 1; i <= k; i++) {
        ways *= (double)(n - k + i) / i;
    }
    return round(ways);
}

/* The next choice of k places among n, in order; false behind the last. */
static bool next_choice(uint32_t *place, uint32_t k, uint32_t n)
{
    uint32_t i = k;
    while (i > 0 && place[i - 1] == n - k + i - 1) {
        i--;
    }
    if (i == 0) {
        return false;
    }
    place[i - 1]++;
    for (; i < k; i++) {
        place[i] = place[i - 1] + 1;
    }
    return true;
}

static void share_out(const double *all, uint32_t n, const uint32_t *place, uint32_t k, double *to)
{
    uint32_t next = 0, others = k;
    for (uint32_t i = 0; i < n; i++) {
        const bool chosen = next < k && place[next] == i;
        to[chosen ? next : others] = all[i];
        next += chosen;
        others += !chosen;
    }
}

static double unpaired_chance(const void *self, double shift)
{
    const heaps *h = self;
    const uint32_t n = h->firsts + h->seconds, k = h->firsts;
    double all[RUNS_MOST], x[RUNS_MOST];
    uint32_t place[RUNS_MOST];
    memcpy(all, h->first, h->firsts * sizeof *all);
    for (uint32_t i = 0; i < h->seconds; i++) {
        all[k + i] = h->second[i] - shift;
    }
    const double seen = fabs(student(all, h->firsts, h->seconds)), least = seen - SAME * (isfinite(seen) ? seen : 0.0);
    double as_far = 0.0, ways = 0.0;
    if (ways_of(n, k) <= DRAWS) {
        for (uint32_t i = 0; i < k; i++) {
            place[i] = i;
        }
        do {
            share_out(all, n, place, k, x);
            as_far += fabs(student(x, h->firsts, h->seconds)) >= least;
            ways += 1.0;
        } while (next_choice(place, k, n));
        return as_far / ways;
    }
    gsl_rng *rng = gsl_rng_alloc(gsl_rng_taus2);
    as_far = ways = 1.0; /* the one that was seen */
    for (; ways <= DRAWS; ways += 1.0) {
        memcpy(x, all, n * sizeof *x);
        gsl_ran_shuffle(rng, x, n, sizeof *x);
        as_far += fabs(student(x, h->firsts, h->seconds)) >= least;
    }
    gsl_rng_free(rng);
    return as_far / ways;
}

double rgp_unpaired_least(uint32_t runs)
{
    const double ways = ways_of(2u * runs, runs);
    return ways <= DRAWS ? 2.0 / ways : 1.0 / (double)(DRAWS + 1u);
}

rgp_difference rgp_unpaired(const double *first, uint32_t firsts, const double *second, uint32_t seconds)
{
    const heaps h = {first, second, firsts, seconds};
    rgp_difference d = {.judged =
                            firsts >= RGP_RUNS_LEAST && seconds >= RGP_RUNS_LEAST && firsts + seconds <= RUNS_MOST,
                        .chance = 1.0};
    d.mean = firsts > 0 && seconds > 0 ? mean_of(second, seconds) - mean_of(first, firsts) : NAN;
    d.low = d.high = d.mean;
    double spread = 0.0;
    for (uint32_t i = 0; i < firsts + seconds; i++) {
        const double x = i < firsts ? first[i] - first[0] : second[i - firsts] - second[0];
        spread = fmax(spread, fabs(x));
    }
    if (d.judged) {
        d.chance = unpaired_chance(&h, 0.0);
    }
    if (d.judged && spread > 0.0) {
        d.low = bound(unpaired_chance, &h, d.mean, -spread);
        d.high = bound(unpaired_chance, &h, d.mean, spread);
    }
    return d;
}

/* ---- several questions ------------------------------------------------------------------------------ */

static int by_chance(const void *a, const void *b)
{
    const double x = **(double *const *)a, y = **(double *const *)b;
    return x < y ? -1 : x > y;
}

void rgp_holm(double *chance, uint32_t count)
{
    double **asked = malloc((count + 1u) * sizeof *asked), before = 0.0;
    uint32_t questions = 0;
    for (uint32_t i = 0; asked && i < count; i++) {
        if (!isnan(chance[i])) {
            asked[questions++] = &chance[i];
        }
    }
    if (questions > 0) {
        qsort(asked, questions, sizeof *asked, by_chance);
    }
    for (uint32_t i = 0; i < questions; i++) {
        before = fmax(before, fmin(1.0, *asked[i] * (questions - i)));
        *asked[i] = before;
    }
    free(asked);
}
