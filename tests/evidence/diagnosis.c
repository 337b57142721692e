/* The diagnosis of loops: learns its weights from loops that are made up with one thing wrong each, and judges it on
 * others. Prints weights as C, or tables in Markdown.
 *
 * Usage: evidence_diagnosis learn SEEDS
 *        evidence_diagnosis judge SEEDS EPOCH [LEAST]     LEAST (percent): fails when a cause is found less often
 *        evidence_diagnosis falls SEEDS EPOCH             the same of what falls without its loop
 *        evidence_diagnosis two SEEDS EPOCH               loops with two things wrong at once */
#include "ailing.h"

#include "analysis/diagnosis_parts.h"
#include "analysis/numerics.h"

#include <gsl/gsl_blas.h>
#include <gsl/gsl_multimin.h>

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define RIDGE  2.0 /* of the whole, on weights of inputs in spreads */
#define ROUNDS 400

typedef struct example {
    rgp_signs sign;
    double input[DIAGNOSIS_INPUTS];
    bool may[RGP_CAUSES];
    rgp_cause is;
} example;

/* One run that is made up and looked at. */
typedef struct job {
    ailing_shape shape;
    rgp_cause cause, other; /* `other`: HEALTHY: one thing alone */
    unsigned long seed;
    bool made, may[RGP_CAUSES];
    rgp_diagnosis found; /* without its model's rows */
} job;

static void do_job(gpointer data, gpointer self)
{
    (void)self;
    job *j = data;
    g_autofree ailing *a = g_new(ailing, 1);
    gsl_rng *c = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(c, j->seed);
    j->made = j->other == RGP_CAUSE_HEALTHY ? ailing_make(j->shape, j->cause, c, a)
                                            : ailing_make_two(j->shape, j->cause, j->other, c, a);
    if (j->made) {
        const rgp_loop_run run = ailing_run(a, &a->pid);
        rgp_diagnose(&run, &j->found);
        diagnosis_bears(&j->found, &run, j->may);
    }
    gsl_rng_free(c);
}

static void run_jobs(GArray *all)
{
    GThreadPool *pool = g_thread_pool_new(do_job, NULL, (gint)g_get_num_processors(), TRUE, NULL);
    for (guint i = 0; i < all->len; i++) {
        g_thread_pool_push(pool, &g_array_index(all, job, i), NULL);
    }
    g_thread_pool_free(pool, FALSE, TRUE);
}

/* By how many times as many seeds: of healthy ones, of play, of play where it hardly ever makes a swing, and of the two
 * kinds that only some mechanisms can have. */
typedef struct times {
    uint32_t healthy, play, seldom, few;
} times;

static uint32_t seeds_of(int shape, int cause, const times *more)
{
    const bool seldom = shape == AILING_WARM || shape == AILING_SLUGGISH;
    return cause == RGP_CAUSE_HEALTHY                                ? more->healthy
           : cause == RGP_CAUSE_PLAY                                 ? (seldom ? more->seldom : more->play)
           : cause == RGP_CAUSE_DEAD || cause == RGP_CAUSE_D_MISSING ? more->few
                                                                     : 1;
}

/* So many runs of each cause in each shape from one up to, and not with, another, on all cores. */
static GArray *do_jobs(int first, int end, uint32_t seeds, times more, unsigned long study, unsigned long epoch)
{
    GArray *all = g_array_new(FALSE, TRUE, sizeof(job));
    for (int shape = first; shape < end; shape++) {
        for (int cause = 0; cause < RGP_CAUSES; cause++) {
            const uint32_t many = seeds * seeds_of(shape, cause, &more);
            for (uint32_t i = 0; i < many; i++) {
                const unsigned long index = ((unsigned long)shape * RGP_CAUSES + (unsigned long)cause) * 10000ul + i;
                const job j = {.shape = (ailing_shape)shape,
                               .cause = (rgp_cause)cause,
                               .seed = 1000003ul * (2ul * epoch + study) + 7919ul * index + 1ul};
                g_array_append_val(all, j);
            }
        }
    }
    run_jobs(all);
    return all;
}

/* ---- learning --------------------------------------------------------------------------------------- */

static void put_scale(GArray *all, double *mean, double *spread)
{
    for (uint32_t i = 0; i < RGP_SIGNS; i++) {
        double sum = 0.0, squares = 0.0;
        for (guint k = 0; k < all->len; k++) {
            double of[RGP_SIGNS];
            memcpy(of, &g_array_index(all, example, k).sign, sizeof of);
            sum += of[i];
            squares += of[i] * of[i];
        }
        mean[i] = sum / all->len;
        spread[i] = fmax(sqrt(fmax(0.0, squares / all->len - mean[i] * mean[i])), 1e-6);
    }
}

