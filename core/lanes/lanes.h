/* Four equal operations side by side, for compilers that turn a loop over four of the same into one instruction.
 *
 * Their states and their settings lie by field: what one has in its n-th 4 bytes all four have in the n-th 16 bytes of
 * their group, each at its lane. rgp_NAME_lanes is a group of states in the order of rgp_NAME_state, rgp_NAME_lanes_set
 * one of settings in the order of rgp_NAME_config.
 *
 * bool rgp_NAME_lanes_step(set, lanes, in, out, dt) takes four good readings and gives four good ones, to the bit what
 * rgp_NAME_step() gives one by one; false, and nothing has changed: one of them does not go the plain way, and they
 * have to go one by one. dt is above 0. What has no state is called without lanes and dt. */
#ifndef RIGPULSE_LANES_LANES_H
#define RIGPULSE_LANES_LANES_H

#include "rigpulse/linkage.h"

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>
#include <string.h>

RGP_DECLARATIONS_BEGIN

#define RGP_LANES           4u
#define RGP_LANES_STATE_MAX 64u  /* bytes of the state of one */
#define RGP_LANES_SET_MAX   136u /* of its settings */
#define RGP_LANES_RUN_MAX   128u /* operations of one run */

/* True when a field lies in a group where the layouts have it (rigpulse/inside/fields.h, rigpulse/inside/settings.h).
 */
#define RGP_LANES_MEET(block, in, type, field) \
    &&offsetof(rgp_##block##_lanes, field) == RGP_LANES *offsetof(rgp_##block##_state, field)
#define RGP_LANES_SET(block, in, type, field, ...) \
    &&offsetof(rgp_##block##_lanes_set, field) == RGP_LANES *offsetof(rgp_##block##_config, field)

/* The place in its group of the byte `at` of one. */
static inline uint32_t rgp_lanes_place(uint32_t lane, uint32_t at)
{
    return RGP_LANES * (at - at % 4u) + 4u * lane + at % 4u;
}

/* One out of its group, and back; `bytes` is a multiple of 4. */
static inline void rgp_lanes_take(const void *group, uint32_t lane, void *one, uint32_t bytes)
{
    for (uint32_t at = 0; at < bytes; at += 4u) {
        memcpy((unsigned char *)one + at, (const unsigned char *)group + rgp_lanes_place(lane, at), 4u);
    }
}

static inline void rgp_lanes_put(void *group, uint32_t lane, const void *one, uint32_t bytes)
{
    for (uint32_t at = 0; at < bytes; at += 4u) {
        memcpy((unsigned char *)group + rgp_lanes_place(lane, at), (const unsigned char *)one + at, 4u);
    }
}

/* True when one of four is not 0. */
static inline bool rgp_lanes_any(const uint32_t *four)
{
    uint64_t two[2];
    memcpy(two, four, sizeof two);
    return (two[0] | two[1]) != 0;
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
