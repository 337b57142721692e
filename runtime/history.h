/* The history: every tick of a run in memory, oldest dropped, so that any stretch of it can be looked at at once. What
 * shows, draws, lists or explains a run, live or from a recording, reads this.
 *
 * Columns: the named slots of the rig, then its rules (seconds left: above 0 acting, below 0 in the holdoff, 0 ready;
 * bad: waiting for a fault to be cleared), then the owners of its actuators, then whether its sensors had a new reading
 * (1 or 0; bad: not known, of a recording). Rows are ticks, numbered from 0 at the start of the run, whether they are
 * still there or not. Not for two threads at once. */
#ifndef RUNTIME_HISTORY_H
#define RUNTIME_HISTORY_H

#include "rigpulse/frame.h"

#include <glib.h>

typedef struct rp_history rp_history;

/* An event of one tick, in words. */
typedef struct rp_occurrence {
    uint64_t row;
    double time;     /* seconds */
    uint8_t kind;    /* RP_EVENT_... */
    uint32_t line;   /* of the rig file, or 0 */
    char *of, *says; /* what it is of; the whole sentence */
    char *why, *did; /* of a rule that fired; else NULL */
} rp_occurrence;

#define RP_HISTORY_BYTES (192u << 20) /* holds an hour of 16 channels at 100 Hz five times over */

/* `bytes_most` bounds the columns (0: no bound). The image must outlive it. */
rp_history *rp_history_new(const rp_image_header *image, size_t bytes_most);
void rp_history_free(rp_history *h);

/* One tick more, from a frame, with its events put into words. */
void rp_history_frame(rp_history *h, const rp_frame_shape *shape, const rp_frame *frame);

/* The same from a table: by column. Its events follow in rp_history_occurred(). */
void rp_history_row(rp_history *h, uint64_t time_us, const float *value, const rp_quality *quality);

/* Takes over the texts. In the order of time. */
void rp_history_occurred(rp_history *h, const rp_occurrence *what);

/* A mark with a person's word, at the newest row. */
void rp_history_mark(rp_history *h, const char *text);

const rp_image_header *rp_history_image(const rp_history *h);

/* Columns; -1 for a slot without a name. */
uint32_t rp_history_columns(const rp_history *h);
int32_t rp_history_slot(const rp_history *h, uint32_t slot);
uint32_t rp_history_rule(const rp_history *h, uint32_t rule);
uint32_t rp_history_owner(const rp_history *h, uint32_t actuator);
uint32_t rp_history_newness(const rp_history *h, uint32_t sensor);

/* Rows that are kept: from first up to, and not with, end. */
uint64_t rp_history_first(const rp_history *h);
uint64_t rp_history_end(const rp_history *h);

/* Of a row that is kept. */
uint64_t rp_history_time_us(const rp_history *h, uint64_t row);
float rp_history_value(const rp_history *h, uint32_t column, uint64_t row);
rp_quality rp_history_quality(const rp_history *h, uint32_t column, uint64_t row);

/* Replaces one cell; for a column that is worked out afterwards. */
void rp_history_put(rp_history *h, uint32_t column, uint64_t row, float value, rp_quality quality);

/* The first row that is not before a time; end when there is none. */
uint64_t rp_history_find(const rp_history *h, uint64_t time_us);

/* The least and the greatest usable value in the rows from `from` up to, and not with, `to`, and how many are usable:
 * in a time that grows with the logarithm of their number. */
typedef struct rp_extent {
    float least, greatest;
    uint64_t usable;
} rp_extent;
rp_extent rp_history_extent(const rp_history *h, uint32_t column, uint64_t from, uint64_t to);

/* The events, oldest first; those of dropped rows are gone too. Lives until the next change. */
const GPtrArray *rp_history_occurrences(const rp_history *h);

/* A time or holdoff of an action or rule as it was at a row, in seconds: a constant, a parameter, or one in another
 * unit. */
float rp_history_setting(const rp_history *h, uint16_t ref, uint64_t row);

/* All values by slot at a row, those without a name 0; `value` has room for the image's slots. */
void rp_history_slots(const rp_history *h, uint64_t row, float *value);

#endif
