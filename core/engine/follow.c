/* Continuous drives: their claims take the values that they follow. */
#include "params.h"
#include "phase.h"

/* Loops that all go on, and nothing else that could want their actuators: each has left in its link what it drives. */
static void drive_unchanged_loops(const rgp_engine *e)
{
    const rgp_image_loop *loop = image_LOOPS(e), *const end = loop + COUNT(e, LOOPS);
    const rgp_image_actuator *const actuator = image_ACTUATORS(e);
    rgp_claim *const claim = part_claim(e);
    float *const value = part_value(e) + rgp_image_actuator_slot(e->image, 0);
    unsigned char *const states = part_states(e);
    for (; loop < end; loop++) {
        const rgp_image_actuator *a = &actuator[loop->actuator];
        rgp_loop_link *const link = (void *)(states + loop->state);
        const float driven = rgp_limit(link->driven, a->low, a->high);
        link->driven = claim[loop->claim].value = value[loop->actuator] = driven;
    }
}

/* A value that cannot be trusted drives nothing. Where nothing is shaped and the owner stays the same, its output
 * follows at once. */
static void follow_one(const rgp_engine *e, const rgp_image_drive *drive, bool held, bool shaped)
{
    const rgp_image_actuator *a = &image_ACTUATORS(e)[drive->actuator];
    rgp_claim *const claim = &part_claim(e)[drive->claim];
    const rgp_reading asked = rgp_engine_value(e, drive->value);
    const uint8_t drives = rgp_usable(asked.quality) && !held && is_armed(e, drive->condition);
    claim->value = asked.value;
    if (drives != claim->active) {
        claim->active = drives;
        claim->until_us = UINT64_MAX;
        make_due(e, RGP__DUE_OUTPUTS);
    } else if (!shaped && part_actuator(e)[drive->actuator].owner == drive->claim) {
        part_value(e)[rgp_image_actuator_slot(e->image, drive->actuator)] = rgp_limit(asked.value, a->low, a->high);
    }
}

/* Two ways to one result: while every loop simply goes on and no output has to be chosen, what the loops have left is
 * all there is to do; a test holds the two against each other bit for bit. */
void rgp__phase_follow(rgp_engine *e)
{
    rgp__engine_head *const head = part_head(e);
    if (!((head->always | head->due) & (RGP__DUE_OUTPUTS | RGP__DUE_FOLLOW))) {
        drive_unchanged_loops(e);
        return;
    }
    head->due &= ~(uint32_t)RGP__DUE_FOLLOW;
    const rgp_image_drive *const drive = image_DRIVES(e);
    const bool shaped = head->always & RGP__DUE_CONDITIONING;
    for (uint32_t i = 0; i < COUNT(e, DRIVES); i++) {
        follow_one(e, &drive[i], part_held_drive(e)[i], shaped);
    }
    make_due(e, RGP__DUE_LOOPS);
}
