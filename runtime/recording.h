/* A recording read back: the history of the run, by the rig that made it. */
#ifndef RUNTIME_RECORDING_H
#define RUNTIME_RECORDING_H

#include "history.h"
#include "inputs.h"
#include "rigpulse/lang.h"

#include <glib.h>

typedef struct rgp_recording {
    char *name;   /* without the ending */
    char *ending; /* how the run ended, in words */
    rgp_rig *rig;
    const rgp_image_header *image;
    char *foreign; /* what there is to say when the rig's own text does not compile, and `rig` is made of the columns;
                    * NULL: it does */
    uint64_t seed, gaps;
    uint32_t rows;
    rgp_history *history;
    bool *has;                       /* by slot: it has a column */
    bool timed;                      /* the table has a column of times */
    struct rgp_table_reading *table; /* inside, while it is read */
    struct rgp_events_reading *events;
    struct rgp_firing *timer; /* the last one, by rule */
    GArray *firing;           /* all of them */
    guint next_firing;
    GArray *block_at; /* where the blocks of the history begin in the table, and where it ends; empty: they cannot be
                         told */
    struct rgp_recording_index *index; /* by which it was opened; NULL: it was read */
    bool changed;                      /* the table is not what the index says */
    uint32_t torn_rows;                /* cut off or unreadable, and left out */
    char *torn;                        /* the first of them, and what is wrong with it; NULL: none */
    char *marks;                       /* what NAME.marks.jsonl holds; NULL: there is none */
    guint odd_mark;                    /* its first line that is no mark; 0: none */

    /* what a replay needs; a recording of the first format has none of it */
    int format, bits;
    uint64_t first_tick, events_lost;
    rgp_inputs *inputs;
    bool simulated; /* on the simulated port */
    bool dry, hand_only, at_rest;
    float power;  /* percent; 0: no bound */
    float *param; /* at the beginning, by parameter */
    bool *told;   /* by sensor: the port has told its edges */
    GBytes *kept; /* what was taken up of an earlier run; NULL: nothing */
} rgp_recording;

static inline float rgp_recording_value(const rgp_recording *r, uint32_t slot, uint32_t row)
{
    return rgp_history_value(r->history, (uint32_t)rgp_history_slot(r->history, slot), row);
}

static inline rgp_quality rgp_recording_quality(const rgp_recording *r, uint32_t slot, uint32_t row)
{
    return rgp_history_quality(r->history, (uint32_t)rgp_history_slot(r->history, slot), row);
}

static inline uint64_t rgp_recording_time_us(const rgp_recording *r, uint32_t row)
{
    return rgp_history_time_us(r->history, row);
}

/* The notice of rows that are left out, to be freed; NULL: nothing. */
char *rgp_recording_complaint(const rgp_recording *r);

/* `name` is any of its files, or their common stem. NULL with *error set when it is no recording. */
rgp_recording *rgp_recording_read(const char *name, GError **error);

/* The same to be looked at: with its first rows alone; the others come as it goes on, for so many microseconds, at
 * least one piece. False when all of it has been read. A great one that has been read before has all of its rows at
 * once, by NAME.index; going on then holds the table against that, and reads it anew where it is another. What was done
 * to the rig, which a replay needs, is not read of such a one. */
rgp_recording *rgp_recording_open(const char *name, GError **error);
bool rgp_recording_go_on(rgp_recording *recording, gint64 for_us);

/* The share of it that has been read, 0 to 1. */
double rgp_recording_share(const rgp_recording *recording);
void rgp_recording_free(rgp_recording *recording);

#endif
