/* The image: a rig as one flat, versioned, checksummed, little-endian block that the engine runs in
 * place, from flash or from memory.
 *
 *   header | section table | sections, each aligned to 8 bytes
 *
 * Slots hold the values of a tick. They are numbered: parameters, sensors, actuators (what was written in
 * the last tick), states (as the last tick left them), then whatever the operations compute. A reference (ref) is a
 * slot, or, with its top bit set, a constant.
 *
 * Operations stand in runs of equal kind, in the order in which they are computed. Operands, settings
 * (configs) and states of the runs follow one another in the same order, each behind those of the run before. */
#ifndef RIGPULSE_IMAGE_H
#define RIGPULSE_IMAGE_H

#include "rigpulse/condition/supervision.h"
#include "rigpulse/linkage.h"
#include "rigpulse/regulate/loops.h"
#include "rigpulse/status.h"

#include <stdbool.h>
#include <stdint.h>

RGP_DECLARATIONS_BEGIN

#define RGP_IMAGE_MAGIC    0x1A4D4952u /* "RIM" and a control byte that text tools choke on */
#define RGP_IMAGE_VERSION  16u         /* of this library: others are refused */
#define RGP_IMAGE_ALIGN    8u          /* bytes, of the image and of the engine's memory */
#define RGP_IMAGE_SIZE_MAX (1u << 24)  /* bytes */
#define RGP_REF_CONSTANT   0x8000u     /* this bit set: the rest is the number of a constant */
#define RGP_REF_NONE       0x7FFFu     /* nothing */
#define RGP_SLOTS_MAX      0x4000u     /* that a rig can have */
#define RGP_EDGES_KEPT     16u         /* changes of one timed switch, from tick to tick */

/* X(name, type of one element) */
#define RGP_SECTION_LIST(X)                                                                            \
    X(SENSORS, rgp_image_sensor)     /* channels that are read */                                      \
    X(ACTUATORS, rgp_image_actuator) /* channels that are driven */                                    \
    X(PARAMS, rgp_image_param)       /* values that may be changed */                                  \
    X(CONSTANTS, float)              /* numbers of the text */                                         \
    X(RUNS, rgp_image_run)           /* the program: operations of one kind in a row */                \
    X(PACES, rgp_image_pace)         /* sensors that belong together for what steps on new readings */ \
    X(PACE_SENSORS, uint16_t)        /* their sensors */                                               \
    X(PACE_STEPS, uint16_t)          /* by operation: its pace */                                      \
    X(OPERANDS, uint16_t)            /* what operations read and write */                              \
    X(CONFIGS, uint32_t)             /* settings that stand fast */                                    \
    X(LIVE_CONFIGS, uint32_t)        /* settings that a parameter sets: they are copied to memory */   \
    X(PATCHES, rgp_image_patch)      /* the places that parameters set */                              \
    X(CLAIMS, rgp_image_claim)       /* who may drive which actuator, by rank */                       \
    X(ACTIONS, rgp_image_action)     /* of rules and steps */                                          \
    X(RULES, rgp_image_rule)         /* what fires, and what it does then */                           \
    X(NEEDS, rgp_image_need)         /* whom a sensor's fault brings to rest */                        \
    X(GUARDS, rgp_image_guard)       /* what is never driven */                                        \
    X(STATES, rgp_image_state)       /* sequences, modes and cues */                                   \
    X(SEQUENCES, rgp_image_sequence) /* their steps and ranks */                                       \
    X(STEPS, rgp_image_step)         /* of sequences */                                                \
    X(STALLS, rgp_image_stall)       /* what has to move when it is driven */                          \
    X(STOPS, rgp_image_stop)         /* when everything rests */                                       \
    X(RETAINED, rgp_image_retained)  /* what survives a power cycle */                                 \
    X(DRIVES, rgp_image_drive)       /* continuous drives */                                           \
    X(LOOPS, rgp_image_loop)         /* control loops */                                               \
    X(NAMES, rgp_image_name)         /* of all that a person names */                                  \
    X(TEXT, char)

