/* Inside the runtime: a rig that runs in this process. One thread ticks and owns the engine (ticker.c), one takes the
 * frames off the ring, records them and keeps the history (keeper.c). Whoever began it may look at the history and ask
 * for things; the thread that ticks takes those from a queue before a tick, makes the same system calls whether anybody
 * looks or not, and never waits. A stepped session has no threads: it ticks and keeps where it is told to. */
#ifndef RUNTIME_SESSION_H
#define RUNTIME_SESSION_H

#include "door.h"
#include "limiter.h"
#include "ports.h"
#include "recorder.h"
#include "retain.h"
#include "ring.h"

#include "ports/front.h"

#include <stdatomic.h>

#define SESSION_COMMANDS 64u

typedef struct session {
    rgp_door door;
    const rgp_door_setup *setup;
    rgp_engine engine;
    void *memory;
    rgp_opened opened;
    rgp_front front;      /* the port that the engine sees, before the one that was opened */
    bool fast;            /* in simulated time, as fast as it goes */
    const rgp_port *port; /* of the front */
    rgp_sample *sample;   /* by sensor: what the port gave last */
    bool *told;           /* by sensor: the port has told its edges */
    bool *lost;           /* by actuator, before the tick: its port cannot drive it */
    unsigned char *kept;  /* what was taken up of an earlier run; NULL: nothing */
    uint32_t kept_size;
    retain_file *retained;
    rgp_limiter *limiter;
    rgp_frame_layout layout;
    rgp_ring *ring;
    rgp_frame *open;  /* the frame of the tick that is being computed */
    rgp_frame *spare; /* takes its place when the ring is full; of a stepped session always */
    GThread *ticker, *keeper;
    atomic_bool stop, ticked_out;
    atomic_bool pause, paused;

    /* simulated time that runs as fast as it goes: the two threads wake each other */
    GMutex handing;
    GCond filled, drained;
    atomic_bool keeper_waits, ticker_waits;

    /* the queue: one writer, one reader */
    rgp_command command[SESSION_COMMANDS];
    uint64_t let_go_us; /* a held actuator is given back then; 0: none is held */
    rgp_command held;
    atomic_uint asked, taken;

    /* the thread that ticks tells */
    atomic_uint_fast64_t late_sleeps, late_p50, late_p99, late_worst;
    uint64_t ticks, gaps;
    uint64_t end_us; /* so many ticks there have been, in time */
    uint64_t due_us; /* of the next one, on the port's clock: later, where ticks of a real one have fallen out */
    rgp_status fault;
    bool interrupted;
    bool stood; /* the last tick took no time */

    /* what is kept, under this lock */
    GMutex keeping;
    rgp_history *history;
    rgp_recorder *recorder;
    bool record_failed;
    char *complaint;
} session;

rgp_door *session_open(const rgp_door_setup *setup, GError **error);

/* ticker.c: the tick, and the thread that makes one after the other. */
gpointer session_tick_all(gpointer self);
bool session_advance(session *s, uint64_t until_us);
rgp_status session_obey(session *s, const rgp_command *command);
rgp_frame *session_next_frame(session *s);
void session_tell_delay(session *s);

/* keeper.c: the recording and the history, and the thread that makes them. */
gpointer session_keep_all(gpointer self);
void session_keep(session *s, const rgp_frame *frame);
void session_flush(session *s);
void session_complain(session *s, const GError *error);
void session_close_recorder(session *s, const char *ending);

/* The two threads wake each other when half a ring has come together, so that neither does for each frame. */
bool session_half_full(const session *s);
void session_wake(session *s, atomic_bool *waits, GCond *cond);
void session_wait(session *s, atomic_bool *waits, GCond *cond, bool (*is_done)(const session *s));

#endif