static double loss(const gsl_vector *at, void *self, gsl_vector *slope)
{
    GArray *all = self;
    const double(*weight)[DIAGNOSIS_INPUTS] = (const double(*)[DIAGNOSIS_INPUTS])at->data;
    double sum = 0.0, share[RGP_CAUSES];
    if (slope) {
        gsl_vector_set_zero(slope);
    }
    for (guint k = 0; k < all->len; k++) {
        const example *e = &g_array_index(all, example, k);
        diagnosis_shares(weight, e->input, e->may, share);
        sum -= log(fmax(share[e->is], 1e-300));
        for (uint32_t c = 0; slope && c < RGP_CAUSES; c++) {
            const double off = share[c] - (c == e->is ? 1.0 : 0.0);
            for (uint32_t i = 0; i < DIAGNOSIS_INPUTS; i++) {
                slope->data[c * DIAGNOSIS_INPUTS + i] += off * e->input[i];
            }
        }
    }
    for (size_t i = 0; i < at->size; i++) {
        if (i % DIAGNOSIS_INPUTS != 0) {
            sum += 0.5 * RIDGE * at->data[i] * at->data[i];
            if (slope) {
                slope->data[i] += RIDGE * at->data[i];
            }
        }
    }
    return sum;
}

static double loss_alone(const gsl_vector *at, void *self)
{
    return loss(at, self, NULL);
}

static void loss_slope(const gsl_vector *at, void *self, gsl_vector *slope)
{
    loss(at, self, slope);
}

static void loss_both(const gsl_vector *at, void *self, double *value, gsl_vector *slope)
{
    *value = loss(at, self, slope);
}

static gsl_vector *learn(GArray *all)
{
    const size_t size = (size_t)RGP_CAUSES * DIAGNOSIS_INPUTS;
    gsl_multimin_function_fdf f = {loss_alone, loss_slope, loss_both, size, all};
    gsl_vector *begin = gsl_vector_calloc(size), *end = gsl_vector_alloc(size);
    gsl_multimin_fdfminimizer *m = gsl_multimin_fdfminimizer_alloc(gsl_multimin_fdfminimizer_vector_bfgs2, size);
    gsl_multimin_fdfminimizer_set(m, &f, begin, 0.01, 0.1);
    for (int i = 0; i < ROUNDS && gsl_multimin_fdfminimizer_iterate(m) == 0; i++) {
        if (i % 50 == 0) {
            fprintf(stderr, "round %d: %.4f a run\n", i, m->f / all->len);
        }
    }
    gsl_vector_memcpy(end, m->x);
    gsl_multimin_fdfminimizer_free(m);
    gsl_vector_free(begin);
    return end;
}

static void print_row(const double *value, size_t count, const char *begin, const char *end)
{
    fputs(begin, stdout);
    for (size_t i = 0; i < count; i++) {
        printf("%s%.4g", i ? ", " : "", value[i]);
    }
    fputs(end, stdout);
}

/* Those of the jobs, which are freed, that are told of, and of whose cause something is to be seen, by whether they are
 * known to fall. */
static void add_examples(GArray *const *by_falls, GArray *jobs)
{
    for (guint i = 0; i < jobs->len; i++) {
        const job *j = &g_array_index(jobs, job, i);
        example e = {.sign = j->found.sign, .is = j->cause};
        memcpy(e.may, j->may, sizeof e.may);
        if (j->made && !j->found.unfit && e.may[e.is]) {
            g_array_append_val(by_falls[j->found.falls], e);
        }
    }
    g_array_unref(jobs);
}

/* One table, by all of its examples. */
static void print_table(GArray *all)
{
    double mean[RGP_SIGNS], spread[RGP_SIGNS];
    put_scale(all, mean, spread);
    for (guint k = 0; k < all->len; k++) {
        example *e = &g_array_index(all, example, k);
        diagnosis_inputs(&e->sign, mean, spread, e->input);
    }
    gsl_vector *weight = learn(all);
    printf("/* from %u runs */\n", all->len);
    print_row(mean, RGP_SIGNS, "{{", "},\n");
    print_row(spread, RGP_SIGNS, "{", "},\n{\n");
    for (uint32_t c = 0; c < RGP_CAUSES; c++) {
        print_row(weight->data + c * DIAGNOSIS_INPUTS, DIAGNOSIS_INPUTS, "{", "},\n");
    }
    puts("}},");
    gsl_vector_free(weight);
}

