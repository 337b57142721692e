/* Inside the fit of a process that falls by its innovations: a fit under way, and its predictor. */
#ifndef ANALYSIS_PROCESS_INNOVATIONS_H
#define ANALYSIS_PROCESS_INNOVATIONS_H

#include "process_falling.h"

#define HUBER            3.0    /* spreads: what is farther off counts as that far, a push (Huber 1964) */
#define MEDIAN_OF_NORMAL 0.6745 /* of its sizes, in spreads */
#define LITTLE           1e-9   /* with which a matrix is stiffened, where the rows do not tell of a number */

/* By row: what is measured less what is foreseen of it; and how much more that would be of a gain of 1, of a balance of
 * 1, and of each part of the movement with which it begins. */
enum { OF_MEASURED, BY_DRIVEN, BY_ONE, BY_PLACE, BY_SPEED, CHANNELS, LINEAR = CHANNELS - BY_DRIVEN };

/* Numbers that are searched: the logarithm of the lag and the dead time; of the two poles the product and what the sum
 * is of the most that it may be beside it, as inverse hyperbolic tangents, so that all numbers give poles within the
 * unit circle; where the noise of readings holds on, by how much from row to row, and a third pole, as logits. */
enum { LAG, DEAD, SUM, PRODUCT, PLAIN, HOLDS = PLAIN, THIRD, SOUGHT };
enum { TO_SHAPE = LINEAR, NUMBERS = TO_SHAPE + SOUGHT }; /* behind the linear ones */

typedef struct predicting {
    const rgp_process_data *d;
    double *channel[CHANNELS];
    double *left; /* by row: the innovation; NAN where there is none */
    double *room;
    size_t sought; /* PLAIN, or all */
    double linear[LINEAR];
    double scale;   /* spread of the innovations, without the greatest */
    double gained;  /* by the last step of the search */
    size_t bridged; /* rows: the longest gap over which it is foreseen */
    size_t fades;   /* rows behind a longer one that do not count */
} predicting;

/* A lag and poles that can be, of a predictor that forgets how it began. */
bool innovations_possible(const predicting *f, const double *at);

/* The innovations with such numbers, and the linear ones as they are. */
void innovations_look(predicting *f, const double *at);

/* The same with the linear numbers that leave least, and their scale. False: they cannot be told. */
bool innovations_begin(predicting *f, const double *at);

/* Of a row, by how far off it is. */
double innovations_weight(const predicting *f, size_t row);

/* A number of which the rows do not tell, as how it began where a gap soon follows, stays as it is. */
void innovations_stiffen(gsl_matrix *h, double by);

#endif
