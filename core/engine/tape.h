/* Inside the engine: the program of an image while it is computed, run by run. */
#ifndef RIGPULSE_ENGINE_TAPE_H
#define RIGPULSE_ENGINE_TAPE_H

#include "image/ops.h"
#include "inside.h"

/* The arrays that the run functions work on. */
typedef struct rgp__tape {
    float *value;
    rgp_quality *quality;
    const float *constant;
    const uint16_t *operand;
    const unsigned char *config[2]; /* in the image, in memory */
    unsigned char *state;
    float dt;    /* of this tick; of what steps on new readings, since the last of those */
    float since; /* of loops: since they have measured anew */
    bool same;   /* of loops: they have not, in this tick */
    bool moves;  /* left by loops: one does not simply go on */
    const rgp_engine *engine;
} rgp__tape;

/* The places of a run as locals, so that a store of a byte need not be feared to have moved them. */
#define RGP__PLACES_OF(t, run)                                                               \
    float *const value = (t)->value;                                                         \
    rgp_quality *const quality = (t)->quality;                                               \
    const uint16_t *operand = (t)->operand + (run)->operand;                                 \
    const unsigned char *config = (t)->config[(run)->live] + (run)->config;                  \
    unsigned char *state = (t)->state + (run)->state;                                        \
    const uint32_t config_stride = (run)->config_stride, state_stride = (run)->state_stride; \
    const float dt = (t)->dt;                                                                \
    (void)state_stride;                                                                      \
    (void)state;                                                                             \
    (void)dt

/* Computes a run: its operations one behind the other, or in another way. */
typedef void rgp__run_function(rgp__tape *, const rgp_image_run *);

extern rgp__run_function *const rgp__run_op[RGP_OPS];          /* the plain way, by operation */
extern rgp__run_function *const *const rgp__run_way[RGP_WAYS]; /* of each way, by operation */

/* Computes `count` operations of a run from the n-th on: one, or as many as go together. */
void rgp__run_part(rgp__tape *t, const rgp_image_run *run, uint32_t n, uint32_t count);

/* The one place that chooses the way: the image says which, once a run. */
static inline void rgp__run(rgp__tape *t, const rgp_image_run *run)
{
    rgp__run_way[run->way][run->op](t, run);
}

#endif
