/* A recording read back: the history of the run, by the rig that made it. */
#ifndef RUNTIME_RECORDING_H
#define RUNTIME_RECORDING_H

#include "history.h"
#include "rigpulse/lang.h"

#include <glib.h>

typedef struct rp_recording {
    char *name;   /* without the ending */
    char *ending; /* how the run ended, in words */
    rp_rig *rig;
    const rp_image_header *image;
    uint64_t seed, gaps;
    uint32_t rows;
    rp_history *history;
    bool *has;          /* by slot: it has a column */
    uint32_t torn_rows; /* cut off or unreadable, and left out */
    char *torn;         /* the first of them, and what is wrong with it; NULL: none */
} rp_recording;

static inline float rp_recording_value(const rp_recording *r, uint32_t slot, uint32_t row)
{
    return rp_history_value(r->history, (uint32_t)rp_history_slot(r->history, slot), row);
}

static inline rp_quality rp_recording_quality(const rp_recording *r, uint32_t slot, uint32_t row)
{
    return rp_history_quality(r->history, (uint32_t)rp_history_slot(r->history, slot), row);
}

static inline uint64_t rp_recording_time_us(const rp_recording *r, uint32_t row)
{
    return rp_history_time_us(r->history, row);
}

/* The notice of rows that are left out, to be freed; NULL: nothing. */
char *rp_recording_complaint(const rp_recording *r);

/* `name` is any of the three files, or their common stem. NULL with *error set when it is no recording. */
rp_recording *rp_recording_read(const char *name, GError **error);
void rp_recording_free(rp_recording *recording);

#endif
