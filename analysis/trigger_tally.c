/* Firings counted, and the numbers of a rule settled by such counts. */
#include "trigger_tally.h"

#include <math.h>

#define HOLDOFF_LEAST_S 0.2
#define HOLDOFF_LONGER  1.5 /* times the longest time within which one event fires again */
#define MARGIN_NOISE    3.0 /* times the noise of one reading */

/* ---- counting -------------------------------------------------------------------------------------- */

/* Of sorted rows the first that is not before. */
static guint first_from(const GArray *rows, uint32_t from)
{
    guint low = 0, high = rows->len;
    while (low < high) {
        const guint middle = low + (high - low) / 2;
        if (g_array_index(rows, uint32_t, middle) < from) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return low;
}

static guint count_in(const GArray *rows, const rgp_rows *span)
{
    return first_from(rows, span->to) - first_from(rows, span->from);
}

/* The rows of a piece that are no chance for a false trigger: bad ones, and those in the holdoff of a firing. */
static uint32_t lost_in(const rgp_rows *piece, const float *value, const GArray *rows, uint32_t holdoff_rows)
{
    uint32_t lost = 0;
    for (uint32_t row = piece->from; row < piece->to; row++) {
        lost += isnan(value[row]) != 0;
    }
    for (guint i = first_from(rows, piece->from - MIN(piece->from, holdoff_rows)); i < rows->len; i++) {
        const uint32_t from = MAX(g_array_index(rows, uint32_t, i) + 1, piece->from),
                       to = MIN(g_array_index(rows, uint32_t, i) + 1 + holdoff_rows, piece->to);
        if (from >= piece->to) {
            break;
        }
        lost += to > from ? to - from : 0;
    }
    return MIN(lost, piece->to - piece->from);
}

static void tally_idle(const rgp_labels *l, const rgp_series *series, guint name, GArray *const *rows,
                       uint32_t holdoff_rows, bool judging, rgp_tally *to)
{
    for (guint i = 0; i < l->piece->len; i++) {
        const rgp_rows *piece = &g_array_index(l->piece, rgp_rows, i);
        if (piece->gap || piece->judges != judging) {
            continue;
        }
        const float *value = rgp_series_values(series, l->run, piece->run, name).value;
        to->falses += count_in(rows[piece->run], piece);
        to->exposure_s += (piece->to - piece->from - lost_in(piece, value, rows[piece->run], holdoff_rows)) * l->tick_s;
    }
}

rgp_tally rgp_tally_of(const rgp_labels *l, const rgp_series *series, guint name, GArray *const *rows, double holdoff_s,
                       bool judging)
{
    rgp_tally to = {0};
    tally_idle(l, series, name, rows, (uint32_t)ceil(holdoff_s / l->tick_s), judging, &to);
    for (guint i = 0; i < l->event->len; i++) {
        const rgp_rows *event = &g_array_index(l->event, rgp_rows, i);
        if (event->judges == judging) {
            const guint fired = count_in(rows[event->run], event);
            to.events++;
            to.missed += fired == 0;
            to.doubled += fired > 1;
        }
    }
    return to;
}

static GArray **firings_by(const rgp_labels *l, const rgp_series *series, guint name, const rgp_trigger *trigger)
{
    GArray **rows = g_malloc_n(l->runs, sizeof *rows);
    for (guint i = 0; i < l->runs; i++) {
        const rgp_values v = rgp_series_values(series, l->run, i, name);
        rows[i] = g_array_new(FALSE, FALSE, sizeof(uint32_t));
        rgp_trigger_firings(trigger, &v, rows[i]);
    }
    return rows;
}

static void free_firings(GArray **rows, guint runs)
{
    for (guint i = 0; i < runs; i++) {
        g_array_unref(rows[i]);
    }
    g_free(rows);
}

rgp_tally rgp_tally_by(const rgp_labels *l, const rgp_series *series, guint name, const rgp_trigger *trigger,
                       bool judging)
{
    GArray **rows = firings_by(l, series, name, trigger);
    const rgp_tally tally = rgp_tally_of(l, series, name, rows, (double)trigger->holdoff_s, judging);
    free_firings(rows, l->runs);
    return tally;
}

/* ---- settling -------------------------------------------------------------------------------------- */

/* Two digits are enough. */
static double two_digits(double x)
{
    const double decade = x > 0.0 ? pow(10.0, floor(log10(x)) - 1.0) : 1.0;
    return round(x / decade) * decade;
}

double rgp_trigger_margin(const rgp_idle_level *idle)
{
    return two_digits(fmax(MARGIN_NOISE * idle->sigma, idle->count));
}

static double limit_of(const rgp_trigger_ask *ask, const rgp_trigger_choice *c, const rgp_trigger_range *range)
{
    const double low = ask->above ? c->low : -c->high, high = ask->above ? c->high : -c->low;
    const double limit = rgp_trigger_round(fmax(low, range->low), fmin(high, range->high));
    return fmin(fmax(limit, range->low), range->high);
}

static double margin_most(const rgp_trigger_ask *ask, double limit)
{
    return fabs(limit - ask->idle.median) / 2.0;
}

/* The longest time from the first to the last firing of one event that chooses, without a holdoff. */
static double fires_again(const rgp_trigger_ask *ask, const rgp_series *series, guint name, rgp_trigger trigger)
{
    const rgp_labels *l = ask->labels;
    trigger.holdoff_s = 0.0f;
    GArray **rows = firings_by(l, series, name, &trigger);
    double longest = 0.0;
    for (guint i = 0; i < l->event->len; i++) {
        const rgp_rows *event = &g_array_index(l->event, rgp_rows, i);
        const GArray *of = rows[event->run];
        const guint from = first_from(of, event->from), to = first_from(of, event->to);
        if (!event->judges && to > from + 1) {
            const uint32_t first = g_array_index(of, uint32_t, from), last = g_array_index(of, uint32_t, to - 1);
            longest = fmax(longest, (last - first) * l->tick_s);
        }
    }
    free_firings(rows, l->runs);
    return longest;
}

/* The greater of what was seen and of what the tails say of that limit and width; a doubled firing is as bad as a false
 * one. */
static double cost_of(const rgp_trigger_ask *ask, const rgp_series *series, guint name, guint width,
                      const rgp_trigger *trigger)
{
    const rgp_tally t = rgp_tally_by(ask->labels, series, name, trigger, false);
    const double hours = fmax(t.exposure_s / 3600.0, 1e-6), events = fmax(1.0, t.events),
                 limit = ask->above ? (double)trigger->limit : -(double)trigger->limit;
    const double seen =
        ask->cost.of_false * t.falses / hours + ask->cost.of_miss * ask->cost.events_an_hour * t.missed / events;
    return fmax(seen, rgp_trigger_cost_at(ask, width, limit)) +
           ask->cost.of_false * ask->cost.events_an_hour * t.doubled / events;
}

/* Of a rule's numbers and the width that they were found by, the better ones. */
typedef struct settled {
    rgp_trigger trigger;
    guint width;
    double cost;
} settled;

static void keep_better(const rgp_trigger_ask *ask, const rgp_series *series, guint name, settled other, settled *best)
{
    other.cost = cost_of(ask, series, name, other.width, &other.trigger);
    if (other.cost < best->cost) {
        *best = other;
    }
}

/* Margin, holdoff and width by their neighbours, one after the other. */
static void vary(const rgp_trigger_ask *ask, const rgp_series *series, guint name, const rgp_trigger_range *range,
                 double holdoff_most, settled *best)
{
    static const float factor[] = {0.5f, 2.0f};
    const guint found = best->width;
    best->cost = cost_of(ask, series, name, found, &best->trigger);
    for (size_t i = 0; i < G_N_ELEMENTS(factor); i++) {
        settled other = *best;
        other.trigger.margin = (float)fmin(two_digits((double)(best->trigger.margin * factor[i])),
                                           margin_most(ask, (double)best->trigger.limit));
        if (range->margin && factor[i] < 1.0f) { /* the scores know of no greater one */
            keep_better(ask, series, name, other, best);
        }
        other = *best;
        other.trigger.holdoff_s = (float)fmin(two_digits((double)(best->trigger.holdoff_s * factor[i])), holdoff_most);
        if (range->holdoff && (double)other.trigger.holdoff_s >= HOLDOFF_LEAST_S) {
            keep_better(ask, series, name, other, best);
        }
        other = *best;
        other.width = i == 0 ? found - (found > 0) : MIN(found + 1, ask->widths->count - 1);
        other.trigger.width_s = (float)((ask->widths->at[other.width].width - 1) * ask->labels->tick_s);
        if (range->width) {
            keep_better(ask, series, name, other, best);
        }
    }
}

rgp_trigger rgp_trigger_settle(const rgp_trigger_ask *ask, const rgp_series *series, guint name, rgp_trigger_choice *c,
                               const rgp_trigger_range *range, double *fires_again_s)
{
    const double limit = limit_of(ask, c, range), most = margin_most(ask, limit),
                 room = rgp_labels_event_spacing(ask->labels) / 2.0;
    rgp_trigger t = {.above = ask->above, .limit = (float)limit};
    if (range->margin) {
        t.margin = (float)two_digits(fmin(ask->margin, most));
    }
    if (range->width) {
        t.width_s = (float)((ask->widths->at[c->width].width - 1) * ask->labels->tick_s);
    }
    *fires_again_s = fires_again(ask, series, name, t);
    if (range->holdoff) {
        const double holdoff =
            fmin(fmax(HOLDOFF_LONGER * *fires_again_s, HOLDOFF_LEAST_S), fmax(room, HOLDOFF_LEAST_S));
        t.holdoff_s = (float)two_digits(holdoff);
    }
    settled best = {t, c->width, 0.0};
    vary(ask, series, name, range, fmax(room, HOLDOFF_LEAST_S), &best);
    c->width = best.width;
    return best.trigger;
}

uint32_t rgp_trigger_left_out_missed(const rgp_trigger_ask *ask)
{
    uint32_t missed = 0;
    for (guint i = 0; i < ask->labels->event->len; i++) {
        const rgp_trigger_choice c = rgp_trigger_choose(ask, i);
        missed += !(ask->widths->at[c.width].event[i] > c.limit);
    }
    return missed;
}
