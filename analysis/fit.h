/* A calibration's settings from captures at known values: a curve of the form of the stage in use.
 *
 * line, power, echo, beta and steinhart are straight lines or polynomials between a function of what goes in and a
 * function of what is known; they are fitted by least squares. A table goes through its points. */
#ifndef ANALYSIS_FIT_H
#define ANALYSIS_FIT_H

#include <glib.h>
#include <stdbool.h>

#define RGP_FIT_POINTS_MAX   64u
#define RGP_FIT_SETTINGS_MAX 8u
#define RGP_FIT_ECHO_SCALE   7u /* of 'echo' this setting holds: distance for one input unit of time at 1 m/s */

typedef struct rgp_fit_point {
    double in, in_error; /* what went in, and its standard error */
    double known;        /* what has to come out of the stage */
} rgp_fit_point;

typedef struct rgp_fit {
    const struct fit_form *form;
    double setting[RGP_FIT_SETTINGS_MAX]; /* the stage's, in its order; those that are not measured as they were */
    guint points;                         /* that were given, in the order of what went in */
    rgp_fit_point point[RGP_FIT_POINTS_MAX];
    double residual[RGP_FIT_POINTS_MAX]; /* known value less that of the curve */
    double left_out[RGP_FIT_POINTS_MAX]; /* the same, of a curve through all other points; NAN where there is none */
    guint knots;                         /* of a table: points of one known value are one knot */
    double knot_in[RGP_FIT_POINTS_MAX], knot_out[RGP_FIT_POINTS_MAX];
    double noise;    /* standard error of a point, in output units, from the captures */
    double expected; /* what 19 of 20 results between the outermost points are off by at most; NAN when no point is left
                        over */
    double bow;      /* of a table: the part of that which comes from bends between points */
    char *advice;    /* whether more points would help, and where */

    /* of a curve */
    guint terms;
    double term[3], covariance[9];
    double misfit; /* variance that the captures' noise does not explain, where the curve was fitted */
    double wide;   /* the deviations that hold 19 of 20 */
} rgp_fit;

/* The least points that the stage `word` ("line") needs; 0 for one that cannot be fitted. */
guint rgp_fit_least(const char *word);

/* `setting`: what stands there now; of `power` the input that the law is stated at, or with `fresh` that is chosen.
 * `unit` names the output in advice, `in_unit` the input. NULL, and *reason to be freed, when the points do not make a
 * curve: too few, two at one input, not all rising or falling, outside what the form can take. */
rgp_fit *rgp_fit_points(const char *word, const rgp_fit_point *point, guint points, const double *setting, bool fresh,
                        const char *unit, const char *in_unit, char **reason);
void rgp_fit_free(rgp_fit *fit);

/* The curve at an input; NAN where it has no value. */
double rgp_fit_at(const rgp_fit *fit, double in);

/* The greatest error of 19 of 20 results at that input. */
double rgp_fit_error(const rgp_fit *fit, double in);

/* True when the points are off the curve by more than their noise. */
bool rgp_fit_is_bent(const rgp_fit *fit);

/* The settings, and the knots, rounded to the digits that the captures can tell. */
void rgp_fit_round(rgp_fit *fit, bool whole_inputs);

/* One known value: `fit` of the same stage moved so that it goes through it, its slope kept. False, and *reason, for a
 * stage for which that makes no sense. `whole`: the inputs of a table stay whole numbers. */
bool rgp_fit_shift(const char *word, const double *setting, guint settings, const rgp_fit_point *point, bool whole,
                   double *shifted, char **reason);

#endif
