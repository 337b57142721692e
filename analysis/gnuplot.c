#include "gnuplot.h"

#include "rigpulse/lang.h"

/* Within single quotes gnuplot knows nothing but their end: no escapes, no commands in backquotes. A line end would be
 * one, but no control character is left. */
void gnuplot_quote(GString *to, const char *text)
{
    g_autofree char *shown = rp_make_printable(g_strdup(text), false);
    g_string_append_c(to, '\'');
    for (const char *at = shown; *at; at++) {
        g_string_append(to, *at == '\'' ? "''" : (const char[]){*at, '\0'});
    }
    g_string_append_c(to, '\'');
}

void gnuplot_head(GString *to, const char *path, guint width, guint height)
{
    g_string_append_printf(
        to, "set terminal %s size %u,%u font 'DejaVu Sans,12' background rgb 'white'\nset encoding utf8\n",
        g_str_has_suffix(path, ".svg") ? "svg" : "pngcairo", width, height);
}
