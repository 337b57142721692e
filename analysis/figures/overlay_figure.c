/* Runs over each other, and their difference. */
#include "overlay_figure.h"

#include "gnuplot.h"

#include <math.h>
#include <string.h>

#define BUCKETS 1200u

enum { WIDTH = 1280, HEIGHT = 800 };

typedef struct overlaying {
    const rgp_overlay *o;
    guint kinds, values;
    double end; /* seconds */
    GString *to;
} overlaying;

static const rgp_course *course_of(const overlaying *d, guint value, guint kind)
{
    return d->o->course[value * d->kinds + kind];
}

/* As a value, or less that of the first kind at the same time. */
static double value_at(const overlaying *d, const rgp_course *c, guint value, guint i, bool difference)
{
    const rgp_course_point *p = &g_array_index(c->point, rgp_course_point, i);
    return difference ? p->value - rgp_course_at(course_of(d, value, 0), p->time) : p->value;
}

/* Thinned to the least and the greatest of each stretch, so that no spike is lost; broken where nothing can be used. */
static void put_course(const overlaying *d, guint value, guint kind, bool difference)
{
    const rgp_course *c = course_of(d, value, kind);
    const guint points = c ? c->point->len : 0, stretch = points / BUCKETS + 1;
    g_string_append_printf(d->to, "$%c_%u_%u << EOD\n", difference ? 'd' : 'v', value, kind);
    for (guint from = 0; from < points; from += stretch) {
        const guint end = MIN(from + stretch, points);
        guint least = end, greatest = end;
        double low = INFINITY, high = -INFINITY;
        for (guint i = from; i < end; i++) {
            const double is = value_at(d, c, value, i, difference);
            least = is < low ? i : least;
            low = fmin(low, is);
            greatest = is > high ? i : greatest;
            high = fmax(high, is);
        }
        for (int k = 0; k < 2 && least < end; k++) {
            const guint i = k ? MAX(least, greatest) : MIN(least, greatest);
            if (k == 0 || least != greatest) {
                g_string_append_printf(d->to, "%.6f %.9g\n", g_array_index(c->point, rgp_course_point, i).time,
                                       i == least ? low : high);
            }
        }
        if (least == end) {
            g_string_append_c(d->to, '\n');
        }
    }
    g_string_append(d->to, "EOD\n");
}

static const char *unit_of(const overlaying *d, guint value)
{
    for (guint k = 0; k < d->kinds; k++) {
        if (course_of(d, value, k)) {
            return course_of(d, value, k)->unit;
        }
    }
    return "";
}

static void put_axis(const overlaying *d, guint value, bool difference)
{
    const char *unit = difference ? gnuplot_difference(unit_of(d, value)) : unit_of(d, value);
    g_autofree char *name = g_strconcat(d->o->value[value], difference ? ", less that of A" : "", NULL);
    g_autofree char *label = gnuplot_titled(name, unit);
    g_string_append(d->to, "set ylabel ");
    gnuplot_quote(d->to, label);
    g_string_append(d->to, " offset 0.5,0 font ',11' noenhanced\n");
}

/* Names stand at their numbers; the steps between them are drawn upright. */
static bool put_tics(const overlaying *d, guint value, bool difference)
{
    char **part = difference ? NULL : course_of(d, value, 0) ? course_of(d, value, 0)->part : NULL;
    g_string_append(d->to, part ? "set ytics (" : "set ytics autofreq\n");
    for (guint i = 0; part && part[i]; i++) {
        g_auto(GStrv) around = g_strsplit(part[i], "%", -1); /* a tic's text is a format */
        g_autofree char *text = g_strjoinv("%%", around);
        gnuplot_quote(d->to, text);
        g_string_append_printf(d->to, " %u%s", i, part[i + 1] ? ", " : ") noenhanced\n");
    }
    return part != NULL;
}

static void put_lines(const overlaying *d, guint value, bool difference, bool named)
{
    const char *separator = "plot ";
    for (guint k = difference ? 1 : 0; k < d->kinds; k++) {
        if (!course_of(d, value, k)) {
            continue;
        }
        g_string_append_printf(
            d->to, "%s$%c_%u_%u using 1:2 with %s linewidth 1.8 dashtype %s linecolor rgb '%s' title ", separator,
            difference ? 'd' : 'v', value, k, named ? "steps" : "lines", gnuplot_dash(k), gnuplot_color(k));
        g_autofree char *title = g_strdup_printf("%c  %s", 'A' + (char)(k % 26), d->o->kind[k]);
        gnuplot_quote(d->to, title);
        separator = " noenhanced, ";
    }
    g_string_append(d->to, " noenhanced\n");
}

/* The last panel is that of the difference. */
static void put_panel(const overlaying *d, guint number)
{
    const guint panels = d->values + 1;
    const bool last = number + 1 == panels;
    const guint value = last ? 0 : number;
    const double top = 0.83, bottom = 0.085, height = (top - bottom) / panels;
    g_string_append_printf(d->to, "set tmargin at screen %.4f\nset bmargin at screen %.4f\n", top - height * number,
                           top - height * (number + 1) + (last ? 0.0 : 0.025));
    g_string_append(d->to, last ? "set format x '%g'\nset xlabel 'time from there on [s]'\n"
                                : "set format x ''\nunset xlabel\n");
    g_string_append(d->to, number == 0 ? "set key at screen 0.09,0.93 left top vertical maxrows 3 reverse Left\n"
                                       : "unset key\nunset label\n");
    put_axis(d, value, last);
    const bool named = put_tics(d, value, last);
    if (last) {
        g_string_append(d->to, "set arrow from graph 0,first 0 to graph 1,first 0 nohead linecolor rgb '#999999'\n");
    }
    put_lines(d, value, last, named);
}

static double end_of(const overlaying *d)
{
    double end = 0.0;
    for (guint i = 0; i < d->values * d->kinds; i++) {
        const rgp_course *c = d->o->course[i];
        if (c && c->point->len > 0) {
            end = fmax(end, g_array_index(c->point, rgp_course_point, c->point->len - 1).time);
        }
    }
    return end;
}

GString *rgp_overlay_script(const rgp_overlay *o, const char *path)
{
    overlaying d = {
        .o = o, .kinds = g_strv_length(o->kind), .values = g_strv_length(o->value), .to = g_string_new(NULL)};
    d.end = end_of(&d);
    gnuplot_head(d.to, path, WIDTH, HEIGHT);
    for (guint v = 0; v < d.values; v++) {
        for (guint k = 0; k < d.kinds; k++) {
            put_course(&d, v, k, false);
        }
    }
    for (guint k = 1; k < d.kinds; k++) {
        put_course(&d, 0, k, true);
    }
    g_string_append_printf(d.to,
                           "set multiplot\nset lmargin at screen 0.09\nset rmargin at screen 0.97\n"
                           "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
                           "set tics nomirror textcolor rgb '#333333' font ',11'\nset xrange [0:%.6f]\n"
                           "set offsets 0,0,graph 0.06,graph 0.06\nset label ",
                           d.end > 0.0 ? d.end : 1.0);
    gnuplot_quote(d.to, o->title);
    g_string_append(d.to, " at screen 0.09,0.965 left font ',15' noenhanced\n");
    for (guint i = 0; i <= d.values; i++) {
        put_panel(&d, i);
    }
    g_string_append(d.to, "unset multiplot\n");
    return d.to;
}
