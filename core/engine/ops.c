#include "ops.h"

#include "rigpulse/image.h"

#define WITH_CONFIG(NAME, block, bytes)                     \
    static rp_status check_##NAME(const void *config)       \
    {                                                       \
        return rp_##block##_check(config);                  \
    }                                                       \
    static uint32_t config_bytes_##NAME(const void *config) \
    {                                                       \
        const rp_##block##_config *c = config;              \
        (void)c;                                            \
        return (uint32_t)(bytes);                           \
    }
#define WITH_STATE(NAME, block, bytes)                     \
    static uint32_t state_bytes_##NAME(const void *config) \
    {                                                      \
        const rp_##block##_config *c = config;             \
        (void)c;                                           \
        return (uint32_t)(bytes);                          \
    }                                                      \
    static void reset_##NAME(void *state)                  \
    {                                                      \
        rp_##block##_reset(state);                         \
    }
#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes) \
    WITH_CONFIG(NAME, block, config_bytes) WITH_STATE(NAME, block, state_bytes)
#define RP_OP_PAIR(NAME, block, config_bytes, state_bytes) \
    WITH_CONFIG(NAME, block, config_bytes) WITH_STATE(NAME, block, state_bytes)
#define RP_OP_EDGES(NAME, block, config_bytes, state_bytes) \
    WITH_CONFIG(NAME, block, config_bytes) WITH_STATE(NAME, block, state_bytes)
#define RP_OP_EDGES2(NAME, block, config_bytes, state_bytes) \
    WITH_CONFIG(NAME, block, config_bytes) WITH_STATE(NAME, block, state_bytes)
#define RP_OP_LOOP(NAME, block, outputs, config_bytes, state_bytes) \
    WITH_CONFIG(NAME, block, config_bytes) WITH_STATE(NAME, block, state_bytes)
#define RP_OP_MAP(NAME, block, config_bytes)  WITH_CONFIG(NAME, block, config_bytes)
#define RP_OP_MAP3(NAME, block, config_bytes) WITH_CONFIG(NAME, block, config_bytes)
#include "ops.def"

const rp_op rp_ops[RP_OPS] = {
#define RP_OP_STAGE(NAME, block, config_bytes, state_bytes) \
    {1, 1, 0, check_##NAME, config_bytes_##NAME, state_bytes_##NAME, reset_##NAME},
#define RP_OP_PAIR(NAME, block, config_bytes, state_bytes) \
    {2, 1, 0, check_##NAME, config_bytes_##NAME, state_bytes_##NAME, reset_##NAME},
#define RP_OP_EDGES(NAME, block, config_bytes, state_bytes) \
    {1, 1, 0, check_##NAME, config_bytes_##NAME, state_bytes_##NAME, reset_##NAME},
#define RP_OP_EDGES2(NAME, block, config_bytes, state_bytes) \
    {2, 1, 0, check_##NAME, config_bytes_##NAME, state_bytes_##NAME, reset_##NAME},
#define RP_OP_LOOP(NAME, block, outputs, config_bytes, state_bytes) \
    {3, outputs, 1, check_##NAME, config_bytes_##NAME, state_bytes_##NAME, reset_##NAME},
#define RP_OP_MAP(NAME, block, config_bytes)  {1, 1, 0, check_##NAME, config_bytes_##NAME, NULL, NULL},
#define RP_OP_MAP3(NAME, block, config_bytes) {3, 1, 0, check_##NAME, config_bytes_##NAME, NULL, NULL},
#define RP_OP_JOIN(NAME, expression)          {2, 1, 1, NULL, NULL, NULL, NULL},
#include "ops.def"
};

typedef struct live_field {
    uint8_t op;
    uint16_t offset, places;
} live_field;

static const live_field live_fields[] = {
#define RP_OP_LIVE(NAME, block, field, places) {RP_OP_##NAME, offsetof(rp_##block##_config, field), places},
#include "ops.def"
};

bool rp_op_is_loop(uint32_t op)
{
    static const uint8_t loops[] = {
#define RP_OP_LOOP(NAME, block, outputs, config_bytes, state_bytes) RP_OP_##NAME,
#include "ops.def"
    };
    uint32_t i = 0;
    while (i < sizeof loops && loops[i] != op) {
        i++;
    }
    return i < sizeof loops;
}

bool rp_op_is_live(uint32_t op, uint32_t offset)
{
    for (uint32_t i = 0; i < sizeof live_fields / sizeof *live_fields; i++) {
        const live_field *f = &live_fields[i];
        if (f->op == op && offset % 4 == 0 && offset >= f->offset && offset < f->offset + 4u * f->places) {
            return true;
        }
    }
    return false;
}

bool rp_op_locate_live(const void *image, uint32_t live_offset, uint32_t *op, uint32_t *config_offset)
{
    const rp_image_header *header = image;
    const rp_image_run *run = rp_image_at(header, RP_SECTION_RUNS);
    for (uint32_t i = 0; i < rp_image_count(header, RP_SECTION_RUNS); i++) {
        const uint32_t bytes = run[i].live ? (uint32_t)run[i].count * run[i].config_stride : 0;
        if (live_offset - run[i].config < bytes) {
            *op = run[i].op;
            *config_offset = live_offset - (live_offset - run[i].config) % run[i].config_stride;
            return true;
        }
    }
    return false;
}
