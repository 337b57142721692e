/* The search for the settings that leave the least: steps, derivatives, Levenberg and Marquardt. */
#include "match_parts.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_linalg.h>

#include <math.h>

#define STEP_LOG     0.02 /* of a logarithm, that is tried first */
#define STEP_LOG_MAX 0.2
#define STEP_FIRST   1e-3 /* of any other, or a hundredth of its value */
#define STEP_TRIES   12
#define ENOUGH       0.3 /* noises that a step moves a reading by, on average */
#define MUCH         0.1
#define MIDDLE       0.05
#define NOTHING      1e-3 /* what moves less than that at the longest step makes no difference */
#define ROUNDS       40
#define DONE         1e-7 /* of the squares: what gets less by less has arrived */

/* ---- steps ----------------------------------------------------------------------------------------- */

static bool effect_of(matching *m, candidate *c, double step, const gsl_vector *now, gsl_vector *other, double *effect)
{
    const double was = c->now;
    c->now = was + step > c->high ? was - step : was + step;
    const bool sound = c->now >= c->low && match_predict(m, other);
    c->now = was;
    gsl_vector_sub(other, now);
    *effect = gsl_blas_dnrm2(other) / sqrt((double)other->size);
    return sound;
}

static bool find_step(matching *m, candidate *c, const gsl_vector *now, gsl_vector *other)
{
    double step = c->logarithm ? STEP_LOG : fmax(STEP_FIRST, fabs(c->now) / 100.0), effect = 0.0;
    for (int i = 0; i < STEP_TRIES; i++) {
        step = fmin(step, (c->high - c->low) / 2.0);
        if (!effect_of(m, c, step, now, other, &effect)) {
            return false;
        }
        const double by = effect > 0.0 ? fmin(fmax(MIDDLE / effect, 1e-3), 10.0) : 10.0;
        if ((effect > ENOUGH && effect < MUCH) || (c->logarithm && by > 1.0 && step >= STEP_LOG_MAX)) {
            break;
        }
        step = c->logarithm ? fmin(step * by, STEP_LOG_MAX) : step * by;
    }
    c->step = effect > NOTHING ? step : 0.0;
    return true;
}

bool match_steps(matching *m)
{
    gsl_vector *now = gsl_vector_alloc(m->measured->size), *other = gsl_vector_alloc(m->measured->size);
    bool sound = match_predict(m, now);
    for (uint32_t i = 0; i < m->candidates && sound; i++) {
        candidate *c = &m->candidate[i];
        sound = !c->free || find_step(m, c, now, other);
        if (c->free && c->step <= 0.0) {
            c->free = false;
            c->fate = RGP_MATCH_NO_DIFFERENCE;
        }
    }
    gsl_vector_free(now);
    gsl_vector_free(other);
    return sound;
}

uint32_t match_free(const matching *m)
{
    uint32_t count = 0;
    for (uint32_t i = 0; i < m->candidates; i++) {
        count += m->candidate[i].free;
    }
    return count;
}

/* ---- derivatives ----------------------------------------------------------------------------------- */

static bool derivative(matching *m, candidate *c, gsl_vector *low, gsl_vector *high)
{
    const double was = c->now, above = fmin(was + c->step, c->high), below = fmax(was - c->step, c->low);
    c->now = above;
    bool sound = match_predict(m, high);
    c->now = below;
    sound = sound && match_predict(m, low);
    c->now = was;
    gsl_vector_sub(high, low);
    gsl_vector_scale(high, c->step / (above - below));
    return sound;
}

bool match_derivatives(matching *m, gsl_matrix *to)
{
    gsl_vector *low = gsl_vector_alloc(m->measured->size), *high = gsl_vector_alloc(m->measured->size);
    bool sound = true;
    size_t column = 0;
    for (uint32_t i = 0; i < m->candidates && sound; i++) {
        if (m->candidate[i].free) {
            sound = derivative(m, &m->candidate[i], low, high);
            gsl_matrix_set_col(to, column++, high);
        }
    }
    gsl_vector_free(low);
    gsl_vector_free(high);
    return sound;
}

/* ---- the search ------------------------------------------------------------------------------------ */

typedef struct search {
    size_t free;
    gsl_matrix *j, *inner;
    gsl_vector *left, *other, *slope, *move;
    double *was;
} search;

static bool left_over(matching *m, gsl_vector *to, double *squares)
{
    const bool sound = match_predict(m, to);
    gsl_vector_sub(to, m->measured);
    gsl_blas_ddot(to, to, squares);
    return sound;
}

/* The way to go: shorter, and more towards where it goes down, the greater `damped` is. */
static void find_move(search *s, double damped)
{
    gsl_blas_dsyrk(CblasLower, CblasTrans, 1.0, s->j, 0.0, s->inner);
    for (size_t i = 0; i < s->free; i++) {
        const double is = gsl_matrix_get(s->inner, i, i);
        gsl_matrix_set(s->inner, i, i, is * (1.0 + damped) + 1e-12);
    }
    gsl_blas_dgemv(CblasTrans, -1.0, s->j, s->left, 0.0, s->slope);
    if (gsl_linalg_cholesky_decomp1(s->inner) || gsl_linalg_cholesky_solve(s->inner, s->slope, s->move)) {
        gsl_vector_set_zero(s->move);
    }
}

/* Goes on by s->move, or back. */
static void go(matching *m, search *s, bool on)
{
    size_t k = 0;
    for (uint32_t i = 0; i < m->candidates; i++) {
        candidate *c = &m->candidate[i];
        if (c->free && on) {
            s->was[k] = c->now;
            c->now = fmin(fmax(c->now + c->step * gsl_vector_get(s->move, k), c->low), c->high);
        } else if (c->free) {
            c->now = s->was[k];
        }
        k += c->free;
    }
}

static bool search_on(matching *m, search *s, double *squares)
{
    double damped = 1e-3, next = 0.0;
    bool sound = left_over(m, s->left, squares) && match_derivatives(m, s->j);
    for (int round = 0; round < ROUNDS && sound && damped < 1e8; round++) {
        find_move(s, damped);
        go(m, s, true);
        sound = left_over(m, s->other, &next);
        if (next < *squares) {
            const bool arrived = *squares - next <= DONE * *squares;
            *squares = next;
            gsl_vector_memcpy(s->left, s->other);
            damped = fmax(damped / 10.0, 1e-9);
            if (arrived) {
                break;
            }
            sound = sound && match_derivatives(m, s->j);
        } else {
            go(m, s, false);
            damped *= 8.0;
        }
    }
    return sound;
}

bool match_search(matching *m, double *squares)
{
    const size_t rows = m->measured->size, free = match_free(m);
    if (free == 0) {
        gsl_vector *left = gsl_vector_alloc(rows);
        const bool sound = left_over(m, left, squares);
        gsl_vector_free(left);
        return sound;
    }
    g_autofree double *was = g_new0(double, free);
    search s = {.free = free,
                .was = was,
                .j = gsl_matrix_alloc(rows, free),
                .inner = gsl_matrix_alloc(free, free),
                .left = gsl_vector_alloc(rows),
                .other = gsl_vector_alloc(rows),
                .slope = gsl_vector_alloc(free),
                .move = gsl_vector_alloc(free)};
    const bool sound = search_on(m, &s, squares);
    gsl_matrix_free(s.j);
    gsl_matrix_free(s.inner);
    gsl_vector_free(s.left);
    gsl_vector_free(s.other);
    gsl_vector_free(s.slope);
    gsl_vector_free(s.move);
    return sound;
}
