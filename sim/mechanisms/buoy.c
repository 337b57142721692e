/* A bell buoy: a pendulum whose weight is moved along its arm.
 *
 *   d angle / dt = rate
 *   d rate / dt  = -(g / l) sin(angle) - 2 (dl/dt / l) rate - 2 rate / fades
 *   d l / dt     = (length (1 - shift drive) - l) / moves
 *
 * l is the distance of the weight from the pivot. Drawn up fast when it swings fastest and let down slowly at the turns
 * it takes up energy; the other way round it gives it away (Lavrovskii and Formalskii, 1993). `rest` friction makes it
 * stand still in the end. The angle is counted on beyond a turn; what is seen of it is folded into -180..180 degrees.
 */
#include "mechanism.h"

#include <math.h>

enum { LENGTH, SHIFT, MOVES, FADES, START };
enum { ANGLE, RATE, ARM, STATES };
enum { OUT_ANGLE, OUT_RATE, OUT_FOLDED, OUT_ENERGY, OUT_BELL };
enum { PUSHED, PLACED };

#define GRAVITY 9.81
#define DEGREES (180.0 / MECHANISM_PI)

static void buoy_begin(const double *setting, double *state)
{
    state[ANGLE] = setting[START] / DEGREES;
    state[ARM] = setting[LENGTH];
}

/* Lengths in mm, angles in radians. */
static void rate(const double *setting, const double *input, double time, const double *state, double *rate_of)
{
    (void)time;
    const double drive = fmin(fmax(input[0], 0.0), 100.0) / 100.0;
    const double arm = state[ARM];
    rate_of[ARM] = (setting[LENGTH] * (1.0 - setting[SHIFT] / 100.0 * drive) - arm) / setting[MOVES];
    rate_of[ANGLE] = state[RATE];
    rate_of[RATE] = -GRAVITY * 1000.0 / arm * sin(state[ANGLE]) - 2.0 * rate_of[ARM] / arm * state[RATE] -
                    2.0 * state[RATE] / setting[FADES];
}

static double buoy_step(const double *setting)
{
    const double swing = sqrt(setting[LENGTH] / (1000.0 * GRAVITY));
    return fmin(setting[MOVES] / 6.0, swing / 32.0);
}

/* For 1 kg, from the lowest point of the longest arm, in mJ. */
static double energy(const double *setting, const double *state)
{
    const double height = setting[LENGTH] - state[ARM] * cos(state[ANGLE]), speed = state[ARM] * state[RATE];
    return GRAVITY * height + 0.5e-3 * speed * speed;
}

static double buoy_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)time;
    switch (which) {
    case OUT_ANGLE:
        return state[ANGLE] * DEGREES;
    case OUT_RATE:
        return state[RATE] * DEGREES;
    case OUT_FOLDED:
        return remainder(state[ANGLE] * DEGREES, 360.0);
    case OUT_ENERGY:
        return energy(setting, state);
    default:
        return fabs(remainder(state[ANGLE] * DEGREES, 360.0)) > 40.0 ? 1.0 : 0.0;
    }
}

static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    (void)was;
    const double state[STATES] = {[ANGLE] = value / DEGREES, [RATE] = rate_of / DEGREES, [ARM] = setting[LENGTH]};
    return buoy_output(setting, 0.0, state, which);
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    (void)which;
    state[RATE] += amount / DEGREES;
}

extern const mechanism mechanism_buoy;
const mechanism mechanism_buoy = {
    .kind = {.word = "buoy",
             .help = "a bell buoy: a pendulum whose weight can be drawn up its arm",
             .setting = {[LENGTH] = {"length", "mm", 250, 1, 1e5, false, "from the pivot to the weight at rest"},
                         [SHIFT] = {"shift", "%", 15, 0, 90, false, "how much of that the weight is drawn up at 100 %"},
                         [MOVES] = {"moves", "s", 0.03, 1e-3, 10, false, "time constant of the weight's way"},
                         [FADES] = {"fades", "s", 60, 0.1, 1e9, false,
                                    "time in which a free swing's reach falls to 37 %"},
                         [START] = {"start", "deg", 3, -1e4, 1e4, false, "angle at the beginning"}},
             .input = {{"drawn", "%", "the weight, up its arm", 0}},
             .output = {[OUT_ANGLE] = {"angle", "deg", "counted on beyond a turn", 0},
                        [OUT_RATE] = {"rate", "deg/s", "how fast it swings", 0},
                        [OUT_FOLDED] = {"folded", "deg", "the angle within one turn, from -180", 0},
                        [OUT_ENERGY] = {"energy", "", "of 1 kg, in mJ", 0},
                        [OUT_BELL] = {"bell", "", "1 while it is far enough over to ring", 0}},
             .disturbance = {[PUSHED] = {"pushed", "deg/s", "it is pushed: its rate changes by so much", 0},
                             [PLACED] = MECHANISM_PLACED("deg")}},
    .states = STATES,
    .begin = buoy_begin,
    .rate = rate,
    .step = buoy_step,
    .output = buoy_output,
    .disturb = disturb,
    .hand = {.moves = OUT_ANGLE, .speed = 60.0, .output = held},
};
