/* The engine: an image and a block of memory become ticks.
 *
 * One thread owns an engine. Nothing here allocates, blocks, or recurses; the time of a tick is bounded
 * by the image. The tick goes: readings -> signals, bands and events -> rules -> each actuator's owner ->
 * limits -> outputs. */
#ifndef RIGPULSE_ENGINE_H
#define RIGPULSE_ENGINE_H

#include "rigpulse/detect/edges.h"
#include "rigpulse/drive.h"
#include "rigpulse/image.h"
#include "rigpulse/port.h"
#include "rigpulse/reading.h"
#include "rigpulse/regulate/loops.h"

/* X(name, word): what an event tells and what `source` and `value` mean is said beside each. */
#define RP_EVENT_LIST(X)                                                                                               \
    X(FIRED, "fired")         /* source: rule */                                                                       \
    X(DROPPED, "dropped")     /* source: rule; reason: RP_PULSE_ACTING or RP_PULSE_HOLDOFF */                          \
    X(ENDED, "ended")         /* source: claim; a timed action is over */                                              \
    X(MARK, "mark")           /* source: action; value, reason: what it shows and its quality */                       \
    X(PARAM, "param")         /* source: param; value: the new one */                                                  \
    X(SENSOR, "sensor")       /* source: sensor; reason: its new quality */                                            \
    X(HAND, "hand")           /* source: actuator; value: what the hand asks */                                        \
    X(RELEASED, "released")   /* source: actuator; the hand let go */                                                  \
    X(FAULT, "fault")         /* source: sensor; reason: its quality; what needs it is at rest until cleared */        \
    X(RECOVERED, "recovered") /* source: sensor; it has been well for long enough; what needs it may act again */      \
    X(LEARNED, "learned")     /* source: slot; reason: RP_LEARNED_...; value: the offset, or the width of the span */  \
    X(GAVE_UP, "gave up")     /* source: slot; a zero could not be learned; value: how far it moved */                 \
    X(GUARD, "guard")       /* source: guard; value: what it gives instead of what was asked; reason: 1: no longer */  \
    X(SPENT, "spent")       /* source: actuator; driven for its longest, and at rest until nobody asks */              \
    X(TIRED, "tired")       /* source: actuator; driven for its duty, at rest; value: seconds until it may */          \
    X(STALLED, "stalled")   /* source: stall; driven, but nothing moves; at rest until nobody asks */                  \
    X(BEGUN, "begun")       /* source: sequence; reason: 1 when it began anew */                                       \
    X(FINISHED, "finished") /* source: sequence; reason: RP_FINISH_... */                                              \
    X(ENGAGED, "engaged")   /* source: loop */                                                                         \
    X(HELD, "held")         /* source: loop; what it measures is bad, its last output stands */                        \
    X(CUT_OUT, "cut out")   /* source: loop; reason: RP_CUT_...; value: 1 when it engages again by itself */           \
    X(FAILED, "failed")     /* source: sequence; reason: RP_FAIL_...; value: at which step, from 1 */                  \
    X(EDGE, "edge")         /* source: sensor; reason: 1 on, 0 off; value: microseconds before this tick */            \
    X(OVERFLOW, "overflow") /* source: sensor; value: edges that nobody had room for */                                \
    X(STORM,                                                                                                           \
      "storm") /* reason, source: an event's kind and source; value: how many of them were not told, 0: from now on */ \
    X(CLEARED, "cleared") /* the faults are forgotten */                                                               \
    X(STOPPED, "stopped") /* everything to rest; source: the stop that did it, or RP_REF_NONE: by hand */              \
    X(RESUMED, "resumed") /* source: likewise */

enum {
#define RP_EVENT_ENUM(name, word) RP_EVENT_##name,
    RP_EVENT_LIST(RP_EVENT_ENUM)
#undef RP_EVENT_ENUM
        RP_EVENTS
};

