/* Named conditions told apart: borders between them, and a margin, from what a signal was in each. */
#ifndef ANALYSIS_SEPARATE_H
#define ANALYSIS_SEPARATE_H

#include <glib.h>
#include <stdbool.h>

#define RGP_CONDITIONS_MAX 16u

typedef struct rgp_condition {
    const char *name;
    GArray *value; /* of double: the signal while the condition held */
    double mean, spread;
} rgp_condition;

typedef struct rgp_separation {
    double border[RGP_CONDITIONS_MAX];   /* between the i-th and the next */
    double mistaken[RGP_CONDITIONS_MAX]; /* share of the single values on the wrong side of border i */
    double margin;
} rgp_separation;

/* Sorts the conditions from the lowest (their means and spreads are filled in) and looks for borders. False, and
 * *reason to be freed, when two of them cannot be told apart by single values with a margin between. */
bool rgp_separate(rgp_condition *condition, guint count, const char *unit, rgp_separation *found, char **reason);

#endif
