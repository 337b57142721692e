/* A steam boiler: a burner that takes its time, water that loses heat to the air, and a thermometer at the end of a
 * pipe.
 *
 *   d burner / dt = (power drive - burner) / lag
 *   d water / dt  = (burner - (loss + open door) (water - air)) / holds
 *   d cell i / dt = (cell i-1 - cell i) PIPE / dead,   cell 0 = water
 *
 * The pipe is PIPE cells of water that are mixed each, one behind the other, which together take `dead`: what comes out
 * is late by that, and a little smeared (the tanks in series of chemical engineering). An open fire door lets heat out
 * until it is shut. */
#include "mechanism.h"

#include <math.h>

#define PIPE 16

enum { POWER, HOLDS, LOSS, DOOR, LAG, DEAD, AIR, START };
enum { WATER, BURNER, OPEN, CELL, STATES = CELL + PIPE };
enum { OUT_WARMTH, OUT_WATER, OUT_HEAT, OUT_DOOR };
enum { OPENS, SHUTS, PLACED };

static void boiler_begin(const double *setting, double *state)
{
    state[WATER] = setting[START];
    for (uint32_t i = 0; i < PIPE; i++) {
        state[CELL + i] = setting[START];
    }
}

static void rate(const double *setting, const double *input, double time, const double *state, double *rate_of)
{
    (void)time;
    const double drive = fmin(fmax(input[0], 0.0), 100.0) / 100.0;
    const double loss = setting[LOSS] + state[OPEN] * setting[DOOR];
    rate_of[BURNER] = (setting[POWER] * drive - state[BURNER]) / setting[LAG];
    rate_of[WATER] = (state[BURNER] - loss * (state[WATER] - setting[AIR])) / setting[HOLDS];
    rate_of[OPEN] = 0.0;
    for (uint32_t i = 0; i < PIPE; i++) {
        const double before = i == 0 ? state[WATER] : state[CELL + i - 1];
        rate_of[CELL + i] = (before - state[CELL + i]) * PIPE / setting[DEAD];
    }
}

static double boiler_step(const double *setting)
{
    return fmin(setting[LAG], setting[DEAD] / PIPE) / 7.5;
}

static double boiler_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)setting;
    (void)time;
    switch (which) {
    case OUT_WARMTH:
        return state[CELL + PIPE - 1];
    case OUT_WATER:
        return state[WATER];
    case OUT_HEAT:
        return state[BURNER];
    default:
        return state[OPEN];
    }
}

/* All its water, and the pipe, at one temperature; the fire out, the door shut. */
static void left(const double *setting, double value, double *state)
{
    (void)setting;
    state[WATER] = value;
    state[BURNER] = state[OPEN] = 0.0;
    for (uint32_t i = 0; i < PIPE; i++) {
        state[CELL + i] = value;
    }
}

static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    (void)was;
    double state[STATES];
    (void)rate_of;
    left(setting, value, state);
    return boiler_output(setting, 0.0, state, which);
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    (void)amount;
    state[OPEN] = which == OPENS ? 1.0 : 0.0;
}

extern const mechanism mechanism_boiler;
const mechanism mechanism_boiler = {
    .kind = {.word = "boiler",
             .help = "a steam boiler with a slow burner, a pipe to its thermometer, and a fire door",
             .setting = {[POWER] = {"power", "", 400, 1, 1e6, false, "of the burner at 100 %, in W"},
                         [HOLDS] = {"holds", "", 2000, 1, 1e9, false, "heat that one kelvin takes, in J/K"},
                         [LOSS] = {"loss", "", 2, 0, 1e6, false, "to the air, in W/K"},
                         [DOOR] = {"door", "", 0.5, 0, 1e6, false, "loss through the open fire door, in W/K"},
                         [LAG] = {"lag", "s", 4, 0.1, 1e4, false, "time constant of the burner"},
                         [DEAD] = {"dead", "s", 6, 1, 1e4, false, "time that the water takes to the thermometer"},
                         [AIR] = {"air", "degC", 20, -50, 100, false, "temperature of the air"},
                         [START] = {"start", "degC", 20, -50, 300, false, "temperature at the beginning"}},
             .input = {{"fired", "%", "the burner", 0}},
             .output = {[OUT_WARMTH] = {"warmth", "degC", "at the thermometer", 0, 1},
                        [OUT_WATER] = {"water", "degC", "in the boiler", 0, 1},
                        [OUT_HEAT] = {"heat", "", "that the burner gives, in W", 0},
                        [OUT_DOOR] = {"door", "", "1 while the fire door is open", 0}},
             .disturbance = {[OPENS] = {"opens", NULL, "the fire door is opened", 0},
                             [SHUTS] = {"shuts", NULL, "the fire door is shut", 0},
                             [PLACED] = MECHANISM_PLACED("degC")}},
    .states = STATES,
    .begin = boiler_begin,
    .rate = rate,
    .step = boiler_step,
    .output = boiler_output,
    .disturb = disturb,
    .hand = {.moves = OUT_WARMTH, .speed = 20.0, .left = left, .output = held},
};
