/* The timers of rules in a recording that was read back. */
#ifndef RUNTIME_RULE_TIMERS_H
#define RUNTIME_RULE_TIMERS_H

#include "recording.h"

/* Fills the columns of the rules; the events have been read. */
void rgp_recording_put_timers(const rgp_recording *r);

#endif
