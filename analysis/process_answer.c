/* Answers of process models, and the squares that the best linear part of one leaves. */
#include "process_parts.h"

#include <math.h>
#include <string.h>

#define LAG_MOST    20.0  /* times as long as what was recorded */
#define UNLIKE_MOST 0.8   /* of two lags, the lesser one as a share: those that are nearer are taken as equal */
#define LOAD_MARGIN 0.03  /* of the length: a load so near an end says nothing */
#define NEAR_PERIOD 0.2   /* of the logarithm of a wave's period: it is known to that */
#define GONE        1e-30 /* of a beginning: less of it is none */

/* ---- room ------------------------------------------------------------------------------------------- */

fitting process_room(const rgp_process_data *data)
{
    fitting f = {.data = data};
    double **const room[] = {&f.answer,     &f.ones,       &f.to_one,  &f.begun,  &f.to_load[0],
                             &f.to_load[1], &f.to_load[2], &f.wave[0], &f.wave[1]};
    double low = INFINITY, high = -INFINITY;
    for (size_t i = 0; i < G_N_ELEMENTS(room); i++) {
        *room[i] = g_new(double, data->count + 1);
    }
    for (size_t k = 0; k < data->count; k++) {
        f.usable += isnan(data->measured[k]) ? 0u : 1u;
        f.ones[k] = 1.0;
        low = fmin(low, data->driven[k]);
        high = fmax(high, data->driven[k]);
    }
    f.most_load = high - low;
    return f;
}

void process_room_free(fitting *f)
{
    double *const room[] = {f->answer,     f->ones,       f->to_one,  f->begun,  f->to_load[0],
                            f->to_load[1], f->to_load[2], f->wave[0], f->wave[1]};
    for (size_t i = 0; i < G_N_ELEMENTS(room); i++) {
        g_free(room[i]);
    }
}

/* ---- answers --------------------------------------------------------------------------------------- */

void rgp_process_answer(const rgp_plant *plant, const rgp_process_data *d, double *to)
{
    rgp_plant_answer(plant, d->tick, d->driven, d->count, to);
}

rgp_plant process_plant(const fitting *f, const double *shape)
{
    return (rgp_plant){f->kind, 1.0, exp(shape[0]), exp(shape[f->kind == RGP_PROCESS_TWIN ? 0 : 2]),
                       fmax(0.0, shape[SHAPE_DEAD])};
}

/* ---- shapes ----------------------------------------------------------------------------------------- */

typedef struct parts {
    size_t count, which[PROCESS_SHAPES];
} parts;

static const parts parts_of[PROCESS_AVERAGED] = {
    [RGP_PROCESS_LAG] = {2, {SHAPE_LAG, SHAPE_DEAD}},
    [RGP_PROCESS_LAGS] = {3, {SHAPE_LAG, SHAPE_DEAD, SHAPE_SECOND}},
    [RGP_PROCESS_TWIN] = {2, {SHAPE_LAG, SHAPE_DEAD}},
    [RGP_PROCESS_INTEGRAL] = {1, {SHAPE_DEAD}},
    [RGP_PROCESS_GLIDE] = {2, {SHAPE_DEAD, SHAPE_SECOND}},
};

size_t process_shapes(const fitting *f)
{
    return parts_of[f->kind].count + f->loads + (f->period > 0.0 ? 1u : 0u);
}

size_t process_shape(const fitting *f, size_t i)
{
    const parts *own = &parts_of[f->kind];
    return i < own->count              ? own->which[i]
           : i < own->count + f->loads ? SHAPE_LOAD + i - own->count
                                       : (size_t)SHAPE_WAVE;
}

double process_second(const model *m)
{
    return m->f.kind == RGP_PROCESS_TWIN ? exp(m->shape[0]) : rgp_process_has_two(m->f.kind) ? exp(m->shape[2]) : 0.0;
}

/* ---- the linear part ------------------------------------------------------------------------------- */

static void exchange(double *a, double *b)
{
    for (size_t c = 0; c <= PROCESS_EXPLAINED; c++) {
        const double t = a[c];
        a[c] = b[c];
        b[c] = t;
    }
}

static size_t pivot_of(equations m, size_t columns, size_t i)
{
    size_t best = i;
    for (size_t k = i + 1; k < columns; k++) {
        best = fabs(m[k][i]) > fabs(m[best][i]) ? k : best;
    }
    return best;
}

/* By Gauss with pivots. */
bool process_solve(equations m, size_t columns, double *to)
{
    for (size_t i = 0; i < columns; i++) {
        const size_t best = pivot_of(m, columns, i);
        if (fabs(m[best][i]) < 1e-12) {
            return false;
        }
        if (best != i) {
            exchange(m[i], m[best]);
        }
        for (size_t k = 0; k < columns; k++) {
            const double by = m[k][i] / m[i][i];
            for (size_t c = i; k != i && c < columns; c++) {
                m[k][c] -= by * m[i][c];
            }
            m[k][PROCESS_EXPLAINED] -= k == i ? 0.0 : by * m[i][PROCESS_EXPLAINED];
        }
    }
    for (size_t i = 0; i < columns; i++) {
        to[i] = m[i][PROCESS_EXPLAINED] / m[i][i];
    }
    return true;
}

