/* A process that falls, by what each reading says that those before it did not: its innovations (Kailath 1968). Lag,
 * dead time and the places of a predictor's poles are those that leave least; gain, balance and the beginning are
 * linear. Since nothing is foreseen from readings to come, it makes no difference that a loop answers the very noise of
 * these readings (Ljung 1999, "System Identification", 13.4: the direct method). */
#include "process_innovations.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_linalg.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

#define BRIDGED    0.5  /* lags */
#define FADES      1.0  /* lags behind a gap until its beginning has faded */
#define STEPS      60   /* of the search */
#define CLOSE      1e-7 /* of what is left: a step that gains less is the last one */
#define HARDER     4.0  /* times the damping, where a step leaves no less */
#define STIFF      1e8  /* damping with which nothing moves any more */
#define FROZEN     1e9
#define FAR        9.0  /* no pole is nearer to 0 or 1, where it would not move any more */
#define ONE_SIDED  5.0  /* spreads of blocks */
#define MOST_OUT   0.2  /* of all blocks */
#define WORTH      12.0 /* logarithms of a likelihood, twice */
#define BLOCKS     30.0 /* of rows that hang together, at least */
#define LEAST_ROWS 60u

/* A logarithm of a lag, a dead time, and poles as good as any. */
#define BEGIN_AT(lag, dead)                                          \
    {                                                                \
        [LAG] = (lag), [DEAD] = (dead), [SUM] = 2.0, [PRODUCT] = 0.5 \
    }

/* ---- derivatives ------------------------------------------------------------------------------------ */

static size_t numbers_of(const predicting *f)
{
    return TO_SHAPE + f->sought;
}

/* By row and number what a little more of that number would change of the innovation. */
static double *derivatives_of(predicting *f, const double *at)
{
    static const double steps[SOUGHT] = {[LAG] = 1e-4, [SUM] = 1e-4, [PRODUCT] = 1e-4, [HOLDS] = 1e-3, [THIRD] = 1e-3};
    const size_t n = f->d->count, numbers = numbers_of(f);
    double *j = g_new(double, n *numbers + 1);
    g_autofree double *left = g_new(double, n + 1);
    innovations_look(f, at);
    memcpy(left, f->left, n * sizeof *left);
    for (size_t k = 0; k < n; k++) {
        for (size_t i = 0; i < LINEAR; i++) {
            j[k * numbers + i] = -f->channel[BY_DRIVEN + i][k];
        }
    }
    for (size_t i = 0; i < f->sought; i++) {
        const double step = i == DEAD ? f->d->tick / 64.0 : steps[i];
        double other[SOUGHT];
        memcpy(other, at, f->sought * sizeof *other);
        other[i] += step;
        innovations_look(f, other);
        for (size_t k = 0; k < n; k++) {
            j[k * numbers + TO_SHAPE + i] = (left[k] - f->left[k]) / step;
        }
    }
    memcpy(f->left, left, n * sizeof *left);
    return j;
}

/* The sums of their squares, and by how much all rows pull at the numbers. */
static void sum_squares(const predicting *f, const double *j, gsl_matrix *h, gsl_vector *pull)
{
    gsl_matrix_set_zero(h);
    for (size_t k = 0; k < f->d->count; k++) {
        if (!isnan(f->left[k])) {
            gsl_vector_const_view row = gsl_vector_const_view_array(&j[k * numbers_of(f)], numbers_of(f));
            const double w = innovations_weight(f, k);
            gsl_blas_dsyr(CblasLower, w, &row.vector, h);
            gsl_blas_daxpy(w * f->left[k], &row.vector, pull);
        }
    }
}

/* ---- the search ------------------------------------------------------------------------------------- */

/* The squares that are left, in those of the scale, each innovation counted as Huber does, by row. */
static double loss_of(const predicting *f)
{
    double sum = 0.0;
    size_t n = 0;
    for (size_t k = 0; k < f->d->count; k++) {
        const double off = fabs(f->left[k]) / f->scale;
        if (!isnan(off)) {
            sum += off < HUBER ? off * off : HUBER * (2.0 * off - HUBER);
            n++;
        }
    }
    return n > 0 ? sum / (double)n : FALLING_NEVER;
}

