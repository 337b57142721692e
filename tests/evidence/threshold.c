/* The promises of 'threshold' against what its thresholds then do: signals of five shapes, made up anew for each seed,
 * with their strengths; false triggers and missed events of fresh signals, many hours of them, are the truth. Prints a
 * table in Markdown.
 *
 * Usage: evidence_threshold SEEDS EPOCH [LEAST]     with LEAST (percent): fails when fewer of the printed intervals
 * hold */
#include "analysis/threshold_parts.h"

#include <gsl/gsl_cdf.h>
#include <gsl/gsl_randist.h>
#include <gsl/gsl_rng.h>
#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define TICK_S       0.02
#define EVENT_S      0.8
#define EVENTS       40u
#define CYCLE_S      50.0 /* of which the first 43 s are idle, and at 46 s an event begins */
#define IDLE_S       43.0
#define AT_S         46.0
#define DRIFT_S      200.0 /* it remembers for so long */
#define TRUTH_S      36000.0
#define TRUTH_EVENTS 1000u

typedef enum shape { LEVELS, BUMPS, DRIFT, BURSTS, CLUMPS, SHAPES } shape;
static const char *const shape_name[] = {"steady levels", "bumps", "drift with bumps", "bursts", "clumps"};

/* Of one seed: how strong all is, in noises of one reading. */
typedef struct strengths {
    double event, spread, bump, bumps_an_hour, drift, burst, clumps_an_hour;
} strengths;

static strengths draw_strengths(gsl_rng *r)
{
    return (strengths){.event = gsl_ran_flat(r, 7.0, 14.0),
                       .spread = gsl_ran_flat(r, 0.1, 0.4),
                       .bump = gsl_ran_flat(r, 1.0, 2.5),
                       .bumps_an_hour = gsl_ran_flat(r, 40.0, 150.0),
                       .drift = gsl_ran_flat(r, 0.7, 2.0),
                       .burst = gsl_ran_flat(r, 1.5, 2.5),
                       .clumps_an_hour = gsl_ran_flat(r, 3.0, 6.0)};
}

/* ---- signals ---------------------------------------------------------------------------------------- */

static void add_bump(float *value, uint32_t rows, double at_s, double height, double length_s)
{
    const uint32_t from = (uint32_t)(at_s / TICK_S), length = (uint32_t)(length_s / TICK_S);
    for (uint32_t i = 0; i < length && from + i < rows; i++) {
        value[from + i] += (float)(height * sin(3.14159265358979 * (i + 0.5) / length));
    }
}

static void add_bumps(float *value, uint32_t rows, gsl_rng *r, const strengths *s, double from_s, double to_s,
                      double rate)
{
    for (double t = from_s + gsl_ran_exponential(r, 3600.0 / rate); t < to_s;
         t += gsl_ran_exponential(r, 3600.0 / rate)) {
        add_bump(value, rows, t, 2.0 + gsl_ran_exponential(r, s->bump), gsl_ran_flat(r, 0.2, 1.2));
    }
}

/* Idle time of that shape. */
static void put_idle(float *value, uint32_t rows, gsl_rng *r, shape is, const strengths *s)
{
    const double step = sqrt(2.0 * TICK_S / DRIFT_S);
    double drift = gsl_ran_gaussian_ziggurat(r, s->drift), burst_left = 0.0;
    for (uint32_t row = 0; row < rows; row++) {
        drift = is == DRIFT ? drift * (1.0 - TICK_S / DRIFT_S) + gsl_ran_gaussian_ziggurat(r, s->drift * step) : 0.0;
        if (is == BURSTS && burst_left <= 0.0 && gsl_rng_uniform(r) < 20.0 / 3600.0 * TICK_S) {
            burst_left = gsl_ran_flat(r, 1.0, 6.0);
        }
        burst_left -= TICK_S;
        value[row] = (float)(gsl_ran_gaussian_ziggurat(r, burst_left > 0.0 ? s->burst : 1.0) + drift);
    }
    if (is == BUMPS || is == DRIFT) {
        add_bumps(value, rows, r, s, 0.0, rows * TICK_S, s->bumps_an_hour);
    }
    for (double t = 0.0; is == CLUMPS && t < rows * TICK_S; t += gsl_ran_exponential(r, 3600.0 / s->clumps_an_hour)) {
        add_bumps(value, rows, r, s, t, t + gsl_ran_exponential(r, 100.0), 900.0);
    }
}

