#include "gnuplot.h"

void gnuplot_quote(GString *to, const char *text)
{
    g_string_append_c(to, '"');
    for (; *text; text++) {
        if (*text == '"' || *text == '\\' || *text == '`') {
            g_string_append_c(to, '\\');
        }
        g_string_append_c(to, *text);
    }
    g_string_append_c(to, '"');
}

void gnuplot_head(GString *to, const char *path, guint width, guint height)
{
    g_string_append_printf(to, "set terminal %s size %u,%u font 'DejaVu Sans,12' background rgb 'white'\nset output ",
                           g_str_has_suffix(path, ".svg") ? "svg" : "pngcairo", width, height);
    gnuplot_quote(to, path);
    g_string_append(to, "\nset encoding utf8\n");
}
