/* The trial of a port: whether it keeps the contract of rigpulse/port.h, as far as that can be seen from outside. For
 * the tests of a port, and for the bench, before a mechanism is connected to it: it reads every sensor, and drives
 * every actuator from its rest value a stated share of the way to the farther end of its travel and back.
 *
 * It runs on a microcontroller as well: no memory but the caller's, no time but the port's. */
#ifndef RIGPULSE_PORT_TRIAL_H
#define RIGPULSE_PORT_TRIAL_H

#include "rigpulse/linkage.h"
#include "rigpulse/port.h"

RGP_DECLARATIONS_BEGIN

/* X(name, text): what can be wrong. New ones go to the end. */
#define RGP_PORT_FAULT_LIST(X)                                                                                  \
    X(CONTRACT, "it is made for another version of the contract, or lacks now, sleep_until, read or write")     \
    X(CLOCK_BACK, "its clock went back")                                                    /* now */           \
    X(WOKE_EARLY, "sleep_until() came back before its time, and nobody has interrupted it") /* sleep_until */   \
    X(LOST, "it says that it is lost")                             /* RGP_E_PORT; then the trial ends */        \
    X(SLOW, "a call took longer than a tick")                      /* of the rig, by the port's clock */        \
    X(QUALITY, "a sample is neither good nor missing")             /* finer judgement is the engine's */        \
    X(FUTURE, "a sample is from the future")                       /* of a time behind now() */                 \
    X(SAMPLE_BACK, "a new sample is older than the one before it") /* of the same sensor */                     \
    X(NOT_SAME, "a sample that is called the same again is another one, or the first") /* number or time */     \
    X(NO_SWITCH, "a switch is neither 0 nor 1")                 /* by what the rig says of it */                \
    X(EDGES_ROOM, "more edges are told than there is room for") /* RGP_EDGES_KEPT */                            \
    X(EDGES_ORDER, "edges do not follow each other in time, or one is from behind the time that was asked for") \
    X(EDGES_TURN, "two edges in a row go the same way, and none was lost between them") /* of one switch */     \
    X(REFUSED, "a value within its travel cannot be written")                           /* of an actuator */    \
    X(NO_REST, "after rest_now() it cannot be driven again")                            /* where there is one */

typedef enum rgp_port_fault {
#define RGP_PORT_FAULT_ENUM(name, text) RGP_PORT_##name,
    RGP_PORT_FAULT_LIST(RGP_PORT_FAULT_ENUM)
#undef RGP_PORT_FAULT_ENUM
        RGP_PORT_FAULTS
} rgp_port_fault;

/* In words; a constant that lives for ever. */
const char *rgp_port_fault_text(rgp_port_fault fault);

#define RGP_PORT_NO_CHANNEL 0xFFFFu

/* The trial's memory of one sensor. The caller provides it, zeroed. */
typedef struct rgp_port_trace {
    rgp_sample last;    /* handed out before */
    uint64_t edge_us;   /* of the newest edge */
    uint8_t any, edged; /* there was one of either */
    uint8_t rising;     /* of the newest edge */
    uint8_t reserved;   /* 0 */
    uint32_t told;      /* bit i: fault i has been told of it */
} rgp_port_trace;

/* The settings of a trial. The caller owns them; the trial only reads them. */
typedef struct rgp_port_trial {
    const rgp_port *port;  /* that is tried */
    const void *image;     /* of the rig whose channels the port has; it must be sound, as rgp_image_check() says */
    uint32_t ticks;        /* for so many of the rig */
    float share;           /* 0 to 1: of the way from its rest value that an actuator is driven; 0: it only rests */
    rgp_port_trace *trace; /* by sensor, one more than there are */

    /* Called for each fault once a channel, with the channel, a sensor's or for REFUSED and SLOW of a write an
     * actuator's, or RGP_PORT_NO_CHANNEL. NULL: they are only counted. */
    void (*found)(void *self, rgp_port_fault fault, uint16_t channel);
    void *self; /* handed to it */
} rgp_port_trial;

/* The findings of a trial. It passes no verdict; a person reads them. */
typedef struct rgp_port_result {
    uint32_t faults;                   /* that were found, once a channel */
    uint32_t fresh, standing, missing; /* samples */
    uint32_t edges, lost;              /* of switches */
    uint64_t latest_us;                /* the longest that it slept beyond its time */
    uint64_t slowest_read_us;          /* the longest that a read took, */
    uint64_t slowest_write_us;         /* and a write */
} rgp_port_result;

/* Drives all to rest in the end, also when it ends early because the port is lost. RGP_OK when the port has kept the
 * contract; RGP_E_PORT when it has not; RGP_E_ARGUMENT when something of the trial is missing.
 *
 * Time: so many ticks of the rig, by the port's clock. Memory: that of its arguments alone. Threads: the one that may
 * call the port. */
rgp_status rgp_port_try(const rgp_port_trial *trial, rgp_port_result *result);

RGP_DECLARATIONS_END

#endif
