/* A threshold and what is promised of it, in words and as JSON. */
#include "threshold.h"

#include "explain/describe.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

/* ---- words ----------------------------------------------------------------------------------------- */

void threshold_put(GString *to, const rgp_finding *f)
{
    const rgp_trigger *t = &f->trigger;
    g_string_append_printf(to, "%s %s ", f->value, t->above ? "above" : "below");
    rgp_describe_number((double)t->limit, f->unit, to);
    if (t->margin > 0.0f) {
        g_string_append(to, ", margin ");
        rgp_describe_number((double)t->margin, f->margin_unit, to);
    }
    if (t->width_s > 0.0f) {
        g_string_append(to, ", for ");
        rgp_describe_span((double)t->width_s, to);
    }
    if (t->holdoff_s > 0.0f) {
        g_string_append(to, ", holdoff ");
        rgp_describe_span((double)t->holdoff_s, to);
    }
}

static void put_false(GString *to, const rgp_threshold_study *s, const rgp_finding *f)
{
    g_string_append_printf(to, "  false    %u in ", f->judged.falses);
    rgp_describe_span(f->judged.exposure_s, to);
    g_string_append_printf(to, " of '%s' that did not choose: ", s->labels->idle_name);
    if (f->judged.falses > 0) {
        rgp_describe_estimate(f->false_rate.low, to);
        g_string_append(to, " to ");
    } else {
        g_string_append(to, "at most ");
    }
    rgp_describe_estimate(f->false_rate.high, to);
    g_string_append(to, " an hour");
    if (f->dispersion > 1.05) {
        g_string_append_printf(to, ", widened by %.2g for clumps", f->dispersion);
    }
    g_string_append(to, " (Garwood 1936)\n");
}

static void put_missed(GString *to, const rgp_threshold_study *s, const rgp_finding *f)
{
    g_string_append_printf(to, "  missed   %u of %u%s: ", f->missed, f->events,
                           !s->labels->each_event || f == &s->present ? "" : ", each left out in turn");
    if (f->missed > 0) {
        g_string_append_printf(to, "%.2g to %.3g %%", 100.0 * f->missed_share.low, 100.0 * f->missed_share.high);
    } else {
        g_string_append_printf(to, "at most %.3g %%", 100.0 * f->missed_share.high);
    }
    g_string_append(to, " (Clopper and Pearson 1934)\n");
    if (f->judged.doubled > 0) {
        g_string_append_printf(to, "  twice    %u of those caught fired more than once\n", f->judged.doubled);
    }
}

static void put_judged(GString *to, const rgp_threshold_study *s, const rgp_finding *f)
{
    put_false(to, s, f);
    put_missed(to, s, f);
}

static void put_chosen(GString *to, const rgp_threshold_study *s)
{
    const rgp_finding *f = &s->chosen;
    threshold_put(to, f);
    g_string_append_c(to, '\n');
    put_judged(to, s, f);
    g_string_append_printf(to, "  overlap  %.2g %% (area under the curve %.3f)\n", 100.0 * (1.0 - f->area), f->area);
    if (f->fires_again_s > (double)f->trigger.holdoff_s && f->trigger.holdoff_s > 0.0f) {
        g_string_append(to, "  this event fires again for ");
        rgp_describe_span(f->fires_again_s, to);
        g_string_append(to, ", and the next one may come after ");
        rgp_describe_span(rgp_labels_event_spacing(s->labels), to);
        g_string_append_c(to, '\n');
    }
}

static void put_present(GString *to, const rgp_threshold_study *s, const rgp_threshold_request *r)
{
    if (s->present.value) {
        g_string_append_printf(to, "\nas %s has it: ", r->where->what);
        threshold_put(to, &s->present);
        g_string_append_c(to, '\n');
        put_judged(to, s, &s->present);
    }
}

static void put_remedies(GString *to, const rgp_threshold_study *s)
{
    for (guint i = 0; i < s->remedy->len; i++) {
        const rgp_finding *f = &g_array_index(s->remedy, rgp_finding, i);
        g_autofree char *rule = rgp_finding_rule(f);
        if (i == 0) {
            g_string_append(to,
                            "\nwhat would tell them apart better, as lines to paste (all intervals on this page but "
                            "those of the text hold together):\n");
        }
        g_string_append_printf(to, "%s\n", rule);
        g_string_append_printf(to, "    holdoff %.6g ms\n", (double)f->trigger.holdoff_s * 1e3);
        put_judged(to, s, f);
    }
}

