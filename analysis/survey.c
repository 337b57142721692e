/* Cells and worlds: each a simulated run, of which one figure is kept. */
#include "survey.h"

#include "scores.h"
#include "simulated_runs.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <stdlib.h>
#include <string.h>

/* ---- the figure ------------------------------------------------------------------------------------ */

/* "time VALUE above LIMIT". */
typedef struct beyond {
    char *value;
    bool above;
    double limit;
} beyond;

static bool is_beyond(const char *figure)
{
    return g_str_has_prefix(figure, "time ") && (strstr(figure, " above ") || strstr(figure, " below "));
}

/* Of a rig that has been compiled; the value's name is to be freed. */
static bool read_beyond(const rgp_image_header *image, const char *figure, beyond *to, GError **error)
{
    g_auto(GStrv) word = g_strsplit(figure + strlen("time "), " ", 3);
    const int32_t slot = word[0] && word[1] && word[2] ? rgp_image_find(image, RGP_FIND_SLOT, word[0]) : -1;
    const char *why = "write time VALUE above LIMIT, as in 'time depth above 7 cm'";
    if (slot < 0 || !(strcmp(word[1], "above") == 0 || strcmp(word[1], "below") == 0) ||
        !rgp_quantity_parse(word[2], rgp_image_unit(image, RGP_NAME_SLOT, (uint32_t)slot, 0), &to->limit, &why)) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "'%s': %s", figure,
                    slot < 0 && word[0] && word[1] && word[2] ? "there is no such value" : why);
        return false;
    }
    to->above = strcmp(word[1], "above") == 0;
    to->value = g_strdup(word[0]);
    return true;
}

bool rgp_survey_checks(const rgp_survey_ask *ask, const rgp_rig *rig, GError **error)
{
    beyond b = {NULL};
    const bool sound = !is_beyond(ask->figure) || read_beyond(rig->image, ask->figure, &b, error);
    g_free(b.value);
    return sound;
}

static double seconds_beyond(const rgp_history *h, const beyond *b, uint64_t from_us)
{
    const rgp_image_header *image = rgp_history_image(h);
    const int32_t column = rgp_history_slot(h, (uint32_t)rgp_image_find(image, RGP_FIND_SLOT, b->value));
    uint32_t rows = 0;
    for (uint64_t row = rgp_history_find(h, from_us); column >= 0 && row < rgp_history_end(h); row++) {
        const double value = (double)rgp_history_value(h, (uint32_t)column, row);
        rows += rgp_usable(rgp_history_quality(h, (uint32_t)column, row)) &&
                (b->above ? value > b->limit : value < b->limit);
    }
    return rows * (image->tick_us / 1e6);
}

/* ---- runs ------------------------------------------------------------------------------------------ */

typedef struct one_run {
    const rgp_survey_ask *ask;
    double *to; /* where its figure goes */
    bool *done;
    const char *unit; /* interned; NULL: it has no such figure */
    char **set;
    bool missing;
    GString *names; /* of all figures, where they are asked for; else NULL */
} one_run;

static void take_score(one_run *one, rgp_history *h)
{
    GArray *scores = rgp_scores_of(h, (uint64_t)(one->ask->from_s * 1e6), UINT64_MAX, true);
    one->missing = true;
    for (guint i = 0; i < scores->len; i++) {
        const rgp_score *s = &g_array_index(scores, rgp_score, i);
        if (one->names) {
            g_string_append_printf(one->names, "%s\n", s->name);
        } else if (strcmp(s->name, one->ask->figure) == 0) {
            *one->to = s->never ? (double)NAN : s->value;
            one->unit = g_intern_string(s->unit);
            one->missing = false;
        }
    }
    g_array_unref(scores);
}

