/* Shared by the files that find gains. */
#ifndef ANALYSIS_SUGGESTION_PARTS_H
#define ANALYSIS_SUGGESTION_PARTS_H

#include "suggestion.h"

/* The share of the output's travel by which the noise of a reading moves it with these gains, over what it may. */
double suggestion_rattle(const rgp_suggestion_ask *ask, const rgp_pid_gains *gains);

/* Gains for a process that falls; the plants of `to` are there. False when it falls too fast for this loop. */
bool suggestion_falling(const rgp_suggestion_ask *ask, rgp_suggestion *to);

#endif
