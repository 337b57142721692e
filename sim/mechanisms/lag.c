/* A stand-in for whatever follows its actuator with a delay.
 *
 *   goal(t)        = start + load + gain drive(t - dead)
 *   d first / dt   = (goal - first) / time
 *   d value / dt   = (first - value) / then      (then = 0: value = first)
 *
 * gain is what 1 % of drive changes the value by in the end: at 50 % it ends 50 gain above where it began. What is in
 * the pipe for `dead` is kept in CELLS pieces, each as long as the next and each the mean of what went in meanwhile, so
 * a change comes late by `dead`, spread over a CELLSth of it. All in closed form. */
#include "mechanism.h"

#include <math.h>

#define CELLS   256
#define FLOODED 4.0   /* times `dead` */
#define EXACT   1e-15 /* of a time in seconds: what is left of a difference of two is no more than rounding */

enum { GAIN, TIME, THEN, DEAD, LOAD, START };
enum {
    VALUE,
    FIRST,
    JUMPED,
    FILLED,
    CELL,
    STATES = CELL + CELLS
}; /* JUMPED: what jumps and loads have added; FILLED: drive times time of the piece that goes in */
enum { JUMPS, LOADED, PLACED };

static void lag_begin(const double *setting, double *state)
{
    state[VALUE] = state[FIRST] = setting[START] + setting[LOAD];
}

static double goal_of(const double *setting, const double *state, double drive)
{
    return setting[START] + setting[LOAD] + state[JUMPED] + setting[GAIN] * drive;
}

/* Two lags in a row, towards a goal that stands for so long. */
static void follow(const double *setting, double goal, double seconds, double *state)
{
    const double one = setting[TIME], two = setting[THEN];
    const double first = state[FIRST] - goal, value = state[VALUE] - goal;
    const double fades = exp(-seconds / one);
    state[FIRST] = goal + first * fades;
    if (two <= 0.0) {
        state[VALUE] = state[FIRST];
    } else if (fabs(one - two) < 1e-9 * one) {
        state[VALUE] = goal + (value + first * seconds / two) * fades;
    } else {
        const double fades_too = exp(-seconds / two);
        state[VALUE] = goal + value * fades_too + first * one / (one - two) * (fades - fades_too);
    }
}

/* The piece that a time lies in, counted from 0; one that it is at the end of, as near as numbers tell, is over. */
static double piece_at(double now, double piece, double near)
{
    const double which = floor(now / piece + 1e-9);
    return (which + 1.0) * piece - now > near ? which : which + 1.0;
}

/* After several times `dead` all that is in the pipe is what goes in now; each piece alone would take for ever where
 * `dead` is next to nothing. */
static double pass_through(const double *setting, const double *input, double now, double to, double near,
                           double *state)
{
    const double piece = setting[DEAD] / CELLS;
    const double rest = to - now - setting[DEAD];
    follow(setting, goal_of(setting, state, state[CELL]), setting[DEAD], state);
    follow(setting, goal_of(setting, state, input[0]), rest, state);
    for (int i = 0; i < CELLS; i++) {
        state[CELL + i] = input[0];
    }
    state[FILLED] = input[0] * fmax(0.0, to - piece_at(to, piece, near) * piece);
    return to;
}

/* Cell i holds the mean drive of the i-th piece of time, counted round; what comes out was put in `dead` ago. */
static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    const double piece = setting[DEAD] / CELLS, near = 1e-12 + EXACT * to;
    double now = from;
    if (piece <= 0.0) {
        follow(setting, goal_of(setting, state, input[0]), to - from, state);
        return;
    }
    if (to - from > FLOODED * setting[DEAD]) {
        now = pass_through(setting, input, from, to, near, state);
    }
    while (to - now > near) {
        const double which = piece_at(now, piece, near), over = (which + 1.0) * piece, end = fmin(over, to);
        double *cell = &state[CELL + (uint32_t)fmod(which, CELLS)];
        follow(setting, goal_of(setting, state, *cell), end - now, state);
        state[FILLED] += input[0] * (end - now);
        if (end >= over - near) { /* it is read for the last time, and takes what went in meanwhile */
            *cell = state[FILLED] / piece;
            state[FILLED] = 0.0;
        }
        now = end;
    }
}

static double lag_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)setting;
    (void)time;
    (void)which;
    return state[VALUE];
}

static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    (void)was;
    (void)setting;
    (void)rate;
    (void)which;
    return value;
}

/* A hand leaves it there with nothing in the pipe. */
static void left(const double *setting, double value, double *state)
{
    const double jumped = state[JUMPED];
    mechanism_left(setting, value, state);
    state[FIRST] = value;
    state[JUMPED] = jumped;
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    if (which == LOADED) {
        state[JUMPED] += amount;
    } else {
        state[VALUE] += amount;
        state[FIRST] += amount;
    }
}

extern const mechanism mechanism_lag;
const mechanism mechanism_lag = {
    .kind = {.word = "lag",
             .help = "a value that follows an actuator with delays",
             .setting = {[GAIN] = {"gain", RGP_UNIT_OWN_STEP, 1, -1e6, 1e6, false,
                                   "change of the value for each 1 % of drive, in the end"},
                         [TIME] = {"time", "s", 1, 1e-3, 1e6, false, "time constant"},
                         [THEN] = {"then", "s", 0, 0, 1e6, false, "time constant of a second lag behind the first"},
                         [DEAD] = {"dead", "s", 0, 0, 1e6, false, "time for which nothing comes of a change"},
                         [LOAD] = {"load", RGP_UNIT_OWN_STEP, 0, -1e9, 1e9, false, "what a constant load adds"},
                         [START] = {"start", RGP_UNIT_OWN, 0, -1e9, 1e9, false, "value without drive and load"}},
             .input = {{"driven", "%", "the actuator"}},
             .output = {{"value", RGP_UNIT_OWN, "the value", 0, 1}},
             .disturbance = {[JUMPS] = {"jumps", RGP_UNIT_OWN_STEP, "the value changes by so much at once"},
                             [LOADED] = {"loaded", RGP_UNIT_OWN_STEP, "so much more load is on it from then on"},
                             [PLACED] = MECHANISM_PLACED(RGP_UNIT_OWN)}},
    .states = STATES,
    .begin = lag_begin,
    .advance = advance,
    .output = lag_output,
    .disturb = disturb,
    .hand = {.moves = VALUE, .speed = 1e9, .left = left, .output = held},
};
