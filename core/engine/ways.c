/* The ways of a run that are not the plain one. */
#include "lanes/despike.h"
#include "lanes/line.h"
#include "lanes/smooth.h"
#include "lanes/table.h"
#include "tape.h"

#include <string.h>

/* ---- whole numbers ---- */

/* First stages of sensors whose numbers no float may hold. */
#define WHOLE_MAP(block)   rgp_##block##_whole((const void *)config, raw[at], quality)
#define WHOLE_STAGE(block) rgp_##block##_whole((const void *)config, (void *)state, raw[at], quality, t->dt)
#define RGP_OP_WHOLE(NAME, shape, block)                                                 \
    static void whole_##NAME(rgp__tape *t, const rgp_image_run *run)                     \
    {                                                                                    \
        const int32_t *const raw = t->engine->raw;                                       \
        const uint32_t first = rgp_image_sensor_slot(t->engine->image, 0);               \
        const uint16_t *operand = t->operand + run->operand;                             \
        const unsigned char *config = t->config[run->live] + run->config;                \
        unsigned char *state = t->state + run->state;                                    \
        for (uint32_t n = 0; n < run->count; n++, operand += rgp_op_operands(run->op)) { \
            const uint32_t at = operand[0] - first;                                      \
            const rgp_quality quality = t->quality[operand[0]];                          \
            const rgp_reading out = WHOLE_##shape(block);                                \
            t->value[operand[1]] = out.value;                                            \
            t->quality[operand[1]] = out.quality;                                        \
            config += run->config_stride;                                                \
            state += run->state_stride;                                                  \
        }                                                                                \
        (void)state;                                                                     \
    }
#include "image/ops.def"

/* ---- four by four (lanes/lanes.h) ---- */

/* The n-th operation of a run that goes by lanes, as a run of its own. */
static void run_apart(const rgp__tape *t, const rgp_image_run *run, uint32_t n)
{
    uint64_t room[RGP_LANES_STATE_MAX / sizeof(uint64_t)];
    uint32_t copy[RGP_LANES_SET_MAX / sizeof(uint32_t)];
    unsigned char *const group = t->state + run->state + n / RGP_LANES * RGP_LANES * run->state_stride;
    rgp__tape own = *t;
    rgp_image_run one = *run;
    own.state = (unsigned char *)room;
    own.config[run->live] = rgp_op_config(run, t->config[run->live] + run->config, n, copy);
    one.count = 1;
    one.operand += n * rgp_op_operands(run->op);
    one.config = one.state = 0;
    rgp_lanes_take(group, n % RGP_LANES, room, run->state_stride);
    rgp__run_op[run->op](&own, &one);
    rgp_lanes_put(group, n % RGP_LANES, room, run->state_stride);
}

/* By operation: what makes states fit to go side by side again; NULL: nothing has to. */
static void (*const aligns[RGP_OPS])(const void *set, void *group) = {
#define RGP_OP_ALIGN(NAME, block) [RGP_OP_##NAME] = rgp_##block##_lanes_align,
#include "image/ops.def"
};

static void run_fours_apart(const rgp__tape *t, const rgp_image_run *run, uint32_t fours)
{
    for (uint32_t n = 0; fours; n += RGP_LANES, fours >>= 1) {
        for (uint32_t k = 0; fours & 1u && k < RGP_LANES; k++) {
            run_apart(t, run, n + k);
        }
        if (fours & 1u && aligns[run->op]) {
            aligns[run->op](t->config[run->live] + run->config + n * run->config_stride,
                            t->state + run->state + n * run->state_stride);
        }
    }
}

_Static_assert(RGP_GOOD == 0, "four good qualities are 0");

/* The inputs of four operations that have one each; false when one of them is not good. */
static inline bool fetch(const float *value, const rgp_quality *quality, const uint16_t *operand, bool row, float *in)
{
    uint32_t others = 0;
    if (row) {
        memcpy(in, value + operand[0], RGP_LANES * sizeof *in);
        memcpy(&others, quality + operand[0], RGP_LANES);
        return others == 0;
    }
    for (uint32_t k = 0; k < RGP_LANES; k++) {
        in[k] = value[operand[2 * k]];
        others |= quality[operand[2 * k]];
    }
    return others == 0;
}

static inline void store(float *value, rgp_quality *quality, const uint16_t *operand, bool row, const float *out)
{
    if (row) {
        memcpy(value + operand[1], out, RGP_LANES * sizeof *out);
        memset(quality + operand[1], RGP_GOOD, RGP_LANES);
        return;
    }
    for (uint32_t k = 0; k < RGP_LANES; k++) {
        value[operand[2 * k + 1]] = out[k];
        quality[operand[2 * k + 1]] = RGP_GOOD;
    }
}

/* Fours that cannot go together, by their bits, go one by one in the end: nothing of a run reads what it writes. Until
 * then nothing is called, so that all of a run stays in registers. */
#define BY_LANES_STAGE(block) rgp_##block##_lanes_step((const void *)config, (void *)state, in, out, dt)
#define BY_LANES_MAP(block)   rgp_##block##_lanes_step((const void *)config, in, out)
#define RGP_OP_LANES(NAME, shape, block, fits)                                        \
    static void lanes_##NAME(rgp__tape *t, const rgp_image_run *run)                  \
    {                                                                                 \
        RGP__PLACES_OF(t, run);                                                       \
        const bool row = run->way == RGP_WAY_ROWS;                                    \
        uint32_t apart = 0, bit = 1, last = 1u << (run->count / RGP_LANES - 1u);      \
        for (;; bit <<= 1) {                                                          \
            float in[RGP_LANES], out[RGP_LANES];                                      \
            if (fetch(value, quality, operand, row, in) && BY_LANES_##shape(block)) { \
                store(value, quality, operand, row, out);                             \
            } else {                                                                  \
                apart |= bit;                                                         \
            }                                                                         \
            if (bit == last) {                                                        \
                break;                                                                \
            }                                                                         \
            operand += 2u * RGP_LANES;                                                \
            config += RGP_LANES * config_stride;                                      \
            state += RGP_LANES * state_stride;                                        \
        }                                                                             \
        if (apart) {                                                                  \
            run_fours_apart(t, run, apart);                                           \
        }                                                                             \
    }
#include "image/ops.def"

/* ---- by the way of a run, and by operation ---- */

static rgp__run_function *const whole[RGP_OPS] = {
#define RGP_OP_WHOLE(NAME, shape, block) [RGP_OP_##NAME] = whole_##NAME,
#include "image/ops.def"
};

static rgp__run_function *const lanes[RGP_OPS] = {
#define RGP_OP_LANES(NAME, shape, block, fits) [RGP_OP_##NAME] = lanes_##NAME,
#include "image/ops.def"
};

rgp__run_function *const *const rgp__run_way[RGP_WAYS] = {
    [RGP_WAY_PLAIN] = rgp__run_op, [RGP_WAY_WHOLE] = whole, [RGP_WAY_LANES] = lanes, [RGP_WAY_ROWS] = lanes};

void rgp__run_part(rgp__tape *t, const rgp_image_run *run, uint32_t n, uint32_t count)
{
    if (rgp_image_by_lanes(run) && count < RGP_LANES) {
        run_apart(t, run, n);
        return;
    }
    rgp_image_run part = *run;
    part.count = (uint16_t)count;
    part.operand += n * rgp_op_operands(run->op);
    part.config += n * run->config_stride;
    part.state += n * run->state_stride;
    rgp__run(t, &part);
}
