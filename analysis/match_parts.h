/* Shared by the files that match mechanisms to a recording. */
#ifndef ANALYSIS_MATCH_PARTS_H
#define ANALYSIS_MATCH_PARTS_H

#include "match.h"

#include "runtime/imitation.h"

#include <gsl/gsl_matrix.h>
#include <gsl/gsl_vector.h>

/* A setting on the way to its value, in coordinates of its own: itself, or its logarithm. */
typedef struct candidate {
    uint32_t mechanism, setting;
    bool logarithm, written, free;
    double low, high, begin, now; /* coordinates */
    double step;                  /* that moves the readings by about their noise; 0: none does */
    rgp_match_fate fate;
    uint32_t like[RGP_MATCH_LIKE], likes;
    double low_end, high_end; /* coordinates: 19 of 20 */
} candidate;

typedef struct seen {
    uint32_t sensor;
    double *reading, *without; /* by row from `from` on; NAN: none, or a spike */
    double *raw;               /* by row of the imitation */
    double noise;
    size_t spikes;
} seen;

typedef struct matching {
    const rgp_match_ask *ask;
    rgp_imitation *imitation;
    rgp_mechanism_item *item; /* with the settings of the last run */
    size_t skipped, rows;     /* of the imitation: before those that are looked at; those */
    size_t each, blocks;      /* rows in a block; blocks of a sensor */
    uint32_t seen_count, candidates;
    seen *seen;
    candidate *candidate;
    gsl_vector *measured; /* blocks of each sensor, behind one another, in noises; a block without readings is 0, and so
                             it is in what is predicted */
    bool (*progress)(void *self);
    void *self;
    bool stopped;
    GError *error;
} matching;

double match_coordinate(const candidate *c, double value);
double match_value(const candidate *c, double coordinate);

/* Means of `raw` where there are readings, by block, in noises, from `at` on. */
void match_blocks(const matching *m, const seen *s, const double *raw, gsl_vector *to, size_t at);

/* The readings with the candidates as they are now; false when it was stopped or went wrong. */
bool match_predict(matching *m, gsl_vector *to);

uint32_t match_free(const matching *m);

/* Steps for all candidates; those for which there is none are no longer free. */
bool match_steps(matching *m);

/* Brings the free candidates to where the squares of what is left are least: *squares. */
bool match_search(matching *m, double *squares);

/* Derivatives of what is read by each free candidate, in its steps, about where they are now. */
bool match_derivatives(matching *m, gsl_matrix *to);

/* The places of all candidates, kept and put back. */
void match_take(const matching *m, double *to);
void match_put(matching *m, const double *from);

bool match_tell(matching *m, rgp_match *to);

/* Of what has been found: which candidates stay as they are written, until all that are free are known, with their
 * intervals. */
bool match_judge(matching *m);

#endif
