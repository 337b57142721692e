/* The spectrum of a value, which tells where in frequency its power lies (Welch, 1967): the mean over segments that
 * overlap by half, each under a Hann window with its straight line taken out, as a density of amplitude. */
#ifndef ANALYSIS_SPECTRUM_H
#define ANALYSIS_SPECTRUM_H

#include "course.h"

typedef struct rgp_spectrum {
    uint32_t lines;    /* frequencies, from `step` on: 0 Hz is left out */
    double step;       /* Hz, from one to the next */
    double *density;   /* by frequency: unit per root of Hz */
    uint32_t segments; /* that were averaged */
    double low, high;  /* the true density is within these multiples of what is shown, 19 times in 20 (chi square, with
                        * 1.9 degrees of freedom a segment: half of the overlap is not new) */
    uint32_t peak;     /* the frequency with the greatest density */
    uint32_t filled;   /* points that were not to be used, and repeat the one before */
} rgp_spectrum;

/* Of points that are evenly apart. NULL with *why, to be freed: too few (64 are needed), not evenly apart, or more than
 * a tenth not to be used. */
rgp_spectrum *rgp_spectrum_of(const rgp_course *course, char **why);
void rgp_spectrum_free(rgp_spectrum *spectrum);

#endif
