/* One value over the time of a run, taken out of its history: for pictures of runs beside each other. */
#ifndef ANALYSIS_COURSE_H
#define ANALYSIS_COURSE_H

#include "runtime/history.h"

#include <glib.h>

typedef struct rgp_course_point {
    double time;  /* seconds from the beginning of what is looked at */
    double value; /* NAN: not to be used */
} rgp_course_point;

typedef struct rgp_course {
    char *name, *unit;
    char **part;   /* of names: their words, from 0 on, NULL at the end; NULL: it is a number */
    GArray *point; /* of rgp_course_point, in the order of time */
} rgp_course;

/* The names of what one looks at first, two at most, an array with NULL at its end to be freed by g_strfreev(): what
 * the first loop measures (its error, where that has no name) and drives; else the first signal in numbers, and the
 * first actuator. */
char **rgp_course_names(const rgp_image_header *image);

/* NULL where the history has no such value. Frees with rgp_course_free(). */
rgp_course *rgp_course_of(rgp_history *history, const char *name, uint64_t from_us, uint64_t to_us);
void rgp_course_free(rgp_course *course);

/* The value at a time: of the last point that is not behind it; NAN before the first. */
double rgp_course_at(const rgp_course *course, double time);

#endif
