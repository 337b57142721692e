/* A rig that runs: one thread ticks and owns the engine, one takes the frames off the ring, records them and keeps the
 * history. Whoever began it may look at the history and ask for things; the thread that ticks takes those from a queue
 * before a tick, makes the same system calls whether anybody looks or not, and never waits. */
#ifndef RUNTIME_SESSION_H
#define RUNTIME_SESSION_H

#include "rigpulse/frame.h"
#include "history.h"
#include "recorder.h"

#include "sim/sim.h"

typedef struct session session;

typedef struct session_setup {
    const rp_rig *rig;
    uint64_t seed;
    uint64_t length_us; /* 0: until stopped */
    bool fast;          /* simulated time, as fast as it goes */
    bool history;       /* keep one */
    double pace;        /* so many times as fast as the wall clock; 0: once */
    bool on_word;       /* the hook-up's disturbances wait to be asked for, but those at 0 s */
    const char *record; /* name of the recording, or NULL */
    bool overwrite;     /* an older one of that name */
    char **set;         /* NAME=VALUE ..., NULL at the end; or NULL */
    const char *kept;   /* file of what survives a power cycle, or NULL */
    char **says;        /* becomes what there is to say of how it began, a line each, to be freed; NULL: nothing */
    bool dry;           /* nothing is driven */
    bool hand_only;     /* nothing but the hand drives */
    float bound;        /* percent of its travel to which everything is driven at most; 0: all of it */

    /* Called for each frame, by the thread that records; what goes wrong with the recording is said on standard error
     * then. NULL: nobody is called, and it is only kept. Returns false to stop the run. */
    bool (*frame)(void *self, const rp_frame_shape *shape, const rp_frame *frame);
    void *self;
} session_setup;

typedef struct session_result {
    uint64_t ticks, gaps;
    uint64_t end_us;
    rp_status fault;      /* of the port */
    bool interrupted;     /* by a person or a signal */
    bool record_failed;   /* what was wrong is in `complaint` */
    char *complaint;      /* of the recorder; the first one; to be freed */
    rp_lateness lateness; /* of a paced run */
} session_result;

/* Runs to the end. False when it could not begin: then *error says why. */
bool session_run(const session_setup *setup, session_result *result, GError **error);

/* The same in parts. The setup must live until the end. */
session *session_begin(const session_setup *setup, GError **error);
bool session_over(const session *s);
void session_stop(session *s);

/* Everything to rest, and no tick until it goes on; returns when that is so. What passes meanwhile is not the rig's
 * time. */
void session_pause(session *s);
void session_go_on(session *s);

void session_end(session *s, session_result *result);

/* A request to the engine before its next tick. */
typedef enum session_wish {
    WISH_SET,
    WISH_HAND,
    WISH_HOLD,
    WISH_RELEASE,
    WISH_STOP,
    WISH_RESUME,
    WISH_CLEAR,
    WISH_DISTURB,
    WISH_PACE
} session_wish;

typedef struct session_command {
    session_wish wish;
    uint16_t which; /* parameter or actuator; of WISH_DISTURB: which of the hook-up's disturbances */
    float value;    /* of WISH_PACE: so many times as fast as the wall clock */
    float seconds;  /* of WISH_HOLD: the hand lets go by itself unless it is asked again within that time */
} session_command;

/* False when the queue is full. */
bool session_ask(session *s, const session_command *command);

/* The history, which stands still until it is given back. */
rp_history *session_look(session *s);
void session_look_away(session *s);

/* A mark with a person's word at the newest tick, in the history and in the recording. */
void session_mark(session *s, const char *text);

/* Begins a recording, or ends it (name NULL). One that is there already stays: *taken, to be freed, becomes the name
 * that was free. False with *error when it cannot be written. */
bool session_record(session *s, const char *name, char **taken, GError **error);

/* The progress of the run, as the thread that ticks has last said. `recording`, if wanted: whether one is written. */
rp_lateness session_lateness(const session *s);
bool session_is_recording(session *s);

/* The recorder's complaint; NULL if nothing. To be freed. */
char *session_complaint(session *s);

#endif
