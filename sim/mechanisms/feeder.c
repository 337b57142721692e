/* A gull feeder: an auger turns grain out of a hopper into a bowl, from which the gulls eat.
 *
 *   d given / dt = drive / each   once the auger has taken up its play, which it has to at every start
 *   d eaten / dt = appetite while there is something in the bowl
 *
 * An auger that is clogged gives nothing, and neither does an empty hopper. */
#include "mechanism.h"

#include <math.h>

enum { HOLDS, EACH, PLAY, APPETITE };
enum { LEFT, GIVEN, EATEN, TURNED, CLOGGED, STATES };
enum { OUT_LEFT, OUT_BOWL, OUT_GIVEN };
enum { REFILLED, CLOGS, FREES, PLACED };

static void feeder_begin(const double *setting, double *state)
{
    state[LEFT] = setting[HOLDS];
}

/* The auger's play is in the time that it turns at full power; let go, it has it again at once. */
static void turn(const double *setting, double drive, double seconds, double *state)
{
    const double slack = fmax(setting[PLAY] - state[TURNED], 0.0), turned = drive * seconds;
    const bool gives = state[CLOGGED] <= 0.0;
    const double given = gives ? fmin(fmax(turned - slack, 0.0) / setting[EACH], state[LEFT]) : 0.0;
    state[TURNED] = fmin(state[TURNED] + turned, setting[PLAY]);
    state[GIVEN] += given;
    state[LEFT] -= given;
}

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    const double drive = fmax(input[0], 0.0) / 100.0;
    if (drive > 0.0) {
        turn(setting, drive, to - from, state);
    } else {
        state[TURNED] = 0.0;
    }
    state[EATEN] = fmin(state[EATEN] + setting[APPETITE] / 60.0 * (to - from), state[GIVEN]);
}

static double feeder_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)setting;
    (void)time;
    return which == OUT_LEFT ? state[LEFT] : which == OUT_BOWL ? state[GIVEN] - state[EATEN] : state[GIVEN];
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    if (which == REFILLED) {
        state[LEFT] += amount;
    } else {
        state[CLOGGED] = which == CLOGS ? 1.0 : 0.0;
    }
}

/* A hand fills the hopper, or empties it, to so many portions. */
static void left(const double *setting, double value, double *state)
{
    (void)setting;
    state[LEFT] = fmax(value, 0.0);
}

static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    (void)rate;
    return which == OUT_LEFT ? fmax(value, 0.0) : feeder_output(setting, 0.0, was, which);
}

extern const mechanism mechanism_feeder;
const mechanism mechanism_feeder = {
    .kind = {.word = "feeder",
             .help = "an auger that turns portions of grain out of a hopper",
             .setting = {[HOLDS] = {"holds", RGP_UNIT_OWN, 20, 0, 1e5, false,
                                    "portions in the hopper at the beginning"},
                         [EACH] = {"each", "s", 0.8, 1e-3, 1e4, false, "for a portion at 100 %"},
                         [PLAY] = {"play", "s", 0.25, 0, 1e3, false, "of turning at 100 % before anything falls"},
                         [APPETITE] = {"appetite", "", 6, 0, 1e5, false, "portions that the gulls eat a minute"}},
             .input = {{"turned", "%", "the auger", 0}},
             .output = {[OUT_LEFT] = {"left", RGP_UNIT_OWN, "portions in the hopper", 0},
                        [OUT_BOWL] = {"bowl", RGP_UNIT_OWN, "portions in the bowl", 0},
                        [OUT_GIVEN] = {"given", RGP_UNIT_OWN, "portions given so far", 0}},
             .disturbance = {[REFILLED] = {"refilled", RGP_UNIT_OWN, "so many portions more are in the hopper", 0},
                             [CLOGS] = {"clogs", NULL, "the auger gives nothing, until it is freed", 0},
                             [FREES] = {"frees", NULL, "it gives again", 0},
                             [PLACED] = MECHANISM_PLACED(RGP_UNIT_OWN)}},
    .states = STATES,
    .begin = feeder_begin,
    .advance = advance,
    .output = feeder_output,
    .disturb = disturb,
    .hand = {.moves = OUT_LEFT, .speed = 10.0, .left = left, .output = held},
};
