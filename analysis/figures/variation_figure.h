/* The count of firings of each rule by a parameter's value, as a script for gnuplot. */
#ifndef ANALYSIS_FIGURES_VARIATION_FIGURE_H
#define ANALYSIS_FIGURES_VARIATION_FIGURE_H

#include "analysis/variation.h"

/* `path`: of the picture, ".png" or ".svg". The script; the caller frees it. */
GString *rgp_variation_script(const rgp_variation *variation, const rgp_recording *from, const char *path);

#endif
