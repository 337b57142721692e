/* A loop that switches ('on-off'): how it swings, and what makes it swing by so much. By counts of its switchings, with
 * no chances behind them. */
#ifndef ANALYSIS_LOOP_SWITCHED_H
#define ANALYSIS_LOOP_SWITCHED_H

#include "response.h"

#include "rigpulse/regulate/onoff.h"

#include <glib.h>
#include <stddef.h>

typedef struct rgp_switched {
    const rgp_response_row *row; /* in which it drove */
    size_t rows;
    const rgp_onoff_config *is;
    const char *unit; /* of what is measured; "" */
} rgp_switched;

/* A sentence without a full stop. What to do about it, a constant; NULL: nothing, or nothing is known. */
const char *rgp_switched_advice(const rgp_switched *of, GString *to);

#endif
