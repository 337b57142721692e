/* The words of the language: a table for each group, from which the parser reads what there is, and messages, documents
 * and `rigpulse words` what it means. */
#ifndef LANG_WORDS_H
#define LANG_WORDS_H

#include "units.h"

#include "rigpulse/lang.h"

/* The fields that each row of each table begins with. `slip` is the mistake that is most often made with it, and the
 * way out; NULL: none is known. */
#define WORD_ROW const char *word, *form, *help, *example, *slip
typedef struct word_row {
    WORD_ROW;
} word_row;

/* ---- what numbers may be ---------------------------------------------------------------------------- */

#define GREAT 1e30 /* the most that any number may be */

/* From `low` on, or above it, to `high`; not 0; odd. */
typedef struct number_limits {
    double low, high;
    bool above, not_zero, odd;
} number_limits;

number_limits limits_between(double low, double high);

/* Those of a setting of a block, by the operation and the setting's place in its config. */
number_limits limits_of_setting(uint8_t op, uint16_t offset);

/* ---- stages ---------------------------------------------------------------------------------------- */

/* The shapes of a stage's settings, and where their values go. */
typedef enum setting_shape {
    SETTING_NUMBER,      /* a float in `unit` */
    SETTING_COUNT,       /* a bare whole number */
    SETTING_FROM,        /* the low end of a range: a float in `unit`; the next one is SETTING_UPTO */
    SETTING_UPTO,        /* behind "..": its high end */
    SETTING_POINTS,      /* in: out, in: out, ... */
    SETTING_FLAG,        /* the word alone: 1 */
    SETTING_KIND,        /* the word alone: the whole number `initial`; one of several for the same field */
    SETTING_CHOICE,      /* one of two words: 0 or 1 */
    SETTING_SIGNAL,      /* a further input, in `unit`; goes to no field */
    SETTING_VALUE,       /* likewise; may also be a number or a parameter */
    SETTING_CONDITION,   /* likewise a condition */
    SETTING_SWITCH,      /* likewise a switch or a condition whose changes are measured */
    SETTING_FIXED,       /* not written: the whole number `initial` */
    SETTING_FIXED_FLOAT, /* not written: the number `initial` */
    SETTING_IS_EVENT,    /* not written: 1 when the input is an event */
    SETTING_SCALE_IN,    /* not written: one input unit in `unit` */
    SETTING_SCALE_OUT    /* not written: one `unit` in output units */
} setting_shape;

typedef struct stage_setting {
    const char *word; /* NULL: written without one, in this place */
    const char *name; /* in messages */
    setting_shape shape;
    unit_id unit;
    double initial;  /* when it is not written; REQUIRED */
    uint16_t offset; /* of its 4 bytes in the config, whose limits are the block's */
    const char *choice[2];
    bool zero_is_none; /* 0 stands for "it is not said" there, so that it cannot be written */
} stage_setting;

#define REQUIRED           (1e300)
#define STAGE_SETTINGS_MAX 8
#define STAGE_INPUTS_MAX   3

/* The unit of a stage's output. */
typedef enum stage_result {
    RESULT_SAME,
    RESULT_DIFFERENCE, /* the same, as a difference */
    RESULT_OF_SETTING, /* that in which setting `result_of` is written */
    RESULT_FIXED,      /* `result_unit` */
    RESULT_PER_SECOND,
    RESULT_TIMES_SECOND
} stage_result;

/* The inputs of a stage: a quantity, or changes that it measures. */
typedef enum stage_input {
    TAKES_QUANTITY,
    TAKES_SWITCH, /* a switch or a condition */
    TAKES_EVENT   /* also an event */
} stage_input;

typedef struct stage_word {
    WORD_ROW;
    uint8_t op;
    stage_result result;
    uint32_t result_of;
    unit_id result_unit;
    stage_input takes;
    unit_id unit;                              /* the kind of unit that its input has */
    stage_setting setting[STAGE_SETTINGS_MAX]; /* ends with a row without a name */
} stage_word;

extern const stage_word stage_words[];
extern const uint32_t stage_words_count;
number_limits stage_limits(const stage_word *word, const stage_setting *is);

/* ---- operators and detectors ----------------------------------------------------------------------- */

