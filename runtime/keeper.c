/* The thread that records and keeps the history. */
#include "session.h"

#include <stdio.h>

#define FLUSH_US (500 * 1000)
#define IDLE_US  2000

/* ---- handing frames over ------------------------------------------------------------------------- */

bool session_half_full(const session *s)
{
    return rgp_ring_waiting(s->ring) * 2u >= rgp_ring_room(s->ring);
}

void session_wake(session *s, atomic_bool *waits, GCond *cond)
{
    if (atomic_load(waits)) {
        g_mutex_lock(&s->handing);
        g_cond_signal(cond);
        g_mutex_unlock(&s->handing);
    }
}

void session_wait(session *s, atomic_bool *waits, GCond *cond, bool (*is_done)(const session *s))
{
    const gint64 until = g_get_monotonic_time() + IDLE_US;
    g_mutex_lock(&s->handing);
    atomic_store(waits, true);
    while (!is_done(s) && g_cond_wait_until(cond, &s->handing, until)) {
    }
    atomic_store(waits, false);
    g_mutex_unlock(&s->handing);
}

static bool is_time_to_keep(const session *s)
{
    return session_half_full(s) || atomic_load(&s->ticked_out);
}

/* ---- what is kept ---------------------------------------------------------------------------------- */

void session_complain(session *s, const GError *error)
{
    s->record_failed = true;
    if (!s->complaint) {
        s->complaint = g_strdup(error->message);
    }
    if (s->setup->frame) {
        fflush(stdout);
        fprintf(stderr, "rigpulse: %s; the run goes on\n", error->message);
    }
}

void session_keep(session *s, const rgp_frame *frame)
{
    g_autoptr(GError) error = NULL;
    g_mutex_lock(&s->keeping);
    if (s->history) {
        rgp_history_frame(s->history, &s->layout, frame);
    }
    if (s->recorder && !rgp_recorder_frame(s->recorder, frame, &error)) {
        session_complain(s, error);
    }
    g_mutex_unlock(&s->keeping);
    if (s->setup->frame && !s->setup->frame(s->setup->self, &s->layout, frame)) {
        atomic_store(&s->stop, true);
    }
}

void session_flush(session *s)
{
    g_autoptr(GError) error = NULL;
    g_mutex_lock(&s->keeping);
    if (s->recorder && !rgp_recorder_flush(s->recorder, &error)) {
        session_complain(s, error);
    }
    if (s->retained && !retain_write(s->retained, &error)) {
        session_complain(s, error);
    }
    g_mutex_unlock(&s->keeping);
}

void session_close_recorder(session *s, const char *ending)
{
    g_autoptr(GError) error = NULL;
    if (s->recorder && !rgp_recorder_close(s->recorder, s->gaps, ending, &error)) {
        s->record_failed = true;
        if (error) {
            session_complain(s, error);
        }
    }
    s->recorder = NULL;
}

/* ---- the thread ------------------------------------------------------------------------------------ */

gpointer session_keep_all(gpointer self)
{
    session *s = self;
    gint64 flushed = g_get_monotonic_time();
    bool last;
    do {
        last = atomic_load(&s->ticked_out);
        const rgp_frame *frame;
        while ((frame = rgp_ring_peek(s->ring))) {
            session_keep(s, frame);
            rgp_ring_drop(s->ring);
            if (!session_half_full(s)) {
                session_wake(s, &s->ticker_waits, &s->drained);
            }
        }
        if (g_get_monotonic_time() - flushed > FLUSH_US) {
            flushed = g_get_monotonic_time();
            session_flush(s);
            if (s->setup->frame) {
                fflush(stdout);
            }
        }
        if (!last && s->fast) {
            session_wait(s, &s->keeper_waits, &s->filled, is_time_to_keep);
        } else if (!last) {
            g_usleep(IDLE_US);
        }
    } while (!last);
    return NULL;
}
