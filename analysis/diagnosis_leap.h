/* A leap: where a model explains all but all of a stretch, the gains of the rule for it in one trial. */
#ifndef ANALYSIS_DIAGNOSIS_LEAP_H
#define ANALYSIS_DIAGNOSIS_LEAP_H

#include "diagnosis_telling.h"

/* The gains of the rule for the model of the stretch, for a loop that is so slow that it has room by that model, and
 * that neither P nor I is more than four times what it is: a model knows a mechanism as quickly as the loop has moved
 * it. No less than a quarter is left of either. False: that model is none to build so much on, or there are no such
 * gains. */
bool rgp_leap(const telling *t, rgp_pid_gains *to);

#endif
