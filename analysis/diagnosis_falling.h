/* A loop that holds up what falls without it: its signs are by how much less sensitive a change of each gain makes it.
 */
#ifndef ANALYSIS_DIAGNOSIS_FALLING_H
#define ANALYSIS_DIAGNOSIS_FALLING_H

#include "diagnosis_parts.h"

/* Puts its model, its margins and its signs where it is one. `other`: the best model that does not fall, and the share
 * that it explains. */
bool diagnosis_falls(diagnosed *d, const rgp_process *other, double explained);

/* Of the changes of a gain that go with a cause, with a filter of a step at least, the one after which it is least
 * sensitive, and by how many times less; 0: there is none. */
double diagnosis_falling_move(const rgp_diagnosis *d, const rgp_loop_run *run, rgp_cause cause, rgp_pid_gains *to);

/* It is held up by these gains, too, with some room. */
bool diagnosis_falling_holds(const rgp_diagnosis *d, const rgp_pid_gains *gains);

#endif
