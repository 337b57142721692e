/* Inside the diagnosis of a loop. */
#ifndef ANALYSIS_DIAGNOSIS_PARTS_H
#define ANALYSIS_DIAGNOSIS_PARTS_H

#include "diagnosis.h"

#define A_SINE 0.9 /* of what moved: a model of so much of one sine tells nothing of the mechanism */

/* The stretch as columns; a row that is not to be used repeats the one before. */
typedef struct diagnosed {
    const rgp_pid_config *pid;
    const rgp_predict_config *predict;
    double *target, *error, *measured, *output;
    bool *saturated;
    bool stands; /* as of the run */
    size_t rows;
    double begin, step;  /* seconds: of the first row; from row to row */
    double noise, count; /* measured units: of a reading, and its step */
    double period_rows;  /* of the swing; 0: none */
    rgp_diagnosis *to;
} diagnosed;

/* diagnosis_swing.c: what swings in the second half, and by which waves. */
void diagnosis_swing(diagnosed *d);

/* diagnosis_height.c: the mean height of the k-th harmonic of a period in rows, over pieces of so many periods each,
 * from a row up to another; 0 of less than a piece. */
double diagnosis_height(const double *value, size_t from, size_t count, double periods, double period, double k);

/* diagnosis_steps.c: how many steps of the setpoint come behind a row. */
size_t diagnosis_steps(const diagnosed *d, size_t from);

/* The errors from a row on in which what a step of the setpoint makes is over; how many they are. */
size_t diagnosis_settled(const diagnosed *d, size_t from, double *to);

/* From a row on, what the error has of that period comes from a setpoint that steps up and down. */
bool diagnosis_is_stepped(const diagnosed *d, size_t from, double period);

/* The errors without what such steps make. To be freed. */
double *diagnosis_besides_steps(const diagnosed *d);

/* diagnosis_model.c: a model of the stretch, and this loop on it. */
void diagnosis_model(diagnosed *d);

/* A model of a stretch that is one sine by such a share tells dead time from lags by so much: 1 to 0. */
double diagnosis_tells_late(double sine);

/* diagnosis_between.c: what a play, friction or a swing from outside would explain of what swings. */
void diagnosis_between(diagnosed *d);

/* diagnosis_lean.c: what it has to hold to stand still. */
void diagnosis_lean(diagnosed *d);

/* diagnosis_chances.c: the chances by the signs; the likeliest two. False: none of the causes may be said. */
bool diagnosis_chances(rgp_diagnosis *to, const rgp_loop_run *run);

/* A 1, each sign in spreads from its mean over what was learnt from, within 3, and the squares of those. */
enum { DIAGNOSIS_INPUTS = 1u + 2u * RGP_SIGNS };
void diagnosis_inputs(const rgp_signs *sign, const double *mean, const double *spread, double *input);

/* diagnosis_bears.c: the causes that may be said at all: each leaves something that has to be there, whatever the
 * weights say. */
void diagnosis_bears(const rgp_diagnosis *d, const rgp_loop_run *run, bool *may);

/* The probabilities of the causes that may be, for inputs, with such weights; all 0 where none may. */
void diagnosis_shares(const double (*weight)[DIAGNOSIS_INPUTS], const double *input, const bool *may, double *share);

/* diagnosis_weights.c, which tests/evidence/diagnosis.c writes: by rgp_diagnosis.falls, for what is known to fall
 * without its loop and for all others. */
typedef struct diagnosis_table {
    double mean[RGP_SIGNS], deviation[RGP_SIGNS], weight[RGP_CAUSES][DIAGNOSIS_INPUTS];
} diagnosis_table;
extern const diagnosis_table diagnosis_tables[2];

/* The standard deviation of values. */
double diagnosis_spread(const double *value, size_t count);

#endif
