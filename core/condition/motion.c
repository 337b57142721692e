/* Mounted axes, tilt by gravity, and fuse (complementary filter): the check of its settings, and its reset. */
#include "rigpulse/condition/motion.h"
#include "rigpulse/inside/settings.h"

#include <math.h>

const char *rgp_axes_fault(const rgp_axes_config *config)
{
    int32_t sign = 1;
    uint32_t used = 0;
    for (uint32_t i = 0; i < 3; i++) {
        const int32_t axis = config->from[i] < 0 ? -config->from[i] : config->from[i];
        if (axis < 1 || axis > 3) {
            return RGP_WORDS("from: 1 to 3, or below 0: flipped");
        }
        sign = config->from[i] < 0 ? -sign : sign;
        used |= 1u << axis;
    }
    const int32_t first = config->from[0] < 0 ? -config->from[0] : config->from[0];
    const int32_t second = config->from[1] < 0 ? -config->from[1] : config->from[1];
    const bool cyclic = second == first % 3 + 1;
    return used == 14u && sign == (cyclic ? 1 : -1) ? NULL : RGP_WORDS("from: each axis once, right-handed");
}

rgp_status rgp_axes_check(const rgp_axes_config *config)
{
    return rgp_axes_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_axes_step(const rgp_axes_config *config, const float sensor[3], float device[3])
{
    for (uint32_t i = 0; i < 3; i++) {
        const bool flipped = config->from[i] < 0;
        const int32_t axis = (flipped ? -config->from[i] : config->from[i]) - 1;
        device[i] = flipped ? -sensor[axis] : sensor[axis];
    }
}

const char *rgp_tilt_fault(const rgp_tilt_config *c)
{
    return RGP_FAULT_OF(tilt);
}

rgp_status rgp_tilt_check(const rgp_tilt_config *config)
{
    return rgp_tilt_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

const char *rgp_fuse_fault(const rgp_fuse_config *c)
{
    return RGP_FAULT_OF(fuse);
}

rgp_status rgp_fuse_check(const rgp_fuse_config *config)
{
    return rgp_fuse_fault(config) ? RGP_E_CONFIG : RGP_OK;
}

void rgp_fuse_reset(rgp_fuse_state *state)
{
    *state = (rgp_fuse_state){0};
}

int32_t rgp_mounting_up(const float felt[3], float *g)
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
