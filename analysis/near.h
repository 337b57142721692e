/* The moments at which a rule nearly fired.
 *
 * Of a rule for an event: each time that the event came while one other condition was missing, or came and was dropped.
 *
 * Else looked at are the ticks in which just one condition was missing, and by how much: a distance to a limit or a
 * border, or the rest of a time. A moment is near when that distance comes to within a quarter of its median over all
 * such ticks, or of a time (or a number of events) to within half of the whole, and goes away again without the rule's
 * condition becoming true; the moment is that of the least distance. */
#ifndef ANALYSIS_NEAR_H
#define ANALYSIS_NEAR_H

#include "explanation.h"

#define RGP_NEAR_SHARE      0.25 /* of the usual distance */
#define RGP_NEAR_TIME_SHARE 0.5  /* of a time */

typedef struct rgp_near {
    uint32_t row;
    uint16_t slot;  /* of the condition that was missing, in the traced rig; RGP_REF_NONE: none was */
    double amount;  /* that it lacked; INFINITY: it was true or it was not */
    double usually; /* the median, or of a time the whole; 0: the event came, and there is no usual distance */
} rgp_near;

/* The nearest ones, at most `most`, in the order of time; to be given back with g_array_unref(). NULL with *error. */
GArray *rgp_near_of(const rgp_recording *from, uint32_t rule, uint32_t most, GError **error);

#endif
