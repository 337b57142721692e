/* Leaning: a loop without an integral that has to drive to one side all along, only to stand still. */
#include "diagnosis_parts.h"
#include "diagnosis_words.h"

#include "explain/describe.h"

#include <gsl/gsl_statistics_double.h>

#include <math.h>

#define PARTS  4u   /* of the second half */
#define EVEN   0.5  /* of the mean: no part holds less */
#define ENOUGH 0.01 /* of the travel */

static bool is_even(const double *part, double mean)
{
    bool even = mean != 0.0;
    for (size_t i = 0; i < PARTS; i++) {
        even &= part[i] / mean > EVEN;
    }
    return even;
}

/* The longest stretch that is at no limit: where it begins, and its rows. */
static size_t free_stretch(const diagnosed *d, size_t *rows)
{
    size_t first = 0, begin = 0;
    *rows = 0;
    for (size_t i = 0; i <= d->rows; i++) {
        if (i == d->rows || d->saturated[i]) {
            first = i - begin > *rows ? begin : first;
            *rows = MAX(*rows, i - begin);
            begin = i + 1;
        }
    }
    return first;
}

/* Over its second half. */
static double mean_of_parts(const double *value, size_t rows, double *part)
{
    const size_t each = rows / 2u / PARTS, first = rows - PARTS * each;
    for (size_t i = 0; i < PARTS; i++) {
        part[i] = gsl_stats_mean(value + first + i * each, 1, each);
    }
    return gsl_stats_mean(part, 1, PARTS);
}

void diagnosis_lean(diagnosed *d)
{
    const double low = (double)d->pid->low, high = (double)d->pid->high;
    double held[PARTS], off[PARTS];
    size_t rows;
    const size_t first = free_stretch(d, &rows);
    if (d->pid->gain.ki > 0.0f || !(low < 0.0 && high > 0.0) || rows < d->rows / 2u || d->to->leaves) {
        return;
    }
    const double output = mean_of_parts(d->output + first, rows, held),
                 error = mean_of_parts(d->error + first, rows, off);
    if (fabs(output) > ENOUGH * (high - low) && is_even(held, output) && is_even(off, error)) {
        d->to->holds = output;
        d->to->lean = error;
    }
}

char *rgp_diagnosis_leaning(const rgp_diagnosis *d, const rgp_trial_names *names)
{
    if (d->unfit || d->holds == 0.0) {
        return NULL;
    }
    const bool up = d->lean > 0.0;
    return g_strdup_printf(
        "it leans: its output is %s in the mean, only to stand still; where that should be 0, it "
        "balances %s the setpoint, mostly by more than the %s%s%s that it is off: move the setpoint %s",
        rgp_digits(d->holds, 2).text, up ? "above" : "below", rgp_digits(fabs(d->lean), 2).text,
        *names->unit ? " " : "", names->unit, up ? "up" : "down");
}
