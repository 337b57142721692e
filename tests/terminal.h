/* A person at a terminal: types at the tool through a pseudo-terminal and reads what it shows. */
#ifndef TESTS_TERMINAL_H
#define TESTS_TERMINAL_H

#include "support.h"

#include <sys/types.h>

#include <vterm.h>

typedef struct person {
    pid_t child;
    int terminal;
    GString *seen; /* since the last thing that was waited for */
    VTerm *model;  /* what is on the screen; NULL: only what went by is kept */
    int rows, columns;
} person;

/* The tool with arguments split as a shell splits them, in `folder`. */
person person_call(const char *folder, const char *arguments);

/* The same before a screen of so many cells. */
person person_watch(const char *folder, const char *arguments, int rows, int columns);

/* Waits until the text stands on the screen; fails after a long while, showing what does. */
void person_sees(person *p, const char *text);

/* All that stands on it; to be freed. */
char *person_screen(person *p);

/* The window changes its size. */
void person_resizes(person *p, int rows, int columns);

/* Reads whatever comes for so long. */
void person_looks_on(person *p, int milliseconds);

/* Waits until the text is shown; fails after a long while. What came up to its end is forgotten. */
void person_waits(person *p, const char *text);
void person_types(person *p, const char *keys);

/* Waits for the end; its status, negative for a signal. *left, if wanted, is all that was still shown, to be freed. */
int person_leaves(person *p, char **left);

#endif
