/* gauge (timer/counter capture): widths, intervals, rates and counts from the changes of a switch, a condition or an
 * event.
 *
 * A blockage is the time from a change to true to the next one to false; its middle is its mid-time. A change counts
 * once it has lasted for `least`, with the time at which it was; a shorter one, such as a contact's bounce or a leaf
 * that falls through a gate, leaves no trace. Times are subtracted as whole microseconds. The last measure stands until
 * the next one; before there is one it is still learning. After a bad reading a measure begins anew: a change may have
 * been missed.
 *
 * Its step, and that of lag, differ from those of other detectors: they take edges (edges.h) instead of a reading,
 * since a port knows the moments of a switch's changes better than the step that sees it changed. Whoever has levels
 * alone makes edges of them by rgp_edges_find(). */
#ifndef RIGPULSE_DETECT_GAUGE_H
#define RIGPULSE_DETECT_GAUGE_H

#include "rigpulse/detect/edges.h"
#include "rigpulse/linkage.h"
#include "rigpulse/retained.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

enum {
    RGP_GAUGE_WIDTH = 0,     /* s: how long the last blockage was */
    RGP_GAUGE_GAP = 1,       /* s: how long it was free before the one that has begun last */
    RGP_GAUGE_INTERVAL = 2,  /* s: from a beginning to the `every`th after it */
    RGP_GAUGE_RATE = 3,      /* Hz: beginnings a second, from the last interval; of one that should have come since, at
                               most what the time since allows; 0 after `window` without any, and before the first two */
    RGP_GAUGE_COUNT = 4,     /* beginnings so far; changes that were lost count by halves */
    RGP_GAUGE_DUTY = 5,      /* %: the share of the last whole `window` in which it was true */
    RGP_GAUGE_UNEVEN = 6,    /* s: the difference of the last two half-periods of a swing, from its mid-times */
    RGP_GAUGE_OFFCENTRE = 7, /* %: how far from the middle of a swing the gate stands, as a share of its reach:
                               100 sin(pi/2 difference / period), from x = reach sin(2 pi t / period) */
    RGP_GAUGE_SINCE = 8,     /* s: since the last beginning */
    RGP_GAUGE_WHATS          /* how many there are */
};

/* The settings: the caller's, and only read. */
typedef struct rgp_gauge_config {
    uint32_t what;  /* RGP_GAUGE_... */
    uint32_t every; /* of INTERVAL, else 1: 1 to 1000 */
    float least;    /* seconds; from 0 to 1e6 */
    float window;   /* of RATE and DUTY, in seconds: above 0, up to 1e6 */
    uint32_t event; /* 1: the input is an event, of which only beginnings are told; 0: a switch or a condition */
} rgp_gauge_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_gauge_state {
    rgp_edges_memory memory; /* for whoever finds the changes */
    uint8_t is;              /* the state that counts */
    uint8_t waits;           /* a change has not lasted long enough yet */
    uint8_t rises, mids;     /* how many of the times below are known, at most 2 and 3 */
    uint8_t measured, fell, began,
        doubtful;            /* 1: there is a measure; an end was seen; the first state was; readings were bad */
    uint8_t reserved[6];     /* 0 */
    uint32_t seen;           /* beginnings of the interval so far */
    uint32_t count;          /* beginnings so far */
    uint32_t lost;           /* changes that nobody had room for */
    float measure;           /* the last one: in the unit of `what`; of a lag in seconds */
    uint64_t waits_since_us; /* of the change that waits */
    uint64_t rose_us[2];     /* the last beginnings, the newest first */
    uint64_t fell_us;        /* the last end */
    uint64_t mid_us[3];      /* the last mid-times */
    uint64_t interval_us;    /* where the interval began */
    uint64_t window_us;      /* where the window began */
    uint64_t on_us;          /* of the window */
    uint64_t looked_us;      /* the last step */
} rgp_gauge_state;

/* RGP_E_CONFIG when a setting is outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_gauge_check(const rgp_gauge_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_gauge_fault(const rgp_gauge_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_gauge_reset(rgp_gauge_state *state);

/* The part that survives a power cycle: the count; false when there is nothing yet. And taken up again; false when it
 * cannot be so. */
bool rgp_gauge_retain(const rgp_gauge_state *state, rgp_retained *kept);
bool rgp_gauge_restore(rgp_gauge_state *state, const rgp_retained *kept);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant for each change in `in`. Memory: that of its arguments alone. Threads: one at a time for each state.
 */
rgp_reading rgp_gauge_step(const rgp_gauge_config *config, rgp_gauge_state *state, const rgp_edges *in, float dt);

/* lag: how long after a blockage of one gate something blocked another: from mid-time to mid-time, in seconds; below 0
 * when it came to the other first. What passes keeps its order; who has not come to the other gate within a time is
 * forgotten. A change counts as with `width`: once it has lasted for `least`, so a drop-out within a passage that is
 * shorter leaves no trace. Of more than RGP_LAG_PASSING at once the order cannot be kept: the measure is missing until
 * nothing is under way any more. */
#define RGP_LAG_PASSING 16u /* that can be under way at once */

/* The settings: the caller's, and only read. */
typedef struct rgp_lag_config {
    float within; /* seconds; above 0, up to 1e6 */
    float least;  /* as of a gauge */
} rgp_lag_config;

/* One of the gates. */
typedef struct rgp_lag_gate {
    rgp_edges_memory memory; /* for whoever finds the changes */
    uint8_t is;              /* the state that counts */
    uint8_t waits;           /* a change has not lasted long enough yet */
    uint8_t rose;            /* the beginning of this blockage has been seen */
    uint8_t began;           /* 1: its first state was seen */
    uint8_t reserved[2];     /* 0 */
    uint64_t since_us;       /* of the change that waits */
    uint64_t rose_us;        /* the beginning of this blockage */
} rgp_lag_gate;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_lag_state {
    rgp_lag_gate gate[2];             /* the one that is measured, the one that it is measured from */
    uint64_t mid_us[RGP_LAG_PASSING]; /* of those under way, oldest first */
    uint64_t until_us;         /* more than there is room for: the last of them is forgotten then; 0: there were not */
    float measure;             /* the last one: in the unit of `what`; of a lag in seconds */
    uint8_t first;             /* the gate at which those that pass have been */
    uint8_t passing, measured; /* how many are under way; 1: there is a measure */
    uint8_t reserved;          /* 0 */
} rgp_lag_state;

/* RGP_E_CONFIG when a time is outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_lag_check(const rgp_lag_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_lag_fault(const rgp_lag_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_lag_reset(rgp_lag_state *state);

/* dt in seconds; dt = 0 steps no state.
 *
 * Time: constant for each change, and for each thing under way that is forgotten. Memory: that of its arguments alone.
 * Threads: one at a time for each state. */
rgp_reading rgp_lag_step(const rgp_lag_config *config, rgp_lag_state *state, const rgp_edges *in, const rgp_edges *from,
                         float dt);

RGP_DECLARATIONS_END

#endif