/* NO_SPAN: in the practice it moved by too little; the practice begins anew. */
enum { RP_LEARNED_ZERO, RP_LEARNED_SPAN, RP_LEARNED_NO_SPAN };

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

/* Why a sequence is over: its last step; an action; what it lives in is no longer true. */
enum { RP_FINISH_DONE = 0, RP_FINISH_ENDED = 1, RP_FINISH_ONLY = 2 };

/* Why it has failed: what it awaited has not come in time; a time or an amount could not be known; a sensor that it
 * needs has a fault. */
enum { RP_FAIL_LATE = 0, RP_FAIL_UNKNOWN = 1, RP_FAIL_SENSOR = 2 };

typedef struct rp_sequence_state {
    uint64_t since_us; /* of this step */
    uint64_t until_us; /* its time or limit, taken when it was entered; 0: not yet */
    uint16_t step;     /* from 0 */
    uint8_t runs;
    uint8_t ending;  /* it is on the way that its ending says */
    uint8_t drove;   /* in this tick: what it has driven shows from the next one on */
    uint8_t waits;   /* for its time, or for `awaits` */
    uint16_t awaits; /* slot, or RP_REF_NONE */
} rp_sequence_state;

#define RP_EDGES_KEPT 16u /* of one sensor, from tick to tick */

/* Why an actuator is kept from what its owner asks, or goes to rest faster than its slew. */
enum {
    RP_RELIEF_SPENT = 1, /* driven for its longest, or for nothing: it rests until nobody asks for anything else */
    RP_RELIEF_TIRED = 2, /* it has used up its duty, and rests until all of it is back */
    RP_RELIEF_FAULT = 4  /* a fault has taken it from its owner in this tick: if nobody else has it, it rests at once */
};

typedef struct rp_edge_queue {
    rp_port_edge edge[RP_EDGES_KEPT]; /* oldest first, on the engine's own clock */
    uint32_t count, lost;
    uint32_t told;          /* the port tells them; else they are found in its readings */
    rp_edges_memory memory; /* to find them in readings, where the port does not tell them */
} rp_edge_queue;

typedef struct rp_stall_state {
    uint64_t still_us; /* of being driven since it moved last */
    float at;          /* where what should move was then */
} rp_stall_state;

