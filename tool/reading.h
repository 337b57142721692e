/* A recording read whole, with its progress shown where that takes long. */
#ifndef TOOL_READING_H
#define TOOL_READING_H

#include "command.h"

#include "runtime/recording.h"

/* As rgp_recording_read(). On a terminal standard error tells how far it is. */
rgp_recording *reading_whole(const char *name, GError **error);

/* The row of the moment that an option names; it stays as it is for NULL. False when there is none, which has been
 * said. */
bool reading_moment(const command *self, const rgp_recording *r, const char *option, const char *text, uint64_t *row);

#endif
