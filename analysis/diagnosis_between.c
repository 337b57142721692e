/* Play, friction, and swings from outside: how much better a stretch that swings is explained behind a play, behind
 * friction that sticks and jumps (Choudhury, Thornhill and Shah 2005), or with a swing from outside, than by a
 * mechanism alone. All of them by two lags and a dead time, fitted by the least squares of the output error; slow
 * movements are taken out of both sides by a moving mean over a period. */
#include "diagnosis_parts.h"

#include <gsl/gsl_multimin.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

#define ROWS         480u
#define FINE         24.0        /* rows in a period */
#define PARTS        ((size_t)4) /* of a row */
#define SHAPES       3u          /* logarithms of lag, dead time and second lag */
#define COLUMNS      3u          /* the answer, and two of a swing */
#define TURNS        30          /* of a simplex */
#define FEW_TURNS    6
#define OPEN_TURNS   80
#define NOTHING_LEFT 0.1  /* a logarithm: a tenth of what noise leaves */
#define WIDEST       0.97 /* of the swing */
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
    size_t parts;             /* of a row, in which the output passes */
    double tick, period;      /* seconds, rows here */
    double swing;             /* of the output, from turn to turn */
    double *driven, *passed, *measured, *answer, *wave[2], *sum;
    size_t columns, counted; /* `counted`: the first row whose squares count */
} between;

/* ---- what passes ------------------------------------------------------------------------------------ */

static double through_play(double now, double driven, double width)
{
    const double low = driven - width / 2.0, high = driven + width / 2.0;
    return now < low ? low : now > high ? high : now;
}

static double through_friction(double now, double driven, double width, double jump)
{
    return fabs(driven - now) > width ? driven - copysign(width * (1.0 - jump), driven - now) : now;
}

static void pass(between *b, kind what, const setting *s)
{
    const double width = s->width * b->swing;
    double now = b->driven[0];
    for (size_t i = 0, k = 0; i < b->rows; i++) {
        double sum = 0.0;
        for (const size_t end = k + b->parts; k < end; k++) {
            const double u = b->driven[k];
            now = what == PLAY       ? through_play(now, u, width)
                  : what == FRICTION ? through_friction(now, u, width, s->jump)
                                     : u;
            sum += now;
        }
        b->passed[i] = sum / (double)b->parts;
    }
}

/* ---- the squares that are left ---------------------------------------------------------------------- */

/* A column less its mean over a period around each row that counts. */
static void take_slow_out(const between *b, double *column)
{
    const size_t n = b->rows, half = MAX((size_t)1, (size_t)lround(b->period / 2.0)),
                 first = b->counted > half ? b->counted - half : 0;
    b->sum[first] = 0.0;
    for (size_t i = first; i < n; i++) {
        b->sum[i + 1] = b->sum[i] + column[i];
    }
    for (size_t i = b->counted; i < n; i++) {
        const size_t beside = MIN(half, MIN(i, n - 1 - i));
        column[i] -= (b->sum[i + beside + 1] - b->sum[i - beside]) / (double)(2 * beside + 1);
    }
}

