/* A ferry's deck that rolls: at rest for a while, then to and fro. What a motion sensor on it feels, in g, with x
 * forward, y to the left and z up: (0, sin roll, cos roll); it reads its turning rate too.
 *
 *   roll = start + swing sin(2 pi (t - still) / every) after `still` */
#include "mechanism.h"

#include <math.h>

enum { SWING, EVERY, STILL, START };
enum { ROLL, RATE, X, Y, Z };

static void deck_begin(const double *setting, double *state)
{
    state[0] = setting[START];
}

static double phase(const double *setting, double time)
{
    return 2.0 * MECHANISM_PI * fmax(time - setting[STILL], 0.0) / setting[EVERY];
}

static double turning(const double *setting, double time)
{
    return time >= setting[STILL] ? setting[SWING] * 2.0 * MECHANISM_PI / setting[EVERY] * cos(phase(setting, time))
                                  : 0.0;
}

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    (void)input;
    state[0] += setting[SWING] * (sin(phase(setting, to)) - sin(phase(setting, from)));
}

static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    (void)was;
    (void)setting;
    const double roll = value * MECHANISM_PI / 180.0;
    switch (which) {
    case ROLL:
        return value;
    case RATE:
        return rate_of;
    case X:
        return 0.0;
    case Y:
        return sin(roll);
    default:
        return cos(roll);
    }
}

static double deck_output(const double *setting, double time, const double *state, uint32_t which)
{
    return held(setting, state, state[0], turning(setting, time), which);
}

extern const mechanism mechanism_deck;
const mechanism mechanism_deck = {
    .kind = {.word = "deck",
             .help = "a deck that rolls in the waves",
             .setting = {[SWING] = {"swing", "deg", 10, 0, 180, false, "how far it rolls"},
                         [EVERY] = {"every", "s", 6, 0.1, 1e4, true, "period of its rolling"},
                         [STILL] = {"still", "s", 0, 0, 1e6, false, "how long it rests first"},
                         [START] = {"start", "deg", 0, -180, 180, false, "roll at rest"}},
             .output = {[ROLL] = {"roll", "deg", "its roll, left side up positive"},
                        [RATE] = {"rate", "deg/s", "its turning rate about x"},
                        [X] = {"x", "g", "what is felt forward"},
                        [Y] = {"y", "g", "what is felt to the left"},
                        [Z] = {"z", "g", "what is felt upwards"}},
             .disturbance = {{"leans", "deg", "it leans over by so much for good"}, MECHANISM_PLACED("deg")}},
    .states = 1,
    .begin = deck_begin,
    .advance = advance,
    .output = deck_output,
    .hand = {.moves = ROLL, .speed = 30.0, .left = mechanism_left, .output = held},
};
