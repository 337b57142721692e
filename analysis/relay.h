/* The relay test (Astrom and Hagglund 1984): what is driven goes up while what is measured is below a target, and down
 * while it is above, so that it swings by itself; the answer at the frequency of that swing follows from whole periods.
 *
 * The margin about the target keeps noise from turning it. Where up and down last differently long, the middle of what
 * is driven moves to its mean, at most five times. The answer is the quotient of the first Fourier coefficients of what
 * was measured and of what was driven, held over each row: no describing function is needed, and what the swing's
 * period is does not matter. */
#ifndef ANALYSIS_RELAY_H
#define ANALYSIS_RELAY_H

#include <complex.h>
#include <glib.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

typedef struct rgp_relay {
    double middle, size;   /* driven: about what, and by how much to either side */
    double target, margin; /* measured */
    bool falls;            /* what is measured falls when it is driven up */
    bool up;
    uint32_t shifts;
    size_t row;
    GArray *turn; /* of size_t: the rows in which it went up, since the middle was moved last */
    GArray *down; /* likewise down, one for each but the last of those */
} rgp_relay;

void rgp_relay_begin(rgp_relay *relay, double middle, double size, double target, double margin, bool falls);
void rgp_relay_end(rgp_relay *relay);

/* The next row, with what is measured in it; NAN: nothing is. Gives what is to be driven. */
double rgp_relay_step(rgp_relay *relay, double measured);

/* Enough whole periods are there. */
bool rgp_relay_is_over(const rgp_relay *relay);

typedef struct rgp_relay_answer {
    uint32_t periods;
    double period, scatter;         /* rows; scatter: standard deviation of a period */
    double complex answer;          /* measured for driven */
    double gain_error, phase_error; /* standard errors of its magnitude, and of its angle in radians */
    double height;                  /* measured: half the way from its least to its greatest */
} rgp_relay_answer;

/* Of the rows that were driven and measured from the relay's beginning. NULL, or why it says nothing, a constant. */
const char *rgp_relay_answer_of(const rgp_relay *relay, const double *driven, const double *measured,
                                rgp_relay_answer *to);

#endif
