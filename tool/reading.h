/* A recording read whole, with its progress shown where that takes long. */
#ifndef TOOL_READING_H
#define TOOL_READING_H

#include "runtime/recording.h"

/* As rgp_recording_read(). On a terminal standard error tells how far it is. */
rgp_recording *reading_whole(const char *name, GError **error);

#endif
