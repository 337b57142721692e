/* Writes a recording: NAME.csv (RFC 4180, a row a tick), NAME.events.jsonl (JSON Lines, an event a line)
 * and NAME.json (what the table cannot say). */
#ifndef RUNTIME_RECORDER_H
#define RUNTIME_RECORDER_H

#include "rigpulse/frame.h"

#include <glib.h>

#include "rigpulse/lang.h"

typedef struct rgp_recorder rgp_recorder;

/* The circumstances of a run that a replay has to know. The texts, `kept` and `told` are the caller's, and must outlive
 * the recorder. */
typedef struct rgp_recorder_run {
    uint64_t seed;
    const float *params; /* as it begins, by parameter */
    const char *port;    /* its name; NULL: none */
    bool dry, hand_only, at_rest;
    float bound; /* percent of the travel; 0: all of it */
    const unsigned char *kept;
    uint32_t kept_size; /* bytes that were taken up of an earlier run; 0: none */
    const bool *told;   /* by sensor: its edges were told by the port; NULL: of none */
} rgp_recorder_run;

/* `name` may end in ".csv". A recording that has it already is refused, unless it may be overwritten: then it stands
 * until the first row of the new one is out. NULL with *error set when a file cannot be written. */
rgp_recorder *rgp_recorder_open(const char *name, bool overwrite, const rgp_rig *rig, const rgp_recorder_run *run,
                                GError **error);

/* The name itself, or with a number behind it: the first that no recording has. To be freed. */
char *rgp_recorder_free_name(const char *name);

/* True when a recording of that name would write this file. */
bool rgp_recorder_writes(const char *name, const char *path);

/* One frame. False, once, when the disk has failed: *error says why, and later frames are not written. */
bool rgp_recorder_frame(rgp_recorder *recorder, const rgp_frame *frame, GError **error);

/* A mark with a person's word, at a time in seconds. */
bool rgp_recorder_mark(rgp_recorder *recorder, double time, const char *text, GError **error);

/* Hands what has been written to the system. */
bool rgp_recorder_flush(rgp_recorder *recorder, GError **error);

/* Closes the files, hands them to the disk, and writes how the run ended; one without a row leaves no file. `gaps`:
 * ticks that found no room. False when the recording is incomplete; *error is set unless that has been said. */
bool rgp_recorder_close(rgp_recorder *recorder, uint64_t gaps, const char *ending, GError **error);

const char *rgp_recorder_name(const rgp_recorder *recorder);

#endif