static double squares_left(const between *b)
{
    const double *column[COLUMNS] = {b->answer, b->wave[0], b->wave[1]};
    double m[COLUMNS][COLUMNS + 1] = {{0}}, left = 0.0;
    for (size_t k = b->counted; k < b->rows; k++) {
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

/* The least of a function, by a simplex that begins there with such sides; `at` becomes where it ends. */
static double least_by_simplex(double (*of)(const gsl_vector *, void *), void *self, size_t count, double *at,
                               double *side, int turns)
{
    gsl_vector_view begin = gsl_vector_view_array(at, count), step = gsl_vector_view_array(side, count);
    gsl_multimin_fminimizer *s = gsl_multimin_fminimizer_alloc(gsl_multimin_fminimizer_nmsimplex2, count);
    gsl_multimin_function function = {of, count, self};
    gsl_multimin_fminimizer_set(s, &function, &begin.vector, &step.vector);
    for (int i = 0; i < turns && gsl_multimin_fminimizer_iterate(s) == 0; i++) {
    }
    const double least = gsl_multimin_fminimizer_minimum(s);
    gsl_vector_memcpy(&begin.vector, s->x);
    gsl_multimin_fminimizer_free(s);
    return least;
}

static double best_squares(between *b, const double *from, double *shape, int turns)
{
    double at[SHAPES], side[SHAPES] = {0.5, 0.5, 0.5};
    memcpy(at, from, sizeof at);
    const double least = least_by_simplex(squares_of_shape, b, SHAPES, at, side, turns);
    memcpy(shape, at, sizeof at);
    return least;
}

/* ---- all of it -------------------------------------------------------------------------------------- */

/* Shapes that are unlike one another: lags and dead times in periods, and a third of that dead time as the second lag.
 */
static const double lags[] = {0.1, 0.5, 3.0, 40.0}, deads[] = {0.01, 0.04, 0.13};
enum { STARTS = G_N_ELEMENTS(lags) * G_N_ELEMENTS(deads) };

static void put_start(const between *b, size_t i, double *to)
{
    const double period = b->period * b->tick, dead = period * deads[i % G_N_ELEMENTS(deads)];
    to[0] = log(period * lags[i / G_N_ELEMENTS(deads)]);
    to[1] = log(fmax(dead, 0.06 * b->tick));
    to[2] = log(fmax(dead / 3.0, 0.06 * b->tick));
}

/* Of those from one up to another the one that leaves least. */
static double best_start(between *b, size_t from, size_t end, double *to)
{
    double start[SHAPES], least = INFINITY;
    for (size_t i = from; i < end; i++) {
        put_start(b, i, start);
        gsl_vector_const_view at = gsl_vector_const_view_array(start, SHAPES);
        const double squares = squares_of_shape(&at.vector, b);
        if (squares < least) {
            least = squares;
            memcpy(to, start, sizeof start);
        }
    }
    return least;
}

/* The shape of a mechanism with nothing between: a few turns for each lag, and the best of them to the end. */
static double squares_alone(between *b, double *shape)
{
    double found[SHAPES], least = INFINITY;
    for (size_t i = 0; i < STARTS; i += G_N_ELEMENTS(deads)) {
        best_start(b, i, i + G_N_ELEMENTS(deads), found);
        const double squares = best_squares(b, found, found, FEW_TURNS);
        if (squares < least) {
            least = squares;
            memcpy(shape, found, sizeof found);
        }
    }
    return best_squares(b, shape, shape, TURNS);
}

/* A play or friction, with the shape behind it, and the squares that these leave. */
typedef struct found {
    kind what;
    setting is;
    double shape[SHAPES], squares;
} found;

/* A few turns with that setting, from such a shape or from the best of those that are unlike one another. */
static void try_setting(between *b, const setting *s, const double *shape, found *best)
{
    double start[SHAPES], end[SHAPES];
    gsl_vector_const_view at = gsl_vector_const_view_array(shape, SHAPES);
    pass(b, best->what, s);
    const double least = best_start(b, 0, STARTS, start),
                 squares = best_squares(b, squares_of_shape(&at.vector, b) < least ? shape : start, end, FEW_TURNS);
    if (squares < best->squares) {
        best->squares = squares;
        best->is = *s;
        memcpy(best->shape, end, sizeof end);
    }
}

/* Logarithms of the shape, of a width, and of friction of a jump. */
enum { WIDTH = SHAPES, JUMP, OPEN };
typedef struct opening {
    between *b;
    kind what;
} opening;

static double squares_of_opening(const gsl_vector *v, void *self)
{
    const opening *o = self;
    const setting s = {exp(gsl_vector_get(v, WIDTH)), o->what == FRICTION ? exp(gsl_vector_get(v, JUMP)) : 1.0};
    if (s.width > WIDEST || s.jump > 1.0) {
        return NEVER;
    }
    pass(o->b, o->what, &s);
    return squares_of_shape(v, o->b);
}

/* All of it is searched together, from what was best so far. */
static void open_up(between *b, found *best)
{
    double at[OPEN] = {0}, side[OPEN] = {0.3, 0.3, 0.3, 0.3, 0.1};
    opening o = {b, best->what};
    memcpy(at, best->shape, sizeof best->shape);
    at[WIDTH] = log(best->is.width);
    at[JUMP] = log(best->is.jump);
    const double squares =
        least_by_simplex(squares_of_opening, &o, best->what == FRICTION ? OPEN : JUMP, at, side, OPEN_TURNS);
    if (squares < best->squares) {
        best->squares = squares;
        best->is = (setting){exp(at[WIDTH]), exp(at[JUMP])};
    }
}

/* The widths with which a play or friction makes a loop swing; the greater, the less is to be between two of them. */
static const double plays[] = {0.1, 0.3, 0.5, 0.6, 0.66, 0.72, 0.77, 0.81, 0.85, 0.89, 0.93},
                    sticking[] = {0.25, 0.45, 0.57, 0.68, 0.85}, jumps[] = {0.6, 0.78, 0.95};

static found least_of(between *b, kind what, const double *shape)
{
    const bool sticks = what == FRICTION;
    const double *width = sticks ? sticking : plays;
    found best = {.what = what, .squares = NEVER};
    for (size_t i = 0; i < (sticks ? G_N_ELEMENTS(sticking) : G_N_ELEMENTS(plays)); i++) {
        for (size_t k = 0; k < (sticks ? G_N_ELEMENTS(jumps) : 1u); k++) {
            try_setting(b, &(setting){width[i], sticks ? jumps[k] : 1.0}, shape, &best);
        }
    }
    if (best.squares < NEVER) {
        open_up(b, &best);
    }
    return best;
}

/* By how much less, as a logarithm of amplitudes; what noise leaves counts on both sides. */
static double less(double squares, double than, double floor)
{
    return fmin(fmax(0.5 * log((than + floor) / (squares + floor)), 0.0), MOST);
}

/* The squares that noise leaves of the rows that count. */
static double floor_of(const between *b)
{
    return b->d->noise * b->d->noise / (double)b->each * (double)(b->rows - b->counted);
}

/* By all of the stretch, since what came in it tells a mechanism that swings from one that is moved. */
static void compare_wave(between *b, double *shape, rgp_signs *to)
{
    const setting none = {0.0, 0.0};
    double whole = 0.0, with_wave[SHAPES];
    for (size_t i = 0; i < b->rows; i++) {
        whole += b->measured[i] * b->measured[i];
    }
    b->counted = 0;
    pass(b, ALONE, &none);
    const double alone = squares_alone(b, shape);
    b->columns = 3;
    to->by_wave = less(best_squares(b, shape, with_wave, TURNS), alone, floor_of(b));
    to->alone = less(alone, whole, floor_of(b));
    b->columns = 1;
}

/* By its second half, since a load that came before, of which no output tells, would be more than what they leave.
 * Where a mechanism alone leaves next to nothing but noise there is nothing for them to explain. */
static void compare_sticking(between *b, double *shape, rgp_signs *to)
{
    b->counted = b->rows / 2;
    const double alone = squares_alone(b, shape);
    if (less(0.0, alone, floor_of(b)) < NOTHING_LEFT) {
        return;
    }
    const found play = least_of(b, PLAY, shape), friction = least_of(b, FRICTION, shape);
    to->by_play = less(play.squares, alone, floor_of(b));
    to->by_friction = less(friction.squares, alone, floor_of(b));
    to->play = play.squares < alone ? play.is.width : 0.0;
    to->sticks = friction.squares < alone ? friction.is.width : 0.0;
}

static void compare(between *b, rgp_signs *to)
{
    double shape[SHAPES];
    b->columns = 1;
    compare_wave(b, shape, to);
    compare_sticking(b, shape, to);
}

static void take_rows(between *b)
{
    const diagnosed *d = b->d;
    for (size_t i = 0; i < b->rows; i++) {
        b->measured[i] = gsl_stats_mean(d->measured + b->first + i * b->each, 1, b->each);
        for (size_t part = 0; part < b->parts; part++) {
            const size_t from = part * b->each / b->parts, to = (part + 1) * b->each / b->parts;
            b->driven[i * b->parts + part] = gsl_stats_mean(d->output + b->first + i * b->each + from, 1, to - from);
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
    b.parts = MIN(b.each, PARTS);
    b.rows = MIN((size_t)ROWS, d->rows / b.each);
    b.first = d->rows - b.rows * b.each;
    b.tick = d->step * (double)b.each;
    b.period = d->period_rows / (double)b.each;
    double **const column[] = {&b.driven, &b.passed, &b.measured, &b.answer, &b.wave[0], &b.wave[1], &b.sum};
    for (size_t i = 0; i < G_N_ELEMENTS(column); i++) {
        *column[i] = g_new0(double, PARTS *b.rows + 2);
    }
    take_rows(&b);
    compare(&b, &d->to->sign);
    for (size_t i = 0; i < G_N_ELEMENTS(column); i++) {
        g_free(*column[i]);
    }
}
