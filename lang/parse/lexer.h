/* Bytes -> tokens. Whatever the bytes are, every one is in a token, blank, or reported. */
#ifndef LANG_LEXER_H
#define LANG_LEXER_H

#include "lang/text/report.h"

typedef enum token_kind { TOKEN_END, TOKEN_NUMBER, TOKEN_WORD, TOKEN_STRING, TOKEN_MARK } token_kind;

typedef struct token {
    token_kind kind;
    rp_span at;
    int32_t indent;   /* of the line when this is its first token; else -1 */
    bool glued;       /* nothing stands between this token and the one before it */
    const char *text; /* of a word or string; of a mark: one character, or ".." */
    double number;
} token;

/* The last token is TOKEN_END with indent 0. */
token *lang_lex(report *to);

#endif
