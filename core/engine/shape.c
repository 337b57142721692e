#include "shape.h"

#include "rigpulse/drive.h"
#include "tell.h"

#define RP_PASSED_MOST 1000000000000 /* us: a clock that jumps further has brought all back, or used all up, anyway */

void rp_engine_unbound(rp_engine *e)
{
    e->bound = 100.0f;
    e->shapes = 0;
    for (uint32_t i = 0; i < e->actuators; i++) {
        const rp_image_actuator *a = &e->actuator[i];
        e->shapes |=
            a->guards > 0 || a->least > 0.0f || a->slew > 0.0f || a->longest > 0.0f || a->duty > 0.0f || a->stalls > 0;
    }
    e->wanted = e->shapes ? e->apart : e->value + e->actuator_slot;
}

/* No further from rest than the bound allows. */
static float bounded(const rp_engine *e, const rp_image_actuator *a, float value)
{
    if (e->bound >= 100.0f || a->kind != RP_ACTUATOR_NUMBER) {
        return value;
    }
    const float share = e->bound / 100.0f;
    return rp_limit(value, a->rest - share * (a->rest - a->low), a->rest + share * (a->high - a->rest));
}

/* The owner's value, with enough power to move, and no faster than it may change. A stop, and a fault where nobody
 * else drives, do not wait for that. */
static float slewed(rp_engine *e, uint32_t i, const rp_image_actuator *a, float dt)
{
    float value = bounded(e, a, rp_least(e->wanted[i], a->least));
    if (e->stopped) {
        value = a->rest;
    } else if (a->slew > 0.0f && !(e->relief[i] & RP_RELIEF_FAULT && e->owner[i] == RP_OWNER_REST)) {
        value = rp_slew(value, e->shaped[i], a->slew * dt);
    }
    e->relief[i] &= (uint8_t)~RP_RELIEF_FAULT;
    e->shaped[i] = value;
    return value;
}

/* True when the actuator has been driven for the stated time without what it should move having moved by the stated
 * amount; a bad reading counts as no movement. */
static bool stalls(rp_engine *e, const rp_image_actuator *a, bool driven, uint64_t passed)
{
    const rp_image_stall *stall = rp_image_at(e->image, RP_SECTION_STALLS);
    for (uint32_t s = a->first_stall; s < (uint32_t)a->first_stall + a->stalls; s++) {
        const rp_reading seen = rp_engine_value(e, stall[s].value);
        const float way = seen.value - e->stall[s].at;
        if (!driven || (rp_usable(seen.quality) && (way >= stall[s].amount || -way >= stall[s].amount))) {
            e->stall[s] = (rp_stall_state){0, seen.value};
            continue;
        }
        e->stall[s].still_us += passed;
        if (e->stall[s].still_us > rp_microseconds(stall[s].time)) {
            e->stall[s].still_us = 0;
            tell(e, RP_EVENT_STALLED, 0, s, stall[s].time);
            return true;
        }
    }
    return false;
}

/* The actuator goes to rest, without its slew, once what was written has been away from rest for its longest, or when
 * it stalls; it may leave again when nobody asks for anything else than rest any more. */
static float relieved(rp_engine *e, uint32_t i, const rp_image_actuator *a, float value, bool driven, uint64_t passed)
{
    if (e->relief[i] & RP_RELIEF_SPENT) {
        if (e->wanted[i] != a->rest && !e->stopped) {
            return a->rest;
        }
        e->relief[i] &= (uint8_t)~RP_RELIEF_SPENT;
    }
    e->driven_us[i] = driven ? e->driven_us[i] + passed : 0;
    const bool stalled = stalls(e, a, driven, passed);
    const bool spent = a->longest > 0.0f && e->driven_us[i] > rp_microseconds(a->longest);
    if (spent) {
        tell(e, RP_EVENT_SPENT, 0, i, a->longest);
    }
    if (spent || stalled) {
        e->relief[i] |= RP_RELIEF_SPENT;
        e->driven_us[i] = 0;
    }
    return spent || stalled ? a->rest : value;
}

/* Being driven uses up the credit of its duty, resting brings it back; once it is used up all of it has to come back.
 */
