/* Three panels over one time: driven, measured with the model, residual. */
#include "process_figure.h"

#include "gnuplot.h"

#include <math.h>

enum { WIDTH = 1280, HEIGHT = 800, POINTS = 3000 };

#define LOW_TICS 6.0
#define MARGIN   0.03 /* of the range */

static void put_rows(GString *to, const rgp_process *p, const rgp_process_data *d, double begin_s)
{
    const size_t stride = 1 + d->count / POINTS;
    g_string_append(to, "$rows << EOD\n");
    for (size_t i = 0; i < d->count; i += stride) {
        g_string_append_printf(to, "%.6f %.9g %.9g\n", begin_s + (double)i * d->tick, d->driven[i], p->fitted[i]);
    }
    g_string_append(to, "EOD\n");
}

/* Of a sensor that is slower than the tick most rows hold none. */
static void put_readings(GString *to, const rgp_process *p, const rgp_process_data *d, double begin_s)
{
    size_t readings = 0, number = 0;
    for (size_t i = 0; i < d->count; i++) {
        readings += isnan(d->measured[i]) ? 0 : 1;
    }
    const size_t stride = 1 + readings / POINTS;
    g_string_append(to, "$readings << EOD\n");
    for (size_t i = 0; i < d->count; i++) {
        if (!isnan(d->measured[i]) && number++ % stride == 0) {
            g_string_append_printf(to, "%.6f %.9g %.9g\n", begin_s + (double)i * d->tick, d->measured[i],
                                   d->measured[i] - p->fitted[i]);
        }
    }
    g_string_append(to, "EOD\n");
}

static void put_place(GString *to, double top, double bottom)
{
    g_string_append_printf(to, "set tmargin at screen %.3f\nset bmargin at screen %.3f\n", top, bottom);
}

/* A line through all panels where a load came, told in the top one by itself. */
static void put_loads(GString *to, const rgp_process *p, double begin_s)
{
    for (size_t i = 0; i < p->loads; i++) {
        g_string_append_printf(to,
                               "set arrow from %.9g, graph 0 to %.9g, graph 1 nohead dashtype 2 linewidth 1.4 "
                               "linecolor rgb '#666666'\n",
                               begin_s + p->came[i].at.value, begin_s + p->came[i].at.value);
    }
}

/* With as many numbers as a low panel has room for. */
static void put_low_axis(GString *to, double low, double high)
{
    const double room = MARGIN * (high - low);
    if (high > low) {
        g_string_append_printf(to, "set yrange [%.9g:%.9g]\nset ytics %.9g\n", low - room, high + room,
                               gnuplot_step(high - low, LOW_TICS));
    }
}

/* The axis goes as far up as down. Rows that were not measured, or not fitted, leave a NAN, of which fmax() takes the
 * other one. */
static void put_left_axis(GString *to, const rgp_process *p, const rgp_process_data *d)
{
    double most = 0.0;
    for (size_t i = 0; i < d->count; i++) {
        most = fmax(most, fabs(d->measured[i] - p->fitted[i]));
    }
    put_low_axis(to, -most, most);
}

static void put_driven_axis(GString *to, const rgp_process_data *d)
{
    double low = INFINITY, high = -INFINITY;
    for (size_t i = 0; i < d->count; i++) {
        low = fmin(low, d->driven[i]);
        high = fmax(high, d->driven[i]);
    }
    put_low_axis(to, low, high);
}

GString *rgp_process_script(const rgp_process *p, const rgp_process_data *d, const rgp_process_picture *picture,
                            const char *path)
{
    GString *to = g_string_new(NULL);
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    g_autofree char *title =
        integral
            ? g_strdup_printf("an integral behind a dead time of %.4g s; it explains %.1f %%", p->dead.value, p->fit)
        : p->kind == RGP_PROCESS_FALLING
            ? g_strdup_printf("it falls by e in %.4g s; it explains %.1f %% of what beginnings each %.2g s do not",
                              p->lag.value, p->fit, 1.5 * p->lag.value)
            : g_strdup_printf("lag %.4g s, dead time %.4g s; it explains %.1f %%", p->lag.value, p->dead.value, p->fit);
    gnuplot_head(to, path, WIDTH, HEIGHT);
    put_rows(to, p, d, picture->begin_s);
    put_readings(to, p, d, picture->begin_s);
    g_string_append_printf(
        to,
        "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
        "set tics nomirror textcolor rgb '#333333'\nset lmargin at screen 0.09\nset rmargin at screen "
        "0.97\nset xrange [%.6f:%.6f]\nset multiplot\nset title ",
        picture->begin_s, picture->begin_s + (double)d->count * d->tick);
    gnuplot_quote(to, title);
    g_string_append(to, " font ',15' noenhanced\n");
    put_loads(to, p, picture->begin_s);
    put_place(to, 0.93, 0.45);
    gnuplot_label(to, "ylabel", picture->measured, picture->measured_unit);
    g_string_append(to, "set format x ''\nset key top left opaque\n"
                        "plot $readings using 1:2 with points pointtype 7 pointsize 0.35 linecolor rgb '#56B4E9' title "
                        "\"measured\", $rows using 1:3 with lines linewidth 2 linecolor rgb '#D55E00' title \"model\"\n"
                        "unset title\nunset key\n");
    put_place(to, 0.42, 0.27);
    gnuplot_label(to, "ylabel", "left over", picture->moved_unit);
    put_left_axis(to, p, d);
    g_string_append(to, "plot $readings using 1:3 with points pointtype 7 pointsize 0.3 linecolor rgb '#009E73'\n"
                        "set yrange [*:*]\nset ytics autofreq\n");
    put_place(to, 0.24, 0.09);
    gnuplot_label(to, "ylabel", picture->driven, picture->driven_unit);
    put_driven_axis(to, d);
    g_string_append(to, "set format x '%g'\nset xlabel \"time [s]\"\n"
                        "plot $rows using 1:2 with steps linewidth 1.6 linecolor rgb '#0072B2'\nunset multiplot\n");
    return to;
}
