/* Inside the engine: what others than rules and steps do to sequences. */
#ifndef RIGPULSE_ENGINE_SEQUENCE_H
#define RIGPULSE_ENGINE_SEQUENCE_H

#include "inside.h"

/* It goes to its ending, or is over. With RP_FAIL_SENSOR it lets go at once. */
void rp_engine_fail(rp_engine *e, uint16_t sequence, uint8_t reason);

/* None runs any more, and nothing is asked of any. */
void rp_engine_forget_sequences(rp_engine *e);

#endif
