/* The answer of a sensor to blocks of driving and rest: how large, how late, and by what chance it would look so. */
#include "answer.h"

#include "explain/describe.h"

#include <gsl/gsl_statistics_double.h>
#include <float.h>
#include <math.h>

#define MOST         RGP_CONTRAST_BLOCKS_MOST
#define BLOCKS_LEAST 20u
#define STRONGEST    100.0
#define BEFORE       5u  /* rows, just before a block */
#define PAIR         2.0 /* of statistics that are looked at */

uint32_t rgp_answer_blocks(uint32_t sensors)
{
    uint32_t blocks = BLOCKS_LEAST;
    double orders = 184756.0; /* of 20 blocks, 10 of them on */
    while (blocks < MOST && PAIR * 2.0 / orders > RGP_ANSWER_CHANCE_MOST / sensors) {
        blocks += 2;
        orders *= 4.0 - 4.0 / blocks;
    }
    return blocks;
}

static bool is_usable(const rgp_history *h, uint32_t column, uint64_t row)
{
    return rgp_usable(rgp_history_quality(h, column, row));
}

/* The mean over some rows; false when none is usable. */
static bool mean_of(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to, double *mean)
{
    uint64_t count = 0;
    *mean = 0.0;
    for (uint64_t row = from; row < to; row++) {
        if (is_usable(h, column, row)) {
            *mean += ((double)rgp_history_value(h, column, row) - *mean) / (double)++count;
        }
    }
    return count > 0;
}

/* The median or the standard deviation over some rows; false when too few are usable. */
static bool middle_of(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to, bool spread, double *middle)
{
    g_autofree double *value = g_new(double, to - from + 1);
    size_t count = 0;
    for (uint64_t row = from; row < to; row++) {
        if (is_usable(h, column, row)) {
            value[count++] = (double)rgp_history_value(h, column, row);
        }
    }
    if (count < (spread ? 2u : 1u)) {
        return false;
    }
    *middle = spread ? gsl_stats_sd(value, 1, count) : gsl_stats_median(value, 1, count);
    return true;
}

static bool value_of(const rgp_history *h, uint32_t column, const rgp_block *b, rgp_answer_by by, double *value)
{
    const uint64_t rows = b->to - b->from;
    double first, last;
    if (by != RGP_ANSWER_RATE) {
        return middle_of(h, column, b->from + rows / 2, b->to, by == RGP_ANSWER_SPREAD, value);
    }
    const double third = (double)(rgp_history_time_us(h, b->to - rows / 3) - rgp_history_time_us(h, b->from)) / 1e6;
    const bool both =
        mean_of(h, column, b->from, b->from + rows / 3, &first) && mean_of(h, column, b->to - rows / 3, b->to, &last);
    *value = both && third > 0.0 ? (last - first) / third : 0.0;
    return both;
}

/* A block without readings gets the middle of the others, which says nothing for either side. How many there were. */
static uint32_t values_of(const rgp_history *h, uint32_t column, const rgp_block *b, uint32_t blocks, rgp_answer_by by,
                          double *value)
{
    double known[MOST];
    bool has[MOST];
    uint32_t count = 0;
    for (uint32_t i = 0; i < blocks; i++) {
        has[i] = value_of(h, column, &b[i], by, &value[i]);
        if (has[i]) {
            known[count++] = value[i];
        }
    }
    const double middle = count > 0 ? gsl_stats_median(known, 1, count) : 0.0;
    for (uint32_t i = 0; i < blocks; i++) {
        value[i] = has[i] ? value[i] : middle;
    }
    return count;
}

/* ---- when it answers ------------------------------------------------------------------------------- */

/* The mean, over the blocks of one side that began from rest, of how far the sensor has gone since it was there; 0
 * where there are none. */
static double gone(const rgp_history *h, uint32_t column, const rgp_block *b, uint32_t blocks, bool on, uint64_t row)
{
    double mean = 0.0, before;
    uint32_t count = 0;
    for (uint32_t i = 0; i < blocks; i++) {
        const uint64_t at = b[i].from + row, rest = b[i].from > BEFORE ? b[i].from - BEFORE : 0;
        if (b[i].on == on && !(i > 0 && b[i - 1].on) && is_usable(h, column, at) &&
            mean_of(h, column, rest, b[i].from, &before)) {
            mean += ((double)rgp_history_value(h, column, at) - before - mean) / ++count;
        }
    }
    return mean;
}

/* The time from which on a step, or a ramp for a rate, fits best to what the blocks that were driven did beside the
 * others (least squares over all times, Hinkley 1970). */