/* Each table by the runs that are judged by it: what falls and is not known to is judged with those that stand. */
static int teach(uint32_t seeds)
{
    GArray *by_falls[] = {g_array_new(FALSE, FALSE, sizeof(example)), g_array_new(FALSE, FALSE, sizeof(example))};
    printf("/* Written by `evidence_diagnosis learn %u`: not to be changed by hand. */\n"
           "#include \"diagnosis_parts.h\"\n\n/* clang-format off */\n"
           "const diagnosis_table diagnosis_tables[2] = {\n",
           seeds);
    add_examples(by_falls, do_jobs(0, AILING_TANK, seeds, (times){3, 1, 5, 1}, 0, 0));
    add_examples(by_falls, do_jobs(AILING_BALANCED, AILING_ALL_SHAPES, seeds, (times){3, 1, 1, 1}, 0, 0));
    for (size_t i = 0; i < G_N_ELEMENTS(by_falls); i++) {
        print_table(by_falls[i]);
        g_array_unref(by_falls[i]);
    }
    puts("};\n/* clang-format on */");
    return 0;
}

/* ---- judging ---------------------------------------------------------------------------------------- */

/* Of runs, and of those of them that are told of: one that has to run for longer is not. */
typedef struct tally {
    uint32_t runs[RGP_CAUSES], made[AILING_ALL_SHAPES][RGP_CAUSES], found[AILING_ALL_SHAPES][RGP_CAUSES],
        as[RGP_CAUSES][RGP_CAUSES];
    uint32_t said[3], right[3]; /* sure, likely, possible */
} tally;

static void count_words(tally *t, const rgp_diagnosis *d, rgp_cause is)
{
    const double chance = d->chance[d->first];
    const int word = chance >= 0.9 ? 0 : chance >= 0.6 ? 1 : 2;
    t->said[word]++;
    t->right[word] += d->first == is;
}

static double wilson_low(uint32_t part, uint32_t whole)
{
    const double z = 1.96, n = whole, p = whole > 0 ? part / n : 0.0;
    const double low = (p + z * z / (2 * n) - z * sqrt(p * (1 - p) / n + z * z / (4 * n * n))) / (1 + z * z / n);
    return whole > 0 ? 100.0 * fmax(low, 0.0) : 0.0;
}

static bool print_causes(const tally *t, int first, int end, double least)
{
    bool good = true;
    printf("| what is wrong | runs | told of | found first | at least |");
    for (int s = first; s < end; s++) {
        printf(" %s |", ailing_shape_words[s]);
    }
    printf(" taken for |\n|---|---|---|---|---|---|");
    for (int s = first; s < end; s++) {
        printf("---|");
    }
    puts("");
    for (int c = 0; c < RGP_CAUSES; c++) {
        uint32_t made = 0, found = 0;
        if (t->runs[c] == 0) {
            continue;
        }
        for (int s = first; s < end; s++) {
            made += t->made[s][c];
            found += t->found[s][c];
        }
        printf("| %s | %u | %u | %.0f %% | %.0f %% |", rgp_cause_words[c], t->runs[c], made,
               100.0 * found / MAX(made, 1u), wilson_low(found, made));
        for (int s = first; s < end; s++) {
            if (t->made[s][c] > 0) {
                printf(" %.0f %% |", 100.0 * t->found[s][c] / t->made[s][c]);
            } else {
                printf(" - |");
            }
        }
        const char *gap = " ";
        for (int k = 0; k < RGP_CAUSES; k++) {
            if (k != c && 50 * t->as[c][k] >= made && t->as[c][k] > 0) {
                printf("%s%s %.0f %%", gap, rgp_cause_words[k], 100.0 * t->as[c][k] / made);
                gap = ", ";
            }
        }
        puts(" |");
        good &= wilson_low(found, made) >= least;
    }
    return good;
}

static int judge(int shapes_from, int shapes_end, uint32_t seeds, unsigned long epoch, double least)
{
    static tally t;
    static const char *const words[] = {"sure", "likely", "possible and less"};
    GArray *jobs = do_jobs(shapes_from, shapes_end, seeds, (times){3, 1, 1, 2}, 1, epoch);
    for (guint i = 0; i < jobs->len; i++) {
        const job *one = &g_array_index(jobs, job, i);
        t.runs[one->cause] += one->made;
        if (one->made && !one->found.unfit) {
            t.made[one->shape][one->cause]++;
            t.found[one->shape][one->cause] += one->found.first == one->cause;
            t.as[one->cause][one->found.first]++;
            count_words(&t, &one->found, one->cause);
        }
    }
    g_array_unref(jobs);
    const bool good = print_causes(&t, shapes_from, shapes_end, least);
    puts("\n| said | times | right |\n|---|---|---|");
    for (int w = 0; w < 3; w++) {
        printf("| %s | %u | %.0f %% |\n", words[w], t.said[w], 100.0 * t.right[w] / MAX(t.said[w], 1u));
    }
    return good ? 0 : 1;
}

