/* table (lookup table): piecewise linear, through 2 to 16 points. Beyond the end points the end value stands (clamped),
 * or the last segment goes on (extended), or the end value stands and is out of range when the reading is farther
 * beyond than 2 % of the way from the first point to the last (strict). Keeps nothing between readings. */
#ifndef RIGPULSE_CONDITION_TABLE_H
#define RIGPULSE_CONDITION_TABLE_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

#define RGP_TABLE_POINTS_MAX 16
#define RGP_TABLE_STRICT_BY  0.02f /* of the points' span */

enum { RGP_TABLE_CLAMPED = 0, RGP_TABLE_EXTENDED = 1, RGP_TABLE_STRICT = 2 };

typedef struct rgp_table_point {
    float in;
    float out;
} rgp_table_point;

/* Only the first `count` points are read; RGP_TABLE_CONFIG_BYTES(count) bytes are enough to hold them. */
typedef struct rgp_table_config {
    uint32_t count;  /* 2 to 16 */
    uint32_t beyond; /* RGP_TABLE_... */
    rgp_table_point point[RGP_TABLE_POINTS_MAX];
} rgp_table_config;

#define RGP_TABLE_CONFIG_BYTES(count) (8u + 8u * (count))

/* RGP_E_CONFIG unless there are 2 to 16 points, all finite, their inputs strictly rising and no line between
 * them too steep for a float. */
rgp_status rgp_table_check(const rgp_table_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_table_fault(const rgp_table_config *config);

/* On the line from the point before `p` to it. */
static inline float rgp_table_between(const rgp_table_point *p, float x)
{
    const float slope = (p->out - p[-1].out) / (p->in - p[-1].in);
    return p[-1].out + (x - p[-1].in) * slope;
}

/* The part of rgp_table_step() for the outermost points and beyond where the table is not clamped. */
rgp_reading rgp_table_beyond(const rgp_table_config *config, rgp_reading in);

/* The quality is the input's; a result that no float can hold is 0, out of range. At a point the result is
 * that point's value exactly. */
static inline rgp_reading rgp_table_step(const rgp_table_config *config, rgp_reading in)
{
    const rgp_table_point *p = config->point;
    const rgp_table_point *const last = p + config->count - 1;
    if (!(in.value > p->in && in.value < last->in)) {
        return config->beyond == RGP_TABLE_CLAMPED
                   ? rgp_reading_of(in.value >= last->in ? last->out : p->out, in.quality)
                   : rgp_table_beyond(config, in);
    }
    do { /* ends at the last point at the latest */
        p++;
    } while (in.value >= p->in);
    return rgp_reading_of(rgp_table_between(p, in.value), in.quality);
}

RGP_DECLARATIONS_END

#endif
