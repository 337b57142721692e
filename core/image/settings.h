/* The settings of operations as a table, for those who judge or tell them (rigpulse/inside/settings.h). */
#ifndef RIGPULSE_IMAGE_SETTINGS_H
#define RIGPULSE_IMAGE_SETTINGS_H

#include "rigpulse/linkage.h"

#include <stdbool.h>
#include <stdint.h>

RGP_DECLARATIONS_BEGIN

#define RGP_ANYTHING 3.402823466e38f /* the greatest float */

/* A setting in the config of an operation, and what it may be. */
typedef struct rgp_op_setting {
    const char *name; /* "gain.kp" */
    uint16_t offset, bytes;
    float low, high; /* -RGP_ANYTHING, RGP_ANYTHING: whatever a float holds */
    bool above;      /* above `low`, not at it */
    bool not_zero, odd;
} rgp_op_setting;

/* The setting at that place; NULL when none begins there. */
const rgp_op_setting *rgp_op_setting_at(uint32_t op, uint32_t offset);

RGP_DECLARATIONS_END

#endif
