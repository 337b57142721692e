/* A fitted process as a picture: what was driven, what was measured and the model's answer, and what it leaves. */
#ifndef ANALYSIS_FIGURES_PROCESS_FIGURE_H
#define ANALYSIS_FIGURES_PROCESS_FIGURE_H

#include "analysis/process.h"

#include <glib.h>

typedef struct rgp_process_picture {
    const char *measured, *measured_unit, *moved_unit; /* `moved_unit` of its differences */
    const char *driven, *driven_unit;
    double begin_s; /* time of the first row */
} rgp_process_picture;

/* The script; the caller frees it. */
GString *rgp_process_script(const rgp_process *process, const rgp_process_data *data,
                            const rgp_process_picture *picture, const char *path);

#endif
