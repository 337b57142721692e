/* rigpulse compare: figures beside each other, as lines and as JSON. */
#include "compare.h"

#include "explain/describe.h"
#include "rigpulse/lang.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define NAME_LETTERS 26

static char letter(uint32_t kind)
{
    return (char)('A' + kind % NAME_LETTERS);
}

static char *number(double value, const char *unit)
{
    GString *text = g_string_new(NULL);
    rgp_describe_number(value, unit, text);
    return g_string_free(text, FALSE);
}

/* ---- one figure ------------------------------------------------------------------------------------ */

/* "59.3 K*s ±1.2", "5 of 8 came there, 12 s". */
static void print_kind(const rgp_comparison *c, const rgp_compared *is, uint32_t kind)
{
    const guint runs = c->kind[kind].run->len;
    guint came = 0;
    for (guint i = 0; i < runs; i++) {
        came += isnan(is->value[kind][i]) ? 0u : 1u;
    }
    const double spread = rgp_compared_spread(c, is, kind);
    g_autofree char *mean = number(rgp_compared_mean(c, is, kind), is->unit);
    printf("  %c  ", letter(kind));
    if (is->ranked && came < runs) {
        printf("%u of %u%s", came, runs, came ? ", " : "");
    }
    printf("%s", came ? mean : "");
    if (came > 1 && spread > 0.0) {
        printf(" \302\261%.2g", spread);
    }
}

/* The words for a difference that is one. */
static const char *verdict(const rgp_compared *is, const rgp_difference *d)
{
    return is->taste == RGP_SCORE_LESS ? d->mean < 0.0 ? "better" : "worse" : d->mean < 0.0 ? "less" : "more";
}

/* A sign that rounding alone has made is none. */
static char *with_sign(double value)
{
    return fabs(value) < 1e-9     ? g_strdup("0")
           : fabs(value) < 1000.0 ? g_strdup_printf("%+.3g", value)
                                  : g_strdup_printf("%+.0f", value);
}

/* Of a difference of logarithms, the share of the first one in percent. */
static double as_shown(const rgp_compared *is, double difference)
{
    return is->share ? 100.0 * expm1(difference) : difference;
}

static void print_size(const rgp_compared *is, const rgp_difference *d)
{
    if (is->ranked) {
        return; /* a difference of places says nothing to a person */
    }
    g_autofree char *mean = with_sign(as_shown(is, d->mean)), *low = with_sign(as_shown(is, d->low)),
                    *high = with_sign(as_shown(is, d->high));
    const char *unit = is->share ? "%" : strcmp(is->unit, "%") == 0 ? "points" : is->unit;
    printf(*unit ? ", %s %s" : ", %s%s", mean, unit);
    if (d->judged) {
        printf(" (%s to %s)", low, high);
    }
}

static void print_against(const rgp_compared *is, uint32_t kind)
{
    const rgp_against *a = &is->against[kind];
    if (a->difference.mean == 0.0 && a->difference.low == a->difference.high) {
        printf(", the same");
        return;
    }
    print_size(is, &a->difference);
    if (a->difference.judged) {
        printf(a->differs ? ": %s (p %.2g)" : ": no difference seen", verdict(is, &a->difference), a->chance);
    }
}

static void print_figure(const rgp_comparison *c, const rgp_compared *is)
{
    puts(is->name);
    for (uint32_t k = 0; k < c->kinds; k++) {
        print_kind(c, is, k);
        if (k > 0) {
            print_against(is, k);
        }
        putchar('\n');
    }
}

/* ---- the whole ------------------------------------------------------------------------------------- */

static void print_head(const compare_what *w, const rgp_comparison *c)
{
    for (uint32_t k = 0; k < c->kinds; k++) {
        const guint runs = c->kind[k].run->len;
        printf("%c  %s, %u %s\n", letter(k), c->kind[k].name, runs, runs == 1 ? "run" : "runs");
    }
    const char *why;
    double seconds;
    if (w->options->from && !rgp_quantity_parse(w->options->from, "s", &seconds, &why)) {
        printf("in each run from '%s' on", w->options->from);
    } else {
        printf("from %g to %g s", w->from_s, w->to_s);
    }
    puts(c->paired ? "; run by run with the same seed, so with the same noise and disturbances" : "");
    fputs(w->says->str, stdout);
    putchar('\n');
}

/* "C is better than A at: steam IAE, steam peak." */
static void print_verdict(const rgp_comparison *c, uint32_t kind, bool better)
{
    g_autoptr(GString) at = g_string_new(NULL);
    for (guint i = 0; i < c->compared->len; i++) {
        const rgp_compared *is = &g_array_index(c->compared, rgp_compared, i);
        const bool is_better = is->against[kind].difference.mean < 0.0;
        if (is->against[kind].differs && is->taste == RGP_SCORE_LESS && is_better == better) {
            g_string_append_printf(at, "%s%s", at->len ? ", " : "", is->name);
        }
    }
    if (at->len) {
        printf("%c is %s than A at: %s\n", letter(kind), better ? "better" : "worse", at->str);
    }
}

