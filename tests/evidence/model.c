/* The promises of 'model' and 'suggest' against processes that are known: made up anew for each seed, stepped ten times
 * as finely as the loop by equations of their own, driven as the command drives. Counted are the intervals that hold
 * the truth, and the loops that are stable with the gains that are suggested: on the process, and with each of its
 * numbers a fifth off. Predicted figures are held against those of a run on the process itself. Prints a table in
 * Markdown.
 *
 * Usage: evidence_model SEEDS EPOCH [LEAST [PROCESS]]     with LEAST (percent): fails when fewer of the intervals hold,
 * or when a loop is not stable; PROCESS: that one's row alone, from 0 on */
#include "analysis/rehearsal.h"
#include "analysis/suggestion.h"

#include <gsl/gsl_randist.h>
#include <gsl/gsl_rng.h>
#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define TICK_S   0.1
#define FINER    10
#define LAGS     4
#define ROWS     2400u
#define RUN_ROWS 4000u

typedef enum shape { WHITE, HANGS, TWO_LAGS, COARSE, INTEGRAL, WANDERS, FOUR_LAGS, SHAPES } shape;
static const char *const shape_name[] = {"lag, white noise",
                                         "lag, noise that holds on (0.9)",
                                         "two lags, white noise",
                                         "lag, readings of 20 counts a step",
                                         "integral, white noise",
                                         "lag, a load that wanders",
                                         "four equal lags (never used in making)"};

/* ---- the truth -------------------------------------------------------------------------------------- */

typedef struct truth {
    double gain, lag[LAGS], dead;
    int lags;
    bool integral;
} truth;

typedef struct running {
    const truth *is;
    double x[LAGS + 1], *past; /* `past`: what was driven, by fine step, in a ring */
    size_t late, at;
} running;

static void begin(running *r, const truth *is)
{
    *r = (running){.is = is, .late = (size_t)lround(is->dead / TICK_S * FINER)};
    r->past = calloc(r->late + 1, sizeof *r->past);
}

/* A tick, of which the input is held. */
static void go_on(running *r, double driven)
{
    const double h = TICK_S / FINER;
    for (int i = 0; i < FINER; i++) {
        r->past[r->at] = driven;
        r->at = (r->at + 1) % (r->late + 1);
        double in = r->is->gain * r->past[r->at];
        for (int k = 0; k < r->is->lags; k++) {
            const double was = r->x[k];
            r->x[k] += (in - r->x[k]) * -expm1(-h / r->is->lag[k]);
            in = (was + r->x[k]) / 2.0;
        }
        r->x[LAGS] += r->is->integral ? h * in : 0.0;
    }
}

static double answer(const running *r)
{
    return r->is->integral ? r->x[LAGS] : r->x[r->is->lags - 1];
}

static truth draw_truth(gsl_rng *c, shape is)
{
    truth t = {.gain = gsl_ran_flat(c, 0.5, 3.0), .dead = gsl_ran_flat(c, 0.8, 2.5), .lags = 1};
    t.lag[0] = gsl_ran_flat(c, 4.0, 7.0);
    if (is == TWO_LAGS) {
        t.lags = 2;
        t.lag[1] = t.lag[0] * gsl_ran_flat(c, 0.1, 0.6);
    } else if (is == INTEGRAL) {
        t.integral = true;
        t.lags = 0;
        t.gain /= 5.0;
    } else if (is == FOUR_LAGS) {
        t.lags = 4;
        t.lag[0] = t.lag[1] = t.lag[2] = t.lag[3] = gsl_ran_flat(c, 1.0, 2.0);
    }
    return t;
}

/* ---- noise ------------------------------------------------------------------------------------------ */

typedef struct noise {
    gsl_rng *chance;
    shape is;
    double size, held, load;
} noise;

static double reading_of(noise *n, double value)
{
    const double hold = n->is == HANGS ? 0.9 : 0.0;
    n->held = hold * n->held + gsl_ran_gaussian_ziggurat(n->chance, n->size * sqrt(1.0 - hold * hold));
    return n->is == COARSE ? n->size * round((value + 0.3 * n->held) / n->size) : value + n->held;
}

/* In units driven. */
static double load_of(noise *n, double size)
{
    n->load += n->is == WANDERS ? gsl_ran_gaussian_ziggurat(n->chance, size) : 0.0;
    return n->load;
}

/* ---- one seed --------------------------------------------------------------------------------------- */

typedef struct row {
    uint32_t seeds, refused, gain, sum, lag, dead, unstable, unstable_off, judged;
    double *rise, *peak; /* real over predicted */
    uint32_t rises, peaks;
} row;

static double way_of(uint32_t k)
{
    static const double way[] = {0.0, 1.0, -1.0, -1.0, 1.0, 0.0};
    return way[k * 6 / ROWS];
}

