/* limit (travel limit): keeps what is asked within the actuator's travel. */
#ifndef RIGPULSE_DRIVE_LIMIT_H
#define RIGPULSE_DRIVE_LIMIT_H

static inline float rgp_limit(float asked, float low, float high)
{
    if (asked < low) {
        return low;
    }
    return asked > high ? high : asked;
}

#endif
