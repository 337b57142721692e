/* echo (time of flight): the time there and back becomes a distance.
 *
 * Speed of sound in dry air 331.3 m/s sqrt(1 + t / 273.15), t in degrees Celsius (Laplace, 1816). An echo that never
 * came (a flight that is not positive) or that lies outside near..far is missing, not a number. */
#ifndef RIGPULSE_CONDITION_ECHO_H
#define RIGPULSE_CONDITION_ECHO_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_echo_config {
    float seconds; /* per input unit; above 0 */
    float metre;   /* output units in a metre; above 0 */
    float celsius; /* of the air; -100 to 200 */
    float near;    /* output unit; 0 or more */
    float far;     /* output unit; above near */
} rgp_echo_config;

/* RGP_E_CONFIG when a number is not finite or outside what is said above. Else RGP_OK. Only the settings are looked at.
 */
rgp_status rgp_echo_check(const rgp_echo_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_echo_fault(const rgp_echo_config *config);

/* Metres a second at so many degrees Celsius. */
float rgp_speed_of_sound(float celsius);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_echo_step(const rgp_echo_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/condition/echo.h"

#endif
