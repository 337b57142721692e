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
#define RGP_RANK_LIST(X)                                                                      \
    X(REST, "rest value")               /* nobody claims it */                                \
    X(LATCH, "plain set")               /* a set of a rule, which stands until another one */ \
    X(LOOP, "loop or continuous drive") /* what is computed in each tick */                   \
    X(TIMED, "timed action")            /* a set for a time */                                \
    X(SEQUENCE, "sequence")             /* a step of one that runs */                         \
    X(HAND, "hand")                     /* a person, or a script */                           \
    X(GUARD, "guard")                   /* it is kept from what was asked */                  \
    X(STOP, "stop")                     /* everything rests */

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

/* A claim as it stands between two ticks. Zeroed memory is a claim that nobody has made. */
typedef struct rgp_claim {
    uint64_t since_us, until_us; /* it drives, or pauses; the end of time: until it is taken back */
    float value;                 /* what it asks for, in the actuator's unit */
    uint16_t by;                 /* whoever has set it last */
    uint8_t active;              /* RGP_CLAIM_... */
    uint8_t reserved;            /* 0 */
} rgp_claim;

/* The index of the first active claim of `count`, which stand in falling rank; `count` when none is: then the actuator
 * is at rest.
 *
 * Time: at most one look at each claim. Memory: that of its arguments alone. Threads: any, while nobody changes them.
 */
static inline uint32_t rgp_claim_owner(const rgp_claim *claim, uint32_t count);

RGP_DECLARATIONS_END

#include "rigpulse/inside/drive/claim.h"

#endif
