/* A rig that is listened to, with nothing driven: its readings come in tick by tick, from the simulated port or from a
 * recording, and are kept. */
#ifndef TOOL_CALIBRATE_LISTEN_H
#define TOOL_CALIBRATE_LISTEN_H

#include "analysis/capture.h"
#include "rigpulse/edit.h"

typedef struct listening listening;

typedef struct listening_setup {
    const rgp_rig *rig;
    const rgp_calibration *what; /* what goes into its stage is looked at */
    const char *recording;       /* NULL: the simulated port */
    uint64_t seed;
    bool fast;
} listening_setup;

/* NULL with *error set. The setup's rig and calibration must outlive it. */
listening *listening_new(const listening_setup *setup, GError **error);
void listening_free(listening *l);

/* One tick more. False when there are no more: the recording is over, or too much has been kept. */
bool listening_tick(listening *l);

/* All that came in so far. */
const rgp_intake *listening_intake(const listening *l);
guint listening_ticks(const listening *l);
double listening_time(const listening *l); /* seconds, of the last tick */

/* The standard error of the zero that was learned and is taken off what goes in, in its unit; 0 where there is none. Of
 * a sum it adds up: all captures share it, times the time. */
double listening_zero_error(const listening *l);

/* The value that goes in when the sensor reads `raw` for long, a mean of counts perhaps, and the standard error that
 * rounding to a count makes in it. False, and *why to be freed, when that is not known: it is out of the sensor's
 * range, no reading comes of it, or a stage before has learned or counted something, or other sensors take part.
 */
bool listening_bring(const listening *l, double raw, double *in, double *rounding, char **why);

/* The first tick that is not before `time`; the number of ticks when there is none. */
guint listening_find(const listening *l, double time);

/* The unit in which what the sensor sees can be placed by hand; NULL, and the reason in *why: it cannot. */
const char *listening_hand_unit(const listening *l, const char **why);

/* Places it, and returns the seconds until it is there. */
double listening_place(listening *l, double to);

/* The value that a rig with the same sensors reads as `name`, on the mean of the ticks `from` up to `to`. `settled`:
 * were all to stay as it was in them, which are repeated until nothing lags behind any more. NAN where it is bad, or
 * where there is no such name. */
double listening_reads(const listening *l, const rgp_rig *rig, const char *name, guint from, guint to, bool settled);

#endif
