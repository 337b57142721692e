/* Advice on a recorded run, printed. */
#ifndef TOOL_COMMANDS_ADVISE_H
#define TOOL_COMMANDS_ADVISE_H

#include "tool/command.h"

/* On all its loops and rules. Returns what to exit with. */
int advise_recording(const command *self, const char *recording);

#endif
