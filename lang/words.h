/* The words of the language that name an operation, and how their settings are written. */
#ifndef LANG_WORDS_H
#define LANG_WORDS_H

#include "rigpulse/lang.h"

/* The shapes of a stage's settings, and where their values go. */
typedef enum setting_shape {
    SETTING_NUMBER,      /* a float in `unit` */
    SETTING_COUNT,       /* a bare whole number */
    SETTING_ODD,         /* an odd one */
    SETTING_FROM,        /* the low end of a range: a float in `unit`; the next one is SETTING_UPTO */
    SETTING_UPTO,        /* behind "..": its high end */
    SETTING_POINTS,      /* in: out, in: out, ... */
    SETTING_FLAG,        /* the word alone: 1 */
    SETTING_KIND,        /* the word alone: the whole number `low`; one of several for the same field */
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

/* Units of settings, beside those of units.def. */
#define UNIT_IN          "in"     /* the input's */
#define UNIT_IN_INTERVAL "in~"    /* the input's, as an interval */
#define UNIT_OUT         "out"    /* the output's */
#define UNIT_OUT_PER_IN  "out/in" /* what a gain is in */
#define UNIT_ANY         "any"    /* whatever is written */

typedef struct stage_setting {
    const char *word; /* NULL: written without one, in this place */
    const char *name; /* in messages */
    setting_shape shape;
    const char *unit;
    double low, high;
    double initial;  /* when it is not written; REQUIRED */
    uint16_t offset; /* of its 4 bytes in the config */
    const char *choice[2];
} stage_setting;

/* The inputs that a measuring stage takes instead of a quantity. */
#define INPUT_SWITCH       "switch" /* a switch or a condition */
#define INPUT_EVENT        "event"  /* also an event */

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

typedef struct stage_word {
    const char *word;
    uint8_t op;
    stage_result result;
    uint32_t result_of;
    const char *result_unit;
    const char *input;                         /* the kind of unit that it needs, or INPUT_...; NULL for any */
    stage_setting setting[STAGE_SETTINGS_MAX]; /* ends with a row without a name */
    const char *form, *help, *example;
} stage_word;

extern const stage_word stage_words[];
extern const uint32_t stage_words_count;

/* Words and marks that join two values or compare them. */
typedef struct operator_word {
    const char *word;
    uint8_t op;
    const char *form, *help, *example;
} operator_word;

extern const operator_word operator_words[];
extern const uint32_t operator_words_count;

/* Words that make an event or a condition of a value, of other events, or of time alone. Its settings are fixed values.
 */
#define DETECTOR_SETTINGS_MAX 3
typedef struct detector_setting {
    const char *name; /* in messages */
    const char *unit; /* that of a stage's settings */
    double low, high;
    uint16_t offset;
} detector_setting;

typedef enum detector_input { DETECTS_NOTHING, DETECTS_NUMBER, DETECTS_NAMED, DETECTS_EVENT } detector_input;

typedef struct detector_word {
    const char *word;
    uint8_t op;
    detector_input input;
    bool gives_event; /* else a condition */
    detector_setting setting[DETECTOR_SETTINGS_MAX];
    bool has_which;
    uint16_t which_offset; /* of the field that says which */
} detector_word;

extern const detector_word detector_words[];
const detector_word *detector_word_find(const char *word);

/* The parts of a control loop: the lines below it. A line's settings follow its word; one that is marked with the
 * ending of a parameter's name becomes such a parameter where it is written as a number, so that it can be changed
 * while the rig runs. */
#define LOOP_LINE_SETTINGS_MAX 9
#define LOOP_LINES_MAX         12
typedef struct loop_setting {
    const char *word; /* may be several words; NULL: written without one, behind the line's word */
    const char *name; /* in messages */
    const char *unit; /* of units.def, or UNIT_... */
    double low, high;
    double initial; /* when it is not written; REQUIRED */
    uint16_t offset;
    bool flag; /* the word alone: 1 */
    const char *param;
} loop_setting;

#define UNIT_OUT_INTERVAL   "out~"
#define UNIT_IN_PER_SECOND  "in~/s"
#define UNIT_GAIN           "out/in"
#define UNIT_GAIN_PER_SEC   "out/in/s"
#define UNIT_GAIN_TIMES_SEC "out*s/in"
#define UNIT_PROCESS_GAIN   "in/out"

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
    const char *word; /* may be several words, or hold a hyphen */
    loop_line_kind kind;
    uint8_t op;                                   /* of a METHOD and of PREDICT */
    uint16_t low, high, reverse;                  /* of a METHOD: where its limits and its direction go */
    loop_setting setting[LOOP_LINE_SETTINGS_MAX]; /* ends with a row without a name */
    const char *form, *help, *example;
} loop_line;

extern const loop_line loop_lines[];
extern const uint32_t loop_lines_count;

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

typedef struct statement_word {
    const char *word, *form, *help, *example;
} statement_word;

extern const statement_word statement_words[STATEMENTS];

const stage_word *stage_word_find(const char *word);
const operator_word *operator_word_find(const char *word);

#endif
