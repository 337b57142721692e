/* Mechanisms: equations of motion that know no port. Settings, inputs and outputs are those of the kind's
 * lists, in their order and units. A state is a row of doubles. */
#ifndef PLANT_PLANT_H
#define PLANT_PLANT_H

#include "rigpulse/lang.h"

#define PLANT_STATES_MAX 8
#define PLANT_PI         3.14159265358979323846

typedef struct plant {
    rp_mechanism_kind kind;
    uint32_t states;

    /* The state at time 0; NULL: all 0. */
    void (*begin)(const double *setting, double *state);

    /* d state / dt, in units a second; time in seconds. NULL: nothing moves by itself. */
    void (*rate)(const double *setting, const double *input, double time, const double *state, double *rate);

    /* Stops, brims and walls, after each step; NULL: none. */
    void (*bound)(const double *setting, double *state);

    double (*output)(const double *setting, double time, const double *state, uint32_t which);

    /* A disturbance of the kind's list happens; NULL: its amount is added to the first state. */
    void (*disturb)(const double *setting, double *state, uint32_t which, double amount);
} plant;

/* Fourth-order Runge-Kutta (Kutta, 1901) in equal steps of at most PLANT_STEP, inputs held. */
#define PLANT_STEP 1e-3
void plant_run(const plant *p, const double *setting, const double *input, double from, double to, double *state);

void plant_begin(const plant *p, const double *setting, double *state);
void plant_disturb(const plant *p, const double *setting, double *state, uint32_t which, double amount);

/* All kinds; ends with NULL. */
extern const plant *const plants[];

const plant *plant_of(const rp_mechanism_kind *kind);

#endif