/* The doubt: how much the runs can bear. */
static void print_doubt(const rgp_comparison *c)
{
    guint fewest = c->kind[0].run->len;
    for (uint32_t k = 1; k < c->kinds; k++) {
        fewest = MIN(fewest, c->kind[k].run->len);
    }
    const guint needed = rgp_comparison_runs_needed(c);
    if (c->questions == 0 && fewest < needed) {
        printf(fewest == 1
                   ? "One run of each: how much runs differ by themselves is not known; %u of each would tell.\n"
                   : "Too few runs to tell a difference from chance: %u of each are needed.\n",
               needed);
        return;
    }
    printf(
        "\302\261: the standard deviation among runs of a kind. In brackets: 19 of 20 intervals. p: of a difference as "
        "great by chance, among all %u questions together (Holm, 1979).\n",
        c->questions);
    if (fewest < needed) {
        printf("With so many questions no difference can be told from chance by %u runs of each: take %u, or fewer "
               "figures (--figure).\n",
               fewest, needed);
    }
}

void compare_print(const compare_what *w, const rgp_comparison *c)
{
    print_head(w, c);
    g_autoptr(GString) same = g_string_new(NULL);
    for (guint i = 0; i < c->compared->len; i++) {
        const rgp_compared *is = &g_array_index(c->compared, rgp_compared, i);
        if (is->same) {
            g_string_append_printf(same, "%s%s", same->len ? ", " : "the same in all runs: ", is->name);
        } else {
            print_figure(c, is);
        }
    }
    if (same->len) {
        puts(same->str);
    }
    putchar('\n');
    for (uint32_t k = 1; k < c->kinds; k++) {
        print_verdict(c, k, true);
        print_verdict(c, k, false);
    }
    print_doubt(c);
    for (guint i = 0; i < c->alone->len; i++) {
        printf("%s%s%s", i ? ", " : "not known of all of them: ", (const char *)c->alone->pdata[i],
               i + 1 == c->alone->len ? "\n" : "");
    }
}

/* ---- for a program --------------------------------------------------------------------------------- */

static json_t *real_or_null(double value)
{
    return isfinite(value) ? json_real(value) : json_null();
}

static json_t *against_json(const rgp_compared *is, uint32_t kind)
{
    const rgp_against *a = &is->against[kind];
    const rgp_difference *d = &a->difference;
    if (!d->judged) {
        return json_pack("{s:o, s:b}", "difference", real_or_null(d->mean), "judged", 0);
    }
    return json_pack("{s:o, s:o, s:o, s:f, s:o, s:b, s:b}", "difference", real_or_null(d->mean), "low",
                     real_or_null(d->low), "high", real_or_null(d->high), "chance", d->chance, "among_all",
                     real_or_null(a->chance), "judged", 1, "differs", (int)a->differs);
}

static json_t *figure_json(const rgp_comparison *c, const rgp_compared *is)
{
    json_t *kinds = json_array();
    for (uint32_t k = 0; k < c->kinds; k++) {
        json_t *values = json_array();
        for (guint i = 0; i < c->kind[k].run->len; i++) {
            json_array_append_new(values, real_or_null(is->value[k][i]));
        }
        json_t *kind = json_pack("{s:o}", "values", values);
        if (k > 0) {
            json_object_set_new(kind, "against_first", against_json(is, k));
        }
        json_array_append_new(kinds, kind);
    }
    return json_pack("{s:s, s:s, s:s, s:b, s:o}", "figure", is->name, "unit", is->unit, "difference_of",
                     is->ranked  ? "ranks"
                     : is->share ? "logarithms"
                                 : "values",
                     "less_is_better", is->taste == RGP_SCORE_LESS, "kinds", kinds);
}

void compare_print_json(const compare_what *w, const rgp_comparison *c)
{
    json_t *kinds = json_array(), *figures = json_array();
    for (uint32_t k = 0; k < c->kinds; k++) {
        json_array_append_new(kinds,
                              json_pack("{s:s, s:i}", "name", c->kind[k].name, "runs", (int)c->kind[k].run->len));
    }
    for (guint i = 0; i < c->compared->len; i++) {
        json_array_append_new(figures, figure_json(c, &g_array_index(c->compared, rgp_compared, i)));
    }
    command_print_json(json_pack("{s:o, s:b, s:f, s:f, s:i, s:o}", "kinds", kinds, "paired", (int)c->paired, "from",
                                 w->from_s, "to", w->to_s, "questions", (int)c->questions, "figures", figures));
}
