/* Places of a traced replay, from which it can go on: kept on the way, and from one call of the tool to the next in the
 * user's own cache ($XDG_CACHE_HOME/rigpulse).
 *
 * A file of places goes with a recording by a checksum (SHA-256) over its index, which has the checksums of all of the
 * table, its events and its description, and over the image and this build. It is taken only when it is whole by its
 * own checksum, and nobody but the user can write it: what an engine knows cannot be told from what somebody made up.
 */
#ifndef ANALYSIS_PLACES_H
#define ANALYSIS_PLACES_H

#include "explain/trace.h"
#include "runtime/replay.h"

#include <glib.h>

typedef struct rgp_place_kept {
    uint32_t row; /* before which it is so */
    rgp_replay_place *replay;
    rgp_trace *trace;
} rgp_place_kept;

/* None yet; of rgp_place_kept, in the order of rows. */
GArray *rgp_places_new(void);

/* The file for a recording and an image; NULL: the recording has no index, since it is short. To be freed. */
char *rgp_places_file(const rgp_recording *from, const rgp_image_header *image);

/* Adds what a file holds; nothing, where it is none that can be trusted. */
void rgp_places_load(const char *file, const rgp_replay *replay, const rgp_image_header *image, GArray *to);

/* Writes them, where that can be done; of the files in the cache the newest stay. */
void rgp_places_save(const char *file, const rgp_replay *replay, const GArray *places);

#endif