static double after_of(const rgp_history *h, uint32_t column, const rgp_block *b, uint32_t blocks, rgp_answer_by by)
{
    uint64_t rows = b[0].to - b[0].from, first = 0;
    double sum = 0.0, moment = 0.0, squares = 0.0, best = 0.0;
    for (uint32_t i = 1; i < blocks; i++) {
        rows = MIN(rows, b[i].to - b[i].from);
    }
    for (uint64_t row = rows; row-- > 0;) {
        const double left = (double)(rows - row);
        moment += sum; /* of each row later than this one, as much again */
        sum += gone(h, column, b, blocks, true, row) - gone(h, column, b, blocks, false, row);
        squares += (left - 1.0) * (left - 1.0);
        const double fits = by == RGP_ANSWER_RATE ? moment * moment / fmax(squares, 1.0) : sum * sum / left;
        if (fits > best) {
            best = fits;
            first = row;
        }
    }
    return (double)(rgp_history_time_us(h, b[0].from + first) - rgp_history_time_us(h, b[0].from)) / 1e6;
}

/* ---- the answer ------------------------------------------------------------------------------------ */

rgp_contrast rgp_answer_contrast(const rgp_history *h, uint32_t column, const rgp_block *b, uint32_t blocks,
                                 rgp_answer_by by)
{
    double value[MOST];
    bool on[MOST];
    values_of(h, column, b, blocks, by, value);
    for (uint32_t i = 0; i < blocks; i++) {
        on[i] = b[i].on;
    }
    return rgp_contrast_of(value, on, blocks);
}

/* In standard errors; above the greatest there is nothing left to choose. */
static double strength_of(const rgp_contrast *c)
{
    return fmin(fabs(c->effect) / fmax(c->error, DBL_MIN), STRONGEST);
}

static bool is_clearer(const rgp_contrast *a, const rgp_contrast *b)
{
    return a->chance < b->chance || (a->chance == b->chance && strength_of(a) > strength_of(b));
}

rgp_answer rgp_answer_of(const rgp_history *h, uint32_t column, const rgp_block *b, uint32_t blocks, uint32_t sensors,
                         rgp_answer_by other)
{
    double value[MOST];
    const rgp_contrast level = rgp_answer_contrast(h, column, b, blocks, RGP_ANSWER_LEVEL);
    const rgp_contrast beside = rgp_answer_contrast(h, column, b, blocks, other);
    const bool clearer = is_clearer(&beside, &level);
    const rgp_contrast *c = clearer ? &beside : &level;
    rgp_answer a = {.known = values_of(h, column, b, blocks, RGP_ANSWER_LEVEL, value) * 4 >= blocks * 3,
                    .by = clearer ? other : RGP_ANSWER_LEVEL,
                    .effect = c->effect,
                    .band = c->band,
                    .chance = fmin(1.0, PAIR * sensors * c->chance),
                    .after = -1.0,
                    .seen = RGP_ANSWER_SEEN * level.error};
    a.answered = a.known && a.chance <= RGP_ANSWER_CHANCE_MOST;
    a.after = a.answered ? after_of(h, column, b, blocks, a.by) : -1.0;
    return a;
}

/* ---- in words -------------------------------------------------------------------------------------- */

/* "1 in 7000", rounded down. */
static void describe_chance(double chance, GString *to)
{
    const double odds = 1.0 / chance, digit = pow(10.0, floor(log10(odds)));
    g_string_append_printf(to, "chance under 1 in %.0f", floor(odds / digit) * digit);
}

static void describe_effect(const rgp_answer *a, const char *unit, GString *to)
{
    g_autofree char *rate = a->by == RGP_ANSWER_RATE ? g_strdup_printf("%s/s", unit) : g_strdup(unit);
    const double digit = a->band > 0.0 ? pow(10.0, floor(log10(a->band))) : 1e-3;
    g_string_append_printf(to, "%s%s by ", a->by == RGP_ANSWER_SPREAD ? "its spread goes " : "",
                           a->effect > 0.0 ? "up" : "down");
    rgp_describe_number(digit * round(fabs(a->effect) / digit), rate, to);
    if (a->band > 0.0) {
        g_string_append(to, " ±");
        rgp_describe_number(digit * ceil(a->band / digit), "", to);
    }
}

void rgp_answer_describe(const rgp_answer *a, const char *unit, uint32_t tick_us, GString *to)
{
    if (!a->known) {
        g_string_append(to, "no readings to compare with");
    } else if (!a->answered) {
        g_string_append(to, "does not answer");
        if (unit) {
            g_string_append_printf(to, "; an effect above %.2g %s would have been seen", fmax(a->seen, 1.0), unit);
        }
    } else {
        g_string_append(to, "answers: ");
        if (unit) {
            describe_effect(a, unit, to);
        } else {
            g_string_append(to, "changes");
        }
        if (a->after * 1e6 <= tick_us) {
            g_string_append(to, ", at once (the mechanism, or its supply?)");
        } else {
            g_string_append_printf(to, ", from about %.2g s on", a->after);
        }
        g_string_append(to, " (");
        describe_chance(a->chance, to);
        g_string_append_c(to, ')');
    }
}