static double event_height(gsl_rng *r, const strengths *s)
{
    return s->event * exp(gsl_ran_gaussian(r, s->spread));
}

static void add_events(float *value, uint32_t rows, gsl_rng *r, const strengths *s, uint32_t events)
{
    for (uint32_t i = 0; i < events; i++) {
        add_bump(value, rows, CYCLE_S * i + AT_S, event_height(r, s), EVENT_S);
    }
}

/* ---- recordings without a file ---------------------------------------------------------------------- */

static rgp_recording *recording_of(const rgp_rig *rig, uint32_t rows)
{
    rgp_recording *r = g_malloc0(sizeof *r);
    float value[64] = {0};
    rgp_quality quality[64] = {0};
    static char name[] = "made up";
    *r = (rgp_recording){.name = name, .image = rig->image, .rows = rows, .history = rgp_history_new(rig->image, 0)};
    for (uint32_t row = 0; row < rows; row++) {
        rgp_history_row(r->history, (uint64_t)row * (uint64_t)llround(TICK_S * 1e6), value, quality);
    }
    return r;
}

static void put_marks(rgp_recording *r)
{
    for (uint32_t i = 0; i < EVENTS; i++) {
        const double at = CYCLE_S * i + AT_S;
        rgp_history_put_mark(r->history, "idle", CYCLE_S * i, CYCLE_S * i + IDLE_S);
        rgp_history_put_mark(r->history, "event", at - 0.2, at + EVENT_S + 0.4);
    }
}

/* ---- the truth -------------------------------------------------------------------------------------- */

typedef struct bench {
    rgp_recording *made, *idle, *events; /* times alone */
    float *value, *far, *many;
    GArray *rows;
} bench;

static double false_an_hour(const bench *b, const rgp_trigger *t)
{
    const rgp_values v = {b->idle, b->far};
    g_array_set_size(b->rows, 0);
    rgp_trigger_firings(t, &v, b->rows);
    const double held = b->rows->len * (double)t->holdoff_s;
    return b->rows->len / fmax((TRUTH_S - held) / 3600.0, 1e-9);
}

static double missed_share(const bench *b, const rgp_trigger *t)
{
    const rgp_values v = {b->events, b->many};
    uint32_t caught = 0, next = 0;
    g_array_set_size(b->rows, 0);
    rgp_trigger_firings(t, &v, b->rows);
    for (uint32_t i = 0; i < TRUTH_EVENTS; i++) {
        const double at = CYCLE_S * i + AT_S;
        const uint32_t from = (uint32_t)((at - 0.2) / TICK_S), to = (uint32_t)((at + EVENT_S + 0.4) / TICK_S);
        while (next < b->rows->len && g_array_index(b->rows, uint32_t, next) < from) {
            next++;
        }
        caught += next < b->rows->len && g_array_index(b->rows, uint32_t, next) < to;
    }
    return 1.0 - (double)caught / TRUTH_EVENTS;
}

/* ---- one seed --------------------------------------------------------------------------------------- */

typedef struct row {
    uint32_t seeds, refused, rate_held, rate_exact, share_held, share_exact;
    double width;               /* of the rate's interval, over what it is about */
    double *rate[3], *share[3]; /* of ours, the middle of the medians, mean and three spreads */
} row;

/* True when an interval that is randomised at its ends holds the truth (Stevens 1950): it does so in exactly 95 %. */
static bool holds_randomised(double (*below)(double mean, double count, double n), double count, double n, double truth,
                             gsl_rng *r)
{
    const double at_most = below(truth, count, n), under = count > 0.0 ? below(truth, count - 1.0, n) : 0.0;
    const double p = under + gsl_rng_uniform(r) * (at_most - under);
    return p > 0.025 && p < 0.975;
}

static double poisson_below(double mean, double count, double n)
{
    (void)n;
    return mean > 0.0 ? gsl_cdf_poisson_P((unsigned)count, mean) : 1.0;
}

static double binomial_below(double share, double count, double n)
{
    return gsl_cdf_binomial_P((unsigned)count, share, (unsigned)n);
}

