/* The words of a hook-up to the simulated port that are of no mechanism and no sensor. */
#ifndef SIM_WORDS_H
#define SIM_WORDS_H

/* Disturbances of the clock, by their places in the catalogue. */
enum { CLOCK_LEAPS, CLOCK_STANDS };

#endif
