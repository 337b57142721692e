/* Cases of blocks that keep a state: a row of inputs, and the outputs that have to come of it. */
#ifndef TESTS_BLOCKS_H
#define TESTS_BLOCKS_H

#include "support.h"

#define BAD (-1e9f) /* in a row of inputs: a missing reading */
#define ROW 16

/* A row of inputs and the outputs of it; NAN ends it. Bad readings show the held number. */
typedef struct sequence_case {
    const char *what;
    float setting[4];
    float dt;
    float in[ROW], out[ROW];
} sequence_case;

typedef rgp_reading step_one(const sequence_case *c, void *state, rgp_reading in, bool reset);

void run_cases(const sequence_case *cases, size_t count, step_one *step, double tolerance);

#endif
