/* A process that falls at a glance: by its innovations alone, from a guess of its lag in rows. Coarser rows hold more
 * of what it does in as many, and are looked at first. */
#include "process_falling.h"

#include "numerics.h"

#include <math.h>

#define GLANCE_ROWS  2000u
#define SCREEN_ROWS  700u
#define SCREEN_LEAST 1000u /* rows: fewer are not made coarser */
#define SCREEN_LAG   5.0   /* rows, to begin with */
#define SCREEN_LAGS  4.3   /* that these rows are to hold */
#define GLANCE_LAG   12.0  /* rows, to begin with */
#define LAG_LEAST    6.0   /* rows, or they are too coarse */
#define LAG_FINEST   1.5   /* the same of rows that are no coarser than they were */
#define LAG_MOST     40.0  /* rows, or they are too fine */
#define COARSE       4u
#define COARSER      16u

/* Rows of which so many make one: what was driven on average, and what was measured at its beginning. */
static rgp_process_data coarser(const rgp_process_data *d, size_t each, double *driven, double *measured)
{
    const size_t count = d->count / each;
    for (size_t i = 0; i < count; i++) {
        measured[i] = d->measured[i * each];
        driven[i] = 0.0;
        for (size_t k = 0; k < each; k++) {
            driven[i] += d->driven[i * each + k] / (double)each;
        }
    }
    return (rgp_process_data){driven, measured, count, d->tick * (double)each};
}

/* A process that stands by itself shows no lag in which it would fall: few rows tell. */
static bool may_fall(const rgp_process_data *all)
{
    const size_t each = all->count < SCREEN_LEAST ? 1 : COARSE;
    const rgp_process_data part = process_falling_busy(all, SCREEN_ROWS * each);
    double driven[SCREEN_ROWS], measured[SCREEN_ROWS];
    const rgp_process_data few = coarser(&part, each, driven, measured);
    return process_innovations_lag(&few, SCREEN_LAG * few.tick) < (double)few.count / SCREEN_LAGS * few.tick;
}

/* From a lag of some rows on, of which so many make one; false: it is not known. *rows: of the coarse ones in the lag
 * that was found. */
static bool glance(const rgp_process_data *all, size_t each, rgp_process *to, double *rows)
{
    const rgp_process_data part = process_falling_busy(all, GLANCE_ROWS * each);
    g_autofree double *driven = g_new(double, GLANCE_ROWS + 1), *measured = g_new(double, GLANCE_ROWS + 1);
    const rgp_process_data few = coarser(&part, each, driven, measured);
    double shape[] = {log(GLANCE_LAG * few.tick), 0.0}, linear[SHARED], error[FALLING_NUMBERS];
    const bool found = process_innovations(&few, shape, linear, error);
    *rows = 0.0;
    if (found) {
        *to = (rgp_process){.kind = RGP_PROCESS_FALLING};
        process_falling_numbers(shape, linear, error, few.tick, to);
        *rows = to->lag.value / few.tick;
    }
    return found && rgp_process_is_known(to) && *rows > (each > 1 ? LAG_LEAST : LAG_FINEST);
}

bool rgp_process_glance_falling(const rgp_process_data *data, rgp_process *to)
{
    double rows;
    rgp_numerics_go_on();
    return may_fall(data) &&
           (glance(data, COARSE, to, &rows) || glance(data, rows > LAG_MOST ? COARSER : 1u, to, &rows));
}
