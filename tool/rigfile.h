/* A rig file from the disk, compiled, its messages shown. */
#ifndef TOOL_RIGFILE_H
#define TOOL_RIGFILE_H

#include "command.h"

#include "rigpulse/lang.h"

/* Reads and compiles a rig file, sound or not, and says nothing of what is wrong in it. NULL when it cannot be read,
 * which has been said. */
rgp_rig *rigfile_compile(const command *self, const char *path);

/* Shows its messages on standard error; false when it has errors. */
bool rigfile_report(rgp_rig *rig);

/* NULL when it cannot be read or has errors; everything has been said on standard error then. Warnings
 * are shown too. */
rgp_rig *rigfile_load(const command *self, const char *path);

#endif
