/* Taking idle time and events from a rig that runs, in a dialogue or by a script, into a recording with their marks. */
#ifndef TOOL_THRESHOLD_LIVE_H
#define TOOL_THRESHOLD_LIVE_H

#include "tool/command.h"

#include "rigpulse/edit.h"

typedef struct live_setup {
    const command *self;
    const rgp_rig *rig;
    const rgp_threshold *where; /* its value has to have a name */
    bool written;               /* its side counts; else events may lie on either */
    const char *idle, *event;   /* names of the marks */
    const char *record;         /* name of the recording */
    const char *script;         /* a file of orders, "-" for standard input; NULL: a dialogue */
    uint64_t seed;
    bool fast, overwrite;
} live_setup;

/* True when there is a recording with marks to go on with; else *status is what to exit with, and everything has been
 * said. */
bool live_take(const live_setup *setup, int *status);

#endif
