/* The promises of 'model --test held' and 'suggest' against processes that fall and are known: made up anew for each
 * seed, stepped ten times as finely as the loop by equations of their own, held by a controller that is no better than
 * it has to be, and pushed to and fro as the command does. Counted are the intervals that hold the truth, and the loops
 * that hold it up with the gains that are suggested: on the process, and with each of its numbers a fifth off. Prints a
 * table in Markdown.
 *
 * Usage: evidence_falling SEEDS EPOCH [LEAST]     with LEAST (percent): fails when fewer of the intervals hold, or when
 * a loop is not stable */
#include "analysis/suggestion.h"

#include <gsl/gsl_randist.h>
#include <gsl/gsl_rng.h>

#include <math.h>
#include <stdio.h>
#include <stdlib.h>

#define TICK_S 0.005
#define FINER  10
#define ROWS   2200u
#define PUSHED 100u /* ticks */
#define PLACE  1.5

typedef enum shape { WHITE, HANGS, RUBS, SHAPES } shape;
static const char *const shape_name[] = {"white noise", "noise that holds on (0.9)",
                                         "it rubs, white noise (never used in making)"};

typedef struct truth {
    double gain, lag, dead, rubs; /* x'' = (x - place + gain u) / lag^2 - rubs x' / lag */
} truth;

typedef struct running {
    const truth *is;
    double x, v, past[64]; /* `past`: what was driven, by fine step, in a ring */
    size_t late, at;
} running;

static void begin(running *r, const truth *is, double x)
{
    *r = (running){.is = is, .x = x, .late = (size_t)lround(is->dead / TICK_S * FINER)};
}

/* A tick, of which the input is held, in steps of the midpoint rule. */
static void go_on(running *r, double driven)
{
    const double h = TICK_S / FINER, lag = r->is->lag;
    for (int i = 0; i < FINER; i++) {
        r->past[r->at] = driven;
        r->at = (r->at + 1) % (r->late + 1);
        const double in = r->is->gain * r->past[r->at], a = (r->x + in) / lag / lag - r->is->rubs * r->v / lag,
                     x = r->x + h / 2.0 * r->v, v = r->v + h / 2.0 * a;
        r->x += h * v;
        r->v += h * ((x + in) / lag / lag - r->is->rubs * v / lag);
    }
}

static truth draw_truth(gsl_rng *c, shape is)
{
    return (truth){.gain = gsl_ran_flat(c, 0.1, 0.4),
                   .lag = gsl_ran_flat(c, 0.15, 0.5),
                   .dead = gsl_ran_flat(c, 0.0, 0.02),
                   .rubs = is == RUBS ? gsl_ran_flat(c, 0.05, 0.3) : 0.0};
}

/* A proportional gain of two to five times what just holds it, and pushes of a tenth of the travel. */
static bool take_model(const truth *t, gsl_rng *chance, shape is, rgp_process *p)
{
    static double driven[ROWS], measured[ROWS];
    static const double way[] = {1.0, -1.0, -1.0, 1.0};
    const double kp = gsl_ran_flat(chance, 2.0, 5.0) / t->gain, hold = is == HANGS ? 0.9 : 0.0,
                 noise = exp(gsl_ran_flat(chance, log(5e-4), log(0.02))) * t->gain * 10.0;
    const rgp_pid_config pid = {.gain = {.kp = (float)kp, .kd = (float)(kp * t->lag * 0.5), .filter = 0.01f},
                                .low = -100.0f,
                                .high = 100.0f,
                                .reverse = 0};
    rgp_pid_state state = {0};
    running r;
    double held = 0.0;
    begin(&r, t, 0.0);
    for (uint32_t k = 0; k < ROWS; k++) {
        held = hold * held + gsl_ran_gaussian_ziggurat(chance, noise * sqrt(1.0 - hold * hold));
        measured[k] = PLACE + r.x + held;
        const rgp_pid_input in = {{(float)PLACE, RGP_GOOD}, {(float)measured[k], RGP_GOOD}, 0.0f, 0.0f};
        const bool pushed = k >= PUSHED && k < ROWS - PUSHED;
        driven[k] = (double)rgp_pid_step(&pid, &state, &in, (float)TICK_S).value +
                    (pushed ? 10.0 * way[(k / PUSHED - 1) % 4] : 0.0);
        go_on(&r, driven[k]);
    }
    return rgp_process_fit_held(&(rgp_process_data){driven, measured, ROWS, TICK_S}, kp, p);
}

