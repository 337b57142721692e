/* A rig file as a tree: what the parser makes, the checker completes and the emitter reads. */
#ifndef LANG_TREE_H
#define LANG_TREE_H

#include "lexer.h"
#include "lang/vocabulary/units.h"
#include "lang/vocabulary/words.h"

#include "rigpulse/regulate.h"

#define NAMED_MAX  16
#define NAME_LISTS 1024u /* names are found by the list that a hash of theirs tells */

typedef enum type_kind { TYPE_UNKNOWN, TYPE_NUMBER, TYPE_TRUTH, TYPE_EVENT, TYPE_NAMED } type_kind;

/* TYPE_NAMED: one of a few names (bands, a switch); `symbol` says which. */
typedef struct type {
    type_kind kind;
    unit unit;
    const struct symbol *symbol;
} type;

typedef enum node_kind {
    NODE_NUMBER,  /* number, in `type.unit`; text_at: without its unit */
    NODE_NAME,    /* text; symbol once checked */
    NODE_JOIN,    /* op, a, b */
    NODE_COMPARE, /* op's word in text, a, b, margin in c or NULL */
    NODE_IS,      /* a, text (the name), negated */
    NODE_EDGE,    /* a: a truth; which */
    NODE_NOT,     /* a */
    NODE_LASTS,   /* a: a truth; b: the time */
    NODE_STAGE,   /* a, stage, settings */
    NODE_CONVERT, /* a, to type.unit */
    NODE_DETECT,  /* detector; a: what it looks at, or NULL; b, c, d: its settings, or NULL; number: which */
    NODE_LOOP,    /* one term of a loop: which; a, b, c: what is measured, the setpoint, the feed or NULL */
    NODE_APPLY,   /* op, its word in text, a: a function of one value */
    NODE_KNOWN,   /* a: whether it can be used; negated */
    NODE_START    /* the event of the first tick */
} node_kind;

typedef struct point_node {
    struct node *in, *out;
} point_node;

typedef struct setting_node {
    struct node *value;
    point_node *point;
    uint32_t points;
    uint32_t choice;
    bool given;
} setting_node;

typedef struct node {
    node_kind kind;
    text_range at;
    type type;
    double number;
    const char *text;
    text_range text_at;
    const struct symbol *symbol;
    uint8_t op;
    uint8_t which; /* of an edge; of a loop: RGP_TERM_... */
    struct loop *loop;
    bool negated;
    struct node *a, *b, *c, *d;
    const detector_word *detector;
    const stage_word *stage;
    setting_node *setting; /* one for each of the stage's */
} node;

/* Those before SIGNAL have slots that are given; a STATE is a mode, a cue or a sequence. */
typedef enum symbol_kind {
    SYMBOL_PARAM,
    SYMBOL_SENSOR,
    SYMBOL_ACTUATOR,
    SYMBOL_STATE,
    SYMBOL_SIGNAL,
    SYMBOL_BANDS
} symbol_kind;

typedef struct band_name {
    const char *name;
    text_range at;
    const char *side; /* "below", "above" or NULL */
    node *limit;
} band_name;

typedef struct symbol {
    symbol_kind kind;
    const char *name;
    text_range at;
    uint32_t index; /* among its kind */
    uint32_t place; /* in tree.symbol */
    struct symbol *earlier;
    type type;
    bool checked;
    bool used; /* something goes by it */

    text_range value_at;             /* of a signal, of what bands look at: the expression, to the last character */
    node *value;                     /* of a signal; what bands look at; a parameter's initial value; a rest value */
    node *low, *high;                /* of a parameter, a sensor, an actuator */
    double initial, least, greatest; /* of a parameter, a sensor, an actuator; in the type's unit */
    bool is_switch;

    uint32_t state;    /* of a STATE: RGP_STATE_... */
    uint32_t sequence; /* of a sequence: which */
    uint32_t entered;  /* of a mode: bit i: something sets it to name i; of a cue: 1 when something gives it */

    bool timed;        /* of a sensor: its changes are measured */
    struct loop *loop; /* of a parameter that is a setting of a loop; NULL: none */

    bool pinned; /* of a sensor: what its readings are held against; NULL: not */
    node *stuck, *jump, *every, *fault, *again;
    double stuck_s, jump_per_s, every_s, fault_s, again_s;

    node *least_power, *slew, *longest, *duty, *window, *settle, *portion, *portion_time, *lead; /* of an actuator */
    double least_by, slew_by, longest_s, duty_share, window_s, settle_s, lead_s;
    double seconds_each; /* of one `portion_unit`; 0: amounts are no times */
    unit portion_unit;
    bool inverted;

    band_name name_of[NAMED_MAX]; /* of bands and switches, from the lowest */
    uint32_t names;
    node *margin;
    node *border[NAMED_MAX];
    uint32_t above; /* bit i: border i belongs to the band above it */
} symbol;

typedef enum action_kind {
    ACTION_DRIVE,
    ACTION_MARK,
    ACTION_RELEARN,
    ACTION_PARAM,
    ACTION_BEGIN,
    ACTION_FINISH,
    ACTION_STATE
} action_kind;

