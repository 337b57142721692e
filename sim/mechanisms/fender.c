/* A fender on a quay wall, and what a pickup behind it hears: waves, voices, and hulls that bump it.
 *
 * Hulls come for a spell, and for the next one stay away. Hull k (0, 1, ...) bumps at (k + 0.2 + 0.6 r1) every, as hard
 * as hardness (0.4 + 1.2 r2), and rings at 14 + 8 r3 Hz for 120 ms; it lies against the fender for 300 ms. Voice v
 * begins at (v + 0.8 r4) talk, lasts 0.5 s to 2.5 s, is as loud as voices (0.3 + 0.7 r5), and hums at 30 + 12 r6 Hz.
 * Each r is a number of its own from 0 to 1. */
#include "chance.h"
#include "mechanism.h"

#include <math.h>

enum { EVERY, SPELL, HARDNESS, VOICES, TALK, WAVES, PERIOD, DAY };
enum { AGE, SIZE, STATES };
enum { SOUND, TOUCH };
enum { BUMPED, PLACED };
enum { AT_ROW, HARD_ROW, RING_ROW, VOICE_ROW, LOUD_ROW, HUM_ROW, LAST_ROW };

#define RING_S  0.12 /* a bump dies away with this time constant */
#define TOUCH_S 0.3
#define SEEN_S  3.0 /* what began longer ago is over */

static double ring(double size, double hertz, double since)
{
    return since >= 0.0 ? size * exp(-since / RING_S) * sin(2.0 * MECHANISM_PI * hertz * since) : 0.0;
}

static double hull_at(const double *setting, double k)
{
    return (k + 0.2 + 0.6 * mechanism_chance(setting[DAY], AT_ROW, k)) * setting[EVERY];
}

static bool comes(const double *setting, double k)
{
    return fmod(floor(hull_at(setting, k) / setting[SPELL]), 2.0) < 1.0;
}

/* Hulls that came within the last SEEN_S: the first number, and up to which. */
static double first_hull(const double *setting, double time)
{
    return fmax(0.0, floor((time - SEEN_S) / setting[EVERY]) - 1.0);
}

static double hulls(const double *setting, double time)
{
    double sum = 0.0;
    for (double k = first_hull(setting, time); hull_at(setting, k) <= time; k += 1.0) {
        const double hard =
            !comes(setting, k) ? 0.0 : setting[HARDNESS] * (0.4 + 1.2 * mechanism_chance(setting[DAY], HARD_ROW, k));
        sum += ring(hard, 14.0 + 8.0 * mechanism_chance(setting[DAY], RING_ROW, k), time - hull_at(setting, k));
    }
    return sum;
}

static bool touches(const double *setting, double time)
{
    for (double k = first_hull(setting, time); hull_at(setting, k) <= time; k += 1.0) {
        if (comes(setting, k) && time - hull_at(setting, k) < TOUCH_S) {
            return true;
        }
    }
    return false;
}

static double voice(const double *setting, double v, double time)
{
    const double begin = (v + 0.8 * mechanism_chance(setting[DAY], VOICE_ROW, v)) * setting[TALK],
                 lasts = 0.5 + 2.0 * mechanism_chance(setting[DAY], LAST_ROW, v), since = time - begin;
    if (since < 0.0 || since > lasts) {
        return 0.0;
    }
    const double loud = setting[VOICES] * (0.3 + 0.7 * mechanism_chance(setting[DAY], LOUD_ROW, v)),
                 hum = 30.0 + 12.0 * mechanism_chance(setting[DAY], HUM_ROW, v);
    return loud * sin(MECHANISM_PI * since / lasts) * (0.7 + 0.3 * sin(2.0 * MECHANISM_PI * 4.0 * since)) *
           sin(2.0 * MECHANISM_PI * hum * since);
}

static double voices(const double *setting, double time)
{
    double sum = 0.0;
    for (double v = fmax(0.0, floor((time - SEEN_S) / setting[TALK]) - 1.0); v * setting[TALK] <= time; v += 1.0) {
        sum += voice(setting, v, time);
    }
    return sum;
}

static double waves(const double *setting, double time)
{
    const double turns = 2.0 * MECHANISM_PI * time / setting[PERIOD];
    return setting[WAVES] * (sin(turns) + 0.4 * sin(1.37 * turns + setting[DAY]));
}

static void begin(const double *setting, double *state)
{
    (void)setting;
    state[AGE] = SEEN_S;
}

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    (void)setting;
    (void)input;
    state[AGE] = fmin(state[AGE] + (to - from), SEEN_S);
}

static double fender_output(const double *setting, double time, const double *state, uint32_t which)
{
    if (which == TOUCH) {
        return touches(setting, time) || state[AGE] < TOUCH_S ? 1.0 : 0.0;
    }
    return waves(setting, time) + voices(setting, time) + hulls(setting, time) + ring(state[SIZE], 18.0, state[AGE]);
}

/* A hand that presses the pickup. */
static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    (void)setting;
    (void)was;
    (void)rate;
    return which == SOUND ? value : 1.0;
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    (void)which;
    state[AGE] = 0.0;
    state[SIZE] = amount;
}

extern const mechanism mechanism_fender;
const mechanism mechanism_fender = {
    .kind = {.word = "fender",
             .help = "a fender on a quay wall that hulls bump, among waves and voices",
             .setting = {[EVERY] = {"every", "s", 12, 1, 1e5, false, "from hull to hull, about"},
                         [SPELL] = {"spell", "s", 300, 1, 1e6, false,
                                    "hulls come for so long, and then stay away for as long"},
                         [HARDNESS] = {"hardness", "mm/s", 60, 0, 1e4, false, "of the bumps"},
                         [VOICES] = {"voices", "mm/s", 16, 0, 1e4, false, "how loud people talk"},
                         [TALK] = {"talk", "s", 25, 1, 1e5, false, "from voice to voice, about"},
                         [WAVES] = {"waves", "mm/s", 6, 0, 1e4, false, "what the water does"},
                         [PERIOD] = {"period", "s", 2.5, 0.1, 1e3, false, "of the waves"},
                         [DAY] = {"day", "", 1, 0, 1e6, false, "another one has other hulls and voices"}},
             .output = {[SOUND] = {"sound", "mm/s", "how fast the wall shakes", 0},
                        [TOUCH] = {"touch", "", "1 while a hull lies against it", 0}},
             .disturbance =
                 {[BUMPED] = {"bumped", "mm/s", "a hull bumps it so hard", 0}, [PLACED] = MECHANISM_PLACED("mm/s")}},
    .states = STATES,
    .begin = begin,
    .advance = advance,
    .output = fender_output,
    .disturb = disturb,
    .hand = {.moves = SOUND, .speed = 1000.0, .output = held},
};
