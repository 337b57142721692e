/* scan (peak search in a sweep): a sensor is turned or moved to and fro, and this keeps where the nearest or the
 * strongest was, how broad it was there, and what it read.
 *
 * A pass goes one way; it is over when the place has come back by an eighth of the way that the pass took. Then the
 * best reading of the pass is looked for, and the stretch around it in which readings stay within `within` of it: a
 * sensor with a wide cone smears a target over such a stretch, so its middle tells where the target is, and not its
 * first edge. Readings that did not come back leave no hole. Of a long pass every second reading is kept, or every
 * fourth, and so on.
 *
 * A pass counts when it has gone through the stretch of the last one that counted, but for an eighth of it at either
 * end; one that turns round in the middle, or parks there, may not have looked where the nearest is, and the last
 * result stands, as held. After four such passes in a row the shorter stretch is the one that is swept. */
#ifndef RIGPULSE_DETECT_SCAN_H
#define RIGPULSE_DETECT_SCAN_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_SCAN_KEPT 128u /* readings of a pass that are kept; of a longer one every second, every fourth, ... */

enum {
    RGP_SCAN_PLACE = 0,  /* where it was */
    RGP_SCAN_EXTENT = 1, /* how far it reached */
    RGP_SCAN_VALUE = 2   /* what it was */
};

/* The settings: the caller's, and only read. */
typedef struct rgp_scan_config {
    uint32_t strongest; /* 1: the greatest reading is the best; 0: the least */
    uint32_t give;      /* RGP_SCAN_... */
    float within;       /* in the reading's unit; 0 or more */
    uint32_t skip;      /* passes that do not count, such as the first; up to 100 */
} rgp_scan_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_scan_state {
    float value[RGP_SCAN_KEPT], place[RGP_SCAN_KEPT]; /* of this pass */
    uint32_t kept, phase;                             /* readings that are kept; readings of the pass so far */
    uint32_t stride;                                  /* every so many-th reading of the pass is kept; 0: each */
    float begun, far;                                 /* the places where the pass began and of its farthest point */
    float low, high;                                  /* the stretch of the last pass that counted */
    float result;                                     /* of the last whole pass */
    uint32_t passes;                                  /* whole ones so far */
    uint8_t known;                                    /* a place has been seen */
    uint8_t found;                                    /* 1: there is a result */
    uint8_t partial;                                  /* passes in a row that did not go through it */
    uint8_t reserved;                                 /* 0 */
} rgp_scan_state;

/* RGP_E_CONFIG when a setting is outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_scan_check(const rgp_scan_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_scan_fault(const rgp_scan_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_scan_reset(rgp_scan_state *state);

/* The result of the last pass stands until the next is over. It is still learning before one has counted, and missing
 * after one that found nothing. dt in seconds; dt = 0 steps no state.
 *
 * Time: at the end of a pass one look at each reading that is kept; else constant. Memory: that of its arguments alone.
 * Threads: one at a time for each state. */
rgp_reading rgp_scan_step(const rgp_scan_config *config, rgp_scan_state *state, rgp_reading in, rgp_reading place,
                          float dt);

RGP_DECLARATIONS_END

#endif
