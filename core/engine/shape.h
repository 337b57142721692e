/* Inside the engine: from what the owners ask to what is written; and reading a reference. */
#ifndef RIGPULSE_ENGINE_SHAPE_H
#define RIGPULSE_ENGINE_SHAPE_H

#include "rigpulse/engine.h"
#include "rigpulse/numeric.h"

static inline rp_reading read_ref(const rp_engine *e, uint16_t at)
{
    if (at & RP_REF_CONSTANT) {
        const float *constant = rp_image_at(e->image, RP_SECTION_CONSTANTS);
        return rp_good(constant[at & ~RP_REF_CONSTANT]);
    }
    return rp_engine_value(e, at);
}

/* The claims of continuous drives take their values; what cannot be trusted drives nothing. Where nothing is shaped and
 * the owner stays the same, its output follows at once. */
void rp_engine_follow(rp_engine *e);

/* Each actuator's wanted value becomes its output: bound, least power, slew, longest time, duty, stalls, guards. */
void rp_engine_shape(rp_engine *e);

/* Without a bound: only rigs whose actuators have something of their own to be shaped by go the long way. */
void rp_engine_unbound(rp_engine *e);

#define RP_MILLION 1000000

/* The duty in parts per million, to the nearest, but not 0. */
static inline int64_t rp_engine_duty(const rp_image_actuator *a)
{
    const int64_t duty = (int64_t)(a->duty * 1e6f + 0.5f);
    return duty > 0 ? duty : 1;
}

/* The duty that a rested actuator has, in microseconds times parts per million: being driven takes 1 - duty of the time
 * from it, resting gives it duty of the time. From there it can be driven for duty * window at a stretch, and rests for
 * the rest of the window until it has all of it again. At most 1e6 * 1e12 / 4. */
static inline int64_t rp_engine_credit(const rp_image_actuator *a)
{
    const int64_t duty = rp_engine_duty(a), window_us = (int64_t)rp_microseconds(a->window);
    return duty * (window_us / RP_MILLION) * (RP_MILLION - duty) +
           duty * (window_us % RP_MILLION) / RP_MILLION * (RP_MILLION - duty);
}

/* The number written for a value: turned round where the actuator is inverted. */
float rp_engine_written(const rp_image_actuator *a, float value);

/* A stop and its release; RP_REF_NONE: by hand. */
void rp_engine_stop_by(rp_engine *e, uint16_t stop);
void rp_engine_resume_by(rp_engine *e, uint16_t stop);

/* True when what hangs on a condition may act: a slot, or RP_REF_NONE for none. One that cannot be known is not true.
 */
static inline bool rp_engine_is_armed(const rp_engine *e, uint16_t only)
{
    return only == RP_REF_NONE || (e->value[only] != 0.0f && rp_usable(e->quality[only]));
}

#endif
