/* A reading is a number and how far it can be trusted.
 *
 * "Missing" is a quality, never a NaN: no NaN or infinity is ever stored in a reading. */
#ifndef RIGPULSE_READING_H
#define RIGPULSE_READING_H

#include <stdbool.h>
#include <stdint.h>

/* X(name, word, text), in rising severity: the worst of two qualities is the greater number.
 * Everything up to HELD may be used; the rest is bad. */
#define RP_QUALITY_LIST(X)                    \
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
#define RP_QUALITY_ENUM(name, word, text) RP_##name,
    RP_QUALITY_LIST(RP_QUALITY_ENUM)
#undef RP_QUALITY_ENUM
        RP_QUALITIES
};

typedef uint8_t rp_quality;

typedef struct rp_reading {
    float value;
    rp_quality quality;
} rp_reading;

/* The quality in one word of at most eight letters ("range"); "?" for a number that is none. */
const char *rp_quality_word(rp_quality quality);

/* The quality's words ("out of range"); "unknown quality" for a number that is none. */
const char *rp_quality_text(rp_quality quality);

static inline bool rp_usable(rp_quality quality)
{
    return quality <= RP_HELD;
}

static inline rp_quality rp_worst(rp_quality a, rp_quality b)
{
    return a > b ? a : b;
}

static inline rp_reading rp_good(float value)
{
    return (rp_reading){value, RP_GOOD};
}

#endif
