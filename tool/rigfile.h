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

/* The lines that drive the actuator of that name, or any (NULL), without line `but`: "line 12", "lines 12, 31 and 40";
 * of many how many they are. NULL when there are none. The caller frees it. */
char *rigfile_driving_lines(const rgp_rig *rig, const char *actuator, uint32_t but);

/* Options that only a simulated port can heed, for a rig on a real one: false when something of it is asked, which has
 * been said. */
bool rigfile_fits_port(const command *self, const rgp_rig *rig, bool fast, bool seed, bool pace);

#endif
