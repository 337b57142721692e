/* The engine before its first tick: all actuators at rest, nothing known, nothing asked. */
#include "begin.h"

#include "params.h"
#include "program.h"
#include "relief.h"

#include <string.h>

void rp_begin_head(rp_engine *e)
{
    *part_head(e) = (rp_engine_head){.bound = 100.0f,
                                     .next_end_us = UINT64_MAX,
                                     .due = RP_DUE_FOLLOW | RP_DUE_OUTPUTS | RP_DUE_STATES | RP_DUE_NEWS};
    rp_engine_arrange(e);
}

void rp_begin_actuators(rp_engine *e)
{
    const rp_image_actuator *a = image_ACTUATORS(e);
    rp_actuator_state *is = part_actuator(e);
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        is[i] = (rp_actuator_state){
            .owner = RP_OWNER_REST, .wanted = a[i].rest, .shaped = a[i].rest, .credit = rp_engine_credit(&a[i])};
        part_value(e)[rp_image_actuator_slot(e->image, i)] = a[i].rest;
    }
}

/* Parameters, actuators and states are known from the beginning; sensors and what is made of them are not. */
void rp_begin_qualities(rp_engine *e)
{
    rp_quality *const quality = part_quality(e);
    memset(quality, RP_MISSING, e->image->slots);
    memset(quality, RP_GOOD, COUNT(e, PARAMS));
    memset(quality + rp_image_actuator_slot(e->image, 0), RP_GOOD, COUNT(e, ACTUATORS) + COUNT(e, STATES));
}

void rp_begin_live(rp_engine *e)
{
    memcpy(part_live(e), rp_image_at(e->image, RP_SECTION_LIVE_CONFIGS), 4 * COUNT(e, LIVE_CONFIGS));
}

/* A loop waits for its condition until that is known. */
static void begin_loops(rp_engine *e)
{
    const rp_image_loop *loop = image_LOOPS(e);
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        const uint8_t waits = loop[i].only != RP_REF_NONE ? RP_NEWS_STOPPED : 0;
        *link_of(e, &loop[i]) = (rp_loop_link){.taken = image_ACTUATORS(e)[loop[i].actuator].rest,
                                               .news = (uint8_t)(RP_NEWS_TAKEN | waits)};
    }
}

void rp_begin_states(rp_engine *e)
{
    e->program->reset(e);
    begin_loops(e);
    for (uint32_t i = 0; i < COUNT(e, PARAMS); i++) {
        part_value(e)[i] = image_PARAMS(e)[i].initial;
        rp_engine_put_param(e, (uint16_t)i, image_PARAMS(e)[i].initial);
    }
}

static void none(const rp_engine *e)
{
    (void)e;
}

void rp_engine_reset(rp_engine *e)
{
    memset(e->memory, 0, e->image->memory);
#define RP_MEMORY(name, type, count, begin) begin(e);
#include "image/memory.def"
}

static bool is_shaped(const rp_engine *e)
{
    const rp_image_actuator *a = image_ACTUATORS(e);
    bool shaped = part_head(e)->bound < 100.0f;
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        shaped |= a[i].guards > 0 || a[i].least > 0.0f || a[i].slew > 0.0f || a[i].longest > 0.0f || a[i].duty > 0.0f ||
                  a[i].stalls > 0;
    }
    return shaped;
}

/* Drives that are no loops, or that hang on a condition, have to be looked at in every tick. */
static bool follows_always(const rp_engine *e)
{
    bool always = part_head(e)->hand_only || COUNT(e, DRIVES) > COUNT(e, LOOPS);
    for (uint32_t i = 0; i < COUNT(e, DRIVES); i++) {
        always |= image_DRIVES(e)[i].only != RP_REF_NONE;
    }
    return always;
}

static bool has_timed_actions(const rp_engine *e)
{
    uint32_t i = 0;
    while (i < COUNT(e, CLAIMS) && image_CLAIMS(e)[i].rank != RP_RANK_TIMED) {
        i++;
    }
    return i < COUNT(e, CLAIMS);
}

void rp_engine_arrange(rp_engine *e)
{
    const struct {
        bool is;
        uint32_t due;
    } always[] = {
        {true, RP_DUE_TICK},
        {rp_image_vetted(e->image) > 0, RP_DUE_WATCH},
        {rp_image_timed(e->image) > 0, RP_DUE_EDGES},
        {COUNT(e, STOPS) > 0, RP_DUE_STOPS},
        {has_timed_actions(e), RP_DUE_CLAIMS},
        {COUNT(e, RULES) > 0, RP_DUE_RULES},
        {COUNT(e, SEQUENCES) > 0, RP_DUE_SEQUENCES},
        {COUNT(e, DRIVES) > 0, RP_DUE_DRIVES},
        {follows_always(e), RP_DUE_FOLLOW},
        {is_shaped(e), RP_DUE_SHAPE | RP_DUE_OUTPUTS},
    };
    rp_engine_head *const head = part_head(e);
    head->always = 0;
    for (uint32_t i = 0; i < sizeof always / sizeof *always; i++) {
        head->always |= always[i].is ? always[i].due : 0;
    }
}
