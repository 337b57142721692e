/* rigpulse demo serial: a device on a wire, played by a program. */
#ifndef TOOL_COMMANDS_DEMO_SERIAL_H
#define TOOL_COMMANDS_DEMO_SERIAL_H

#include "tool/command.h"

/* Until it is ended by hand; `length`: a time, or NULL. */
int demo_serial(const command *self, const char *path, const char *length, const char *seed);

#endif
