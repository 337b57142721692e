/* Findings judged: rules of them run by the engine over what was held out. */
#include "threshold_parts.h"

#include <string.h>

static void put_quantity(GString *to, double number, const char *unit)
{
    g_string_append_printf(to, "%.6g%s%s", number, *unit ? " " : "", unit);
}

char *rgp_finding_rule(const rgp_finding *f)
{
    const rgp_trigger *t = &f->trigger;
    GString *to = g_string_new(NULL);
    g_string_append_printf(to, "on %s %s%s ", f->value, t->width_s > 0.0f ? "" : "goes ", t->above ? "above" : "below");
    put_quantity(to, (double)t->limit, f->unit);
    if (t->margin > 0.0f) {
        g_string_append(to, ", margin ");
        put_quantity(to, (double)t->margin, f->margin_unit);
    }
    if (t->width_s > 0.0f) {
        g_string_append_printf(to, " for %.6g ms", (double)t->width_s * 1e3);
    }
    return g_string_free(to, FALSE);
}

static char *mark_of(guint which)
{
    return g_strdup_printf("\n    mark \"judged %u\"", which);
}

static uint32_t line_at(const char *text, const char *at)
{
    uint32_t line = 1;
    for (; text < at; text++) {
        line += *text == '\n';
    }
    return line;
}

/* The rule whose second line marks that it is judged; -1: none. */
static int32_t rule_of(const rgp_rig *rig, guint which)
{
    g_autofree char *mark = mark_of(which);
    const char *at = strstr(rig->source, mark);
    for (uint32_t i = 0; at && i < rgp_image_count(rig->image, RGP_SECTION_RULES); i++) {
        if (rgp_image_name_of(rig->image, RGP_NAME_RULE, i, 0)->line == line_at(rig->source, at)) {
            return (int32_t)i;
        }
    }
    return -1;
}

static void judge_one(const rgp_threshold_study *s, GArray *const *rows, rgp_finding *f)
{
    f->judged = rgp_tally_of(s->labels, s->series, 0, rows, (double)f->trigger.holdoff_s, true);
    if (f == &s->present && s->labels->each_event) { /* it was not chosen by any of them */
        const rgp_tally all = rgp_tally_of(s->labels, s->series, 0, rows, (double)f->trigger.holdoff_s, false);
        f->events = all.events;
        f->missed = all.missed;
        f->judged.doubled = all.doubled;
    } else if (!s->labels->each_event) {
        f->events = f->judged.events;
        f->missed = f->judged.missed;
    }
    f->false_rate =
        rgp_rate_interval(f->judged.falses / f->dispersion, f->judged.exposure_s / 3600.0 / f->dispersion, f->level);
    f->missed_share = rgp_share_interval(f->missed, f->events, f->level);
}

/* All of them in one run of the engine. */
static bool judge_all(rgp_threshold_study *s, const rgp_threshold_request *r, rgp_finding **all, guint count,
                      GError **error)
{
    rgp_rig *rig = threshold_copy(r->rig);
    g_autofree char *line = NULL;
    for (guint i = 0; rig && i < count; i++) {
        const double holdoff_ms = (double)all[i]->trigger.holdoff_s * 1e3;
        g_autofree char *mark = mark_of(i), *holdoff = holdoff_ms > 0.0
                                                           ? g_strdup_printf("\n    holdoff %.6g ms", holdoff_ms)
                                                           : g_strdup("");
        g_free(line);
        line = rgp_finding_rule(all[i]);
        g_autofree char *statement = g_strconcat(line, mark, holdoff, NULL);
        rig = threshold_with(rig, statement);
    }
    GPtrArray *firings = rig ? rgp_series_firings(rig, r->run, r->runs, error) : NULL;
    if (!rig) {
        g_set_error(error, G_FILE_ERROR, G_FILE_ERROR_INVAL, "the language does not take '%s'", line);
    }
    const uint32_t rules = rig ? rgp_image_count(rig->image, RGP_SECTION_RULES) : 0;
    for (guint i = 0; firings && i < count; i++) {
        const int32_t rule = rule_of(rig, i);
        g_autofree GArray **rows = g_malloc_n(r->runs, sizeof *rows);
        for (guint run = 0; run < r->runs; run++) {
            rows[run] = firings->pdata[(gsize)run * rules + (guint)rule];
            if (all[i] == &s->chosen) {
                g_ptr_array_add(s->firings, g_array_ref(rows[run]));
            }
        }
        judge_one(s, rows, all[i]);
    }
    const bool done = firings != NULL;
    if (firings) {
        g_ptr_array_unref(firings);
    }
    rgp_rig_free(rig);
    return done;
}

bool threshold_judge(rgp_threshold_study *s, const rgp_threshold_request *r, GError **error)
{
    rgp_finding *all[RGP_REMEDIES_MOST + 2];
    guint count = 0;
    all[count++] = &s->chosen;
    if (s->present.value) {
        all[count++] = &s->present;
    }
    for (guint i = 0; i < s->remedy->len; i++) {
        all[count++] = &g_array_index(s->remedy, rgp_finding, i);
    }
    for (guint i = 0; i < count; i++) {
        all[i]->level = 1.0 - 0.05 / (s->remedy->len + 1); /* all that are chosen among hold together */
    }
    s->present.level = 0.95;
    return judge_all(s, r, all, count, error);
}
