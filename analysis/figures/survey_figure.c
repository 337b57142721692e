/* A curve, or a map of the worst of all worlds. */
#include "survey_figure.h"

#include "gnuplot.h"

#include <math.h>

enum { WIDTH = 1280, HEIGHT = 800, LABELS_MOST = 12 };

#define WIDE 10.0 /* figures that are so many times as great as others are drawn by their logarithm */

static void put_title(GString *to, const rgp_survey *s)
{
    g_autofree char *worlds = s->ask->off > 0.0 ? g_strdup_printf("%u worlds, mechanisms up to %g %% off",
                                                                  s->ask->worlds, 100.0 * s->ask->off)
                                                : g_strdup_printf("%u worlds", s->ask->worlds),
                    *title = g_strdup_printf("%s: the worst of %s%s", s->ask->figure, worlds,
                                             s->stopped ? " (stopped before its end)" : "");
    g_string_append(to, "set title ");
    gnuplot_quote(to, title);
    g_string_append(to, " font ',15' noenhanced\n");
}

static void put_number(GString *to, double x)
{
    if (isnan(x)) {
        g_string_append(to, "NaN ");
    } else {
        g_string_append_printf(to, "%.9g ", x);
    }
}

static double best_world(const rgp_survey *s, const rgp_survey_cell *c)
{
    double best = (double)NAN;
    for (uint32_t i = 0; i < s->ask->worlds; i++) {
        const double is = c->figure[i];
        best = isnan(best) || (s->ask->more ? is > best : is < best) ? is : best;
    }
    return best;
}

/* A row a cell: its values, the median, the worst, the best. Cells that were not finished have none. */
static void put_cells(GString *to, const rgp_survey *s)
{
    g_string_append(to, "$cells << EOD\n");
    for (uint32_t i = 0; i < s->cells; i++) {
        const rgp_survey_cell *c = &s->cell[i];
        const bool whole = c->done == s->ask->worlds;
        g_string_append_printf(to, "%.9g %.9g ", c->at[0], c->at[1]);
        put_number(to, whole ? c->median : (double)NAN);
        put_number(to, whole ? c->worst : (double)NAN);
        put_number(to, whole ? best_world(s, c) : (double)NAN);
        g_string_append_c(to, '\n');
    }
    g_string_append(to, "EOD\n");
}

static void put_best(GString *to, const rgp_survey *s)
{
    g_autofree uint32_t *order = rgp_survey_order(s);
    const rgp_survey_cell *best = &s->cell[order[0]];
    g_string_append_printf(to, "$best << EOD\n%.9g %.9g ", best->at[0], best->at[1]);
    put_number(to, best->worst);
    g_string_append(to, "\nEOD\n");
}

/* The least and the greatest of all worst worlds. */
static void find_range(const rgp_survey *s, double *low, double *high)
{
    *low = (double)INFINITY;
    *high = -(double)INFINITY;
    for (uint32_t i = 0; i < s->cells; i++) {
        const double worst = s->cell[i].done == s->ask->worlds ? s->cell[i].worst : (double)NAN;
        *low = worst < *low ? worst : *low;
        *high = worst > *high ? worst : *high;
    }
}

static bool spans_much(const rgp_survey *s)
{
    double low, high;
    find_range(s, &low, &high);
    return low > 0.0 && high > WIDE * low;
}

static void put_curve(GString *to, const rgp_survey *s)
{
    gnuplot_label(to, "ylabel", s->ask->figure, s->unit ? s->unit : "");
    g_string_append(to, spans_much(s) ? "set logscale y\n" : "");
    g_string_append(to,
                    "set style fill solid 0.25 noborder\nset key top right\n"
                    "plot $cells using 1:5:4 with filledcurves linecolor rgb '#0072B2' title \"all worlds\", "
                    "$cells using 1:3 with linespoints linewidth 2 pointtype 7 linecolor rgb '#0072B2' title "
                    "\"median\", $cells using 1:4 with linespoints linewidth 1.5 pointtype 6 linecolor rgb '#D55E00' "
                    "title \"worst\", $best using 1:3 with points pointtype 4 pointsize 2.6 linewidth 2 linecolor rgb "
                    "'#000000' title \"the best of the worst\"\n");
}

