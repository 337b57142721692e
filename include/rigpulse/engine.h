/* The engine: an image and a block of memory become ticks.
 *
 * One thread owns an engine. Nothing here allocates, blocks, or recurses; the time of a tick is bounded
 * by the image. The tick goes: readings -> signals, bands and events -> rules -> each actuator's owner ->
 * limits -> outputs.
 *
 * Functions that are called "between ticks" are called by the thread that ticks, or while it does not; they count from
 * the next tick on. None of them may be called by a listener, which is called within a tick. */
#ifndef RIGPULSE_ENGINE_H
#define RIGPULSE_ENGINE_H

#include "rigpulse/drive.h"
#include "rigpulse/image.h"
#include "rigpulse/linkage.h"
#include "rigpulse/port.h"
#include "rigpulse/reading.h"

RGP_DECLARATIONS_BEGIN

/* X(name, word): what an event tells and what `source` and `value` mean is said beside each. */
#define RGP_EVENT_LIST(X)                                                                                              \
    X(FIRED, "fired")     /* source: rule */                                                                           \
    X(DROPPED, "dropped") /* source: rule; reason: RGP_PULSE_ACTING or RGP_PULSE_HOLDOFF */                            \
    X(ENDED, "ended")     /* source: claim; a timed action is over */                                                  \
    X(MARK, "mark")       /* source: action; value, reason: what it shows and its quality */                           \
    X(PARAM, "param")     /* source: param; value: the new one; reason: 1: by a rule or a sequence, 0: from outside */ \
    X(SENSOR, "sensor")   /* source: sensor; reason: its new quality */                                                \
    X(HAND, "hand")       /* source: actuator; value: what the hand asks */                                            \
    X(RELEASED, "released")   /* source: actuator; the hand let go */                                                  \
    X(FAULT, "fault")         /* source: sensor; reason: its quality; what needs it is at rest until cleared */        \
    X(RECOVERED, "recovered") /* source: sensor; it has been well for long enough; what needs it may act again */      \
    X(LEARNED, "learned")     /* source: slot; reason: RGP_LEARNED_...; value: the offset, or the width of the span */ \
    X(GAVE_UP, "gave up")     /* source: slot; a zero could not be learned; value: how far it moved */                 \
    X(GUARD, "guard") /* source: guard; value: what it gives instead of what was asked; reason: 1: no longer */        \
    X(ON_TIME_LIMIT, "spent") /* source: actuator; driven for its longest, and at rest until nobody asks */            \
    X(DUTY_LIMIT, "tired")    /* source: actuator; driven for its duty, at rest; value: seconds until it may */        \
    X(STALLED, "stalled")     /* source: stall; driven, but nothing moves; at rest until nobody asks */                \
    X(BEGUN, "begun")         /* source: sequence; reason: 1 when it began anew */                                     \
    X(FINISHED, "finished")   /* source: sequence; reason: RGP_FINISH_... */                                           \
    X(ENGAGED, "engaged")     /* source: loop */                                                                       \
    X(HELD, "held")           /* source: loop; what it measures is bad, its last output stands */                      \
    X(TRIPPED, "cut out")     /* source: loop; reason: RGP_TRIP_...; value: 1 when it engages again by itself */       \
    X(FAILED, "failed")       /* source: sequence; reason: RGP_FAIL_...; value: at which step, from 1 */               \
    X(EDGE, "edge")           /* source: sensor; reason: 1 on, 0 off; value: microseconds before this tick */          \
    X(OVERFLOW, "overflow")   /* source: sensor; value: edges that nobody had room for */                              \
    X(STORM,                                                                                                           \
      "storm") /* reason, source: an event's kind and source; value: how many of them were not told, 0: from now on */ \
    X(CLEARED, "cleared")   /* the faults are forgotten */                                                             \
    X(STOPPED, "stopped")   /* everything to rest; source: the stop that did it, or RGP_REF_NONE: by hand */           \
    X(RESUMED, "resumed")   /* source: likewise */                                                                     \
    X(LOST, "lost")         /* source: actuator; its port cannot drive it; its claims end, and it rests */             \
    X(REGAINED, "regained") /* source: actuator; its port drives it again */