static bool take_model(const truth *t, noise *n, rgp_process *p)
{
    static double driven[ROWS], measured[ROWS];
    running r;
    begin(&r, t);
    for (uint32_t k = 0; k < ROWS; k++) {
        measured[k] = reading_of(n, answer(&r));
        driven[k] = 10.0 * way_of(k);
        go_on(&r, driven[k] + load_of(n, 0.05));
    }
    free(r.past);
    return rgp_process_fit(&(rgp_process_data){driven, measured, ROWS, TICK_S}, p);
}

static bool holds(const rgp_estimate *e, double is)
{
    return e->low <= is && is <= e->high;
}

/* The process with these gains, without noise: the error at the end is a small share of a step. */
static bool is_stable(const truth *t, const rgp_pid_gains *g)
{
    const rgp_pid_config pid = {.gain = *g, .low = -1e9f, .high = 1e9f};
    rgp_pid_state state = {0};
    running r;
    double most = 0.0;
    begin(&r, t);
    for (uint32_t k = 0; k < RUN_ROWS; k++) {
        const rgp_pid_input in = {{1.0f, RGP_GOOD}, {(float)answer(&r), RGP_GOOD}, 0.0f, 0.0f};
        go_on(&r, (double)rgp_pid_step(&pid, &state, &in, (float)TICK_S).value);
        most = k >= RUN_ROWS - RUN_ROWS / 8 ? fmax(most, fabs((double)state.error)) : most;
    }
    free(r.past);
    return most < 0.05;
}

static bool is_stable_off(const truth *t, const rgp_pid_gains *g)
{
    bool stable = true;
    for (int corner = 0; corner < 8 && stable; corner++) {
        truth off = *t;
        off.gain *= corner & 1 ? 1.2 : 0.8;
        off.dead *= corner & 2 ? 1.2 : 0.8;
        for (int k = 0; k < off.lags; k++) {
            off.lag[k] *= corner & 4 ? 1.2 : 0.8;
        }
        stable = is_stable(&off, g);
    }
    return stable;
}

/* A step or a push on the process itself, with its noise. */
static rgp_response run_on(const truth *t, noise *n, const rgp_rehearsal *how)
{
    static rgp_response_row rows[RUN_ROWS];
    const uint32_t behind = (uint32_t)fmin(how->length / TICK_S, RUN_ROWS - 400.0), before = 300;
    rgp_pid_state state = {0};
    rgp_response found;
    running r;
    begin(&r, t);
    for (uint32_t k = 0; k < before + behind; k++) {
        const bool on = k >= before, step = how->test == RGP_RESPONSE_STEP;
        const double target = on && step ? how->size : 0.0, y = reading_of(n, answer(&r));
        const rgp_pid_input in = {{(float)target, RGP_GOOD}, {(float)y, RGP_GOOD}, 0.0f, 0.0f};
        const double u = (double)rgp_pid_step(how->pid, &state, &in, (float)TICK_S).value;
        go_on(&r, u + (on && !step ? how->size : 0.0));
        rows[k] = (rgp_response_row){k * TICK_S, target, y, u, state.saturated, true, false};
    }
    free(r.past);
    rgp_response_of(rows, before + behind, before, how->test, how->size, 0.0, 0.0, &found);
    return found;
}

static void compare(const truth *t, noise *n, const rgp_process *p, const rgp_suggestion *s, row *to)
{
    const rgp_pid_config pid = {.gain = s->gain, .low = -100.0f, .high = 100.0f};
    rgp_rehearsal how = {.plant = &s->plant,
                         .pid = &pid,
                         .tick = TICK_S,
                         .stride = 1,
                         .noise = p->left,
                         .resolution = p->step,
                         .length = 12.0 * (s->tau + s->plant.dead) + 4.0 * (double)(s->gain.kp / s->gain.ki),
                         .size = 10.0 * fabs(t->gain)};
    rgp_rehearsed *step = rgp_rehearse(&how);
    const double rise = run_on(t, n, &how).rise;
    how.test = RGP_RESPONSE_DISTURBANCE;
    how.size = 10.0;
    rgp_rehearsed *push = rgp_rehearse(&how);
    const double peak = run_on(t, n, &how).peak,
                 of_rise = rgp_rehearsed_figure(step, offsetof(rgp_response, rise)).median,
                 of_peak = rgp_rehearsed_figure(push, offsetof(rgp_response, peak)).median;
    if (isfinite(rise / of_rise)) {
        to->rise[to->rises++] = rise / of_rise;
    }
    if (isfinite(peak / of_peak)) {
        to->peak[to->peaks++] = fabs(peak / of_peak);
    }
    rgp_rehearsed_free(step);
    rgp_rehearsed_free(push);
}

