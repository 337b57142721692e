/* A recorded run through a rig again and again, each time with another value of one of its parameters: how often each
 * rule fires. */
#ifndef ANALYSIS_VARIATION_H
#define ANALYSIS_VARIATION_H

#include "runtime/recording.h"

typedef struct rgp_variation {
    const rgp_rig *rig;
    uint32_t param, values, rules;
    double *value;     /* of the parameter, in its unit */
    uint32_t *firings; /* by value, then by rule */
    uint32_t *exact;   /* by value: the first row from which on it need not be what the rig would do, since an actuator
                          is driven otherwise than then, or inputs of the run are missing; the number of rows: none */
    char *says;        /* as of rgp_replay_says() */
} rgp_variation;

typedef struct rgp_variation_ask {
    const rgp_rig *rig;
    const rgp_recording *from;
    char **set; /* NAME=VALUE for other parameters; NULL at the end, or NULL */
    uint32_t param;
    double low, high;
    uint32_t values; /* from `low` to `high`, evenly; at least 2 */
} rgp_variation_ask;

/* Rig and recording must outlive it. NULL with *error when one of the values cannot be replayed. */
rgp_variation *rgp_variation_of(const rgp_variation_ask *ask, GError **error);
void rgp_variation_free(rgp_variation *variation);

#endif
