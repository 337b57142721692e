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

/* The sign of a unit's word, as the language has it, behind a prefix or not; NULL: it has none but its word. */
static const char *sign_of(const char *word)
{
    rgp_word is;
    const char *sign = NULL;
    for (uint32_t i = 0; rgp_word_at(i, &is); i++) {
        if (strcmp(is.group, "unit") == 0 && strcmp(is.word, word) == 0) {
            sign = g_str_is_ascii(is.form) ? is.word : is.form;
        }
    }
    return sign;
}

static void put_part(GString *to, const char *part)
{
    const char *sign = sign_of(part);
    const char *rest = !sign && strchr("numckM", *part) ? sign_of(part + 1) : NULL;
    if (rest && *part == 'u') {
        g_string_append(to, "µ");
    } else if (rest) {
        g_string_append_c(to, *part);
    }
    g_string_append(to, sign ? sign : rest ? rest : part);
}

char *gnuplot_unit(const char *unit)
{
    GString *all = g_string_new(NULL);
    while (*unit) {
        const size_t length = MAX(strcspn(unit, "/* "), 1u);
        g_autofree char *part = g_strndup(unit, length);
        put_part(all, part);
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
