/* Parts that the emitter's files share: the image while it is being made. */
#ifndef LANG_EMIT_H
#define LANG_EMIT_H

#include "lang/parse/tree.h"

#include "image/ops.h"
#include "rigpulse/engine.h"

#define CONFIG_BYTES_MAX  160u
#define PATCHES_MAX       20u
#define CORNER_PARAMS_MAX 8u
#define HALVINGS          40u

/* All that a value can be while it is usable; not `known`: anything. */
typedef struct value_range {
    bool known;
    double low, high;
} value_range;

/* The sensors, in rising order, of which one has to be new for a value to be so; or every tick. */
typedef struct pace_set {
    bool every_tick;
    uint32_t sensors;
    uint16_t *sensor;
} pace_set;

typedef struct value_ref {
    uint16_t ref;
    uint32_t level;
    value_range value_range;
    const pace_set *pace; /* NULL: of nothing that is read */
    bool stands;          /* it may have to stand for some ticks: nothing else is written to its slot */
} value_ref;

/* A field of a config that a parameter sets. */
typedef struct live_field {
    const symbol *param;
    uint32_t offset;
    double scale, shift;
} live_field;

typedef struct operation {
    uint8_t op;
    uint32_t level, order;
    uint8_t way;    /* RGP_WAY_... */
    bool steady;    /* its result changes only with a sensor or a parameter */
    uint16_t pace;  /* of the image, from 1; 0: every tick */
    uint16_t owner; /* the slot of the signal whose stage it is, or RGP_REF_NONE */
    text_range at;
    uint16_t in[STAGE_INPUTS_MAX], out[RGP_TERMS];
    uint32_t config_bytes, state_bytes, fields;
    unsigned char config[CONFIG_BYTES_MAX];
    live_field field[PATCHES_MAX];
} operation;

typedef struct emitter {
    tree *t;
    uint32_t slots;
    uint16_t owner;                  /* of the signal that is being computed, or RGP_REF_NONE */
    unsigned char *wide;             /* by sensor: 1 when its range goes beyond what a float holds */
    uint32_t base[SYMBOL_BANDS + 1]; /* first slot of each kind that has its slots in a row */
    value_ref *of_symbol;            /* by place in tree.symbol; level UINT32_MAX: not yet */
    operation **operation;
    unsigned operations, operations_room;
    float *constant;
    unsigned constants, constants_room;
    rgp_image_claim *claim;
    rgp_image_action *action;
    rgp_image_actuator *actuator;
    rgp_image_rule *rule;
    uint32_t claims, actions;
    rgp_image_drive *drive;
    rgp_image_loop *loop;
    rgp_image_guard *guard;
    uint32_t *guard_source; /* by guard of the image: which of the tree's it was */
    unsigned guards, guards_room, guard_sources, guard_sources_room;
    rgp_image_state *state;
    rgp_image_sequence *sequence;
    rgp_image_step *step;
    uint32_t steps;
    rgp_image_stall *stall;
    uint32_t *stall_source; /* by stall of the image */
    unsigned stalls, stall_sources, stall_sources_room;
    rgp_image_stop *stop;
    rgp_image_retained *keep;
    rgp_image_pace *pace;
    uint16_t *pace_sensor;
    unsigned paces, paces_room, pace_sensors, pace_sensors_room;
    rgp_image_need *need;
    unsigned needs, needs_room;
    const symbol **fault; /* the sensors whose bad readings are a fault */
    unsigned faulted, fault_room;
    rgp_image_name *name;
    unsigned names, names_room;
    char *text;
    unsigned text_length, text_room;
} emitter;

/* A fresh slot; the limit is reported. */
uint16_t emit_new_slot(emitter *e);

/* The reference of a constant; equal ones are one. */
value_ref emit_constant(emitter *e, double number, text_range at);

/* A new operation, its settings all 0, to be filled and then finished. */
operation *emit_operation(emitter *e, uint8_t op, text_range at);
void emit_set_float(operation *o, uint32_t offset, double value);
void emit_set_u32(operation *o, uint32_t offset, uint32_t value);

/* A fixed value in `wanted`; a parameter also makes the field live. */
void emit_set_fixed(operation *o, uint32_t offset, const node *n, unit wanted);

/* The slot of a result: `target`; with RGP_REF_NONE over the input when nobody else reads that and it need not stand,
 * else a slot of its own. */
uint32_t emit_place_for(emitter *e, const node *input, value_ref in, uint32_t target);

/* The slot itself, for a result that may take the place of what is in it; of a rig that is traced another one. */
uint16_t emit_over(emitter *e, uint16_t slot);

/* The input of an operation whose result goes to `target`: there too, unless it has to stand. */
value_ref emit_inner(emitter *e, const node *n, uint32_t target);

/* Gives the operation its inputs, its place and its level, and holds its settings against its block's check. */
value_ref emit_finish(emitter *e, operation *o, const value_ref *in, uint32_t target, const char *advice);

/* Computes a node into the slot `target` (RGP_REF_NONE: wherever there is room), or says where its value lies
 * already. */
value_ref emit_node(emitter *e, const node *n, uint32_t target);
value_ref emit_symbol(emitter *e, const symbol *s);

/* Gives a signal, bands or the terms of a loop their slots, in the order of the file. */
void emit_reserve(emitter *e, const symbol *s);
value_ref emit_term(emitter *e, const symbol *s); /* of a loop */
value_ref emit_scale(emitter *e, text_range at, value_ref in, double gain, double offset, uint32_t target);

/* The range that an operation can make of what its inputs can be, with the settings of `config`; and what either of two
 * can be.
 */
value_range value_range_of(uint8_t op, const void *config, const value_ref *in);
value_range value_range_either(value_range a, value_range b);

/* The sensors by which a value is new: of a sensor itself, and of the result of an operation. */
const pace_set *pace_of_sensor(emitter *e, uint32_t sensor);
const pace_set *pace_of_result(emitter *e, uint8_t op, const value_ref *in);

/* The image's pace by which an operation steps, from 1; 0: in every tick. */
uint16_t pace_of_steps(emitter *e, uint8_t op, const value_ref *in);

/* The reference of a value that an action or a guard gives an actuator. */
uint16_t emit_value(emitter *e, const node *n, unit wanted);

/* True when a parameter sets one of its settings; and when two operations belong to one run. */
bool emit_is_live(const operation *o);
bool emit_same_run(const operation *x, const operation *y);

/* The operations in the order of the image. */
void emit_sort(emitter *e);

/* Finds the steady ones among the operations, and those that go four by four. They stand in the order of computing,
 * what belongs to one run together. */
void emit_find_steady(emitter *e);
void emit_find_lanes(emitter *e);

/* The rules with their claims and actions; which sensors with faults each needs; the names; and the whole. */
void emit_rules(emitter *e);
void emit_loops(emitter *e); /* when their drives are known */
void emit_guards(emitter *e);
void emit_stalls(emitter *e);
void emit_stops_and_keeps(emitter *e);
void emit_needs(emitter *e);
void emit_names(emitter *e);
void *emit_image(emitter *e, uint32_t *size);

#endif
