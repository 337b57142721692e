/* A platform on something that moves, turned back by a servo: a ferry's deck on her rolling hull, a vane on a turning
 * base.
 *
 *   base          = swing sin(2 pi t' / every) + chop sin(2 pi t' / each) + turn t',  t' = t - still, from `still` on
 *   d horn / dt   = (tilted - horn) / lag, at most `speed` either way
 *   d tilt / dt   = what is left of horn - tilt beyond half the play / GRIP
 *   angle         = base + tilt
 *
 * The horn is the servo's; the tilt follows it with play in between (a dead zone with a stiff grip). */
#include "mechanism.h"

#include <math.h>

#define GRIP 0.01 /* seconds */

enum { SWING, EVERY, CHOP, EACH, TURN, STILL, LAG, SPEED, PLAY };
enum { HORN, TILT, SHOVE, STATES };
enum { OUT_ANGLE, OUT_RATE, OUT_X, OUT_Y, OUT_Z, OUT_TILT, OUT_BASE };

static double wave(double amplitude, double every, double time, double *rate)
{
    const double phase = 2.0 * MECHANISM_PI * time / every;
    *rate += amplitude * 2.0 * MECHANISM_PI / every * cos(phase);
    return amplitude * sin(phase);
}

static double base_at(const double *setting, double time, double *rate)
{
    const double since = time - setting[STILL];
    *rate = 0.0;
    if (since <= 0.0) {
        return 0.0;
    }
    *rate = setting[TURN];
    return setting[TURN] * since + wave(setting[SWING], setting[EVERY], since, rate) +
           wave(setting[CHOP], setting[EACH], since, rate);
}

static double tilt_rate(const double *setting, const double *state)
{
    const double apart = state[HORN] - state[TILT], half = setting[PLAY] / 2.0;
    return (apart > half ? apart - half : apart < -half ? apart + half : 0.0) / GRIP;
}

static void rate(const double *setting, const double *input, double time, const double *state, double *rate_of)
{
    (void)time;
    const double wanted = (input[0] - state[HORN]) / setting[LAG];
    rate_of[HORN] = fmin(fmax(wanted, -setting[SPEED]), setting[SPEED]);
    rate_of[TILT] = tilt_rate(setting, state);
    rate_of[SHOVE] = 0.0;
}

static double platform_step(const double *setting)
{
    return fmin(setting[LAG], GRIP) / 8.0;
}

static double platform_output(const double *setting, double time, const double *state, uint32_t which)
{
    double turning;
    const double base = base_at(setting, time, &turning), angle = base + state[TILT] + state[SHOVE];
    switch (which) {
    case OUT_ANGLE:
        return angle;
    case OUT_RATE:
        return turning + tilt_rate(setting, state);
    case OUT_X:
        return 0.0;
    case OUT_Y:
        return sin(angle * MECHANISM_PI / 180.0);
    case OUT_Z:
        return cos(angle * MECHANISM_PI / 180.0);
    case OUT_TILT:
        return state[TILT];
    default:
        return base;
    }
}

/* Against a base that rests. */
static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    (void)was;
    const double state[STATES] = {[HORN] = value, [TILT] = value};
    return which == OUT_RATE ? rate_of : platform_output(setting, setting[STILL], state, which);
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    (void)which;
    state[SHOVE] += amount;
}

extern const mechanism mechanism_platform;
const mechanism mechanism_platform = {
    .kind = {.word = "platform",
             .help = "a platform on something that rolls or turns, turned back by a servo",
             .setting = {[SWING] = {"swing", "deg", 6, 0, 180, false, "how far the base rolls"},
                         [EVERY] = {"every", "s", 6, 0.1, 1e4, true, "period of its rolling"},
                         [CHOP] = {"chop", "deg", 0, 0, 180, false, "of a second, shorter wave"},
                         [EACH] = {"each", "s", 2, 0.1, 1e4, false, "period of that one"},
                         [TURN] = {"turn", "deg/s", 0, -1e3, 1e3, false, "the base turns on and on, so fast"},
                         [STILL] = {"still", "s", 0, 0, 1e6, false, "how long the base rests first"},
                         [LAG] = {"lag", "s", 0.06, 1e-3, 10, false, "time constant of the servo"},
                         [SPEED] = {"speed", "deg/s", 60, 0.1, 1e4, false, "of the servo at most"},
                         [PLAY] = {"play", "deg", 0, 0, 45, false, "between the servo and the platform"}},
             .input = {{"tilted", "deg", "the servo", 0}},
             .output = {[OUT_ANGLE] = {"angle", "deg", "of the platform", 0, 1},
                        [OUT_RATE] = {"rate", "deg/s", "how fast that turns", 0},
                        [OUT_X] = {"x", "g", "what is felt forward", 0},
                        [OUT_Y] = {"y", "g", "what is felt to the left", 0},
                        [OUT_Z] = {"z", "g", "what is felt upwards", 0},
                        [OUT_TILT] = {"tilt", "deg", "of the platform against its base", 0, 1},
                        [OUT_BASE] = {"base", "deg", "angle of the base", 0}},
             .disturbance = {{"shoved", "deg", "it is out of place by so much, for good", 0}, MECHANISM_PLACED("deg")}},
    .states = STATES,
    .rate = rate,
    .step = platform_step,
    .output = platform_output,
    .disturb = disturb,
    .hand = {.moves = OUT_ANGLE, .speed = 30.0, .output = held},
};
