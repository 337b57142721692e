/* Kinds of runs side by side. */
#include "comparison.h"

#include <gsl/gsl_statistics_double.h>
#include <math.h>
#include <string.h>

static const rgp_score *find_score(const GArray *scores, const char *name, const char *unit)
{
    for (guint i = 0; i < scores->len; i++) {
        const rgp_score *s = &g_array_index(scores, rgp_score, i);
        if (strcmp(s->name, name) == 0 && strcmp(s->unit, unit) == 0) {
            return s;
        }
    }
    return NULL;
}

/* ---- one figure ------------------------------------------------------------------------------------ */

/* True when every run of every kind has it: a figure that is not known of one run has no say. */
static bool take_values(const rgp_comparison *c, rgp_compared *is)
{
    bool positive = true, whole = true;
    for (uint32_t k = 0; k < c->kinds; k++) {
        const GPtrArray *run = c->kind[k].run;
        is->value[k] = g_new0(double, run->len + 1);
        for (guint i = 0; i < run->len; i++) {
            const rgp_score *s = find_score(run->pdata[i], is->name, is->unit);
            whole &= s != NULL;
            is->value[k][i] = s ? s->value : NAN;
            is->ranked |= s && s->never;
            positive &= s && s->positive && s->value > 0.0;
        }
    }
    is->share = positive && !is->ranked;
    return whole;
}

static bool all_the_same(const rgp_comparison *c, const rgp_compared *is)
{
    bool same = true;
    for (uint32_t k = 0; k < c->kinds; k++) {
        for (guint i = 0; i < c->kind[k].run->len; i++) {
            const double value = is->value[k][i], first = is->value[0][0];
            same &= value == first || (isnan(value) && isnan(first));
        }
    }
    return same;
}

/* As it goes into the test: the place among all runs of all kinds, the logarithm, or the value. */
static double measure(const rgp_comparison *c, const rgp_compared *is, double value)
{
    if (!is->ranked) {
        return is->share ? log(value) : value;
    }
    double below = 0.0, same = 0.0;
    for (uint32_t k = 0; k < c->kinds; k++) {
        for (guint i = 0; i < c->kind[k].run->len; i++) {
            const double other = is->value[k][i];
            below += isnan(value) ? !isnan(other) : other < value;
            same += isnan(value) ? isnan(other) : other == value;
        }
    }
    return below + 0.5 * (same + 1.0);
}

static void judge(const rgp_comparison *c, rgp_compared *is, uint32_t kind)
{
    const guint firsts = c->kind[0].run->len, seconds = c->kind[kind].run->len;
    g_autofree double *a = g_new0(double, MAX(firsts, seconds) + 1), *b = g_new0(double, seconds + 1);
    for (guint i = 0; i < firsts; i++) {
        a[i] = measure(c, is, is->value[0][i]);
    }
    for (guint i = 0; i < seconds; i++) {
        b[i] = measure(c, is, is->value[kind][i]);
        b[i] -= c->paired ? a[i] : 0.0;
    }
    is->against[kind].difference = c->paired ? rgp_paired(b, seconds) : rgp_unpaired(a, firsts, b, seconds);
    const rgp_difference *d = &is->against[kind].difference;
    const bool none = is->same || (d->mean == 0.0 && d->low == d->high);
    is->against[kind].chance = d->judged && !none ? d->chance : NAN;
}

static bool is_wanted(const rgp_score *s, char **wanted, bool all)
{
    for (char **part = wanted; part && *part; part++) {
        if (strstr(s->name, *part)) {
            return true;
        }
    }
    return !wanted && (all || s->main);
}

static void free_values(const rgp_comparison *c, const rgp_compared *is)
{
    for (uint32_t k = 0; k < c->kinds; k++) {
        g_free(is->value[k]);
    }
    g_free(is->value);
    g_free(is->against);
}

static void compare_figure(const rgp_comparison *c, const rgp_score *s)
{
    rgp_compared is = {.name = s->name, .unit = s->unit, .taste = s->taste, .main = s->main};
    is.value = g_new0(double *, c->kinds);
    is.against = g_new0(rgp_against, c->kinds);
    is.against[0].chance = NAN;
    if (!take_values(c, &is)) {
        g_ptr_array_add(c->alone, g_strdup(s->name));
        free_values(c, &is);
        return;
    }
    is.same = all_the_same(c, &is);
    for (uint32_t k = 1; k < c->kinds; k++) {
        judge(c, &is, k);
    }
    g_array_append_val(c->compared, is);
}

