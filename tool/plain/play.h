/* A session in plain lines on standard output, from its heading to how it ended. */
#ifndef TOOL_PLAIN_PLAY_H
#define TOOL_PLAIN_PLAY_H

#include "tool/command.h"
#include "runtime/door.h"

/* Readings and events, events alone, or events as JSON Lines and nothing else. */
typedef enum play_style { PLAY_ALL, PLAY_EVENTS, PLAY_JSON } play_style;

/* The setup's `frame` is filled in here. Returns what to exit with. */
int play(const command *self, rgp_door_setup *setup, play_style style);

#endif
