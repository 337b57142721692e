/* A lane with two light gates, through which boats pass one by one, each at its own speed.
 *
 * Boat k (0, 1, ...) has its bow at the near gate at (k + 1/2) every, and goes speed (1 + spread sin(2.4 k)) from there
 * on. A gate is blocked while it lies between bow and stern; `skew` is how much longer a beam that does not cross
 * squarely makes every boat. A leaf blocks the near gate for a moment. */
#include "mechanism.h"

#include <math.h>

enum { SPEED, SPREAD, LENGTH, EVERY, APART, SKEW };
enum { KNOCKED, LEAF, STATES };
enum { NEAR, FAR, OUT_SPEED, PASSED, BOW };
enum { KNOCKS, LEAVES, PLACED };

static double speed_of(const double *setting, double boat)
{
    return setting[SPEED] * (1.0 + setting[SPREAD] / 100.0 * sin(2.4 * boat));
}

/* The distance of a boat's bow beyond the near gate. */
static double bow(const double *setting, double boat, double time)
{
    return speed_of(setting, boat) * (time - (boat + 0.5) * setting[EVERY]);
}

static double far_gate(const double *setting, const double *state)
{
    return setting[APART] + state[KNOCKED];
}

static double last_boat(const double *setting, double time)
{
    return floor(time / setting[EVERY] - 0.5);
}

/* The first boat that may still be before this place: the slowest takes so long to it. */
static double first_boat(const double *setting, double time, double beyond)
{
    const double slowest = setting[SPEED] * (1.0 - setting[SPREAD] / 100.0);
    return fmax(last_boat(setting, time) - ceil(beyond / slowest / setting[EVERY]) - 1.0, 0.0);
}

static bool blocked(const double *setting, double time, double gate)
{
    const double length = setting[LENGTH] + setting[SKEW];
    for (double boat = first_boat(setting, time, gate + length); boat <= last_boat(setting, time); boat += 1.0) {
        const double beyond = bow(setting, boat, time) - gate;
        if (beyond >= 0.0 && beyond < length) {
            return true;
        }
    }
    return false;
}

static double passed(const double *setting, double time, double gate)
{
    const double length = setting[LENGTH] + setting[SKEW], first = first_boat(setting, time, gate + length);
    double boats = first;
    for (double boat = first; boat <= last_boat(setting, time); boat += 1.0) {
        boats += bow(setting, boat, time) >= gate + length ? 1.0 : 0.0;
    }
    return boats;
}

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    (void)setting;
    (void)input;
    state[LEAF] = fmax(state[LEAF] - (to - from), 0.0);
}

static double lane_output(const double *setting, double time, const double *state, uint32_t which)
{
    switch (which) {
    case NEAR:
        return state[LEAF] > 0.0 || blocked(setting, time, 0.0) ? 1.0 : 0.0;
    case FAR:
        return blocked(setting, time, far_gate(setting, state)) ? 1.0 : 0.0;
    case OUT_SPEED:
        return speed_of(setting, fmax(floor(time / setting[EVERY] - 0.5), 0.0));
    case BOW:
        return bow(setting, fmax(last_boat(setting, time), 0.0), time);
    default:
        return passed(setting, time, far_gate(setting, state));
    }
}

/* One boat in a hand, its bow so far beyond the near gate; the others keep away meanwhile. */
static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    const double length = setting[LENGTH] + setting[SKEW], far = value - far_gate(setting, was);
    switch (which) {
    case NEAR:
        return was[LEAF] > 0.0 || (value >= 0.0 && value < length) ? 1.0 : 0.0;
    case FAR:
        return far >= 0.0 && far < length ? 1.0 : 0.0;
    case OUT_SPEED:
        return fabs(rate);
    case BOW:
        return value;
    default:
        return far >= length ? 1.0 : 0.0;
    }
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    state[which == KNOCKS ? KNOCKED : LEAF] = amount;
}

extern const mechanism mechanism_lane;
const mechanism mechanism_lane = {
    .kind = {.word = "lane",
             .help = "a lane with two light gates that boats pass",
             .setting = {[SPEED] = {"speed", "mm/s", 200, 1, 1e5, false, "of the boats"},
                         [SPREAD] = {"spread", "%", 20, 0, 90, false, "how far their speeds are from that"},
                         [LENGTH] = {"length", "mm", 80, 0.1, 1e5, false, "of a boat"},
                         [EVERY] = {"every", "s", 6, 0.05, 1e5, false, "from boat to boat"},
                         [APART] = {"apart", "mm", 300, 1, 1e5, false, "from gate to gate"},
                         [SKEW] = {"skew", "mm", 0, 0, 1e4, false, "how much longer the beams make a boat"}},
             .output = {[NEAR] = {"near", "", "1 while the near gate is blocked", 0},
                        [FAR] = {"far", "", "1 while the far gate is blocked", 0},
                        [OUT_SPEED] = {"speed", "mm/s", "of the boat that came to the near gate last", 0},
                        [PASSED] = {"passed", "", "boats that have left the far gate", 0},
                        [BOW] = {"bow", "mm", "how far its bow is beyond the near gate", 0}},
             .disturbance = {[KNOCKS] = {"knocked", "mm", "the far gate stands so much farther off from then on", 0},
                             [LEAVES] = {"leaf", "s", "a leaf blocks the near gate for so long", 0},
                             [PLACED] = MECHANISM_PLACED("mm")}},
    .states = STATES,
    .advance = advance,
    .output = lane_output,
    .disturb = disturb,
    .hand = {.moves = BOW, .speed = 200.0, .output = held},
};
