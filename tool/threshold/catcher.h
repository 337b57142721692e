/* Events caught from values as they come: what goes further than idle time did, until it has come back. */
#ifndef TOOL_THRESHOLD_CATCHER_H
#define TOOL_THRESHOLD_CATCHER_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

#define CATCH_BACK_S 0.5  /* it has come back when it has not been beyond for so long */
#define CATCH_MOST_S 10.0 /* what lasts longer is no event: idle time has become another */

typedef struct caught {
    double from, to; /* seconds */
    double peak;     /* the value that went farthest */
} caught;

typedef struct catcher {
    GArray *idle;             /* of double: its values; NAN where one could not be trusted */
    double median, low, high; /* of idle time, once it is over; beyond `low` and `high` lies what is caught */
    bool below, above;        /* on which sides */
    bool open, refused;       /* something is beyond; it is no event, and its end is awaited */
    caught now;
} catcher;

typedef enum catch_news { CATCH_NOTHING, CATCH_BEGUN, CATCH_TAKEN, CATCH_TOO_LONG, CATCH_BAD } catch_news;

void catcher_idle(catcher *c, double value);

/* False when there is too little of it. */
bool catcher_learn(catcher *c);

/* A value of event time; NAN: not to be trusted. TAKEN: `now` is an event that is over. */
catch_news catcher_value(catcher *c, double time, double value);

#endif
