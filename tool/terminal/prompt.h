/* The bottom of a view: a note that stands for a while, and a line that is typed. */
#ifndef TOOL_TERMINAL_PROMPT_H
#define TOOL_TERMINAL_PROMPT_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

typedef struct note {
    char *text;
    gint64 until; /* of the monotonic clock */
} note;

void note_say(note *n, const char *format, ...) G_GNUC_PRINTF(2, 3);
void note_say_list(note *n, const char *format, va_list arguments) G_GNUC_PRINTF(2, 0);

/* The note that stands now; NULL: none. */
const char *note_now(const note *n);
void note_clear(note *n);

/* False: the answer is refused, which has been said, and stays to be mended. */
typedef bool prompt_take(void *self, const char *answer);

typedef struct prompt {
    char *question; /* NULL: nothing is asked */
    GString *answer;
    prompt_take *take;
    uint32_t which; /* for whoever takes it */
} prompt;

void prompt_begin(prompt *p);
void prompt_end(prompt *p);
void prompt_ask(prompt *p, prompt_take *take, uint32_t which, const char *format, ...) G_GNUC_PRINTF(4, 5);
void prompt_ask_list(prompt *p, prompt_take *take, uint32_t which, const char *format, va_list arguments)
    G_GNUC_PRINTF(4, 0);

/* A key of ncurses, while something is asked; `self` is for whoever takes the answer. False when the person has left it
 * as it was. */
bool prompt_key(prompt *p, int key, void *self);

/* "question: answer_", cut at its left to so many columns. To be freed. */
char *prompt_text(const prompt *p, int width);

#endif
