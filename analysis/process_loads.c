/* Loads that came while a process was looked at, and stayed: of one that a loop regulates nothing tells of them but
 * what the loop did.
 *
 * A load is a step that adds to what is driven. Its size is linear, and taken out with the gain. When loads came is
 * looked for by few rows and a coarse grid of shapes, at each of a few places, at all pairs of them and at a third
 * beside the best pair, and then by the simplex with the shape. More of them count as long as each leaves half at most.
 */
#include "process_parts.h"

#include "numerics.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

#define PLACES      16u  /* at which a load is looked for first */
#define FEW_ROWS    200u /* for that */
#define WORTH_A_FIT 1.6  /* times what loads have to leave by all rows: more by few, and they are none */
#define ROUGHLY     3.0  /* times that before its shape is searched */
#define EXPLAINS    0.5  /* of that, at most, for each load */
#define SMALL       0.1  /* of the greatest load */
#define NOISES      1.5  /* a model that leaves no more has no need of another load */

static const search coarse = {4, 6, 60, 1e-3, PROCESS_AVERAGED, true};

/* ---- when they came --------------------------------------------------------------------------------- */

/* The best shape of the coarse grid with so many loads at places of their own, as a start for all rows. */
typedef struct start {
    double squares, shape[PROCESS_SHAPES];
    rgp_process_kind kind;
    size_t loads, at[PROCESS_LOADS]; /* places */
} start;

static double between_places(const fitting *f)
{
    return (double)f->data->count * f->data->tick / PLACES;
}

/* Of all that loads at some of the places may be, of a shape whose answers are there: products of columns with one
 * another, the plain ones first, then a load at each place; and with what was measured, which is the last one. */
enum { WAVE = PROCESS_LINEAR + PLACES, MEASURED = WAVE + 2u, COLUMNS = MEASURED };
typedef double products[COLUMNS + 1u][COLUMNS + 1u];

static void put_columns(const fitting *f, double *column[COLUMNS + 1u])
{
    const size_t rows = f->data->count;
    memcpy(column[0], f->answer, rows * sizeof(double));
    memcpy(column[1], f->ones, rows * sizeof(double));
    memcpy(column[2], f->begun, rows * sizeof(double));
    for (size_t i = 0; i < PLACES; i++) {
        const size_t first = (2 * i + 1) * rows / (2 * PLACES);
        memset(column[PROCESS_LINEAR + i], 0, first * sizeof(double));
        memcpy(column[PROCESS_LINEAR + i] + first, f->to_one, (rows - first) * sizeof(double));
    }
    for (size_t i = 0; i < 2; i++) {
        if (f->period > 0.0) {
            memcpy(column[WAVE + i], f->wave[i], rows * sizeof(double));
        } else {
            memset(column[WAVE + i], 0, rows * sizeof(double));
        }
    }
    memcpy(column[MEASURED], f->data->measured, rows * sizeof(double));
    for (size_t k = 0; k < rows; k++) {
        for (size_t c = 0; c <= MEASURED && isnan(f->data->measured[k]); c++) {
            column[c][k] = 0.0;
        }
    }
}

static void multiply(double *column[COLUMNS + 1u], size_t rows, products to)
{
    for (size_t a = 0; a <= MEASURED; a++) {
        for (size_t b = 0; b <= a; b++) {
            double sum = 0.0;
            for (size_t k = 0; k < rows; k++) {
                sum += column[a][k] * column[b][k];
            }
            to[a][b] = to[b][a] = sum;
        }
    }
}

/* The squares that the plain columns and loads at these places leave. */
static double left_with(const fitting *f, products of, const size_t *at, size_t loads)
{
    equations m;
    size_t column[PROCESS_EXPLAINED] = {0, 1, 2};
    double scale[PROCESS_EXPLAINED], size[PROCESS_EXPLAINED], left = of[MEASURED][MEASURED];
    const size_t waves = f->period > 0.0 ? 2 : 0, columns = PROCESS_LINEAR + loads + waves;
    for (size_t i = 0; i < loads + waves; i++) {
        column[PROCESS_LINEAR + i] = i < loads ? PROCESS_LINEAR + at[i] : WAVE + i - loads;
    }
    for (size_t i = 0; i < columns; i++) {
        scale[i] = 1.0 / sqrt(fmax(of[column[i]][column[i]], G_MINDOUBLE));
    }
    for (size_t i = 0; i < columns; i++) {
        for (size_t c = 0; c < columns; c++) {
            m[i][c] = of[column[i]][column[c]] * scale[i] * scale[c];
        }
        m[i][PROCESS_EXPLAINED] = of[column[i]][MEASURED] * scale[i];
    }
    if (!process_solve(m, columns, size)) {
        return INFINITY;
    }
    for (size_t i = 0; i < columns; i++) {
        size[i] *= scale[i];
        left -= size[i] * of[column[i]][MEASURED];
    }
    for (size_t i = PROCESS_LINEAR; i < PROCESS_LINEAR + loads; i++) {
        left = fabs(size[i]) <= f->most_load * fabs(size[0]) ? left : INFINITY;
    }
    return fmax(left, 0.0);
}

static void take_better(const fitting *f, products of, const double *shape, const size_t *at, start *best)
{
    const double left = left_with(f, of, at, best->loads);
    if (left < best->squares) {
        best->squares = left;
        best->kind = f->kind;
        memcpy(best->shape, shape, sizeof best->shape);
        for (size_t i = 0; i < best->loads; i++) {
            best->at[i] = at[i];
            best->shape[SHAPE_LOAD + i] = between_places(f) * ((double)at[i] + 0.5);
        }
    }
}

