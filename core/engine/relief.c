#include "relief.h"

#define MILLION     1000000
#define PASSED_MOST 1000000000000 /* us: a clock that jumps further has brought all back, or used all up, anyway */

/* The duty in parts per million, to the nearest, but not 0. */
static int64_t duty_of(const rp_image_actuator *a)
{
    const int64_t duty = (int64_t)(a->duty * 1e6f + 0.5f);
    return duty > 0 ? duty : 1;
}

int64_t rp_engine_credit(const rp_image_actuator *a)
{
    const int64_t duty = duty_of(a), window_us = (int64_t)rp_microseconds(a->window);
    return duty * (window_us / MILLION) * (MILLION - duty) + duty * (window_us % MILLION) / MILLION * (MILLION - duty);
}

/* True when the actuator has been driven for the stated time without what it should move having moved by the stated
 * amount; a bad reading counts as no movement. */
static bool stalls(rp_engine *e, const rp_image_actuator *a, bool driven)
{
    const rp_image_stall *stall = image_STALLS(e);
    rp_stall_state *const is = part_stall(e);
    for (uint32_t s = a->first_stall; s < (uint32_t)a->first_stall + a->stalls; s++) {
        const rp_reading seen = rp_engine_value(e, stall[s].value);
        const float way = seen.value - is[s].at;
        if (!driven || (rp_usable(seen.quality) && (way >= stall[s].amount || -way >= stall[s].amount))) {
            is[s] = (rp_stall_state){.at = seen.value};
            continue;
        }
        is[s].still_us += part_head(e)->passed_us;
        if (is[s].still_us > rp_microseconds(stall[s].time)) {
            is[s].still_us = 0;
            tell(e, RP_EVENT_STALLED, 0, s, stall[s].time);
            return true;
        }
    }
    return false;
}

/* The actuator goes to rest, without its slew, once what was written has been away from rest for its longest, or when
 * it stalls; it may leave again when nobody asks for anything else than rest any more. */
static float relieved(rp_engine *e, uint32_t i, const rp_image_actuator *a, float value, bool driven)
{
    const rp_engine_head *const head = part_head(e);
    rp_actuator_state *const is = &part_actuator(e)[i];
    if (is->relief & RP_RELIEF_SPENT) {
        if (is->wanted != a->rest && !head->stopped) {
            return a->rest;
        }
        is->relief &= (uint8_t)~RP_RELIEF_SPENT;
    }
    is->driven_us = driven ? is->driven_us + head->passed_us : 0;
    const bool stalled = stalls(e, a, driven);
    const bool spent = a->longest > 0.0f && is->driven_us > rp_microseconds(a->longest);
    if (spent) {
        tell(e, RP_EVENT_SPENT, 0, i, a->longest);
    }
    if (spent || stalled) {
        is->relief |= RP_RELIEF_SPENT;
        is->driven_us = 0;
    }
    return spent || stalled ? a->rest : value;
}

/* Being driven uses up the credit of its duty, resting brings it back; once it is used up all of it has to come back.
 */
static float dutiful(rp_engine *e, uint32_t i, const rp_image_actuator *a, float value, bool driven)
{
    rp_actuator_state *const is = &part_actuator(e)[i];
    const uint64_t passed = part_head(e)->passed_us;
    const int64_t all = rp_engine_credit(a), duty = duty_of(a);
    const int64_t time = passed < PASSED_MOST ? (int64_t)passed : PASSED_MOST;
    const int64_t credit = is->credit + (driven ? duty - MILLION : duty) * time;
    is->credit = credit < all ? credit : all;
    if (is->relief & RP_RELIEF_TIRED) {
        is->relief &= (uint8_t) ~(is->credit < all ? 0 : RP_RELIEF_TIRED);
    } else if (is->credit <= 0 && value != a->rest) {
        is->relief |= RP_RELIEF_TIRED;
        const int64_t rests_us = (all - is->credit) / duty;
        tell(e, RP_EVENT_TIRED, 0, i, rp_seconds((uint64_t)rests_us));
    }
    return is->relief & RP_RELIEF_TIRED ? a->rest : value;
}

float rp_engine_relieve(rp_engine *e, uint32_t actuator, float value)
{
    const rp_image_actuator *a = &image_ACTUATORS(e)[actuator];
    const bool driven = e->value[rp_image_actuator_slot(e->image, actuator)] != a->rest;
    if (a->longest > 0.0f || a->stalls > 0) {
        value = relieved(e, actuator, a, value, driven);
    }
    return a->duty > 0.0f ? dutiful(e, actuator, a, value, driven) : value;
}