/* In the thread of the run. */
static void take(void *self, rgp_history *h)
{
    one_run *one = self;
    beyond b;
    if (!one->names && is_beyond(one->ask->figure)) {
        if (read_beyond(rgp_history_image(h), one->ask->figure, &b, NULL)) {
            *one->to = seconds_beyond(h, &b, (uint64_t)(one->ask->from_s * 1e6));
            one->unit = g_intern_string("s");
            g_free(b.value);
        }
    } else {
        take_score(one, h);
    }
    if (one->done) {
        *one->done = true;
    }
}

static char **settings_of(const rgp_survey_ask *ask, const double *at)
{
    g_autoptr(GPtrArray) all = g_ptr_array_new();
    for (char **one = ask->set; one && *one; one++) {
        g_ptr_array_add(all, g_strdup(*one));
    }
    for (uint32_t i = 0; i < ask->axes; i++) {
        g_ptr_array_add(all, g_strdup_printf("%s=%.9g %s", ask->axis[i].name, at[i], ask->axis[i].unit));
    }
    g_ptr_array_add(all, NULL);
    return (char **)g_ptr_array_free(g_steal_pointer(&all), FALSE);
}

char *rgp_survey_figures(const rgp_survey_ask *ask, GError **error)
{
    double none;
    one_run one = {.ask = ask, .to = &none, .names = g_string_new(NULL)};
    const rgp_run_ask run = {.path = ask->path,
                             .text = ask->text,
                             .set = ask->set,
                             .seed = 1,
                             .length_us = (uint64_t)(ask->length_s * 1e6),
                             .self = &one};
    const bool done = rgp_simulated_runs(&run, 1, take, NULL, NULL, error);
    return g_string_free(one.names, !done);
}

/* ---- cells ----------------------------------------------------------------------------------------- */

static double value_at(const rgp_survey_axis *axis, uint32_t i)
{
    return axis->low + (axis->high - axis->low) * i / (axis->values - 1);
}

static rgp_survey *new_survey(const rgp_survey_ask *ask)
{
    rgp_survey *s = g_malloc0(sizeof *s);
    const uint32_t across = ask->axes > 0 ? ask->axis[0].values : 1;
    s->ask = ask;
    s->cells = across * (ask->axes > 1 ? ask->axis[1].values : 1);
    s->cell = g_malloc0_n(s->cells, sizeof *s->cell);
    for (uint32_t i = 0; i < s->cells; i++) {
        s->cell[i].at[0] = ask->axes > 0 ? value_at(&ask->axis[0], i % across) : 0.0;
        s->cell[i].at[1] = ask->axes > 1 ? value_at(&ask->axis[1], i / across) : 0.0;
        s->cell[i].figure = g_malloc0_n(ask->worlds, sizeof(double));
    }
    return s;
}

/* Those that were run come to the front; NAN goes behind all others. */
static void sum_up(const rgp_survey_ask *ask, rgp_survey_cell *cell, const bool *done)
{
    g_autofree double *known = g_malloc_n(ask->worlds, sizeof *known);
    size_t n = 0;
    for (uint32_t i = 0; i < ask->worlds; i++) {
        if (done[i]) {
            cell->done++;
            cell->never += isnan(cell->figure[i]) != 0;
            known[n] = ask->more ? -cell->figure[i] : cell->figure[i];
            n += isnan(cell->figure[i]) ? 0u : 1u;
        }
    }
    gsl_sort(known, 1, n);
    const double sign = ask->more ? -1.0 : 1.0;
    const size_t middle = (cell->done - 1) / 2; /* of an even number the better one of the two in the middle */
    cell->median = cell->done == 0 || middle >= n ? (double)NAN : sign * known[middle];
    cell->worst = cell->never > 0 || n == 0 ? (double)NAN : sign * known[n - 1];
}

typedef struct all_runs {
    one_run *one;
    rgp_run_ask *ask;
    bool *done;
    uint32_t count;
} all_runs;