static void judge(const bench *b, const rgp_threshold_study *s, const rgp_finding *f, gsl_rng *r, row *to)
{
    const rgp_tally t = rgp_tally_by(s->labels, s->series, 0, &f->trigger, true);
    const double rate = false_an_hour(b, &f->trigger), share = missed_share(b, &f->trigger),
                 hours = t.exposure_s / 3600.0;
    const rgp_interval of_rate = rgp_rate_interval(t.falses / f->dispersion, hours / f->dispersion, 0.95),
                       of_share = rgp_share_interval(t.missed, t.events, 0.95);
    to->rate[0][to->seeds] = rate;
    to->share[0][to->seeds] = share;
    if (f->area < 0.9 || s->labels->block->len < RGP_BLOCKS_LEAST || (f->dispersion > 2.0 && f->clumps < 8)) {
        to->refused++;
        return;
    }
    to->rate_held += rate >= of_rate.low && rate <= of_rate.high;
    to->share_held += share >= of_share.low && share <= of_share.high;
    to->rate_exact += holds_randomised(poisson_below, t.falses, 0.0, rate * hours, r);
    to->share_exact += holds_randomised(binomial_below, t.missed, t.events, share, r);
    to->width += of_rate.high - of_rate.low;
}

/* The limits that people take without the tool: the middle between the medians, and a mean with three spreads. */
static void judge_others(const bench *b, const rgp_threshold_study *s, row *to)
{
    double sum = 0.0, square = 0.0, count = 0.0, heights[EVENTS];
    for (uint32_t i = 0; i < EVENTS; i++) {
        const uint32_t from = (uint32_t)(CYCLE_S * i / TICK_S), end = from + (uint32_t)(IDLE_S / TICK_S);
        for (uint32_t k = from; k < end; k++) {
            sum += (double)b->value[k];
            square += (double)b->value[k] * (double)b->value[k];
            count += 1.0;
        }
        heights[i] = s->widths.at[0].event[i];
    }
    gsl_sort(heights, 1, EVENTS);
    const double mean = sum / count, spread = sqrt(square / count - mean * mean);
    const double limit[2] = {(s->idle.median + gsl_stats_median_from_sorted_data(heights, 1, EVENTS)) / 2.0,
                             mean + 3.0 * spread};
    for (int i = 0; i < 2; i++) {
        const rgp_trigger t = {true, (float)limit[i], 0.0f, 0.0f, 0.2f};
        to->rate[1 + i][to->seeds] = false_an_hour(b, &t);
        to->share[1 + i][to->seeds] = missed_share(b, &t);
    }
}

static void try_seed(const bench *b, shape is, uint64_t seed, row *to)
{
    gsl_rng *r = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(r, (unsigned long)(seed % 4294967291u));
    const strengths drawn = draw_strengths(r);
    put_idle(b->value, b->made->rows, r, is, &drawn);
    add_events(b->value, b->made->rows, r, &drawn, EVENTS);
    put_idle(b->far, b->idle->rows, r, is, &drawn);
    put_idle(b->many, b->events->rows, r, is, &drawn);
    add_events(b->many, b->events->rows, r, &drawn, TRUTH_EVENTS);

    float *value[] = {b->value};
    rgp_series series = {.runs = 1, .names = 1, .value = value};
    rgp_recording *const run[] = {b->made};
    rgp_threshold_study s = {
        .labels = rgp_labels_of(run, 1, "idle", "event", NULL), .series = &series, .cost = {1.0, 1.0, 20.0}};
    threshold_split(&s, true, NULL);
    const choosing c = {&s, &series, 0, true, 1, {-(double)INFINITY, (double)INFINITY, true, true, true}};
    const rgp_finding f = threshold_choose(&c, &s.widths, &s.idle);
    judge(b, &s, &f, r, to);
    judge_others(b, &s, to);
    to->seeds++;
    rgp_trigger_widths_clear(&s.widths);
    rgp_labels_free(s.labels);
    gsl_rng_free(r);
}

/* ---- the table -------------------------------------------------------------------------------------- */

static double median(double *of, uint32_t count)
{
    gsl_sort(of, 1, count);
    return gsl_stats_median_from_sorted_data(of, 1, count);
}

