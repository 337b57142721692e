/* The advice followed without thinking, from gains that are far off, beside trials by chance and by a rule of thumb.
 * Prints a table in Markdown.
 *
 * Usage: evidence_following SEEDS EPOCH */
#include "ailing.h"

#include "analysis/numerics.h"
#include "analysis/trials.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

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
    all->tried[i] = (rgp_tried){i + 1u, ailing_run(a, &all->pid[i]), &all->found[i], error};
    rgp_diagnose(&all->tried[i].run, &all->found[i]);
}

/* The error that is foretold at most, in that of the last trial; NAN: none is. */
static double foretold(const char *says)
{
    const char *at = strstr(says, "at most ");
    return at && !strstr(says, "from there") ? strtod(at + strlen("at most "), NULL) / 100.0 : (double)NAN;
}

/* False: there is none. */
static bool choose(way how, const trials *all, gsl_rng *c, rgp_pid_config *pid, double *foreseen)
{
    static const rgp_trial_names names = {"", {"kp", "ki", "kd"}, {1.0f, 1.0f, 1.0f}};
    if (how == BY_ADVICE) {
        g_autoptr(GString) says = g_string_new(NULL);
        g_autofree char *next = rgp_trials_say(all->tried, all->count, &names, says);
        if (next) {
            rgp_trial_take(next, &names, pid);
        }
        *foreseen = foretold(says->str);
        return next != NULL;
    }
    const bool swings = isfinite(all->found[all->count - 1].period);
    const float by = how == BY_CHANCE ? (gsl_rng_uniform(c) < 0.5 ? 0.7f : 1.4f) : swings ? 0.7f : 1.4f;
    float *const gain[] = {&pid->gain.kp, &pid->gain.ki, &pid->gain.kd};
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
    rgp_pid_config pid = ailing_pid(w);
    rgp_pid_gains *g = &pid.gain;
    const double good = ailing_try(w, &pid, c, a);
    g->kp *= (float)pow(10.0, 2.0 * gsl_rng_uniform(c) - 1.0);
    g->ki *= (float)pow(10.0, 2.0 * gsl_rng_uniform(c) - 1.0);
    g->kd *= (float)pow(10.0, 2.0 * gsl_rng_uniform(c) - 1.0);
    double now = ailing_try(w, &pid, c, a);
    if (now > ARRIVED * good) {
        g_autofree trials *all = g_new0(trials, 1);
        to->begun++;
        add_trial(all, a, now);
        double foreseen = NAN;
        for (uint32_t trial = 1; trial <= TRIALS && now > ARRIVED * good && choose(is->how, all, c, &pid, &foreseen);
             trial++) {
            const double before = now;
            now = ailing_try(w, &pid, c, a);
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
    if (argc >= 3) {
        return follow_all((uint32_t)strtoul(argv[1], NULL, 10), strtoul(argv[2], NULL, 10));
    }
    fputs("usage: evidence_following SEEDS EPOCH\n", stderr);
    return 2;
}
