/* The operations of a run, one behind the other: a function for each kind of operation, made by its shape. */
#include "tape.h"

/* A constant is always good. */
static inline rgp_reading ref(const rgp__tape *t, uint16_t at)
{
    return at & RGP_REF_CONSTANT ? rgp_good(t->constant[at & ~RGP_REF_CONSTANT])
                                 : (rgp_reading){t->value[at], t->quality[at]};
}

/* The shapes of operations over settings differ in their operands, and in whether they keep a state. A tick takes
 * time, always; said once before the loop, no block has to ask it again. */
#define RUN_OVER_CONFIGS(NAME, operands, owned, step, state_moves, takes_time) \
    static void run_##NAME(rgp__tape *t, const rgp_image_run *run)             \
    {                                                                          \
        RGP__PLACES_OF(t, run);                                                \
        takes_time;                                                            \
        uint32_t left = run->count;                                            \
        do {                                                                   \
            const rgp_reading out = step;                                      \
            value[operand[(operands)-1u]] = out.value;                         \
            quality[operand[(operands)-1u]] = out.quality;                     \
            operand += (operands) + (owned);                                   \
            config += config_stride;                                           \
            state_moves;                                                       \
        } while (--left > 0);                                                  \
    }
#define IN(n)      ((rgp_reading){value[operand[n]], quality[operand[n]]})
#define CONFIG     ((const void *)config)
#define STATE      ((void *)state)
#define NEXT_STATE state += state_stride
#define TAKES_TIME    \
    if (!(dt > 0.0f)) \
    return

/* The changes of what an operand says: those of a timed switch lie in its queue, any other's are found here. */
static rgp_edges edges_of(const rgp__tape *t, uint16_t slot, rgp_edges_memory *memory, bool event, rgp_port_edge *room)
{
    const rgp_engine *e = t->engine;
    const uint64_t now_us = part_head(e)->now_us;
    const rgp_reading in = {t->value[slot], t->quality[slot]};
    const uint32_t first = rgp_image_sensor_slot(e->image, 0), sensor = (uint32_t)slot - first;
    if (slot < first || sensor >= COUNT(e, SENSORS) || !image_SENSORS(e)[sensor].timed) {
        return rgp_edges_find(memory, in, event, now_us, t->dt, room);
    }
    const rgp__edge_queue *queue = &part_edges(e)[image_SENSORS(e)[sensor].timed - 1];
    return (rgp_edges){in, queue->edge, queue->count, queue->lost, now_us};
}

#define RUN_STAGE(NAME, block, outputs, owned) \
    RUN_OVER_CONFIGS(NAME, 2u, owned, rgp_##block##_step(CONFIG, STATE, IN(0), dt), NEXT_STATE, TAKES_TIME)
#define RUN_PAIR(NAME, block, outputs, owned) \
    RUN_OVER_CONFIGS(NAME, 3u, owned, rgp_##block##_step(CONFIG, STATE, IN(0), IN(1), dt), NEXT_STATE, TAKES_TIME)
#define RUN_MAP(NAME, block, outputs, owned) \
    RUN_OVER_CONFIGS(NAME, 2u, owned, rgp_##block##_step(CONFIG, IN(0)), (void)0, (void)0)
#define RUN_MAP3(NAME, block, outputs, owned) \
    RUN_OVER_CONFIGS(NAME, 4u, owned, rgp_##block##_step(CONFIG, IN(0), IN(1), IN(2)), (void)0, (void)0)
#define RUN_EDGES(NAME, block, outputs, owned)                                                                         \
    static rgp_reading measure_##NAME(const rgp__tape *t, const uint16_t *operand, const rgp_##block##_config *config, \
                                      rgp_##block##_state *state)                                                      \
    {                                                                                                                  \
        rgp_port_edge room;                                                                                            \
        const rgp_edges in = edges_of(t, operand[0], &state->memory, config->event != 0, &room);                       \
        return rgp_##block##_step(config, state, &in, t->dt);                                                          \
    }                                                                                                                  \
    RUN_OVER_CONFIGS(NAME, 2u, owned, measure_##NAME(t, operand, CONFIG, STATE), NEXT_STATE, TAKES_TIME)
#define RUN_EDGES2(NAME, block, outputs, owned)                                                                        \
    static rgp_reading measure_##NAME(const rgp__tape *t, const uint16_t *operand, const rgp_##block##_config *config, \
                                      rgp_##block##_state *state)                                                      \
    {                                                                                                                  \
        rgp_port_edge room[2];                                                                                         \
        const rgp_edges a = edges_of(t, operand[0], &state->gate[0].memory, false, &room[0]);                          \
        const rgp_edges b = edges_of(t, operand[1], &state->gate[1].memory, false, &room[1]);                          \
        return rgp_##block##_step(config, state, &a, &b, t->dt);                                                       \
    }                                                                                                                  \
    RUN_OVER_CONFIGS(NAME, 3u, owned, measure_##NAME(t, operand, CONFIG, STATE), NEXT_STATE, TAKES_TIME)
#define RUN_JOIN(NAME, expression, outputs, owned)                                                 \
    static void run_##NAME(rgp__tape *t, const rgp_image_run *run)                                 \
    {                                                                                              \
        const uint16_t *operand = t->operand + run->operand;                                       \
        uint32_t left = run->count;                                                                \
        do {                                                                                       \
            const rgp_reading in_a = ref(t, operand[0]), in_b = ref(t, operand[1]);                \
            const float a = in_a.value, b = in_b.value;                                            \
            const rgp_reading out = rgp_number(expression, rgp_worst(in_a.quality, in_b.quality)); \
            t->value[operand[2]] = out.value;                                                      \
            t->quality[operand[2]] = out.quality;                                                  \
            operand += 3;                                                                          \
        } while (--left > 0);                                                                      \
    }
#define RUN_LOOP(NAME, block, outputs, owned)                                                                          \
    static void run_##NAME(rgp__tape *t, const rgp_image_run *run)                                                     \
    {                                                                                                                  \
        const uint16_t *operand = t->operand + run->operand;                                                           \
        const unsigned char *config = t->config[run->live] + run->config;                                              \
        unsigned char *state = t->state + run->state;                                                                  \
        const float dt = t->dt;                                                                                        \
        bool all_go_on = true;                                                                                         \
        TAKES_TIME;                                                                                                    \
        for (uint32_t left = run->count; left > 0; left--) {                                                           \
            const rgp_loop_input in = {ref(t, operand[0]), ref(t, operand[1]), ref(t, operand[2]), t->since, t->same}; \
            all_go_on &= rgp_##block##_step(CONFIG, STATE, &in, dt, t->value + operand[3], t->quality + operand[3]);   \
            operand += 3 + (outputs);                                                                                  \
            config += run->config_stride;                                                                              \
            state += run->state_stride;                                                                                \
        }                                                                                                              \
        t->moves |= !all_go_on;                                                                                        \
    }

#define RGP_OP(NAME, shape, block, outputs, config_bytes, state_bytes, steps, pace, result, range, knows, verb) \
    RUN_##shape(NAME, block, outputs, (RGP_KNOWS_##knows != RGP_KNOWS_NOTHING))
#include "image/ops.def"

rgp__run_function *const rgp__run_op[RGP_OPS] = {
#define RGP_OP(NAME, ...) run_##NAME,
#include "image/ops.def"
};
