/* A simulated sensor's reading of the truth: a scale, noise, spikes, steps of one count, rails. */
#ifndef SIM_SENSORS_PICKUP_H
#define SIM_SENSORS_PICKUP_H

#include "rigpulse/lang.h"
#include "rigpulse/port.h"

#include <glib.h>
#include <gsl/gsl_rng.h>
#include <sndfile.h>

extern const rgp_sensor_kind *const simulated_kinds[];

/* The faults of a sensor, by row of the kinds' disturbances. */
enum { FAULT_STICKS, FAULT_PINS, FAULT_LAGS, FAULT_DROPS, FAULT_SPIKES, FAULT_DRIFTS, FAULT_LEAPS, FAULTS };

typedef struct simulated {
    const rgp_sensor_item *item;
    int32_t low, high; /* rails */
    gsl_rng *chance;
    GArray *time, *value; /* of a table that is played */
    guint next;
    float *sound; /* of a sound that is played */
    sf_count_t sound_length;
    int64_t sound_rate;
    struct {
        double from, until, amount; /* seconds; from > until: never happened */
    } fault[FAULTS];
    bool disturbed;   /* something has ever happened to it */
    rgp_sample last;  /* the newest that was new */
    int64_t readings; /* that it had had by then; 0: one a tick */
    double read_at;   /* seconds */
} simulated;

/* Opens the file it plays, relative to `folder`. False with *error set when that fails. */
bool simulated_begin(simulated *p, const rgp_sensor_item *item, int32_t low, int32_t high, uint64_t seed,
                     const char *folder, GError **error);
void simulated_end(simulated *p);

/* A remark on the file it plays, to be freed: that some of it falls between two ticks. NULL: nothing. */
char *simulated_note(const simulated *p, uint32_t tick_us);

/* The standard deviation of what changes from one row of the file it plays to the next, in counts; 0: none, or it plays
 * no rows. */
double simulated_noise(const simulated *p);

/* Something happens to the sensor at `time`, for so many seconds (0: for good). */
void simulated_disturb(simulated *p, uint32_t which, double amount, double time, double lasting);

/* The sensor's reading of that truth, were nothing wrong with it. */
int32_t simulated_level(const simulated *p, double truth);

/* The sample at `time` seconds when the truth is `truth`; one that is new says that it was taken at `stamp_us`, port
 * time. */
rgp_sample simulated_read(simulated *p, double truth, double time, uint64_t stamp_us);

#endif
