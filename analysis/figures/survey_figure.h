/* A survey as a picture: over one parameter a curve with its worlds, over two a map. */
#ifndef ANALYSIS_FIGURES_SURVEY_FIGURE_H
#define ANALYSIS_FIGURES_SURVEY_FIGURE_H

#include "analysis/survey.h"

/* The script; the caller frees it. */
GString *rgp_survey_script(const rgp_survey *survey, const char *path);

#endif
