/* table: piecewise linear, through 2 to 16 points. Beyond the end points the end value stands (clamped), or the last
 * segment goes on (extended), or the end value stands and is out of range when the reading is farther beyond than 2 %
 * of the way from the first point to the last (strict). Keeps nothing between readings. */
#ifndef RIGPULSE_CONDITION_TABLE_H
#define RIGPULSE_CONDITION_TABLE_H

#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

#define RP_TABLE_POINTS_MAX 16
#define RP_TABLE_STRICT_BY  0.02f /* of the points' span */

enum { RP_TABLE_CLAMPED = 0, RP_TABLE_EXTENDED = 1, RP_TABLE_STRICT = 2 };

typedef struct rp_table_point {
    float in;
    float out;
} rp_table_point;

/* Only the first `count` points are read; RP_TABLE_CONFIG_BYTES(count) bytes are enough to hold them. */
typedef struct rp_table_config {
    uint32_t count;  /* 2 to 16 */
    uint32_t beyond; /* RP_TABLE_... */
    rp_table_point point[RP_TABLE_POINTS_MAX];
} rp_table_config;

#define RP_TABLE_CONFIG_BYTES(count) (8u + 8u * (count))

/* RP_E_CONFIG unless there are 2 to 16 points, all finite, their inputs strictly rising and no line between
 * them too steep for a float. */
rp_status rp_table_check(const rp_table_config *config);

/* On the line from the point before `p` to it. */
static inline float rp_table_between(const rp_table_point *p, float x)
{
    const float slope = (p->out - p[-1].out) / (p->in - p[-1].in);
    return p[-1].out + (x - p[-1].in) * slope;
}

/* The part of rp_table_step() for the outermost points and beyond where the table is not clamped. */
rp_reading rp_table_beyond(const rp_table_config *config, rp_reading in);

/* The quality is the input's; a result that no float can hold is 0, out of range. At a point the result is
 * that point's value exactly. */
static inline rp_reading rp_table_step(const rp_table_config *config, rp_reading in)
{
    const rp_table_point *p = config->point;
    const rp_table_point *const last = p + config->count - 1;
    if (!(in.value > p->in && in.value < last->in)) {
        return config->beyond == RP_TABLE_CLAMPED ? (rp_reading){in.value >= last->in ? last->out : p->out, in.quality}
                                                  : rp_table_beyond(config, in);
    }
    do { /* ends at the last point at the latest */
        p++;
    } while (in.value >= p->in);
    return (rp_reading){rp_table_between(p, in.value), in.quality};
}

#endif
