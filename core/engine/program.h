/* Inside the engine: what computes, behind a table. The interpreter of images (interpret.c) is one maker of it. */
#ifndef RIGPULSE_ENGINE_PROGRAM_H
#define RIGPULSE_ENGINE_PROGRAM_H

#include "phase.h"
#include "rigpulse/kept.h"

/* A stage that keeps something over a power cycle: which of its slot's stages it is, and how. */
typedef struct rp_keeper {
    uint32_t key; /* of its slot */
    uint16_t kind, place;
    void *state;
    bool (*keep)(const void *state, rp_kept *kept);
    bool (*recall)(void *state, const rp_kept *kept);
} rp_keeper;

typedef void rp_keeper_visit(void *self, const rp_keeper *keeper);

typedef struct rp_program {
    const rp_phase *phase; /* those that it needs */
    uint32_t phases;

    void (*compute)(rp_engine *e);
    void (*reset)(rp_engine *e); /* the states of all operations */

    /* The knowledge of the stages that make a slot is forgotten; false when none makes it. */
    bool (*relearn)(rp_engine *e, uint16_t slot);

    /* The settings that hang on a parameter; false when a block would become impossible. */
    bool (*set)(rp_engine *e, uint16_t param, float value);

    /* Tells what has been learned or could not be; false when nothing is going to be learned any more. */
    bool (*news)(rp_engine *e);

    void (*keepers)(const rp_engine *e, rp_keeper_visit *visit, void *self);
} rp_program;

extern const rp_program rp_program_of_image;

#endif
