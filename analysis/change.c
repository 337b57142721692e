/* The change of a channel from a stretch at rest to a stretch that is driven, against the noise before it. */
#include "change.h"

#include <math.h>

#define SURE 3.0 /* deviations that the readings at rest hardly ever leave */

/* A straight line through the usable readings of some rows; time in seconds from the first. */
typedef struct trend {
    double begin, mean_time, mean, slope, deviation;
    uint32_t readings;
} trend;

static double seconds(const rgp_history *h, uint64_t row)
{
    return (double)rgp_history_time_us(h, row) / 1e6;
}

static bool is_usable(const rgp_history *h, uint32_t column, uint64_t row)
{
    return rgp_usable(rgp_history_quality(h, column, row));
}

static trend trend_of(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to)
{
    trend t = {.begin = seconds(h, from)};
    double times = 0.0, products = 0.0, squares = 0.0;
    for (uint64_t row = from; row < to; row++) {
        if (is_usable(h, column, row)) {
            const double time = seconds(h, row) - t.begin, value = (double)rgp_history_value(h, column, row);
            const double dt = time - t.mean_time, dv = value - t.mean;
            t.readings++;
            t.mean_time += dt / t.readings;
            t.mean += dv / t.readings;
            times += dt * (time - t.mean_time);
            products += dt * (value - t.mean);
            squares += dv * (value - t.mean);
        }
    }
    t.slope = times > 0.0 ? products / times : 0.0;
    t.deviation = t.readings > 2 ? sqrt(fmax(0.0, squares - t.slope * products) / (t.readings - 2)) : 0.0;
    if (fabs(t.slope) * (seconds(h, to - 1) - t.begin) < SURE * t.deviation) { /* no way that it is going */
        t.slope = 0.0;
        t.deviation = t.readings > 1 ? sqrt(squares / (t.readings - 1)) : 0.0;
    }
    return t;
}

static double beside(const rgp_history *h, uint32_t column, const trend *t, uint64_t row)
{
    const double time = seconds(h, row) - t->begin;
    return (double)rgp_history_value(h, column, row) - (t->mean + t->slope * (time - t->mean_time));
}

/* The last row that is still within what is usual at rest, and the one behind it. */
static double left_after(const rgp_history *h, uint32_t column, const trend *t, double most, uint64_t from, uint64_t to)
{
    uint64_t row = to;
    while (row > from && (!is_usable(h, column, row - 1) || fabs(beside(h, column, t, row - 1)) > most)) {
        row--;
    }
    return row < to ? seconds(h, row) - seconds(h, from) : 0.0;
}

rgp_change rgp_change_of(const rgp_history *h, uint32_t column, double least, uint64_t rest, uint64_t from, uint64_t to)
{
    rgp_change a = {0};
    const trend t = trend_of(h, column, rest, from);
    double sum = 0.0;
    uint32_t count = 0;
    for (uint64_t row = to - (to - from) / 3; row < to; row++) {
        if (is_usable(h, column, row)) {
            sum += beside(h, column, &t, row);
            count++;
        }
    }
    a.known = t.readings >= RGP_CHANGE_READINGS_LEAST && count > 0;
    if (a.known) {
        const double most = fmax(SURE * t.deviation, least);
        a.noise = t.deviation;
        a.by = sum / count;
        a.changed = fabs(a.by) > most;
        a.after = a.changed ? left_after(h, column, &t, most, from, to) : 0.0;
    }
    return a;
}