enum {
#define RGP_SECTION_ENUM(name, type) RGP_SECTION_##name,
    RGP_SECTION_LIST(RGP_SECTION_ENUM)
#undef RGP_SECTION_ENUM
        RGP_SECTIONS
};

typedef struct rgp_image_section {
    uint32_t offset; /* bytes from the start of the image */
    uint32_t count;  /* elements */
} rgp_image_section;

typedef struct rgp_image_header {
    uint32_t magic;                          /* RGP_IMAGE_MAGIC */
    uint16_t version;                        /* RGP_IMAGE_VERSION */
    uint16_t sections;                       /* RGP_SECTIONS */
    uint32_t size;                           /* bytes, all of it */
    uint32_t checksum;                       /* CRC-32 (IEEE 802.3) of the image with this field as 0 */
    uint32_t memory;                         /* bytes the engine needs */
    uint32_t tick_us;                        /* the time from tick to tick */
    uint32_t slots;                          /* values of a tick */
    uint32_t reserved;                       /* 0 */
    rgp_image_section section[RGP_SECTIONS]; /* where they lie */
} rgp_image_header;

enum { RGP_SENSOR_NUMBER = 0, RGP_SENSOR_SWITCH = 1, RGP_SENSOR_NAMES = 2 }; /* what a sensor gives */

typedef struct rgp_image_sensor {
    rgp_supervision_config supervision; /* when a reading is not to be believed */
    uint32_t kind;                      /* RGP_SENSOR_... */
    uint32_t supervised; /* 0: nothing but its range is looked at; else its place, from 1, among those of which more is,
                        or whose bad readings become a fault */
    float fault_after;   /* seconds of bad readings that are a fault; 0: never */
    float again_after;   /* seconds of good readings that end it; 0: it ends by hand */
    uint32_t timed;      /* of a switch whose changes are measured, its place among such, from 1: the port is asked for
                            their moments; else 0 */
} rgp_image_sensor;

/* A sensor with faults, and who rests for as long as it has one. */
enum { RGP_NEEDED_BY_RULE, RGP_NEEDED_BY_DRIVE, RGP_NEEDED_BY_SEQUENCE, RGP_NEEDED_BY };

typedef struct rgp_image_need {
    uint16_t sensor;   /* its number */
    uint16_t by;       /* RGP_NEEDED_BY_... */
    uint16_t index;    /* of that rule, drive or sequence */
    uint16_t reserved; /* 0 */
} rgp_image_need;

/* NUMBER: percent, or an angle, a length, a frequency in the unit of its line. NAMES: one of a few, counted from 0. */
#define RGP_LONGEST_MAX     1e9f /* seconds */
#define RGP_DUTY_WINDOW_MAX 1e6f /* seconds */

enum { RGP_ACTUATOR_NUMBER = 0, RGP_ACTUATOR_SWITCH = 1, RGP_ACTUATOR_NAMES = 2 }; /* what drives it */

typedef struct rgp_image_actuator {
    float low, high; /* travel */
    float rest;      /* when nobody asks */
    float least;   /* a command that is not 0 is raised to it; 0 or more, within the travel; a rest that is not 0 is not
                      below */
    float slew;    /* the fastest change a second; 0: none */
    float longest; /* seconds away from rest after which it goes there, up to RGP_LONGEST_MAX; 0: never */
    float duty;    /* share of the time, 0 to 1, that it may be away from rest; 0: all of it */
    float window;  /* seconds, up to RGP_DUTY_WINDOW_MAX; at one stretch at most duty * window */
    uint16_t kind; /* RGP_ACTUATOR_... */
    uint16_t inverted;    /* 1: what is written is low + high - the value */
    uint16_t first_claim; /* in CLAIMS */
    uint16_t claims;      /* in falling rank */
    uint16_t first_guard; /* in GUARDS */
    uint16_t guards;      /* how many */
    uint16_t first_stall; /* in STALLS */
    uint16_t stalls;      /* how many */
    uint32_t reserved;    /* 0 */
} rgp_image_actuator;

