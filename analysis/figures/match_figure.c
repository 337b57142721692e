/* A panel a sensor over one time, and one below for what is left over. */
#include "match_figure.h"

#include "gnuplot.h"

#include <math.h>

enum { WIDTH = 1280, HEIGHT = 800, POINTS = 3000, SENSORS = 3 };

static void put_number(GString *to, double value)
{
    g_string_append_printf(to, isnan(value) ? " NaN" : " %.9g", value);
}

/* Rows in which that sensor has a reading: of one that is slower than the tick most hold none. */
static void put_rows(GString *to, const rgp_match *m, uint32_t k)
{
    const rgp_match_sensor *s = &m->sensor[k];
    size_t readings = 0, number = 0;
    for (size_t i = 0; i < m->rows; i++) {
        readings += isnan(s->reading[i]) ? 0 : 1;
    }
    const size_t stride = 1 + readings / POINTS;
    g_string_append_printf(to, "$of%u << EOD\n", k);
    for (size_t i = 0; i < m->rows; i++) {
        if (isnan(s->reading[i]) || number++ % stride != 0) {
            continue;
        }
        g_string_append_printf(to, "%.6f", m->begin_s + (double)i * m->row_s);
        put_number(to, s->reading[i]);
        put_number(to, s->written[i]);
        put_number(to, s->matched[i]);
        put_number(to, (s->reading[i] - s->matched[i]) / s->noise);
        g_string_append_c(to, '\n');
    }
    g_string_append(to, "EOD\n");
}

static void put_panel(GString *to, double top, double bottom, const char *label)
{
    g_string_append_printf(to, "set tmargin at screen %.3f\nset bmargin at screen %.3f\nset ylabel ", top, bottom);
    gnuplot_quote(to, label);
    g_string_append(to, " noenhanced\n");
}

static void put_left(GString *to, const rgp_match *m, const rgp_image_header *image, uint32_t sensors)
{
    g_string_append(to, "set format x '%g'\nset xlabel \"time [s]\"\nplot ");
    for (uint32_t k = 0; k < sensors; k++) {
        g_string_append_printf(to, "%s$of%u using 1:5 with points pointtype 7 pointsize 0.3 linecolor rgb '%s' title ",
                               k ? ", " : "", k, gnuplot_color(k + 2));
        gnuplot_quote(to, rgp_image_text(image, RGP_NAME_SLOT, rgp_image_sensor_slot(image, m->sensor[k].sensor), 0));
        g_string_append(to, " noenhanced");
    }
    g_string_append(to, "\nunset multiplot\n");
}

GString *rgp_match_script(const rgp_match *m, const rgp_image_header *image, const char *path)
{
    GString *to = g_string_new(NULL);
    const uint32_t sensors = MIN(m->sensors, SENSORS);
    const double each = 0.62 / sensors;
    g_autofree char *title = g_strdup_printf("the matched mechanism explains %.2f %% of what moved", m->fit);
    gnuplot_head(to, path, WIDTH, HEIGHT);
    for (uint32_t k = 0; k < sensors; k++) {
        put_rows(to, m, k);
    }
    g_string_append_printf(to,
                           "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
                           "set tics nomirror textcolor rgb '#333333'\nset lmargin at screen 0.09\n"
                           "set rmargin at screen 0.97\nset xrange [%.6f:%.6f]\nset multiplot\nset title ",
                           m->begin_s, m->begin_s + (double)m->rows * m->row_s);
    gnuplot_quote(to, title);
    g_string_append(to, " font ',15' noenhanced\nset format x ''\nset key top left opaque\n");
    for (uint32_t k = 0; k < sensors; k++) {
        g_autofree char *label = g_strdup_printf(
            "%s [counts]", rgp_image_text(image, RGP_NAME_SLOT, rgp_image_sensor_slot(image, m->sensor[k].sensor), 0));
        put_panel(to, 0.93 - k * each, 0.93 - (k + 1) * each + 0.02, label);
        g_string_append_printf(to,
                               "plot $of%u using 1:2 with points pointtype 7 pointsize 0.35 linecolor rgb '#56B4E9' "
                               "title \"recorded\", $of%u using 1:3 with lines linewidth 1.5 dashtype 2 linecolor rgb "
                               "'#888888' title \"as it was written\", $of%u using 1:4 with lines linewidth 2 "
                               "linecolor rgb '#D55E00' "
                               "title \"matched\"\nunset title\n",
                               k, k, k);
    }
    put_panel(to, 0.28, 0.09, "left over [noises]");
    put_left(to, m, image, sensors);
    return to;
}
