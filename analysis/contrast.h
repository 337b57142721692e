/* The difference that a cause makes when it was switched on and off in an order drawn at random: the chance of a false
 * answer is then exact, whatever noise, hum, spikes and drift the values have (randomisation test: Fisher 1935, Pitman
 * 1937). */
#ifndef ANALYSIS_CONTRAST_H
#define ANALYSIS_CONTRAST_H

#include <gsl/gsl_rng.h>
#include <stdbool.h>
#include <stdint.h>

#define RGP_CONTRAST_BLOCKS_MOST 24u

typedef struct rgp_contrast {
    double chance; /* share of all orders, with as many on, whose contrast is at least as great as that of the order
                    * that was drawn; 1 when the values are all the same */
    double effect; /* on minus off, in the unit of the values, with a straight line taken out */
    double error;  /* its standard error */
    double band;   /* half of its interval that holds 19 of 20 times (Student 1908) */
} rgp_contrast;

/* Draws an order: `blocks` is even, from 4 up to RGP_CONTRAST_BLOCKS_MOST, and half of them will be on. */
void rgp_contrast_order(gsl_rng *chance, bool *on, uint32_t blocks);

/* `value` has one number for each block. Values and order are whitened by the lag-1 correlation of the values, rounded
 * to 0, 0.5 or 1 (Cochrane and Orcutt 1949, first row by Prais and Winsten 1954), a straight line is taken out, and
 * what is left is clipped at 4 robust deviations. */
rgp_contrast rgp_contrast_of(const double *value, const bool *on, uint32_t blocks);

#endif
