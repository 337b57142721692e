/* Advice on a loop's run. */
#include "loop_advice.h"

#include <math.h>

#define NEXT_TO_NOTHING 0.004 /* of the greatest error of all parts */

static gint by_moves(gconstpointer a, gconstpointer b)
{
    const double x = (*(rgp_loop_piece *const *)a)->moves, y = (*(rgp_loop_piece *const *)b)->moves;
    return (x < y) - (x > y);
}

typedef struct told {
    rgp_loop_piece *piece;
    rgp_diagnosis diagnosis;
} told;

static bool is_ailing(const told *t)
{
    return !t->diagnosis.unfit && t->diagnosis.first != RGP_CAUSE_HEALTHY;
}

/* Parts with the same gains have one cause: what those parts say in which something is the matter, on average. */
static void average(const rgp_loop_advice *a, const GArray *all, double *chance)
{
    for (guint i = 0; i < all->len; i++) {
        const told *t = &g_array_index(all, told, i);
        for (int c = 0; is_ailing(t) && c < RGP_CAUSES; c++) {
            chance[c] += t->diagnosis.chance[c] / a->ailing;
        }
    }
}

/* The share of a part in that cause; a part that cannot be told of comes last. */
static double shows(const rgp_loop_advice *a, const told *t, rgp_cause cause)
{
    return t->diagnosis.unfit ? -1.0 : t->diagnosis.chance[cause] + (is_ailing(t) || a->ailing == 0 ? 1.0 : 0.0);
}

/* The part that shows the likeliest cause best, with the chances of all of them. */
static void settle(rgp_loop_advice *a, GArray *all)
{
    double chance[RGP_CAUSES] = {0};
    average(a, all, chance);
    rgp_cause cause = RGP_CAUSE_HEALTHY;
    for (int c = 0; c < RGP_CAUSES; c++) {
        const bool more = cause == RGP_CAUSE_HEALTHY ? chance[c] > 0.0 : chance[c] > chance[cause];
        cause = c != RGP_CAUSE_HEALTHY && more ? (rgp_cause)c : cause;
    }
    told *best = NULL;
    for (guint i = 0; i < all->len; i++) {
        told *t = &g_array_index(all, told, i);
        best = !best || shows(a, t, cause) > shows(a, best, cause) ? t : best;
    }
    if (best) {
        a->piece = best->piece;
        a->diagnosis = best->diagnosis;
        if (a->ailing > 0) {
            rgp_diagnosis_weigh(&a->diagnosis, chance);
        }
    }
}

/* A mechanism that does not fall in a part that moves more does not in others. */
static void look_at(rgp_loop_advice *a, GArray *all, rgp_loop_piece *piece, double least)
{
    rgp_loop_run run = rgp_loop_piece_run(piece);
    run.least = least;
    run.stands = all->len > 0 && g_array_index(all, told, 0).diagnosis.stands;
    told t = {.piece = piece};
    rgp_diagnose(&run, &t.diagnosis);
    a->judged += t.diagnosis.unfit ? 0 : 1;
    a->ailing += is_ailing(&t);
    g_array_append_val(all, t);
}

static rgp_loop_advice advise(const GPtrArray *pieces, guint from, guint to)
{
    rgp_loop_advice a = {.parts = to - from, .begin = NAN};
    g_autoptr(GPtrArray) parts = g_ptr_array_new();
    g_autoptr(GArray) all = g_array_new(FALSE, FALSE, sizeof(told));
    double peak = 0.0;
    for (guint i = from; i < to; i++) {
        rgp_loop_piece *p = pieces->pdata[i];
        a.lost += p->lost;
        a.begin = i == from ? p->begin : a.begin;
        a.end = p->end;
        peak = fmax(peak, p->peak);
        g_ptr_array_add(parts, p);
    }
    g_ptr_array_sort(parts, by_moves);
    for (guint i = 0; i < parts->len && a.judged < RGP_ADVICE_PARTS && i < RGP_ADVICE_LOOKS; i++) {
        look_at(&a, all, parts->pdata[i], NEXT_TO_NOTHING * peak);
    }
    settle(&a, all);
    return a;
}

GArray *rgp_loop_advices(const GPtrArray *pieces)
{
    GArray *all = g_array_new(FALSE, FALSE, sizeof(rgp_loop_advice));
    for (guint from = 0, to = 0; from < pieces->len; from = to) {
        const uint32_t gains = ((const rgp_loop_piece *)pieces->pdata[from])->gains;
        while (to < pieces->len && ((const rgp_loop_piece *)pieces->pdata[to])->gains == gains) {
            to++;
        }
        const rgp_loop_advice one = advise(pieces, from, to);
        g_array_append_val(all, one);
    }
    return all;
}

char *rgp_gains_text(const rgp_pid_gains *g)
{
    return g_strdup_printf("kp %.4g, ki %.4g, kd %.4g", (double)g->kp, (double)g->ki, (double)g->kd);
}
