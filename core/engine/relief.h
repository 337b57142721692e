/* Inside the engine: actuators that have been driven for long enough. */
#ifndef RIGPULSE_ENGINE_RELIEF_H
#define RIGPULSE_ENGINE_RELIEF_H

#include "inside.h"

/* The value, or rest when the actuator has been driven for its longest, stalls, or has used up its duty. Goes by what
 * was written in the last tick. */
float rgp__engine_relieve(rgp_engine *e, uint32_t actuator, float value);

/* The duty that a rested actuator has, in microseconds times parts per million: being driven takes 1 - duty of the time
 * from it, resting gives it duty of the time. From there it can be driven for duty * window at a stretch, and rests for
 * the rest of the window until it has all of it again. At most 1e6 * 1e12 / 4. */
int64_t rgp__engine_credit(const rgp_image_actuator *a);

#endif
