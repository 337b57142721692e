/* A recording read back: the columns by the slots of the rig that made it. */
#ifndef ANALYSIS_RECORDING_H
#define ANALYSIS_RECORDING_H

#include "rigpulse/image.h"
#include "rigpulse/lang.h"
#include "rigpulse/reading.h"

#include <glib.h>

typedef struct rp_recorded_event {
    double time;
    char *kind, *of, *says;
    uint32_t line; /* of the rig file, or 0 */
} rp_recorded_event;

typedef struct rp_recording {
    char *name;   /* without the ending */
    char *ending; /* how the run ended, in words */
    rp_rig *rig;
    const rp_image_header *image;
    uint64_t seed, gaps;
    uint32_t rows;
    uint64_t *time_us;
    float **value;        /* [slot][row]; NULL for a slot without a column */
    rp_quality **quality; /* likewise */
    GArray *event;        /* of rp_recorded_event */
    uint32_t torn_rows;   /* cut off or unreadable, and left out */
} rp_recording;

/* `name` is any of the three files, or their common stem. NULL with *error set when it is no recording. */
rp_recording *rp_recording_read(const char *name, GError **error);
void rp_recording_free(rp_recording *recording);

#endif
