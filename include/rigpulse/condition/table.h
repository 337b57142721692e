/* table (lookup table): piecewise linear, through 2 to 16 points. Beyond the end points the end value stands (clamped),
 * or the last segment goes on (extended), or the end value stands and is out of range when the reading is farther
 * beyond than 2 % of the way from the first point to the last (strict). Keeps nothing between readings. */
#ifndef RIGPULSE_CONDITION_TABLE_H
#define RIGPULSE_CONDITION_TABLE_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_TABLE_POINTS_MAX 16    /* of one table */
#define RGP_TABLE_STRICT_BY  0.02f /* of the points' span */

enum { RGP_TABLE_CLAMPED = 0, RGP_TABLE_EXTENDED = 1, RGP_TABLE_STRICT = 2 };

typedef struct rgp_table_point {
    float in;  /* input unit */
    float out; /* output unit */
} rgp_table_point;

/* Only the first `count` points are read; RGP_TABLE_CONFIG_BYTES(count) bytes are enough to hold them. */
typedef struct rgp_table_config {
    uint32_t count;                              /* 2 to 16 */
    uint32_t beyond;                             /* RGP_TABLE_... */
    rgp_table_point point[RGP_TABLE_POINTS_MAX]; /* by rising input */
} rgp_table_config;

#define RGP_TABLE_CONFIG_BYTES(count) (8u + 8u * (count)) /* of settings with so many points */

/* RGP_E_CONFIG unless there are 2 to 16 points, all finite, their inputs strictly rising and no line between them too
 * steep for a float. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_table_check(const rgp_table_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_table_fault(const rgp_table_config *config);

/* The quality is the input's; a result that no float can hold is 0, out of range. At a point the result is that point's
 * value exactly.
 *
 * Time: at most one comparison a point. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_table_step(const rgp_table_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/table.h"

#endif