enum {
#define RGP_EVENT_ENUM(name, word) RGP_EVENT_##name,
    RGP_EVENT_LIST(RGP_EVENT_ENUM)
#undef RGP_EVENT_ENUM
        RGP_EVENTS
};

/* NO_SPAN: in the practice it moved by too little; the practice begins anew. */
enum { RGP_LEARNED_ZERO, RGP_LEARNED_SPAN, RGP_LEARNED_NO_SPAN };

typedef struct rgp_event {
    uint8_t kind;     /* RGP_EVENT_... */
    uint8_t reason;   /* as its kind says */
    uint16_t source;  /* likewise: a rule, an actuator, a sensor, ... */
    float value;      /* likewise */
    uint64_t time_us; /* on the engine's clock: of the tick, of an EDGE its own */
} rgp_event;

/* The event's word ("fired"); "?" for a number that is none. */
const char *rgp_event_word(uint8_t kind);

/* True of those that leave something at rest that should act, until somebody sees to it: a fault of a sensor, a zero or
 * a sequence that failed, a loop that has cut out for good, a stalled or a lost actuator. */
bool rgp_event_is_fault(const rgp_event *event);

/* The subject of an event, for whoever puts it into words: a rule's text, the name of a sensor, parameter or actuator,
 * a mark's text; "?" when the image carries no names. Lives as long as the image. */
const char *rgp_event_subject(const rgp_image_header *image, const rgp_event *event);

/* The line of the rig file that it comes from; 0 when it comes from none, or the image carries no names. */
uint32_t rgp_event_line(const rgp_image_header *image, const rgp_event *event);

/* Told of each event as it happens, within the tick. Must not call the engine back. */
typedef void rgp_event_listener(void *self, const rgp_event *event);

#define RGP_OWNER_REST  0xFFFFu /* nobody claims the actuator */
#define RGP_OWNER_STOP  0xFFFEu /* a stop holds it at rest */
#define RGP_OWNER_GUARD 0xFFFDu /* a guard keeps it from what its owner asks, or it has been driven for its longest */

#define RGP_OWNER_FAULT 0xFFFCu /* its port cannot drive it */

/* Why a sequence is over: its last step; an action; what it lives in is no longer true. */
enum { RGP_FINISH_DONE = 0, RGP_FINISH_ENDED = 1, RGP_FINISH_ONLY = 2 };

/* Why it has failed: what it awaited has not come in time; a time or an amount could not be known; a sensor that it
 * needs has a fault. */
enum { RGP_FAIL_LATE = 0, RGP_FAIL_UNKNOWN = 1, RGP_FAIL_SENSOR = 2 };

#define RGP_ENGINE_PARTS 26u /* arrays of the caller's memory */

/* Open, so that the caller can place it. */
typedef struct rgp_engine {
    const rgp_image_header *image; /* which must live as long as the engine */
    const float *value;            /* by slot */
    const rgp_quality *quality;    /* by slot */
    const int32_t *raw;            /* by sensor: the number of its newest sample */
    void *memory;                  /* the caller's block. All that changes lies in it, without pointers: a copy of it
                                      is a checkpoint, and copied back the rig goes on from there */
    const struct rgp_program *program; /* inside: what computes */
    void *part[RGP_ENGINE_PARTS];      /* inside: the arrays in the block */
    rgp_event_listener *listener;      /* NULL: nobody */
    void *listener_self;               /* handed to it */
} rgp_engine;

/* Makes an engine of an image. The image and the memory stay the caller's, must be aligned to 8 bytes
 * and live as long as the engine. Memory: at least the bytes that the image's header states.
 * Everything in the image is checked first; RGP_E_FORMAT, RGP_E_SIZE, RGP_E_DAMAGED, RGP_E_ALIGNMENT,
 * RGP_E_INDEX, RGP_E_ORDER, RGP_E_CONFIG, RGP_E_RANGE or RGP_E_MEMORY says what is wrong with it. */
