/* Mechanisms: equations of motion that know no port. Settings, inputs and outputs are those of the kind's
 * lists, in their order and units. A state is a row of doubles. */
#ifndef SIM_MECHANISMS_MECHANISM_H
#define SIM_MECHANISMS_MECHANISM_H

#include "rigpulse/catalog.h"

#include <stddef.h>

#define MECHANISM_STATES_MAX 280
#define MECHANISM_PI         3.14159265358979323846

/* A hand brings the mechanism somewhere and holds it there; for as long, its equations rest. */
#define MECHANISM_PLACED(in)                                                                            \
    {                                                                                                   \
        "placed", in, "a hand brings it there and holds it, for a time or until told again", 0, 0, true \
    }

typedef struct mechanism_hand {
    uint32_t moves; /* the output that is brought somewhere, in its unit */
    double speed;   /* of the hand, in that unit a second */

    /* The state that the hand leaves it in at `value`; NULL: it goes on as it would have without the hand. */
    void (*left)(const double *setting, double value, double *state);

    /* The outputs while it is held at `value`, changing by `rate` a second; `was`: its state when the hand came. */
    double (*output)(const double *setting, const double *was, double value, double rate, uint32_t which);
} mechanism_hand;

typedef struct mechanism_grip {
    bool holds;
    double from, to, begin, takes, until; /* units of the output, and seconds */
} mechanism_grip;

typedef struct mechanism {
    rgp_mechanism_kind kind;
    uint32_t states;

    /* Seconds: no change that can be seen of its switches is shorter; 0: MECHANISM_BRIEF. */
    double brief;

    /* The state at time 0; NULL: all 0. */
    void (*begin)(const double *setting, double *state);

    /* The state at `to`, exactly, from that at `from`, in seconds, with the inputs held. NULL: by its rate. */
    void (*advance)(const double *setting, const double *input, double from, double to, double *state);

    /* d state / dt, in units a second; time in seconds. NULL, as `advance` is: nothing moves by itself. */
    void (*rate)(const double *setting, const double *input, double time, const double *state, double *rate);

    /* The longest step, in seconds, in which its fastest part is followed to a millionth of what it does. */
    double (*step)(const double *setting);

    /* Stops, brims and walls, after each step; NULL: none. */
    void (*bound)(const double *setting, double *state);

    double (*output)(const double *setting, double time, const double *state, uint32_t which);

    /* A disturbance of the kind's list happens; NULL: its amount is added to the first state. */
    void (*disturb)(const double *setting, double *state, uint32_t which, double amount);

    mechanism_hand hand;
} mechanism;

/* In closed form where there is one, else by fourth-order Runge-Kutta (Kutta, 1901) in equal steps of at most the
 * kind's, inputs held. A step of h / T follows what decays with the time constant T to (h / T)^4 / 120 of it. */
#define MECHANISM_BRIEF 1e-3
void mechanism_run(const mechanism *p, const double *setting, const double *input, double from, double to,
                   double *state);

void mechanism_begin(const mechanism *p, const double *setting, double *state);
void mechanism_disturb(const mechanism *p, const double *setting, double *state, uint32_t which, double amount);

/* True when this row of the kind's disturbances is the hand. */
bool mechanism_is_hand(const mechanism *p, uint32_t which);

/* From `time` on the hand brings it to `to`, and holds it for `lasting` seconds in all (0: until it is told again). */
void mechanism_place(const mechanism *p, const double *setting, double time, const double *state, double to,
                     double lasting, mechanism_grip *grip);

/* The hand lets go. */
void mechanism_let_go(const mechanism *p, const double *setting, mechanism_grip *grip, double *state);

/* For `left` where the first state is what the hand moves, and all others rest. */
void mechanism_left(const double *setting, double value, double *state);

/* The outputs that can be seen, held or not. */
double mechanism_output(const mechanism *p, const double *setting, double time, const double *state,
                        const mechanism_grip *grip, uint32_t which);

/* All kinds; ends with NULL. */
extern const mechanism *const mechanisms[];

const mechanism *mechanism_of(const rgp_mechanism_kind *kind);

#endif
