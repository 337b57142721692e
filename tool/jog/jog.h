/* rigpulse jog, in its parts: one actuator moved by hand, in blocks by a script or under a held key. */
#ifndef TOOL_JOG_JOG_H
#define TOOL_JOG_JOG_H

#include "tool/command.h"

#include "runtime/history.h"
#include "rigpulse/lang.h"

typedef struct jog {
    const command *self;
    const char *path;
    rgp_rig *file;     /* as it stands on the disk */
    rgp_rig *rig;      /* without its rules and without a least power */
    uint32_t actuator; /* number */
    uint64_t seed;
    double least; /* the least power that moved it, once found; below 0: not yet */
} jog;

const rgp_image_actuator *jog_actuator(const jog *j);
const char *jog_name(const jog *j);

/* "everything else at rest, whatever lines 17 and 21 say": what would drive if the hand did not. To be freed. */
char *jog_rest_told(const jog *j);

bool jog_is_number(const jog *j, uint32_t sensor);

/* The guard that keeps it from what is asked at a row, in words; "" for nothing. */
const char *jog_guard_at(const jog *j, const rgp_history *history, uint64_t row);

/* Writes the least power into the rig file. False with *why, to be freed. */
bool jog_write_least(const jog *j, char **why);

/* jog_script.c: driven and left at rest in random order, to say which sensors answer `power`, or (`least`) to find the
 * least power that one answers. The exit status. */
typedef struct jog_script {
    double power, hold; /* hold: seconds of each block */
    bool least, write, fast;
} jog_script;
int jog_by_script(jog *j, const jog_script *what);

/* The shortest block in which anything can be seen, in seconds. */
double jog_hold_least(const jog *j);

/* jog_view.c: under a held key, on the whole screen. The exit status. */
int jog_by_keys(jog *j);

#endif