static void judge(const truth *t, noise *n, const rgp_process *p, row *to)
{
    const rgp_pid_config pid = {.low = -100.0f, .high = 100.0f};
    double sum = t->dead;
    rgp_suggestion s;
    for (int k = 0; k < t->lags; k++) {
        sum += t->lag[k];
    }
    to->judged++;
    to->gain += holds(&p->gain, t->gain);
    to->sum += t->integral || holds(&p->sum, sum);
    to->lag += t->integral || holds(&p->lag, t->lag[0]);
    to->dead += holds(&p->dead, t->dead);
    if (rgp_suggestion_of(&(rgp_suggestion_ask){.model = p, .pid = &pid, .want = rgp_want_of("steady"), .step = TICK_S},
                          &s)) {
        to->unstable += !is_stable(t, &s.gain);
        to->unstable_off += !is_stable_off(t, &s.gain);
        compare(t, n, p, &s, to);
    }
}

static void try_seed(shape is, unsigned long seed, row *to)
{
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(chance, seed);
    const truth t = draw_truth(chance, is);
    const double answered = is == INTEGRAL ? 10.0 * t.gain * 4.0 : 10.0 * t.gain;
    noise n = {.chance = chance, .is = is, .size = answered * (is == COARSE ? 0.05 : gsl_ran_flat(chance, 0.02, 0.06))};
    rgp_process p;
    const bool fitted = take_model(&t, &n, &p);
    GPtrArray *doubts = fitted ? rgp_process_doubts(&p, TICK_S) : NULL;
    to->seeds++;
    if (!fitted || doubts->len > 0 || (p.kind == RGP_PROCESS_INTEGRAL) != t.integral) {
        to->refused++;
    } else {
        judge(&t, &n, &p, to);
    }
    if (fitted) {
        g_ptr_array_unref(doubts);
        rgp_process_clear(&p);
    }
    gsl_rng_free(chance);
}

/* ---- the table -------------------------------------------------------------------------------------- */

static double percent(uint32_t part, uint32_t whole)
{
    return whole > 0 ? 100.0 * part / whole : NAN;
}

static void print_ratio(double *ratio, uint32_t count)
{
    gsl_sort(ratio, 1, count);
    printf(" %.2f, %.2f to %.2f |", gsl_stats_median_from_sorted_data(ratio, 1, count),
           gsl_stats_quantile_from_sorted_data(ratio, 1, count, 0.05),
           gsl_stats_quantile_from_sorted_data(ratio, 1, count, 0.95));
}

static void print_row(shape is, row *t)
{
    const bool one_lag = is != INTEGRAL && is != FOUR_LAGS;
    printf("| %s | %u | %.0f %% | %.1f %% |", shape_name[is], t->seeds, percent(t->refused, t->seeds),
           percent(t->gain, t->judged));
    const struct {
        uint32_t part;
        bool shown;
    } held[] = {{t->sum, is != INTEGRAL}, {t->lag, one_lag}, {t->dead, is != FOUR_LAGS}};
    for (int i = 0; i < 3; i++) {
        if (held[i].shown) {
            printf(" %.1f %% |", percent(held[i].part, t->judged));
        } else {
            fputs(" - |", stdout);
        }
    }
    printf(" %.1f %% | %.1f %% |", percent(t->judged - t->unstable, t->judged),
           percent(t->judged - t->unstable_off, t->judged));
    print_ratio(t->rise, t->rises);
    print_ratio(t->peak, t->peaks);
    putchar('\n');
    fflush(stdout);
}

static const char heading[] =
    "| process | seeds | nothing suggested | gain held | lags and dead time | lag | dead time | stable | a fifth off | "
    "rise, real over predicted | peak of a push, likewise |\n|---|---|---|---|---|---|---|---|---|---|---|";

int main(int argc, char **argv)
{
    if (argc < 3) {
        fputs("usage: evidence_model SEEDS EPOCH [LEAST [PROCESS]]\n", stderr);
        return 2;
    }
    const uint32_t seeds = (uint32_t)strtoul(argv[1], NULL, 10);
    const unsigned long epoch = strtoul(argv[2], NULL, 10);
    const double least = argc > 3 ? strtod(argv[3], NULL) : 0.0;
    const int only = argc > 4 ? atoi(argv[4]) : -1;
    bool held = true;
    if (only < 0) {
        puts(heading);
    }
    for (int is = only >= 0 ? only : 0; is < (only >= 0 ? only + 1 : SHAPES); is++) {
        row t = {.rise = calloc(seeds + 1, sizeof(double)), .peak = calloc(seeds + 1, sizeof(double))};
        for (uint32_t i = 0; i < seeds; i++) {
            try_seed((shape)is, 1000003ul * epoch + 10007ul * (unsigned long)is + i + 1, &t);
        }
        held &= is == WANDERS || is == FOUR_LAGS || !(percent(t.gain, t.judged) < least);
        held &= t.unstable == 0;
        print_row((shape)is, &t);
        free(t.rise);
        free(t.peak);
    }
    return held ? 0 : 1;
}
