/* Four equal operations side by side, for compilers that turn a loop over four of the same into one instruction.
 *
 * Their states lie by field: what one has in the n-th 4 bytes of its state all four have in the n-th 16 bytes of their
 * group, each at its lane. rgp_NAME_lanes is a group, in the order of rgp_NAME_state. Settings lie one behind the
 * other, `stride` bytes apart.
 *
 * bool rgp_NAME_lanes_step(config, stride, lanes, in, out, dt) takes four good readings and gives four good ones, to
 * the bit what rgp_NAME_step() gives one by one; false, and nothing has changed: one of them does not go the plain way,
 * and they have to go one by one. dt is above 0. What has no state is called without lanes and dt. */
#ifndef RIGPULSE_LANES_LANES_H
#define RIGPULSE_LANES_LANES_H

#include "rigpulse/linkage.h"

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <string.h>

RGP_DECLARATIONS_BEGIN

#define RGP_LANES           4u
#define RGP_LANES_STATE_MAX 64u /* bytes of the state of one */

/* True when a field lies in a group where the layout has it (rigpulse/inside/fields.h). */
#define RGP_LANES_MEET(block, in, type, field) \
    &&offsetof(rgp_##block##_lanes, field) == RGP_LANES *offsetof(rgp_##block##_state, field)

/* The state of one out of its group, and back; `bytes` is a multiple of 4. */
static inline void rgp_lanes_take(const void *group, uint32_t lane, void *state, uint32_t bytes)
{
    for (uint32_t at = 0; at < bytes; at += 4u) {
        memcpy((unsigned char *)state + at, (const unsigned char *)group + RGP_LANES * at + 4u * lane, 4u);
    }
}

static inline void rgp_lanes_put(void *group, uint32_t lane, const void *state, uint32_t bytes)
{
    for (uint32_t at = 0; at < bytes; at += 4u) {
        memcpy((unsigned char *)group + RGP_LANES * at + 4u * lane, (const unsigned char *)state + at, 4u);
    }
}

/* One of the settings of all four, as the elements of an array: compilers put four named places together, not those of
 * a loop. */
#define RGP_LANES_SETTING(block, config, stride, k) \
    ((const rgp_##block##_config *)(const void *)((const unsigned char *)(config) + (k) * (size_t)(stride)))
#define RGP_LANES_SETTINGS(block, config, stride, field)                                                             \
    {                                                                                                                \
        RGP_LANES_SETTING(block, config, stride, 0u)->field, RGP_LANES_SETTING(block, config, stride, 1u)->field,    \
            RGP_LANES_SETTING(block, config, stride, 2u)->field, RGP_LANES_SETTING(block, config, stride, 3u)->field \
    }

/* One or the other without a branch. */
static inline float rgp_lanes_pick(bool is, float a, float b)
{
    const uint32_t mask = 0u - (uint32_t)is;
    uint32_t x, y;
    float picked;
    memcpy(&x, &a, sizeof x);
    memcpy(&y, &b, sizeof y);
    x = (x & mask) | (y & ~mask);
    memcpy(&picked, &x, sizeof picked);
    return picked;
}

RGP_DECLARATIONS_END

#endif
