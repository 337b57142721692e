/* An eye on a quay that looks over the water: daylight, clouds that pass, and boats that darken it.
 *
 * Cloud c (0, 1, ...) begins at (c + 0.7 r1) clouds, lasts 8 s to 40 s, and takes shade (0.3 + 0.7 r2) of the light,
 * softly. Boats come for a spell, and for the next one stay away: boat k at (k + 0.2 + 0.6 r3) every, and is before the
 * eye for length / speed (0.7 + 0.6 r4), and takes dark (0.5 + 0.5 r5) of the light at once. Each r is a number of its
 * own from 0 to 1. */
#include "chance.h"
#include "mechanism.h"

#include <math.h>

enum { DAYLIGHT, EVERY, SPELL, LENGTH, SPEED, DARK, CLOUDS, SHADE, DAY };
enum { LEFT, STATES };
enum { LIGHT, BOAT };
enum { DARKENED, PLACED };
enum { CLOUD_ROW, SHADE_ROW, LASTS_ROW, AT_ROW, PACE_ROW, DARK_ROW };

#define CLOUD_MOST_S 40.0

static double cloud(const double *setting, double c, double time)
{
    const double begin = (c + 0.7 * mechanism_chance(setting[DAY], CLOUD_ROW, c)) * setting[CLOUDS],
                 lasts = 8.0 + 32.0 * mechanism_chance(setting[DAY], LASTS_ROW, c), since = time - begin;
    if (since < 0.0 || since > lasts) {
        return 0.0;
    }
    const double s = sin(MECHANISM_PI * since / lasts);
    return setting[SHADE] / 100.0 * (0.3 + 0.7 * mechanism_chance(setting[DAY], SHADE_ROW, c)) * s * s;
}

static double clouds(const double *setting, double time)
{
    double clear = 1.0;
    for (double c = fmax(0.0, floor((time - CLOUD_MOST_S) / setting[CLOUDS]) - 1.0); c * setting[CLOUDS] <= time;
         c += 1.0) {
        clear *= 1.0 - cloud(setting, c, time);
    }
    return clear;
}

static double boat_at(const double *setting, double k)
{
    return (k + 0.2 + 0.6 * mechanism_chance(setting[DAY], AT_ROW, k)) * setting[EVERY];
}

static double passes_for(const double *setting, double k)
{
    return setting[LENGTH] / setting[SPEED] * (0.7 + 0.6 * mechanism_chance(setting[DAY], PACE_ROW, k));
}

/* The number of the boat before the eye; below 0: none. */
static double boat_before(const double *setting, double time)
{
    const double longest = 1.3 * setting[LENGTH] / setting[SPEED];
    double k = fmax(0.0, floor((time - longest) / setting[EVERY]) - 1.0);
    for (; boat_at(setting, k) <= time; k += 1.0) {
        const bool comes = fmod(floor(boat_at(setting, k) / setting[SPELL]), 2.0) < 1.0;
        if (comes && time - boat_at(setting, k) < passes_for(setting, k)) {
            return k;
        }
    }
    return -1.0;
}

static void advance(const double *setting, const double *input, double from, double to, double *state)
{
    (void)setting;
    (void)input;
    state[LEFT] = fmax(state[LEFT] - (to - from), 0.0);
}

static double outlook_output(const double *setting, double time, const double *state, uint32_t which)
{
    const double k = boat_before(setting, time);
    const bool there = k >= 0.0 || state[LEFT] > 0.0;
    if (which == BOAT) {
        return there ? 1.0 : 0.0;
    }
    const double taken = setting[DARK] / 100.0 * (0.5 + 0.5 * mechanism_chance(setting[DAY], DARK_ROW, fmax(k, 0.0)));
    return setting[DAYLIGHT] * clouds(setting, time) * (there ? 1.0 - taken : 1.0);
}

/* A hand over the eye. */
static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    (void)was;
    (void)rate;
    return which == LIGHT ? value : value < setting[DAYLIGHT] / 2.0;
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    (void)which;
    state[LEFT] = amount;
}

extern const mechanism mechanism_outlook;
const mechanism mechanism_outlook = {
    .kind = {.word = "outlook",
             .help = "an eye on a quay that looks over the water: clouds and boats darken it",
             .setting = {[DAYLIGHT] = {"daylight", "lx", 800, 1, 2e5, false, "without clouds"},
                         [EVERY] = {"every", "s", 20, 1, 1e5, false, "from boat to boat, about"},
                         [SPELL] = {"spell", "s", 300, 1, 1e6, false,
                                    "boats come for so long, and then stay away for as long"},
                         [LENGTH] = {"length", "mm", 240, 1, 1e5, false, "of a boat"},
                         [SPEED] = {"speed", "mm/s", 200, 1, 1e5, false, "of a boat"},
                         [DARK] = {"dark", "%", 30, 0, 100, false, "of the light a boat takes, at most"},
                         [CLOUDS] = {"clouds", "s", 60, 1, 1e5, false, "from cloud to cloud, about"},
                         [SHADE] = {"shade", "%", 60, 0, 100, false, "of the light a cloud takes, at most"},
                         [DAY] = {"day", "", 1, 0, 1e6, false, "another one has other clouds and boats"}},
             .output = {[LIGHT] = {"light", "lx", "that falls on the eye", 0},
                        [BOAT] = {"boat", "", "1 while one is before the eye", 0}},
             .disturbance = {[DARKENED] = {"passed", "s", "a boat is before the eye for so long", 0},
                             [PLACED] = MECHANISM_PLACED("lx")}},
    .states = STATES,
    .advance = advance,
    .output = outlook_output,
    .disturb = disturb,
    .hand = {.moves = LIGHT, .speed = 2000.0, .output = held},
};
