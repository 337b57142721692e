/* The kept state of a rig over a power cycle: a small file, taken up before the start, and written again while the rig
 * runs and when it ends. The thread that ticks only copies it; another one writes it. */
#ifndef RUNTIME_RETAIN_H
#define RUNTIME_RETAIN_H

#include "rigpulse/engine.h"

#include <glib.h>

typedef struct kept kept;

/* NULL with *error set when the rig keeps nothing, or when there is something at `path` that cannot be read or written.
 * `says` becomes what there is to say of how the rig began, to be freed. */
kept *kept_begin(rgp_engine *engine, const char *path, char **says, GError **error);

/* Between ticks, by the thread that ticks. */
void kept_copy(kept *k, const rgp_engine *engine);

/* Writes what has been copied since; false with *error set when it cannot. */
bool kept_write(kept *k, GError **error);

void kept_end(kept *k);

#endif
