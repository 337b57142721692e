/* Commands to a running rig, from outside: what a person, a script or a program at the other end of a wire may ask of
 * it. Each counts from the beginning of one tick on, and stands in the recording with that tick. */
#ifndef RIGPULSE_COMMAND_H
#define RIGPULSE_COMMAND_H

#include "rigpulse/engine.h"
#include "rigpulse/linkage.h"

RGP_DECLARATIONS_BEGIN

/* X(name, word): what `which` and `value` mean is said beside each. Those from DISTURB on are for the world around the
 * rig, and only a simulated one obeys them. */
#define RGP_COMMAND_LIST(X)                                                                                        \
    X(SET, "set")         /* which: parameter; value: in its unit */                                               \
    X(HAND, "hand")       /* which: actuator; value: what the hand drives it with */                               \
    X(HOLD, "hold")       /* likewise; it lets go by itself unless it is asked again within `seconds` */           \
    X(RELEASE, "release") /* which: actuator */                                                                    \
    X(STOP, "stop")       /* everything to rest */                                                                 \
    X(RESUME, "resume")                                                                                            \
    X(CLEAR, "clear")     /* faults are forgotten */                                                               \
    X(RELEARN, "relearn") /* which: slot */                                                                        \
    X(BOUND, "bound")     /* value: percent of its travel to which everything is driven at most; 0: no limit */    \
    X(LOSE, "lose")       /* which: actuator that its port cannot drive any more */                                \
    X(REGAIN, "regain")   /* which: actuator that it can drive again */                                            \
    X(DISTURB, "disturb") /* which: disturbance of the hook-up */                                                  \
    X(PLACE, "place")     /* which: sensor; value: to which a hand brings what it sees, in the unit of the hand */ \
    X(LET_GO, "let go")   /* which: sensor; that hand lets go */                                                   \
    X(PACE, "pace")       /* value: so many times as fast as the wall clock */

typedef enum rgp_command_kind {
#define RGP_COMMAND_ENUM(name, word) RGP_COMMAND_##name,
    RGP_COMMAND_LIST(RGP_COMMAND_ENUM)
#undef RGP_COMMAND_ENUM
        RGP_COMMANDS
} rgp_command_kind;

/* Whoever has asked. */
typedef enum rgp_author { RGP_BY_PERSON, RGP_BY_SCRIPT, RGP_BY_PORT, RGP_AUTHORS } rgp_author;

typedef struct rgp_command {
    uint8_t what;   /* RGP_COMMAND_... */
    uint8_t by;     /* RGP_BY_... */
    uint16_t which; /* what it is about, as its kind says */
    float value;    /* in the unit that its kind says */
    float seconds;  /* of HOLD; else 0 */
} rgp_command;

/* The words ("set", "person", "port"); "?" for a number that is none. */
const char *rgp_command_word(uint8_t what);
const char *rgp_author_word(uint8_t by);

/* RGP_OK when the rig could obey it: there is such a thing, and the value is one that it can have. RGP_E_INDEX,
 * RGP_E_RANGE. */
rgp_status rgp_command_check(const rgp_image_header *image, const rgp_command *command);

/* Between ticks: the engine obeys. A HOLD is a HAND; to end it is the caller's. RGP_E_INDEX for what is not the
 * engine's; else what rgp_engine_set() and its like return. */
rgp_status rgp_command_obey(rgp_engine *engine, const rgp_command *command);

RGP_DECLARATIONS_END

#endif
