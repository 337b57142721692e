/* A sounder on a turning arm: its view of the harbour: two boats, each over an arc of bearings that the width of the
 * beam makes broader. The arm follows what it is told with a lag.
 *
 *   d arm / dt = (turned - arm) / lags; flight as of a boat (boat.c), of the nearer one in the beam, 0: no echo */
#include "mechanism.h"

#include <math.h>

enum { NEAR, NEAR_AT, NEAR_WIDE, FAR, FAR_AT, FAR_WIDE, CONE, LAGS };
enum { ARM, DRIFT, STATES };
enum { OUT_ARM, OUT_FLIGHT, OUT_NEAR_AT };
enum { DRIFTS };

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    state[ARM] = input[0] + (state[ARM] - input[0]) * exp(-(to - from) / setting[LAGS]);
}

static bool in_beam(const double *setting, double arm, double at, double wide)
{
    return fabs(arm - at) <= 0.5 * (wide + setting[CONE]);
}

static double roadstead_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)time;
    const double at = setting[NEAR_AT] + state[DRIFT];
    if (which != OUT_FLIGHT) {
        return which == OUT_ARM ? state[ARM] : at;
    }
    const double distance = in_beam(setting, state[ARM], at, setting[NEAR_WIDE])               ? setting[NEAR]
                            : in_beam(setting, state[ARM], setting[FAR_AT], setting[FAR_WIDE]) ? setting[FAR]
                                                                                               : 0.0;
    return 2.0 * distance / 100.0 / (331.3 * sqrt(1.0 + 15.0 / 273.15)) * 1e6;
}

static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    (void)was;
    const double state[STATES] = {[ARM] = value};
    (void)rate_of;
    return roadstead_output(setting, 0.0, state, which);
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    (void)which;
    state[DRIFT] += amount;
}

extern const mechanism mechanism_roadstead;
const mechanism mechanism_roadstead = {
    .kind = {.word = "roadstead",
             .help = "a roadstead: two boats before a sounder on a turning arm, in air of 15 degrees",
             .setting = {[NEAR] = {"near", "cm", 80, 1, 1e5, false, "distance of the nearer boat"},
                         [NEAR_AT] = {"at", "deg", 20, -180, 180, true, "its bearing"},
                         [NEAR_WIDE] = {"wide", "deg", 8, 0, 180, true, "the arc that it takes up"},
                         [FAR] = {"far", "cm", 160, 1, 1e5, false, "distance of the farther one"},
                         [FAR_AT] = {"at", "deg", -30, -180, 180, true, "its bearing"},
                         [FAR_WIDE] = {"wide", "deg", 5, 0, 180, true, "the arc that it takes up"},
                         [CONE] = {"cone", "deg", 15, 0, 180, false, "width of the beam"},
                         [LAGS] = {"lags", "s", 0.02, 1e-3, 10, false, "time constant of the arm"}},
             .input = {{"turned", "deg", "the arm", 0}},
             .output = {[OUT_ARM] = {"arm", "deg", "where the arm points", 0},
                        [OUT_FLIGHT] = {"flight", "us", "time of an echo; 0 for none", 0},
                        [OUT_NEAR_AT] = {"bearing", "deg", "of the nearer boat", 0}},
             .disturbance = {[DRIFTS] = {"drifts", "deg", "the nearer boat is so much farther round", 0},
                             MECHANISM_PLACED("deg")}},
    .states = STATES,
    .advance = advance,
    .output = roadstead_output,
    .disturb = disturb,
    .hand = {.moves = OUT_ARM, .speed = 60.0, .left = mechanism_left, .output = held},
};
