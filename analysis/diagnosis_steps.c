/* A setpoint that steps again and again: what a loop does behind each step is no swing of its own. */
#include "diagnosis_parts.h"

#include <gsl/gsl_statistics_double.h>

#include <math.h>

#define LEAP  0.2 /* of how far the setpoint went */
#define STEPS 2u  /* fewer are once there, and not back */
#define LED   0.5 /* of the swing of the error */

static double least_move(const diagnosed *d)
{
    double low, high;
    gsl_stats_minmax(&low, &high, d->target, 1, d->rows);
    return LEAP * (high - low);
}

/* The first row from there on in which the setpoint is by more than that another than in the one before; or the end. */
static size_t next_step(const diagnosed *d, size_t from, double least)
{
    for (size_t i = from; i < d->rows && least > 0.0; i++) {
        if (fabs(d->target[i] - d->target[i - 1]) > least) {
            return i;
        }
    }
    return d->rows;
}

size_t diagnosis_steps(const diagnosed *d, size_t from)
{
    const double least = least_move(d);
    size_t steps = 0;
    for (size_t i = next_step(d, from + 1, least); i < d->rows; i = next_step(d, i + 1, least)) {
        steps++;
    }
    return steps;
}

/* All that comes before the first step; of what is between one and the next, or the end, the second half. */
size_t diagnosis_settled(const diagnosed *d, size_t from, double *to)
{
    const double least = least_move(d);
    size_t count = 0;
    for (size_t begin = 0, end; begin < d->rows; begin = end) {
        end = next_step(d, begin + 1, least);
        for (size_t i = MAX(from, begin > 0 ? begin + (end - begin) / 2 : 0); i < end; i++) {
            to[count++] = d->error[i];
        }
    }
    return count;
}

bool diagnosis_is_stepped(const diagnosed *d, size_t from, double period)
{
    return diagnosis_steps(d, from) >= STEPS && period > 0.0 &&
           diagnosis_height(d->target, from, d->rows, 1.0, period, 1.0) >
               LED * diagnosis_height(d->error, from, d->rows, 1.0, period, 1.0);
}

/* Of each row behind a step: that step, and how many rows ago it was. */
static void find_steps(const diagnosed *d, double *step, size_t *behind)
{
    const double least = least_move(d);
    for (size_t i = next_step(d, 1, least); i < d->rows; i++) {
        const double move = d->target[i] - d->target[i - 1];
        const bool steps = fabs(move) > least;
        step[i] = steps ? move : step[i - 1];
        behind[i] = steps ? 0 : behind[i - 1] + 1;
    }
}

/* The mean answer to a step, row by row behind it, where there are two or more, is taken out: less is left of what
 * comes at other times, but it is not gone. */
double *diagnosis_besides_steps(const diagnosed *d)
{
    const size_t n = d->rows;
    double *to = g_memdup2(d->error, n * sizeof(double)), *step = g_new0(double, 3 * n), *sum = step + n,
           *squares = sum + n;
    size_t *behind = g_new0(size_t, 2 * n), *times = behind + n;
    find_steps(d, step, behind);
    for (size_t i = 0; i < n; i++) {
        sum[behind[i]] += step[i] * d->error[i];
        squares[behind[i]] += step[i] * step[i];
        times[behind[i]] += step[i] != 0.0;
    }
    for (size_t i = 0; i < n; i++) {
        to[i] -= times[behind[i]] > 1 ? step[i] * sum[behind[i]] / squares[behind[i]] : 0.0;
    }
    g_free(step);
    g_free(behind);
    return to;
}
