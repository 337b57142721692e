/* A rig that is listened to, with nothing driven: its readings come in tick by tick, from the simulated port or from a
 * recording, and are kept. */
#ifndef TOOL_CALIBRATE_CAPTURE_SESSION_H
#define TOOL_CALIBRATE_CAPTURE_SESSION_H

#include "analysis/capture.h"
#include "rigpulse/edit.h"

typedef struct capture_session capture_session;

typedef struct capture_session_setup {
    const rgp_rig *rig;
    const rgp_calibration *what; /* what goes into its stage is looked at */
    const char *recording;       /* NULL: the simulated port */
    uint64_t seed;
    bool fast;
} capture_session_setup;

/* NULL with *error set. The setup's rig and calibration must outlive it. */
capture_session *capture_session_new(const capture_session_setup *setup, GError **error);
void capture_session_free(capture_session *l);

/* One tick more. False when there are no more: the recording is over, or too much has been kept. */
bool capture_session_tick(capture_session *l);

/* All that came in so far. */
const rgp_intake *capture_session_intake(const capture_session *l);
guint capture_session_ticks(const capture_session *l);
double capture_session_time(const capture_session *l); /* seconds, of the last tick */

/* The standard error of the zero that was learned and is taken off what goes in, in its unit; 0 where there is none. Of
 * a sum it adds up: all captures share it, times the time. */
double capture_session_zero_error(const capture_session *l);

/* The value that goes in when the sensor reads `raw` for long, a mean of counts perhaps, and the standard error that
 * rounding to a count makes in it. False, and *why to be freed, when that is not known: it is out of the sensor's
 * range, no reading comes of it, or a stage before has learned or counted something, or other sensors take part.
 */
bool capture_session_bring(const capture_session *l, double raw, double *in, double *rounding, char **why);

/* The first tick that is not before `time`; the number of ticks when there is none. */
guint capture_session_find(const capture_session *l, double time);

/* The unit in which what the sensor sees can be placed by hand; NULL, and the reason in *why: it cannot. */
const char *capture_session_hand_unit(const capture_session *l, const char **why);

/* Places it, and returns the seconds until it is there. */
double capture_session_place(capture_session *l, double to);

/* The value that a rig with the same sensors reads as `name`, on the mean of the ticks `from` up to `to`. `settled`:
 * were all to stay as it was in them, which are repeated until nothing lags behind any more. NAN where it is bad, or
 * where there is no such name. */
double capture_session_reads(const capture_session *l, const rgp_rig *rig, const char *name, guint from, guint to,
                             bool settled);

#endif
