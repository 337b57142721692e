/* Values of a rig's signals along recordings: its present text, run again over what was read then. */
#ifndef ANALYSIS_SERIES_H
#define ANALYSIS_SERIES_H

#include "trigger.h"

typedef struct rgp_series {
    guint runs, names;
    float **value; /* by recording, then by name; a value a row, NAN where it is not to be trusted */
    char *says;    /* as of rgp_replay_says(), of the first recording that has anything to say */
} rgp_series;

/* Each name is of a numeric value of the rig, which need not be kept. NULL with *error: a recording cannot be replayed,
 * or holds no reading of one of them. */
rgp_series *rgp_series_of(const rgp_rig *rig, const char *const *name, guint names, rgp_recording *const *run,
                          guint runs, GError **error);

/* The same of one named value, as it was recorded, where each recording was made by the very text of the rig; NULL: one
 * was not, or does not hold it. It is what a replay would give, bit for bit. */
rgp_series *rgp_series_recorded(const rgp_rig *rig, const char *name, rgp_recording *const *run, guint runs);
void rgp_series_free(rgp_series *series);

rgp_values rgp_series_values(const rgp_series *series, rgp_recording *const *run, guint which, guint name);

/* The rows in which each rule fires, in order: an array of arrays of uint32_t, by recording and then by rule, to be
 * given back with g_ptr_array_unref(). NULL with *error. */
GPtrArray *rgp_series_firings(const rgp_rig *rig, rgp_recording *const *run, guint runs, GError **error);

#endif
