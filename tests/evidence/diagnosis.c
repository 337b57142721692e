/* The diagnosis of loops: learns its weights from loops that are made up with one thing wrong each, and judges it on
 * others. Prints weights as C, or tables in Markdown.
 *
 * Usage: evidence_diagnosis learn SEEDS
 *        evidence_diagnosis judge SEEDS EPOCH [LEAST]     LEAST (percent): fails when a cause is found less often
 *        evidence_diagnosis follow SEEDS EPOCH            trials from poor gains on, by the advice and without */
#include "ailing.h"

#include "analysis/diagnosis_parts.h"
#include "analysis/numerics.h"
#include "analysis/trials.h"

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
    rgp_cause cause;
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
    j->made = ailing_make(j->shape, j->cause, c, a);
    if (j->made) {
        rgp_diagnose(&(rgp_loop_run){a->row, a->rows, &a->pid, 0.0}, &j->found);
        diagnosis_bears(&j->found, &a->pid, j->may);
    }
    gsl_rng_free(c);
}

/* So many runs of each cause in each shape below `shapes`, of healthy ones `healthy` times as many; on all cores. */
static GArray *do_jobs(int shapes, uint32_t seeds, uint32_t healthy, unsigned long study, unsigned long epoch)
{
    GArray *all = g_array_new(FALSE, TRUE, sizeof(job));
    for (int shape = 0; shape < shapes; shape++) {
        for (int cause = 0; cause < RGP_CAUSES; cause++) {
            const uint32_t many = cause == RGP_CAUSE_HEALTHY ? healthy * seeds : seeds;
            for (uint32_t i = 0; i < many; i++) {
                const unsigned long index = ((unsigned long)shape * RGP_CAUSES + (unsigned long)cause) * 10000ul + i;
                const job j = {.shape = (ailing_shape)shape,
                               .cause = (rgp_cause)cause,
                               .seed = 1000003ul * (2ul * epoch + study) + 7919ul * index + 1ul};
                g_array_append_val(all, j);
            }
        }
    }
    GThreadPool *pool = g_thread_pool_new(do_job, NULL, (gint)g_get_num_processors(), TRUE, NULL);
    for (guint i = 0; i < all->len; i++) {
        g_thread_pool_push(pool, &g_array_index(all, job, i), NULL);
    }
    g_thread_pool_free(pool, FALSE, TRUE);
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

static int teach(uint32_t seeds)
{
    double mean[RGP_SIGNS], spread[RGP_SIGNS];
    GArray *all = g_array_new(FALSE, FALSE, sizeof(example)), *jobs = do_jobs(AILING_TANK, seeds, 3, 0, 0);
    for (guint i = 0; i < jobs->len; i++) {
        const job *j = &g_array_index(jobs, job, i);
        example e = {.sign = j->found.sign, .is = j->cause};
        memcpy(e.may, j->may, sizeof e.may);
        if (j->made && !j->found.unfit && e.may[e.is]) {
            g_array_append_val(all, e);
        }
    }
    g_array_unref(jobs);
    put_scale(all, mean, spread);
    for (guint k = 0; k < all->len; k++) {
        example *e = &g_array_index(all, example, k);
        diagnosis_inputs(&e->sign, mean, spread, e->input);
    }
    gsl_vector *weight = learn(all);
    printf("/* Written by `evidence_diagnosis learn %u`, from %u runs: not to be changed by hand. */\n"
           "#include \"diagnosis_parts.h\"\n\n/* clang-format off */\n",
           seeds, all->len);
    print_row(mean, RGP_SIGNS, "const double diagnosis_mean[RGP_SIGNS] = {", "};\n");
    print_row(spread, RGP_SIGNS, "const double diagnosis_deviation[RGP_SIGNS] = {", "};\n");
    puts("const double diagnosis_weight[RGP_CAUSES][DIAGNOSIS_INPUTS] = {");
    for (uint32_t c = 0; c < RGP_CAUSES; c++) {
        print_row(weight->data + c * DIAGNOSIS_INPUTS, DIAGNOSIS_INPUTS, "{", "},\n");
    }
    puts("};\n/* clang-format on */");
    gsl_vector_free(weight);
    g_array_unref(all);
    return 0;
}

/* ---- judging ---------------------------------------------------------------------------------------- */

/* Of runs, and of those of them that are told of: one that has to run for longer is not. */
typedef struct tally {
    uint32_t runs[RGP_CAUSES], made[AILING_SHAPES][RGP_CAUSES], found[AILING_SHAPES][RGP_CAUSES],
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
    return whole > 0 ? 100.0 * (p + z * z / (2 * n) - z * sqrt(p * (1 - p) / n + z * z / (4 * n * n))) / (1 + z * z / n)
                     : 0.0;
}

static bool print_causes(const tally *t, double least)
{
    bool good = true;
    printf("| what is wrong | runs | told of | found first | at least |");
    for (int s = 0; s < AILING_SHAPES; s++) {
        printf(" %s |", ailing_shape_words[s]);
    }
    puts(" taken for |\n|---|---|---|---|---|---|---|---|---|---|---|");
    for (int c = 0; c < RGP_CAUSES; c++) {
        uint32_t made = 0, found = 0;
        for (int s = 0; s < AILING_SHAPES; s++) {
            made += t->made[s][c];
            found += t->found[s][c];
        }
        printf("| %s | %u | %u | %.0f %% | %.0f %% |", rgp_cause_words[c], t->runs[c], made,
               100.0 * found / MAX(made, 1u), wilson_low(found, made));
        for (int s = 0; s < AILING_SHAPES; s++) {
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

static int judge(uint32_t seeds, unsigned long epoch, double least)
{
    static tally t;
    static const char *const words[] = {"sure", "likely", "possible and less"};
    GArray *jobs = do_jobs(AILING_SHAPES, seeds, 3, 1, epoch);
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
    const bool good = print_causes(&t, least);
    puts("\n| said | times | right |\n|---|---|---|");
    for (int w = 0; w < 3; w++) {
        printf("| %s | %u | %.0f %% |\n", words[w], t.said[w], 100.0 * t.right[w] / MAX(t.said[w], 1u));
    }
    return good ? 0 : 1;
}

/* ---- following ------------------------------------------------------------------------------------- */

#define TRIALS  8u
#define ARRIVED 2.0  /* times the error of the gains of the rule */
#define WORSE   1.05 /* times the error of the trial before */

/* Ways to choose the next trial. */
typedef enum way { BY_ADVICE, BY_CHANCE, BY_THUMB, WAYS } way;
static const char *const way_words[WAYS] = {"the advice", "one gain by chance, times 0.7 or 1.4",
                                            "all less when it swings, else all more"};

typedef struct following {
    uint32_t begun, arrived, trials, taken, worse;
    uint32_t foreseen, held, worsened; /* trials by a model, and of those as good as it says, and worse */
} following;

/* All trials of a walk so far, the beginning among them. */
typedef struct trials {
    rgp_tried tried[TRIALS + 1u];
    rgp_diagnosis found[TRIALS + 1u];
    rgp_pid_config pid[TRIALS + 1u];
    guint count;
} trials;

static void add_trial(trials *all, const ailing *a, double error)
{
    const guint i = all->count++;
    all->pid[i] = a->pid;
    all->tried[i] = (rgp_tried){i + 1u, {a->row, a->rows, &all->pid[i], 0.0}, &all->found[i], error};
    rgp_diagnose(&all->tried[i].run, &all->found[i]);
}

/* The error that is foretold at most, in that of the last trial; NAN: none is. */
static double foretold(const char *says)
{
    const char *at = strstr(says, "at most ");
    return at && !strstr(says, "from there") ? strtod(at + strlen("at most "), NULL) / 100.0 : (double)NAN;
}

/* False: there is none. */
static bool choose(way how, const trials *all, gsl_rng *c, rgp_pid_gains *g, double *foreseen)
{
    static const rgp_trial_names names = {"", {"kp", "ki", "kd"}, {1.0f, 1.0f, 1.0f}};
    if (how == BY_ADVICE) {
        g_autoptr(GString) says = g_string_new(NULL);
        g_autofree char *next = rgp_trials_say(all->tried, all->count, &names, says);
        if (next) {
            rgp_trial_take(next, &names, g);
        }
        *foreseen = foretold(says->str);
        return next != NULL;
    }
    const bool swings = isfinite(all->found[all->count - 1].period);
    const float by = how == BY_CHANCE ? (gsl_rng_uniform(c) < 0.5 ? 0.7f : 1.4f) : swings ? 0.7f : 1.4f;
    float *const gain[] = {&g->kp, &g->ki, &g->kd};
    const unsigned long one = gsl_rng_uniform_int(c, 3);
    for (unsigned long i = 0; i < 3; i++) {
        *gain[i] *= how == BY_THUMB || i == one ? by : 1.0f;
    }
    return true;
}

typedef struct walk {
    way how;
    ailing_shape shape;
    unsigned long seed;
    following of;
} walk;

/* From gains that are up to ten times off, each by itself. */
static void follow(gpointer data, gpointer self)
{
    (void)self;
    walk *is = data;
    following *to = &is->of;
    g_autofree ailing *a = g_new(ailing, 1);
    gsl_rng *c = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(c, is->seed);
    g_autofree ailing_world *w = ailing_sound(is->shape, c);
    rgp_pid_gains g = ailing_gains(w);
    const double good = ailing_try(w, &g, c, a);
    g.kp *= (float)pow(10.0, 2.0 * gsl_rng_uniform(c) - 1.0);
    g.ki *= (float)pow(10.0, 2.0 * gsl_rng_uniform(c) - 1.0);
    g.kd *= (float)pow(10.0, 2.0 * gsl_rng_uniform(c) - 1.0);
    double now = ailing_try(w, &g, c, a);
    if (now > ARRIVED * good) {
        g_autofree trials *all = g_new0(trials, 1);
        to->begun++;
        add_trial(all, a, now);
        double foreseen = NAN;
        for (uint32_t trial = 1; trial <= TRIALS && now > ARRIVED * good && choose(is->how, all, c, &g, &foreseen);
             trial++) {
            const double before = now;
            now = ailing_try(w, &g, c, a);
            add_trial(all, a, now);
            to->taken++;
            to->worse += now > WORSE * before;
            to->foreseen += isfinite(foreseen);
            to->held += now <= foreseen * before;
            to->worsened += isfinite(foreseen) && now > WORSE * before;
            to->trials += now <= ARRIVED * good ? trial : 0;
        }
        to->arrived += now <= ARRIVED * good;
    }
    gsl_rng_free(c);
}

static void add_walk(following *to, const following *one)
{
    to->begun += one->begun;
    to->arrived += one->arrived;
    to->trials += one->trials;
    to->taken += one->taken;
    to->worse += one->worse;
    to->foreseen += one->foreseen;
    to->held += one->held;
    to->worsened += one->worsened;
}

static void print_walks(const char *mechanism, way how, const following *f)
{
    printf("| %s | %s | %u | %.0f %% | %.1f | %.1f %% |", mechanism, way_words[how], f->begun,
           100.0 * f->arrived / MAX(f->begun, 1u), (double)f->trials / MAX(f->arrived, 1u),
           100.0 * f->worse / MAX(f->taken, 1u));
    if (f->foreseen > 0) {
        printf(" %.0f %% | %.0f %% | %.1f %% |\n", 100.0 * f->foreseen / f->taken, 100.0 * f->held / f->foreseen,
               100.0 * f->worsened / f->foreseen);
    } else {
        puts(" | | |");
    }
}

static int follow_all(uint32_t seeds, unsigned long epoch)
{
    g_autofree walk *walks = g_new0(walk, (gsize)AILING_SHAPES * WAYS * seeds);
    GThreadPool *pool = g_thread_pool_new(follow, NULL, (gint)g_get_num_processors(), TRUE, NULL);
    for (uint32_t k = 0; k < AILING_SHAPES * WAYS * seeds; k++) {
        walk *one = &walks[k];
        one->shape = (ailing_shape)(k / seeds / WAYS);
        one->how = (way)(k / seeds % WAYS);
        one->seed = 1000003ul * (epoch + 7ul) + 7919ul * (1000ul * (unsigned long)one->shape + k % seeds);
        g_thread_pool_push(pool, one, NULL);
    }
    g_thread_pool_free(pool, FALSE, TRUE);
    puts("| mechanism | next trial by | poor beginnings | arrived | trials, on average | trials that made it "
         "worse | foreseen by a model | error at most that | worse |\n|---|---|---|---|---|---|---|---|---|");
    following all[WAYS] = {0};
    for (int shape = 0; shape < AILING_SHAPES; shape++) {
        for (int how = 0; how < WAYS; how++) {
            following sum = {0};
            for (uint32_t i = 0; i < seeds; i++) {
                add_walk(&sum, &walks[(uint32_t)(shape * WAYS + how) * seeds + i].of);
            }
            add_walk(&all[how], &sum);
            print_walks(ailing_shape_words[shape], (way)how, &sum);
        }
    }
    for (int how = 0; how < WAYS; how++) {
        print_walks("all of them", (way)how, &all[how]);
    }
    return 0;
}

int main(int argc, char **argv)
{
    rgp_numerics_go_on();
    if (argc >= 3 && strcmp(argv[1], "learn") == 0) {
        return teach((uint32_t)strtoul(argv[2], NULL, 10));
    }
    if (argc >= 4 && strcmp(argv[1], "judge") == 0) {
        return judge((uint32_t)strtoul(argv[2], NULL, 10), strtoul(argv[3], NULL, 10),
                     argc > 4 ? strtod(argv[4], NULL) : 0.0);
    }
    if (argc >= 4 && strcmp(argv[1], "follow") == 0) {
        return follow_all((uint32_t)strtoul(argv[2], NULL, 10), strtoul(argv[3], NULL, 10));
    }
    fputs("usage: evidence_diagnosis learn SEEDS | judge SEEDS EPOCH [LEAST] | follow SEEDS EPOCH\n", stderr);
    return 2;
}
