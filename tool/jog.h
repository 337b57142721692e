/* rigpulse jog, in its parts: one actuator moved by hand, in steps by a script or under a held key. */
#ifndef TOOL_JOG_H
#define TOOL_JOG_H

#include "command.h"

#include "analysis/answer.h"
#include "rigpulse/lang.h"

typedef struct jog {
    const command *self;
    const char *path;
    rp_rig *file;      /* as it stands on the disk */
    rp_rig *rig;       /* without its rules and without a least power */
    uint32_t actuator; /* number */
    uint64_t seed;
    double least; /* the least power that moved it, once found; below 0: not yet */
} jog;

const rp_image_actuator *jog_actuator(const jog *j);
const char *jog_name(const jog *j);

/* The greatest change of a sensor that counts as none, in its unit. */
double jog_least_change(const jog *j, uint32_t sensor);

/* The guard that keeps it from what is asked at a row, in words; "" for nothing. */
const char *jog_guard_at(const jog *j, const rp_history *history, uint64_t row);

/* "up by 118 counts, 19 times its noise, after 0.36 s"; "does not answer". */
void jog_tell_answer(const jog *j, uint32_t sensor, const rp_answer *answer, GString *to);

/* Writes the least power into the rig file. False with *why, to be freed. */
bool jog_write_least(const jog *j, char **why);

/* jog_view.c: under a held key, on the whole screen. The exit status. */
int jog_by_keys(jog *j);

#endif