typedef struct rgp_image_param {
    float initial, low, high; /* in its unit */
} rgp_image_param;

/* Operations of a run are computed one behind the other; so, as first stages that take the whole numbers of sensors
 * which no float may hold; or four by four, their states and settings by field (core/lanes/lanes.h), where what each
 * four read, and what they write, may lie in a row of slots. */
enum { RGP_WAY_PLAIN, RGP_WAY_WHOLE, RGP_WAY_LANES, RGP_WAY_ROWS, RGP_WAYS };

typedef struct rgp_image_run {
    uint8_t op;             /* RGP_OP_... */
    uint8_t live;           /* 1: settings are in memory, since a parameter sets one of them */
    uint16_t count;         /* operations in it */
    uint16_t config_stride; /* bytes */
    uint16_t state_stride;  /* bytes */
    uint32_t operand;       /* the first in OPERANDS */
    uint32_t config;        /* bytes into CONFIGS or LIVE_CONFIGS */
    uint32_t state;         /* bytes into the states; a multiple of 8 */
    uint16_t pace;          /* of what steps on new readings only: the first in PACE_STEPS, from 1; 0: none does */
    uint8_t way;            /* RGP_WAY_... */
    uint8_t steady;         /* 1: while no sensor and no parameter changes its results stay as they are */
} rgp_image_run;

/* Sensors of which one has to have a new reading for what follows them to step. PACE_STEPS has one entry for each
 * operation of the runs that have paces: the place of its pace, from 1; 0: it steps in every tick. */
typedef struct rgp_image_pace {
    uint16_t first, sensors; /* in PACE_SENSORS */
} rgp_image_pace;

/* field = param * scale + offset, written into the live settings when the parameter changes. */
typedef struct rgp_image_patch {
    uint16_t param;       /* its number */
    uint16_t reserved;    /* 0 */
    uint32_t live_offset; /* bytes into the live settings */
    float scale, offset;  /* setting = parameter * scale + offset */
} rgp_image_patch;

typedef struct rgp_image_claim {
    uint16_t actuator; /* its number */
    uint8_t rank;      /* RGP_RANK_... */
    uint8_t reserved;  /* 0 */
    uint16_t source;   /* the rule, or of rank SEQUENCE the sequence, that holds it; or RGP_REF_NONE */
    uint16_t action;   /* of rank TIMED: the action that makes it; else 0 */
} rgp_image_claim;

/* A claim that follows a value for as long as that can be trusted. */
typedef struct rgp_image_drive {
    uint16_t claim;     /* of rank LOOP */
    uint16_t value;     /* slot */
    uint16_t actuator;  /* of that claim */
    uint16_t condition; /* slot of a condition: it follows only while that is true; RGP_REF_NONE: always */
} rgp_image_drive;

/* A control loop, whose output a drive follows. */
typedef struct rgp_image_loop {
    uint32_t state;              /* of its operation, which begins with its link: bytes into the states */
    uint16_t claim;              /* of that drive */
    uint16_t again;              /* 1: it engages again when it has cut out; else that is a fault */
    uint16_t terms;              /* RGP_TERM_...: so many slots, one behind the other, from `first` on */
    uint16_t first;              /* its first slot */
    uint16_t measured, setpoint; /* refs */
    uint16_t gain[3];            /* of its method, the first settings: parameters, or RGP_REF_NONE */
    uint16_t trim, bias;         /* parameters */
    uint16_t actuator;           /* of that claim */
    uint16_t brought;            /* bit i: parameter gain[i] is there for this loop alone */
    uint16_t condition;          /* of that drive */
} rgp_image_loop;

enum { RGP_GUARD_ABOVE = 0, RGP_GUARD_BELOW = 1, RGP_GUARD_REST = 2, RGP_GUARD_WITH = 3, RGP_GUARD_SIDES };

