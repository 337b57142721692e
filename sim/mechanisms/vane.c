/* A wind vane: at rest for a while, then it swings to and fro.
 *
 *   rate = turn sin(2 pi (t - still) / every) after `still`, else 0;   d heading / dt = rate */
#include "mechanism.h"

#include <math.h>

enum { TURN, EVERY, STILL, START };
enum { RATE, HEADING };

static double turning(const double *setting, double time)
{
    const double since = time - setting[STILL];
    return since > 0.0 ? setting[TURN] * sin(2.0 * MECHANISM_PI * since / setting[EVERY]) : 0.0;
}

static void vane_begin(const double *setting, double *state)
{
    state[0] = setting[START];
}

/* The way from the beginning of the turning on. */
static double turned(const double *setting, double time)
{
    const double phase = 2.0 * MECHANISM_PI * fmax(time - setting[STILL], 0.0) / setting[EVERY];
    return setting[TURN] * setting[EVERY] / (2.0 * MECHANISM_PI) * (1.0 - cos(phase));
}

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    (void)input;
    state[0] += turned(setting, to) - turned(setting, from);
}

static double vane_output(const double *setting, double time, const double *state, uint32_t which)
{
    return which == RATE ? turning(setting, time) : state[0];
}

static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    (void)was;
    (void)setting;
    return which == RATE ? rate_of : value;
}

extern const mechanism mechanism_vane;
const mechanism mechanism_vane = {
    .kind = {.word = "vane",
             .help = "a wind vane that swings to and fro",
             .setting = {[TURN] = {"turn", "deg/s", 40, 0, 1e4, false, "its fastest turning"},
                         [EVERY] = {"every", "s", 12, 0.1, 1e4, true, "period of its swinging"},
                         [STILL] = {"still", "s", 0, 0, 1e6, false, "how long it rests first"},
                         [START] = {"start", "deg", 0, -1e6, 1e6, false, "heading at the beginning"}},
             .output = {{"rate", "deg/s", "how fast it turns"}, {"heading", "deg", "where it points, without end"}},
             .disturbance = {{"turns", "deg", "it is turned by so much at once"}, MECHANISM_PLACED("deg")}},
    .states = 1,
    .begin = vane_begin,
    .advance = advance,
    .output = vane_output,
    .hand = {.moves = HEADING, .speed = 60.0, .left = mechanism_left, .output = held},
};
