/* A threshold found from recordings, from the labels to what can be promised. */
#include "threshold_parts.h"

#include "explain/describe.h"

#include <math.h>
#include <string.h>

#define WORTHWHILE     0.05 /* of what it would cost to miss all: a remedy is looked for from there on */
#define BLOCKS_ENOUGH  40.0 /* more of them would only lose time at their borders */
#define GAP_S          0.5  /* besides what idle time remembers: for a width and a holdoff */
#define BLOCK_MEMORIES 10.0 /* a block is so many times as long as idle time remembers */

static void clear_finding(void *data)
{
    rgp_finding *f = data;
    g_free(f->value);
    g_free(f->margin_unit);
}

bool threshold_split(rgp_threshold_study *s, bool above, GError **error)
{
    const double memory = rgp_idle_memory(s->series, 0, s->labels, above);
    s->block_s = fmax(RGP_BLOCK_LEAST_S, BLOCK_MEMORIES * memory);
    const double enough_s = s->labels->by_recording ? 0.0 : rgp_labels_idle_s(s->labels) / BLOCKS_ENOUGH;
    rgp_labels_split(s->labels, fmax(s->block_s, enough_s), s->block_s, memory + GAP_S);
    if (s->labels->block->len < 2) {
        g_autoptr(GString) block = g_string_new(NULL);
        rgp_describe_span(s->block_s, block);
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL,
                    "no two blocks of %s fit into '%s', one to choose by and one to judge by; record more of it",
                    block->str, s->labels->idle_name);
        return false;
    }
    return true;
}

static void take_present(rgp_threshold_study *s, const rgp_threshold_request *r)
{
    const rgp_threshold *w = r->where;
    s->present = (rgp_finding){.value = g_strdup(w->value),
                               .unit = w->unit,
                               .margin_unit = g_strdup(w->margin.unit),
                               .trigger = {w->above, (float)w->limit.value, (float)w->margin.value,
                                           (float)w->width.value, (float)w->holdoff.value},
                               .level = 0.95,
                               .dispersion = 1.0};
}

static rgp_trigger_range range_of(const rgp_threshold_request *r)
{
    const rgp_threshold *w = r->where;
    return r->written ? (rgp_trigger_range){w->low, w->high, w->width.open, w->margin.open, w->holdoff.open}
                      : (rgp_trigger_range){w->low, w->high, true, true, true};
}

/* The value that is asked for, by the present text; NULL with *error. */
static rgp_series *replayed(const rgp_threshold_request *r, GError **error)
{
    value_rig v = threshold_values(r->rig);
    threshold_add_value(&v, r->where->value);
    rgp_series *series = NULL;
    if (v.name->len == 1) {
        series = rgp_series_of(v.rig, (const char *const *)v.name->pdata, 1, r->run, r->runs, error);
    } else {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "'%s' is no value that can be held against a limit",
                    r->where->value);
    }
    threshold_clear_values(&v);
    return series;
}

static bool choose_main(rgp_threshold_study *s, const rgp_threshold_request *r, GError **error)
{
    s->series = rgp_series_recorded(r->rig, r->where->value, r->run, r->runs);
    if (!s->series) {
        s->series = replayed(r, error);
    }
    s->says = g_strdup(s->series ? s->series->says : "");
    const bool above = s->series && (r->written ? r->where->above : threshold_lies_above(s, s->series, 0));
    if (!s->series || !threshold_split(s, above, error)) {
        return false;
    }
    const choosing c = {s, s->series, 0, above, 1, range_of(r)};
    s->chosen = threshold_choose(&c, &s->widths, &s->idle);
    s->chosen.value = g_strdup(r->where->value);
    s->chosen.unit = r->where->unit;
    s->chosen.margin_unit = g_strdup(r->where->margin.unit);
    return true;
}

rgp_threshold_study *rgp_threshold_study_of(const rgp_threshold_request *r, GError **error)
{
    rgp_labels *labels = rgp_labels_of(r->run, r->runs, r->idle, r->event, error);
    if (!labels) {
        return NULL;
    }
    rgp_threshold_study *s = g_malloc0(sizeof *s);
    *s = (rgp_threshold_study){.labels = labels,
                               .cost = r->cost,
                               .remedy = g_array_new(FALSE, TRUE, sizeof(rgp_finding)),
                               .firings = g_ptr_array_new_with_free_func((GDestroyNotify)g_array_unref),
                               .refusal = g_ptr_array_new_with_free_func(g_free)};
    g_array_set_clear_func(s->remedy, clear_finding);
    if (r->written) {
        take_present(s, r);
    }
    if (!choose_main(s, r, error)) {
        rgp_threshold_study_free(s);
        return NULL;
    }
    const double all_missed = r->cost.of_miss * r->cost.events_an_hour;
    const bool can_be_better = s->chosen.cost > WORTHWHILE * all_missed;
    if ((r->remedies && can_be_better && !threshold_try_remedies(s, r, error)) || !threshold_judge(s, r, error)) {
        rgp_threshold_study_free(s);
        return NULL;
    }
    threshold_doubt(s, r);
    return s;
}

void rgp_threshold_study_free(rgp_threshold_study *s)
{
    if (s) {
        rgp_trigger_widths_clear(&s->widths);
        rgp_series_free(s->series);
        rgp_labels_free(s->labels);
        clear_finding(&s->chosen);
        clear_finding(&s->present);
        g_array_unref(s->remedy);
        g_ptr_array_unref(s->firings);
        g_ptr_array_unref(s->refusal);
        g_free(s->says);
        g_free(s);
    }
}