static all_runs prepare(const rgp_survey *s)
{
    const rgp_survey_ask *ask = s->ask;
    const uint32_t count = s->cells * ask->worlds;
    all_runs all = {.one = g_malloc0_n(count, sizeof *all.one),
                    .ask = g_malloc0_n(count, sizeof *all.ask),
                    .done = g_malloc0_n(count, sizeof *all.done),
                    .count = count};
    for (uint32_t i = 0; i < count; i++) {
        const uint32_t cell = i / ask->worlds, world = i % ask->worlds;
        all.one[i] = (one_run){.ask = ask, .to = &s->cell[cell].figure[world], .done = &all.done[i]};
        all.one[i].set = settings_of(ask, s->cell[cell].at);
        all.ask[i] = (rgp_run_ask){.path = ask->path,
                                   .text = ask->text,
                                   .set = all.one[i].set,
                                   .seed = world + 1u,
                                   .length_us = (uint64_t)(ask->length_s * 1e6),
                                   .off = world > 0 ? ask->off : 0.0,
                                   .self = &all.one[i]};
    }
    return all;
}

static void clear_runs(all_runs *all)
{
    for (uint32_t i = 0; i < all->count; i++) {
        g_strfreev(all->one[i].set);
    }
    g_free(all->one);
    g_free(all->ask);
    g_free(all->done);
}

static bool take_all(rgp_survey *s, const all_runs *all, GError **error)
{
    uint32_t done = 0;
    for (uint32_t i = 0; i < all->count; i++) {
        done += all->done[i];
        s->unit = all->one[i].unit ? all->one[i].unit : s->unit;
        if (all->done[i] && all->one[i].missing) {
            g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "a run has no figure '%s'", s->ask->figure);
            return false;
        }
    }
    for (uint32_t i = 0; i < s->cells; i++) {
        sum_up(s->ask, &s->cell[i], &all->done[i * s->ask->worlds]);
        s->whole += s->cell[i].done == s->ask->worlds;
    }
    s->stopped = done < all->count;
    return true;
}

rgp_survey *rgp_survey_of(const rgp_survey_ask *ask, bool (*progress)(void *self, uint32_t done), void *self,
                          GError **error)
{
    rgp_survey *s = new_survey(ask);
    all_runs all = prepare(s);
    const bool sound = rgp_simulated_runs(all.ask, all.count, take, progress, self, error) && take_all(s, &all, error);
    clear_runs(&all);
    if (!sound) {
        rgp_survey_free(s);
        return NULL;
    }
    return s;
}

void rgp_survey_free(rgp_survey *s)
{
    if (s) {
        for (uint32_t i = 0; i < s->cells; i++) {
            g_free(s->cell[i].figure);
        }
        g_free(s->cell);
        g_free(s);
    }
}

/* ---- the best -------------------------------------------------------------------------------------- */

static int compare_figures(double a, double b, bool more)
{
    if (isnan(a) || isnan(b)) {
        return (isnan(a) != 0) - (isnan(b) != 0);
    }
    return more ? (a < b) - (a > b) : (a > b) - (a < b);
}

static gint by_worst(gconstpointer a, gconstpointer b, gpointer self)
{
    const rgp_survey *s = self;
    const rgp_survey_cell *x = &s->cell[*(const uint32_t *)a], *y = &s->cell[*(const uint32_t *)b];
    const bool x_whole = x->done == s->ask->worlds, y_whole = y->done == s->ask->worlds;
    const int worst = compare_figures(x->worst, y->worst, s->ask->more),
              median = compare_figures(x->median, y->median, s->ask->more),
              never = (x->never > y->never) - (x->never < y->never);
    return x_whole != y_whole ? y_whole - x_whole : worst != 0 ? worst : never != 0 ? never : median;
}

uint32_t *rgp_survey_order(const rgp_survey *s)
{
    uint32_t *order = g_malloc_n(s->cells, sizeof *order);
    for (uint32_t i = 0; i < s->cells; i++) {
        order[i] = i;
    }
    g_qsort_with_data(order, (gint)s->cells, sizeof *order, by_worst, (gpointer)s);
    return order;
}
