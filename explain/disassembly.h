/* Reading an image's operations backwards: what made this value, and with which settings. */
#ifndef EXPLAIN_DISASSEMBLY_H
#define EXPLAIN_DISASSEMBLY_H

#include "rigpulse/engine.h"

#include "image/ops.h"
#include "lanes/lanes.h"

/* One operation of the image. */
typedef struct rgp_decoded {
    uint32_t place; /* in the order in which they are computed, from 0 */
    uint32_t op;
    uint16_t in[RGP_OPERANDS_MAX - 1];
    uint16_t out;
    uint16_t owner; /* of what knows something: the signal whose stage it is; else RGP_REF_NONE */
    uint16_t pace;  /* of what steps on new readings only: its place in PACES, from 1; else 0 */
    const rgp_image_run *run;
    uint32_t n;            /* in it */
    uint32_t state_offset; /* of its state in the engine's states; of what goes by lanes, nothing */
    const void *config;    /* its settings in the image; NULL of what goes by lanes, as a copy below */
    uint32_t copy[RGP_LANES_SET_MAX / 4u];
} rgp_decoded;

/* Its settings as the image has them, for as long as `step`. */
static inline const void *rgp_decoded_config(const rgp_decoded *step)
{
    return step->config ? step->config : step->copy;
}

/* The operation that wrote `slot` last before the place `before` (UINT32_MAX: at all). False: none did. */
bool rgp_disassembly_writer(const rgp_image_header *image, uint16_t slot, uint32_t before, rgp_decoded *step);

/* All operations in the order in which they are computed: for (rgp_steps all = ...of(image); ...next(&all, &step);) */
typedef struct rgp_steps {
    const rgp_image_header *image;
    const uint16_t *operand;
    uint32_t run, in_run, place; /* of the next one */
} rgp_steps;
rgp_steps rgp_steps_of(const rgp_image_header *image);
bool rgp_steps_next(rgp_steps *all, rgp_decoded *step); /* false behind the last */

/* The limits that a slot's value is held against: borders of bands and limits of comparisons, each a setting of a step.
 * Returns how many there are, at most `most`. */
typedef struct rgp_decoded_limit {
    rgp_decoded step;
    uint32_t offset;
} rgp_decoded_limit;
uint32_t rgp_disassembly_limits(const rgp_image_header *image, uint16_t slot, rgp_decoded_limit *limit, uint32_t most);

/* A float setting as it stands with the parameters' values (by slot). *param: the parameter that sets it,
 * or -1. */
float rgp_disassembly_setting(const rgp_image_header *image, const rgp_decoded *step, uint32_t offset,
                              const float *value, int32_t *param);

/* A setting of a step for one of the parameter that sets it, which may have another unit: 1.8 of a gain in %/degF that
 * the step computes with in %/K. 1: the parameter sets nothing there. */
float rgp_disassembly_scale(const rgp_image_header *image, const rgp_decoded *step, uint16_t param);

#endif
