/* The integration of mechanisms, and the hand that places one. */
#include "mechanism.h"

#include <math.h>
#include <string.h>

#define HAND_LEAST 0.2 /* seconds that a hand needs at least */

static void mechanism_step_once(const mechanism *p, const double *setting, const double *input, double time, double dt,
                                double *state)
{
    double k[4][MECHANISM_STATES_MAX], probe[MECHANISM_STATES_MAX];
    static const double part[4] = {0.0, 0.5, 0.5, 1.0};
    for (int stage = 0; stage < 4; stage++) {
        for (uint32_t i = 0; i < p->states; i++) {
            probe[i] = state[i] + (stage ? part[stage] * dt * k[stage - 1][i] : 0.0);
        }
        p->rate(setting, input, time + part[stage] * dt, probe, k[stage]);
    }
    for (uint32_t i = 0; i < p->states; i++) {
        state[i] += dt / 6.0 * (k[0][i] + 2.0 * k[1][i] + 2.0 * k[2][i] + k[3][i]);
    }
    if (p->bound) {
        p->bound(setting, state);
    }
}

void mechanism_begin(const mechanism *p, const double *setting, double *state)
{
    memset(state, 0, MECHANISM_STATES_MAX * sizeof *state);
    if (p->begin) {
        p->begin(setting, state);
    }
}

void mechanism_disturb(const mechanism *p, const double *setting, double *state, uint32_t which, double amount)
{
    if (p->disturb) {
        p->disturb(setting, state, which, amount);
    } else {
        state[0] += amount;
    }
}

bool mechanism_is_hand(const mechanism *p, uint32_t which)
{
    return strcmp(p->kind.disturbance[which].word, "placed") == 0;
}

/* The way of the hand: it sets off and arrives softly, from + (to - from) (1 - cos(pi t / takes)) / 2. */
static double way_of_hand(const mechanism_grip *grip, double time, double *rate)
{
    const double t = time - grip->begin, far = grip->to - grip->from;
    if (t >= grip->takes) {
        *rate = 0.0;
        return grip->to;
    }
    *rate = 0.5 * far * MECHANISM_PI / grip->takes * sin(MECHANISM_PI * t / grip->takes);
    return grip->from + 0.5 * far * (1.0 - cos(MECHANISM_PI * t / grip->takes));
}

void mechanism_place(const mechanism *p, const double *setting, double time, const double *state, double to,
                     double lasting, mechanism_grip *grip)
{
    const double from = mechanism_output(p, setting, time, state, grip, p->hand.moves);
    const double takes = fmax(HAND_LEAST, 0.5 * MECHANISM_PI * fabs(to - from) / p->hand.speed);
    *grip = (mechanism_grip){true, from, to, time, takes, lasting > 0.0 ? time + lasting : INFINITY};
}

void mechanism_left(const double *setting, double value, double *state)
{
    (void)setting;
    memset(state, 0, MECHANISM_STATES_MAX * sizeof *state);
    state[0] = value;
}

void mechanism_let_go(const mechanism *p, const double *setting, mechanism_grip *grip, double *state)
{
    if (p->hand.left) {
        p->hand.left(setting, grip->to, state);
    }
    grip->holds = false;
}

double mechanism_output(const mechanism *p, const double *setting, double time, const double *state,
                        const mechanism_grip *grip, uint32_t which)
{
    if (!grip->holds) {
        return p->output(setting, time, state, which);
    }
    double rate;
    const double value = way_of_hand(grip, time, &rate);
    return p->hand.output(setting, state, value, rate, which);
}

void mechanism_run(const mechanism *p, const double *setting, const double *input, double from, double to,
                   double *state)
{
    if (p->advance) {
        p->advance(setting, input, from, to, state);
    }
    if (!p->rate) {
        return;
    }
    const double steps = ceil((to - from) / p->step(setting) - 1e-9);
    for (double i = 0.0; i < steps; i += 1.0) {
        mechanism_step_once(p, setting, input, from + (to - from) * i / steps, (to - from) / steps, state);
    }
}
