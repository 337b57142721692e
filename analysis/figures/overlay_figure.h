/* Runs over each other: a panel for each value, a line for each kind of run; and below them what the first value of
 * each differs by from that of the first kind. */
#ifndef ANALYSIS_FIGURES_OVERLAY_FIGURE_H
#define ANALYSIS_FIGURES_OVERLAY_FIGURE_H

#include "analysis/course.h"

typedef struct rgp_overlay {
    const char *title;
    char **kind;         /* their names, NULL at the end */
    char **value;        /* names of values, likewise */
    rgp_course **course; /* by value, then by kind; NULL where a kind has none */
} rgp_overlay;

/* The script; the caller frees it. `path`: of the picture, whose ending says its format. */
GString *rgp_overlay_script(const rgp_overlay *overlay, const char *path);

#endif