static double percent(uint32_t part, uint32_t whole)
{
    return whole > 0 ? 100.0 * part / whole : 0.0;
}

static void print_row(shape is, row *t)
{
    const uint32_t judged = t->seeds - t->refused;
    printf("| %s | %u | %.0f %% | %.1f %% | %.1f %% | %.1f %% | %.1f %% | %.0f |", shape_name[is], t->seeds,
           percent(t->refused, t->seeds), percent(t->rate_held, judged), percent(t->rate_exact, judged),
           percent(t->share_held, judged), percent(t->share_exact, judged), judged > 0 ? t->width / judged : 0.0);
    for (int i = 0; i < 3; i++) {
        printf(" %.3g, %.2g %% |", median(t->rate[i], t->seeds), 100.0 * median(t->share[i], t->seeds));
    }
    putchar('\n');
    fflush(stdout);
}

/* Of the study, its judging, the epoch and the number. */
static uint64_t seed_of(unsigned epoch, shape is, uint32_t index)
{
    uint64_t x = 0x7468726573686f6cu + 1000003u * epoch + 7919u * (unsigned)is + 104729u * index;
    x = (x ^ x >> 30) * 0xBF58476D1CE4E5B9u;
    x = (x ^ x >> 27) * 0x94D049BB133111EBu;
    return x ^ x >> 31;
}

static bench bench_of(const rgp_rig *rig)
{
    bench b = {.made = recording_of(rig, (uint32_t)(CYCLE_S * EVENTS / TICK_S)),
               .idle = recording_of(rig, (uint32_t)(TRUTH_S / TICK_S)),
               .events = recording_of(rig, (uint32_t)(CYCLE_S * TRUTH_EVENTS / TICK_S)),
               .rows = g_array_new(FALSE, FALSE, sizeof(uint32_t))};
    put_marks(b.made);
    b.value = g_malloc_n(b.made->rows, sizeof(float));
    b.far = g_malloc_n(b.idle->rows, sizeof(float));
    b.many = g_malloc_n(b.events->rows, sizeof(float));
    return b;
}

static void clear_bench(const bench *b)
{
    rgp_recording *const made[] = {b->made, b->idle, b->events};
    for (size_t i = 0; i < G_N_ELEMENTS(made); i++) {
        rgp_history_free(made[i]->history);
        g_free(made[i]);
    }
    g_free(b->value);
    g_free(b->far);
    g_free(b->many);
    g_array_unref(b->rows);
}

int main(int argc, char **argv)
{
    static const char text[] = "rig made_up\ntick 20 ms\nsensor s counts 0..4095\n";
    if (argc < 3) {
        fputs("usage: evidence_threshold SEEDS EPOCH [LEAST]\n", stderr);
        return 2;
    }
    const uint32_t seeds = (uint32_t)strtoul(argv[1], NULL, 10);
    const unsigned epoch = (unsigned)strtoul(argv[2], NULL, 10);
    const double least = argc > 3 ? strtod(argv[3], NULL) : 0.0;
    rgp_rig *rig = rgp_rig_compile("made_up.rig", text, strlen(text), NULL);
    const bench b = bench_of(rig);
    bool held = true;
    puts("| shape | seeds | no promise | false: held | randomised | missed: held | randomised | width, an hour | "
         "`threshold`: false an hour, missed | middle of medians | mean and three spreads |\n"
         "|---|---|---|---|---|---|---|---|---|---|---|");
    for (int is = 0; is < SHAPES; is++) {
        row t = {0};
        for (int i = 0; i < 3; i++) {
            t.rate[i] = g_malloc_n(seeds + 1, sizeof(double));
            t.share[i] = g_malloc_n(seeds + 1, sizeof(double));
        }
        for (uint32_t i = 0; i < seeds; i++) {
            try_seed(&b, (shape)is, seed_of(epoch, (shape)is, i), &t);
        }
        held &= is == CLUMPS || (percent(t.rate_held, t.seeds - t.refused) >= least &&
                                 percent(t.share_held, t.seeds - t.refused) >= least);
        print_row((shape)is, &t);
        for (int i = 0; i < 3; i++) {
            g_free(t.rate[i]);
            g_free(t.share[i]);
        }
    }
    clear_bench(&b);
    rgp_rig_free(rig);
    return held ? 0 : 1;
}