/* Open, so that the caller can place it; read it freely, change it only through the functions. */
typedef struct rp_engine {
    const rp_image_header *image;

    /* in the image, looked up once */
    const rp_image_sensor *sensor;
    const rp_image_actuator *actuator;
    const rp_image_action *action;
    const rp_image_rule *rule;
    const rp_image_guard *guard;
    const rp_image_sequence *sequence_of;
    const rp_image_step *step;
    uint16_t sensors, actuators, rules, claims;
    uint16_t sequences, states, loops;
    uint16_t follows; /* continuous drives, those of loops among them */
    uint16_t timed;   /* sensors whose edges are measured */
    uint16_t stops;
    uint16_t vetted;                     /* sensors that are */
    uint16_t learners;                   /* zeros and spans that have not learned, or not been told of, yet */
    uint16_t sensor_slot, actuator_slot; /* the first of each */

    /* in the caller's memory block */
    float *value;        /* by slot */
    rp_quality *quality; /* by slot */
    int32_t *raw;        /* by sensor */
    float *sensed;       /* by sensor: where its value is */
    uint8_t *plain;      /* by sensor: 1 while it is well and held against nothing but its range */
    uint64_t *claim_since;
    uint64_t *claim_until;
    float *claim_value;
    uint8_t *claim_active;
    uint16_t *claim_by;          /* the rule that has set it last */
    uint16_t *owner;             /* by actuator: a claim, or RP_OWNER_... */
    rp_pulse_state *pulse;       /* by rule */
    uint8_t *blocked;            /* by rule, drive and sequence: 1 while a sensor that it needs has a fault */
    rp_sequence_state *sequence; /* by sequence */
    uint16_t *counter;           /* by step: of a cycle, how often it goes on */
    rp_loop_link *link;          /* by loop */
    float *state_next;           /* by state: its value from the next tick on */
    rp_vet_state *vet;           /* by vetted sensor */
    float *wanted;               /* by actuator: what its owner asks; where nothing is shaped that is its value */
    float *apart;                /* where it is when something is */
    float *shaped;               /* by actuator: what came of that, before guards */
    uint64_t *driven_us;         /* by actuator: away from rest without a break, as it was written */
    int64_t *credit;       /* by actuator: what it has left of its duty, in microseconds times parts per million */
    uint8_t *relief;       /* by actuator: RP_RELIEF_... */
    rp_stall_state *stall; /* by stall */
    rp_edge_queue *edges;  /* by timed sensor */
    float *param_next;     /* by parameter: what a rule has asked for */
    uint8_t *param_asked;  /* by parameter: a rule has asked in this tick */
    uint8_t *guarding;     /* by guard: it is changing what is asked */
    uint64_t *fault_us;    /* by vetted sensor: without a usable reading; while that is a fault, with usable ones */
    uint8_t *fault;        /* by vetted sensor */
    unsigned char *state;
    unsigned char *live;

    uint64_t now_us;      /* time of this tick on the engine's own clock, which never goes back */
    uint64_t port_us;     /* what the port said then */
    uint64_t shaped_us;   /* when outputs were shaped last */
    uint64_t next_end_us; /* no timed action ends before */
    uint32_t ticks;       /* done so far */
    uint8_t shapes;  /* something has a least power, a slew, a longest time or a guard: outputs are found anew each tick
                      */
    uint8_t early;   /* something is to be done before the next tick computes */
    uint8_t late;    /* something is to be done when it has */
    uint8_t asked;   /* a rule has asked for a parameter in this tick */
    uint8_t stirred; /* a mode, a cue or the step of a sequence has changed */
    float bound;     /* percent of the travel away from rest; 100: no bound */
    uint8_t stopped;
    uint16_t stopped_by; /* a stop, or RP_REF_NONE: by hand */
    uint8_t hand_only;   /* rules, sequences, loops and continuous drives drive nothing */
    uint8_t moved;       /* a claim has changed since the outputs were chosen */
    uint8_t astir;       /* not every continuous drive is a loop that simply goes on */
    uint8_t arms;        /* some are followed only while a condition is true */

    rp_event_listener *listener;
    void *listener_self;
} rp_engine;

/* Makes an engine of an image. The image and the memory stay the caller's, must be aligned to 8 bytes
 * and live as long as the engine. Memory: at least the bytes that the image's header states.
 * Everything in the image is checked first; RP_E_FORMAT, RP_E_SIZE, RP_E_DAMAGED, RP_E_ALIGNMENT,
 * RP_E_INDEX, RP_E_ORDER, RP_E_CONFIG, RP_E_RANGE or RP_E_MEMORY says what is wrong with it. */
rp_status rp_engine_open(rp_engine *engine, const void *image, uint32_t image_size, void *memory, uint32_t memory_size);

/* Everything as it was after rp_engine_open(): states forgotten, parameters at their initial values, no bound, and not
 * the hand alone. */
void rp_engine_reset(rp_engine *engine);

/* The listener to events; NULL for nobody. */
void rp_engine_listen(rp_engine *engine, rp_event_listener *listener, void *self);

/* One tick at `now_us` (port time). The same time again, or an earlier one, steps nothing. */
void rp_engine_step(rp_engine *engine, uint64_t now_us);

/* The number to be written to the actuator after the step: in its unit, the number of a name, or 0 and 1; turned round
 * where it is inverted. 0 when there is no such. */
float rp_engine_output(const rp_engine *engine, uint16_t actuator);

/* Between ticks: changes a parameter. RP_E_INDEX; RP_E_RANGE outside its declared range;
 * RP_E_CONFIG when a block would become impossible. On any error nothing has changed. */
rp_status rp_engine_set(rp_engine *engine, uint16_t param, float value);

