/* The table of operations, made from ops.def. */
#include "ops.h"

#include "lanes/lanes.h"
#include "rigpulse/inside/fields.h"
#include "rigpulse/inside/settings.h"

/* ---- the shapes: how many inputs, whether they may be constants, whether it is a loop ---- */

#define SHAPE_STAGE  1, 0, 0
#define SHAPE_PAIR   2, 0, 0
#define SHAPE_MAP    1, 0, 0
#define SHAPE_MAP3   3, 0, 0
#define SHAPE_EDGES  1, 0, 0
#define SHAPE_EDGES2 2, 0, 0
#define SHAPE_JOIN   2, 1, 0
#define SHAPE_LOOP   3, 1, 1

/* ---- what each has to be asked: a shape without a state, or without settings, leaves it out ---- */

#define ASK_CONFIG(NAME, block, bytes)                      \
    static const char *fault_##NAME(const void *config)     \
    {                                                       \
        return rgp_##block##_fault(config);                 \
    }                                                       \
    static uint32_t config_bytes_##NAME(const void *config) \
    {                                                       \
        const rgp_##block##_config *c = config;             \
        (void)c;                                            \
        return (uint32_t)(bytes);                           \
    }
#define ASK_BOTH(NAME, block, bytes, held)                 \
    ASK_CONFIG(NAME, block, bytes)                         \
    static uint32_t state_bytes_##NAME(const void *config) \
    {                                                      \
        const rgp_##block##_config *c = config;            \
        (void)c;                                           \
        return (uint32_t)(held);                           \
    }                                                      \
    static void reset_##NAME(void *state)                  \
    {                                                      \
        rgp_##block##_reset(state);                        \
    }
#define ASK_STAGE(NAME, block, bytes, held)  ASK_BOTH(NAME, block, bytes, held)
#define ASK_PAIR(NAME, block, bytes, held)   ASK_BOTH(NAME, block, bytes, held)
#define ASK_EDGES(NAME, block, bytes, held)  ASK_BOTH(NAME, block, bytes, held)
#define ASK_EDGES2(NAME, block, bytes, held) ASK_BOTH(NAME, block, bytes, held)
#define ASK_LOOP(NAME, block, bytes, held)   ASK_BOTH(NAME, block, bytes, held)
#define ASK_MAP(NAME, block, bytes, held)    ASK_CONFIG(NAME, block, bytes)
#define ASK_MAP3(NAME, block, bytes, held)   ASK_CONFIG(NAME, block, bytes)
#define ASK_JOIN(NAME, block, bytes, held)

#define RGP_OP(NAME, shape, block, outputs, config_bytes, state_bytes, ...) \
    ASK_##shape(NAME, block, config_bytes, state_bytes)
#include "ops.def"

#define ASKED_BOTH(NAME)        fault_##NAME, config_bytes_##NAME, state_bytes_##NAME, reset_##NAME
#define ASKED_STAGE(NAME)       ASKED_BOTH(NAME)
#define ASKED_PAIR(NAME)        ASKED_BOTH(NAME)
#define ASKED_EDGES(NAME)       ASKED_BOTH(NAME)
#define ASKED_EDGES2(NAME)      ASKED_BOTH(NAME)
#define ASKED_LOOP(NAME)        ASKED_BOTH(NAME)
#define ASKED_MAP(NAME)         fault_##NAME, config_bytes_##NAME, NULL, NULL
#define ASKED_MAP3(NAME)        ASKED_MAP(NAME)
#define ASKED_JOIN(NAME)        NULL, NULL, NULL, NULL

/* A list names each field of a state, with its type: an array by that of its elements. Together they are all of it. */
#define FIELD(block, in, field) (((rgp_##block##_state *)0)->in field)
#define IS_TYPED(block, in, type, field) \
    &&_Generic(FIELD(block, in, field), type : true, type * : true, default : false)
