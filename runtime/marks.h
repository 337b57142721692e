/* The marks and stretches of a recording: moments, and times from one moment to another, that people give a name. Those
 * that were put while it ran stand among its events; from the first change on all of them stand in NAME.marks.jsonl,
 * and what happened stays as it was recorded. In the history they are occurrences, as events are. */
#ifndef RUNTIME_MARKS_H
#define RUNTIME_MARKS_H

#include "recording.h"

/* A change of one of them. `which` counts from 0, in the order of time. */
typedef enum rgp_mark_what { RGP_MARK_PUT, RGP_MARK_NAME, RGP_MARK_MOVE, RGP_MARK_REMOVE } rgp_mark_what;

typedef struct rgp_mark_change {
    rgp_mark_what what;
    guint which;        /* of all but PUT */
    const char *name;   /* of PUT and NAME */
    double from, until; /* of PUT and MOVE, seconds; both the same: a moment */
} rgp_mark_change;

/* Those of a history, in the order of time; the occurrences live until its next change. To be freed. */
GPtrArray *rgp_marks_of(const rgp_history *h);

/* Changes the recording and its file. False with *error, and nothing is changed: no such mark, no name that can be
 * shown, a time that is not in the recording, a file that cannot be written, holds something else, or has been changed
 * by another since it was read. */
bool rgp_mark_change_one(rgp_recording *r, const rgp_mark_change *change, GError **error);

/* Reads NAME.marks.jsonl, if there is one, into the history in place of the marks among the events. */
void rgp_marks_read(rgp_recording *r);

#endif
