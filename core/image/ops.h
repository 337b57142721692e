/* The operations as numbers, and the facts of each (ops.def). */
#ifndef RIGPULSE_IMAGE_OPS_H
#define RIGPULSE_IMAGE_OPS_H

#include "rigpulse/condition.h"
#include "rigpulse/detect.h"
#include "rigpulse/drive.h"
#include "rigpulse/image.h"
#include "rigpulse/linkage.h"
#include "rigpulse/regulate.h"
#include "rigpulse/status.h"

#include <stddef.h>

RGP_DECLARATIONS_BEGIN

enum {
#define RGP_OP(NAME, ...) RGP_OP_##NAME,
#include "image/ops.def"
    RGP_OPS
};

#define RGP_OP_HEAD                   4u /* bytes of a config that must be there before its length may be asked */
#define RGP_OPERANDS_MAX              4u

/* The settings of an operation's block, by its shape: a JOIN has none (rigpulse/inside/settings.h). */
#define RGP_SETTINGS_STAGE(X, block)  rgp_##block##_settings(X, block, )
#define RGP_SETTINGS_PAIR(X, block)   RGP_SETTINGS_STAGE(X, block)
#define RGP_SETTINGS_MAP(X, block)    RGP_SETTINGS_STAGE(X, block)
#define RGP_SETTINGS_MAP3(X, block)   RGP_SETTINGS_STAGE(X, block)
#define RGP_SETTINGS_EDGES(X, block)  RGP_SETTINGS_STAGE(X, block)
#define RGP_SETTINGS_EDGES2(X, block) RGP_SETTINGS_STAGE(X, block)
#define RGP_SETTINGS_LOOP(X, block)   RGP_SETTINGS_STAGE(X, block)
#define RGP_SETTINGS_JOIN(X, block)

/* The columns of ops.def. */
enum { RGP_STEPS_TICK, RGP_STEPS_NEW };
enum { RGP_PACE_TICK, RGP_PACE_FIRST, RGP_PACE_ALL };
enum { RGP_RESULT_VALUE, RGP_RESULT_EVENT };
enum { RGP_RANGE_OTHER, RGP_RANGE_PASSES, RGP_RANGE_MONOTONE, RGP_RANGE_TRUTH };
enum { RGP_KNOWS_NOTHING, RGP_KNOWS_COUNTS, RGP_KNOWS_LEARNS };

typedef struct rgp_op {
    uint8_t inputs; /* operands before the outputs */
    uint8_t outputs;
    uint8_t refs;  /* 1: inputs may be constants */
    uint8_t loop;  /* 1: a control loop, whose state begins with its rgp_loop_link */
    uint8_t steps; /* RGP_STEPS_... */
    uint8_t pace, result, range, knows;
    const char *verb;
    uint32_t live;                            /* bit i: a parameter may change the i-th 4 bytes of its config */
    const char *(*fault)(const void *config); /* the wrong setting in words; NULL for an operation without settings */
    uint32_t (*config_bytes)(const void *config);
    uint32_t (*state_bytes)(const void *config); /* NULL for an operation without state */
    void (*reset)(void *state);
} rgp_op;

extern const rgp_op rgp_ops[RGP_OPS];

/* Of what knows something, behind the outputs: the slot of the signal whose stage it is. */
static inline bool rgp_op_is_owned(uint32_t op)
{
    return rgp_ops[op].knows != RGP_KNOWS_NOTHING;
}

static inline uint32_t rgp_op_operands(uint32_t op)
{
    return (uint32_t)rgp_ops[op].inputs + rgp_ops[op].outputs + rgp_op_is_owned(op);
}

/* The way in which what an operation has learned or counted survives a power cycle; NULL when it does not. `kind` is
 * a number of that way, which never changes. */
typedef struct rgp_op_retainer {
    uint16_t op, kind;
    bool (*retain)(const void *state, rgp_retained *kept);
    bool (*restore)(void *state, const rgp_retained *kept);
} rgp_op_retainer;

const rgp_op_retainer *rgp_op_retainer_of(uint32_t op);

/* Its news of learning since it was asked last. Only for what RGP_KNOWS_LEARNS. */
rgp_learning rgp_op_news(uint32_t op, void *state);

/* True when it can take a sensor's whole number (RGP_OP_WHOLE). */
bool rgp_op_takes_whole(uint32_t op);

/* True when four with such settings can go side by side (RGP_OP_LANES). */
bool rgp_op_goes_by_lanes(uint32_t op, const void *config);

/* True when a parameter may set the 4 bytes at `offset` of this operation's config. */
bool rgp_op_is_live(uint32_t op, uint32_t offset);

/* The place of the byte `at` of the settings of the n-th operation of a run, from the first of the run on. */
uint32_t rgp_op_setting_place(const rgp_image_run *run, uint32_t n, uint32_t at);

/* The settings of the n-th operation of a run whose first lie at `settings`: in their place, or where they lie by field
 * copied into `room` (RGP_LANES_SET_MAX bytes for what goes by lanes). */
const void *rgp_op_config(const rgp_image_run *run, const void *settings, uint32_t n, void *room);

/* A setting among the live ones: of the n-th operation of a run the byte `at`. */
typedef struct rgp_op_live {
    const rgp_image_run *run;
    uint32_t n, at;
} rgp_op_live;

/* The setting that holds the byte `live_offset`. False when none does. */
bool rgp_op_locate_live(const void *image, uint32_t live_offset, rgp_op_live *setting);

RGP_DECLARATIONS_END

#endif
