/* The engine before its first tick: all actuators at rest, nothing known, nothing asked. */
#include "begin.h"

#include "params.h"
#include "program.h"
#include "relief.h"

#include <string.h>

/* Everything that can be due is due in the first tick, since nothing has been chosen yet. */
void rgp__begin_head(rgp_engine *e)
{
    *part_head(e) = (rgp__engine_head){.bound = 100.0f,
                                       .next_end_us = UINT64_MAX,
                                       .steady = rgp__image_seen(e->image) > 0,
                                       .due = RGP__DUE_FOLLOW | RGP__DUE_OUTPUTS | RGP__DUE_STATES | RGP__DUE_NEWS};
    rgp__engine_arrange(e);
}

/* An actuator is taken to stand at rest, where the port has to bring it before the first tick; its duty has its whole
 * credit. */
void rgp__begin_actuators(rgp_engine *e)
{
    const rgp_image_actuator *a = image_ACTUATORS(e);
    rgp__actuator_state *is = part_actuator(e);
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        is[i] = (rgp__actuator_state){
            .owner = RGP_OWNER_REST, .wanted = a[i].rest, .shaped = a[i].rest, .credit = rgp__engine_credit(&a[i])};
        part_value(e)[rgp_image_actuator_slot(e->image, i)] = a[i].rest;
    }
}

/* Parameters, actuators and states are known from the beginning; sensors and what is made of them are not. */
void rgp__begin_qualities(rgp_engine *e)
{
    rgp_quality *const quality = part_quality(e);
    memset(quality, RGP_MISSING, e->image->slots);
    memset(quality, RGP_GOOD, COUNT(e, PARAMS));
    memset(quality + rgp_image_actuator_slot(e->image, 0), RGP_GOOD, COUNT(e, ACTUATORS) + COUNT(e, STATES));
}

/* Settings that a parameter sets begin as they lie in the image; the parameters are put in behind that. */
void rgp__begin_live(rgp_engine *e)
{
    memcpy(part_live(e), rgp_image_at(e->image, RGP_SECTION_LIVE_CONFIGS), 4 * COUNT(e, LIVE_CONFIGS));
}

/* A loop waits for its condition until that is known. */
static void begin_loops(rgp_engine *e)
{
    const rgp_image_loop *loop = image_LOOPS(e);
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        const uint8_t waits = loop[i].condition != RGP_REF_NONE ? RGP_NEWS_STOPPED : 0;
        *link_of(e, &loop[i]) = (rgp_loop_link){.driven = image_ACTUATORS(e)[loop[i].actuator].rest,
                                                .news = (uint8_t)(RGP_NEWS_TAKEN | waits)};
    }
}

/* In this order: the program first, since resetting it clears the links of the loops, which are then made; parameters
 * last, since putting one in tells the loops. */
void rgp__begin_states(rgp_engine *e)
{
    e->program->reset(e);
    begin_loops(e);
    for (uint32_t i = 0; i < COUNT(e, PARAMS); i++) {
        part_value(e)[i] = image_PARAMS(e)[i].initial;
        rgp__engine_put_param(e, (uint16_t)i, image_PARAMS(e)[i].initial);
    }
}

static void none(const rgp_engine *e)
{
    (void)e;
}

/* The arrays begin in the order of memory.def, each once; what none() begins is right as zeroes. */
void rgp_engine_reset(rgp_engine *e)
{
    memset(e->memory, 0, e->image->memory);
#define RGP__MEMORY(name, type, count, begin) begin(e);
#include "image/memory.def"
}

/* True when an output may differ from what its owner asks, so that outputs have to be made anew in every tick. */
static bool is_shaped(const rgp_engine *e)
{
    const rgp_image_actuator *a = image_ACTUATORS(e);
    bool shaped = part_head(e)->bound < 100.0f;
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        shaped |= a[i].guards > 0 || a[i].least > 0.0f || a[i].slew > 0.0f || a[i].longest > 0.0f || a[i].duty > 0.0f ||
                  a[i].stalls > 0;
    }
    return shaped;
}

/* Drives that are no loops, or that hang on a condition, have to be looked at in every tick. */
static bool follows_always(const rgp_engine *e)
{
    bool always = part_head(e)->hand_only || COUNT(e, DRIVES) > COUNT(e, LOOPS);
    for (uint32_t i = 0; i < COUNT(e, DRIVES); i++) {
        always |= image_DRIVES(e)[i].condition != RGP_REF_NONE;
    }
    return always;
}

/* True when a claim can end by itself. */
static bool has_timed_actions(const rgp_engine *e)
{
    uint32_t i = 0;
    while (i < COUNT(e, CLAIMS) && image_CLAIMS(e)[i].rank != RGP_RANK_TIMED) {
        i++;
    }
    return i < COUNT(e, CLAIMS);
}

/* The phases that have work in every tick, by what the image has; a phase that is not among them runs only when
 * something has made it due. Called whenever the bound or the hand changes that. */
void rgp__engine_arrange(rgp_engine *e)
{
    const struct {
        bool is;
        uint32_t due;
    } always[] = {
        {true, RGP__DUE_PACE | RGP__DUE_COMPUTE},
        {rgp__image_supervised(e->image) > 0, RGP__DUE_WATCH},
        {rgp__image_timed(e->image) > 0, RGP__DUE_EDGES | RGP__DUE_LOOPS},
        {COUNT(e, STOPS) > 0, RGP__DUE_STOPS},
        {has_timed_actions(e), RGP__DUE_CLAIMS},
        {COUNT(e, RULES) > 0, RGP__DUE_RULES},
        {COUNT(e, SEQUENCES) > 0, RGP__DUE_SEQUENCES},
        {COUNT(e, DRIVES) > 0, RGP__DUE_DRIVES},
        {follows_always(e), RGP__DUE_FOLLOW},
        {is_shaped(e), RGP__DUE_CONDITIONING | RGP__DUE_OUTPUTS},
    };
    rgp__engine_head *const head = part_head(e);
    head->always = 0;
    for (uint32_t i = 0; i < sizeof always / sizeof *always; i++) {
        head->always |= always[i].is ? always[i].due : 0;
    }
}
