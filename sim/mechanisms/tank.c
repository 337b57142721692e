/* A basin: a pump with its own run-up fills it, a leak at the bottom empties it, waves run over it.
 *
 *   d pump / dt  = (asked - pump) / runup
 *   d depth / dt = (inflow pump - leak sqrt(depth / height)) / area      (Torricelli, 1643)
 *
 * depth in cm, pump 0..1, volumes in ml. */
#include "mechanism.h"

#include <math.h>

enum { INFLOW, RUNUP, LEAK, AREA, HEIGHT, START, WAVES, WAVES_EVERY, STALLS };
enum { DEPTH, PUMP, STATES };

static void tank_begin(const double *setting, double *state)
{
    state[DEPTH] = setting[START];
    state[PUMP] = 0.0;
}

static void rate(const double *setting, const double *input, double time, const double *state, double *rate_of)
{
    (void)time;
    const double depth = fmax(state[DEPTH], 0.0);
    const double out = setting[LEAK] * sqrt(depth / setting[HEIGHT]);
    const double asked = input[0] > setting[STALLS] ? input[0] / 100.0 : 0.0;
    rate_of[PUMP] = (asked - state[PUMP]) / setting[RUNUP];
    rate_of[DEPTH] = (setting[INFLOW] * state[PUMP] - out) / setting[AREA];
}

static double tank_step(const double *setting)
{
    return setting[RUNUP] / 16.0;
}

static void bound(const double *setting, double *state)
{
    state[DEPTH] = fmin(fmax(state[DEPTH], 0.0), setting[HEIGHT]);
}

static double tank_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)which;
    const double wave = setting[WAVES] * sin(2.0 * MECHANISM_PI * time / setting[WAVES_EVERY]);
    return fmin(fmax(state[DEPTH] + wave, 0.0), setting[HEIGHT]);
}

static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    (void)was;
    (void)rate;
    (void)which;
    return fmin(fmax(value, 0.0), setting[HEIGHT]);
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    state[DEPTH] += (which == 0 ? -amount : amount) / setting[AREA];
    bound(setting, state);
}

extern const mechanism mechanism_tank;
const mechanism mechanism_tank = {
    .kind = {.word = "tank",
             .help = "a basin that a pump fills and a leak empties",
             .setting = {[INFLOW] = {"inflow", "ml/s", 40, 0, 1e5, false, "what the pump delivers at 100 %"},
                         [RUNUP] = {"runup", "s", 0.3, 1e-3, 1e3, false, "time constant of the pump"},
                         [LEAK] = {"leak", "ml/s", 3, 0, 1e5, false, "what runs out when it is full"},
                         [AREA] = {"area", "cm2", 60, 1e-2, 1e8, false, "surface"},
                         [HEIGHT] = {"height", "cm", 15, 1e-1, 1e5, false, "of the brim"},
                         [START] = {"start", "cm", 0, 0, 1e5, false, "depth at the beginning"},
                         [WAVES] = {"waves", "cm", 0, 0, 1e4, false, "height of the waves from the mean"},
                         [WAVES_EVERY] = {"every", "s", 1, 1e-2, 1e4, true, "period of the waves"},
                         [STALLS] = {"stalls", "%", 0, 0, 100, false, "up to this the pump does not turn"}},
             .input = {{"filled", "%", "the pump"}},
             .output = {{"depth", "cm", "depth of the water where the sensor stands", 0, 1}},
             .disturbance = {{"spills", "ml", "so much is taken out at once"},
                             {"gains", "ml", "so much is poured in at once"},
                             MECHANISM_PLACED("cm")}},
    .states = STATES,
    .begin = tank_begin,
    .rate = rate,
    .step = tank_step,
    .bound = bound,
    .output = tank_output,
    .disturb = disturb,
    .hand = {.moves = 0, .speed = 6.0, .left = mechanism_left, .output = held},
};
