/* A simulated sensor's reading of the truth: a scale, noise, spikes, steps of one count, rails. */
#ifndef SIM_SENSORS_SENSOR_H
#define SIM_SENSORS_SENSOR_H

#include "rigpulse/image.h"
#include "rigpulse/lang.h"
#include "rigpulse/port.h"

#include "played.h"
#include "sound.h"

#include <glib.h>
#include <gsl/gsl_rng.h>

extern const rgp_sensor_kind *const simulated_kinds[];

/* The faults of a sensor, by row of the kinds' disturbances. */
enum { FAULT_STICKS, FAULT_PINS, FAULT_LAGS, FAULT_DROPS, FAULT_SPIKES, FAULT_DRIFTS, FAULT_LEAPS, FAULTS };

/* A sensor's place in its rig: name, unit and range. */
typedef struct sensor_place {
    const char *name, *unit; /* "" for no unit; the image's */
    int32_t low, high;       /* rails */
    uint32_t tick_us;
} sensor_place;

typedef struct simulated {
    const rgp_sensor_item *item;
    sensor_place at;
    gsl_rng *chance;
    played *table; /* that is played; or */
    sound *sound;
    struct {
        double from, until, amount; /* seconds; from > until: never happened */
    } fault[FAULTS];
    bool disturbed;   /* something has ever happened to it */
    rgp_sample last;  /* the newest that was new */
    int64_t readings; /* that it had had by then; 0: one a tick */
    double read_at;   /* seconds */
} simulated;

/* Opens the file it plays, relative to `folder`. False with *error set when that fails; simulated_end() all the same.
 */
bool simulated_begin(simulated *p, const rgp_sensor_item *item, const rgp_image_header *image, uint64_t seed,
                     const char *folder, GError **error);
void simulated_end(simulated *p);

/* Remarks on the file it plays, a line each, to be freed; NULL: there are none. */
char *simulated_note(const simulated *p);

/* The standard deviation of what changes from one row of the file it plays to the next, in counts; 0: none, or it plays
 * no rows. */
double simulated_noise(const simulated *p);

/* Something happens to the sensor at `time`, for so many seconds (0: for good). */
void simulated_disturb(simulated *p, uint32_t which, double amount, double time, double lasting);

/* Its reading at `time` seconds without noise, faults and rounding, in counts. */
double simulated_counts(const simulated *p, double truth, double time);

/* The sensor's reading of that truth, were nothing wrong with it. */
int32_t simulated_level(const simulated *p, double truth);

/* The sample at `time` seconds when the truth is `truth`; one that is new says that it was taken at `stamp_us`, port
 * time. */
rgp_sample simulated_read(simulated *p, double truth, double time, uint64_t stamp_us);

#endif