/* The normal equations of all but the loads. */
static void put_sums(fitting *f)
{
    const rgp_process_data *d = f->data;
    double scale = 0.0, aa = 0.0, a1 = 0.0, ab = 0.0, ay = 0.0, bb = 0.0, b1 = 0.0, by = 0.0, y1 = 0.0;
    for (size_t k = 0; k < d->count; k++) {
        const double answer = f->answer[k], begin = f->begun[k], y = d->measured[k];
        scale = fabs(answer) > scale ? fabs(answer) : scale;
        if (isnan(y)) {
            continue;
        }
        aa += answer * answer;
        a1 += answer;
        ab += answer * begin;
        ay += answer * y;
        bb += begin * begin;
        b1 += begin;
        by += begin * y;
        y1 += y;
    }
    const double all[PROCESS_LINEAR][PROCESS_LINEAR + 1u] = {
        {aa, a1, ab, ay}, {a1, (double)f->usable, b1, y1}, {ab, b1, bb, by}};
    memcpy(f->sums, all, sizeof all);
    f->greatest = scale;
}

static void take_sums(const fitting *f, equations m)
{
    for (size_t i = 0; i < PROCESS_LINEAR; i++) {
        memcpy(m[i], f->sums[i], PROCESS_LINEAR * sizeof(double));
        m[i][PROCESS_EXPLAINED] = f->sums[i][PROCESS_LINEAR];
    }
}

/* Over the rows that were measured, from the one on in which a load came. */
static double product(const fitting *f, size_t first, const double *load, const double *other)
{
    const size_t rows = f->data->count;
    double sum = 0.0;
    if (f->usable == rows) {
        for (size_t k = first; k < rows; k++) {
            sum += load[k] * other[k];
        }
        return sum;
    }
    for (size_t k = first; k < rows; k++) {
        sum += isnan(f->data->measured[k]) ? 0.0 : load[k] * other[k];
    }
    return sum;
}

static size_t row_of_load(const fitting *f, const double *shape, size_t i)
{
    return (size_t)(shape[SHAPE_LOAD + i] / f->data->tick);
}

/* Rows and columns of loads and a wave. */
static void put_besides(const fitting *f, const double *shape, equations m)
{
    const size_t columns = process_linear(f);
    for (size_t i = PROCESS_LINEAR; i < columns; i++) {
        const size_t load = i - PROCESS_LINEAR, first = load < f->loads ? row_of_load(f, shape, load) : 0;
        for (size_t c = 0; c <= i; c++) {
            m[i][c] = m[c][i] = product(f, first, process_column(f, i), process_column(f, c));
        }
        m[i][PROCESS_EXPLAINED] = product(f, first, process_column(f, i), f->data->measured);
    }
}

/* So that columns are about as great as one another. */
static void put_scales(const fitting *f, double *by)
{
    const double length = (double)f->data->count * f->data->tick;
    by[0] = f->greatest > 0.0 ? 1.0 / f->greatest : 1.0;
    by[1] = 1.0;
    by[2] = rgp_process_goes_on(f->kind) ? 1.0 / length : 1.0;
    for (size_t i = 0; i < f->loads; i++) { /* an answer to 1 never turns back */
        const double most = fabs(f->to_one[f->data->count - 1]);
        by[PROCESS_LINEAR + i] = most > 0.0 ? 1.0 / most : 1.0;
    }
    for (size_t i = PROCESS_LINEAR + f->loads; i < PROCESS_EXPLAINED; i++) {
        by[i] = 1.0;
    }
}

/* The best linear part for the answers that are there; false: there is none. */
static bool find_linear(fitting *f, const double *shape)
{
    equations m;
    double by[PROCESS_EXPLAINED];
    const size_t columns = process_linear(f);
    take_sums(f, m);
    put_scales(f, by);
    put_besides(f, shape, m);
    for (size_t i = 0; i < columns; i++) {
        for (size_t c = 0; c < columns; c++) {
            m[i][c] *= by[i] * by[c] / (double)f->usable;
        }
        m[i][PROCESS_EXPLAINED] *= by[i] / (double)f->usable;
    }
    const bool found = process_solve(m, columns, f->linear);
    for (size_t i = 0; i < columns; i++) {
        f->linear[i] *= by[i];
    }
    return found;
}

