/* The commands of the tool: one file each, all of one shape. */
#ifndef TOOL_COMMAND_H
#define TOOL_COMMAND_H

#include <glib.h>
#include <jansson.h>
#include <stdbool.h>
#include <stdint.h>

enum { EXIT_DONE = 0, EXIT_FAULT = 1, EXIT_USAGE = 2 };

typedef struct command {
    const char *name;
    const char *arguments; /* as in the usage line */
    const char *summary;
    const char *example;
    int (*run)(const struct command *self, int argc, char **argv);
} command;

extern const command command_check, command_run, command_plot, command_list, command_demo, command_inspect,
    command_divider, command_words, command_calibrate, command_watch, command_jog, command_tune, command_replay,
    command_mark, command_ports, command_compare, command_convert, command_why, command_threshold, command_survey,
    command_model, command_suggest, command_match, command_advise;

/* Takes the options out of argv, leaving argv[1] and on as plain arguments, of which there must be from
 * `least` to `most`. True to go on; else *status is what to exit with, and everything has been said. */
bool command_options(const command *self, const GOptionEntry *entries, int *argc, char ***argv, int least, int most,
                     int *status);

/* The number behind --seed; 1 for NULL. False when it is no whole number, which has been said. */
bool command_seed(const command *self, const char *text, uint64_t *seed);

/* Prints it for a program, and gives it back. */
void command_print_json(json_t *whole);

/* "rigpulse NAME: message" to standard error; returns EXIT_USAGE. */
int command_refuse(const command *self, const char *format, ...) G_GNUC_PRINTF(2, 3);

/* The same; returns false. */
bool command_fails(const command *self, const char *format, ...) G_GNUC_PRINTF(2, 3);

#endif
