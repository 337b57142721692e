/* Play, friction, and swings from outside: how much better a stretch that swings is explained behind a play, behind
 * friction that sticks and jumps (Choudhury, Thornhill and Shah 2005), or with a swing from outside, than by a
 * mechanism alone. All of them by two lags and a dead time, fitted by the least squares of the output error; slow
 * movements are taken out of both sides by a moving mean over a period. */
#include "diagnosis_parts.h"

#include <gsl/gsl_multimin.h>

#include <math.h>
#include <string.h>

#define ROWS         480u
#define FINE         24.0 /* rows in a period */
#define SHAPES       3u   /* logarithms of lag, dead time and second lag */
#define COLUMNS      3u   /* the answer, and two of a swing */
#define TURNS        30   /* of a simplex */
#define FEW_TURNS    10
#define NEVER        1e300
#define MOST         4.0
#define LEAST        1e-12

#define LEAST_PERIOD 3.0 /* rows */
#define SEEN         0.5 /* of the band: what swings by less is not looked at */
#define ABOVE        2.0 /* noises */

typedef enum kind { ALONE, PLAY, FRICTION } kind;

typedef struct setting {
    double width, jump; /* shares of the swing of the output; of the width */
} setting;

typedef struct between {
    const diagnosed *d;
    size_t first, each, rows; /* of the stretch: the first row that is used, and how many make one here */
    double tick, period;      /* seconds, rows here */
    double swing;             /* of the output, from turn to turn */
    double *passed, *measured, *answer, *wave[2], *sum;
    size_t columns;
} between;

/* ---- what passes ------------------------------------------------------------------------------------ */

static double through_play(double now, double driven, double width)
{
    return fmin(fmax(now, driven - width / 2.0), driven + width / 2.0);
}

static double through_friction(double now, double driven, double width, double jump)
{
    return fabs(driven - now) > width ? driven - copysign(width * (1.0 - jump), driven - now) : now;
}

/* All of the stretch passes, so that the first rows that are used know where they are. */
static void pass(between *b, kind what, const setting *s)
{
    const diagnosed *d = b->d;
    double now = d->output[0];
    memset(b->passed, 0, b->rows * sizeof(double));
    for (size_t i = 0; i < d->rows; i++) {
        const double u = d->output[i];
        now = what == PLAY       ? through_play(now, u, s->width * b->swing)
              : what == FRICTION ? through_friction(now, u, s->width * b->swing, s->jump)
                                 : u;
        if (i >= b->first && (i - b->first) / b->each < b->rows) {
            b->passed[(i - b->first) / b->each] += now / (double)b->each;
        }
    }
}

/* ---- the squares that are left ---------------------------------------------------------------------- */

/* A column less its mean over a period around each row. */
static void take_slow_out(const between *b, double *column)
{
    const size_t n = b->rows, half = MAX((size_t)1, (size_t)lround(b->period / 2.0));
    b->sum[0] = 0.0;
    for (size_t i = 0; i < n; i++) {
        b->sum[i + 1] = b->sum[i] + column[i];
    }
    for (size_t i = 0; i < n; i++) {
        const size_t from = i > half ? i - half : 0, to = MIN(n, i + half);
        column[i] -= (b->sum[to] - b->sum[from]) / (double)(to - from);
    }
}

static double squares_left(const between *b)
{
    const double *column[COLUMNS] = {b->answer, b->wave[0], b->wave[1]};
    double m[COLUMNS][COLUMNS + 1] = {{0}}, left = 0.0;
    for (size_t k = 0; k < b->rows; k++) {
        left += b->measured[k] * b->measured[k];
        for (size_t i = 0; i < b->columns; i++) {
            for (size_t c = 0; c <= i; c++) {
                m[i][c] += column[i][k] * column[c][k];
            }
            m[i][COLUMNS] += column[i][k] * b->measured[k];
        }
    }
    /* Gram and Schmidt: each column takes its part out of what is left. */
    double g[COLUMNS][COLUMNS], r[COLUMNS];
    for (size_t i = 0; i < b->columns; i++) {
        r[i] = m[i][COLUMNS];
        for (size_t c = 0; c <= i; c++) {
            g[i][c] = m[i][c];
            for (size_t p = 0; p < c; p++) {
                g[i][c] -= g[i][p] * g[c][p] / fmax(g[p][p], LEAST);
            }
        }
        for (size_t p = 0; p < i; p++) {
            r[i] -= g[i][p] * r[p] / fmax(g[p][p], LEAST);
        }
        left -= g[i][i] > 1e-9 * m[i][i] ? r[i] * r[i] / g[i][i] : 0.0;
    }
    return fmax(left, 0.0);
}

static double squares_of_shape(const gsl_vector *v, void *self)
{
    between *b = self;
    const double lag = exp(gsl_vector_get(v, 0)), dead = exp(gsl_vector_get(v, 1)), second = exp(gsl_vector_get(v, 2)),
                 length = (double)b->rows * b->tick;
    if (!(lag < 10.0 * length) || !(dead < length / 4.0) || second > lag || second < 0.05 * b->tick ||
        dead < 0.05 * b->tick) {
        return NEVER;
    }
    const rgp_plant plant = {RGP_PROCESS_LAGS, 1.0, lag, second, dead};
    const rgp_process_data data = {b->passed, b->measured, b->rows, b->tick};
    rgp_process_answer(&plant, &data, b->answer);
    take_slow_out(b, b->answer);
    return squares_left(b);
}

