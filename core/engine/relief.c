/* Actuators that are relieved: driven for their longest, for their duty, or with a sensor's fault. */
#include "relief.h"

#define MILLION     1000000
#define PASSED_MOST 1000000000000 /* us: a clock that jumps further has brought all back, or used all up, anyway */

/* The duty in parts per million, to the nearest, but not 0. */
static int64_t duty_of(const rgp_image_actuator *a)
{
    const int64_t duty = (int64_t)(a->duty * 1e6f + 0.5f);
    return duty > 0 ? duty : 1;
}

/* Credit is counted in microseconds times parts per million squared, so that whole numbers lose nothing: driving uses
 * (1 - duty) of it a second, resting brings back duty of it. At most 1e6 s times 1e6 times 1e6 / 4, which 63 bits hold.
 */
int64_t rgp__engine_credit(const rgp_image_actuator *a)
{
    const int64_t duty = duty_of(a), window_us = (int64_t)rgp_microseconds(a->window);
    return duty * (window_us / MILLION) * (MILLION - duty) + duty * (window_us % MILLION) / MILLION * (MILLION - duty);
}

/* True when the actuator has been driven for the stated time without what it should move having moved by the stated
 * amount; a bad reading counts as no movement. */
static bool stalls(rgp_engine *e, const rgp_image_actuator *a, bool driven)
{
    const rgp_image_stall *stall = image_STALLS(e);
    rgp__stall_state *const is = part_stall(e);
    for (uint32_t s = a->first_stall; s < (uint32_t)a->first_stall + a->stalls; s++) {
        const rgp_reading seen = rgp_engine_value(e, stall[s].value);
        const float way = seen.value - is[s].at;
        if (!driven || (rgp_usable(seen.quality) && (way >= stall[s].amount || -way >= stall[s].amount))) {
            is[s] = (rgp__stall_state){.at = seen.value};
            continue;
        }
        is[s].still_us += part_head(e)->passed_us;
        if (is[s].still_us > rgp_microseconds(stall[s].time)) {
            is[s].still_us = 0;
            raise_event(e, RGP_EVENT_STALLED, 0, s, stall[s].time);
            return true;
        }
    }
    return false;
}

/* The actuator goes to rest, without its slew, once what was written has been away from rest for its longest, or when
 * it stalls; it may leave again when nobody asks for anything else than rest any more. */
static float relieved(rgp_engine *e, uint32_t i, const rgp_image_actuator *a, float value, bool driven)
{
    const rgp__engine_head *const head = part_head(e);
    rgp__actuator_state *const is = &part_actuator(e)[i];
    if (is->relief & RGP__RELIEF_ON_TIME) {
        if (is->wanted != a->rest && !head->stopped) {
            return a->rest;
        }
        is->relief &= (uint8_t)~RGP__RELIEF_ON_TIME;
    }
    is->driven_us = driven ? is->driven_us + head->passed_us : 0;
    const bool stalled = stalls(e, a, driven);
    const bool spent = a->longest > 0.0f && is->driven_us > rgp_microseconds(a->longest);
    if (spent) {
        raise_event(e, RGP_EVENT_ON_TIME_LIMIT, 0, i, a->longest);
    }
    if (spent || stalled) {
        is->relief |= RGP__RELIEF_ON_TIME;
        is->driven_us = 0;
    }
    return spent || stalled ? a->rest : value;
}

/* Being driven uses up the credit of its duty, resting brings it back; once it is used up all of it has to come back.
 */
static float dutiful(rgp_engine *e, uint32_t i, const rgp_image_actuator *a, float value, bool driven)
{
    rgp__actuator_state *const is = &part_actuator(e)[i];
    const uint64_t passed = part_head(e)->passed_us;
    const int64_t all = rgp__engine_credit(a), duty = duty_of(a);
    const int64_t time = passed < PASSED_MOST ? (int64_t)passed : PASSED_MOST;
    const int64_t credit = is->credit + (driven ? duty - MILLION : duty) * time;
    is->credit = credit < all ? credit : all;
    if (is->relief & RGP__RELIEF_DUTY) {
        is->relief &= (uint8_t) ~(is->credit < all ? 0 : RGP__RELIEF_DUTY);
    } else if (is->credit <= 0 && value != a->rest) {
        is->relief |= RGP__RELIEF_DUTY;
        const int64_t rests_us = (all - is->credit) / duty;
        raise_event(e, RGP_EVENT_DUTY_LIMIT, 0, i, rgp_seconds((uint64_t)rests_us));
    }
    return is->relief & RGP__RELIEF_DUTY ? a->rest : value;
}

/* `driven`: by what was written in the last tick, since that is what the mechanism has felt. The duty has the last
 * word. */
float rgp__engine_relieve(rgp_engine *e, uint32_t actuator, float value)
{
    const rgp_image_actuator *a = &image_ACTUATORS(e)[actuator];
    const bool driven = e->value[rgp_image_actuator_slot(e->image, actuator)] != a->rest;
    if (a->longest > 0.0f || a->stalls > 0) {
        value = relieved(e, actuator, a, value, driven);
    }
    return a->duty > 0.0f ? dutiful(e, actuator, a, value, driven) : value;
}