/* ---- all of them ----------------------------------------------------------------------------------- */

static void weigh_chances(rgp_comparison *c)
{
    const guint figures = c->compared->len;
    g_autofree double *chance = g_new(double, (gsize)figures * c->kinds + 1);
    for (guint i = 0; i < figures; i++) {
        const rgp_compared *is = &g_array_index(c->compared, rgp_compared, i);
        for (uint32_t k = 0; k < c->kinds; k++) {
            chance[i * c->kinds + k] = is->against[k].chance;
            c->questions += isnan(is->against[k].chance) ? 0u : 1u;
        }
    }
    rgp_holm(chance, figures * c->kinds);
    for (guint i = 0; i < figures; i++) {
        const rgp_compared *is = &g_array_index(c->compared, rgp_compared, i);
        for (uint32_t k = 0; k < c->kinds; k++) {
            is->against[k].chance = chance[i * c->kinds + k];
            is->against[k].differs = chance[i * c->kinds + k] < RGP_COMPARISON_CHANCE;
        }
    }
}

/* Names of figures that other kinds have and the first has not. */
static void note_others(const rgp_comparison *c, char **wanted, bool all)
{
    for (uint32_t k = 1; k < c->kinds; k++) {
        const GArray *scores = c->kind[k].run->len ? c->kind[k].run->pdata[0] : NULL;
        for (guint i = 0; scores && i < scores->len; i++) {
            const rgp_score *s = &g_array_index(scores, rgp_score, i);
            if (is_wanted(s, wanted, all) && !find_score(c->kind[0].run->pdata[0], s->name, s->unit) &&
                !g_ptr_array_find_with_equal_func(c->alone, s->name, g_str_equal, NULL)) {
                g_ptr_array_add(c->alone, g_strdup(s->name));
            }
        }
    }
}

rgp_comparison *rgp_comparison_of(const rgp_run_kind *kind, uint32_t kinds, bool paired, char **wanted, bool all)
{
    rgp_comparison *c = g_new0(rgp_comparison, 1);
    *c = (rgp_comparison){.kind = kind,
                          .kinds = kinds,
                          .paired = paired,
                          .compared = g_array_new(FALSE, TRUE, sizeof(rgp_compared)),
                          .alone = g_ptr_array_new_with_free_func(g_free)};
    const GArray *first = kind[0].run->len ? kind[0].run->pdata[0] : NULL;
    for (guint i = 0; first && i < first->len; i++) {
        const rgp_score *s = &g_array_index(first, rgp_score, i);
        if (is_wanted(s, wanted, all)) {
            compare_figure(c, s);
        }
    }
    if (first) {
        note_others(c, wanted, all);
    }
    weigh_chances(c);
    return c;
}

void rgp_comparison_free(rgp_comparison *c)
{
    if (c) {
        for (guint i = 0; i < c->compared->len; i++) {
            free_values(c, &g_array_index(c->compared, rgp_compared, i));
        }
        g_array_unref(c->compared);
        g_ptr_array_unref(c->alone);
        g_free(c);
    }
}

static guint known_values(const rgp_comparison *c, const rgp_compared *is, uint32_t kind, double *to)
{
    guint known = 0;
    for (guint i = 0; i < c->kind[kind].run->len; i++) {
        if (!isnan(is->value[kind][i])) {
            to[known++] = is->value[kind][i];
        }
    }
    return known;
}

double rgp_compared_mean(const rgp_comparison *c, const rgp_compared *is, uint32_t kind)
{
    g_autofree double *known = g_new(double, c->kind[kind].run->len + 1);
    const guint n = known_values(c, is, kind, known);
    return n > 0 ? gsl_stats_mean(known, 1, n) : NAN;
}

double rgp_compared_spread(const rgp_comparison *c, const rgp_compared *is, uint32_t kind)
{
    g_autofree double *known = g_new(double, c->kind[kind].run->len + 1);
    const guint n = known_values(c, is, kind, known);
    return n > 1 ? gsl_stats_sd(known, 1, n) : NAN;
}

uint32_t rgp_comparison_runs_needed(const rgp_comparison *c)
{
    uint32_t runs = c->paired ? RGP_PAIRS_LEAST : RGP_RUNS_LEAST;
    while ((c->paired ? rgp_paired_least(runs) : rgp_unpaired_least(runs)) * MAX(c->questions, 1u) >=
               RGP_COMPARISON_CHANCE &&
           runs < 1000u) {
        runs++;
    }
    return runs;
}
