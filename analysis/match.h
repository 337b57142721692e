/* Settings of a hook-up's mechanisms with which they do what was recorded: least squares of the readings, driven as the
 * recording says.
 *
 * By Levenberg (1944) and Marquardt (1963), each setting in steps that move the readings by about their noise; those
 * that can only be positive by their logarithms. A setting that makes no difference in this recording, or none that
 * could not be another one's, stays as it is written. Intervals are those of the plain estimate under noise that hangs
 * together (noise_kinds.h), each sensor's its own. */
#ifndef ANALYSIS_MATCH_H
#define ANALYSIS_MATCH_H

#include "process.h"

#include "runtime/history.h"
#include "rigpulse/lang.h"

#include <glib.h>

typedef struct rgp_match_ask {
    const rgp_rig *rig;         /* hooked up to the simulated port */
    const rgp_history *history; /* of a rig whose sensors and actuators bear the same names */
    uint64_t from, until;       /* rows that are looked at: up to, and not with, the last one */
    bool happens;               /* what the hook-up says that happens, does */
    const bool *may;            /* by mechanism: its settings may change */
    const char *const *only;    /* settings that may, by name, NULL at the end; NULL: all */
} rgp_match_ask;

typedef enum rgp_match_fate {
    RGP_MATCH_FOUND,
    RGP_MATCH_NO_DIFFERENCE, /* to what was read: it stays */
    RGP_MATCH_LIKE_OTHERS,   /* others together make the same difference: it stays */
    RGP_MATCH_NOT_NEEDED     /* it is not written, and what it has been taken for may as well be true: it stays */
} rgp_match_fate;

#define RGP_MATCH_LIKE 3u /* of those that make the same difference so many are told */

typedef struct rgp_match_setting {
    uint32_t mechanism, setting; /* by the hook-up and the kind's list */
    double was;                  /* in its unit */
    rgp_match_fate fate;
    rgp_estimate found;                   /* 19 of 20; of one that stays only the value */
    uint32_t like[RGP_MATCH_LIKE], likes; /* the rows of those others, and how many there are */
} rgp_match_setting;

typedef struct rgp_match_sensor {
    uint32_t sensor;
    double *reading;           /* by row from `from` on, in counts; NAN: none, or a spike */
    double *written, *matched; /* by row, what it would have read with the settings as written, and as found */
    double noise;              /* counts: of one reading */
    double before, after;      /* counts: by how much readings are off (root mean square), as written and as found */
    double moved;              /* counts: the standard deviation of what was read, noise and movement */
    double fit;                /* percent of that beyond noise that is explained; NAN: it has seen no movement */
    size_t spikes;             /* readings that were left out */
} rgp_match_sensor;

typedef struct rgp_match {
    size_t rows;
    double begin_s, row_s;
    uint32_t settings, sensors;
    rgp_match_setting *setting;
    rgp_match_sensor *sensor;
    double fit; /* percent: of all sensors that have seen a movement, each in its noise */
} rgp_match;

/* False with *error when nothing can be matched. To be cleared when true. `progress` (NULL: nobody asks) is called
 * between runs; false stops it, and then *error is not set. */
bool rgp_match_find(const rgp_match_ask *ask, bool (*progress)(void *self), void *self, rgp_match *to, GError **error);
void rgp_match_clear(rgp_match *match);

/* Why nothing is to be built on it, as texts (char *), to be freed; none: something is. */
GPtrArray *rgp_match_doubts(const rgp_match *match);

#endif
