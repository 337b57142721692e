/* A rig that runs: one thread ticks and owns the engine, one takes the frames off the ring. */
#ifndef TOOL_SESSION_H
#define TOOL_SESSION_H

#include "record/frame.h"
#include "record/recorder.h"

#include "port/sim/sim.h"

typedef struct session session;

typedef struct session_setup {
    const rp_rig *rig;
    uint64_t seed;
    uint64_t length_us; /* 0: until stopped */
    bool fast;          /* simulated time, as fast as it goes */
    const char *record; /* name of the recording, or NULL */
    char **set;         /* NAME=VALUE ..., NULL at the end; or NULL */

    /* Called for each frame, by the thread that records. Returns false to stop the run. */
    bool (*frame)(void *self, const rp_frame_shape *shape, const rp_frame *frame);
    void *self;
} session_setup;

typedef struct session_result {
    uint64_t ticks, gaps;
    uint64_t end_us;
    rp_status fault;      /* of the port */
    bool interrupted;     /* by a person or a signal */
    bool record_failed;   /* what was wrong has been said on standard error */
    rp_lateness lateness; /* of a paced run */
} session_result;

/* Runs to the end. False when it could not begin: then *error says why. */
bool session_run(const session_setup *setup, session_result *result, GError **error);

#endif
