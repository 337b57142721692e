/* The engine: an image and a block of memory become ticks.
 *
 * One thread owns an engine. Nothing here allocates, blocks, or recurses; the time of a tick is bounded
 * by the image. The tick goes: readings -> signals, bands and events -> rules -> each actuator's owner ->
 * limits -> outputs. */
#ifndef RIGPULSE_ENGINE_H
#define RIGPULSE_ENGINE_H

#include "rigpulse/drive.h"
#include "rigpulse/image.h"
#include "rigpulse/port.h"
#include "rigpulse/reading.h"

/* X(name, word): what an event tells and what `source` and `value` mean is said beside each. */
#define RP_EVENT_LIST(X)                                                                                      \
    X(FIRED, "fired")       /* source: rule */                                                                \
    X(DROPPED, "dropped")   /* source: rule; reason: RP_PULSE_ACTING or RP_PULSE_HOLDOFF */                   \
    X(ENDED, "ended")       /* source: claim; a timed action is over */                                       \
    X(MARK, "mark")         /* source: action */                                                              \
    X(PARAM, "param")       /* source: param; value: the new one */                                           \
    X(SENSOR, "sensor")     /* source: sensor; reason: its new quality */                                     \
    X(HAND, "hand")         /* source: actuator; value: what the hand asks */                                 \
    X(RELEASED, "released") /* source: actuator; the hand let go */                                           \
    X(FAULT, "fault")       /* source: sensor; reason: its quality; what needs it is at rest until cleared */ \
    X(LEARNED, "learned")   /* source: slot; a zero is known; value: the offset */                            \
    X(GAVE_UP, "gave up")   /* source: slot; a zero could not be learned; value: how far it moved */          \
    X(GUARD, "guard")       /* source: guard; value: what it gives instead of what was asked */               \
    X(SPENT, "spent")       /* source: actuator; driven for its longest, and at rest until nobody asks */     \
    X(CLEARED, "cleared")   /* the faults are forgotten */                                                    \
    X(STOPPED, "stopped")   /* everything to rest */                                                          \
    X(RESUMED, "resumed")

enum {
#define RP_EVENT_ENUM(name, word) RP_EVENT_##name,
    RP_EVENT_LIST(RP_EVENT_ENUM)
#undef RP_EVENT_ENUM
        RP_EVENTS
};

typedef struct rp_event {
    uint8_t kind;
    uint8_t reason;
    uint16_t source;
    float value;
} rp_event;

/* The event's word ("fired"); "?" for a number that is none. */
const char *rp_event_word(uint8_t kind);

/* Told of each event as it happens, within the tick. Must not call the engine back. */
typedef void rp_event_listener(void *self, const rp_event *event);

#define RP_OWNER_REST  0xFFFFu /* nobody claims the actuator */
#define RP_OWNER_STOP  0xFFFEu /* a stop holds it at rest */
#define RP_OWNER_GUARD 0xFFFDu /* a guard keeps it from what its owner asks, or it has been driven for its longest */

/* Open, so that the caller can place it; read it freely, change it only through the functions. */
typedef struct rp_engine {
    const rp_image_header *image;

    /* in the image, looked up once */
    const rp_image_sensor *sensor;
    const rp_image_actuator *actuator;
    const rp_image_action *action;
    const rp_image_rule *rule;
    const rp_image_guard *guard;
    uint16_t sensors, actuators, rules, claims;
    uint16_t vetted;                     /* sensors that are */
    uint16_t zeros;                      /* that have not been told of yet */
    uint16_t sensor_slot, actuator_slot; /* the first of each */

    /* in the caller's memory block */
    float *value;        /* by slot */
    rp_quality *quality; /* by slot */
    int32_t *raw;        /* by sensor */
    uint64_t *claim_until;
    float *claim_value;
    uint8_t *claim_active;
    uint16_t *claim_by;    /* the rule that has set it last */
    uint16_t *owner;       /* by actuator: a claim, or RP_OWNER_... */
    rp_pulse_state *pulse; /* by rule */
    uint8_t *blocked;      /* by rule, then by drive: 1 while a sensor that it needs has a fault */
    rp_vet_state *vet;     /* by vetted sensor */
    float *wanted;         /* by actuator: what its owner asks; where nothing is shaped that is its value */
    float *shaped;         /* by actuator: what came of that, before guards */
    float *driven_for;     /* by actuator: seconds away from rest; below 0: it has been for its longest */
    float *param_next;     /* by parameter: what a rule has asked for */
    uint8_t *param_asked;  /* by parameter: a rule has asked in this tick */
    uint8_t *guarding;     /* by guard: it is changing what is asked */
    float *bad_for;        /* by vetted sensor: seconds */
    uint8_t *fault;        /* by vetted sensor */
    unsigned char *state;
    unsigned char *live;

    uint64_t now_us;      /* time of this tick on the engine's own clock, which never goes back */
    uint64_t port_us;     /* what the port said then */
    uint64_t shaped_us;   /* when outputs were shaped last */
    uint64_t next_end_us; /* no timed action ends before */
    uint32_t ticks;       /* done so far */
    uint8_t shapes; /* something has a least power, a slew, a longest time or a guard, or follows a value: outputs are
                       found anew each tick */
    uint8_t early;  /* something is to be done before the next tick computes */
    uint8_t asked;  /* a rule has asked for a parameter in this tick */
    uint8_t stopped;
    uint8_t moved; /* a claim has changed since the outputs were chosen */

    rp_event_listener *listener;
    void *listener_self;
} rp_engine;

