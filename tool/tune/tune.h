/* rigpulse tune, in its parts: a loop's gains changed while it runs, tests, and what came of each. */
#ifndef TOOL_TUNE_TUNE_H
#define TOOL_TUNE_TUNE_H

#include "tool/command.h"

#include "analysis/diagnosis.h"
#include "analysis/response.h"
#include "rigpulse/edit.h"

#include <stdio.h>

#define TUNE_GAINS  3u
#define TUNE_VALUES (TUNE_GAINS + RGP_LOOP_SETTINGS_MAX) /* gains, and behind them the other settings */

typedef enum tune_test { TUNE_STEP, TUNE_PUSH, TUNE_DISTURB } tune_test;

/* One test and what came of it. */
typedef struct tune_try {
    double gain[TUNE_VALUES];
    tune_test test;
    double size;          /* of a step or a push */
    uint32_t disturbance; /* of a disturbance: which of the hook-up's */
    rgp_response response;
    char *stopped;              /* why it was broken off, or does not count; NULL: neither */
    bool lost;                  /* it was broken off since the loop cut out */
    bool voided;                /* it does not count; else everything was brought to rest */
    rgp_pid_config pid;         /* with its gains and settings, where the loop has such a controller */
    rgp_predict_config predict; /* and its 'predict' line, where it has one */
    rgp_diagnosis *diagnosis;   /* of its gains; NULL: none can be told */
    GArray *rows;               /* of rgp_response_row; the test begins at rows[before] */
    uint32_t before;
} tune_try;

typedef struct tuning {
    const command *self;
    const char *path;
    rgp_rig *file; /* as it stands on the disk */
    const rgp_image_header *image;
    uint32_t loop;
    const rgp_image_loop *is;
    const char *name, *unit, *drive_unit; /* of the loop, of what it measures, of its actuator */
    uint32_t gains;
    rgp_loop_setting setting[RGP_LOOP_SETTINGS_MAX];
    uint32_t settings;
    uint64_t seed;
    double over;      /* seconds that a test is looked at */
    double pace;      /* live: times as fast as the wall clock; 0: once */
    double band;      /* 0: found from the test */
    double tolerance; /* of the loop: what its dead band, margin or tolerance leaves alone */
    GArray *tries;
} tuning;

static inline tune_try *tune_try_at(const tuning *t, guint i)
{
    return &g_array_index(t->tries, tune_try, i);
}

/* Nothing is tried yet; tune_end() is due. */
void tune_begin(tuning *t, const command *self, const char *path);
void tune_end(tuning *t);

/* A loop of a rig that outlives this; false, which has been said, when it has none of that name. Tests are looked at
 * for a thousand ticks, until something else is said. */
bool tune_find(tuning *t, rgp_rig *file, const char *name);

/* "kp", "ki", "kd", "stride", "margin": the gain's name behind that of the loop; of a parameter of the rig, its name;
 * of the settings behind the gains, the words that are written: "filter", "engage within". */
const char *tune_gain_word(const tuning *t, uint32_t gain);
const char *tune_gain_unit(const tuning *t, uint32_t gain);

/* A gain in the unit in which the loop computes for one in that in which it is written: 1.8 of a kp in %/degF. */
double tune_gain_scale(const tuning *t, uint32_t gain);

/* Gains and settings as they stand in the file. */
void tune_file_gains(const tuning *t, double *gain);

/* "kp 8, ki 0.05 %/K/s, filter 20 ms": changes what it names. False with *why, to be freed. */
bool tune_parse_gains(const tuning *t, const char *text, double *gain, char **why);

/* An amount of what is measured, or of what is driven. False with *why, to be freed. */
bool tune_parse_amount(const tuning *t, tune_test test, const char *text, double *amount, char **why);

/* The setpoint that is asked for in the newest row, which a ramp may not have come to; of an expression the one that
 * the ramp has come to. */
double tune_setpoint(const tuning *t, const rgp_history *h);

/* True for a step of the setpoint that the loop can take. False with *why, to be freed. */
bool tune_step_fits(const tuning *t, double setpoint, double step, char **why);

