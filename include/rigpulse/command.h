/* Commands to a running rig, from outside: what a person, a script or a program at the other end of a wire may ask of
 * it. Each counts from the beginning of one tick on, and stands in the recording with that tick. */
#ifndef RIGPULSE_COMMAND_H
#define RIGPULSE_COMMAND_H

#include "rigpulse/engine.h"

/* X(name, word): what `which` and `value` mean is said beside each. Those from DISTURB on are for the world around the
 * rig, and only a simulated one obeys them. */
#define RP_COMMAND_LIST(X)                                                                                         \
    X(SET, "set")         /* which: parameter; value: in its unit */                                               \
    X(HAND, "hand")       /* which: actuator; value: what the hand drives it with */                               \
    X(HOLD, "hold")       /* likewise; it lets go by itself unless it is asked again within `seconds` */           \
    X(RELEASE, "release") /* which: actuator */                                                                    \
    X(STOP, "stop")       /* everything to rest */                                                                 \
    X(RESUME, "resume")                                                                                            \
    X(CLEAR, "clear")     /* faults are forgotten */                                                               \
    X(RELEARN, "relearn") /* which: slot */                                                                        \
    X(BOUND, "bound")     /* value: percent of its travel to which everything is driven at most; 0: no limit */    \
    X(DISTURB, "disturb") /* which: disturbance of the hook-up */                                                  \
    X(PLACE, "place")     /* which: sensor; value: to which a hand brings what it sees, in the unit of the hand */ \
    X(LET_GO, "let go")   /* which: sensor; that hand lets go */                                                   \
    X(PACE, "pace")       /* value: so many times as fast as the wall clock */

typedef enum rp_command_kind {
#define RP_COMMAND_ENUM(name, word) RP_COMMAND_##name,
    RP_COMMAND_LIST(RP_COMMAND_ENUM)
#undef RP_COMMAND_ENUM
        RP_COMMANDS
} rp_command_kind;

/* Whoever has asked. */
typedef enum rp_author { RP_BY_PERSON, RP_BY_SCRIPT, RP_AUTHORS } rp_author;

typedef struct rp_command {
    uint8_t what; /* RP_COMMAND_... */
    uint8_t by;   /* RP_BY_... */
    uint16_t which;
    float value;
    float seconds; /* of HOLD; else 0 */
} rp_command;

/* The words ("set", "person"); "?" for a number that is none. */
const char *rp_command_word(uint8_t what);
const char *rp_author_word(uint8_t by);

/* RP_OK when the rig could obey it: there is such a thing, and the value is one that it can have. RP_E_INDEX,
 * RP_E_RANGE. */
rp_status rp_command_check(const rp_image_header *image, const rp_command *command);

/* Between ticks: the engine obeys. A HOLD is a HAND; to end it is the caller's. RP_E_INDEX for what is not the
 * engine's; else what rp_engine_set() and its like return. */
rp_status rp_command_obey(rp_engine *engine, const rp_command *command);

#endif
