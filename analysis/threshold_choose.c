/* One value given its threshold, and whether what would fire in idle time comes in clumps. */
#include "threshold_parts.h"

#include <gsl/gsl_sort.h>

#include <math.h>
#include <string.h>

#define CLUMP_SEEN 30u

/* The limit is lowered until 30 pieces of idle time would fire; the pieces follow one another as if they were one
 * time. */
static void look_for_clumps(const rgp_labels *l, const rgp_trigger_scores *scores, rgp_finding *f)
{
    const guint pieces = l->piece->len;
    g_autofree double *sorted = g_malloc_n(pieces + 1, sizeof *sorted), *at = g_malloc_n(pieces + 1, sizeof *at);
    memcpy(sorted, scores->piece, pieces * sizeof *sorted);
    gsl_sort(sorted, 1, pieces);
    const double limit = pieces > CLUMP_SEEN ? sorted[pieces - 1 - CLUMP_SEEN] : (double)INFINITY;
    rgp_sightings seen = {at, 0, pieces * RGP_PIECE_S};
    for (guint i = 0; i < pieces; i++) {
        if (scores->piece[i] > limit) {
            at[seen.count++] = (i + 0.5) * RGP_PIECE_S;
        }
    }
    f->dispersion = rgp_dispersion(&seen);
    f->clumps = rgp_clumps(&seen, RGP_PIECE_S);
    f->seen = (uint32_t)seen.count;
}

static uint32_t widest(const rgp_labels *l)
{
    return (uint32_t)fmax(1.0, rgp_labels_event_length(l) / l->tick_s);
}

bool threshold_lies_above(const rgp_threshold_study *s, const rgp_series *series, guint name)
{
    double area[2];
    for (int above = 0; above < 2; above++) {
        rgp_trigger_scores scores;
        const rgp_trigger_form form = {above, 1, 0.0};
        rgp_trigger_scores_of(series, name, s->labels, &form, &scores);
        area[above] = rgp_trigger_area(s->labels, &scores);
        rgp_trigger_scores_clear(&scores);
    }
    return area[1] >= area[0];
}

rgp_finding threshold_choose(const choosing *c, rgp_trigger_widths *widths, rgp_idle_level *idle)
{
    const rgp_threshold_study *s = c->study;
    *idle = rgp_idle_level_of(c->series, c->name, s->labels, s->labels->runs);
    const double margin = c->range.margin ? rgp_trigger_margin(idle) : 0.0;
    const rgp_trigger_form form = {c->above, c->range.width ? widest(s->labels) : 1, margin};
    rgp_trigger_widths_of(c->series, c->name, s->labels, &form, c->stride, widths);
    const rgp_trigger_ask ask = {s->labels, widths, *idle, margin, c->above, s->cost};
    rgp_trigger_choice choice = rgp_trigger_choose(&ask, UINT_MAX);
    rgp_finding f = {.cost = choice.cost};
    f.trigger = rgp_trigger_settle(&ask, c->series, c->name, &choice, &c->range, &f.fires_again_s);
    f.width = widths->at[choice.width].width;
    f.area = rgp_trigger_area(s->labels, &widths->at[choice.width]);
    look_for_clumps(s->labels, &widths->at[choice.width], &f);
    if (s->labels->each_event) {
        f.events = s->labels->event->len;
        f.missed = rgp_trigger_left_out_missed(&ask);
    }
    return f;
}

const rgp_trigger_scores *rgp_finding_scores(const rgp_trigger_widths *widths, const rgp_finding *f)
{
    guint i = 0;
    while (i + 1 < widths->count && widths->at[i].width != f->width) {
        i++;
    }
    return &widths->at[i];
}