/* Makes an engine of an image. The image and the memory stay the caller's, must be aligned to 8 bytes
 * and live as long as the engine. Memory: at least the bytes that the image's header states.
 * Everything in the image is checked first; RP_E_FORMAT, RP_E_SIZE, RP_E_DAMAGED, RP_E_ALIGNMENT,
 * RP_E_INDEX, RP_E_ORDER, RP_E_CONFIG, RP_E_RANGE or RP_E_MEMORY says what is wrong with it. */
rp_status rp_engine_open(rp_engine *engine, const void *image, uint32_t image_size, void *memory, uint32_t memory_size);

/* Everything as it was after rp_engine_open(): states forgotten, parameters at their initial values. */
void rp_engine_reset(rp_engine *engine);

/* Who is told of events; NULL for nobody. */
void rp_engine_listen(rp_engine *engine, rp_event_listener *listener, void *self);

/* One tick at `now_us` (port time). The same time again, or an earlier one, steps nothing. */
void rp_engine_step(rp_engine *engine, uint64_t now_us);

/* What the actuator is to be driven with after the step: percent, or 0 and 1. 0 when there is no such. */
float rp_engine_output(const rp_engine *engine, uint16_t actuator);

/* Between ticks: changes a parameter. RP_E_INDEX; RP_E_RANGE outside its declared range;
 * RP_E_CONFIG when a block would become impossible. On any error nothing has changed. */
rp_status rp_engine_set(rp_engine *engine, uint16_t param, float value);

/* Between ticks: what the stages that make this slot's value have learned and kept is forgotten: a zero is learned
 * again, an accumulated sum begins at 0. RP_E_INDEX when no operation makes it. */
rp_status rp_engine_relearn(rp_engine *engine, uint16_t slot);

/* Between ticks: takes an actuator by hand, and gives it back. RP_E_INDEX, RP_E_RANGE. */
rp_status rp_engine_hand(rp_engine *engine, uint16_t actuator, float value);
rp_status rp_engine_release(rp_engine *engine, uint16_t actuator);

/* Between ticks: sensors' faults are forgotten, and the rules that need them may act again. */
void rp_engine_clear(rp_engine *engine);

/* Between ticks: everything to rest from the next tick on, claims and running actions forgotten; and on
 * again. */
void rp_engine_stop(rp_engine *engine);
void rp_engine_resume(rp_engine *engine);

/* A whole tick on a port: time, read, step, write. When the port is lost (RP_E_PORT, or what its health
 * says) the engine is stopped and every actuator that can still be written is written to rest. */
rp_status rp_engine_tick(rp_engine *engine, const rp_port *port);

/* Writes every actuator to its rest value; tries all even when one fails, and returns the first failure. */
rp_status rp_engine_rest(rp_engine *engine, const rp_port *port);

/* What rp_engine_sense() does with everything but a good reading of a sensor that was well before. */
rp_status rp_engine_sense_any(rp_engine *engine, uint16_t sensor, const rp_sample *sample);

/* Between ticks: hands in what a sensor says, for the next rp_engine_step(). RP_E_INDEX: no such sensor. */
static inline rp_status rp_engine_sense(rp_engine *engine, uint16_t sensor, const rp_sample *sample)
{
    if (sensor < engine->sensors) {
        const rp_image_sensor *const s = &engine->sensor[sensor];
        const uint32_t at = (uint32_t)engine->sensor_slot + sensor;
        const int32_t raw = sample->raw;
        if (!s->vetted && sample->quality == RP_GOOD && engine->quality[at] == RP_GOOD && raw >= s->vet.low &&
            raw <= s->vet.high) {
            engine->raw[sensor] = raw;
            engine->value[at] = (float)raw;
            return RP_OK;
        }
    }
    return rp_engine_sense_any(engine, sensor, sample);
}

static inline rp_reading rp_engine_value(const rp_engine *engine, uint32_t slot)
{
    return (rp_reading){engine->value[slot], engine->quality[slot]};
}

#endif
