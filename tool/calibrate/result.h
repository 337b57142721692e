/* Inside calibrate: what the two ways to a result share. */
#ifndef TOOL_CALIBRATE_RESULT_H
#define TOOL_CALIBRATE_RESULT_H

#include "calibrate.h"

static inline const calibrate_point *calibrate_point_at(const calibration *c, guint i)
{
    return &g_array_index(c->point, calibrate_point, i);
}

/* To be freed. Of an error two digits are enough. */
char *calibrate_number_text(double x, const char *unit);
char *calibrate_error_text(double x);

void calibrate_put_padded(GString *to, int width, const char *text);

/* A new text as a rig; NULL, with *why to be freed, when it does not compile. */
rgp_rig *calibrate_try_text(const calibration *c, const char *text, char **why);

/* The new text, with other numbers in these places. False with *why, to be freed. */
bool calibrate_write_places(calibration *c, const guint *which, const double *number, guint count, char **why);

/* True for a range of validity that the stage writes, and which it is. */
bool calibrate_writes_range(const calibration *c, double range[2]);

/* bands.c */
bool calibrate_conclude_bands(calibration *c, char **why);

#endif
