/* Firings over the values of a parameter: a line a rule, filled points where the replay is exact to its end. */
#include "variation_figure.h"

#include "gnuplot.h"

/* STYLES: of lines and points, so that of two rules that fire equally often both are seen. */
enum { WIDTH = 1280, HEIGHT = 800, STYLES = 4 };

static const char *const color_of[] = {"#3465A4", "#CC4400", "#4E9A06", "#75507B", "#C17D11", "#06989A", "#A40000"};

/* A row a value: it, 1 where the replay is exact to its end, the firings of each rule. */
static void put_counts(GString *to, const rgp_variation *v, const rgp_recording *from)
{
    g_string_append(to, "$counts << EOD\n");
    for (uint32_t n = 0; n < v->values; n++) {
        g_string_append_printf(to, "%.9g %d", v->value[n], v->exact[n] == from->rows);
        for (uint32_t k = 0; k < v->rules; k++) {
            g_string_append_printf(to, " %u", v->firings[n * v->rules + k]);
        }
        g_string_append_c(to, '\n');
    }
    g_string_append(to, "EOD\n");
}

static void put_title(GString *to, const rgp_variation *v, const rgp_recording *from)
{
    const double begin = (double)rgp_recording_time_us(from, 0) / 1e6,
                 end = (double)rgp_recording_time_us(from, from->rows - 1) / 1e6;
    g_autofree char *title = g_strdup_printf("%s: firings in %u recorded rows, %g to %g s",
                                             rgp_image_text(v->rig->image, RGP_NAME_RIG, 0, 0), from->rows, begin, end);
    g_string_append(to, "set title ");
    gnuplot_quote(to, title);
    g_string_append(to, " font ',15' noenhanced\nset xlabel ");
    const char *unit = rgp_image_unit(v->rig->image, RGP_NAME_SLOT, v->param, 0);
    g_autofree char *label = gnuplot_titled(rgp_image_text(v->rig->image, RGP_NAME_SLOT, v->param, 0), unit);
    gnuplot_quote(to, label);
    g_string_append(to, " noenhanced\nset ylabel \"firings\"\n");
}

/* The value of the rig's text, when it lies among the others. */
static void put_present(GString *to, const rgp_variation *v)
{
    const rgp_image_param *is = (const rgp_image_param *)rgp_image_at(v->rig->image, RGP_SECTION_PARAMS) + v->param;
    const double present = (double)is->initial;
    if (present >= v->value[0] && present <= v->value[v->values - 1]) {
        g_string_append_printf(to,
                               "set arrow from first %.9g,graph 0 to first %.9g,graph 1 nohead dashtype 2 linecolor "
                               "rgb '#888888'\nset label \"in the text\" at first %.9g,graph 0.97 offset "
                               "character 0.7,0 textcolor rgb '#666666'\n",
                               present, present, present);
    }
}

static bool fires_ever(const rgp_variation *v, uint32_t k)
{
    uint32_t all = 0;
    for (uint32_t n = 0; n < v->values; n++) {
        all += v->firings[n * v->rules + k];
    }
    return all > 0;
}

static void put_points(GString *to, uint32_t k, const char *color)
{
    for (int whole = 0; whole < 2; whole++) {
        g_autofree char *value = g_strdup_printf(whole ? "$2 > 0 ? $%u : NaN" : "$2 > 0 ? NaN : $%u", k + 3);
        g_string_append_printf(to,
                               "$counts using 1:(%s) with points pointtype %d pointsize %g linewidth 1.5 linecolor "
                               "rgb '%s' notitle, ",
                               value, whole ? 7 : 6, 1.9 - 0.4 * (k % STYLES), color);
    }
}

/* Rules that never fire lie on one another: they are a grey line without points. */
static void put_rule(GString *to, const rgp_variation *v, uint32_t k)
{
    const bool fires = fires_ever(v, k);
    const char *color = fires ? color_of[k % G_N_ELEMENTS(color_of)] : "#AAAAAA";
    const rgp_image_name *rule = rgp_image_name_of(v->rig->image, RGP_NAME_RULE, k, 0);
    g_autofree char *label = g_strdup_printf(
        "line %u: %s%s", rule->line, rgp_image_text(v->rig->image, RGP_NAME_RULE, k, 0), fires ? "" : ": never");
    g_string_append_printf(to, "$counts using 1:%u with lines linewidth 1.5 dashtype %u linecolor rgb '%s' title ",
                           k + 3, k % STYLES + 1, color);
    gnuplot_quote(to, label);
    g_string_append(to, " noenhanced, ");
    if (fires) {
        put_points(to, k, color);
    }
}

GString *rgp_variation_script(const rgp_variation *v, const rgp_recording *from, const char *path)
{
    GString *to = g_string_new(NULL);
    const double room = 0.04 * (v->value[v->values - 1] - v->value[0]);
    gnuplot_head(to, path, WIDTH, HEIGHT);
    put_counts(to, v, from);
    put_title(to, v, from);
    g_string_append_printf(to,
                           "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
                           "set tics nomirror textcolor rgb '#333333'\nset key tmargin left vertical maxrows 8 "
                           "reverse Left\nset xrange [%.9g:%.9g]\nset yrange [0:*]\nset offsets 0,0,graph 0.08,0\n",
                           v->value[0] - room, v->value[v->values - 1] + room);
    put_present(to, v);
    g_string_append(to, "plot ");
    for (uint32_t k = 0; k < v->rules; k++) {
        put_rule(to, v, k);
    }
    g_string_append(to, "NaN with points pointtype 6 pointsize 1.6 linecolor rgb '#333333' title \"hollow: not "
                        "exact to the end\"\n");
    return to;
}
