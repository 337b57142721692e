#include "response.h"

#include <math.h>

#define BEFORE_LEAST 10u
#define BEHIND_LEAST 20u
#define TURNS_MOST   64u

/* From reading to reading, so that a drift or a slow swing is no noise. */
static double noise_of(const rp_response_row *row, uint32_t rows)
{
    double squares = 0.0;
    uint32_t n = 0;
    for (uint32_t i = 1; i < rows; i++) {
        if (row[i].usable && row[i - 1].usable) {
            const double change = row[i].measured - row[i - 1].measured;
            squares += change * change;
            n++;
        }
    }
    return n > 0 ? sqrt(squares / (2.0 * n)) : 0.0;
}

/* The time at which it first is past a share of the step; NaN: never. */
static double first_past(const rp_response_row *row, uint32_t rows, double from, double size, double share)
{
    for (uint32_t i = 0; i < rows; i++) {
        if (row[i].usable && (row[i].measured - from) / size >= share) {
            return row[i].time;
        }
    }
    return NAN;
}

/* The turning points of the error on the side to which it swings out most: its swings. A turn counts when it comes back
 * by `least`. */
static uint32_t swings_of(const rp_response_row *row, uint32_t rows, double least, double side, double *height,
                          double *time)
{
    double top = -INFINITY, bottom = INFINITY, top_time = 0.0;
    bool rising = true;
    uint32_t n = 0;
    for (uint32_t i = 0; i < rows && n < TURNS_MOST; i++) {
        const double error = side * (row[i].measured - row[i].target);
        if (!row[i].usable) {
            continue;
        }
        if (rising && error > top) {
            top = error;
            top_time = row[i].time;
        } else if (rising && top - error > least) {
            if (top > least) {
                height[n] = top;
                time[n++] = top_time;
            }
            rising = false;
            bottom = error;
        } else if (!rising && error < bottom) {
            bottom = error;
        } else if (!rising && error - bottom > least) {
            rising = true;
            top = error;
            top_time = row[i].time;
        }
    }
    return n;
}

/* Between the first and the last swing that stand out of the noise, geometrically. */
static void find_swings(const rp_response_row *row, uint32_t rows, double side, rp_response *r)
{
    double height[TURNS_MOST], time[TURNS_MOST];
    const double least = fmax(fmax(r->band, 0.1 * r->peak), 1e-12);
    const uint32_t n = swings_of(row, rows, least, side, height, time);
    if (n >= 2) {
        r->decay = pow(height[n - 1] / height[0], 1.0 / (n - 1));
        r->period = (time[n - 1] - time[0]) / (n - 1);
    }
}

static void sum_up(const rp_response_row *row, uint32_t rows, rp_response *r)
{
    double steady = 0.0;
    uint32_t n = 0;
    for (uint32_t i = 0; i < rows; i++) {
        const double dt = i + 1 < rows ? row[i + 1].time - row[i].time : 0.0;
        r->saturated += row[i].saturated ? dt : 0.0;
        r->effort += i > 0 ? fabs(row[i].output - row[i - 1].output) : 0.0;
        if (row[i].usable) {
            const double error = row[i].target - row[i].measured;
            r->iae += fabs(error) * dt;
            if (i >= rows - rows / 10) {
                steady += error;
                n++;
            }
        }
    }
    r->steady = n ? steady / n : NAN;
}

/* The last time at which it was outside the band about where the setpoint is. */
static void find_settling(const rp_response_row *row, uint32_t rows, rp_response *r)
{
    uint32_t last = 0;
    for (uint32_t i = 0; i < rows; i++) {
        if (row[i].usable && fabs(row[i].measured - row[i].target) > r->band) {
            last = i + 1;
        }
    }
    r->settles = last <= rows - rows / 10;
    r->settling = r->settles && last < rows ? row[last].time - row[0].time : NAN;
}

