/* A calibration as a picture: the points, the curve through them, and what each is off by. */
#include "fit_figure.h"

#include "gnuplot.h"

#include <math.h>

enum { WIDTH = 1280, HEIGHT = 800, STEPS = 400 };

#define ROOM 0.06 /* of the range, on either side */

static double shown(const rgp_fit_figure *figure, double out)
{
    return out * figure->gain + figure->offset;
}

static void put_points(GString *to, const rgp_fit *f, const rgp_fit_figure *figure)
{
    g_string_append(to, "$points << EOD\n");
    for (guint i = 0; i < f->points; i++) {
        const rgp_fit_point *p = &f->point[i];
        const double per_in = fabs((rgp_fit_at(f, p->in + p->in_error) - rgp_fit_at(f, p->in - p->in_error)) / 2.0);
        g_string_append_printf(to, "%.9g %.9g %.9g %.9g\n", p->in, shown(figure, p->known),
                               f->residual[i] * figure->gain, 2.0 * per_in * fabs(figure->gain));
    }
    g_string_append(to, "EOD\n");
}

static void put_curve(GString *to, const rgp_fit *f, const rgp_fit_figure *figure, double low, double high)
{
    g_string_append(to, "$curve << EOD\n");
    for (guint i = 0; i <= STEPS; i++) {
        const double in = low + (high - low) * i / STEPS, out = rgp_fit_at(f, in);
        const double error = rgp_fit_error(f, in) * fabs(figure->gain);
        if (isfinite(out)) {
            g_string_append_printf(to, "%.9g %.9g %.9g\n", in, shown(figure, out), isfinite(f->expected) ? error : 0.0);
        }
    }
    g_string_append(to, "EOD\n");
}

GString *rgp_fit_figure_script(const rgp_fit *f, const rgp_fit_figure *figure)
{
    GString *to = g_string_new(NULL);
    const double first = f->point[0].in, last = f->point[f->points - 1].in;
    const double room = last > first ? ROOM * (last - first) : fmax(fabs(first), 1.0) * ROOM;
    gnuplot_head(to, figure->path, WIDTH, HEIGHT);
    put_points(to, f, figure);
    put_curve(to, f, figure, first, last);
    g_string_append_printf(to,
                           "set multiplot\nset lmargin at screen 0.1\nset rmargin at screen 0.96\n"
                           "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
                           "set tics nomirror textcolor rgb '#333333'\nset xrange [%.9g:%.9g]\n"
                           "set tmargin at screen 0.92\nset bmargin at screen 0.42\nset format x ''\n"
                           "set key top %s noenhanced reverse Left\nset title ",
                           first - room, last + room, rgp_fit_at(f, first) < rgp_fit_at(f, last) ? "left" : "right");
    gnuplot_quote(to, figure->title);
    g_string_append(to, " font ',15' noenhanced\n");
    gnuplot_label(to, "ylabel", figure->out_label, figure->out_unit);
    g_string_append(to,
                    "plot $curve using 1:2 with lines linewidth 2 linecolor rgb '#3465A4' title 'as written into the "
                    "file', $points using 1:2 with points pointtype 7 pointsize 1.4 linecolor rgb '#CC4400' title "
                    "'captures'\nunset title\nset tmargin at screen 0.38\nset bmargin at screen 0.1\nset format x "
                    "'%g'\nset key top right\nset autoscale y\nset offsets 0,0,graph 0.45,graph 0.1\n");
    gnuplot_label(to, "xlabel", figure->in_label, figure->in_unit);
    gnuplot_label(to, "ylabel", "off by", figure->out_unit);
    g_string_append(
        to,
        "plot $curve using 1:3:(-$3) with filledcurves linecolor rgb '#DCE6F2' title 'expected error (19 of 20)', 0 "
        "with lines linecolor rgb '#999999' notitle, $points using 1:3:4 with yerrorbars pointtype 7 pointsize 1.2 "
        "linecolor rgb '#CC4400' title 'known less curve, with the noise of the capture'\nunset multiplot\n");
    return to;
}
