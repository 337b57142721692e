/* Inside the engine: sequences, and what the rig remembers from tick to tick. */
#ifndef RIGPULSE_ENGINE_SEQUENCE_H
#define RIGPULSE_ENGINE_SEQUENCE_H

#include "rigpulse/engine.h"

/* The rig's memory has changed: it is seen from the next tick on. */
static inline void stir(rp_engine *e)
{
    e->stirred = 1;
    e->early = 1;
}

/* Before a tick computes: modes, cues and the steps of sequences as the last tick has left them. */
void rp_engine_recall_states(rp_engine *e);

/* After the rules: what runs goes on as far as it can. */
void rp_engine_run_sequences(rp_engine *e);

/* Requests of rules and steps. A sequence that a fault keeps from it does not begin. */
void rp_engine_begin(rp_engine *e, uint16_t sequence, bool anew);
void rp_engine_finish(rp_engine *e, uint16_t sequence);

/* A sensor that it needs has a fault. */
void rp_engine_fail(rp_engine *e, uint16_t sequence, uint8_t reason);

/* tick.c: one action of a sequence; false when its amount cannot be known. */
bool rp_engine_act(rp_engine *e, uint32_t action);

#endif
