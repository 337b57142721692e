/* Inside 'threshold --live': the session, its orders, and how they come. */
#ifndef TOOL_THRESHOLD_LIVE_SESSION_H
#define TOOL_THRESHOLD_LIVE_SESSION_H

#include "catcher.h"
#include "live.h"

#include "rigpulse/frame.h"
#include "runtime/door.h"

typedef enum phase { PHASE_DONE, PHASE_WAITS, PHASE_IDLES, PHASE_CATCHES } phase; /* DONE: an order is awaited */

typedef struct stretch {
    bool idle;
    double from, to;
} stretch;

typedef struct session {
    const live_setup *setup;
    rgp_door *door;
    uint32_t slot;
    const char *unit;
    phase is;
    double until, began; /* seconds, of the phase */
    guint wanted;        /* events */
    double now, value;   /* of the newest tick; NAN: not to be trusted */
    catcher catcher;
    bool learned;
    GArray *stretch;
    bool over, done;
    bool prompts; /* a prompt stands in the line */
    gint64 shown_us;
} session;

/* live_session.c: a frame; a tenth of a second more, false when the rig runs no longer; what there is. A stretch begins
 * no earlier than the one before it ends: idle time with an event in it would be of no use. False: nothing is left of
 * it.
 */
bool live_frame_comes(void *self, const rgp_frame_layout *layout, const rgp_frame *frame);
bool live_go_on(session *s);
void live_put_value(const session *s, double value, GString *to);
guint live_events(const session *s);
bool live_add(session *s, bool idle, double from, double to);
void live_end_idle(session *s);

/* A line of its own, also while a prompt stands there. */
void live_tell(const session *s, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* live_orders.c: false when it cannot be done, which has been said. */
bool live_hear(session *s, const char *line);
bool live_conclude(session *s);
void live_help(void);

/* live_talk.c: orders that are typed, or that stand in a file or come down a pipe. False when one failed. */
bool live_talk(session *s);
bool live_script(session *s);

#endif
