/* The kept state of a rig over a power cycle: a small file, taken up before the start, and written again while the rig
 * runs and when it ends. The thread that ticks only copies it; another one writes it. */
#ifndef RUNTIME_RETAIN_H
#define RUNTIME_RETAIN_H

#include "rigpulse/engine.h"

#include <glib.h>

typedef struct retain_file retain_file;

/* NULL with *error set when the rig keeps nothing, or when there is something at `path` that cannot be read or written.
 * `says` becomes what there is to say of how the rig began, to be freed. */
retain_file *retain_begin(rgp_engine *engine, const char *path, char **says, GError **error);

/* Between ticks, by the thread that ticks. */
void retain_copy(retain_file *k, const rgp_engine *engine);

/* Writes what has been copied since; false with *error set when it cannot. */
bool retain_write(retain_file *k, GError **error);

void retain_end(retain_file *k);

#endif
