/* A session in plain lines on standard output, from its heading to how it ended. */
#ifndef TOOL_PLAIN_PLAY_H
#define TOOL_PLAIN_PLAY_H

#include "tool/command.h"
#include "runtime/door.h"

/* The setup's `frame` is filled in here. Returns what to exit with. */
int play(const command *self, rgp_door_setup *setup, bool events_only);

#endif
