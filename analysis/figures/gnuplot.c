/* Runs gnuplot on a script that is data to it alone, and puts the picture in its place when it is whole. */
#include "gnuplot.h"

#include "rigpulse/lang.h"

#include <stdbool.h>
#include <math.h>
#include <string.h>

/* Everything that could mean something to gnuplot is written by its number, which is looked at last of all. */
void gnuplot_quote(GString *to, const char *text)
{
    g_autofree char *shown = rgp_make_printable(g_strdup(text), false);
    g_string_append_c(to, '"');
    for (const char *at = shown; *at; at++) {
        const bool plain = g_ascii_isalnum(*at) || (unsigned char)*at >= 0x80 || strchr(" .,:;-+/_()[]%=<>", *at);
        g_string_append_printf(to, plain ? "%c" : "\\%03o", plain ? *at : (unsigned char)*at);
    }
    g_string_append_c(to, '"');
}

char *gnuplot_unit(const char *unit)
{
    static const char *const signs[][2] = {{"degC", "°C"}, {"degF", "°F"}, {"degR", "°R"}, {"deg", "°"}, {"ohm", "Ω"}};
    GString *all = g_string_new(NULL);
    while (*unit) {
        const size_t length = MAX(strcspn(unit, "/* "), 1u);
        const char *sign = NULL;
        for (size_t i = 0; i < G_N_ELEMENTS(signs); i++) {
            sign = strlen(signs[i][0]) == length && strncmp(signs[i][0], unit, length) == 0 ? signs[i][1] : sign;
        }
        g_string_append_len(all, sign ? sign : unit, sign ? -1 : (gssize)length);
        unit += length;
    }
    return g_string_free(all, FALSE);
}

const char *gnuplot_difference(const char *unit)
{
    return strcmp(unit, "degC") == 0 ? "K" : strcmp(unit, "degF") == 0 ? "degR" : unit;
}

char *gnuplot_titled(const char *name, const char *unit)
{
    g_autofree char *sign = gnuplot_unit(unit);
    return g_strdup_printf(*unit ? "%s%s[%s]" : "%s%s%s", name, *unit && *name ? " " : "", sign);
}

void gnuplot_label(GString *to, const char *what, const char *name, const char *unit)
{
    g_autofree char *title = gnuplot_titled(name, unit);
    g_string_append_printf(to, "set %s ", what);
    gnuplot_quote(to, title);
    g_string_append(to, " noenhanced\n");
}

void gnuplot_head(GString *to, const char *path, guint width, guint height)
{
    g_string_append_printf(
        to, "set terminal %s size %u,%u font 'DejaVu Sans,12' background rgb 'white'\nset encoding utf8\n",
        g_str_has_suffix(path, ".svg") ? "svg" : "pngcairo", width, height);
}

double gnuplot_step(double range, double most)
{
    const double raw = range / most, power = pow(10.0, floor(log10(raw))), share = raw / power;
    return power * (share <= 1.0 ? 1.0 : share <= 2.0 ? 2.0 : share <= 5.0 ? 5.0 : 10.0);
}

const char *gnuplot_color(guint k)
{
    static const char *const color[] = {"#0072B2", "#D55E00", "#009E73", "#CC79A7", "#E69F00", "#56B4E9", "#000000"};
    return color[k % G_N_ELEMENTS(color)];
}

const char *gnuplot_dash(guint k)
{
    static const char *const dash[] = {"solid", "(9,3)", "(3,2)", "(12,3,3,3)", "(6,2,2,2,2,2)"};
    return dash[k % G_N_ELEMENTS(dash)];
}
