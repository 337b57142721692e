/* One or two values of a run in other forms than over time: one over another, how often which, and by frequency. */
#ifndef ANALYSIS_FIGURES_COURSE_FIGURE_H
#define ANALYSIS_FIGURES_COURSE_FIGURE_H

#include "figure.h"

#include "analysis/course.h"

/* The scripts; the caller frees them. NULL with *why, to be freed: it cannot be drawn. */

/* `second` over `first`, point by point; both of one recording. */
GString *rgp_xy_script(const rgp_course *first, const rgp_course *second, const rgp_figure *figure, char **why);

/* A histogram: bars as wide as Freedman and Diaconis (1981) say, and never narrower than the smallest step
 * between two values, so that whole numbers make no comb. */
GString *rgp_histogram_script(const rgp_course *course, const rgp_figure *figure, char **why);

/* As of analysis/spectrum.h. */
GString *rgp_spectrum_script(const rgp_course *course, const rgp_figure *figure, char **why);

#endif
