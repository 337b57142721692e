/* Loops that are made up, with one thing wrong each, stepped six times as finely as the controller, which is the
 * product's own block. */
#ifndef EVIDENCE_AILING_H
#define EVIDENCE_AILING_H

#include "analysis/diagnosis.h"
#include "analysis/margins.h"

#include <gsl/gsl_rng.h>

/* PREDICTED is SLUGGISH with a 'predict' line, as much quicker as that allows. TANK, whose outflow goes with the root
 * of its level, is never used in making. BALANCED falls over without its loop, and is judged
 * apart. */
typedef enum ailing_shape {
    AILING_WARM,
    AILING_SLUGGISH,
    AILING_GLIDE,
    AILING_DIRECT,
    AILING_PREDICTED,
    AILING_TANK,
    AILING_SHAPES,
    AILING_BALANCED = AILING_SHAPES,
    AILING_ALL_SHAPES
} ailing_shape;
extern const char *const ailing_shape_words[AILING_ALL_SHAPES];

enum { AILING_ROWS = 6000 };

typedef struct ailing {
    rgp_response_row row[AILING_ROWS];
    size_t rows;
    rgp_pid_config pid;
    rgp_predict_config predict; /* gain 0: it has none */
} ailing;

rgp_loop_run ailing_run(const ailing *run, const rgp_pid_config *pid);

/* A loop of that shape which that cause makes worse, by enough to be seen: the integral of the absolute error, the way
 * of the output, or what moves at the end. False where none was found; not every shape can have each. */
bool ailing_make(ailing_shape shape, rgp_cause cause, gsl_rng *chance, ailing *to);

/* The same with two things wrong at once, of which each alone would make it worse, too. */
bool ailing_make_two(ailing_shape shape, rgp_cause cause, rgp_cause other, gsl_rng *chance, ailing *to);

/* A sound loop, tuned by the rule, whose gains may be changed. To be freed by g_free(). */
typedef struct ailing_world ailing_world;
ailing_world *ailing_sound(ailing_shape shape, gsl_rng *chance);
rgp_pid_config ailing_pid(const ailing_world *world);

/* The load that comes in it: when, in seconds, and how much as if driven; and what a unit driven makes in the end, or
 * of an integral a second. False: none does. */
bool ailing_load(const ailing_world *world, double *at, double *size, double *gain);

/* A run of it with another controller; the integral of its absolute error. */
double ailing_try(const ailing_world *world, const rgp_pid_config *pid, gsl_rng *chance, ailing *to);

#endif
