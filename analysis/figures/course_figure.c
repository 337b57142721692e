/* One or two values of a run in other forms than over time. */
#include "course_figure.h"

#include "gnuplot.h"

#include "analysis/spectrum.h"
#include "explain/describe.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>
#include <string.h>

#define POINTS_MOST 20000u /* of a curve */
#define BARS_MOST   200.0

static GString *begin(const rgp_figure *figure, const char *title)
{
    GString *to = g_string_new(NULL);
    gnuplot_head(to, figure->path, figure->width, figure->height);
    g_string_append(to, "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
                        "set tics nomirror textcolor rgb '#333333'\nset title ");
    gnuplot_quote(to, title);
    g_string_append(to, " font ',15' noenhanced\nunset key\n");
    return to;
}

/* The usable values, in their order; to be freed. */
static double *usable(const rgp_course *c, guint *count)
{
    double *x = g_new(double, c->point->len + 1);
    for (guint i = 0; i < c->point->len; i++) {
        const double value = g_array_index(c->point, rgp_course_point, i).value;
        if (!isnan(value)) {
            x[(*count)++] = value;
        }
    }
    return x;
}

/* ---- one over another ------------------------------------------------------------------------------ */

GString *rgp_xy_script(const rgp_course *first, const rgp_course *second, const rgp_figure *figure, char **why)
{
    const guint points = MIN(first->point->len, second->point->len), each = points / POINTS_MOST + 1;
    if (points < 2) {
        *why = g_strdup("there are fewer than two rows to draw");
        return NULL;
    }
    g_autofree char *title =
        g_strdup_printf("%s over %s, %u rows; the ring is where it begins", second->name, first->name, points);
    GString *to = begin(figure, title);
    g_string_append(to, "$points << EOD\n");
    for (guint i = 0; i < points; i += each) {
        const double x = g_array_index(first->point, rgp_course_point, i).value,
                     y = g_array_index(second->point, rgp_course_point, i).value;
        if (isnan(x) || isnan(y)) {
            g_string_append_c(to, '\n');
        } else {
            g_string_append_printf(to, "%.9g %.9g\n", x, y);
        }
    }
    g_string_append(to, "EOD\n");
    gnuplot_label(to, "xlabel", first->name, first->unit);
    gnuplot_label(to, "ylabel", second->name, second->unit);
    g_string_append(to, "set offsets graph 0.04,graph 0.04,graph 0.04,graph 0.04\n"
                        "plot $points using 1:2 with lines linewidth 1.2 linecolor rgb '#0072B2', "
                        "$points using 1:2 every ::0::0 with points pointtype 6 pointsize 2 linewidth 2 linecolor rgb "
                        "'#D55E00'\n");
    return to;
}

/* ---- how often which ------------------------------------------------------------------------------- */

/* The smallest distance between two different values; 0: there is but one. Sorted. */
static double smallest_step(const double *x, guint count)
{
    double step = 0.0;
    for (guint i = 1; i < count; i++) {
        const double is = x[i] - x[i - 1];
        step = is > 0.0 && (step == 0.0 || is < step) ? is : step;
    }
    return step;
}

static double bar_width(const double *x, guint count)
{
    const double range = x[count - 1] - x[0], step = smallest_step(x, count);
    const double middle =
        gsl_stats_quantile_from_sorted_data(x, 1, count, 0.75) - gsl_stats_quantile_from_sorted_data(x, 1, count, 0.25);
    double width = fmax(2.0 * middle / cbrt(count), range / BARS_MOST);
    width = step > 0.0 ? step * fmax(1.0, round(width / step)) : width;
    return width > 0.0 ? width : 1.0;
}

static void put_bars(GString *to, const double *x, guint count, double width)
{
    const double from = x[0] - 0.5 * width;
    g_string_append(to, "$bars << EOD\n");
    for (guint i = 0; i < count;) {
        const double bar = floor((x[i] - from) / width);
        guint in = 0;
        while (i < count && floor((x[i] - from) / width) == bar) {
            in++;
            i++;
        }
        g_string_append_printf(to, "%.9g %u\n", from + (bar + 0.5) * width, in);
    }
    g_string_append(to, "EOD\n");
}

GString *rgp_histogram_script(const rgp_course *c, const rgp_figure *figure, char **why)
{
    guint count = 0;
    g_autofree double *x = usable(c, &count);
    if (count < 2) {
        *why = g_strdup_printf("'%s' has no two values to count", c->name);
        return NULL;
    }
    gsl_sort(x, 1, count);
    const double width = bar_width(x, count);
    g_autoptr(GString) mean = g_string_new(NULL), spread = g_string_new(NULL), wide = g_string_new(NULL);
    g_autofree char *unit = gnuplot_unit(c->unit), *apart = gnuplot_unit(gnuplot_difference(c->unit));
    rgp_describe_number(gsl_stats_mean(x, 1, count), unit, mean);
    rgp_describe_number(gsl_stats_sd(x, 1, count), apart, spread);
    rgp_describe_number(width, apart, wide);
    g_autofree char *title = g_strdup_printf("%s: %u of %u rows, mean %s, spread %s (standard deviation); bars of %s",
                                             c->name, count, c->point->len, mean->str, spread->str, wide->str);
    GString *to = begin(figure, title);
    put_bars(to, x, count, width);
    gnuplot_label(to, "xlabel", c->name, c->unit);
    g_string_append_printf(
        to,
        "set ylabel 'rows'\nset yrange [0:*]\nset offsets 0,0,graph 0.06,0\nset style fill solid 0.8 "
        "border rgb 'white'\nset xrange [%.9g:%.9g]\n"
        "plot $bars using 1:2:(%.9g) with boxes linecolor rgb '#0072B2'\n",
        x[0] - 2.0 * width, x[count - 1] + 2.0 * width, width);
    return to;
}

/* ---- by frequency ---------------------------------------------------------------------------------- */

GString *rgp_spectrum_script(const rgp_course *c, const rgp_figure *figure, char **why)
{
    rgp_spectrum *s = rgp_spectrum_of(c, why);
    if (!s) {
        return NULL;
    }
    const double peak = s->step * (s->peak + 1.0);
    g_autofree char *filled = s->filled ? g_strdup_printf(", %u rows filled", s->filled) : g_strdup("");
    g_autofree char *title =
        g_strdup_printf("%s: most at %.3g Hz \302\261%.2g (every %.3g s); %u segments, 19 of 20 within %.2g to %.2g "
                        "times what is drawn%s",
                        c->name, peak, 0.5 * s->step, 1.0 / peak, s->segments, s->low, s->high, filled);
    GString *to = begin(figure, title);
    g_autofree char *unit = g_strdup_printf("%s%sper root of Hz", c->unit, *c->unit ? " " : "");
    g_string_append(to, "$density << EOD\n");
    for (uint32_t k = 0; k < s->lines; k++) {
        g_string_append_printf(to, "%.9g %.9g\n", s->step * (k + 1.0), s->density[k]);
    }
    g_string_append(to, "EOD\n");
    gnuplot_label(to, "xlabel", "frequency", "Hz");
    gnuplot_label(to, "ylabel", c->name, unit);
    g_string_append_printf(to,
                           "set logscale xy\nset format '%%g'\nset arrow from first %.9g,graph 0 to first %.9g,graph 1 "
                           "nohead dashtype 2 linecolor rgb '#888888'\n"
                           "plot $density using 1:2 with lines linewidth 1.5 linecolor rgb '#0072B2'\n",
                           peak, peak);
    rgp_spectrum_free(s);
    return to;
}
