/* The pace of a loop: it steps on new readings of its sensors, or in every tick. */
#ifndef ANALYSIS_LOOP_PACE_H
#define ANALYSIS_LOOP_PACE_H

#include "runtime/history.h"

typedef struct rgp_loop_pace {
    const uint16_t *sensor; /* of which one has to be new */
    uint32_t sensors;       /* 0: it steps in every tick */
} rgp_loop_pace;

/* Of a loop by its name. */
rgp_loop_pace rgp_loop_pace_of(const rgp_image_header *image, const char *loop);

/* It steps in that row. */
bool rgp_loop_steps(const rgp_history *history, const rgp_loop_pace *pace, uint64_t row);

#endif
