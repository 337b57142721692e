/* A reading is a number and how far it can be trusted.
 *
 * "Missing" is a quality, never a NaN: no NaN or infinity is ever stored in a reading. */
#ifndef RIGPULSE_READING_H
#define RIGPULSE_READING_H

#include "rigpulse/linkage.h"

#include <stdbool.h>
#include <stdint.h>

RGP_DECLARATIONS_BEGIN

/* X(name, word, text), in rising severity: the worst of two qualities is the greater number.
 * Everything up to HELD may be used; the rest is bad. */
#define RGP_QUALITY_LIST(X)                                                                                  \
    X(GOOD, "good", "good")                   /* measured, and in order */                                   \
    X(HELD, "held", "held")                   /* an older one stands in for it, on purpose */                \
    X(LEARNING, "learning", "still learning") /* what it is computed with is not known yet */                \
    X(LATE, "late", "late")                   /* no new one has come for too long */                         \
    X(STUCK, "stuck", "stuck")                /* it has not changed for longer than it can */                \
    X(JUMP, "jump", "impossible jump")        /* it has changed faster than it can */                        \
    X(PINNED, "pinned", "pinned at a rail")   /* it stands at an end of what can be measured */              \
    X(OUT_OF_RANGE, "range", "out of range")  /* it lies where it cannot be, or no number can be computed */ \
    X(MISSING, "missing", "missing")          /* there is none */

enum {
#define RGP_QUALITY_ENUM(name, word, text) RGP_##name,
    RGP_QUALITY_LIST(RGP_QUALITY_ENUM)
#undef RGP_QUALITY_ENUM
        RGP_QUALITIES
};

/* One of those; a byte, so that arrays of them are small. */
typedef uint8_t rgp_quality;

/* Passed by value everywhere: eight bytes, two registers. */
typedef struct rgp_reading {
    float value;         /* in the unit of whoever has made it; never NaN, never infinite */
    rgp_quality quality; /* RGP_GOOD, ... */
} rgp_reading;

/* The quality in one word of at most eight letters ("range"); "?" for a number that is none. */
const char *rgp_quality_word(rgp_quality quality);

/* The quality's words ("out of range"); "unknown quality" for a number that is none. */
const char *rgp_quality_text(rgp_quality quality);

/* True up to HELD: a decision may be made by it. */
static inline bool rgp_usable(rgp_quality quality);

/* The quality of what is made of two readings: it is trusted no further than the worse one. */
static inline rgp_quality rgp_worst(rgp_quality a, rgp_quality b);

/* A reading made of its parts. */
static inline rgp_reading rgp_reading_of(float value, rgp_quality quality);

/* A number that nobody doubts, such as a constant. */
static inline rgp_reading rgp_good(float value);

RGP_DECLARATIONS_END

#include "rigpulse/inside/reading.h"

#endif
