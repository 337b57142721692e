/* Inside the engine: the operations as numbers, and what the loader has to know of each. */
#ifndef RIGPULSE_ENGINE_OPS_H
#define RIGPULSE_ENGINE_OPS_H

#include "rigpulse/condition.h"
#include "rigpulse/detect.h"
#include "rigpulse/drive.h"
#include "rigpulse/regulate.h"
#include "rigpulse/status.h"

#include <stddef.h>

enum {
#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes)         RP_OP_##NAME,
#define RP_OP_PAIR(NAME, block, config_bytes, state_bytes)          RP_OP_##NAME,
#define RP_OP_MAP(NAME, block, config_bytes)                        RP_OP_##NAME,
#define RP_OP_MAP3(NAME, block, config_bytes)                       RP_OP_##NAME,
#define RP_OP_EDGES(NAME, block, config_bytes, state_bytes)         RP_OP_##NAME,
#define RP_OP_EDGES2(NAME, block, config_bytes, state_bytes)        RP_OP_##NAME,
#define RP_OP_JOIN(NAME, expression)                                RP_OP_##NAME,
#define RP_OP_LOOP(NAME, block, outputs, config_bytes, state_bytes) RP_OP_##NAME,
#include "ops.def"
    RP_OPS
};

#define RP_OP_HEAD      4u /* bytes of a config that must be there before its length may be asked */
#define RP_OPERANDS_MAX 4u

typedef struct rp_op {
    uint8_t inputs; /* operands before the outputs */
    uint8_t outputs;
    uint8_t refs;                           /* 1: inputs may be constants */
    rp_status (*check)(const void *config); /* NULL for an operation without settings */
    uint32_t (*config_bytes)(const void *config);
    uint32_t (*state_bytes)(const void *config); /* NULL for an operation without state */
    void (*reset)(void *state);
} rp_op;

extern const rp_op rp_ops[RP_OPS];

static inline uint32_t rp_op_operands(uint32_t op)
{
    return (uint32_t)rp_ops[op].inputs + rp_ops[op].outputs;
}

/* True for a control loop. */
bool rp_op_is_loop(uint32_t op);

/* True when a parameter may set the 4 bytes at `offset` of this operation's config. */
bool rp_op_is_live(uint32_t op, uint32_t offset);

/* True when what this operation has learned or counted can survive a power cycle. */
bool rp_op_keeps(uint32_t op);

/* The stretch of live settings that holds the byte `live_offset`: which operation, and where its config
 * starts. False when none does. */
bool rp_op_locate_live(const void *image, uint32_t live_offset, uint32_t *op, uint32_t *config_offset);

#endif
