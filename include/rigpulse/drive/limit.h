/* limit: keeps a command within the actuator's travel. */
#ifndef RIGPULSE_DRIVE_LIMIT_H
#define RIGPULSE_DRIVE_LIMIT_H

static inline float rp_limit(float command, float low, float high)
{
    if (command < low) {
        return low;
    }
    return command > high ? high : command;
}

#endif