static void put_refusals(GString *to, const rgp_threshold_study *s)
{
    for (guint i = 0; i < s->refusal->len; i++) {
        g_string_append_printf(to, i == 0 ? "\nnothing can be promised of it:\n  %s\n" : "  %s\n",
                               (const char *)s->refusal->pdata[i]);
    }
}

static void put_paste(GString *to, const rgp_threshold_study *s)
{
    g_autofree char *rule = rgp_finding_rule(&s->chosen);
    g_string_append_printf(to, "\nas lines to paste:\n%s\n    ...\n    holdoff %.6g ms\n", rule,
                           (double)s->chosen.trigger.holdoff_s * 1e3);
}

void threshold_print(const rgp_threshold_study *s, const rgp_threshold_request *r)
{
    g_autoptr(GString) to = g_string_new(NULL);
    g_autofree char *labels = rgp_labels_text(s->labels);
    g_string_append_printf(to, "%s; chosen by %s, judged by the other%s\n\n", labels,
                           s->labels->by_recording ? "every other recording" : "every other block",
                           s->labels->by_recording ? "s" : "");
    put_chosen(to, s);
    put_present(to, s, r);
    put_remedies(to, s);
    if (!r->written) {
        put_paste(to, s);
    }
    put_refusals(to, s);
    g_string_append_printf(
        to,
        "\na false trigger was weighed %g, a missed event %g, at %g events an hour (--avoid, --cost, "
        "--events); all this holds as long as idle time is as in these recordings\n",
        s->cost.of_false, s->cost.of_miss, s->cost.events_an_hour);
    fputs(to->str, stdout);
}

/* ---- JSON ------------------------------------------------------------------------------------------ */

static json_t *finding_json(const rgp_finding *f)
{
    g_autofree char *rule = rgp_finding_rule(f);
    return json_pack(
        "{s:s, s:s, s:s, s:s, s:f, s:f, s:f, s:f, s:{s:i, s:f, s:f, s:f, s:f, s:i}, s:{s:i, s:i, s:f, s:f, "
        "s:i}, s:f}",
        "value", f->value, "rule", rule, "side", f->trigger.above ? "above" : "below", "unit", f->unit, "limit",
        rgp_trigger_number(f->trigger.limit), "margin", rgp_trigger_number(f->trigger.margin), "for",
        rgp_trigger_number(f->trigger.width_s), "holdoff", rgp_trigger_number(f->trigger.holdoff_s), "false", "count",
        (int)f->judged.falses, "hours", f->judged.exposure_s / 3600.0, "low", f->false_rate.low, "high",
        isfinite(f->false_rate.high) ? f->false_rate.high : -1.0, "dispersion", f->dispersion, "clumps", (int)f->clumps,
        "missed", "count", (int)f->missed, "events", (int)f->events, "low", f->missed_share.low, "high",
        f->missed_share.high, "twice", (int)f->judged.doubled, "level", f->level);
}

json_t *threshold_json(const rgp_threshold_study *s, const rgp_threshold_request *r)
{
    json_t *remedies = json_array(), *refusals = json_array(), *chosen = finding_json(&s->chosen);
    json_object_set_new(chosen, "area", json_real(s->chosen.area));
    for (guint i = 0; i < s->remedy->len; i++) {
        json_array_append_new(remedies, finding_json(&g_array_index(s->remedy, rgp_finding, i)));
    }
    for (guint i = 0; i < s->refusal->len; i++) {
        json_array_append_new(refusals, json_string(s->refusal->pdata[i]));
    }
    json_t *all = json_pack("{s:o, s:o?, s:o, s:o, s:{s:f, s:f, s:f}}", "chosen", chosen, "present",
                            s->present.value ? finding_json(&s->present) : NULL, "remedies", remedies, "refusals",
                            refusals, "weights", "false", s->cost.of_false, "missed", s->cost.of_miss, "events_an_hour",
                            s->cost.events_an_hour);
    if (r->written) {
        json_object_set_new(all, "line", json_integer((json_int_t)r->where->line));
    }
    return all;
}
