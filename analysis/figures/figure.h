/* A recording as a picture: panels stacked over one time axis, one a unit, as a script for gnuplot. */
#ifndef ANALYSIS_FIGURES_FIGURE_H
#define ANALYSIS_FIGURES_FIGURE_H

#include "runtime/recording.h"

typedef struct rgp_figure {
    const char *path; /* of the picture; ".png" or ".svg" */
    uint32_t width, height;
    double from, to; /* seconds of the recording; `to` 0: to its end */
    char **names;    /* of the values that are drawn, NULL at the end; NULL: all but what stands in others' panels */
} rgp_figure;

/* The script; the caller frees it. */
GString *rgp_figure_script(const rgp_recording *recording, const rgp_figure *figure);

#endif
