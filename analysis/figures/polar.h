/* A sensor's view from a turning arm, drawn around it. */
#ifndef ANALYSIS_FIGURES_POLAR_H
#define ANALYSIS_FIGURES_POLAR_H

#include "figure.h"

/* `value` at the angle that `place` had then, for every row in which both can be used: the last pass dark, earlier ones
 * light; and where `found` (a slot with an angle; below 0: none) says the thing is at the end. NULL, and the reason in
 * *why to be freed, when `place` is no angle or nothing is to be seen. The caller frees the script. */
GString *rgp_polar_script(const rgp_recording *recording, uint32_t value, uint32_t place, int32_t found,
                          const rgp_figure *figure, char **why);

#endif
