/* A person at a terminal: types at the tool through a pseudo-terminal and reads what it shows. */
#ifndef TESTS_TERMINAL_H
#define TESTS_TERMINAL_H

#include "support.h"

#include <sys/types.h>

typedef struct person {
    pid_t child;
    int terminal;
    GString *seen; /* since the last thing that was waited for */
} person;

/* The tool with arguments split as a shell splits them, in `folder`. */
person person_call(const char *folder, const char *arguments);

/* Waits until the text is shown; fails after a long while. What came up to its end is forgotten. */
void person_waits(person *p, const char *text);
void person_types(person *p, const char *keys);

/* Waits for the end; its status, negative for a signal. *left, if wanted, is all that was still shown, to be freed. */
int person_leaves(person *p, char **left);

#endif
