/* A threshold as a rule has it, and when it fires on recorded values: the engine's own blocks, without the engine. */
#ifndef ANALYSIS_TRIGGER_H
#define ANALYSIS_TRIGGER_H

#include "runtime/recording.h"

typedef struct rgp_trigger {
    bool above; /* it fires above the limit; else below it */
    float limit, margin;
    float width_s; /* the value has to stay beyond the limit for so long; 0: it need not */
    float holdoff_s;
} rgp_trigger;

/* A number of it as it is written: six digits. */
double rgp_trigger_number(float number);

/* The values of a signal by row of a recording; NAN: not to be trusted. */
typedef struct rgp_values {
    const rgp_recording *from;
    const float *value;
} rgp_values;

/* The rows in which "on SIGNAL above LIMIT, margin MARGIN for WIDTH" with its holdoff fires, appended to an array of
 * uint32_t. */
void rgp_trigger_firings(const rgp_trigger *trigger, const rgp_values *values, GArray *rows);

#endif
