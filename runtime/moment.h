/* A moment of a run by a person's words: a time, the name of a mark, or 'line N' for the first firing of that rule. */
#ifndef RUNTIME_MOMENT_H
#define RUNTIME_MOMENT_H

#include "history.h"

/* False when it is none of them. */
bool rgp_moment_of(const rgp_history *history, const char *text, double *seconds);

#endif