/* Words and marks that join two values, compare them or say something of one. */
typedef struct operator_word {
    WORD_ROW;
    uint8_t op;
    uint8_t takes; /* so many values, in brackets behind it; 0: it is written otherwise */
    bool reserved; /* a value or a condition can begin with it: it is no name */
} operator_word;

extern const operator_word operator_words[];
extern const uint32_t operator_words_count;

/* Words that join parts of a statement and may stand behind a number that has no unit. */
extern const char *const joining_words[];
extern const uint32_t joining_words_count;

/* Words that make an event or a condition of a value, of other events, or of time alone. Its settings are fixed values,
 * written in their order. */
#define DETECTOR_SETTINGS_MAX 3
typedef struct detector_setting {
    const char *word; /* before it; NULL: it stands behind the detector's own word, or before that */
    const char *name; /* in messages */
    unit_id unit;
    uint16_t offset;
    bool optional; /* when it is not written it is 0 */
    bool comma;    /* there may be one before it */
} detector_setting;

typedef enum detector_input { DETECTS_NOTHING, DETECTS_NUMBER, DETECTS_NAMED, DETECTS_EVENT } detector_input;

/* The place of a detector's word: behind what it looks at, before that, or between a first part and that. */
typedef enum detector_place { DETECTOR_BEHIND, DETECTOR_FIRST, DETECTOR_BETWEEN } detector_place;

typedef struct detector_choice {
    const char *word;
    uint32_t value;
} detector_choice;

#define DETECTOR_CHOICES 2
typedef struct detector_word {
    WORD_ROW;
    uint8_t op;
    detector_place place;
    detector_input input;
    bool gives_event; /* else a condition */
    bool reserved;
    detector_setting setting[DETECTOR_SETTINGS_MAX]; /* ends with a row without a name */
    detector_choice choice[DETECTOR_CHOICES];        /* words that may follow at once */
    uint32_t otherwise;                              /* when none of them does */
    bool has_which;
    uint16_t which_offset; /* of the field that says which */
} detector_word;

extern const detector_word detector_words[];
extern const uint32_t detector_words_count;
number_limits detector_limits(const detector_word *word, const detector_setting *is);
const detector_word *detector_word_find(const char *word);

/* ---- loops ----------------------------------------------------------------------------------------- */

/* The parts of a control loop: the lines below it. A line's settings follow its word; one that is marked with the
 * ending of a parameter's name becomes such a parameter where it is written as a number, so that it can be changed
 * while the rig runs. */
#define LOOP_LINE_SETTINGS_MAX 9
#define LOOP_LINES_MAX         12
typedef struct loop_setting {
    const char *word; /* may be several words; NULL: written without one, behind the line's word */
    const char *name; /* in messages */
    unit_id unit;
    double initial; /* when it is not written; REQUIRED */
    uint16_t offset;
    bool flag; /* the word alone: 1 */
    const char *param;
    bool from_one; /* the field holds one minus what is written */
    bool zero_is_none;
} loop_setting;

/* The kind of the line: how the loop regulates, something all loops have, or something of its own. */
typedef enum loop_line_kind {
    LOOP_METHOD,
    LOOP_COMMON,
    LOOP_PREDICT,
    LOOP_LIMITS,
    LOOP_FEED,
    LOOP_ONLY,
    LOOP_FLAG
} loop_line_kind;

typedef struct loop_line {
    WORD_ROW; /* the word may be several, or hold a hyphen */
    loop_line_kind kind;
    uint8_t op;                                   /* whose settings it has */
    uint16_t low, high, reverse;                  /* of a METHOD: where its limits and its direction go */
    loop_setting setting[LOOP_LINE_SETTINGS_MAX]; /* ends with a row without a name */
} loop_line;

extern const loop_line loop_lines[];
extern const uint32_t loop_lines_count;
number_limits loop_limits(const loop_line *line, const loop_setting *is);

/* The signals and parameters that a loop brings. */
extern const word_row term_words[];
extern const uint32_t term_words_count;

/* ---- statements, and the lines below them ---------------------------------------------------------- */

