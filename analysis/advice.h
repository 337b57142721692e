/* The findings of an inspection in words: what is suspicious, and which stage or word would help. */
#ifndef ANALYSIS_ADVICE_H
#define ANALYSIS_ADVICE_H

#include "inspect.h"

/* Fewer readings than that tell nothing. */
#define RGP_INSPECT_LEAST 20u

/* Fills findings->advice from the other figures. */
void rgp_advise(const rgp_series *series, rgp_findings *findings);

#endif
