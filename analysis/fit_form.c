/* The forms of fits: of each stage the functions between which it is a line or a polynomial, and its settings from
 * that. */
#include "fit_form.h"

#include <math.h>
#include <string.h>

#define KELVIN 273.15
#define SOUND  331.3 /* m/s at 0 degrees Celsius; as in rigpulse/condition/echo.h */

static double plain(double x)
{
    return x;
}

static double logarithm(double x)
{
    return x > 0.0 ? log(x) : NAN;
}

static double exponential(double x)
{
    return exp(x);
}

static double inverse_kelvin(double celsius)
{
    return celsius > -KELVIN ? 1.0 / (celsius + KELVIN) : NAN;
}

static double celsius_of(double inverse)
{
    return inverse > 0.0 ? 1.0 / inverse - KELVIN : NAN;
}

static double value_of_line(const double *s, double in)
{
    return s[0] * in + s[1];
}

static double value_of_power(const double *s, double in)
{
    return s[0] * pow(in / s[1], s[2]);
}

static double value_of_echo(const double *s, double in)
{
    return s[RGP_FIT_ECHO_SCALE] * SOUND * sqrt(1.0 + s[0] / KELVIN) * in;
}

static double value_of_beta(const double *s, double in)
{
    return celsius_of(1.0 / (s[2] + KELVIN) + log(in / s[1]) / s[0]);
}

static double value_of_steinhart(const double *s, double in)
{
    const double u = log(in);
    return celsius_of(s[0] + s[1] * u + s[2] * u * u * u);
}

static void settle_line(rgp_fit *f, const double *was, bool fresh)
{
    (void)was;
    (void)fresh;
    f->setting[0] = f->term[1];
    f->setting[1] = f->term[0];
}

static double two_digits(double x)
{
    const double scale = pow(10.0, floor(log10(x)) - 1.0);
    return round(x / scale) * scale;
}

static void settle_power(rgp_fit *f, const double *was, bool fresh)
{
    const double middle = sqrt(f->point[0].in * f->point[f->points - 1].in);
    f->setting[1] = fresh ? two_digits(middle) : was[1];
    f->setting[0] = exp(f->term[0] + f->term[1] * log(f->setting[1]));
    f->setting[2] = f->term[1];
}

static void settle_echo(rgp_fit *f, const double *was, bool fresh)
{
    (void)fresh;
    const double ratio = f->term[0] / was[RGP_FIT_ECHO_SCALE] / SOUND;
    f->setting[0] = KELVIN * (ratio * ratio - 1.0);
}

static void settle_beta(rgp_fit *f, const double *was, bool fresh)
{
    (void)fresh;
    f->setting[2] = was[2];
    f->setting[0] = 1.0 / f->term[1];
    f->setting[1] = exp((1.0 / (was[2] + KELVIN) - f->term[0]) / f->term[1]);
}

static void settle_steinhart(rgp_fit *f, const double *was, bool fresh)
{
    (void)was;
    (void)fresh;
    memcpy(f->setting, f->term, 3 * sizeof *f->term);
}

static const fit_form forms[] = {
    {"table", 2, 0, {0}, plain, plain, plain, NULL, NULL},
    {"line", 2, 2, {0, 1}, plain, plain, plain, value_of_line, settle_line},
    {"power", 2, 2, {0, 1}, logarithm, logarithm, exponential, value_of_power, settle_power},
    {"echo", 1, 1, {1}, plain, plain, plain, value_of_echo, settle_echo},
    {"beta", 2, 2, {0, 1}, logarithm, inverse_kelvin, celsius_of, value_of_beta, settle_beta},
    {"steinhart", 3, 3, {0, 1, 3}, logarithm, inverse_kelvin, celsius_of, value_of_steinhart, settle_steinhart},
};

const fit_form *fit_form_of(const char *word)
{
    for (guint i = 0; i < G_N_ELEMENTS(forms); i++) {
        if (strcmp(forms[i].word, word) == 0) {
            return &forms[i];
        }
    }
    return NULL;
}
