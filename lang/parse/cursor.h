/* Reading along the tokens of one line. What is wrong is reported and jumps to `recover`. */
#ifndef LANG_CURSOR_H
#define LANG_CURSOR_H

#include "tree.h"

#include <setjmp.h>

typedef struct cursor {
    tree *tree;
    token *at;             /* the next token */
    token *limit;          /* the first one that is not of this line */
    token beyond;          /* stands for everything from `limit` on */
    uint32_t depth, links; /* of what is being read: parentheses in one another, operators and stages */
    jmp_buf recover;
} cursor;

/* The tokens of a line: from p->at up to the next first token of a line that is indented by at most
 * `floor`. */
void cursor_bound(cursor *p, int32_t floor);

bool token_is_mark(const token *t, token_mark mark);
bool token_is_word(const token *t, const char *word);

const token *cursor_now(const cursor *p);
const token *cursor_behind(const cursor *p); /* the one after cursor_now() */
token *cursor_next(cursor *p);
bool cursor_take_mark(cursor *p, token_mark mark);
bool cursor_take_word(cursor *p, const char *word);
bool cursor_take_words(cursor *p, const char *words); /* "on at least", "on-off": all of them, or none */

/* These report and jump when the line does not go on so. */
void cursor_need_mark(cursor *p, token_mark mark, const char *advice);
void cursor_need_word(cursor *p, const char *word, const char *advice);
const token *cursor_need_name(cursor *p, const char *what);
void cursor_need_end(cursor *p);
unit cursor_need_unit(cursor *p);

/* A number with its unit, if one is written; the cursor stands on the number. */
node *cursor_number(cursor *p);

/* The same in a hook-up, where a word that is no unit is left for whoever comes next. */
node *cursor_hookup_number(cursor *p);

__attribute__((noreturn, format(printf, 4, 5))) void cursor_fail(cursor *p, text_range at, const char *advice,
                                                                 const char *format, ...);
__attribute__((noreturn)) void cursor_fail_expected(cursor *p, const char *what, const char *advice);

/* Ends the line in silence when the mistake is in the line that was to declare this word. */
void cursor_pass_refused(cursor *p, const token *t);

/* Likewise when it has been said that there is no such name. */
void cursor_pass_missing(cursor *p, const token *t);

#endif
