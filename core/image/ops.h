/* The operations as numbers, and the facts of each (ops.def). */
#ifndef RIGPULSE_IMAGE_OPS_H
#define RIGPULSE_IMAGE_OPS_H

#include "rigpulse/condition.h"
#include "rigpulse/detect.h"
#include "rigpulse/drive.h"
#include "rigpulse/regulate.h"
#include "rigpulse/status.h"

#include <stddef.h>

enum {
#define RP_OP(NAME, ...) RP_OP_##NAME,
#include "image/ops.def"
    RP_OPS
};

#define RP_OP_HEAD      4u /* bytes of a config that must be there before its length may be asked */
#define RP_OPERANDS_MAX 4u

/* The columns of ops.def. */
enum { RP_STEPS_TICK, RP_STEPS_NEW };
enum { RP_PACE_TICK, RP_PACE_FIRST, RP_PACE_ALL };
enum { RP_RESULT_VALUE, RP_RESULT_EVENT };
enum { RP_RANGE_OTHER, RP_RANGE_PASSES, RP_RANGE_MONOTONE, RP_RANGE_TRUTH };
enum { RP_KNOWS_NOTHING, RP_KNOWS_COUNTS, RP_KNOWS_LEARNS };

typedef struct rp_op {
    uint8_t inputs; /* operands before the outputs */
    uint8_t outputs;
    uint8_t refs;  /* 1: inputs may be constants */
    uint8_t loop;  /* 1: a control loop, whose state begins with its rp_loop_link */
    uint8_t steps; /* RP_STEPS_... */
    uint8_t pace, result, range, knows;
    const char *verb;
    rp_status (*check)(const void *config); /* NULL for an operation without settings */
    uint32_t (*config_bytes)(const void *config);
    uint32_t (*state_bytes)(const void *config); /* NULL for an operation without state */
    void (*reset)(void *state);
} rp_op;

extern const rp_op rp_ops[RP_OPS];

/* Of what knows something, behind the outputs: the slot of the signal whose stage it is. */
static inline bool rp_op_is_owned(uint32_t op)
{
    return rp_ops[op].knows != RP_KNOWS_NOTHING;
}

static inline uint32_t rp_op_operands(uint32_t op)
{
    return (uint32_t)rp_ops[op].inputs + rp_ops[op].outputs + rp_op_is_owned(op);
}

/* The way in which what an operation has learned or counted survives a power cycle; NULL when it does not. `kind` is
 * a number of that way, which never changes. */
typedef struct rp_op_keeper {
    uint16_t op, kind;
    bool (*keep)(const void *state, rp_kept *kept);
    bool (*recall)(void *state, const rp_kept *kept);
} rp_op_keeper;

const rp_op_keeper *rp_op_keeper_of(uint32_t op);

/* Its news of learning since it was asked last. Only for what RP_KNOWS_LEARNS. */
rp_learning rp_op_news(uint32_t op, void *state);

/* True when it can take a sensor's whole number (RP_OP_WHOLE). */
bool rp_op_takes_whole(uint32_t op);

/* True when a parameter may set the 4 bytes at `offset` of this operation's config. */
bool rp_op_is_live(uint32_t op, uint32_t offset);

/* The stretch of live settings that holds the byte `live_offset`: which operation, and where its config
 * starts. False when none does. */
bool rp_op_locate_live(const void *image, uint32_t live_offset, uint32_t *op, uint32_t *config_offset);

#endif