static double greatest_error(const rp_response_row *row, uint32_t rows, double *side)
{
    double peak = 0.0;
    *side = 1.0;
    for (uint32_t i = 0; i < rows; i++) {
        const double error = row[i].measured - row[i].target;
        if (row[i].usable && fabs(error) > peak) {
            peak = fabs(error);
            *side = error < 0.0 ? -1.0 : 1.0;
        }
    }
    return peak;
}

static void judge_step(const rp_response_row *row, uint32_t rows, double size, rp_response *r)
{
    const double from = row[rows - 1].target - size, sign = size < 0.0 ? -1.0 : 1.0;
    const double low = first_past(row, rows, from, size, 0.1), high = first_past(row, rows, from, size, 0.9);
    r->rise = high - low;
    double beyond = 0.0;
    for (uint32_t i = 0; i < rows; i++) {
        beyond = row[i].usable ? fmax(beyond, sign * (row[i].measured - row[rows - 1].target)) : beyond;
    }
    r->peak = beyond;
    r->overshoot = 100.0 * fmax(beyond - r->noise * 3.0, 0.0) / fabs(size);
    find_swings(row, rows, sign, r);
}

bool rp_response_of(const rp_response_row *row, uint32_t rows, uint32_t before, rp_response_test test, double size,
                    double band, rp_response *response)
{
    if (before < BEFORE_LEAST || rows < before + BEHIND_LEAST) {
        return false;
    }
    rp_response r = {.noise = noise_of(row, before), .rise = NAN, .overshoot = NAN, .decay = NAN, .period = NAN};
    const rp_response_row *from = row + before;
    const uint32_t n = rows - before;
    double side;
    const double peak = greatest_error(from, n, &side);
    const bool step = test == RP_RESPONSE_STEP;
    r.band = band > 0.0 ? band : fmax(step ? 0.02 * fabs(size) : 0.1 * peak, 3.0 * r.noise);
    sum_up(from, n, &r);
    find_settling(from, n, &r);
    if (step) {
        judge_step(from, n, size, &r);
    } else {
        r.peak = peak;
        find_swings(from, n, side, &r);
    }
    *response = r;
    return true;
}

GArray *rp_response_rows(rp_history *history, uint32_t loop, uint64_t from, uint64_t to)
{
    const rp_image_header *image = rp_history_image(history);
    const rp_image_loop *l = (const rp_image_loop *)rp_image_at(image, RP_SECTION_LOOPS) + loop;
    const rp_image_claim *claim = rp_image_at(image, RP_SECTION_CLAIMS);
    const uint32_t target = (uint32_t)rp_history_slot(history, l->first + RP_TERM_TARGET);
    const uint32_t error = (uint32_t)rp_history_slot(history, l->first + RP_TERM_ERROR);
    const uint32_t output = (uint32_t)rp_history_slot(history, rp_image_actuator_slot(image, claim[l->claim].actuator));
    const int32_t measured = rp_history_slot(history, l->measured);
    const int32_t saturated =
        l->terms > RP_TERM_SATURATED ? rp_history_slot(history, l->first + RP_TERM_SATURATED) : -1;
    GArray *rows = g_array_new(FALSE, FALSE, sizeof(rp_response_row));
    for (uint64_t i = MAX(from, rp_history_first(history)); i < MIN(to, rp_history_end(history)); i++) {
        const double goal = (double)rp_history_value(history, target, i);
        const double off = (double)rp_history_value(history, error, i);
        const bool usable = rp_usable(rp_history_quality(history, error, i));
        const rp_response_row row = {
            .time = (double)rp_history_time_us(history, i) / 1e6,
            .target = goal,
            .measured = measured >= 0 ? (double)rp_history_value(history, (uint32_t)measured, i) : goal - off,
            .output = (double)rp_history_value(history, output, i),
            .saturated = saturated >= 0 && rp_usable(rp_history_quality(history, (uint32_t)saturated, i)) &&
                         rp_history_value(history, (uint32_t)saturated, i) != 0.0f,
            .usable = usable};
        g_array_append_val(rows, row);
    }
    return rows;
}
