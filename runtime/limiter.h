/* A storm of events is told in short: of what happens again and again, tick after tick, the first few of each second,
 * and how many more there were when it is over. Nothing that anything is worked out from is ever left out. */
#ifndef RUNTIME_LIMITER_H
#define RUNTIME_LIMITER_H

#include "rigpulse/engine.h"

#define RP_CALM_EACH_SECOND 20u

typedef struct rp_calm rp_calm;

/* The image must outlive it. */
rp_calm *rp_calm_new(const rp_image_header *image);
void rp_calm_free(rp_calm *calm);

/* True when the event is to be told. */
bool rp_calm_lets(rp_calm *calm, const rp_event *event, uint64_t time_us);

/* That from now on some are left out (its value is 0), and how many were in a second that is over, as events of kind
 * RP_EVENT_STORM; false when there is none (more). */
bool rp_calm_sums_up(rp_calm *calm, uint64_t time_us, rp_event *event);

#endif