static float dutiful(rp_engine *e, uint32_t i, const rp_image_actuator *a, float value, bool driven, uint64_t passed)
{
    const int64_t all = rp_engine_credit(a), duty = rp_engine_duty(a);
    const int64_t time = passed < RP_PASSED_MOST ? (int64_t)passed : RP_PASSED_MOST;
    const int64_t credit = e->credit[i] + (driven ? duty - RP_MILLION : duty) * time;
    e->credit[i] = credit < all ? credit : all;
    if (e->relief[i] & RP_RELIEF_TIRED) {
        e->relief[i] &= (uint8_t) ~(e->credit[i] < all ? 0 : RP_RELIEF_TIRED);
    } else if (e->credit[i] <= 0 && value != a->rest) {
        e->relief[i] |= RP_RELIEF_TIRED;
        const int64_t rests_us = (all - e->credit[i]) / duty;
        tell(e, RP_EVENT_TIRED, 0, i, rp_seconds((uint64_t)rests_us));
    }
    return e->relief[i] & RP_RELIEF_TIRED ? a->rest : value;
}

/* True when another actuator is driven that must not be driven together with this one. Those before it in the image
 * have been shaped in this tick already, those behind it stand as they were written last: so of two that begin together
 * the first goes ahead, and never both. */
static bool locked(const rp_engine *e, const rp_image_guard *guard)
{
    return e->value[e->actuator_slot + guard->condition] != e->actuator[guard->condition].rest;
}

/* The nearest that all guards allow; the rest value when they allow nothing together. */
static float guarded(rp_engine *e, const rp_image_actuator *a, float value)
{
    float low = a->low, high = a->high;
    bool rests = false;
    for (uint32_t g = a->first_guard; g < (uint32_t)a->first_guard + a->guards; g++) {
        const rp_image_guard *guard = &e->guard[g];
        const bool limits = guard->side == RP_GUARD_ABOVE || guard->side == RP_GUARD_BELOW;
        const bool with = guard->side == RP_GUARD_WITH;
        const rp_reading condition = with ? rp_good(locked(e, guard)) : rp_engine_value(e, guard->condition);
        const bool holds = condition.value != 0.0f || !rp_usable(condition.quality);
        const float limit = limits ? read_ref(e, guard->limit).value : a->rest;
        const bool changes = holds && (guard->side == RP_GUARD_ABOVE   ? value > limit
                                       : guard->side == RP_GUARD_BELOW ? value < limit
                                                                       : value != limit);
        if (holds && guard->side == RP_GUARD_ABOVE && limit < high) {
            high = limit;
        } else if (holds && guard->side == RP_GUARD_BELOW && limit > low) {
            low = limit;
        }
        rests |= holds && !limits;
        if (changes != e->guarding[g]) {
            tell(e, RP_EVENT_GUARD, !changes, g, limit);
        }
        e->guarding[g] = changes;
    }
    return rests || low > high ? a->rest : rp_limit(value, low, high);
}

/* Guards come last, and what they change takes the slew along. */
void rp_engine_shape(rp_engine *e)
{
    const uint64_t passed = e->ticks > 0 ? e->now_us - e->shaped_us : e->image->tick_us;
    const float dt = rp_seconds(passed);
    e->shaped_us = e->now_us;
    for (uint32_t i = 0; i < e->actuators; i++) {
        const rp_image_actuator *a = &e->actuator[i];
        const bool driven = e->value[e->actuator_slot + i] != a->rest;
        const float asked = slewed(e, i, a, dt);
        float value = asked;
        if (a->longest > 0.0f || a->stalls > 0) {
            value = relieved(e, i, a, value, driven, passed);
        }
        if (a->duty > 0.0f) {
            value = dutiful(e, i, a, value, driven, passed);
        }
        value = guarded(e, a, value);
        if (value != asked) {
            e->owner[i] = RP_OWNER_GUARD;
            e->shaped[i] = value;
        }
        e->value[e->actuator_slot + i] = value;
    }
}

void rp_engine_follow(rp_engine *e)
{
    const rp_image_drive *drive = rp_image_at(e->image, RP_SECTION_DRIVES), *const end = drive + e->follows;
    const float *const value = e->value;
    const rp_quality *const quality = e->quality;
    const uint8_t *blocked = e->blocked + e->rules;
    float *const claimed = e->claim_value, *const wanted = e->wanted;
    uint8_t *const active = e->claim_active;
    for (; drive < end; drive++, blocked++) {
        const uint32_t claim = drive->claim, actuator = drive->actuator;
        const uint8_t drives = rp_usable(quality[drive->value]) && !*blocked && rp_engine_is_armed(e, drive->only);
        const float asked = value[drive->value];
        claimed[claim] = asked;
        if (drives != active[claim]) {
            active[claim] = drives;
            e->claim_until[claim] = UINT64_MAX;
            e->moved = 1;
        } else if (!e->shapes && e->owner[actuator] == claim) { /* nobody has to be asked */
            wanted[actuator] = rp_limit(asked, e->actuator[actuator].low, e->actuator[actuator].high);
        }
    }
}
