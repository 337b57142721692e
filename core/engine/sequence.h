/* Inside the engine: what others than rules and steps do to sequences. */
#ifndef RIGPULSE_ENGINE_SEQUENCE_H
#define RIGPULSE_ENGINE_SEQUENCE_H

#include "inside.h"

/* It goes to its ending, or is over. With RGP_FAIL_SENSOR it lets go at once. */
void rgp__engine_fail(rgp_engine *e, uint16_t sequence, uint8_t reason);

/* None runs any more, and nothing is asked of any. */
void rgp__engine_forget_sequences(rgp_engine *e);

#endif
