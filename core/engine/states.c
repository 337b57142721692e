/* Modes, cues and the steps of sequences, as the last tick has left them. */
#include "phase.h"

/* A sequence shows its step from 1 on, 0 while it does not run. */
static float restored_state(const rgp_engine *e, uint32_t state)
{
    const rgp_image_state *of = &image_STATES(e)[state];
    if (of->kind != RGP_STATE_SEQUENCE) {
        return part_state_next(e)[state];
    }
    const rgp__sequence_state *s = &part_sequence(e)[of->of];
    return s->runs ? (float)(s->step + 1) : 0.0f;
}

/* A cue is there for one tick. */
void rgp__phase_states(rgp_engine *e)
{
    float *const next = part_state_next(e), *const value = part_value(e) + rgp_image_state_slot(e->image, 0);
    part_head(e)->due &= ~(uint32_t)RGP__DUE_STATES;
    for (uint32_t i = 0; i < COUNT(e, STATES); i++) {
        value[i] = restored_state(e, i);
        if (image_STATES(e)[i].kind == RGP_STATE_CUE && next[i] != 0.0f) {
            next[i] = 0.0f;
            make_due(e, RGP__DUE_STATES);
        }
    }
}
