/* The subject of a model: a loop, and what was driven and measured of it in a recording or in a test. */
#ifndef TOOL_PROCESS_SUBJECT_H
#define TOOL_PROCESS_SUBJECT_H

#include "tool/command.h"
#include "tool/port_option.h"

#include "analysis/process_rows.h"
#include "analysis/relay.h"
#include "rigpulse/image.h"
#include "rigpulse/lang.h"

#include <glib.h>

typedef struct subject_options {
    char *from, *begin, *until, *test, *at, *size, *each, *times, *within, *seed;
    gboolean fast;
} subject_options;

/* Rows of a table of options. */
#define SUBJECT_ENTRIES(o)                                                                                              \
    {"from", 0, 0, G_OPTION_ARG_FILENAME, &(o)->from, "a recording instead of a test", "RECORDING"},                    \
        {"begin", 0, 0, G_OPTION_ARG_FILENAME, &(o)->begin, "from a time, a mark or 'line N' on", "MOMENT"},            \
        {"until", 0, 0, G_OPTION_ARG_FILENAME, &(o)->until, "and up to another", "MOMENT"},                             \
        {"test", 0, 0, G_OPTION_ARG_FILENAME, &(o)->test, "pulses, halves, step, relay or held; pulses if not said",    \
         "WORD"},                                                                                                       \
        {"at",   0, 0, G_OPTION_ARG_FILENAME, &(o)->at, "of a test: about what it is driven; half of the travel",       \
         "VALUE"},                                                                                                      \
        {"size", 0, 0, G_OPTION_ARG_FILENAME, &(o)->size, "by how much up and down; a tenth of the travel", "VALUE"},   \
        {"each", 0, 0, G_OPTION_ARG_FILENAME, &(o)->each, "how long each piece is; 20 s", "TIME"},                      \
        {"times", 0, 0, G_OPTION_ARG_FILENAME, &(o)->times, "so often up, down, down, up; once if not said", "NUMBER"}, \
        {"within", 0, 0, G_OPTION_ARG_FILENAME, &(o)->within, "stop when it goes farther than that", "AMOUNT"},         \
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &(o)->seed, "of the simulated noise; 1 if not said", "NUMBER"},           \
    {                                                                                                                   \
        "fast", 0, 0, G_OPTION_ARG_NONE, &(o)->fast, "simulated time, as fast as it goes", NULL                         \
    }

typedef struct subject {
    const command *self;
    const subject_options *o;
    rgp_rig *rig;
    uint32_t number; /* of the loop */
    const rgp_image_loop *loop;
    const char *name, *measured, *actuator; /* of the loop, of what it measures, of what it drives */
    const char *measured_unit, *driven_unit;
    const char *moved_unit; /* of differences of what is measured: "K" of temperatures */
    bool falls;             /* by its 'reverse', what is measured falls when more is driven */
    rgp_process_rows of;    /* what it did */
    uint64_t half_from;     /* its first row in which it was driven half as far as before; 0: it was not */
    double began_at;        /* measured units: where it was when the test began */
    bool strayed;           /* it has gone farther than it may, and the test was stopped */
    bool interrupted;       /* the test was stopped, and everything rests, which has been said */
    rgp_relay relay;        /* of that test */
    rgp_relay_answer swing;
    bool swung; /* it was that test, and its answer holds */
} subject;

/* The rig is read, and the loop is found. False, which has been said, when that cannot be; subject_clear() is due in
 * any case. */
bool subject_find(subject *to, const command *self, const subject_options *o, const char *path, const char *loop);

/* The loop's movement is recorded in a test, or read; false, which has been said, when that cannot be. */
bool subject_take(subject *s);

void subject_clear(subject *s);
void subject_options_clear(subject_options *o);

/* Takes its rows out of a history; false, which has been said, when that does not hold what the loop measures and
 * drives. */
bool subject_rows(subject *s, const rgp_history *h, uint64_t from, uint64_t to);

/* Fits a model; false, which has been said, when there is too little to fit it to. */
bool subject_fit(const subject *s, rgp_process *to);

/* The rows that it is fitted to. */
rgp_process_data subject_data(const subject *s);

/* Why nothing is to be built on it, as rgp_process_doubts() says, and where it answers half of a test otherwise. */
GPtrArray *subject_doubts(const subject *s, const rgp_process *p);

/* "K/%", of an integral "K/%/s". To be freed. */
char *subject_gain_unit(const subject *s, const rgp_process *p);

#endif
