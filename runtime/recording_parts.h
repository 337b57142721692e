/* Inside the reader of recordings: its three files. */
#ifndef RUNTIME_RECORDING_PARTS_H
#define RUNTIME_RECORDING_PARTS_H

#include "recording.h"

/* False, with *error: what is wrong with a file. */
bool rgp_not_a_recording(GError **error, const char *name, const char *why);

/* A rig in which the columns that NAME.json describes are channels and parameters; NULL: it describes none. *without,
 * to be freed: those that could not be. */
rgp_rig *rgp_rig_of_columns(const char *file, const json_t *summary, char **without);

/* NAME.csv, by the rig that has been compiled: its beginning; one piece after the other, false behind the last; its
 * end, which can come early. */
bool rgp_recording_begin_table(rgp_recording *to, GError **error);
bool rgp_recording_read_piece(rgp_recording *to);
void rgp_recording_end_table(rgp_recording *to);

/* True when a table is one of a recording. False with *error; once its first rows are read, or all. */
bool rgp_recording_check_table(const rgp_recording *to, GError **error);
double rgp_recording_table_share(const rgp_recording *to); /* of it that has been read, 0 to 1 */

/* NAME.events.jsonl: its beginning, what happened up to the newest row, which has just been read, and all the rest. */
void rgp_recording_begin_events(rgp_recording *to);
void rgp_recording_row_is_read(rgp_recording *to);
void rgp_recording_end_events(rgp_recording *to);

/* The circumstances of the run, out of NAME.json, once the rig has been compiled. What the file lacks, as one of the
 * first format does, is taken to be as usual. */
void rgp_recording_circumstances(rgp_recording *to, const json_t *summary);

/* A firing of a rule, and how long its actions last, and with them its holdoff, in seconds. */
typedef struct rgp_firing {
    uint64_t time_us;
    uint32_t row, rule;
    float acts, all;
} rgp_firing;

/* The columns of the rules, which no column of the table holds. The rule of that line has fired in a row; what the
 * timers say in a row. Of rows that are read again: the timers as they are before a row, and in the rows from there
 * on. */
void rgp_recording_begin_timers(rgp_recording *r);
void rgp_recording_rule_fired(const rgp_recording *r, uint32_t line, uint32_t row);
void rgp_recording_put_timers(const rgp_recording *r, uint32_t row, uint64_t now_us);
void rgp_recording_timers_before(rgp_recording *r, uint32_t row);
void rgp_recording_timers_at(rgp_recording *r, uint32_t row);

/* NAME.index: opens the table by it, and false where it does not go with the table; checks a further block of the table
 * against it, false behind the last or when something was changed; writes it, once all has been read. */
bool rgp_recording_take_index(rgp_recording *r);
bool rgp_recording_check_index(rgp_recording *r);
void rgp_recording_write_index(const rgp_recording *r);
void rgp_recording_free_index(rgp_recording *r);

/* Of the table, for the index: bytes of the file; the heading, up to that place; the rows of a block. */
bool rgp_recording_table_bytes(const rgp_recording *r, uint64_t place, void *to, gsize bytes);
bool rgp_recording_read_heading(rgp_recording *r, uint64_t bytes);
void rgp_recording_read_block(rgp_recording *r, char *bytes, gsize length, uint32_t first);

#endif
