/* A capture: what a sensor says while it is held in a known condition, and whether that can be believed. */
#ifndef ANALYSIS_CAPTURE_H
#define ANALYSIS_CAPTURE_H

#include "rigpulse/reading.h"

#include <glib.h>

/* The intake, tick by tick: the sensor's raw readings, and what went into the stage that is calibrated. */
typedef struct rgp_intake {
    const char *sensor, *unit; /* of the raw readings */
    const char *input, *input_unit;
    bool summed;                      /* what goes in is a sum over time: it wanders even at rest */
    double tick;                      /* seconds */
    int32_t low, high;                /* the sensor's declared range */
    GArray *raw, *in;                 /* of double */
    GArray *raw_quality, *in_quality; /* of rgp_quality */
    GArray *same; /* of uint8_t: 1 in ticks in which the sensor had no new reading: what stands counts once. NULL: in
                     none */
} rgp_intake;

typedef struct rgp_capture {
    double in, in_error;    /* mean of what went in, and its standard error, slow changes counted in */
    double in_spread;       /* standard deviation of single values */
    double raw, noise;      /* median of the raw readings; standard deviation of what changes from one to the next */
    double moved;           /* raw: how far its straight line went in the window */
    double swung;           /* raw: standard deviation of the medians of eighths of the window, about that line */
    uint32_t readings, bad; /* new ones; ticks in which what went in was bad */
    uint32_t usable; /* readings that the figures are of, before strays were left out; 0: the figures mean nothing */
    char *reason;    /* why it is not to be believed; NULL: it is */
} rgp_capture;

#define RGP_CAPTURE_READINGS_LEAST 16u

/* The ticks `from` up to, and not with, `to`. `noise_before`: that of captures which were believed, or 0. */
rgp_capture rgp_capture_window(const rgp_intake *intake, guint from, guint to, double noise_before);
void rgp_capture_clear(rgp_capture *capture);

/* The least and the greatest of what went in, over ticks in which it was moved through its whole travel: spikes left
 * out (the extremes of medians of five). False, and *reason to be freed, when it was not moved. */
bool rgp_capture_span(const rgp_intake *intake, guint from, guint to, double *least, double *greatest, double *error,
                      char **reason);

#endif