/* Whatever else is asked: while its condition is true, or cannot be known, the actuator is not driven above or below a
 * limit, or rests; or it rests while another actuator does not. Guards stand in the order of their actuators. */
typedef struct rgp_image_guard {
    uint16_t actuator;  /* its number */
    uint16_t side;      /* RGP_GUARD_... */
    uint16_t condition; /* slot; of RGP_GUARD_WITH: the other actuator */
    uint16_t limit;     /* ref; of ABOVE and BELOW */
} rgp_image_guard;

/* Driven, but what should move does not, or cannot be seen: then the actuator rests until nobody asks for anything
 * else. Stalls stand in the order of their actuators. */
typedef struct rgp_image_stall {
    uint16_t actuator; /* its number */
    uint16_t value;    /* slot */
    float amount;      /* in its unit, above 0; within `time` of being driven it has to change by so much */
    float time;        /* seconds, above 0 */
} rgp_image_stall;

/* The rig stops when the condition is true or cannot be known, and stays so until it is resumed by hand or, once the
 * condition is false again, by the release. A condition that is still learning does not stop. */
typedef struct rgp_image_stop {
    uint16_t condition; /* slot */
    uint16_t release;   /* slot, or RGP_REF_NONE */
} rgp_image_stop;

/* The knowledge and counts of the stages that make a slot survive a power cycle. */
typedef struct rgp_image_retained {
    uint16_t slot;     /* of the signal */
    uint16_t reserved; /* 0 */
    uint32_t key;      /* by which it is found again: the CRC-32 of its name */
} rgp_image_retained;

/* SET, TOGGLE and STEP work on the actuator's one latch: to a value, to the other of a switch's two, by an amount
 * within its travel from what the latch says (from rest, where nothing has set it). */
enum {
    RGP_ACTION_SET = 0,     /* a value, until another set */
    RGP_ACTION_TIMED = 1,   /* a value for a time */
    RGP_ACTION_MARK = 2,    /* a word in the recording */
    RGP_ACTION_RELEARN = 3, /* a signal learns anew */
    RGP_ACTION_TOGGLE = 4,  /* the other end of the travel, or of a switch */
    RGP_ACTION_STEP = 5,    /* more, or less, than it is */
    RGP_ACTION_PARAM = 6,   /* a value of a parameter, in the next tick */
    RGP_ACTION_BEGIN = 7,   /* a sequence; of one that runs already only with `value` not 0: from its first step */
    RGP_ACTION_FINISH = 8,
    RGP_ACTION_STATE = 9, /* a mode takes a value, a cue is given, from the next tick on */
    RGP_ACTIONS
};

typedef struct rgp_image_action {
    uint16_t kind;  /* RGP_ACTUATOR_... */
    uint16_t claim; /* of those that drive; of PARAM: the parameter; of BEGIN and FINISH: the sequence; of STATE: it */
    uint16_t value; /* ref; in the actuator's unit, also of TOGGLE, which does not look at it; of RELEARN: the slot;
                       of MARK: what it shows, or RGP_REF_NONE */
    uint16_t duration; /* ref; seconds; of TIMED */
    uint16_t period;   /* ref; seconds from one time to the next; of TIMED with more than one */
    uint16_t times;    /* 1 or more; of TIMED: between the times the actuator rests */
} rgp_image_action;

/* The rig's memory from tick to tick. A mode has one of its names' numbers; a cue is 1 in the tick after it was
 * given; a sequence is 0 while it is idle, else the number of its step, from 1. */
enum { RGP_STATE_MODE = 0, RGP_STATE_CUE = 1, RGP_STATE_SEQUENCE = 2, RGP_STATES };

typedef struct rgp_image_state {
    uint16_t kind; /* RGP_ACTUATOR_... */
    uint16_t of;   /* of a sequence: which; of a mode: how many names it has */
} rgp_image_state;