typedef enum statement_id {
    STATEMENT_RIG,
    STATEMENT_TICK,
    STATEMENT_UNIT,
    STATEMENT_SENSOR,
    STATEMENT_ACTUATOR,
    STATEMENT_PARAM,
    STATEMENT_SIGNAL,
    STATEMENT_BANDS,
    STATEMENT_ON,
    STATEMENT_WHILE,
    STATEMENT_SEQUENCE,
    STATEMENT_MODE,
    STATEMENT_CUE,
    STATEMENT_NEVER,
    STATEMENT_STOP,
    STATEMENT_KEEP,
    STATEMENT_DRIVE,
    STATEMENT_LOOP,
    STATEMENT_HOOKUP,
    STATEMENTS
} statement_id;

/* The lines that may stand below a statement, indented. */
typedef enum statement_body { BODY_NONE, BODY_ACTIONS, BODY_STEPS, BODY_LOOP_LINES, BODY_HOOKUP_LINES } statement_body;

/* The role of a statement. Those that CLAIM ask for values of actuators: DRIVES of the one that its line names, ACTS of
 * any by the lines below it. */
typedef enum statement_role {
    ROLE_DECLARES, /* the rig, a channel, a unit, a number: it stands above what is computed */
    ROLE_COMPUTES, /* a quantity, a band */
    ROLE_ACTS,
    ROLE_HOLDS, /* a state that others set and heed, or what is retained */
    ROLE_GUARDS,
    ROLE_DRIVES,
    ROLE_CONNECTS,
    ROLES
} statement_role;

bool statement_claims(statement_id id);
const char *statement_does(statement_id id); /* in words: "drives an actuator" */

typedef struct statement_word {
    WORD_ROW;
    statement_role role;
    statement_body body;
    const char *once; /* what is said of a second one; NULL: there may be any number */
} statement_word;

extern const statement_word statement_words[STATEMENTS];

/* Actions. The rows from ACTION_WORDS on begin with a name, and say what may follow. */
typedef enum action_id {
    ACTION_ID_MARK,
    ACTION_ID_RELEARN,
    ACTION_ID_TOGGLE,
    ACTION_ID_BEGIN,
    ACTION_ID_END,
    ACTION_ID_CUE,
    ACTION_ID_HOLDOFF,
    ACTION_WORDS
} action_id;

extern const word_row action_words[];
extern const uint32_t action_words_count;

/* Steps. The rows from STEP_WORDS on say more of them. */
typedef enum step_id {
    STEP_ID_DWELL,
    STEP_ID_AWAIT,
    STEP_ID_GO,
    STEP_ID_PART,
    STEP_ID_CYCLE,
    STEP_ID_END,
    STEP_WORDS
} step_id;

extern const word_row step_words[];
extern const uint32_t step_words_count;

/* The options behind a sensor's range. */
typedef enum sensor_option {
    SENSOR_PINNED,
    SENSOR_EVERY,
    SENSOR_JUMP,
    SENSOR_STUCK,
    SENSOR_FAULT,
    SENSOR_AGAIN,
    SENSOR_OPTIONS
} sensor_option;

extern const word_row sensor_options[SENSOR_OPTIONS]; /* a word may be two */

/* The settings behind an actuator's rest value. */
typedef enum actuator_setting {
    ACTUATOR_LEAST,
    ACTUATOR_SLEW,
    ACTUATOR_LONGEST,
    ACTUATOR_DUTY,
    ACTUATOR_SETTLE,
    ACTUATOR_GIVES,
    ACTUATOR_INVERTED,
    ACTUATOR_SETTINGS
} actuator_setting;

typedef struct actuator_word {
    WORD_ROW;
    bool numbers_only; /* an actuator of names has none */
} actuator_word;

extern const actuator_word actuator_words[ACTUATOR_SETTINGS];

/* The lines below a hook-up; the kinds of mechanisms are the port's. */
extern const word_row hookup_words[];
extern const uint32_t hookup_words_count;

/* ---- finding --------------------------------------------------------------------------------------- */

const stage_word *stage_word_find(const char *word);
const operator_word *operator_word_find(const char *word);

/* A reserved word is no name: a value, a condition, an action, a step or a line of a hook-up begins with it; or a
 * former version's word. */
bool word_is_reserved(const char *word);

/* A character that looks like another one. */
typedef struct foreign_character {
    const char *bytes, *name, *advice;
} foreign_character;
const foreign_character *foreign_character_at(const char *text, uint32_t length); /* NULL: there is none */

#endif
