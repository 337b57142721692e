/* A sensor's account, in figures and in words: from its raw readings alone. */
#ifndef ANALYSIS_INSPECT_H
#define ANALYSIS_INSPECT_H

#include "rigpulse/port.h"

#include <glib.h>

/* The raw readings of one sensor, one a tick, and the range that it was declared with. */
typedef struct rgp_series {
    const char *name, *unit;
    int32_t low, high;
    bool state;    /* a switch or names: no figures of noise */
    double tick;   /* seconds */
    GArray *raw;   /* of double, only of usable readings */
    GArray *place; /* of uint32_t: the tick of each */
    uint32_t ticks, missing, late;
    uint32_t stood; /* ticks in which the port had no new reading: it says so itself, and `raw` has each once */
} rgp_series;

#define RGP_GAP_FROM 3.0 /* times the usual pace: a reading that comes so late was missing meanwhile */

typedef struct rgp_findings {
    uint32_t readings;
    double mean, spread, least, greatest; /* spread: standard deviation of all */
    double noise; /* standard deviation of what changes from reading to reading, spikes left out */
    double
        resolvable;  /* the smallest change that one reading can tell from noise: 3 times the noise, at least a step */
    double step;     /* the smallest step between two different readings */
    uint32_t values; /* different readings */
    double drift;    /* a minute, of a straight line through all */
    double drift_error;     /* its standard error */
    double pace;            /* ticks from one reading to the next, of a sensor that is slower than the tick; else 1 */
    double longest_gap;     /* ticks, the most from one reading to the next */
    double hum, hum_height; /* Hz and counts; 0 for none */
    double swing, swing_height; /* the same of a line that is slow enough for the thing itself */
    uint32_t spikes;            /* single readings that stand out */
    uint32_t events;            /* what stands out for a few readings, where that is not rare; spikes are then none */
    double longest;             /* seconds, of the longest of them */
    uint32_t changes, bounced;  /* of a switch: groups of changes, and those of three or more */
    double bounce;              /* seconds, of the longest of those */
    double pinned;              /* share of the readings at either end of the range, 0 to 1 */
    double still;               /* seconds of the longest stretch without one step of change */
    double moved;               /* how far the smoothed reading moved, in multiples of its noise */
    GPtrArray *advice;          /* of char *: what is suspicious, and which stage would help */
} rgp_findings;

rgp_findings *rgp_inspect(const rgp_series *series);
void rgp_findings_free(rgp_findings *findings);

/* A turning rate beside the place that it should lead to: GArrays of double, one number a tick, the rate in the place's
 * unit a second. */
typedef struct rgp_agreement {
    bool moved;         /* enough to tell */
    double correlation; /* of how far it turned by the rate and by the place, in blocks of a quarter of a second */
    double times;       /* the place goes by so much for one of the rate's; below 0: they contradict each other */
} rgp_agreement;
rgp_agreement rgp_rate_and_place(const GArray *rate, const GArray *place, double tick);

#endif