static double loss_at(predicting *f, const double *at)
{
    if (!innovations_possible(f, at)) {
        return FALLING_NEVER;
    }
    innovations_look(f, at);
    return loss_of(f);
}

/* A dead time that would have to be less than 0 becomes that, and the others go without it. */
static bool solve_step(gsl_matrix *h, const gsl_vector *pull, const double *at, gsl_vector *by)
{
    gsl_matrix *kept = gsl_matrix_alloc(h->size1, h->size2);
    gsl_matrix_memcpy(kept, h);
    bool sound = gsl_linalg_cholesky_decomp1(h) == 0 && gsl_linalg_cholesky_solve(h, pull, by) == 0;
    if (sound && at[DEAD] + by->data[TO_SHAPE + DEAD] < 0.0) {
        gsl_matrix_set(kept, TO_SHAPE + DEAD, TO_SHAPE + DEAD,
                       FROZEN * gsl_matrix_get(kept, TO_SHAPE + DEAD, TO_SHAPE + DEAD));
        sound = gsl_linalg_cholesky_decomp1(kept) == 0 && gsl_linalg_cholesky_solve(kept, pull, by) == 0;
        by->data[TO_SHAPE + DEAD] = -at[DEAD];
    }
    gsl_matrix_free(kept);
    return sound;
}

static void go(predicting *f, const double *at, const gsl_vector *by, double *to)
{
    for (size_t i = 0; i < LINEAR; i++) {
        f->linear[i] += by->data[i];
    }
    for (size_t i = 0; i < f->sought; i++) {
        const double is = at[i] + by->data[TO_SHAPE + i];
        to[i] = i >= SUM ? CLAMP(is, -FAR, FAR) : is;
    }
    to[DEAD] = fmax(0.0, to[DEAD]);
}

/* One step of Marquardt (1963) from there: all numbers at once, damped. False: none leaves less. */
static bool step_on(predicting *f, double *at, double *least, double *damping)
{
    gsl_matrix *h = gsl_matrix_alloc(numbers_of(f), numbers_of(f)),
               *damped = gsl_matrix_alloc(numbers_of(f), numbers_of(f));
    gsl_vector *pull = gsl_vector_calloc(numbers_of(f)), *by = gsl_vector_alloc(numbers_of(f));
    g_autofree double *j = derivatives_of(f, at);
    bool better = false;
    sum_squares(f, j, h, pull);
    for (; !better && *damping < STIFF; *damping *= better ? 1.0 / HARDER : HARDER) {
        double other[SOUGHT], linear[LINEAR];
        memcpy(linear, f->linear, sizeof linear);
        gsl_matrix_memcpy(damped, h);
        innovations_stiffen(damped, *damping);
        if (!solve_step(damped, pull, at, by)) {
            continue;
        }
        go(f, at, by, other);
        const double is = loss_at(f, other);
        better = is < *least;
        if (better) {
            f->gained = *least - is;
            *least = is;
            memcpy(at, other, f->sought * sizeof *other);
        } else {
            memcpy(f->linear, linear, sizeof linear);
        }
    }
    gsl_matrix_free(h);
    gsl_matrix_free(damped);
    gsl_vector_free(pull);
    gsl_vector_free(by);
    return better;
}

/* From there on, with the scale that it has there. */
static double search_from(predicting *f, double *at)
{
    double damping = 1e-3, least = loss_at(f, at);
    for (int i = 0; i < STEPS && least < FALLING_NEVER && step_on(f, at, &least, &damping); i++) {
        if (f->gained < CLOSE * least) {
            break;
        }
    }
    return least;
}

/* From that lag and dead time, and from lags that are shorter and longer: where little is driven they are far from one
 * another. False: from none of them. */
static bool search_numbers(predicting *f, const double *shape, double *best)
{
    static const double times[] = {1.0, 0.4, 2.5};
    const double lag = shape[LAG], dead = shape[DEAD];
    double least = FALLING_NEVER, scale = 0.0;
    for (size_t i = 0; i < G_N_ELEMENTS(times); i++) {
        double at[SOUGHT] = BEGIN_AT(lag + log(times[i]), dead);
        if (!innovations_begin(f, at)) {
            continue;
        }
        scale = scale > 0.0 ? scale : f->scale;
        f->scale = scale;
        const double found = search_from(f, at);
        if (found < least) {
            least = found;
            memcpy(best, at, sizeof at);
        }
    }
    return least < FALLING_NEVER && innovations_begin(f, best) && search_from(f, best) < FALLING_NEVER;
}

