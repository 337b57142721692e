/* Inside the engine: what computes, behind a table. The interpreter of images (interpret.c) is one maker of it. */
#ifndef RIGPULSE_ENGINE_PROGRAM_H
#define RIGPULSE_ENGINE_PROGRAM_H

#include "phase.h"
#include "rigpulse/retained.h"

/* A stage that keeps something over a power cycle: which of its slot's stages it is, and how. */
typedef struct rgp__retainer {
    uint32_t key; /* of its slot */
    uint16_t kind, place;
    void *state;
    bool (*retain)(const void *state, rgp_retained *kept);
    bool (*restore)(void *state, const rgp_retained *kept);
} rgp__retainer;

typedef void rgp__retainer_visit(void *self, const rgp__retainer *retainer);

typedef struct rgp_program {
    void (*compute)(rgp_engine *e);
    void (*reset)(rgp_engine *e); /* the states of all operations */

    /* The knowledge of the stages that make a slot is forgotten; false when none makes it. */
    bool (*relearn)(rgp_engine *e, uint16_t slot);

    /* The settings that hang on a parameter; false when a block would become impossible. */
    bool (*set)(rgp_engine *e, uint16_t param, float value);

    /* Tells what has been learned or could not be; false when nothing is going to be learned any more. */
    bool (*news)(rgp_engine *e);

    void (*retainers)(const rgp_engine *e, rgp__retainer_visit *visit, void *self);
} rgp_program;

extern const rgp_program rgp__program_of_image;

#endif
