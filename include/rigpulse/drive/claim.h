/* The owner of an actuator.
 *
 * Whatever wants an actuator holds a claim on it. Claims are ranked; the highest that is active owns the
 * actuator, and when it ends the next lower one is uncovered. Nobody claims: the rest value. */
#ifndef RIGPULSE_DRIVE_CLAIM_H
#define RIGPULSE_DRIVE_CLAIM_H

#include "rigpulse/linkage.h"

#include <stdint.h>

RGP_DECLARATIONS_BEGIN

/* X(name, text), from the lowest to the highest. A stop and a guard are no claims of anyone's: the
 * engine imposes them, but who reads an owner meets them here. */
#define RGP_RANK_LIST(X)                \
    X(REST, "rest value")               \
    X(LATCH, "plain set")               \
    X(LOOP, "loop or continuous drive") \
    X(TIMED, "timed action")            \
    X(SEQUENCE, "sequence")             \
    X(HAND, "hand")                     \
    X(GUARD, "guard")                   \
    X(STOP, "stop")

enum {
#define RGP_RANK_ENUM(name, text) RGP_RANK_##name,
    RGP_RANK_LIST(RGP_RANK_ENUM)
#undef RGP_RANK_ENUM
        RGP_RANKS
};

/* The rank's words; "unknown rank" for a number that is none. */
const char *rgp_rank_text(uint8_t rank);

/* Of a claim: it is none; it drives; it is between two of its times, and asks for rest. */
enum { RGP_CLAIM_NONE, RGP_CLAIM_DRIVES, RGP_CLAIM_PAUSES };

typedef struct rgp_claim {
    uint64_t since_us, until_us;
    float value;
    uint16_t by;    /* whoever has set it last */
    uint8_t active; /* RGP_CLAIM_... */
    uint8_t reserved;
} rgp_claim;

/* The index of the first active claim of `count`, which stand in falling rank; `count` when none is. */
static inline uint32_t rgp_claim_owner(const rgp_claim *claim, uint32_t count)
{
    uint32_t i = 0;
    while (i < count && !claim[i].active) {
        i++;
    }
    return i;
}

RGP_DECLARATIONS_END

#endif
