/* A threshold and what it was found by, as a picture: how high idle time and events go, what each limit would cost, and
 * when the chosen one fires. */
#ifndef ANALYSIS_FIGURES_THRESHOLD_FIGURE_H
#define ANALYSIS_FIGURES_THRESHOLD_FIGURE_H

#include "analysis/threshold.h"

/* The script; the caller frees it. */
GString *rgp_threshold_script(const rgp_threshold_study *study, const char *path);

#endif
