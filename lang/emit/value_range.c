/* The ranges of values, by interval arithmetic (Moore, 1966): so a condition that is never true is found before power
 * is on. Whatever is not certain is anything. */
#include "emit.h"

#include <math.h>

static const value_range anything = {false, 0.0, 0.0};

static value_range between(double low, double high)
{
    return isfinite(low) && isfinite(high) ? (value_range){true, low, high} : anything;
}

value_range value_range_either(value_range a, value_range b)
{
    return a.known && b.known ? between(fmin(a.low, b.low), fmax(a.high, b.high)) : anything;
}

static value_range truth(bool can_be_false, bool can_be_true)
{
    return between(can_be_false ? 0.0 : 1.0, can_be_true ? 1.0 : 0.0);
}

/* ---- operations that map one value to another ---- */

#define MAPPED_MAP(NAME, block)                                    \
    static rgp_reading map_##NAME(const void *config, float value) \
    {                                                              \
        return rgp_##block##_step(config, rgp_good(value));        \
    }
#define MAPPED_STAGE(NAME, block)
#define MAPPED_PAIR(NAME, block)
#define MAPPED_MAP3(NAME, block)
#define MAPPED_EDGES(NAME, block)
#define MAPPED_EDGES2(NAME, block)
#define MAPPED_JOIN(NAME, block)
#define MAPPED_LOOP(NAME, block)
#define RGP_OP(NAME, shape, block, ...) MAPPED_##shape(NAME, block)
#include "image/ops.def"

static rgp_reading map(uint8_t op, const void *config, float value)
{
    switch (op) {
#define CALL_MAP(NAME)  \
    case RGP_OP_##NAME: \
        return map_##NAME(config, value);
#define CALL_STAGE(NAME)
#define CALL_PAIR(NAME)
#define CALL_MAP3(NAME)
#define CALL_EDGES(NAME)
#define CALL_EDGES2(NAME)
#define CALL_JOIN(NAME)
#define CALL_LOOP(NAME)
#define RGP_OP(NAME, shape, ...) CALL_##shape(NAME)
#include "image/ops.def"
    default:
        return (rgp_reading){value, RGP_MISSING};
    }
}

static value_range include(value_range so_far, rgp_reading one)
{
    const double value = (double)one.value;
    return rgp_usable(one.quality) ? value_range_either(so_far, between(value, value)) : anything;
}

static value_range mapped(uint8_t op, const void *config, value_range in);

/* Results beyond the ends of a line that is not known everywhere are out of range, and never met. */
static value_range on_line(const rgp_line_config *config, value_range in)
{
    const rgp_line_config everywhere = {config->gain, config->offset, 0.0f, 0.0f};
    const value_range all = mapped(RGP_OP_LINE, &everywhere, in);
    const double room = (double)RGP_LINE_BEYOND_BY * ((double)config->high - (double)config->low);
    const double low = fmax(all.low, (double)config->low - room), high = fmin(all.high, (double)config->high + room);
    return all.known && low <= high ? between(low, high) : anything;
}

/* Maps rise or fall all the way; a table may turn at its points. */
static value_range mapped(uint8_t op, const void *config, value_range in)
{
    const rgp_line_config *line = config;
    if (op == RGP_OP_LINE && line->low < line->high) {
        return on_line(line, in);
    }
    const rgp_reading first = map(op, config, (float)in.low);
    value_range to = between((double)first.value, (double)first.value);
    to = rgp_usable(first.quality) ? include(to, map(op, config, (float)in.high)) : anything;
    if (op == RGP_OP_TABLE) {
        const rgp_table_config *table = config;
        for (uint32_t i = 0; i < table->count; i++) {
            const double at = (double)table->point[i].in;
            to = at > in.low && at < in.high ? include(to, map(op, config, table->point[i].in)) : to;
        }
    }
    return to;
}

/* ---- conditions ---- */