/* Of what comes within a tick the answer lies between those to one that comes with it and with the next. */
static void answer_load(fitting *f, const double *shape, size_t i)
{
    const size_t first = MIN(row_of_load(f, shape, i), f->data->count);
    const double part = shape[SHAPE_LOAD + i] / f->data->tick - (double)first;
    double *to = f->to_load[i];
    memset(to, 0, first * sizeof(double));
    for (size_t k = first; k < f->data->count; k++) {
        to[k] = (1.0 - part) * f->to_one[k - first] + (k > first ? part * f->to_one[k - first - 1] : 0.0);
    }
}

/* A load does not pass the dead time of what is driven: when it came is looked for by itself. */
static void answer_loads(fitting *f, rgp_plant plant, const double *shape)
{
    plant.dead = 0.0;
    rgp_plant_answer(&plant, f->data->tick, f->ones, f->data->count, f->to_one);
    for (size_t i = 0; i < f->loads; i++) {
        answer_load(f, shape, i);
    }
}

static void put_wave(fitting *f, double period)
{
    const double turn = 2.0 * M_PI * f->data->tick / period, cosine = cos(turn), sine = sin(turn);
    double c = 1.0, s = 0.0;
    for (size_t k = 0; k < f->data->count; k++) {
        const double was = c;
        f->wave[0][k] = c;
        f->wave[1][k] = s;
        c = c * cosine - s * sine;
        s = s * cosine + was * sine;
    }
}

static void put_beginning(fitting *f, double lag)
{
    const double tick = f->data->tick, fades = exp(-tick / lag);
    double is = 1.0;
    for (size_t k = 0; k < f->data->count; k++) {
        f->begun[k] = rgp_process_goes_on(f->kind) ? (double)k * tick : is;
        is = is < GONE ? 0.0 : is * fades;
    }
}

void process_answers(fitting *f, const double *shape)
{
    const rgp_plant plant = process_plant(f, shape);
    rgp_process_answer(&plant, f->data, f->answer);
    put_beginning(f, exp(shape[SHAPE_LAG]));
    put_sums(f);
    if (f->loads > 0) {
        answer_loads(f, plant, shape);
    }
    if (f->period > 0.0) {
        put_wave(f, exp(shape[SHAPE_WAVE]));
    }
}

void process_fitted(fitting *f, const double *shape, double *to)
{
    process_answers(f, shape);
    for (size_t k = 0; k < f->data->count; k++) {
        to[k] = f->linear[0] * f->answer[k] + f->linear[1] + f->linear[2] * f->begun[k] + process_of_besides(f, k);
    }
}

/* Each load comes between two times, one by one. */
static bool may_come(const fitting *f, const double *shape, double first, double last)
{
    bool may = true;
    for (size_t i = 0; i < f->loads; i++) {
        const double at = shape[SHAPE_LOAD + i];
        may &= at > first && at < last;
        for (size_t k = 0; k < i; k++) {
            may &= fabs(at - shape[SHAPE_LOAD + k]) > first;
        }
    }
    return may;
}

/* It has neither a dead time nor lags that such a stretch could not tell of. */
static bool may_be(const fitting *f, const double *shape)
{
    const double length = (double)f->data->count * f->data->tick, lag = exp(shape[SHAPE_LAG]),
                 second = exp(shape[SHAPE_SECOND]), dead = shape[SHAPE_DEAD],
                 most = f->kind == RGP_PROCESS_GLIDE ? length / 4.0 : UNLIKE_MOST * lag;
    const bool has_second = f->kind == RGP_PROCESS_LAGS || f->kind == RGP_PROCESS_GLIDE;
    return dead >= 0.0 && dead <= length / 2.0 && (rgp_process_goes_on(f->kind) || lag < LAG_MOST * length) &&
           (!has_second || (second >= f->data->tick && second <= most)) &&
           (f->period <= 0.0 || fabs(shape[SHAPE_WAVE] - log(f->period)) < NEAR_PERIOD) &&
           may_come(f, shape, LOAD_MARGIN * length, (1.0 - LOAD_MARGIN) * length);
}

static bool may_be_so_great(const fitting *f)
{
    bool may = true;
    for (size_t i = 0; i < f->loads; i++) {
        may &= fabs(f->linear[PROCESS_LINEAR + i]) <= f->most_load * fabs(f->linear[0]);
    }
    return may;
}

/* With the answers that are there. */
static double squares_of(fitting *f, const double *shape)
{
    const rgp_process_data *d = f->data;
    double squares = 0.0;
    if (!find_linear(f, shape) || !may_be_so_great(f) || f->linear[0] * f->way < 0.0) {
        return PROCESS_NEVER;
    }
    for (size_t k = 0; k < d->count; k++) {
        const double left = d->measured[k] - f->linear[0] * f->answer[k] - f->linear[1] - f->linear[2] * f->begun[k] -
                            process_of_besides(f, k);
        squares += isnan(left) ? 0.0 : left * left;
    }
    return squares;
}

double process_squares(fitting *f, const double *shape)
{
    if (!may_be(f, shape)) {
        return PROCESS_NEVER;
    }
    process_answers(f, shape);
    return squares_of(f, shape);
}