static bool holds(const rgp_estimate *e, double is)
{
    return e->low <= is && is <= e->high;
}

/* From a little off it comes back to where it balances. */
static bool is_stable(const truth *t, const rgp_pid_gains *g)
{
    const rgp_pid_config pid = {.gain = *g, .low = -1e9f, .high = 1e9f};
    rgp_pid_state state = {0};
    running r;
    begin(&r, t, 0.1);
    for (uint32_t k = 0; k < ROWS && fabs(r.x) < 10.0; k++) {
        const rgp_pid_input in = {{0.0f, RGP_GOOD}, {(float)r.x, RGP_GOOD}, 0.0f, 0.0f};
        go_on(&r, (double)rgp_pid_step(&pid, &state, &in, (float)TICK_S).value);
    }
    return fabs(r.x) < 1e-3;
}

static bool is_stable_off(const truth *t, const rgp_pid_gains *g)
{
    bool stable = true;
    for (int corner = 0; corner < 8 && stable; corner++) {
        truth off = *t;
        off.gain *= corner & 1 ? 1.2 : 0.8;
        off.dead *= corner & 2 ? 1.2 : 0.8;
        off.lag *= corner & 4 ? 1.2 : 0.8;
        stable = is_stable(&off, g);
    }
    return stable;
}

typedef struct row {
    uint32_t seeds, refused, gain, lag, dead, judged, suggested, stable, stable_off;
} row;

static void judge(const truth *t, const rgp_process *p, row *to)
{
    const rgp_pid_config pid = {.low = -100.0f, .high = 100.0f};
    rgp_suggestion s;
    to->judged++;
    to->gain += holds(&p->gain, t->gain);
    to->lag += holds(&p->lag, t->lag);
    to->dead += holds(&p->dead, t->dead);
    if (rgp_suggestion_of(&(rgp_suggestion_ask){.model = p, .pid = &pid, .want = rgp_want_of("steady"), .step = TICK_S},
                          &s)) {
        to->suggested++;
        to->stable += is_stable(t, &s.gain);
        to->stable_off += is_stable_off(t, &s.gain);
    }
}

static void try_seed(shape is, unsigned long seed, row *to)
{
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(chance, seed);
    const truth t = draw_truth(chance, is);
    rgp_process p;
    to->seeds++;
    if (take_model(&t, chance, is, &p)) {
        g_autoptr(GPtrArray) doubts = rgp_process_doubts(&p, TICK_S);
        if (doubts->len > 0 || p.kind != RGP_PROCESS_FALLING) {
            to->refused++;
        } else {
            judge(&t, &p, to);
        }
        rgp_process_clear(&p);
    }
    gsl_rng_free(chance);
}

static double percent(uint32_t part, uint32_t whole)
{
    return whole > 0 ? 100.0 * part / whole : NAN;
}

int main(int argc, char **argv)
{
    if (argc < 3) {
        fputs("usage: evidence_falling SEEDS EPOCH [LEAST]\n", stderr);
        return 2;
    }
    const uint32_t seeds = (uint32_t)strtoul(argv[1], NULL, 10);
    const unsigned long epoch = strtoul(argv[2], NULL, 10);
    const double least = argc > 3 ? strtod(argv[3], NULL) : 0.0;
    bool good = true;
    puts("| process that falls | seeds | no such model | gain held | lag | dead time | gains suggested | stable | a "
         "fifth "
         "off |\n|---|---|---|---|---|---|---|---|---|");
    for (int is = 0; is < SHAPES; is++) {
        row t = {.seeds = 0};
        for (uint32_t seed = 0; seed < seeds; seed++) {
            try_seed((shape)is, 100000ul * (epoch * SHAPES + (unsigned long)is) + seed, &t);
        }
        const bool known = is != RUBS; /* the model has no friction, which goes into its lag and dead time */
        printf("| %s | %u | %.0f %% | %.1f %% |", shape_name[is], t.seeds, percent(t.refused, t.seeds),
               percent(t.gain, t.judged));
        if (known) {
            printf(" %.1f %% | %.1f %% |", percent(t.lag, t.judged), percent(t.dead, t.judged));
        } else {
            printf(" - | - |");
        }
        printf(" %.0f %% | %.1f %% | %.1f %% |\n", percent(t.suggested, t.judged), percent(t.stable, t.suggested),
               percent(t.stable_off, t.suggested));
        fflush(stdout);
        good &= (!known || percent(t.lag, t.judged) >= least) && t.stable == t.suggested;
    }
    return good ? 0 : 1;
}
