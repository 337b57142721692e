/* Near misses of a rule: one pass that keeps what was lacking, and the search in it. */
#include "near.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>
#include <string.h>

/* The lack of one tick. */
typedef struct tick_lack {
    float amount;  /* INFINITY: nothing that can be near */
    uint16_t slot; /* RGP_REF_NONE: none, or several */
    bool true_now; /* nothing is lacking */
    bool is_time;
} tick_lack;

static bool is_time(const char *unit)
{
    return strcmp(unit, "s") == 0 || strcmp(unit, "times") == 0;
}

/* All ticks; those in which the event came, and the rule did not fire, are near by themselves. */
static GArray *look_through(const rgp_recording *from, uint32_t rule, GArray *near, GError **error)
{
    rgp_explanation *e = rgp_explanation_new(from, error);
    if (!e) {
        return NULL;
    }
    GArray *all = g_array_sized_new(FALSE, FALSE, sizeof(tick_lack), from->rows);
    const rgp_why *why;
    while ((why = rgp_explanation_next(e))) {
        const rgp_lack lack = rgp_why_lack(why, rule);
        const bool fired = why->trace->rule[rule].fired_us == why->frame->time_us,
                   one = lack.conditions == 1 && isfinite(lack.amount) && !lack.came;
        const tick_lack tick = {one ? lack.amount : INFINITY, one ? lack.slot : (uint16_t)RGP_REF_NONE,
                                lack.conditions == 0, is_time(lack.unit)};
        const rgp_near came = {rgp_explanation_row(e), lack.slot, (double)lack.amount, 0.0};
        g_array_append_val(all, tick);
        if (lack.came && lack.conditions <= 1 && !fired) {
            g_array_append_val(near, came);
        }
    }
    rgp_explanation_free(e);
    return all;
}

/* The usual distance of a condition: the median where it alone was missing, of a time the most. */
static double usual(const GArray *all, uint16_t slot)
{
    g_autofree double *amount = g_new(double, all->len + 1);
    size_t n = 0;
    bool of_time = false;
    for (guint i = 0; i < all->len; i++) {
        const tick_lack *t = &g_array_index(all, tick_lack, i);
        if (t->slot == slot) {
            amount[n++] = (double)t->amount;
            of_time = t->is_time;
        }
    }
    gsl_sort(amount, 1, n);
    return n == 0 ? 0.0 : of_time ? amount[n - 1] : gsl_stats_median_from_sorted_data(amount, 1, n);
}

/* From `first` on the same condition alone was missing. Returns the end of that. */
static guint end_of(const GArray *all, guint first)
{
    const uint16_t slot = g_array_index(all, tick_lack, first).slot;
    guint end = first;
    while (end < all->len && g_array_index(all, tick_lack, end).slot == slot) {
        end++;
    }
    return end;
}

/* The near moments of one such stretch. A distance has to have been twice as great before, and behind it, so the way to
 * a firing and the way back from one are none. */
static void search(const GArray *all, guint first, guint end, double usually, GArray *near)
{
    const tick_lack *t = &g_array_index(all, tick_lack, 0);
    const bool of_time = t[first].is_time, fires = end < all->len && t[end].true_now, ends = end == all->len;
    const double within = usually * (of_time ? RGP_NEAR_TIME_SHARE : RGP_NEAR_SHARE), clear = 2.0 * within;
    bool armed = of_time || (double)t[first].amount >= clear, open = false;
    guint best = first;
    for (guint i = first; i < end; i++) {
        const double amount = (double)t[i].amount;
        if (armed && amount <= within && (!open || amount < (double)t[best].amount)) {
            open = true;
            best = i;
        }
        if (!of_time && amount >= clear) {
            const rgp_near one = {best, t[first].slot, (double)t[best].amount, usually};
            if (open) {
                g_array_append_val(near, one);
            }
            open = false;
            armed = true;
        }
    }
    if (open && !fires && !ends) {
        const rgp_near one = {best, t[first].slot, (double)t[best].amount, usually};
        g_array_append_val(near, one);
    }
}

/* Events that came in vain are told behind what came near by itself, but dropped ones before it. */
static gint by_nearness(gconstpointer a, gconstpointer b)
{
    const rgp_near *x = a, *y = b;
    const double p = x->usually > 0.0  ? x->amount / x->usually
                     : x->amount > 0.0 ? 1.0
                                       : 0.0,
                 q = y->usually > 0.0  ? y->amount / y->usually
                     : y->amount > 0.0 ? 1.0
                                       : 0.0;
    return p < q ? -1 : p > q ? 1 : x->row < y->row ? -1 : x->row > y->row;
}

static gint by_row(gconstpointer a, gconstpointer b)
{
    const rgp_near *x = a, *y = b;
    return x->row < y->row ? -1 : x->row > y->row;
}

GArray *rgp_near_of(const rgp_recording *from, uint32_t rule, uint32_t most, GError **error)
{
    GArray *near = g_array_new(FALSE, FALSE, sizeof(rgp_near));
    g_autoptr(GArray) all = look_through(from, rule, near, error);
    if (!all) {
        g_array_unref(near);
        return NULL;
    }
    g_autoptr(GHashTable) known = g_hash_table_new_full(g_direct_hash, g_direct_equal, NULL, g_free);
    for (guint i = 0; i < all->len;) {
        const uint16_t slot = g_array_index(all, tick_lack, i).slot;
        const guint end = end_of(all, i);
        if (slot != RGP_REF_NONE) {
            double *usually = g_hash_table_lookup(known, GUINT_TO_POINTER(slot));
            if (!usually) {
                usually = g_new(double, 1);
                *usually = usual(all, slot);
                g_hash_table_insert(known, GUINT_TO_POINTER(slot), usually);
            }
            search(all, i, end, *usually, near);
        }
        i = end;
    }
    g_array_sort(near, by_nearness);
    if (near->len > most) {
        g_array_set_size(near, most);
    }
    g_array_sort(near, by_row);
    return near;
}
