/* Inside the engine: the operations that learn (zero, span), and what they have to tell of it. */
#ifndef RIGPULSE_ENGINE_LEARNER_H
#define RIGPULSE_ENGINE_LEARNER_H

#include "rigpulse/engine.h"

/* The mark that what was learned has been told, in the state of an operation; NULL when this operation learns nothing.
 */
uint32_t *rp_learner_told(uint32_t op, void *state);

/* The news since it was asked last: kind, reason and value of the event. False: nothing. */
bool rp_learner_news(uint32_t op, void *state, rp_event *news);

#endif
