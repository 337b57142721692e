/* A storm of events is told in short: of what happens again and again, tick after tick, the first few of each second,
 * and how many more there were when it is over. Nothing that anything is worked out from is ever left out. */
#ifndef RUNTIME_LIMITER_H
#define RUNTIME_LIMITER_H

#include "rigpulse/engine.h"

#define RGP_LIMITER_EACH_SECOND 20u

typedef struct rgp_limiter rgp_limiter;

/* The image must outlive it. */
rgp_limiter *rgp_limiter_new(const rgp_image_header *image);
void rgp_limiter_free(rgp_limiter *limiter);

/* True when the event is to be told. */
bool rgp_limiter_lets(rgp_limiter *limiter, const rgp_event *event, uint64_t time_us);

/* That from now on some are left out (its value is 0), and how many were in a second that is over, as events of kind
 * RGP_EVENT_STORM; false when there is none (more). */
bool rgp_limiter_sums_up(rgp_limiter *limiter, uint64_t time_us, rgp_event *event);

#endif