#define HELD(block, in, type, field) +sizeof FIELD(block, in, field)
#define INSIST_STATE(block, list)                                                           \
    _Static_assert(true list(IS_TYPED, block, ), "a field of " #block " has another type"); \
    _Static_assert(sizeof(rgp_##block##_state) == 0 list(HELD, block, ),                    \
                   "a field of " #block " is missing, or it has gaps");
#define INSIST_STAGE(block)  INSIST_STATE(block, rgp_##block##_fields)
#define INSIST_PAIR(block)   INSIST_STAGE(block)
#define INSIST_EDGES(block)  INSIST_STAGE(block)
#define INSIST_EDGES2(block) INSIST_STAGE(block)
#define INSIST_LOOP(block)   INSIST_STAGE(block)
#define INSIST_MAP(block)
#define INSIST_MAP3(block)
#define INSIST_JOIN(block)
#define RGP_OP(NAME, shape, block, ...) INSIST_##shape(block)
#include "ops.def"

/* A bit for each 4 bytes that a parameter may change. */
#define LIVE(block, in, type, field, live, ...)                                                  \
    | (uint32_t)((live) * (((uint64_t)1 << sizeof((rgp_##block##_config *)0)->in field / 4) - 1) \
                 << offsetof(rgp_##block##_config, in field) / 4)

/* A macro of its own, so that the shape's list is taken apart before it is counted. */
#define ROW(inputs, refs, loop, outputs, ...) {inputs, outputs, refs, loop, __VA_ARGS__},
#define MAKE(...)                             ROW(__VA_ARGS__)

const rgp_op rgp_ops[RGP_OPS] = {
#define RGP_OP(NAME, shape, block, outputs, config_bytes, state_bytes, steps, pace, result, range, knows, verb) \
    MAKE(SHAPE_##shape, outputs, RGP_STEPS_##steps, RGP_PACE_##pace, RGP_RESULT_##result, RGP_RANGE_##range,    \
         RGP_KNOWS_##knows, verb, 0u RGP_SETTINGS_##shape(LIVE, block), ASKED_##shape(NAME))
#include "ops.def"
};

/* ---- what is kept, and what is learned ---- */

#define RGP_OP_RETAIN(NAME, block)                                    \
    static bool retain_##NAME(const void *state, rgp_retained *kept)  \
    {                                                                 \
        return rgp_##block##_retain(state, kept);                     \
    }                                                                 \
    static bool restore_##NAME(void *state, const rgp_retained *kept) \
    {                                                                 \
        return rgp_##block##_restore(state, kept);                    \
    }
#include "ops.def"

enum {
#define RGP_OP_RETAIN(NAME, block) KEPT_##NAME,
#include "ops.def"
    KEEPERS
};

const rgp_op_retainer *rgp_op_retainer_of(uint32_t op)
{
    static const rgp_op_retainer retainer[KEEPERS] = {
#define RGP_OP_RETAIN(NAME, block) {RGP_OP_##NAME, KEPT_##NAME, retain_##NAME, restore_##NAME},
#include "ops.def"
    };
    uint32_t kind = 0;
    while (kind < KEEPERS && retainer[kind].op != op) {
        kind++;
    }
    return kind < KEEPERS ? &retainer[kind] : NULL;
}

bool rgp_op_takes_whole(uint32_t op)
{
    bool takes = false;
#define RGP_OP_WHOLE(NAME, shape, block) takes |= op == RGP_OP_##NAME;
#include "ops.def"
    return takes;
}

#define RGP_OP_LANES(NAME, shape, block, fits) \
    _Static_assert(sizeof(rgp_##block##_config) <= RGP_LANES_SET_MAX, "there is room for the settings of " #block);
#include "ops.def"

bool rgp_op_goes_by_lanes(uint32_t op, const void *config)
{
    switch (op) {
#define RGP_OP_LANES(NAME, shape, block, fits)        \
    case RGP_OP_##NAME: {                             \
        const rgp_##block##_config *const c = config; \
        (void)c;                                      \
        return fits;                                  \
    }
#include "ops.def"
    default:
        return false;
    }
}

rgp_learning rgp_op_news(uint32_t op, void *state)
{
    switch (op) {
#define RGP_OP_LEARN(NAME, block) \
    case RGP_OP_##NAME:           \
        return rgp_##block##_news(state);
#include "ops.def"
    default:
        return (rgp_learning){0};
    }
}

/* ---- where settings lie ---- */

uint32_t rgp_op_setting_place(const rgp_image_run *run, uint32_t n, uint32_t at)
{
    const uint32_t lane = rgp_image_by_lanes(run) ? n % RGP_LANES : 0;
    return (n - lane) * run->config_stride + (rgp_image_by_lanes(run) ? rgp_lanes_place(lane, at) : at);
}

const void *rgp_op_config(const rgp_image_run *run, const void *settings, uint32_t n, void *room)
{
    const unsigned char *const first = settings;
    if (!rgp_image_by_lanes(run)) {
        return first + n * run->config_stride;
    }
    rgp_lanes_take(first + (n - n % RGP_LANES) * run->config_stride, n % RGP_LANES, room, run->config_stride);
    return room;
}

/* ---- settings that a parameter may change ---- */

bool rgp_op_is_live(uint32_t op, uint32_t offset)
{
    return offset % 4 == 0 && offset < 128 && (rgp_ops[op].live >> offset / 4 & 1u);
}

bool rgp_op_locate_live(const void *image, uint32_t live_offset, rgp_op_live *setting)
{
    const rgp_image_header *header = image;
    const rgp_image_run *run = rgp_image_at(header, RGP_SECTION_RUNS);
    for (uint32_t i = 0; i < rgp_image_count(header, RGP_SECTION_RUNS); i++) {
        const uint32_t bytes = run[i].live ? (uint32_t)run[i].count * run[i].config_stride : 0;
        if (live_offset - run[i].config < bytes) {
            const uint32_t together = rgp_image_by_lanes(&run[i]) ? RGP_LANES : 1u;
            const uint32_t group = together * run[i].config_stride, from = (live_offset - run[i].config) % group;
            const uint32_t lane = from / 4u % together;
            *setting = (rgp_op_live){.run = &run[i],
                                     .n = (live_offset - run[i].config) / group * together + lane,
                                     .at = (from / 4u - lane) / together * 4u + from % 4u};
            return true;
        }
    }
    return false;
}
