/* A carriage on its way between two stops, as of a drawbridge: a motor that takes a while to come up and coasts when it
 * is let go, and two switches where the way ends.
 *
 *   d speed / dt = (drive fastest - speed) / coast,   d place / dt = speed
 *
 * place in mm from the lower stop, speed in mm/s. At a stop it stands; `strain` is how long it has been driven against
 * one. A motor that is jammed does not turn. */
#include "mechanism.h"

#include <math.h>

enum { FASTEST, COAST, TRAVEL, NEAR, START };
enum { PLACE, SPEED, STRAIN, JAMMED, STATES };
enum { OUT_PLACE, OUT_TOP, OUT_BOTTOM, OUT_STRAIN };
enum { JAMS, FREES };

static void carriage_begin(const double *setting, double *state)
{
    state[PLACE] = fmin(setting[START], setting[TRAVEL]);
}

static void rate(const double *setting, const double *input, double time, const double *state, double *rate_of)
{
    (void)time;
    const double drive = state[JAMMED] > 0.0 ? 0.0 : input[0] / 100.0;
    const bool up = drive > 0.0 && state[PLACE] >= setting[TRAVEL], down = drive < 0.0 && state[PLACE] <= 0.0;
    rate_of[PLACE] = state[SPEED];
    rate_of[SPEED] = (drive * setting[FASTEST] - state[SPEED]) / setting[COAST];
    rate_of[STRAIN] = up || down ? 1.0 : 0.0;
    rate_of[JAMMED] = 0.0;
}

static double carriage_step(const double *setting)
{
    return setting[COAST] / 24.0;
}

static void bound(const double *setting, double *state)
{
    if (state[PLACE] <= 0.0 || state[PLACE] >= setting[TRAVEL]) {
        const bool low = state[PLACE] <= 0.0;
        state[PLACE] = low ? 0.0 : setting[TRAVEL];
        state[SPEED] = low ? fmax(state[SPEED], 0.0) : fmin(state[SPEED], 0.0);
    }
    if (state[JAMMED] > 0.0) {
        state[SPEED] = 0.0;
    }
}

static double seen(const double *setting, double place, double strain, uint32_t which)
{
    switch (which) {
    case OUT_PLACE:
        return place;
    case OUT_TOP:
        return place >= setting[TRAVEL] - setting[NEAR] ? 1.0 : 0.0;
    case OUT_BOTTOM:
        return place <= setting[NEAR] ? 1.0 : 0.0;
    default:
        return strain;
    }
}

static double carriage_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)time;
    return seen(setting, state[PLACE], state[STRAIN], which);
}

static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    (void)was;
    (void)rate_of;
    return seen(setting, fmin(fmax(value, 0.0), setting[TRAVEL]), 0.0, which);
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)amount;
    state[JAMMED] = which == JAMS ? 1.0 : 0.0;
    bound(setting, state);
}

extern const mechanism mechanism_carriage;
const mechanism mechanism_carriage = {
    .kind = {.word = "carriage",
             .help = "a carriage that a motor drives between two stops",
             .setting = {[FASTEST] = {"fastest", "mm/s", 40, 1e-3, 1e5, false, "its speed at 100 %"},
                         [COAST] = {"coast", "s", 0.2, 1e-3, 1e3, false, "time constant of coming up and of coasting"},
                         [TRAVEL] = {"travel", "mm", 100, 1e-2, 1e6, false, "from stop to stop"},
                         [NEAR] = {"near", "mm", 4, 0, 1e5, false, "so far from a stop its switch closes"},
                         [START] = {"start", "mm", 0, 0, 1e6, false, "place at the beginning"}},
             .input = {{"driven", "%", "the motor"}},
             .output = {[OUT_PLACE] = {"place", "mm", "where it is, from the lower stop", 0, 1},
                        [OUT_TOP] = {"top", "", "1 while it is near the upper stop", 1},
                        [OUT_BOTTOM] = {"bottom", "", "1 while it is near the lower stop", -1},
                        [OUT_STRAIN] = {"strain", "s", "how long it has been driven against a stop"}},
             .disturbance = {{"jams", NULL, "the motor sticks, until it is freed"},
                             {"frees", NULL, "the motor turns again"},
                             MECHANISM_PLACED("mm")}},
    .states = STATES,
    .begin = carriage_begin,
    .rate = rate,
    .step = carriage_step,
    .brief = 0.02,
    .bound = bound,
    .output = carriage_output,
    .disturb = disturb,
    .hand = {.moves = OUT_PLACE, .speed = 50.0, .left = mechanism_left, .output = held},
};
