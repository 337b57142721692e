/* Bytes -> tokens. Whatever the bytes are, every one is in a token, blank, or reported. */
#ifndef LANG_LEXER_H
#define LANG_LEXER_H

#include "lang/text/report.h"

typedef enum token_kind { TOKEN_END, TOKEN_NUMBER, TOKEN_WORD, TOKEN_STRING, TOKEN_MARK } token_kind;

/* MARK_NONE: the token is none. */
typedef enum token_mark {
    MARK_NONE,
    MARK_EQUALS,
    MARK_COLON,
    MARK_COMMA,
    MARK_SEMICOLON,
    MARK_BAR,
    MARK_OPEN,
    MARK_CLOSE,
    MARK_PLUS,
    MARK_MINUS,
    MARK_TIMES,
    MARK_OVER,
    MARK_RANGE,
    MARKS
} token_mark;

/* As they are written, for messages too. */
extern const char *const token_marks[MARKS];

typedef struct token {
    token_kind kind;
    token_mark mark;
    text_range at;
    int32_t indent;   /* of the line when this is its first token; else -1 */
    bool glued;       /* nothing stands between this token and the one before it */
    const char *text; /* of a word or string; of a mark as it is written */
    double number;
} token;

/* The last token is TOKEN_END with indent 0. */
token *lang_lex(report *to);

#endif
