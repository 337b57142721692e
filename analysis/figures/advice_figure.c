/* Two panels over one time, with a frame about each stretch that is told about. */
#include "advice_figure.h"

#include "gnuplot.h"

#include "analysis/diagnosis_words.h"

#include <math.h>

#define FIRST_LINE  0.96 /* of the upper panel */
#define SECOND_LINE 0.91

enum { WIDTH = 1280, HEIGHT = 800, POINTS = 4000 };

static void put_rows(GString *to, const GPtrArray *pieces)
{
    size_t all = 0;
    for (guint i = 0; i < pieces->len; i++) {
        const rgp_loop_piece *p = pieces->pdata[i];
        all += p->to - p->from;
    }
    const guint stride = (guint)(1 + all / POINTS);
    g_string_append(to, "$rows << EOD\n");
    for (guint i = 0; i < pieces->len; i++) {
        const GArray *rows = rgp_loop_piece_rows(pieces->pdata[i]);
        for (guint k = 0; k < rows->len; k += stride) {
            const rgp_response_row *r = &g_array_index(rows, rgp_response_row, k);
            g_string_append_printf(to, "%.6f %.9g ", r->time, r->target);
            g_string_append_printf(to, r->usable ? "%.9g" : "NaN", r->measured);
            g_string_append_printf(to, " %.9g\n", r->output);
        }
        rgp_loop_piece_drop(pieces->pdata[i]);
        g_string_append_c(to, '\n'); /* no line from piece to piece */
    }
    g_string_append(to, "EOD\n");
}

/* A cause with its chance, so high in the upper panel. */
static void put_cause(GString *to, guint number, const rgp_loop_advice *a, rgp_cause cause, double height)
{
    g_autofree char *text = g_strdup_printf("%s, %.0f %%", rgp_cause_words[cause], 100.0 * a->diagnosis.chance[cause]);
    g_string_append_printf(to, "set label %u ", number);
    gnuplot_quote(to, text);
    g_string_append_printf(to, " at %.6f,graph %.2f left offset 1.5,0 noenhanced textcolor rgb '#333333'\n",
                           a->piece->begin, height);
}

/* A frame over both panels, with the cause that was found, or the two that it does not tell apart. */
static void put_frames(GString *to, const GArray *advices)
{
    for (guint i = 0; i < advices->len; i++) {
        const rgp_loop_advice *a = &g_array_index(advices, rgp_loop_advice, i);
        if (a->diagnosis.unfit) {
            continue;
        }
        const bool healthy = a->diagnosis.first == RGP_CAUSE_HEALTHY;
        g_string_append_printf(to,
                               "set object %u rectangle from %.6f,graph 0 to %.6f,graph 1 behind fillcolor rgb '%s' "
                               "fillstyle solid 0.15 noborder\n",
                               i + 1, a->piece->begin, a->piece->end, healthy ? "#009E73" : "#D55E00");
        put_cause(to, 2 * i + 1, a, a->diagnosis.first, FIRST_LINE);
        if (rgp_diagnosis_divided(&a->diagnosis)) {
            put_cause(to, 2 * i + 2, a, a->diagnosis.second, SECOND_LINE);
        }
    }
}

GString *rgp_advice_script(const GPtrArray *pieces, const GArray *advices, const rgp_advice_picture *picture,
                           const char *path)
{
    GString *to = g_string_new(NULL);
    g_autofree char *title = g_strdup_printf("%s: where the evidence lies", picture->loop);
    gnuplot_head(to, path, WIDTH, HEIGHT);
    put_rows(to, pieces);
    g_string_append(to, "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
                        "set tics nomirror textcolor rgb '#333333'\nset lmargin at screen 0.09\n"
                        "set rmargin at screen 0.97\nset autoscale xfix\nset multiplot\nset title ");
    gnuplot_quote(to, title);
    g_string_append(to, " font ',15' noenhanced\nset tmargin at screen 0.93\nset bmargin at screen 0.42\n");
    put_frames(to, advices);
    gnuplot_label(to, "ylabel", "measured", picture->unit);
    g_string_append(to, "set format x ''\nset key at screen 0.97,0.99 right top horizontal\n"
                        "plot $rows using 1:2 with lines linewidth 1.5 dashtype 2 linecolor rgb '#888888' title "
                        "\"setpoint\", $rows using 1:3 with lines linewidth 1.6 linecolor rgb '#0072B2' title "
                        "\"measured\"\nunset title\nunset key\nunset label\n"
                        "set tmargin at screen 0.38\nset bmargin at screen 0.09\n");
    gnuplot_label(to, "ylabel", "output", picture->drive_unit);
    g_string_append(to, "set format x '%g'\nset xlabel \"time [s]\"\n"
                        "plot $rows using 1:4 with steps linewidth 1.4 linecolor rgb '#D55E00'\nunset multiplot\n");
    return to;
}