typedef struct rgp_image_sequence {
    uint16_t first_step, steps;
    uint16_t state;
    uint16_t condition; /* slot: it runs only while that is true; RGP_REF_NONE: always */
    uint16_t ending;    /* step to which it goes when it is ended or fails; RGP_REF_NONE: it ends at once */
    uint16_t reserved;  /* 0 */
} rgp_image_sequence;

/* Steps count from the first of their sequence. */
enum {
    RGP_STEP_DO = 0,    /* what: an action */
    RGP_STEP_DWELL = 1, /* value: ref; seconds */
    RGP_STEP_AWAIT = 2, /* what: slot; value: ref, seconds, or RGP_REF_NONE for no limit; target: where it goes when
                          that is over; RGP_REF_NONE: it fails */
    RGP_STEP_GO = 3,    /* what: slot, or RGP_REF_NONE; target */
    RGP_STEP_CYCLE =
        4, /* what: slot that ends it, or RGP_REF_NONE; value: ref, how often, or RGP_REF_NONE; target: behind it */
    RGP_STEP_AGAIN = 5, /* target: the CYCLE */
    RGP_STEP_END = 6,
    RGP_STEPS
};

typedef struct rgp_image_step {
    uint16_t kind, what, value, target;
} rgp_image_step;

typedef struct rgp_image_rule {
    uint16_t trigger;      /* ref; the rule wants to fire when it is not 0 */
    uint16_t holdoff;      /* ref; seconds */
    uint16_t first_action; /* in ACTIONS */
    uint8_t actions;       /* how many */
    uint8_t repeats;       /* 1: "while", the trigger is a condition; 0: "on", it is an event */
} rgp_image_rule;

/* The owner of a name. The section may be left out; nothing in the engine needs it. Names stand in the order of
 * their keys. */
enum {
    RGP_NAME_RIG,
    RGP_NAME_SLOT,  /* a parameter, sensor, actuator or computed value, and its unit */
    RGP_NAME_PART,  /* index: a slot whose numbers have names; part: such a number */
    RGP_NAME_RULE,  /* the rule's first line */
    RGP_NAME_MARK,  /* index: the action; the word of the mark */
    RGP_NAME_GUARD, /* the guard's line */
    RGP_NAME_STALL, /* the stall's line */
    RGP_NAME_STOP,  /* the stop's line */
    RGP_NAME_SEQUENCE,
    RGP_NAME_LOOP,
    RGP_NAMES /* how many kinds there are */
};

typedef struct rgp_image_name {
    uint16_t kind, index, part; /* RGP_NAME_...; what it is the name of */
    uint16_t line;              /* in the rig file, from 1 */
    uint32_t text;              /* bytes into TEXT, 0-terminated UTF-8 */
    uint32_t unit;              /* likewise; an empty text for none */
} rgp_image_name;

static inline uint64_t rgp_image_name_key(const rgp_image_name *name);

/* CRC-32 (IEEE 802.3, reflected, polynomial 0xEDB88320) over `size` bytes, going on from `seed`
 * (0 to begin). Bitwise: small rather than fast. */
uint32_t rgp_crc32(uint32_t seed, const void *bytes, uint32_t size);

/* True for an action that claims an actuator. */
static inline int rgp_action_drives(uint32_t kind);

/* The loader's answer to an image that is not sound: in which section, and in which row of it. RGP_SECTIONS: in none,
 * it is the frame, the checksum or the memory. */
typedef struct rgp_image_fault {
    uint32_t section, row; /* where the image is wrong: RGP_SECTION_..., the row in it */
} rgp_image_fault;

/* Trusts nothing: whatever passes here can be ticked for ever without a look aside. `memory`: as for rgp_engine_open();
 * it is written over. RGP_E_FORMAT, RGP_E_SIZE, RGP_E_DAMAGED, RGP_E_ALIGNMENT, RGP_E_INDEX, RGP_E_ORDER, RGP_E_CONFIG,
 * RGP_E_RANGE or RGP_E_MEMORY says what is wrong; `fault`, which may be NULL, where. */
