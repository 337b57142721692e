/* predict (Smith predictor): the value that a slow process will come to, by a model of it: a first-order lag behind a
 * dead time (Smith, "Closer control of loops with dead time", 1957). What comes out is what is measured, plus what the
 * model says has been set going and has not arrived yet; a controller that looks at it does not push on while it waits.
 *
 *   out = measured + y(t) - y(t - dead),   dy/dt = (gain * (driven - the first driven) - y) / lag
 *
 * Where the model is right the loop can be tuned as if there were no dead time. The past of y is kept at
 * RGP_PREDICT_KEPT places over the dead time, with straight lines between them: a corner in it is rounded over a 63rd
 * of that. */
#ifndef RIGPULSE_REGULATE_PREDICT_H
#define RIGPULSE_REGULATE_PREDICT_H

#include "rigpulse/block.h"

RGP_DECLARATIONS_BEGIN

#define RGP_PREDICT_KEPT 64u /* places of the past of y */

/* The settings: the caller's, and only read. */
typedef struct rgp_predict_config {
    float gain; /* measured units per unit of what is driven; not 0 */
    float lag;  /* seconds; above 0, at most 1e6 */
    float dead; /* seconds; above 0, at most 1e6 */
} rgp_predict_config;

/* The state: the caller's memory, zeroed or reset before the first step; to be read, not written. */
typedef struct rgp_predict_state {
    uint64_t since_us;            /* the newest place was kept; below dead / (RGP_PREDICT_KEPT - 1) */
    float y, lost;                /* y, and what it has not been able to hold */
    float first;                  /* driven at the first step */
    uint16_t at;                  /* the newest place */
    uint8_t primed;               /* 1: it has stepped */
    uint8_t reserved;             /* 0 */
    float kept[RGP_PREDICT_KEPT]; /* the past of y, a ring */
} rgp_predict_state;

/* RGP_E_CONFIG when a setting is not finite or outside its range. Else RGP_OK. Only the settings are looked at. */
rgp_status rgp_predict_check(const rgp_predict_config *config);

/* The same in words (rigpulse/status.h): the first setting that is wrong, and its limits; NULL: none. A constant, which
 * lives for ever. */
const char *rgp_predict_fault(const rgp_predict_config *config);

/* A state that knows nothing, as memory of zeroes is: the next step is the first one. */
void rgp_predict_reset(rgp_predict_state *state);

/* `driven`: what has been written to the actuator for the last dt; it must be good, or nothing is stepped. The quality
 * is that of what is measured: the model goes on while nothing can be measured. dt in seconds; dt = 0 steps no state.
 *
 * Time: at most RGP_PREDICT_KEPT places. Memory: that of its arguments alone. Threads: one at a time for each state. */
rgp_reading rgp_predict_step(const rgp_predict_config *config, rgp_predict_state *state, rgp_reading measured,
                             rgp_reading driven, float dt);

RGP_DECLARATIONS_END

#endif
