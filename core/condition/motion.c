#include "rigpulse/condition/motion.h"

#include <math.h>

rp_status rp_axes_check(const rp_axes_config *config)
{
    int32_t sign = 1;
    uint32_t used = 0;
    for (uint32_t i = 0; i < 3; i++) {
        const int32_t axis = config->from[i] < 0 ? -config->from[i] : config->from[i];
        if (axis < 1 || axis > 3) {
            return RP_E_CONFIG;
        }
        sign = config->from[i] < 0 ? -sign : sign;
        used |= 1u << axis;
    }
    const int32_t first = config->from[0] < 0 ? -config->from[0] : config->from[0];
    const int32_t second = config->from[1] < 0 ? -config->from[1] : config->from[1];
    const bool cyclic = second == first % 3 + 1;
    return used == 14u && sign == (cyclic ? 1 : -1) ? RP_OK : RP_E_CONFIG;
}

void rp_axes_step(const rp_axes_config *config, const float sensor[3], float device[3])
{
    for (uint32_t i = 0; i < 3; i++) {
        const bool flipped = config->from[i] < 0;
        const int32_t axis = (flipped ? -config->from[i] : config->from[i]) - 1;
        device[i] = flipped ? -sensor[axis] : sensor[axis];
    }
}

rp_status rp_tilt_check(const rp_tilt_config *config)
{
    return config->which <= RP_TILT_PITCH ? RP_OK : RP_E_CONFIG;
}

rp_status rp_fuse_check(const rp_fuse_config *config)
{
    return config->time_constant > 0.0f && config->time_constant <= 1e6f && rp_finite(config->gain) &&
                   config->gain != 0.0f
               ? RP_OK
               : RP_E_CONFIG;
}

void rp_fuse_reset(rp_fuse_state *state)
{
    *state = (rp_fuse_state){0};
}

int32_t rp_mounting_up(const float felt[3], float *g)
{
    int32_t up = 0;
    *g = sqrtf(felt[0] * felt[0] + felt[1] * felt[1] + felt[2] * felt[2]);
    for (int32_t i = 0; i < 3; i++) {
        const float share = *g > 0.0f ? felt[i] / *g : 0.0f;
        if (share > 0.906f) { /* cos 25 degrees */
            up = i + 1;
        } else if (share < -0.906f) {
            up = -(i + 1);
        }
    }
    return up;
}
