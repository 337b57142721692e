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

typedef struct rgp_history rgp_history;

/* An event of one tick, in words. */
typedef struct rgp_occurrence {
    uint64_t row;
    double time;     /* seconds */
    double until;    /* of a stretch of time, its end; of all else the same as `time` */
    uint8_t kind;    /* RGP_EVENT_... */
    uint32_t line;   /* of the rig file, or 0 */
    char *of, *says; /* what it is of; the whole sentence */
    char *why, *did; /* of a rule that fired; else NULL */
} rgp_occurrence;

/* As rgp_event_is_fault() says of its event. */
bool rgp_occurrence_is_fault(const rgp_occurrence *o);

#define RGP_HISTORY_BYTES (192u << 20) /* holds an hour of 16 channels at 100 Hz five times over */

/* `bytes_most` bounds the columns, and with them the events, to the newest hundred thousand (0: all is kept). The image
 * must outlive it. */
rgp_history *rgp_history_new(const rgp_image_header *image, size_t bytes_most);
void rgp_history_free(rgp_history *h);

/* One tick more, from a frame, with its events put into words. */
void rgp_history_frame(rgp_history *h, const rgp_frame_layout *layout, const rgp_frame *frame);

/* The same from a table: by column. Its events follow in rgp_history_occurred(). */
void rgp_history_row(rgp_history *h, uint64_t time_us, const float *value, const rgp_quality *quality);

/* Takes over the texts. In the order of time. */
void rgp_history_occurred(rgp_history *h, const rgp_occurrence *what);

/* Rows that stand elsewhere and are read when somebody looks at them: `load` puts those of one block, some thousand
 * from `first` on, by rgp_history_row(). They are promised in order, before any other row. */
typedef void rgp_history_load(void *self, uint64_t first, uint32_t rows);
struct rgp_block;
void rgp_history_promise(rgp_history *h, struct rgp_block *promise, rgp_history_load *load, void *self);
const struct rgp_block *rgp_history_block(const rgp_history *h, uint32_t block);
uint32_t rgp_history_blocks(const rgp_history *h);

/* The number of the row that rgp_history_row() will put. */
uint64_t rgp_history_next(const rgp_history *h);

/* A mark with a person's word, at the newest row. */
void rgp_history_mark(rgp_history *h, const char *text);

/* A person's mark, or a stretch, at its place among the events. Lives until the next change. */
const rgp_occurrence *rgp_history_put_mark(rgp_history *h, const char *name, double from, double until);

/* Takes an event out of the history; to be freed. */
rgp_occurrence *rgp_history_take(rgp_history *h, const rgp_occurrence *what);
void rgp_occurrence_free(rgp_occurrence *o);

/* True of what a person has marked, not a rule. */
bool rgp_occurrence_is_mark(const rgp_occurrence *o);

const rgp_image_header *rgp_history_image(const rgp_history *h);

/* Columns; -1 for a slot without a name, and for a name without a column. */
uint32_t rgp_history_columns(const rgp_history *h);
int32_t rgp_history_slot(const rgp_history *h, uint32_t slot);
int32_t rgp_history_named(const rgp_history *h, const char *name);
uint32_t rgp_history_rule(const rgp_history *h, uint32_t rule);
uint32_t rgp_history_owner(const rgp_history *h, uint32_t actuator);
uint32_t rgp_history_newness(const rgp_history *h, uint32_t sensor);

/* Rows that are kept: from first up to, and not with, end. */
uint64_t rgp_history_first(const rgp_history *h);
uint64_t rgp_history_end(const rgp_history *h);

/* Of a row that is kept. */
uint64_t rgp_history_time_us(const rgp_history *h, uint64_t row);
float rgp_history_value(const rgp_history *h, uint32_t column, uint64_t row);
rgp_quality rgp_history_quality(const rgp_history *h, uint32_t column, uint64_t row);

/* The same of a column, or the times, of the rows from `from` up to, and not with, `to`. */
void rgp_history_copy_times(const rgp_history *h, uint64_t from, uint64_t to, uint64_t *time_us);
void rgp_history_copy_values(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to, float *value);
void rgp_history_copy_qualities(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to,
                                rgp_quality *quality);

/* The row up to which, and not with, a column is known at once to stay as it is in `row`, or a setting, or what lies
 * between two times; at least the next one. */
uint64_t rgp_history_stays(const rgp_history *h, uint32_t column, uint64_t row);
uint64_t rgp_history_setting_stays(const rgp_history *h, uint16_t ref, uint64_t row);
uint64_t rgp_history_even(const rgp_history *h, uint64_t row);

/* The number of rows from `row` on whose values are known at once to be the same to the bit in a column of either
 * history; 0: the caller has to look row by row. */
uint64_t rgp_history_same_rows(const rgp_history *a, uint32_t column, const rgp_history *b, uint32_t other,
                               uint64_t row);

/* Replaces one cell; for a column that is worked out afterwards. */
void rgp_history_put(rgp_history *h, uint32_t column, uint64_t row, float value, rgp_quality quality);

/* The first row that is not before a time; end when there is none. */
uint64_t rgp_history_find(const rgp_history *h, uint64_t time_us);

/* The least and the greatest usable value in the rows from `from` up to, and not with, `to`, and how many are usable:
 * in a time that grows with the logarithm of their number. */
typedef struct rgp_extent {
    float least, greatest;
    uint64_t usable;
} rgp_extent;
#define RGP_HISTORY_COARSE 256u /* rows: extents between whole multiples of it are known before rows are read */
rgp_extent rgp_history_extent(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to);

/* The events, oldest first; those of dropped rows are gone too. Lives until the next change. */
const GPtrArray *rgp_history_occurrences(const rgp_history *h);

/* A time or holdoff of an action or rule as it was at a row, in seconds: a constant, a parameter, or one in another
 * unit. */
float rgp_history_setting(const rgp_history *h, uint16_t ref, uint64_t row);

/* All values by slot at a row, those without a name 0; `value` has room for the image's slots. */
void rgp_history_slots(const rgp_history *h, uint64_t row, float *value);

#endif
