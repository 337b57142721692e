/* rigpulse inspect, in its parts. */
#ifndef TOOL_COMMANDS_INSPECT_H
#define TOOL_COMMANDS_INSPECT_H

#include "tool/command.h"

#include "rigpulse/lang.h"

/* inspect_which.c: a person moves one thing and holds it still, as the prompt says in random order; tells which sensors
 * answer that. The exit status. */
int inspect_which(const command *self, const rgp_rig *rig);

#endif
