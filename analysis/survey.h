/* A figure of a simulated rig over values of one or two parameters: each pair of values is run in the same worlds,
 * which differ by their noise and, where that is wanted, by what their mechanisms are like. */
#ifndef ANALYSIS_SURVEY_H
#define ANALYSIS_SURVEY_H

#include "rigpulse/lang.h"

#include <glib.h>
#include <stdbool.h>

#define RGP_SURVEY_AXES 2u

typedef struct rgp_survey_axis {
    const char *name, *unit; /* of a parameter; its unit */
    double low, high;
    uint32_t values; /* evenly from `low` to `high`; at least 2 */
} rgp_survey_axis;

typedef struct rgp_survey_ask {
    const char *path, *text;
    rgp_survey_axis axis[RGP_SURVEY_AXES];
    uint32_t axes;
    char **set;         /* NAME=VALUE of other parameters, NULL at the end; or NULL */
    const char *figure; /* the name of one of analysis/scores.h, or "time VALUE above 3 cm" */
    double from_s, length_s;
    uint32_t worlds; /* the first one is the hook-up as it stands */
    double off;      /* share by which each setting of a mechanism may be other than written; 0: none is */
    bool more;       /* a greater figure is the better one */
} rgp_survey_ask;

typedef struct rgp_survey_cell {
    double at[RGP_SURVEY_AXES];
    double *figure; /* by world; NAN: it never came to that, which is worse than any */
    uint32_t done;  /* worlds that have been run; those of a cell come in their order */
    uint32_t never;
    double median, worst; /* over the worlds that were run; NAN: never */
} rgp_survey_cell;

typedef struct rgp_survey {
    const rgp_survey_ask *ask;
    const char *unit; /* of the figure; interned */
    rgp_survey_cell *cell;
    uint32_t cells, whole; /* that have been run in all worlds */
    bool stopped;
} rgp_survey;

/* The names of all figures that a short run has, one a line; to be freed. NULL with *error. */
char *rgp_survey_figures(const rgp_survey_ask *ask, GError **error);

/* `progress` as in rgp_simulated_runs(). NULL with *error: no such figure, a value that the rig refuses. */
rgp_survey *rgp_survey_of(const rgp_survey_ask *ask, bool (*progress)(void *self, uint32_t done), void *self,
                          GError **error);
void rgp_survey_free(rgp_survey *survey);

/* The text of the figure's name is that of a time beyond a limit; false with *error when what stands behind it is none.
 * For callers that want to know before anything is run. */
bool rgp_survey_checks(const rgp_survey_ask *ask, const rgp_rig *rig, GError **error);

/* The cells that were run in all worlds, the best first: by the worst world, then by the median. To be freed. */
uint32_t *rgp_survey_order(const rgp_survey *survey);

#endif
