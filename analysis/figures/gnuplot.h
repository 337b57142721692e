/* The head of all scripts for gnuplot, and their quoting. */
#ifndef ANALYSIS_FIGURES_GNUPLOT_H
#define ANALYSIS_FIGURES_GNUPLOT_H

#include <glib.h>

/* A text as one of gnuplot's: data, whatever is in it. */
void gnuplot_quote(GString *to, const char *text);

/* A unit as it is typeset, "W/°C" of "W/degC". To be freed. */
char *gnuplot_unit(const char *unit);

/* The unit of what lies between two values: of points on a temperature scale that of a difference. A constant, or
 * `unit`. */
const char *gnuplot_difference(const char *unit);

/* "warmth [°C]", or the name alone. To be freed. */
char *gnuplot_titled(const char *name, const char *unit);

/* The line that puts such a title: `what` is "xlabel", "ylabel", ... */
void gnuplot_label(GString *to, const char *what, const char *name, const char *unit);

/* 1, 2 or 5 times a power of ten, so that about `most` of them fill the range. */
double gnuplot_step(double range, double most);

/* The terminal that goes with the path's ending, and the encoding. The picture comes out of standard output. */
void gnuplot_head(GString *to, const char *path, guint width, guint height);

/* Of line k: a colour that people with any colour vision can tell from the others (Okabe and Ito, 2002), and a dash for
 * who prints without any. */
const char *gnuplot_color(guint k);
const char *gnuplot_dash(guint k);

#endif