/* Rows that hang together: of a lag, or less. */
static size_t block_of(const predicting *f, const double *at)
{
    return (size_t)fmax(1.0, fmin(exp(at[LAG]) / f->d->tick, (double)f->d->count / BLOCKS));
}

/* Leaves out blocks whose innovations are on one side by far more than those of others: there somebody held it, or
 * pushed it on. How many; 0 where they are too many. */
static size_t leave_out(predicting *f, const double *at, double *measured)
{
    const size_t block = block_of(f, at), blocks = f->d->count / block;
    g_autofree double *mean = g_new0(double, blocks + 1), *size = g_new0(double, blocks + 1);
    size_t sound = 0, out = 0;
    for (size_t b = 0; b < blocks; b++) {
        double sum = 0.0, n = 0.0;
        for (size_t k = b * block; k < (b + 1) * block; k++) {
            sum += isnan(f->left[k]) ? 0.0 : CLAMP(f->left[k], -HUBER * f->scale, HUBER * f->scale);
            n += isnan(f->left[k]) ? 0.0 : 1.0;
        }
        mean[b] = n > 0.0 ? fabs(sum) / sqrt(n) : (double)NAN;
        if (n > 0.0) {
            size[sound++] = mean[b];
        }
    }
    const double most = sound > 0 ? ONE_SIDED * gsl_stats_median(size, 1, sound) / MEDIAN_OF_NORMAL : INFINITY;
    for (size_t b = 0; b < blocks; b++) {
        out += mean[b] > most ? 1 : 0;
    }
    for (size_t k = 0; k < blocks * block && (double)out < MOST_OUT * (double)sound; k++) {
        measured[k] = mean[k / block] > most ? (double)NAN : measured[k];
    }
    return (double)out < MOST_OUT * (double)sound ? out : 0;
}

/* Noise that holds on, where that leaves less by more than its two numbers are worth (Akaike 1974, in their own scale).
 */
static void search_holding(predicting *f, double *best)
{
    static const double begins[] = {0.0, 2.0};
    double least = loss_at(f, best) * exp(-WORTH / (double)f->d->count), linear[LINEAR], kept[LINEAR];
    size_t sought = PLAIN;
    memcpy(linear, f->linear, sizeof linear);
    memcpy(kept, f->linear, sizeof kept);
    f->sought = SOUGHT;
    for (size_t i = 0; i < G_N_ELEMENTS(begins); i++) {
        double at[SOUGHT] = {best[LAG], best[DEAD], best[SUM], best[PRODUCT], begins[i], begins[i] - 0.5};
        memcpy(f->linear, linear, sizeof linear);
        const double found = search_from(f, at);
        if (found < least) {
            least = found;
            sought = SOUGHT;
            memcpy(best, at, sizeof at);
            memcpy(kept, f->linear, sizeof kept);
        }
    }
    f->sought = sought;
    memcpy(f->linear, kept, sizeof kept);
    loss_at(f, best);
}

/* ---- its doubt -------------------------------------------------------------------------------------- */

/* The squares of what each block of rows pulls at the numbers: within a block innovations may hang together (Liang and
 * Zeger 1986). How many blocks. */
static size_t sum_blocks(const predicting *f, const double *j, size_t block, gsl_matrix *spread)
{
    gsl_vector *pull = gsl_vector_calloc(numbers_of(f));
    size_t blocks = 0;
    gsl_matrix_set_zero(spread);
    for (size_t k = 0; k < f->d->count; k++) {
        if (!isnan(f->left[k])) {
            gsl_vector_const_view row = gsl_vector_const_view_array(&j[k * numbers_of(f)], numbers_of(f));
            gsl_blas_daxpy(innovations_weight(f, k) * f->left[k], &row.vector, pull);
        }
        if ((k + 1) % block == 0) {
            gsl_blas_dsyr(CblasLower, 1.0, pull, spread);
            gsl_vector_set_zero(pull);
            blocks++;
        }
    }
    gsl_vector_free(pull);
    return blocks;
}