/* All single places and all pairs; a third load beside the best pair of this shape. */
static void try_places(const fitting *f, products of, const double *shape, start best[PROCESS_LOADS + 1u])
{
    start pair = {.squares = INFINITY, .loads = 2};
    take_better(f, of, shape, (const size_t[PROCESS_LOADS]){0}, &best[0]);
    for (size_t i = 0; i < PLACES; i++) {
        take_better(f, of, shape, (const size_t[PROCESS_LOADS]){i}, &best[1]);
        for (size_t k = i + 1; k < PLACES; k++) {
            take_better(f, of, shape, (const size_t[PROCESS_LOADS]){i, k}, &pair);
        }
    }
    best[2] = pair.squares < best[2].squares ? pair : best[2];
    for (size_t i = 0; i < PLACES && isfinite(pair.squares); i++) {
        if (i != pair.at[0] && i != pair.at[1]) {
            take_better(f, of, shape, (const size_t[PROCESS_LOADS]){pair.at[0], pair.at[1], i}, &best[3]);
        }
    }
}

/* The best start with no load, one, two and three. */
static void find_starts(fitting *few, start best[PROCESS_LOADS + 1u])
{
    static const rgp_process_kind kinds[] = {RGP_PROCESS_LAG, RGP_PROCESS_INTEGRAL};
    double *column[COLUMNS + 1u], shape[PROCESS_SHAPES];
    products of;
    for (size_t c = 0; c <= MEASURED; c++) {
        column[c] = g_new(double, few->data->count + 1);
    }
    for (size_t i = 0; i <= PROCESS_LOADS; i++) {
        best[i] = (start){.squares = INFINITY, .loads = i};
    }
    few->loads = 1; /* its answer to a load is wanted */
    for (size_t k = 0; k < G_N_ELEMENTS(kinds); k++) {
        few->kind = kinds[k];
        for (size_t i = 0; process_grid(few, i, shape); i++) {
            process_answers(few, shape);
            put_columns(few, column);
            multiply(column, few->data->count, of);
            try_places(few, of, shape, best);
        }
    }
    for (size_t c = 0; c <= MEASURED; c++) {
        g_free(column[c]);
    }
}

/* Around a start, when its loads came and all else. */
static void polish(fitting *few, start *of)
{
    few->kind = of->kind;
    few->loads = of->loads;
    of->squares = fmin(of->squares, process_search_around(few, of->shape));
}

static double left_by(const rgp_process *p)
{
    return fmax(1.0 - p->fit / 100.0, 0.0);
}

/* From a start that leaves little enough of few rows a fit of all. False: it leaves more than so much. */
static bool fit_start(const start *begin, fitting *all, double way, double most, rgp_process *to)
{
    rgp_process other = {.loads = 0};
    all->loads = begin->loads;
    memcpy(all->load_at, begin->shape + SHAPE_LOAD, sizeof all->load_at);
    all->period = all->period > 0.0 ? exp(begin->shape[SHAPE_WAVE]) : 0.0;
    const bool is_better = process_glance_at(all, way, false, &other) && left_by(&other) < most;
    *to = is_better ? other : *to;
    return is_better;
}

/* One load more each time, and a wave before all, up to what leaves `enough` of what moved. */
static bool add_besides(fitting *few, fitting *all, double way, double enough, rgp_process *to)
{
    start best[PROCESS_LOADS + 1u];
    find_starts(few, best);
    polish(few, &best[0]);
    const bool waves = few->period > 0.0;
    double worth = WORTH_A_FIT * best[0].squares, most = left_by(to) * (waves ? EXPLAINS : 1.0);
    bool any = waves && fit_start(&best[0], all, way, most, to);
    most = any ? left_by(to) : most;
    for (size_t n = 1; n <= PROCESS_LOADS && most > enough; n++) {
        worth *= EXPLAINS;
        most *= EXPLAINS;
        if (best[n].squares < ROUGHLY * worth) {
            polish(few, &best[n]);
        }
        if (best[n].squares < worth && fit_start(&best[n], all, way, most, to)) {
            any = true;
            most = left_by(to);
        }
    }
    return any;
}

static int by_time(const void *a, const void *b)
{
    const rgp_process_load *x = a, *y = b;
    return (x->at.value > y->at.value) - (x->at.value < y->at.value);
}

/* Again without those that are next to nothing beside the greatest: a place in which a search began, and which others
 * have made needless. */
static void leave_out_small(fitting *all, double way, rgp_process *to)
{
    double most = 0.0;
    for (size_t i = 0; i < to->loads; i++) {
        most = fmax(most, fabs(to->came[i].size.value));
    }
    all->loads = 0;
    for (size_t i = 0; i < to->loads; i++) {
        if (fabs(to->came[i].size.value) > SMALL * most) {
            all->load_at[all->loads++] = to->came[i].at.value;
        }
    }
    if (all->loads < to->loads) {
        all->period = to->wave;
        process_glance_at(all, way, false, to);
    }
    qsort(to->came, to->loads, sizeof to->came[0], by_time);
}

bool rgp_process_glance_besides(const rgp_process_data *data, double way, double noise, double period, rgp_process *to)
{
    double *driven, *measured;
    const rgp_process_data shorter = process_shortened(data, FEW_ROWS, &driven, &measured);
    fitting few = process_room(&shorter), all = process_room(data);
    few.how = &coarse;
    rgp_numerics_go_on();
    const double enough =
        NOISES * NOISES * noise * noise * (double)all.usable / fmax(process_variance(data, all.usable), G_MINDOUBLE);
    few.period = all.period = period;
    const bool any = add_besides(&few, &all, way, enough, to);
    if (any) {
        leave_out_small(&all, way, to);
    }
    process_room_free(&few);
    process_room_free(&all);
    g_free(driven);
    g_free(measured);
    return any;
}