typedef enum drive_how { DRIVE_TO, DRIVE_TOGGLE, DRIVE_STEP } drive_how;

typedef struct action {
    action_kind kind;
    drive_how how; /* of ACTION_DRIVE */
    text_range at;
    const char *text; /* the mark, or the name of the actuator or signal */
    const symbol *actuator;
    const symbol *signal; /* to be learned again */
    const symbol *param;  /* to be set */
    const symbol *state;  /* a sequence, a mode, a cue */
    bool anew;            /* of BEGIN */
    node *value;          /* may be a name of the switch */
    node *duration;       /* NULL: a plain set */
    node *period;         /* from one time to the next; NULL: there is one */
    uint32_t times;
    uint32_t priority; /* among timed actions on one actuator; the greater goes over the lesser */
} action;

typedef struct rule {
    text_range at; /* the first line */
    bool broken;   /* a line below it was not understood */
    bool repeats;
    node *trigger;
    action *action;
    unsigned actions, actions_room;
    node *holdoff; /* NULL: none */
} rule;

/* A step of a sequence; RGP_STEP_... */
typedef struct seq_step {
    uint32_t kind;
    text_range at;
    action action;     /* of DO */
    node *condition;   /* of AWAIT, GO and CYCLE */
    node *value;       /* the time of DWELL, the limit of AWAIT, how often of CYCLE */
    bool however_long; /* of AWAIT: it is meant to have no limit */
    bool or_end;       /* of AWAIT: when the limit is over the sequence ends, and has not failed */
    const char *to;    /* a part; NULL: none */
    text_range to_at;
    uint32_t target; /* once it is known; RGP_REF_NONE: none */
} seq_step;

typedef struct seq_part {
    const char *name;
    text_range at;
    uint32_t step;
    bool used;
} seq_part;

typedef struct sequence {
    text_range at;
    bool broken; /* a step was not understood */
    symbol *symbol;
    uint32_t priority;
    node *only; /* NULL: it may always run */
    seq_step *step;
    unsigned steps, steps_room;
    seq_part *part;
    unsigned parts, parts_room;
    bool begun; /* something begins it */
} sequence;

/* A continuous drive. */
typedef struct follow {
    text_range at; /* of the name */
    const char *name;
    const symbol *actuator; /* once checked */
    node *value;
    struct loop *loop; /* whose output it is; NULL: none */
} follow;

/* A control loop. Its terms are signals, its gains parameters. */
typedef struct loop_value {
    node *value;   /* NULL: not written */
    symbol *param; /* that it has become; NULL: none */
    bool given;
} loop_value;

typedef struct loop_line_of {
    const loop_line *line;
    text_range at;
    loop_value setting[LOOP_LINE_SETTINGS_MAX];
} loop_line_of;

typedef struct loop {
    text_range at;
    bool broken; /* a line below it was not understood */
    const char *name;
    uint32_t index;
    node *measured, *setpoint, *feed; /* feed: NULL: none */
    node *only;                       /* a condition; NULL: none */
    const char *actuator_name;
    text_range actuator_at;
    const symbol *actuator; /* once checked */
    loop_line_of line[LOOP_LINES_MAX];
    uint32_t lines;
    const loop_line_of *method; /* NULL: none is written */
    node *low, *high;           /* limits; NULL: the travel */
    double least, greatest;
    bool reverse, one_way;
    symbol *term[RGP_TERMS]; /* NULL behind those that its method has */
    symbol *trim, *push;
    bool named; /* all its terms and parameters are there */
    bool checked, sound;
} loop;

typedef struct guard {
    text_range at;
    const char *name; /* of the actuator; NULL: of all */
    text_range name_at;
    const symbol *actuator; /* once checked */
    uint32_t side;          /* RGP_GUARD_... */
    node *limit;            /* NULL: rest */
    bool named;             /* the limit is "on" or "off" of a switch */
    node *condition;
    const char *other_name; /* the actuator it must not be driven with; NULL: none */
    text_range other_at;
    const symbol *other; /* once checked */
} guard;

/* Driven, but nothing moves. */
typedef struct stall {
    text_range at, name_at;
    const char *name;
    const symbol *actuator; /* once checked */
    node *value, *amount, *time;
    double amount_by, time_s;
} stall;

/* An emergency stop. */
typedef struct stop {
    text_range at;
    node *condition, *release; /* release: NULL: by hand */
} stop;

typedef struct keep {
    text_range at;
    const char *name;
    const symbol *signal; /* once checked */
} keep;

/* A statement of the file, with everything that is indented below it. */
typedef struct statement_at {
    statement_id id;
    text_range at;
} statement_at;

/* A hook-up as it is written: its lines are read when all names are known. */
typedef struct hookup_text {
    const token *port;
    token **line; /* the first token of each */
    unsigned lines, lines_room;
} hookup_text;

