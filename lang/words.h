/* The words of the language that name an operation, and how their settings are written. */
#ifndef LANG_WORDS_H
#define LANG_WORDS_H

#include "rigpulse/lang.h"

/* What a stage's setting is written as. */
typedef enum setting_shape {
    SETTING_COUNT,  /* a bare whole number */
    SETTING_ODD,    /* an odd one */
    SETTING_TIME,   /* seconds */
    SETTING_POINTS, /* in: out, in: out, ... */
    SETTING_FLAG    /* the word alone */
} setting_shape;

typedef struct stage_setting {
    const char *word; /* NULL: written without one, in this place */
    const char *name; /* in messages */
    setting_shape shape;
    double low, high;
    uint16_t offset; /* of its 4 bytes in the config */
} stage_setting;

#define STAGE_SETTINGS_MAX 6

/* What unit comes out of a stage. */
typedef enum stage_result { RESULT_SAME, RESULT_OF_POINTS } stage_result;

typedef struct stage_word {
    const char *word;
    uint8_t op;
    stage_result result;
    uint32_t settings;
    stage_setting setting[STAGE_SETTINGS_MAX];
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