/* ---- two things wrong ------------------------------------------------------------------------------- */

static const rgp_cause besides[] = {RGP_CAUSE_PACE, RGP_CAUSE_OUTSIDE, RGP_CAUSE_FRICTION,
                                    RGP_CAUSE_PLAY, RGP_CAUSE_COUNTS,  RGP_CAUSE_NOISE},
                       of_gains[] = {RGP_CAUSE_P_MUCH,   RGP_CAUSE_P_LITTLE,  RGP_CAUSE_I_MUCH,
                                     RGP_CAUSE_I_LITTLE, RGP_CAUSE_D_MISSING, RGP_CAUSE_D_MUCH};

static void print_two(const char *what, GArray *jobs, rgp_cause cause)
{
    uint32_t runs = 0, one = 0, both = 0, well = 0;
    for (guint i = 0; i < jobs->len; i++) {
        const job *j = &g_array_index(jobs, job, i);
        const rgp_diagnosis *d = &j->found;
        if (!j->made || d->unfit || (cause != RGP_CAUSE_HEALTHY && j->cause != cause)) {
            continue;
        }
        const bool first = d->first == j->cause || d->first == j->other;
        runs++;
        one += first;
        both += first && (d->second == j->cause || d->second == j->other);
        well += d->first == RGP_CAUSE_HEALTHY;
    }
    printf("| %s | %u | %.0f %% | %.0f %% | %.0f %% | %.0f %% |\n", what, runs, 100.0 * one / MAX(runs, 1u),
           wilson_low(one, runs), 100.0 * both / MAX(runs, 1u), 100.0 * well / MAX(runs, 1u));
}

static int judge_two(uint32_t seeds, unsigned long epoch)
{
    GArray *jobs = g_array_new(FALSE, TRUE, sizeof(job));
    for (uint32_t k = 0; k < AILING_SHAPES * G_N_ELEMENTS(besides) * G_N_ELEMENTS(of_gains) * seeds; k++) {
        const uint32_t pair = k / seeds % (G_N_ELEMENTS(besides) * G_N_ELEMENTS(of_gains));
        const job one = {.shape = (ailing_shape)(k / seeds / (G_N_ELEMENTS(besides) * G_N_ELEMENTS(of_gains))),
                         .cause = besides[pair / G_N_ELEMENTS(of_gains)],
                         .other = of_gains[pair % G_N_ELEMENTS(of_gains)],
                         .seed = 1000003ul * (2ul * epoch + 1ul) + 7919ul * (10000000ul + k) + 1ul};
        g_array_append_val(jobs, one);
    }
    run_jobs(jobs);
    puts("| beside gains | runs | one of both first | at least | both, as the first two | called healthy |\n"
         "|---|---|---|---|---|---|");
    for (size_t i = 0; i < G_N_ELEMENTS(besides); i++) {
        print_two(rgp_cause_words[besides[i]], jobs, besides[i]);
    }
    print_two("all of them", jobs, RGP_CAUSE_HEALTHY);
    g_array_unref(jobs);
    return 0;
}

int main(int argc, char **argv)
{
    rgp_numerics_go_on();
    if (argc >= 3 && strcmp(argv[1], "learn") == 0) {
        return teach((uint32_t)strtoul(argv[2], NULL, 10));
    }
    if (argc >= 4 && strcmp(argv[1], "judge") == 0) {
        return judge(0, AILING_SHAPES, (uint32_t)strtoul(argv[2], NULL, 10), strtoul(argv[3], NULL, 10),
                     argc > 4 ? strtod(argv[4], NULL) : 0.0);
    }
    if (argc >= 4 && strcmp(argv[1], "falls") == 0) {
        return judge(AILING_BALANCED, AILING_ALL_SHAPES, (uint32_t)strtoul(argv[2], NULL, 10),
                     strtoul(argv[3], NULL, 10), 0.0);
    }
    if (argc >= 4 && strcmp(argv[1], "two") == 0) {
        return judge_two((uint32_t)strtoul(argv[2], NULL, 10), strtoul(argv[3], NULL, 10));
    }
    fputs("usage: evidence_diagnosis learn SEEDS | judge SEEDS EPOCH [LEAST] | falls SEEDS EPOCH | two SEEDS EPOCH\n",
          stderr);
    return 2;
}
