/* Hints that a recorded run gives about its rules, guards, actuators and sequences, each with what it counted. */
#ifndef ANALYSIS_RULE_ADVICE_H
#define ANALYSIS_RULE_ADVICE_H

#include "runtime/recording.h"

#include <glib.h>

typedef struct rgp_hint {
    char *says;       /* a sentence without a full stop, with what it counted */
    const char *next; /* what to do, or to try; a constant, or NULL */
} rgp_hint;

/* An 'on' chatters when a third of at least RGP_CHATTER_LEAST firings come within half a second, or ten ticks, of the
 * one before. One that never fired is told where it nearly did (analysis/near.h). Two rules that fire in the same
 * tick, each time and often, are a pair. A guard is told of that keeps an actuator for more than half of the time, an
 * actuator that is taken from one owner by another again and again, or is at its least power most of the time, a rule
 * that drops twice as many events as it takes, and a sequence that has never come to its end. An array of rgp_hint,
 * freed by g_ptr_array_unref(); empty: nothing was found. */
#define RGP_CHATTER_LEAST 4u
GPtrArray *rgp_hints_of(const rgp_recording *recording);

#endif
