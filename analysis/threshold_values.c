/* Values that a threshold is looked for on: what was asked for, and what other stages would make of it. */
#include "threshold_parts.h"

#include <math.h>
#include <string.h>

#define BETTER 0.8 /* of the cost of what was asked for: only then a remedy is told */

static rgp_rig *compile(const rgp_rig *like, const char *text)
{
    return text ? rgp_rig_compile(like->file, text, strlen(text), NULL) : NULL;
}

rgp_rig *threshold_with(rgp_rig *rig, const char *statement)
{
    rgp_rig *made = compile(rig, rgp_edit_add(rig, statement));
    rgp_rig_free(rig);
    if (made && !made->image) {
        rgp_rig_free(made);
        made = NULL;
    }
    return made;
}

rgp_rig *threshold_copy(const rgp_rig *rig)
{
    return rgp_rig_compile(rig->file, rig->source, rig->length, NULL);
}

void threshold_add_value(value_rig *v, const char *value)
{
    g_autofree char *name = g_strdup_printf("judged_%u", v->value->len),
                    *statement = g_strdup_printf("signal %s = %s", name, value);
    rgp_rig *made = v->rig ? compile(v->rig, rgp_edit_add(v->rig, statement)) : NULL;
    if (made && made->image) {
        rgp_rig_free(v->rig);
        v->rig = made;
        g_ptr_array_add(v->value, g_strdup(value));
        g_ptr_array_add(v->name, g_steal_pointer(&name));
    } else {
        rgp_rig_free(made);
    }
}

value_rig threshold_values(const rgp_rig *rig)
{
    return (value_rig){threshold_copy(rig), g_ptr_array_new_with_free_func(g_free),
                       g_ptr_array_new_with_free_func(g_free)};
}

void threshold_clear_values(value_rig *v)
{
    rgp_rig_free(v->rig);
    g_ptr_array_unref(v->value);
    g_ptr_array_unref(v->name);
}

/* ---- what else would help -------------------------------------------------------------------------- */

typedef struct remedy_form {
    const char *format; /* of the value, its idle median with a unit, times */
    double share;       /* of the length of an event: the time */
} remedy_form;

/* %1: the value; %2: a time; %3: its median in idle time. */
static const remedy_form remedies[] = {
    {"%1 | despike 5", 0.0},
    {"%1 | smooth %2", 0.1},
    {"%1 | smooth %2", 0.3},
    {"%1 - %3 | envelope 0 ms, %2", 0.3},
    {"%1 - %3 | rms %2", 0.1},
    {"%1 - %3 | rms %2", 0.3},
    {"%1 | slope %2", 0.1},
    {"%1 | highest in %2", 0.3},
    {"%1 | lowest in %2", 0.3},
    {"%1 - (%1 | smooth %2)", 10.0},
    {"abs(%1 - (%1 | smooth %2))", 3.0},
};

static char *filled(const char *format, const char *value, const char *time, const char *median)
{
    GString *to = g_string_new(NULL);
    for (const char *c = format; *c; c++) {
        if (*c == '%') {
            c++;
            g_string_append(to, *c == '1' ? value : *c == '2' ? time : median);
        } else {
            g_string_append_c(to, *c);
        }
    }
    return g_string_free(to, FALSE);
}

static void add_remedies(const rgp_threshold_study *s, const rgp_threshold_request *r, value_rig *v)
{
    const bool simple = strpbrk(r->where->value, " |") == NULL;
    g_autofree char *value = simple ? g_strdup(r->where->value) : g_strdup_printf("(%s)", r->where->value),
                    *median = g_strdup_printf("%.6g %s", s->idle.median, r->where->unit);
    const double length = rgp_labels_event_length(s->labels), tick_ms = s->labels->tick_s * 1e3;
    for (size_t i = 0; i < G_N_ELEMENTS(remedies); i++) {
        const double ms = fmax(
            2.0 * tick_ms, rgp_trigger_round(800.0 * remedies[i].share * length, 1200.0 * remedies[i].share * length));
        g_autofree char *time = g_strdup_printf("%g ms", ms), *text = filled(remedies[i].format, value, time, median);
        threshold_add_value(v, text);
    }
}

static gint by_cost(gconstpointer a, gconstpointer b)
{
    const double x = ((const rgp_finding *)a)->cost, y = ((const rgp_finding *)b)->cost;
    return (x > y) - (x < y);
}

bool threshold_try_remedies(rgp_threshold_study *s, const rgp_threshold_request *r, GError **error)
{
    value_rig v = threshold_values(r->rig);
    add_remedies(s, r, &v);
    rgp_series *series = rgp_series_of(v.rig, (const char *const *)v.name->pdata, v.name->len, r->run, r->runs, error);
    for (guint i = 0; series && i < v.name->len; i++) {
        const choosing c = {s, series,
                            i, threshold_lies_above(s, series, i),
                            2, {-(double)INFINITY, (double)INFINITY, true, true, true}};
        rgp_trigger_widths widths = {.count = 0};
        rgp_idle_level idle;
        rgp_finding f = threshold_choose(&c, &widths, &idle);
        const int32_t slot = rgp_image_find(v.rig->image, RGP_FIND_SLOT, v.name->pdata[i]);
        const char *unit = rgp_image_unit(v.rig->image, RGP_NAME_SLOT, (uint32_t)slot, 0);
        rgp_trigger_widths_clear(&widths);
        f.value = g_strdup(v.value->pdata[i]);
        f.unit = g_intern_string(unit);
        f.margin_unit = g_strdup(strcmp(unit, r->where->unit) == 0 ? r->where->margin.unit : unit);
        g_array_append_val(s->remedy, f);
    }
    const bool done = series != NULL;
    rgp_series_free(series);
    threshold_clear_values(&v);
    g_array_sort(s->remedy, by_cost);
    while (s->remedy->len > RGP_REMEDIES_MOST ||
           (s->remedy->len > 0 &&
            g_array_index(s->remedy, rgp_finding, s->remedy->len - 1).cost > BETTER * s->chosen.cost)) {
        g_array_set_size(s->remedy, s->remedy->len - 1);
    }
    return done;
}
