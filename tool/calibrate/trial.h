/* rigpulse calibrate FILE ACTUATOR: how much an actuator gives in a time, by trial. */
#ifndef TOOL_CALIBRATE_TRIAL_H
#define TOOL_CALIBRATE_TRIAL_H

#include "tool/command.h"

#include "rigpulse/lang.h"

typedef struct trial_options {
    const char *power, *unit; /* NULL: its greatest; the one in its line */
    char **trial;             /* "TIME=AMOUNT" each; NULL: a dialogue */
    bool dry_run, fast;
    uint64_t seed;
} trial_options;

/* True when the rig has an actuator of that name. */
bool trial_is_meant(const char *name, const void *image);

/* Runs the trials and writes the result; returns what to exit with. */
int trial_run(const command *self, const trial_options *o, const char *path, rgp_rig *file, const char *actuator);

#endif
