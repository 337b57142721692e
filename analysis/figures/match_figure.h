/* A match as a picture: what each sensor read, what it reads of the matched mechanism, and what is left over. */
#ifndef ANALYSIS_FIGURES_MATCH_FIGURE_H
#define ANALYSIS_FIGURES_MATCH_FIGURE_H

#include "analysis/match.h"

#include "rigpulse/image.h"

/* The script; the caller frees it. Of more than three sensors the first three are drawn. */
GString *rgp_match_script(const rgp_match *match, const rgp_image_header *image, const char *path);

#endif
