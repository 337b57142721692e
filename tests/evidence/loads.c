/* Models of loops in which a load comes that nobody recorded: how often the intervals of what is found hold the truth.
 * Prints a table in Markdown.
 *
 * Usage: evidence_loads SEEDS EPOCH */
#include "ailing.h"

#include "analysis/numerics.h"
#include "analysis/process.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>

typedef struct tally {
    uint32_t runs, plain, told, kind, gain, one, size;
} tally;

static bool holds(const rgp_estimate *e, double is)
{
    return e->low <= is && is <= e->high;
}

/* Rows of a run from gains that are each up to three times off. */
static void record(const ailing_world *w, gsl_rng *c, ailing *to, rgp_pid_config *pid)
{
    *pid = ailing_pid(w);
    pid->gain.kp *= (float)pow(3.0, 2.0 * gsl_rng_uniform(c) - 1.0);
    pid->gain.ki *= (float)pow(3.0, 2.0 * gsl_rng_uniform(c) - 1.0);
    ailing_try(w, pid, c, to);
}

static bool is_told(const rgp_process *p, double tick)
{
    g_autoptr(GPtrArray) doubts = rgp_process_doubts(p, tick);
    return doubts->len == 0;
}

static void count(const ailing_world *w, bool goes_on, const rgp_process *p, double tick, tally *to)
{
    double at, size, gain;
    ailing_load(w, &at, &size, &gain);
    const bool told = is_told(p, tick), is_kind = told && (p->kind == RGP_PROCESS_INTEGRAL) == goes_on,
               one = is_kind && p->loads == 1;
    to->told += told;
    to->kind += is_kind;
    to->gain += is_kind && holds(&p->gain, gain);
    to->one += one;
    to->size += one && holds(&p->came[0].size, size);
}

static void look(ailing_shape shape, gsl_rng *c, tally *to)
{
    g_autofree ailing *a = g_new(ailing, 1);
    g_autofree ailing_world *w = ailing_sound(shape, c);
    double at, size, gain;
    rgp_pid_config pid;
    record(w, c, a, &pid);
    if (!ailing_load(w, &at, &size, &gain)) {
        return;
    }
    g_autofree double *driven = g_new(double, a->rows), *measured = g_new(double, a->rows);
    for (size_t i = 0; i < a->rows; i++) {
        driven[i] = a->row[i].output;
        measured[i] = a->row[i].measured;
    }
    const rgp_process_data data = {driven, measured, a->rows, a->row[1].time - a->row[0].time};
    rgp_process p;
    to->runs++;
    if (rgp_process_fit(&data, &p)) {
        to->plain += is_told(&p, data.tick);
        rgp_process_clear(&p);
    }
    if (rgp_process_fit_held(&data, (double)pid.gain.kp, &p)) {
        count(w, shape == AILING_GLIDE, &p, data.tick, to);
        rgp_process_clear(&p);
    }
}

int main(int argc, char **argv)
{
    const uint32_t seeds = argc > 1 ? (uint32_t)strtoul(argv[1], NULL, 10) : 0;
    const unsigned long epoch = argc > 2 ? strtoul(argv[2], NULL, 10) : 0;
    if (seeds == 0) {
        fputs("usage: evidence_loads SEEDS EPOCH\n", stderr);
        return 2;
    }
    rgp_numerics_go_on();
    puts("| mechanism | runs with a load | a model to build on, without loads | with | of these, the right kind "
         "| gain held | of one load | its size held |\n|---|---|---|---|---|---|---|---|");
    for (int shape = 0; shape < AILING_PREDICTED; shape++) {
        tally t = {0};
        for (uint32_t i = 0; i < seeds; i++) {
            gsl_rng *c = gsl_rng_alloc(gsl_rng_mt19937);
            gsl_rng_set(c, 1000003ul * epoch + 7919ul * (1000ul * (unsigned long)shape + i) + 5ul);
            look((ailing_shape)shape, c, &t);
            gsl_rng_free(c);
        }
        printf("| %s | %u | %.0f %% | %.0f %% | %u | %.0f %% | %u | %.0f %% |\n", ailing_shape_words[shape], t.runs,
               100.0 * t.plain / MAX(t.runs, 1u), 100.0 * t.told / MAX(t.runs, 1u), t.kind,
               100.0 * t.gain / MAX(t.kind, 1u), t.one, 100.0 * t.size / MAX(t.one, 1u));
    }
    return 0;
}
