/* echo (time of flight): the time there and back becomes a distance.
 *
 * Speed of sound in dry air 331.3 m/s sqrt(1 + t / 273.15), t in degrees Celsius (Laplace, 1816). An echo that never
 * came (a flight that is not positive) or that lies outside near..far is missing, not a number. */
#ifndef RIGPULSE_CONDITION_ECHO_H
#define RIGPULSE_CONDITION_ECHO_H

#include "rigpulse/linkage.h"
#include "rigpulse/numeric.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

typedef struct rgp_echo_config {
    float seconds; /* per input unit; above 0 */
    float metre;   /* output units in a metre; above 0 */
    float celsius; /* of the air; -100 to 200 */
    float near;    /* output unit; 0 or more */
    float far;     /* output unit; above near */
} rgp_echo_config;

/* RGP_E_CONFIG when a number is not finite or outside what is said above. */
rgp_status rgp_echo_check(const rgp_echo_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. */
const char *rgp_echo_fault(const rgp_echo_config *config);

/* Metres a second at so many degrees Celsius. */
float rgp_speed_of_sound(float celsius);

static inline rgp_reading rgp_echo_step(const rgp_echo_config *config, rgp_reading in)
{
    const float distance = 0.5f * in.value * config->seconds * rgp_speed_of_sound(config->celsius) * config->metre;
    if (!(in.value > 0.0f && distance >= config->near && distance <= config->far)) {
        return rgp_reading_of(0.0f, rgp_worst(in.quality, RGP_MISSING));
    }
    return rgp_reading_of(distance, in.quality);
}

RGP_DECLARATIONS_END

#endif