rgp_status rgp_image_verify(const void *image, uint32_t size, void *memory, uint32_t memory_size,
                            rgp_image_fault *fault);

/* The value that rgp_image_header.checksum has to have for this image. */
uint32_t rgp_image_checksum(const void *image, uint32_t size);

/* The bytes of memory that the engine needs for this image, computed from its sections, which must be
 * complete; whoever makes an image writes this into its header. */
uint32_t rgp_image_memory(const rgp_image_header *image);

/* True when the operations of a run are computed four by four. */
static inline bool rgp_image_by_lanes(const rgp_image_run *run);

/* The place of the next run's states, in bytes from the first one's: a multiple of 8. */
static inline uint32_t rgp_image_behind_states(const rgp_image_run *run);

/* The element 0 of a section, RGP_SECTION_...; the image must have passed rgp_engine_open(). It lives as long as the
 * image. */
static inline const void *rgp_image_at(const rgp_image_header *image, uint32_t section);

/* The number of elements of a section. */
static inline uint32_t rgp_image_count(const rgp_image_header *image, uint32_t section);

/* The slot of a channel or a state, by its number. */
static inline uint32_t rgp_image_sensor_slot(const rgp_image_header *image, uint32_t sensor);

static inline uint32_t rgp_image_actuator_slot(const rgp_image_header *image, uint32_t actuator);

static inline uint32_t rgp_image_state_slot(const rgp_image_header *image, uint32_t state);

/* A loop by its number, below the count of LOOPS. It lives as long as the image. */
static inline const rgp_image_loop *rgp_image_loop_at(const rgp_image_header *image, uint32_t number);

/* Which term of a loop (RGP_TERM_...) a slot is; -1: none. */
int32_t rgp_image_term(const rgp_image_header *image, uint32_t slot);

/* True for the terms of a loop but its phase and its error, and for the parameters that a loop brings: what a list that
 * has to be short leaves out. */
bool rgp_image_is_detail(const rgp_image_header *image, uint32_t slot);

/* The name entry, or NULL when the image carries none for it. */
const rgp_image_name *rgp_image_name_of(const rgp_image_header *image, uint32_t kind, uint32_t index, uint32_t part);

/* The text of that entry; "?" when there is none. Lives as long as the image. */
const char *rgp_image_text(const rgp_image_header *image, uint32_t kind, uint32_t index, uint32_t part);

/* The unit that goes with it; "" when there is none. */
const char *rgp_image_unit(const rgp_image_header *image, uint32_t kind, uint32_t index, uint32_t part);

/* The number of what the rig file calls `name`: of a parameter for rgp_engine_set(), of a sensor for
 * rgp_engine_sense(), of an actuator for rgp_engine_output(), of any of them and of a signal its slot for
 * rgp_engine_value(). -1: there is no such thing, or the image carries no names. Looks through all names: to be asked
 * once, before the first tick. */
typedef enum rgp_image_kind { RGP_FIND_SLOT, RGP_FIND_PARAM, RGP_FIND_SENSOR, RGP_FIND_ACTUATOR } rgp_image_kind;
int32_t rgp_image_find(const rgp_image_header *image, rgp_image_kind kind, const char *name);

/* The version that an image states, to be told beside RGP_IMAGE_VERSION where rgp_engine_open() refuses it with
 * RGP_E_FORMAT; 0: these bytes are no image of any version. */
uint32_t rgp_image_version_of(const void *bytes, uint32_t size);

/* Takes the names off an image, in place, for a small memory: nothing in the engine needs them. Returns its size then,
 * of which the bytes behind are free. An image whose names do not come last, which no compiler of this library makes,
 * stays as it is. */
uint32_t rgp_image_strip(rgp_image_header *image);

RGP_DECLARATIONS_END

#include "rigpulse/inside/image.h"

#endif
