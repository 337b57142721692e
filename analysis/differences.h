/* The differences between a recorded run and another one over the same rows, such as its replay: in which signals, from
 * where on and how far; which events came then and not now, or now and not then, or at another time. */
#ifndef ANALYSIS_DIFFERENCES_H
#define ANALYSIS_DIFFERENCES_H

#include "runtime/recording.h"

#define RGP_NO_ROW UINT32_MAX

/* A signal, parameter, sensor or actuator that both runs have. Rows differ where the values do, or their qualities. */
typedef struct rgp_signal_difference {
    const char *name, *unit; /* the other run's */
    uint32_t slot;           /* likewise */
    uint32_t rows;           /* that differ */
    uint32_t first, most_at; /* row; of `most` RGP_NO_ROW: they differ in quality alone */
    double most;             /* how far apart the values are at most, where both can be used */
} rgp_signal_difference;

/* Two events of one kind and subject, one of each run. RGP_NO_ROW: the run has none that goes with the other one. */
typedef struct rgp_event_pair {
    uint32_t then, now;                           /* rows */
    const rgp_occurrence *event_then, *event_now; /* NULL: none */
} rgp_event_pair;

typedef struct rgp_event_difference {
    uint8_t kind;
    const char *of; /* the other run's; of one that it does not have, the recorded run's */
    uint32_t line;  /* likewise */
    GArray *pair;   /* rgp_event_pair, by time */
    uint32_t same, shifted, added, missing;
    double earliest, latest; /* seconds of the shifts; below 0: earlier than then */
} rgp_event_difference;

typedef struct rgp_differences {
    bool same_text, none;
    uint32_t rows;      /* that were compared */
    uint32_t actuators; /* that both have */
    uint32_t driven;    /* the first row in which one of them is driven otherwise; RGP_NO_ROW: none */
    uint32_t owners;    /* rows in which an actuator has another owner; looked at where the texts are the same */
    GPtrArray *absent;  /* names that the recording has and the other run has not */
    GArray *signal;     /* rgp_signal_difference: those that differ, in the rig's order */
    GPtrArray *event;   /* rgp_event_difference, all, in the order of lines */
} rgp_differences;

/* Two events of one kind and subject can be one that has shifted when they are up to `near_s` seconds apart, or up to
 * half of the least time between two such events of one run; of a single one up to ten times `near_s`. All must outlive
 * what is returned. */
rgp_differences *rgp_differences_of(const rgp_recording *then, const rgp_rig *rig, const rgp_history *now,
                                    double near_s);
void rgp_differences_free(rgp_differences *differences);

#endif
