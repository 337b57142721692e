/* equals (equality of names): 1 while a named value (a band, a switch) is the one asked for, else 0.
 *
 * Names are whole numbers in floats, so that they compare exactly. With a bad reading the answer is as bad; known asks
 * whether that is so, and its own answer is always good. */
#ifndef RIGPULSE_DETECT_EQUALS_H
#define RIGPULSE_DETECT_EQUALS_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

/* The settings: the caller's, and only read. */
typedef struct rgp_equals_config {
    float number; /* of the name: a band counted from 0, or 0 and 1 for a switch */
} rgp_equals_config;

/* RGP_E_CONFIG when the number is not finite. A constant, which lives for ever. */
static inline const char *rgp_equals_fault(const rgp_equals_config *c);

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
static inline rgp_status rgp_equals_check(const rgp_equals_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_equals_step(const rgp_equals_config *config, rgp_reading in);

/* known: whether a value can be used at all. Its answer is always good. */
typedef struct rgp_known_config {
    uint32_t reserved; /* 0 */
} rgp_known_config;

/* RGP_E_CONFIG unless the reserved field is 0. A constant, which lives for ever. */
static inline const char *rgp_known_fault(const rgp_known_config *c);

/* RGP_E_CONFIG when a setting is outside its range, else RGP_OK. Only the settings are looked at. */
static inline rgp_status rgp_known_check(const rgp_known_config *config);

/* The result, and how far it can be trusted: no further than what goes in.
 *
 * Time: constant. Memory: that of its arguments alone. Threads: any. */
static inline rgp_reading rgp_known_step(const rgp_known_config *config, rgp_reading in);

RGP_DECLARATIONS_END

#include "rigpulse/inside/detect/equals.h"

#endif
