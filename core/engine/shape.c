#include "shape.h"

#include "rigpulse/drive.h"
#include "tell.h"

/* What the owner asks, with enough power to move, and no faster than it may change. */
static float slewed(rp_engine *e, uint32_t i, const rp_image_actuator *a, float dt)
{
    float value = rp_least(e->wanted[i], a->least);
    if (e->stopped) {
        value = a->rest;
    } else if (a->slew > 0.0f) {
        value = rp_slew(value, e->shaped[i], a->slew * dt);
    }
    e->shaped[i] = value;
    return value;
}

/* At rest once it has been driven for its longest, until nobody asks for anything else. */
static float relieved(rp_engine *e, uint32_t i, const rp_image_actuator *a, float value, float dt)
{
    if (e->wanted[i] == a->rest || e->stopped) {
        e->driven_for[i] = 0.0f;
        return value;
    }
    if (e->driven_for[i] >= 0.0f && e->value[e->actuator_slot + i] != a->rest) {
        e->driven_for[i] += dt;
        if (e->driven_for[i] > a->longest) {
            e->driven_for[i] = -1.0f;
            tell(e, RP_EVENT_SPENT, 0, i, a->longest);
        }
    }
    return e->driven_for[i] < 0.0f ? a->rest : value;
}

/* The nearest that all guards allow; the rest value when they allow nothing together. */
static float guarded(rp_engine *e, const rp_image_actuator *a, float value)
{
    float low = a->low, high = a->high;
    bool rests = false;
    for (uint32_t g = a->first_guard; g < (uint32_t)a->first_guard + a->guards; g++) {
        const rp_image_guard *guard = &e->guard[g];
        const rp_reading condition = rp_engine_value(e, guard->condition);
        const bool holds = condition.value != 0.0f || !rp_usable(condition.quality);
        const float limit = guard->side == RP_GUARD_REST ? a->rest : read_ref(e, guard->limit).value;
        const bool changes = holds && (guard->side == RP_GUARD_ABOVE   ? value > limit
                                       : guard->side == RP_GUARD_BELOW ? value < limit
                                                                       : value != limit);
        if (holds && guard->side == RP_GUARD_ABOVE && limit < high) {
            high = limit;
        } else if (holds && guard->side == RP_GUARD_BELOW && limit > low) {
            low = limit;
        }
        rests |= holds && guard->side == RP_GUARD_REST;
        if (changes && !e->guarding[g]) {
            tell(e, RP_EVENT_GUARD, 0, g, limit);
        }
        e->guarding[g] = changes;
    }
    return rests || low > high ? a->rest : rp_limit(value, low, high);
}

/* Guards come last, and what they change takes the slew along. */
void rp_engine_shape(rp_engine *e)
{
    const uint64_t passed = e->ticks > 0 ? e->now_us - e->shaped_us : e->image->tick_us;
    const float dt = (float)passed * 1e-6f;
    e->shaped_us = e->now_us;
    for (uint32_t i = 0; i < e->actuators; i++) {
        const rp_image_actuator *a = &e->actuator[i];
        const float asked = slewed(e, i, a, dt);
        float value = a->longest > 0.0f ? relieved(e, i, a, asked, dt) : asked;
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
    const rp_image_drive *drive = rp_image_at(e->image, RP_SECTION_DRIVES);
    for (uint32_t i = 0; i < rp_image_count(e->image, RP_SECTION_DRIVES); i++) {
        const rp_reading value = rp_engine_value(e, drive[i].value);
        e->claim_active[drive[i].claim] = rp_usable(value.quality) && !e->blocked[e->rules + i];
        e->claim_until[drive[i].claim] = UINT64_MAX;
        e->claim_value[drive[i].claim] = value.value;
    }
}