static value_range compared(const rgp_compare_config *c, value_range in)
{
    const double limit = (double)c->limit;
    return c->side == RGP_COMPARE_ABOVE ? truth(in.low <= limit, in.high > limit)
                                        : truth(in.high >= limit, in.low < limit);
}

static double band_of(const rgp_bands_config *config, double value)
{
    rgp_bands_state state;
    rgp_bands_reset(&state);
    return (double)rgp_bands_step(config, &state, rgp_good((float)value), 1.0f).value;
}

static value_range equal(const rgp_equals_config *c, value_range in)
{
    const double number = (double)c->number;
    return truth(in.low != number || in.high != number, number >= in.low && number <= in.high);
}

/* An edge needs both. */
static value_range edged(value_range in)
{
    return truth(true, in.low == 0.0 && in.high > 0.0);
}

/* ---- two values ---- */

static value_range product(value_range a, value_range b)
{
    const double p[4] = {a.low * b.low, a.low * b.high, a.high * b.low, a.high * b.high};
    return between(fmin(fmin(p[0], p[1]), fmin(p[2], p[3])), fmax(fmax(p[0], p[1]), fmax(p[2], p[3])));
}

/* A divisor that can be 0 makes anything. */
static value_range quotient(value_range a, value_range b)
{
    return b.low > 0.0 || b.high < 0.0 ? product(a, between(1.0 / b.high, 1.0 / b.low)) : anything;
}

static value_range joined(uint8_t op, value_range a, value_range b)
{
    switch (op) {
    case RGP_OP_ADD:
        return between(a.low + b.low, a.high + b.high);
    case RGP_OP_SUBTRACT:
        return between(a.low - b.high, a.high - b.low);
    case RGP_OP_MULTIPLY:
        return product(a, b);
    case RGP_OP_DIVIDE:
        return quotient(a, b);
    case RGP_OP_LEAST:
        return between(fmin(a.low, b.low), fmin(a.high, b.high));
    case RGP_OP_GREATEST:
        return between(fmax(a.low, b.low), fmax(a.high, b.high));
    case RGP_OP_BOTH:
        return truth(a.low <= 0.0 || b.low <= 0.0, a.high > 0.0 && b.high > 0.0);
    case RGP_OP_ANY:
        return truth(a.low <= 0.0 && b.low <= 0.0, a.high > 0.0 || b.high > 0.0);
    default:
        return anything;
    }
}

/* The operations whose range is found by what they are. */
static value_range by_kind(uint8_t op, const void *config, value_range first)
{
    switch (op) {
    case RGP_OP_KNOWN:
        return truth(true, true);
    case RGP_OP_MAGNITUDE:
        return between(fmax(fmax(first.low, -first.high), 0.0), fmax(-first.low, first.high));
    case RGP_OP_COMPARE:
        return compared(config, first);
    case RGP_OP_EQUALS:
        return equal(config, first);
    case RGP_OP_BANDS:
        return between(band_of(config, first.low), band_of(config, first.high));
    case RGP_OP_EDGE:
        return edged(first);
    default:
        return anything;
    }
}

value_range value_range_of(uint8_t op, const void *config, const value_ref *in)
{
    const value_range first = in[0].value_range;
    if (rgp_ops[op].loop) {
        return anything;
    }
    if (rgp_ops[op].refs) {
        return first.known && in[1].value_range.known ? joined(op, first, in[1].value_range) : anything;
    }
    if (op == RGP_OP_SPAN) {
        return between(0.0, 100.0);
    }
    if (op == RGP_OP_WRAP) {
        const rgp_wrap_config *wrap = config;
        return between((double)wrap->low, (double)wrap->low + (double)wrap->turn);
    }
    if (!first.known) {
        return anything;
    }
    switch (rgp_ops[op].range) {
    case RGP_RANGE_PASSES:
        return first;
    case RGP_RANGE_TRUTH:
        return truth(true, first.high > 0.0);
    case RGP_RANGE_MONOTONE:
        return mapped(op, config, first);
    default:
        return by_kind(op, config, first);
    }
}
