/* The port contract: all that hardware must offer. Whoever fulfils this page can carry a rig.
 *
 * Channels are numbered as the rig declares them: sensors from 0, actuators from 0. All calls come from the one thread
 * that ticks. Only sleep_until() may wait; the others, taken together, have to leave most of a tick's time, and a port
 * whose device answers later than that hands out what it has and asks beside. Entries marked optional may be NULL. New
 * entries go to the end and raise the version.
 *
 * What was written last stays when nobody calls any more. A process that is killed at once (SIGKILL), or a machine that
 * fails, brings nothing to rest: a watchdog that alive() feeds does, or a second process that sees the first one go. */
#ifndef RIGPULSE_PORT_H
#define RIGPULSE_PORT_H

#include "rigpulse/linkage.h"
#include "rigpulse/reading.h"
#include "rigpulse/status.h"

RGP_DECLARATIONS_BEGIN

#define RGP_PORT_VERSION 5u /* of this contract */

/* A channel's reading: the bare number of the converter, counter or switch (0 or 1), and when it was
 * taken. The port says RGP_GOOD or RGP_MISSING; finer judgement is the engine's. A sensor may be slower than the tick:
 * what it has said before already is no new reading, and only the port knows. */
typedef struct rgp_sample {
    uint64_t time_us;    /* on the port's clock */
    int32_t raw;         /* what the channel gives, before it is judged */
    rgp_quality quality; /* RGP_GOOD or RGP_MISSING */
    uint8_t same; /* 0: a new sample; 1: the one that was handed out last, again. The time decides nothing in this */
} rgp_sample;

/* A change of a switch, with the moment it happened. */
typedef struct rgp_port_edge {
    uint64_t time_us; /* on the port's clock */
    uint32_t rising;  /* 1: to on; 0: to off */
} rgp_port_edge;

/* A channel, as the rig declares it. */
typedef struct rgp_port_channel {
    const char *name;  /* as the rig file calls it, "" where the image carries no names; lives as long as the image */
    uint16_t index;    /* among the sensors, or among the actuators */
    uint16_t actuator; /* 1; 0: a sensor */
    uint32_t kind;     /* RGP_ACTUATOR_... or RGP_SENSOR_..., of rigpulse/image.h */
    float low, high;   /* of a sensor: the raw numbers between which it is believed; of an actuator: its travel */
    float rest;        /* of an actuator: what is written when nobody asks */
} rgp_port_channel;

/* The page itself. The engine keeps no pointer to it: it is handed to rgp_engine_tick() and rgp_engine_rest(), and
 * belongs to the caller. No entry may be called by anyone else while a tick runs, but for rest_now. */
typedef struct rgp_port {
    uint32_t version; /* RGP_PORT_VERSION */
    void *self;       /* handed to every call */

    /* Microseconds since the port started; never goes back. */
    uint64_t (*now)(void *self);

    /* Returns at time_us or later. Actuators keep what was written last. Interrupted: RGP_OK, early. */
    rgp_status (*sleep_until)(void *self, uint64_t time_us);

    /* The newest sample of a sensor. A sensor that does not answer is RGP_OK with quality RGP_MISSING;
     * RGP_E_PORT means that the port itself is lost. */
    rgp_status (*read)(void *self, uint16_t sensor, rgp_sample *sample);

    /* Optional. Moves up to `room` edges of a switch that happened up to `until_us`, oldest first, into
     * `edge`; *count says how many, *lost how many overflowed since the last call. */
    rgp_status (*edges)(void *self, uint16_t sensor, uint64_t until_us, rgp_port_edge *edge, uint16_t room,
                        uint16_t *count, uint32_t *lost);

    /* Drives an actuator: percent, or 0 and 1 for a switch. Always within the declared travel. RGP_E_PORT: the port is
     * lost, and everything rests. Any other failure is of this actuator alone: the rig goes on without it, and tries
     * again to bring it to rest; the first write that succeeds ends that. */
    rgp_status (*write)(void *self, uint16_t actuator, float value);

    /* Optional. RGP_OK while the port is well. Asked once a tick. */
    rgp_status (*health)(void *self);

    /* Optional. Drives every actuator to rest at once, when the process is about to die: it may be called from a signal
     * handler, in any thread and at any moment, also within another call of this page. It takes no memory and no lock.
     */
    void (*rest_now)(void *self);

    /* Optional. Called once before the reads of a tick: it fetches what several channels give in one transfer, and
     * read() hands that out. RGP_E_PORT means that the port is lost. */
    rgp_status (*gather)(void *self);

    /* Optional. Called once behind the writes of a tick, and when all is brought to rest: what was written takes effect
     * now, together. RGP_E_PORT means that the port is lost. */
    rgp_status (*commit)(void *self);

    /* Optional. Called when a tick is over that has taken less than its time, and nothing of it failed: for a watchdog
     * that brings everything to rest when nobody calls any more. */
    void (*alive)(void *self);

    /* Optional. Called by rgp_engine_connect() once for each channel, before the first tick: the port finds it by its
     * name, and may heed what the rig says of it. RGP_E_INDEX: it has no such channel; RGP_E_UNSUPPORTED: not one of
     * this kind. */
    rgp_status (*open)(void *self, const rgp_port_channel *channel);

    /* Microseconds. An output that has not changed is written again after so long, for devices that forget it or rest
     * when they hear nothing; 0: in every tick. A changed one is written in its tick. */
    uint64_t repeat_us;
} rgp_port;

RGP_DECLARATIONS_END

#endif