rgp_status rgp_engine_open(rgp_engine *engine, const void *image, uint32_t image_size, void *memory,
                           uint32_t memory_size);

/* Everything as it was after rgp_engine_open(): states forgotten, parameters at their initial values, no bound, and not
 * the hand alone. */
void rgp_engine_reset(rgp_engine *engine);

/* The listener to events; NULL for nobody. */
void rgp_engine_listen(rgp_engine *engine, rgp_event_listener *listener, void *self);

/* One tick at `now_us` (port time). The same time again, or an earlier one, steps nothing. */
void rgp_engine_step(rgp_engine *engine, uint64_t now_us);

/* The number to be written to the actuator after the step: in its unit, the number of a name, or 0 and 1; turned round
 * where it is inverted. 0 when there is no such. */
float rgp_engine_output(const rgp_engine *engine, uint16_t actuator);

/* Between ticks: changes a parameter. RGP_E_INDEX; RGP_E_RANGE outside its declared range;
 * RGP_E_CONFIG when a block would become impossible. On any error nothing has changed. */
rgp_status rgp_engine_set(rgp_engine *engine, uint16_t param, float value);

/* Between ticks: what the stages that make this slot's value have learned and kept is forgotten: a zero is learned
 * again, an accumulated sum begins at 0. RGP_E_INDEX when no operation makes it. */
rgp_status rgp_engine_relearn(rgp_engine *engine, uint16_t slot);

/* Between ticks: takes an actuator by hand, and gives it back. RGP_E_INDEX; RGP_E_RANGE outside its travel, or when a
 * switch or an actuator with names is given no whole number. */
rgp_status rgp_engine_hand(rgp_engine *engine, uint16_t actuator, float value);
rgp_status rgp_engine_release(rgp_engine *engine, uint16_t actuator);

/* Between ticks: sensors' faults are forgotten, and the rules that need them may act again. */
void rgp_engine_clear(rgp_engine *engine);

/* Between ticks: everything to rest from the next tick on, claims and running actions forgotten; and on
 * again. */
void rgp_engine_stop(rgp_engine *engine);
void rgp_engine_resume(rgp_engine *engine);

/* Between ticks: nothing goes further from rest than so many percent of its travel, as for first trials on a bench;
 * only of actuators driven in numbers. RGP_E_RANGE unless from 0 to 100 (no limit). */
rgp_status rgp_engine_bound(rgp_engine *engine, float percent);

/* The bound as it is, in percent of the travel; 100: no limit. */
float rgp_engine_bound_percent(const rgp_engine *engine);

/* Between ticks: from now on nothing but the hand drives (`only`), whatever rules, sequences, loops and continuous
 * drives ask; stops and guards hold as ever. Or everything does again. */
void rgp_engine_hand_only(rgp_engine *engine, bool only);

/* Between ticks: hands in the changes of a timed switch since the last step, oldest first, on the port's clock, and how
 * many were lost before them; more than RGP_EDGES_KEPT at once are lost too. From then on this sensor's are no longer
 * looked for in its readings; another's are, until they are told too. RGP_E_INDEX when there is no such sensor, or
 * nothing measures it. */
rgp_status rgp_engine_edges(rgp_engine *engine, uint16_t sensor, const rgp_port_edge *edge, uint16_t count,
                            uint32_t lost);

/* The rig's kept state over a power cycle, as one block with a checksum. `size` becomes its bytes; RGP_E_MEMORY when
 * `room` is less. RGP_E_INDEX when the rig keeps nothing. */
rgp_status rgp_engine_retain(const rgp_engine *engine, void *block, uint32_t room, uint32_t *size);

/* Before the first step: takes such a block up again. What the rig does not keep any more is left aside, what the block
 * does not have begins anew. RGP_E_FORMAT, RGP_E_SIZE, RGP_E_DAMAGED: nothing is taken. `taken` becomes how many. */
rgp_status rgp_engine_restore(rgp_engine *engine, const void *block, uint32_t size, uint32_t *taken);