typedef struct tree {
    const char **refused_name; /* that were to be declared, but are no names */
    unsigned refused, refused_room;
    report *report;
    rgp_arena *arena;
    unit_set units;
    const char *name;
    uint32_t tick_us;
    symbol **symbol;
    unsigned symbols, symbols_room;
    symbol **order; /* all symbols, each behind those that it needs */
    unsigned ordered, order_room;
    symbol *by_name[NAME_LISTS];      /* the last one of each list; `earlier` leads on */
    uint32_t count[SYMBOL_BANDS + 1]; /* of each kind */
    rule *rule;
    unsigned rules, rules_room;
    guard *guard;
    unsigned guards, guards_room;
    sequence *sequence;
    unsigned sequences, sequences_room;
    stall *stall;
    unsigned stalls, stalls_room;
    stop *stop;
    unsigned stops, stops_room;
    keep *keep;
    unsigned keeps, keeps_room;
    follow *follow;
    unsigned follows, follows_room;
    loop **loop;
    unsigned loops, loops_room;
    statement_at *statement;
    unsigned statements, statements_room;
    hookup_text *hookup;
    unsigned hookups, hookups_room;
    bool traced;               /* each operation of the image gets a slot of its own */
    struct rgp_origin *origin; /* by slot; NULL: it is not traced */
} tree;

#define SYMBOLS_MAX 4000u
#define RULES_MAX   4000u
#define ACTIONS_MAX 200u
#define NEST_MAX    64u
#define LINKS_MAX   1000u /* operators and stages of one statement */

node *tree_node(tree *t, node_kind kind, text_range at);
void tree_add(tree *t, symbol *s);
symbol *tree_find(const tree *t, const char *name);

/* Leaves only the first `symbols`: the names of the others are refused. */
void tree_take_back(tree *t, unsigned symbols);

/* Once the names are checked: calls `visit` for each claim, with its actuator and where the statement that makes it
 * is. */
void tree_visit_claims(const tree *t, void (*visit)(void *self, const symbol *actuator, text_range at), void *self);

/* Calls `visit` for the node and all that it is made of. */
void tree_visit(const node *n, void (*visit)(void *self, const node *n), void *self);

/* Marks, by place in tree.symbol, all that a node needs; and whether a symbol is among it. */
void tree_mark(const tree *t, const node *n, unsigned char *seen);
void tree_mark_rule(const tree *t, const rule *r, unsigned char *seen);
void tree_mark_sequence(const tree *t, const sequence *s, unsigned char *seen);
bool tree_needs(const tree *t, const node *n, const symbol *s);

#define SINGLE_EXACT 16777216.0 /* 2^24: up to here a float of 32 bits holds every whole number */

/* A channel that there is, by its number. */
const symbol *tree_channel(const tree *t, symbol_kind kind, uint32_t index);

/* The advice "did you mean 'x'?" for a name that is like a mistyped one, or NULL. */
const char *tree_suggest(tree *t, const char *wrong);

/* Likewise for a word that goes on with a statement. */
const char *tree_suggest_phrase(tree *t, const char *wrong);

/* A name whose declaration was not understood: that has been said, and its uses are no mistakes of their own. */
void tree_refuse(tree *t, const char *name);
bool tree_is_refused(const tree *t, const char *name);

#define TREE_MISSING "there is no '%s' in this rig"

/* Reports the word as an unknown name, with the nearest known one. */
void tree_unknown(tree *t, text_range at, const char *name);

/* parser.c: reports what is wrong and goes on with the next line. */
void lang_parse(tree *t, token *tokens);

/* order.c: fills tree.order; reports names that need themselves, which then count as checked. */
void lang_order(tree *t);

/* checker.c: names, units, cycles, ranges. */
void lang_check(tree *t);

/* The number of a switch's or band's name; false when it has no such name. */
/* "did you mean 'low'?", or which names it can have. */
const char *symbol_choose(tree *t, const symbol *s, const char *wrong);

bool symbol_part(const symbol *s, const char *name, uint32_t *number);

/* The unit that a setting of a checked stage is kept in; *interval: only distances count. */
unit lang_setting_unit(const tree *t, const node *n, const stage_setting *is, bool *interval);

/* The unit that a setting of a loop whose inputs are checked is kept in; *interval: only distances count. */
unit lang_loop_unit(const tree *t, const loop *l, unit_id id, bool *interval);

/* Warnings that need to know what the measured value can be. */
void lang_warn_loop(tree *t, const loop *l, bool known, double low, double high);

/* Orders bands from the lowest and finds out whose each border is; reports what does not fit. */
void lang_order_bands(tree *t, symbol *s);

/* A checked node as a constant in `wanted`: true for a number or a sum of numbers. */
bool node_constant(const node *n, unit wanted, double *value);

/* hookup.c: one after the other, `made` having room for all of them. */
void lang_read_hookups(tree *t, const rgp_catalog *catalogs, rgp_hookup *made);

/* check_hookup.c: warnings about a rig without errors, from what is hooked up. */
void lang_warn_hookup(tree *t, const rgp_hookup *h);

/* emitter.c: the image of a tree; *size in bytes. Of a tree with errors the sound parts are gone through
 * all the same, since some settings can only be judged when they are complete; then, and when a limit of
 * the image was met, NULL. */
void *lang_emit(tree *t, uint32_t *size);

#endif
