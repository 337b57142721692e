/* Inside the reader of recordings: its three files. */
#ifndef RUNTIME_RECORDING_PARTS_H
#define RUNTIME_RECORDING_PARTS_H

#include "recording.h"

/* False, with *error: what is wrong with a file. */
bool rgp_not_a_recording(GError **error, const char *name, const char *why);

/* A rig in which the columns that NAME.json describes are channels and parameters; NULL: it describes none. *without,
 * to be freed: those that could not be. */
rgp_rig *rgp_rig_of_columns(const char *file, const json_t *summary, char **without);

/* NAME.csv, by the rig that has been compiled. */
bool rgp_recording_read_table(rgp_recording *to, GError **error);

/* The circumstances of the run, out of NAME.json, once the rig has been compiled. What the file lacks, as one of the
 * first format does, is taken to be as usual. */
void rgp_recording_circumstances(rgp_recording *to, const json_t *summary);

/* Fills the columns of the rules, which no column of the table holds; the events have been read. */
void rgp_recording_put_timers(const rgp_recording *r);

#endif