/* Between ticks: the port cannot drive an actuator any more, or can again. From the next tick on a lost one rests, what
 * rules, sequences and the hand have asked of it is forgotten, and it is nobody's; then it is driven as any other.
 * rgp_engine_tick() finds that out by itself. RGP_E_INDEX. */
rgp_status rgp_engine_lose(rgp_engine *engine, uint16_t actuator);
rgp_status rgp_engine_regain(rgp_engine *engine, uint16_t actuator);

/* True between the two. */
bool rgp_engine_is_lost(const rgp_engine *engine, uint16_t actuator);

#define RGP_LOST_RETRY_US 1000000u /* from one try to the next to bring a lost actuator to rest */

/* Before the first tick: tells the port of each channel by its name, where it wants that (rgp_port.open). The first
 * channel that it refuses ends it: *refused becomes that one (may be NULL), and what the port says is returned. */
rgp_status rgp_engine_connect(const rgp_engine *engine, const rgp_port *port, rgp_port_channel *refused);

/* A whole tick on a port: time, read, step, write. When the port is lost (RGP_E_PORT, or what its health
 * says) the engine is stopped and every actuator that can still be written is written to rest. An actuator that alone
 * cannot be written is lost from the next tick on, and rest is tried every RGP_LOST_RETRY_US until it is taken; the
 * others go on. */
rgp_status rgp_engine_tick(rgp_engine *engine, const rgp_port *port);

/* Writes every actuator to its rest value; tries all even when one fails, and returns the first failure. */
rgp_status rgp_engine_rest(rgp_engine *engine, const rgp_port *port);

/* Between ticks: hands in what a sensor says, for the next rgp_engine_step(). What is not handed in, and a sample that
 * is marked as the same again, is no new reading: the last one stands, and grows older. RGP_E_INDEX: no such sensor. */
rgp_status rgp_engine_sense(rgp_engine *engine, uint16_t sensor, const rgp_sample *sample);

/* Between ticks, all that follows: what the last step has left. The value of a slot, which is one of the image's. */
static inline rgp_reading rgp_engine_value(const rgp_engine *engine, uint32_t slot);

/* Microseconds: the time of the last step on the engine's own clock, which never goes back. */
uint64_t rgp_engine_now(const rgp_engine *engine);

/* The owner of an actuator: a claim of the image, or RGP_OWNER_... */
uint16_t rgp_engine_owner(const rgp_engine *engine, uint16_t actuator);

/* A claim of the image, as the last step has left it: whether it wants its actuator, and what it asks. NULL: there is
 * no such claim. It belongs to the engine. */
const rgp_claim *rgp_engine_claim(const rgp_engine *engine, uint16_t claim);

/* The value that the owner of an actuator asks of it, within its travel; the bound, the least power, the slew and the
 * guards may make another value of it, which is the one in the actuator's slot. 0 when there is no such. */
float rgp_engine_asked(const rgp_engine *engine, uint16_t actuator);

/* True while a guard of the image keeps its actuator from something that was asked. */
bool rgp_engine_is_guarding(const rgp_engine *engine, uint16_t guard);

/* True while a stop, or rgp_engine_stop(), holds everything at rest. */
bool rgp_engine_is_stopped(const rgp_engine *engine);

/* True when the sensor had a new sample in the last step. */
bool rgp_engine_is_new(const rgp_engine *engine, uint16_t sensor);

/* A rule's timers; `blocked`: a sensor that it needs has a fault. */
typedef struct rgp_rule_timing {
    rgp_pulse_phase phase; /* ready, acting, or in its holdoff */
    uint64_t left_us;      /* of its action, or of its holdoff; 0: ready */
    bool blocked;          /* a fault keeps it from firing */
} rgp_rule_timing;

/* Of a rule of the image, at the time of the last step. */
rgp_rule_timing rgp_engine_rule(const rgp_engine *engine, uint16_t rule);

/* The state of an operation of the image, for whoever knows its block: `offset` is that of its run, in bytes into the
 * states. */
const void *rgp_engine_state(const rgp_engine *engine, uint32_t offset);

RGP_DECLARATIONS_END

#include "rigpulse/inside/engine.h"

#endif
