/* A recording as a picture: panels stacked over one time axis, one a unit, as a script for gnuplot. */
#ifndef ANALYSIS_FIGURES_FIGURE_H
#define ANALYSIS_FIGURES_FIGURE_H

#include "runtime/recording.h"

typedef struct rp_figure {
    const char *path; /* of the picture; ".png" or ".svg" */
    uint32_t width, height;
} rp_figure;

/* The script; the caller frees it. */
GString *rp_figure_script(const rp_recording *recording, const rp_figure *figure);

#endif
