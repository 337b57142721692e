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
#define RGP_QUALITY_LIST(X)                   \
    X(GOOD, "good", "good")                   \
    X(HELD, "held", "held")                   \
    X(LEARNING, "learning", "still learning") \
    X(LATE, "late", "late")                   \
    X(STUCK, "stuck", "stuck")                \
    X(JUMP, "jump", "impossible jump")        \
    X(PINNED, "pinned", "pinned at a rail")   \
    X(OUT_OF_RANGE, "range", "out of range")  \
    X(MISSING, "missing", "missing")

enum {
#define RGP_QUALITY_ENUM(name, word, text) RGP_##name,
    RGP_QUALITY_LIST(RGP_QUALITY_ENUM)
#undef RGP_QUALITY_ENUM
        RGP_QUALITIES
};

typedef uint8_t rgp_quality;

typedef struct rgp_reading {
    float value;
    rgp_quality quality;
} rgp_reading;

/* The quality in one word of at most eight letters ("range"); "?" for a number that is none. */
const char *rgp_quality_word(rgp_quality quality);

/* The quality's words ("out of range"); "unknown quality" for a number that is none. */
const char *rgp_quality_text(rgp_quality quality);

static inline bool rgp_usable(rgp_quality quality)
{
    return quality <= RGP_HELD;
}

static inline rgp_quality rgp_worst(rgp_quality a, rgp_quality b)
{
    return a > b ? a : b;
}

/* A reading made of its parts. */
static inline rgp_reading rgp_reading_of(float value, rgp_quality quality)
{
    rgp_reading reading;
    reading.value = value;
    reading.quality = quality;
    return reading;
}

static inline rgp_reading rgp_good(float value)
{
    return rgp_reading_of(value, RGP_GOOD);
}

RGP_DECLARATIONS_END

#endif
