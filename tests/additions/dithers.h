/* dithers: a made-up detector, of which tests/additions/try makes a copy of the project that has it: true while each
 * new value is farther than `least` from the one before. */
#ifndef RIGPULSE_DETECT_DITHERS_H
#define RIGPULSE_DETECT_DITHERS_H

#include "rigpulse/block.h"

typedef struct rgp_dithers_config {
    float least; /* in the quantity's unit; above 0 */
} rgp_dithers_config;

typedef struct rgp_dithers_state {
    float before;
    uint32_t known;
    uint32_t is;
} rgp_dithers_state;

/* RGP_E_CONFIG when the least is not finite or not above 0. */
rgp_status rgp_dithers_check(const rgp_dithers_config *config);
const char *rgp_dithers_fault(const rgp_dithers_config *config);

void rgp_dithers_reset(rgp_dithers_state *state);

/* 1 for true, 0 for false. dt in seconds. */
rgp_reading rgp_dithers_step(const rgp_dithers_config *config, rgp_dithers_state *state, rgp_reading in, float dt);

#endif
