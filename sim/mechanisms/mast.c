/* A mast that falls over by itself, held up by a wheel at its top: what turns the wheel one way turns the mast the
 * other.
 *
 *   torque        = drive share of `torque`, less by how fast the wheel turns that way: none left at `fastest`
 *   d lean / dt   = rate
 *   d rate / dt   = pull sin(lean - balance) - torque / heavy - rubs rate
 *   d spin / dt   = torque / wheel
 *
 * `pull` is m g l over the mast's moment of inertia, in 1/s2. It balances at `balance`, which is not where the level
 * says that it stands upright. Fallen, it lies on its stop. */
#include "mechanism.h"

#include <math.h>

enum { PULL, BALANCE, HEAVY, WHEEL, TORQUE, FASTEST, RUBS, STOP, START };
enum { LEAN, RATE, SPIN, STATES };
enum { OUT_LEAN, OUT_RATE, OUT_SPIN, OUT_FALLEN, OUT_ENERGY };
enum { PUSHED, PLACED };

#define DEGREES (180.0 / MECHANISM_PI)
#define RPM     (30.0 / MECHANISM_PI)

static void mast_begin(const double *setting, double *state)
{
    state[LEAN] = setting[START];
}

/* In mNm. A motor that turns has so much less left as it turns faster; braking has all of it. */
static double torque_of(const double *setting, const double *input, const double *state)
{
    const double drive = fmin(fmax(input[0], -100.0), 100.0) / 100.0;
    const double fast = state[SPIN] / setting[FASTEST] * (drive < 0.0 ? -1.0 : 1.0);
    return drive * setting[TORQUE] * fmax(1.0 - fmax(fast, 0.0), 0.0);
}

/* Lean in degrees, the rate in degrees a second, the wheel in turns a minute; moments of inertia in g m2. */
static void rate(const double *setting, const double *input, double time, const double *state, double *rate_of)
{
    (void)time;
    const double torque = torque_of(setting, input, state);
    rate_of[LEAN] = state[RATE];
    rate_of[RATE] = DEGREES * setting[PULL] * sin((state[LEAN] - setting[BALANCE]) / DEGREES) -
                    DEGREES * torque / setting[HEAVY] - setting[RUBS] * state[RATE];
    rate_of[SPIN] = RPM * torque / setting[WHEEL];
}

static double mast_step(const double *setting)
{
    return 1.0 / sqrt(setting[PULL]) / 32.0;
}

static void bound(const double *setting, double *state)
{
    if (fabs(state[LEAN]) >= setting[STOP]) {
        state[LEAN] = copysign(setting[STOP], state[LEAN]);
        state[RATE] = state[LEAN] * state[RATE] > 0.0 ? 0.0 : state[RATE];
    }
}

/* Of the mast alone, over its moment of inertia, in 1/s2: it stays while nothing drives and nothing rubs. */
static double energy(const double *setting, const double *state)
{
    const double speed = state[RATE] / DEGREES;
    return 0.5 * speed * speed + setting[PULL] * cos((state[LEAN] - setting[BALANCE]) / DEGREES);
}

static double mast_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)time;
    switch (which) {
    case OUT_LEAN:
        return state[LEAN];
    case OUT_RATE:
        return state[RATE];
    case OUT_SPIN:
        return state[SPIN];
    case OUT_FALLEN:
        return fabs(state[LEAN]) >= setting[STOP] ? 1.0 : 0.0;
    default:
        return energy(setting, state);
    }
}

static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    (void)was;
    const double state[STATES] = {value, rate_of, 0.0};
    return mast_output(setting, 0.0, state, which);
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    (void)which;
    state[RATE] += amount;
}

extern const mechanism mechanism_mast;
const mechanism mechanism_mast = {
    .kind = {.word = "mast",
             .help = "a mast that falls over by itself, with a wheel at its top",
             .setting = {[PULL] = {"pull", "", 30, 0.1, 1e4, false, "how fast it falls, in 1/s2"},
                         [BALANCE] = {"balance", "deg", 0, -30, 30, false, "lean at which it balances"},
                         [HEAVY] = {"heavy", "", 4, 1e-3, 1e6, false, "moment of inertia of the mast, in g m2"},
                         [WHEEL] = {"wheel", "", 0.25, 1e-3, 1e6, false, "that of the wheel, in g m2"},
                         [TORQUE] = {"torque", "", 40, 1e-3, 1e6, false, "of the motor at 100 %, in mNm"},
                         [FASTEST] = {"fastest", "rpm", 4000, 1, 1e6, false, "speed of the wheel without load"},
                         [RUBS] = {"rubs", "", 0.2, 0, 1e3, false, "friction of the mast, in 1/s"},
                         [STOP] = {"stop", "deg", 40, 1, 90, false, "where it lies when it has fallen"},
                         [START] = {"start", "deg", 0, -90, 90, false, "lean at the beginning"}},
             .input = {{"spun", "%", "the wheel's motor", 0}},
             .output = {[OUT_LEAN] = {"lean", "deg", "of the mast, by the level", 0, -1},
                        [OUT_RATE] = {"rate", "deg/s", "how fast it leans over", 0},
                        [OUT_SPIN] = {"spin", "rpm", "speed of the wheel", 0},
                        [OUT_FALLEN] = {"fallen", "", "1 while it lies on its stop", 0},
                        [OUT_ENERGY] = {"energy", "", "over its moment of inertia, in 1/s2", 0}},
             .disturbance = {[PUSHED] = {"pushed", "deg/s", "it is pushed: its rate changes by so much", 0},
                             [PLACED] = MECHANISM_PLACED("deg")},
             .falls = true},
    .states = STATES,
    .begin = mast_begin,
    .rate = rate,
    .step = mast_step,
    .bound = bound,
    .output = mast_output,
    .disturb = disturb,
    .hand = {.moves = OUT_LEAN, .speed = 30.0, .left = mechanism_left, .output = held},
};
