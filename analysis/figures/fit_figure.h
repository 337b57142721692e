/* A fit as a picture: the points on their curve, and below it what each is off by, as a script for gnuplot. */
#ifndef ANALYSIS_FIGURES_FIT_FIGURE_H
#define ANALYSIS_FIGURES_FIT_FIGURE_H

#include "analysis/fit.h"

typedef struct rgp_fit_figure {
    const char *path, *title;
    const char *in_label, *in_unit, *out_label, *out_unit;
    double gain, offset; /* shown = the curve's * gain + offset */
} rgp_fit_figure;

/* The script; the caller frees it. */
GString *rgp_fit_figure_script(const rgp_fit *fit, const rgp_fit_figure *figure);

#endif
