/* `rigpulse replay --vary`: how often each rule fires for each value of a parameter. */
#ifndef TOOL_COMMANDS_VARY_H
#define TOOL_COMMANDS_VARY_H

#include "tool/command.h"

#include "runtime/recording.h"

typedef struct variation_ask {
    const command *self;
    const rgp_rig *rig;
    const rgp_recording *from;
    char **set;          /* NAME=VALUE for other parameters; NULL: none */
    const char *text;    /* NAME=A..B[,N] */
    const char *picture; /* NULL: none */
    bool json;
} variation_ask;

/* The exit status. */
int vary_parameter(const variation_ask *ask);

#endif
