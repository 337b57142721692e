/* The labels that people have put on recordings by marks and stretches: where nothing happened, and where the event
 * was. */
#ifndef ANALYSIS_LABELS_H
#define ANALYSIS_LABELS_H

#include "runtime/recording.h"

#define RGP_MARK_BEFORE_S 2.0 /* an event that is marked by a moment reaches from so long before it */
#define RGP_MARK_AFTER_S  2.0 /* to so long behind it */
#define RGP_PIECE_S       2.0 /* of idle time, of which the greatest value counts */
#define RGP_BLOCK_LEAST_S 10.0
#define RGP_BLOCKS_LEAST  8u
#define RGP_EVENTS_LEAST  5u
#define RGP_EVENTS_SPLIT  20u /* from so many on every other one is held out */

/* Rows `from` to before `to` of a recording. */
typedef struct rgp_rows {
    uint32_t run, from, to;
    bool judges; /* held out: it is not used to choose */
    bool gap;    /* of a piece: too near to one of the other kind, and used for nothing */
} rgp_rows;

typedef struct rgp_labels {
    rgp_recording *const *run;
    guint runs;
    char *idle_name, *event_name;
    GArray *idle, *event; /* rgp_rows; whole stretches */
    GArray *block;        /* rgp_rows: idle time in blocks that choose and judge in turn, or by recordings */
    GArray *piece;        /* rgp_rows: blocks in pieces of RGP_PIECE_S */
    bool by_recording;    /* whole recordings are held out */
    bool each_event;      /* too few to hold any out: each is left out in turn */
    double tick_s;
} rgp_labels;

/* Stretches of the name `idle`, and stretches and marks, of people and of rules, of the name `event` (NULL: the only
 * other name that there is).
 * Shared out in the shortest blocks, without gaps. The recordings must outlive it. NULL with *error: there are none,
 * they overlap, other ticks. */
rgp_labels *rgp_labels_of(rgp_recording *const *run, guint runs, const char *idle, const char *event, GError **error);
void rgp_labels_free(rgp_labels *labels);

/* Shares blocks and events out into those that choose and those that judge. A block lasts about `block_s`, and no less
 * than `least_s`; a shorter stretch is one of its own, or too short for any. In `gap_s` behind each border between the
 * two kinds nothing counts. May be done anew. */
void rgp_labels_split(rgp_labels *labels, double block_s, double least_s, double gap_s);

/* "12 events 'bump' and 41 min of 'idle' in 2 recordings". To be freed. */
char *rgp_labels_text(const rgp_labels *labels);

double rgp_rows_seconds(const rgp_labels *labels, const rgp_rows *rows);

/* Of all idle stretches together. */
double rgp_labels_idle_s(const rgp_labels *labels);

/* The tenth percentile, by rank, of the lengths of events, in seconds; of the times from one to the next in a
 * recording, infinite where there is only one. */
double rgp_labels_event_length(const rgp_labels *labels);
double rgp_labels_event_spacing(const rgp_labels *labels);

#endif
