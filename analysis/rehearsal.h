/* A loop rehearsed on a model of what it regulates: the controller is the product's own block with all its settings,
 * the process is difference equations, and each reading has noise of its own. */
#ifndef ANALYSIS_REHEARSAL_H
#define ANALYSIS_REHEARSAL_H

#include "noise.h"
#include "plant.h"
#include "response.h"

#include "rigpulse/regulate/pid.h"
#include "rigpulse/regulate/predict.h"

#include <glib.h>

#define RGP_REHEARSALS 20u

typedef struct rgp_rehearsal {
    const rgp_plant *plant;
    const rgp_pid_config *pid;
    const rgp_predict_config *predict; /* the line on whose word it acts; NULL: there is none */
    double tick;                       /* seconds */
    uint32_t stride;                   /* ticks from one reading, and one step of the loop, to the next; 1 and more */
    rgp_coloured noise;                /* of a reading, in measured units */
    double resolution; /* measured units: readings are whole numbers of it, counted from a place by chance; 0: they are
not */
    double ramp;       /* measured units a second: the setpoint moves no faster; 0: at once */
    double slew;       /* output units a second; 0: at once */
    double at;         /* output units: about what it drives when it begins, at rest */
    double length;     /* seconds from the test on */
    double size;       /* of the test, in measured units, or output units of a disturbance */
    rgp_response_test test;
} rgp_rehearsal;

/* A figure over all rehearsals: median, and what one in twenty is below and above. NAN: none has it. */
typedef struct rgp_spread {
    double low, median, high;
    uint32_t of; /* how many have it */
} rgp_spread;

typedef struct rgp_rehearsed {
    rgp_response response[RGP_REHEARSALS];
    uint32_t settled; /* how many did */
    uint32_t rows, before;
    double tick;                   /* seconds from row to row */
    rgp_spread *measured, *driven; /* by row; measured as a difference from where it began. Where
                                      none settled, the first run in place of the median */
} rgp_rehearsed;

/* Of a number of rgp_response, at that offset. Only those that settled have a settling time. */
rgp_spread rgp_rehearsed_figure(const rgp_rehearsed *r, size_t offset);

/* RGP_REHEARSALS runs, each with noise of its own. */
rgp_rehearsed *rgp_rehearse(const rgp_rehearsal *how);
void rgp_rehearsed_free(rgp_rehearsed *r);

#endif