static double best_squares(between *b, const double *from, double *shape, int turns)
{
    double at[SHAPES], size[SHAPES] = {0.5, 0.5, 0.5};
    memcpy(at, from, sizeof at);
    gsl_vector_view begin = gsl_vector_view_array(at, SHAPES), step = gsl_vector_view_array(size, SHAPES);
    gsl_multimin_fminimizer *s = gsl_multimin_fminimizer_alloc(gsl_multimin_fminimizer_nmsimplex2, SHAPES);
    gsl_multimin_function function = {squares_of_shape, SHAPES, b};
    gsl_multimin_fminimizer_set(s, &function, &begin.vector, &step.vector);
    for (int i = 0; i < turns && gsl_multimin_fminimizer_iterate(s) == 0; i++) {
    }
    const double least = gsl_multimin_fminimizer_minimum(s);
    for (size_t i = 0; shape && i < SHAPES; i++) {
        shape[i] = gsl_vector_get(s->x, i);
    }
    gsl_multimin_fminimizer_free(s);
    return least;
}

/* ---- all of it -------------------------------------------------------------------------------------- */

/* The shape of a mechanism with nothing between, begun from three that are unlike one another. */
static double squares_alone(between *b, double *shape)
{
    const double period = b->period * b->tick;
    const double start[][SHAPES] = {{log(period / 2.0), log(period / 8.0), log(period / 20.0)},
                                    {log(period * 3.0), log(period / 6.0), log(period / 20.0)},
                                    {log(period * 2.0), log(period / 20.0), log(period / 5.0)}};
    double least = NEVER;
    for (size_t i = 0; i < G_N_ELEMENTS(start); i++) {
        double found[SHAPES];
        const double squares = best_squares(b, start[i], found, FEW_TURNS);
        if (squares < least) {
            least = squares;
            memcpy(shape, found, sizeof found);
        }
    }
    return fmin(least, best_squares(b, shape, shape, TURNS));
}

/* The best of several widths, each with a shape of its own that begins at the one given: all of them a few turns, and
 * the one that is ahead then to the end. */
static double least_of(between *b, kind what, const double *shape, setting *best)
{
    static const double widths[] = {0.1, 0.25, 0.45, 0.65, 0.88}, jumps[] = {0.55, 0.95};
    double least = NEVER, ahead[SHAPES];
    for (size_t k = 0; k < (what == FRICTION ? G_N_ELEMENTS(jumps) : 1u); k++) {
        for (size_t i = 0; i < G_N_ELEMENTS(widths); i++) {
            const setting s = {widths[i], jumps[k]};
            double found[SHAPES];
            pass(b, what, &s);
            const double squares = best_squares(b, shape, found, FEW_TURNS);
            if (squares < least) {
                least = squares;
                *best = s;
                memcpy(ahead, found, sizeof ahead);
            }
        }
    }
    if (least < NEVER) {
        pass(b, what, best);
        least = fmin(least, best_squares(b, ahead, NULL, TURNS));
    }
    return least;
}

/* By how much less, as a logarithm of amplitudes; what noise leaves counts on both sides. */
static double less(double squares, double than, double floor)
{
    return fmin(fmax(0.5 * log((than + floor) / (squares + floor)), 0.0), MOST);
}

static void compare(between *b, rgp_signs *to)
{
    const setting none = {0.0, 0.0};
    setting play = none, friction = none;
    double shape[SHAPES];
    b->columns = 1;
    pass(b, ALONE, &none);
    const double alone = squares_alone(b, shape), noise = b->d->noise * b->d->noise / (double)b->each * (double)b->rows;
    b->columns = 3;
    const double outside = best_squares(b, shape, NULL, TURNS);
    b->columns = 1;
    const double by_play = least_of(b, PLAY, shape, &play), by_friction = least_of(b, FRICTION, shape, &friction);
    double whole = 0.0;
    for (size_t i = 0; i < b->rows; i++) {
        whole += b->measured[i] * b->measured[i];
    }
    to->by_play = less(by_play, alone, noise);
    to->by_friction = less(by_friction, alone, noise);
    to->by_wave = less(outside, alone, noise);
    to->play = by_play < alone ? play.width : 0.0;
    to->sticks = by_friction < alone ? friction.width : 0.0;
    to->alone = less(alone, whole, noise);
}

static void take_rows(between *b)
{
    const diagnosed *d = b->d;
    for (size_t i = 0; i < b->rows; i++) {
        for (size_t k = 0; k < b->each; k++) {
            b->measured[i] += d->measured[b->first + i * b->each + k] / (double)b->each;
        }
        const double angle = 2.0 * G_PI * (double)i / b->period;
        b->wave[0][i] = cos(angle);
        b->wave[1][i] = sin(angle);
    }
    double low = INFINITY, high = -INFINITY;
    for (size_t i = d->rows / 2; i < d->rows; i++) {
        low = fmin(low, d->output[i]);
        high = fmax(high, d->output[i]);
    }
    b->swing = high - low;
    take_slow_out(b, b->measured);
}

void diagnosis_between(diagnosed *d)
{
    if (d->period_rows < LEAST_PERIOD || d->to->swing < fmax(SEEN * d->to->band, ABOVE * d->noise)) {
        return;
    }
    between b = {.d = d, .each = MAX((size_t)1, MIN((size_t)(d->period_rows / FINE), (d->rows + ROWS - 1) / ROWS))};
    b.rows = MIN((size_t)ROWS, d->rows / b.each);
    b.first = d->rows - b.rows * b.each;
    b.tick = d->step * (double)b.each;
    b.period = d->period_rows / (double)b.each;
    double **const column[] = {&b.passed, &b.measured, &b.answer, &b.wave[0], &b.wave[1], &b.sum};
    for (size_t i = 0; i < G_N_ELEMENTS(column); i++) {
        *column[i] = g_new0(double, b.rows + 2);
    }
    take_rows(&b);
    compare(&b, &d->to->sign);
    for (size_t i = 0; i < G_N_ELEMENTS(column); i++) {
        g_free(*column[i]);
    }
}