/* Standard errors of gain, balance, lag and dead time; false: they cannot be told. */
static bool put_errors(predicting *f, const double *at, double *error)
{
    static const size_t told[FALLING_NUMBERS] = {[FALLING_GAIN] = 0,
                                                 [FALLING_BALANCE] = BY_ONE - BY_DRIVEN,
                                                 [FALLING_LAG] = TO_SHAPE + LAG,
                                                 [FALLING_DEAD] = TO_SHAPE + DEAD};
    gsl_matrix *h = gsl_matrix_alloc(numbers_of(f), numbers_of(f)),
               *spread = gsl_matrix_alloc(numbers_of(f), numbers_of(f)),
               *half = gsl_matrix_alloc(numbers_of(f), numbers_of(f));
    gsl_vector *pull = gsl_vector_calloc(numbers_of(f));
    g_autofree double *j = derivatives_of(f, at);
    sum_squares(f, j, h, pull);
    innovations_stiffen(h, LITTLE);
    const size_t blocks = sum_blocks(f, j, block_of(f, at), spread);
    const bool sound =
        blocks > numbers_of(f) && gsl_linalg_cholesky_decomp1(h) == 0 && gsl_linalg_cholesky_invert(h) == 0;
    if (sound) {
        gsl_blas_dsymm(CblasRight, CblasLower, (double)blocks / (double)(blocks - numbers_of(f)), spread, h, 0.0, half);
        for (size_t i = 0; i < FALLING_NUMBERS; i++) {
            gsl_vector_const_view row = gsl_matrix_const_row(half, told[i]),
                                  column = gsl_matrix_const_column(h, told[i]);
            double square;
            gsl_blas_ddot(&row.vector, &column.vector, &square);
            error[i] = sqrt(fmax(0.0, square));
        }
    }
    gsl_matrix_free(h);
    gsl_matrix_free(spread);
    gsl_matrix_free(half);
    gsl_vector_free(pull);
    return sound;
}

/* ---- all of it -------------------------------------------------------------------------------------- */

static void make_room(predicting *f)
{
    for (size_t c = 0; c < CHANNELS; c++) {
        f->channel[c] = g_new0(double, f->d->count + 1);
    }
    f->left = g_new0(double, f->d->count + 1);
    f->room = g_new0(double, f->d->count + 1);
}

static void free_room(predicting *f)
{
    for (size_t c = 0; c < CHANNELS; c++) {
        g_free(f->channel[c]);
    }
    g_free(f->left);
    g_free(f->room);
}

static bool find(predicting *f, const double *shape, double *measured, double *at, double *error)
{
    if (!search_numbers(f, shape, at)) {
        return false;
    }
    if (leave_out(f, at, measured) > 0 && !search_numbers(f, at, at)) {
        return false;
    }
    search_holding(f, at);
    return put_errors(f, at, error);
}

/* With that lag about which gaps are bridged. */
static predicting room_for(const rgp_process_data *d, double lag)
{
    predicting f = {.d = d,
                    .sought = PLAIN,
                    .bridged = (size_t)(BRIDGED * lag / d->tick),
                    .fades = (size_t)(FADES * lag / d->tick)};
    make_room(&f);
    return f;
}

bool process_innovations(const rgp_process_data *d, double *shape, double *linear, double *error)
{
    g_autofree double *measured = g_memdup2(d->measured, d->count * sizeof *measured);
    const rgp_process_data mine = {d->driven, measured, d->count, d->tick};
    predicting f = room_for(&mine, exp(shape[0]));
    double at[SOUGHT];
    const bool found = d->count >= LEAST_ROWS && find(&f, shape, measured, at, error);
    if (found) {
        shape[0] = at[LAG];
        shape[1] = at[DEAD];
        linear[OF_DRIVEN] = f.linear[0];
        linear[OF_ONE] = -f.linear[BY_ONE - BY_DRIVEN];
    }
    free_room(&f);
    return found;
}

double process_innovations_lag(const rgp_process_data *d, double lag)
{
    predicting f = room_for(d, lag);
    double at[SOUGHT] = BEGIN_AT(log(lag), 0.0);
    const bool found = d->count >= LEAST_ROWS && innovations_begin(&f, at) && search_from(&f, at) < FALLING_NEVER;
    free_room(&f);
    return found ? exp(at[LAG]) : INFINITY;
}
