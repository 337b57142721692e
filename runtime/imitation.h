/* The mechanisms of a hook-up driven as a recording says: what the rig's sensors would have read of them. */
#ifndef RUNTIME_IMITATION_H
#define RUNTIME_IMITATION_H

#include "history.h"
#include "rigpulse/lang.h"

#include <glib.h>

typedef struct rgp_imitation rgp_imitation;

typedef struct rgp_imitation_ask {
    const rgp_rig *rig;         /* hooked up to the simulated port */
    const rgp_history *history; /* of a rig whose actuators bear the same names */
    uint64_t until;             /* up to, and not with, this row */
    bool happens;               /* what the hook-up says that happens, does */
} rgp_imitation_ask;

/* Rig and history must outlive it. NULL with *error when the history does not say what drove a mechanism. */
rgp_imitation *rgp_imitation_new(const rgp_imitation_ask *ask, GError **error);
void rgp_imitation_free(rgp_imitation *imitation);

/* A row, counted from the history's first one, in which readings are wanted. Other rows in which nothing is driven
 * otherwise than before are passed over. */
void rgp_imitation_want(rgp_imitation *imitation, uint64_t row);

/* From the history's first row on, with these mechanisms in place of the hook-up's. reading[i] takes, in each row that
 * is wanted, what sensor[i] would read without noise, faults and rounding, in counts; NAN where it sees none. Two calls
 * at the same time are sound. False with *error when the hook-up cannot be opened. */
bool rgp_imitation_run(const rgp_imitation *imitation, const rgp_mechanism_item *mechanism, const uint32_t *sensor,
                       uint32_t sensors, double *const *reading, GError **error);

uint64_t rgp_imitation_rows(const rgp_imitation *imitation);

#endif