/* Around the best of the worst. */
static void put_frame(GString *to, const rgp_survey *s, double half_x, double half_y)
{
    g_autofree uint32_t *order = rgp_survey_order(s);
    const rgp_survey_cell *best = &s->cell[order[0]];
    g_string_append_printf(to,
                           "set object 2 rectangle from %.9g,%.9g to %.9g,%.9g fillstyle empty border rgb '#D55E00' "
                           "linewidth 4 front\nset label 1 \"framed: the best of the worst\" at graph 1,-0.1 right "
                           "textcolor rgb '#D55E00'\n",
                           best->at[0] - half_x, best->at[1] - half_y, best->at[0] + half_x, best->at[1] + half_y);
}

/* Dark on light cells, light on dark ones, which are those of the upper half of the colours. */
static void put_numbers(GString *to, const rgp_survey *s)
{
    double low, high;
    find_range(s, &low, &high);
    const double middle = spans_much(s) ? sqrt(low * high) : (low + high) / 2.0;
    if (s->ask->axis[0].values > LABELS_MOST || s->ask->axis[1].values > LABELS_MOST) {
        return;
    }
    g_string_append_printf(
        to,
        ", $cells using 1:2:($4 > %.9g ? sprintf('%%.3g', $4) : '') with labels textcolor rgb '#FFFFFF' "
        "notitle, $cells using 1:2:($4 > %.9g ? '' : $4 == $4 ? sprintf('%%.3g', $4) : 'never') with "
        "labels textcolor rgb '#222222' notitle",
        middle, middle);
}

static void put_map(GString *to, const rgp_survey *s)
{
    const rgp_survey_axis *x = &s->ask->axis[0], *y = &s->ask->axis[1];
    const double half_x = (x->high - x->low) / (x->values - 1) / 2.0,
                 half_y = (y->high - y->low) / (y->values - 1) / 2.0;
    gnuplot_label(to, "ylabel", y->name, y->unit);
    gnuplot_label(to, "cblabel", s->ask->figure, s->unit ? s->unit : "");
    g_string_append_printf(to,
                           "set palette defined (0 '#FDE725', 0.35 '#35B779', 0.7 '#31688E', 1 '#440154')\n"
                           "set xrange [%.9g:%.9g]\nset yrange [%.9g:%.9g]\nset style fill solid 1 noborder\n"
                           "set object 1 rectangle from graph 0,0 to graph 1,1 fillcolor rgb '#DDDDDD' fillstyle solid "
                           "noborder behind\nset key outside below\n",
                           x->low - half_x, x->high + half_x, y->low - half_y, y->high + half_y);
    g_string_append(to, spans_much(s) ? "set logscale cb\n" : "");
    put_frame(to, s, half_x, half_y);
    g_string_append_printf(to,
                           "plot $cells using 1:2:($1-%.9g):($1+%.9g):($2-%.9g):($2+%.9g):4 with boxxyerror linecolor "
                           "palette notitle",
                           half_x, half_x, half_y, half_y);
    put_numbers(to, s);
    g_string_append(to, "\n");
}

GString *rgp_survey_script(const rgp_survey *s, const char *path)
{
    GString *to = g_string_new(NULL);
    gnuplot_head(to, path, WIDTH, HEIGHT);
    put_cells(to, s);
    put_best(to, s);
    put_title(to, s);
    gnuplot_label(to, "xlabel", s->ask->axis[0].name, s->ask->axis[0].unit);
    g_string_append(to, "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
                        "set tics nomirror textcolor rgb '#333333'\n");
    if (s->ask->axes > 1) {
        put_map(to, s);
    } else {
        put_curve(to, s);
    }
    return to;
}
