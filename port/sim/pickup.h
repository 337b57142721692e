/* What a simulated sensor makes of the truth: a scale, noise, spikes, steps of one count, rails. */
#ifndef PORT_SIM_PICKUP_H
#define PORT_SIM_PICKUP_H

#include "rigpulse/lang.h"
#include "rigpulse/port.h"

#include <glib.h>
#include <gsl/gsl_rng.h>

extern const rp_pickup_kind *const pickup_kinds[];

typedef struct pickup {
    const rp_pickup_item *item;
    int32_t low, high; /* rails */
    gsl_rng *chance;
    GArray *time, *value; /* of a file that is played */
    guint next;
} pickup;

/* Opens the file it plays, relative to `folder`. False with *error set when that fails. */
bool pickup_begin(pickup *p, const rp_pickup_item *item, int32_t low, int32_t high, uint64_t seed, const char *folder,
                  GError **error);
void pickup_end(pickup *p);

/* The reading at `time` seconds when the truth is `truth`, the last reading having been `passed` s ago. */
rp_sample pickup_read(pickup *p, double truth, double time, double passed);

#endif
