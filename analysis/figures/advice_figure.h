/* Advice on a loop as a picture: what was measured and driven, and where in it the evidence for each cause lies. */
#ifndef ANALYSIS_FIGURES_ADVICE_FIGURE_H
#define ANALYSIS_FIGURES_ADVICE_FIGURE_H

#include "analysis/loop_advice.h"

#include <glib.h>

typedef struct rgp_advice_picture {
    const char *loop;
    const char *unit, *drive_unit; /* of what is measured, and driven; "" for none */
} rgp_advice_picture;

/* The script; the caller frees it. */
GString *rgp_advice_script(const GPtrArray *pieces, const GArray *advices, const rgp_advice_picture *picture,
                           const char *path);

#endif
