/* The relay's turns, and the answer at the frequency of its swing. */
#include "relay.h"

#include <gsl/gsl_statistics_double.h>
#include <math.h>

#define DROPPED     2u /* periods, until the swing has come to itself */
#define PERIODS     6u /* that are looked at */
#define SHIFTS_MOST 5u
#define UNEVEN      0.1 /* by so much up and down may differ, as a share of the period */
#define ROWS_LEAST  8.0 /* of a period */
#define SCATTER     0.1 /* of the period */
#define MARGINS     3.0 /* half of the swing, in margins */

void rgp_relay_begin(rgp_relay *r, double middle, double size, double target, double margin, bool falls)
{
    *r = (rgp_relay){.middle = middle,
                     .size = size,
                     .target = target,
                     .margin = margin,
                     .falls = falls,
                     .turn = g_array_new(FALSE, FALSE, sizeof(size_t)),
                     .down = g_array_new(FALSE, FALSE, sizeof(size_t))};
}

void rgp_relay_end(rgp_relay *r)
{
    g_array_unref(r->turn);
    g_array_unref(r->down);
}

static size_t row_of(const GArray *rows, guint i)
{
    return g_array_index(rows, size_t, i);
}

/* The middle becomes the mean of what the last period drove, where that was uneven. */
static void make_even(rgp_relay *r)
{
    const guint last = r->turn->len - 1;
    if (last < DROPPED || r->shifts == SHIFTS_MOST) {
        return;
    }
    const double begin = (double)row_of(r->turn, last - 1), down = (double)row_of(r->down, last - 1),
                 end = (double)row_of(r->turn, last), share = (down - begin) / (end - begin);
    if (fabs(2.0 * share - 1.0) > UNEVEN) {
        r->middle += r->size * (2.0 * share - 1.0);
        r->shifts++;
        g_array_set_size(r->turn, 0);
        g_array_set_size(r->down, 0);
        g_array_append_val(r->turn, r->row);
    }
}

static void go(rgp_relay *r, bool up)
{
    r->up = up;
    if (up) {
        g_array_append_val(r->turn, r->row);
        make_even(r);
    } else if (r->turn->len > 0) {
        g_array_append_val(r->down, r->row);
    }
}

double rgp_relay_step(rgp_relay *r, double measured)
{
    const double off = (r->falls ? -1.0 : 1.0) * (measured - r->target);
    if (r->up ? off > r->margin : off < -r->margin) {
        go(r, !r->up);
    } else if (r->row == 0) {
        r->up = off <= 0.0;
    }
    r->row++;
    return r->middle + (r->up ? r->size : -r->size);
}

bool rgp_relay_is_over(const rgp_relay *r)
{
    return r->turn->len > DROPPED + PERIODS;
}

/* The quotient of the Fourier coefficients of one period, of what is driven with the factor of its being held. */
static double complex answer_of(const double *driven, const double *measured, size_t rows)
{
    double complex u = 0.0, y = 0.0;
    const double angle = 2.0 * G_PI / (double)rows;
    for (size_t k = 0; k < rows; k++) {
        const double complex turn = cexp(-I * angle * (double)k);
        u += driven[k] * turn;
        y += measured[k] * turn;
    }
    return y / (u * cexp(-I * angle / 2.0) * sin(angle / 2.0) / (angle / 2.0));
}

static double height_of(const double *measured, size_t rows)
{
    double low = measured[0], high = measured[0];
    for (size_t k = 1; k < rows; k++) {
        low = fmin(low, measured[k]);
        high = fmax(high, measured[k]);
    }
    return (high - low) / 2.0;
}

const char *rgp_relay_answer_of(const rgp_relay *r, const double *driven, const double *measured, rgp_relay_answer *to)
{
    double period[PERIODS], gain[PERIODS], phase[PERIODS];
    if (!rgp_relay_is_over(r)) {
        return r->turn->len == 0 ? "it never turned" : "it did not swing for long enough";
    }
    double complex sum = 0.0, each[PERIODS];
    for (guint i = 0; i < PERIODS; i++) {
        const size_t from = row_of(r->turn, DROPPED + i), rows = row_of(r->turn, DROPPED + i + 1) - from;
        period[i] = (double)rows;
        each[i] = answer_of(driven + from, measured + from, rows);
        sum += each[i] / PERIODS;
    }
    for (guint i = 0; i < PERIODS; i++) {
        gain[i] = cabs(each[i]);
        phase[i] = carg(each[i] / sum);
    }
    const size_t from = row_of(r->turn, DROPPED);
    *to = (rgp_relay_answer){.periods = PERIODS,
                             .period = gsl_stats_mean(period, 1, PERIODS),
                             .scatter = gsl_stats_sd(period, 1, PERIODS),
                             .answer = sum,
                             .gain_error = gsl_stats_sd(gain, 1, PERIODS) / sqrt(PERIODS),
                             .phase_error = gsl_stats_sd(phase, 1, PERIODS) / sqrt(PERIODS),
                             .height = height_of(measured + from, row_of(r->turn, DROPPED + PERIODS) - from)};
    return to->period < ROWS_LEAST              ? "it swings too fast for the loop's steps"
           : to->scatter > SCATTER * to->period ? "its periods differ too much: something else moves it"
           : to->height < MARGINS * r->margin   ? "it hardly swings beyond the noise: let it go farther (--size)"
                                                : NULL;
}
