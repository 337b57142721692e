/* A turntable that a motor turns round and round; let go, it coasts.
 *
 *   d speed / dt = (drive fastest - speed) / coast,   d turned / dt = speed,   angle = turned, folded into one turn
 *
 * Up to `sticks` of drive it does not turn at all. Once in a turn a mark passes the switch. In closed form. */
#include "mechanism.h"

#include <math.h>

enum { FASTEST, COAST, STICKS, WIDE, START };
enum { TURNED, SPEED, JAMMED, STATES };
enum { OUT_ANGLE, OUT_TURNED, OUT_RATE, OUT_MARK };
enum { PUSHED, JAMS, FREES, PLACED };

static void turntable_begin(const double *setting, double *state)
{
    state[TURNED] = setting[START];
}

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    const double drive = fabs(input[0]) > setting[STICKS] ? input[0] / 100.0 : 0.0, goal = drive * setting[FASTEST];
    const double seconds = to - from, fades = exp(-seconds / setting[COAST]), over = state[SPEED] - goal;
    if (state[JAMMED] > 0.0) {
        state[SPEED] = 0.0;
        return;
    }
    state[TURNED] += goal * seconds + over * setting[COAST] * (1.0 - fades);
    state[SPEED] = goal + over * fades;
}

static double folded(double angle)
{
    const double in_turn = fmod(angle, 360.0);
    return in_turn < 0.0 ? in_turn + 360.0 : in_turn;
}

static double turntable_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)time;
    switch (which) {
    case OUT_ANGLE:
        return folded(state[TURNED]);
    case OUT_TURNED:
        return state[TURNED];
    case OUT_RATE:
        return state[SPEED];
    default:
        return fabs(remainder(state[TURNED], 360.0)) <= 0.5 * setting[WIDE] ? 1.0 : 0.0;
    }
}

static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    const double state[STATES] = {[TURNED] = value, [SPEED] = rate};
    (void)was;
    return turntable_output(setting, 0.0, state, which);
}

static void left(const double *setting, double value, double *state)
{
    (void)setting;
    state[TURNED] = value;
    state[SPEED] = 0.0;
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    if (which == PUSHED) {
        state[SPEED] += amount;
    } else {
        state[JAMMED] = which == JAMS ? 1.0 : 0.0;
    }
}

extern const mechanism mechanism_turntable;
const mechanism mechanism_turntable = {
    .kind = {.word = "turntable",
             .help = "a table that a motor turns round and round, with a mark on its rim",
             .setting = {[FASTEST] = {"fastest", "deg/s", 360, 1e-3, 1e6, false, "its speed at 100 %"},
                         [COAST] = {"coast", "s", 0.5, 1e-3, 1e4, false, "time constant of coming up and of coasting"},
                         [STICKS] = {"sticks", "%", 0, 0, 100, false, "up to this the motor does not turn it"},
                         [WIDE] = {"wide", "deg", 6, 0, 360, false, "of the mark"},
                         [START] = {"start", "deg", 0, -1e6, 1e6, false, "angle at the beginning"}},
             .input = {{"turned", "%", "the motor"}},
             .output = {[OUT_ANGLE] = {"angle", "deg", "within one turn, from 0", 0},
                        [OUT_TURNED] = {"turned", "deg", "counted on, turn after turn", 0, 1},
                        [OUT_RATE] = {"rate", "deg/s", "how fast it turns", 0, 1},
                        [OUT_MARK] = {"mark", "", "1 while the mark is at the switch", 0}},
             .disturbance = {[PUSHED] = {"pushed", "deg/s", "its speed changes by so much at once", 0},
                             [JAMS] = {"jams", NULL, "it does not turn, until it is freed", 0},
                             [FREES] = {"frees", NULL, "it turns again", 0},
                             [PLACED] = MECHANISM_PLACED("deg")}},
    .states = STATES,
    .begin = turntable_begin,
    .advance = advance,
    .output = turntable_output,
    .disturb = disturb,
    .hand = {.moves = OUT_TURNED, .speed = 180.0, .left = left, .output = held},
};