/* True when all settings but the gains are the same: only the gains can change while the rig runs. */
bool tune_same_settings(const tuning *t, const double *a, const double *b);

/* The rig of the file with these settings, its own to be freed; *error is set where that cannot be. */
rgp_rig *tune_rig(const tuning *t, const double *gain, GError **error);

/* "kp 25, ki 0.3, kd 0", and the settings that are not as they stand in the file; "step 5 K". To be freed. */
char *tune_gains_text(const tuning *t, const double *gain);
char *tune_settings_text(const tuning *t, const double *gain);
char *tune_test_text(const tuning *t, const tune_try *one);

/* The number of disturbances that the hook-up states behind 0 s, and the k-th of them as an index into its list. */
uint32_t tune_disturbances(const tuning *t);
uint32_t tune_disturbance(const tuning *t, uint32_t k);

/* "settled in 105 s"; "*" behind it where the test was begun on the way somewhere. To be freed. */
char *tune_verdict_text(const tuning *t, const tune_try *one);

/* Takes over a try whose rows are there, and works out its figures. Returns its number, from 1. */
guint tune_add(tuning *t, tune_try *one);

/* Why a test has to be broken off at an event; NULL: it need not. To be freed. */
char *tune_breaks_off(const tuning *t, const rgp_event *event);

/* Looks at a try, once; before tune_advice(). */
void tune_diagnose(const tuning *t, tune_try *one);

/* A sentence on what is the matter in a try, and the next one, as tune_parse_gains() takes it, or NULL. Both to be
 * freed; NULL of a try that does not count, and of a loop that nothing is told of. */
char *tune_advice(const tuning *t, const tune_try *one, char **next);

/* A line of names and one for each try, as texts, with so many spaces before each column. */
GPtrArray *tune_table(const tuning *t, int gap);

/* The other lines that drive the loop's actuator, in words; NULL: there are none. The caller frees the text. */
char *tune_other_drivers(const tuning *t);

/* All tries; as JSON. */
void tune_print(const tuning *t);
void tune_print_json(const tuning *t);

/* Writes gains into the rig file, unless they stand there already: *said, to be freed, has what was done, or, where
 * that is false, why they cannot be written. */
bool tune_save(tuning *t, const double *gain, char **said);

/* Draws the tries, one colour each. False with *error. */
bool tune_draw(const tuning *t, const char *path, GError **error);

/* ---- bench.c: the rig in simulated time, tick by tick ------------------------------------------- */

typedef struct tune_bench tune_bench;

/* It begins, with these gains and settings. NULL with *error. */
tune_bench *tune_bench_new(tuning *t, const double *gain, GError **error);
void tune_bench_free(tune_bench *b);

/* The gains from now on; false when one is out of its range. The settings stay as they were at its beginning. */
bool tune_bench_gains(tune_bench *b, const double *gain);

/* Until a ramp is over, the loop has driven off its limits for as long as a test takes, and then as long as it gets
 * calmer; the ramp at most a hundred, each of the others at most six times as long. */
void tune_bench_settle(tune_bench *b);

void tune_bench_wait(tune_bench *b, double seconds);

/* A hand brings the mechanism that the loop drives to what `text` says ("60 degC"), then lets it go. False with *why,
 * to be freed. */
bool tune_bench_place(tune_bench *b, const char *text, char **why);

/* Faults cleared: a loop that has cut out waits again. */
void tune_bench_clear(tune_bench *b);

/* A test from here on, added to the tries, with what it was done by taken back. Returns its number; 0 when the step
 * cannot be taken, with *why, to be freed. */
guint tune_bench_test(tune_bench *b, tune_test test, double size, uint32_t disturbance, char **why);

/* Seconds since its beginning. */
double tune_bench_time(const tune_bench *b);

/* ---- script.c: orders line by line -------------------------------------------------------------- */

int tune_script(tuning *t, FILE *from);

/* ---- view.c: on the whole screen ---------------------------------------------------------------- */

int tune_by_keys(tuning *t);

#endif