/* Between ticks: what the stages that make this slot's value have learned and kept is forgotten: a zero is learned
 * again, an accumulated sum begins at 0. RP_E_INDEX when no operation makes it. */
rp_status rp_engine_relearn(rp_engine *engine, uint16_t slot);

/* Between ticks: takes an actuator by hand, and gives it back. RP_E_INDEX; RP_E_RANGE outside its travel, or when a
 * switch or an actuator with names is given no whole number. */
rp_status rp_engine_hand(rp_engine *engine, uint16_t actuator, float value);
rp_status rp_engine_release(rp_engine *engine, uint16_t actuator);

/* Between ticks: sensors' faults are forgotten, and the rules that need them may act again. */
void rp_engine_clear(rp_engine *engine);

/* Between ticks: everything to rest from the next tick on, claims and running actions forgotten; and on
 * again. */
void rp_engine_stop(rp_engine *engine);
void rp_engine_resume(rp_engine *engine);

/* Between ticks: nothing goes further from rest than so many percent of its travel, as for first trials on a bench;
 * only of actuators driven in numbers. RP_E_RANGE unless from 0 to 100 (no limit). */
rp_status rp_engine_bound(rp_engine *engine, float percent);

/* Between ticks: from now on nothing but the hand drives (`only`), whatever rules, sequences, loops and continuous
 * drives ask; stops and guards hold as ever. Or everything does again. */
void rp_engine_hand_only(rp_engine *engine, bool only);

/* Between ticks: hands in the changes of a timed switch since the last step, oldest first, on the port's clock, and how
 * many were lost before them; more than RP_EDGES_KEPT at once are lost too. From then on this sensor's are no longer
 * looked for in its readings; another's are, until they are told too. RP_E_INDEX when there is no such sensor, or
 * nothing measures it. */
rp_status rp_engine_edges(rp_engine *engine, uint16_t sensor, const rp_port_edge *edge, uint16_t count, uint32_t lost);

/* The rig's kept state over a power cycle, as one block with a checksum. `size` becomes its bytes; RP_E_MEMORY when
 * `room` is less. RP_E_INDEX when the rig keeps nothing. */
rp_status rp_engine_keep(const rp_engine *engine, void *block, uint32_t room, uint32_t *size);

/* Before the first step: takes such a block up again. What the rig does not keep any more is left aside, what the block
 * does not have begins anew. RP_E_FORMAT, RP_E_SIZE, RP_E_DAMAGED: nothing is taken. `taken` becomes how many. */
rp_status rp_engine_recall(rp_engine *engine, const void *block, uint32_t size, uint32_t *taken);

/* A whole tick on a port: time, read, step, write. When the port is lost (RP_E_PORT, or what its health
 * says) the engine is stopped and every actuator that can still be written is written to rest. */
rp_status rp_engine_tick(rp_engine *engine, const rp_port *port);

/* Writes every actuator to its rest value; tries all even when one fails, and returns the first failure. */
rp_status rp_engine_rest(rp_engine *engine, const rp_port *port);

/* Between ticks: hands in what all sensors say, in their order; as many samples as there are sensors. */
void rp_engine_sense_all(rp_engine *engine, const rp_sample *sample);

/* The part of rp_engine_sense() for everything but a good reading of a sensor that was well before. */
rp_status rp_engine_sense_any(rp_engine *engine, uint16_t sensor, const rp_sample *sample);

/* Between ticks: hands in what a sensor says, for the next rp_engine_step(). RP_E_INDEX: no such sensor. */
static inline rp_status rp_engine_sense(rp_engine *engine, uint16_t sensor, const rp_sample *sample)
{
    if (sensor < engine->sensors) {
        const rp_image_sensor *const s = &engine->sensor[sensor];
        const int32_t raw = sample->raw;
        if (engine->plain[sensor] && sample->quality == RP_GOOD && raw >= s->vet.low && raw <= s->vet.high) {
            engine->raw[sensor] = raw;
            engine->sensed[sensor] = (float)raw;
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
