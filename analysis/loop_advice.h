/* Advice on a loop's run: one for each set of gains that it ran with. */
#ifndef ANALYSIS_LOOP_ADVICE_H
#define ANALYSIS_LOOP_ADVICE_H

#include "loop_pieces.h"

typedef struct rgp_loop_advice {
    rgp_loop_piece *piece;   /* that is told about: the one that shows the likeliest cause best */
    rgp_diagnosis diagnosis; /* of that; its chances are the mean over all parts in which something is the matter */
    uint32_t parts;          /* pieces with these gains */
    uint32_t judged;         /* of them: those that move most, and tell something, at most RGP_ADVICE_PARTS */
    uint32_t ailing;         /* of those: in which something is the matter */
    uint32_t lost;           /* of all: those at whose end the loop did not drive on */
    double begin, end;       /* seconds */
} rgp_loop_advice;

enum { RGP_ADVICE_PARTS = 4, RGP_ADVICE_LOOKS = 2 * RGP_ADVICE_PARTS };

/* An array of them in the order of time, freed by g_array_unref(); it points into the pieces. */
GArray *rgp_loop_advices(const GPtrArray *pieces);

/* "kp 8, ki 0.1, kd 0". To be freed. */
char *rgp_gains_text(const rgp_pid_gains *gains);

#endif
