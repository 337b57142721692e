/* Advice on a loop's run. */
#include "loop_advice.h"

#include <math.h>

typedef struct part {
    const rgp_loop_piece *piece;
    double moves; /* the spread of its error */
} part;

static double moves_of(const rgp_loop_piece *p)
{
    double sum = 0.0, squares = 0.0;
    for (guint i = 0; i < p->row->len; i++) {
        const rgp_response_row *r = &g_array_index(p->row, rgp_response_row, i);
        const double error = r->usable ? r->target - r->measured : 0.0;
        sum += error;
        squares += error * error;
    }
    const double n = fmax(1.0, p->row->len);
    return squares / n - sum / n * (sum / n);
}

static gint by_moves(gconstpointer a, gconstpointer b)
{
    const double x = ((const part *)a)->moves, y = ((const part *)b)->moves;
    return (x < y) - (x > y);
}

/* More is the matter; a piece that can be told of comes before one that cannot. */
static bool tells_more(const rgp_diagnosis *a, const rgp_diagnosis *b)
{
    return b->unfit || (!a->unfit && a->chance[RGP_CAUSE_HEALTHY] < b->chance[RGP_CAUSE_HEALTHY]);
}

static void look_at(rgp_loop_advice *a, const rgp_loop_piece *piece)
{
    const rgp_loop_run run = rgp_loop_piece_run(piece);
    rgp_diagnosis d;
    rgp_diagnose(&run, &d);
    a->judged += d.unfit ? 0 : 1;
    a->ailing += !d.unfit && d.first != RGP_CAUSE_HEALTHY;
    if (!a->piece || tells_more(&d, &a->diagnosis)) {
        rgp_diagnosis_clear(&a->diagnosis);
        a->piece = piece;
        a->diagnosis = d;
    } else {
        rgp_diagnosis_clear(&d);
    }
}

static rgp_loop_advice advise(const GPtrArray *pieces, guint from, guint to)
{
    rgp_loop_advice a = {.parts = to - from, .begin = NAN};
    g_autoptr(GArray) parts = g_array_new(FALSE, FALSE, sizeof(part));
    for (guint i = from; i < to; i++) {
        const rgp_loop_piece *p = pieces->pdata[i];
        const part is = {p, moves_of(p)};
        a.lost += p->lost;
        if (p->row->len > 0) {
            a.begin = isnan(a.begin) ? g_array_index(p->row, rgp_response_row, 0).time : a.begin;
            a.end = g_array_index(p->row, rgp_response_row, p->row->len - 1).time;
        }
        g_array_append_val(parts, is);
    }
    g_array_sort(parts, by_moves);
    for (guint i = 0; i < MIN(parts->len, (guint)RGP_ADVICE_PARTS); i++) {
        look_at(&a, g_array_index(parts, part, i).piece);
    }
    return a;
}

static void clear(gpointer data)
{
    rgp_diagnosis_clear(&((rgp_loop_advice *)data)->diagnosis);
}

GArray *rgp_loop_advices(const GPtrArray *pieces)
{
    GArray *all = g_array_new(FALSE, FALSE, sizeof(rgp_loop_advice));
    g_array_set_clear_func(all, clear);
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
