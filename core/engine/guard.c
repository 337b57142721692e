/* Guards have the last word, behind what lets an actuator rest that has been driven for long enough. */
#include "phase.h"
#include "relief.h"

#include "rigpulse/drive.h"

/* True when another actuator is driven that must not be driven together with this one. Those before it in the image
 * have been shaped in this tick already, those behind it stand as they were written last: so of two that begin together
 * the first goes ahead, and never both. */
static bool locked(const rgp_engine *e, const rgp_image_guard *guard)
{
    return e->value[rgp_image_actuator_slot(e->image, guard->condition)] != image_ACTUATORS(e)[guard->condition].rest;
}

/* The nearest that all guards allow; the rest value when they allow nothing together. */
static float guarded(rgp_engine *e, const rgp_image_actuator *a, float value)
{
    float low = a->low, high = a->high;
    bool rests = false;
    for (uint32_t g = a->first_guard; g < (uint32_t)a->first_guard + a->guards; g++) {
        const rgp_image_guard *guard = &image_GUARDS(e)[g];
        const bool limits = guard->side == RGP_GUARD_ABOVE || guard->side == RGP_GUARD_BELOW;
        const bool with = guard->side == RGP_GUARD_WITH;
        const rgp_reading condition = with ? rgp_good(locked(e, guard)) : rgp_engine_value(e, guard->condition);
        const bool holds = condition.value != 0.0f || !rgp_usable(condition.quality);
        const float limit = limits ? read_ref(e, guard->limit).value : a->rest;
        const bool changes = holds && (guard->side == RGP_GUARD_ABOVE   ? value > limit
                                       : guard->side == RGP_GUARD_BELOW ? value < limit
                                                                        : value != limit);
        if (holds && guard->side == RGP_GUARD_ABOVE && limit < high) {
            high = limit;
        } else if (holds && guard->side == RGP_GUARD_BELOW && limit > low) {
            low = limit;
        }
        rests |= holds && !limits;
        if (changes != part_guarding(e)[g]) {
            raise_event(e, RGP_EVENT_GUARD, !changes, g, limit);
        }
        part_guarding(e)[g] = changes;
    }
    return rests || low > high ? a->rest : rgp_limit(value, low, high);
}

/* The slew of an actuator goes on from the value that a guard has let through. */
void rgp__phase_guard(rgp_engine *e)
{
    float *const value = part_value(e) + rgp_image_actuator_slot(e->image, 0);
    rgp__actuator_state *const is = part_actuator(e);
    for (uint32_t i = 0; i < COUNT(e, ACTUATORS); i++) {
        value[i] = guarded(e, &image_ACTUATORS(e)[i], rgp__engine_relieve(e, i, is[i].shaped));
        if (value[i] != is[i].shaped) {
            is[i].owner = RGP_OWNER_GUARD;
            is[i].shaped = value[i];
        }
    }
}
