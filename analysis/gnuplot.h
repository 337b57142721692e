/* What all scripts for gnuplot begin with, and how they quote. */
#ifndef ANALYSIS_GNUPLOT_H
#define ANALYSIS_GNUPLOT_H

#include <glib.h>

void gnuplot_quote(GString *to, const char *text);

/* The terminal that goes with the path's ending, the output, and the encoding. */
void gnuplot_head(GString *to, const char *path, guint width, guint height);

#endif
