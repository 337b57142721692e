/* A stand-in for whatever follows its actuator with a delay: d value / dt = (gain input + start - value) / time. */
#include "mechanism.h"

#include <math.h>

enum { GAIN, TIME, START };

static void begin(const double *setting, double *state)
{
    state[0] = setting[START];
}

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    const double goal = setting[GAIN] * input[0] + setting[START];
    state[0] = goal + (state[0] - goal) * exp(-(to - from) / setting[TIME]);
}

static double output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)setting;
    (void)time;
    (void)which;
    return state[0];
}

static double held(const double *setting, double value, double rate, uint32_t which)
{
    (void)setting;
    (void)rate;
    (void)which;
    return value;
}

extern const mechanism mechanism_lag;
const mechanism mechanism_lag = {
    .kind = {.word = "lag",
             .help = "a value that follows an actuator with a first-order delay",
             .setting = {[GAIN] = {"gain", "", 1, -1e6, 1e6, false, "change of the value for 1 % of drive, in the end"},
                         [TIME] = {"time", "s", 1, 1e-3, 1e6, false, "time constant"},
                         [START] = {"start", "", 0, -1e9, 1e9, false, "value without drive"}},
             .input = {{"driven", "%", "the actuator"}},
             .output = {{"value", "", "the value", 0, 1}},
             .disturbance = {{"jumps", "", "the value changes by so much at once"}, MECHANISM_PLACED("")}},
    .states = 1,
    .begin = begin,
    .advance = advance,
    .output = output,
    .hand = {.moves = 0, .speed = 20.0, .left = mechanism_left, .output = held},
};
