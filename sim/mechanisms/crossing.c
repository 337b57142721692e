/* A drawbridge with its barrier, and boats that come to it one by one.
 *
 * Span and barrier are carriages: d speed / dt = (drive fastest - speed) / coast, between 0 and their travel. A boat
 * comes `every` so long after the last one has gone, goes to the line before the bridge, waits there for the light, and
 * goes through the gap without looking back. `harm` is how long something was wrong: the span not up, or moving, with a
 * boat in the gap, or off its rest with the barrier not shut. */
#include "mechanism.h"

#include <math.h>
#include <string.h>

enum { FASTEST, COAST, TRAVEL, NEAR, EVERY, BOATS };
enum { SPAN, SPAN_SPEED, BARRIER, BARRIER_SPEED, BOAT, CLOCK, JAMMED, HARM, STATES };
enum { OUT_SPAN, OUT_TOP, OUT_BOTTOM, OUT_SHUT, OUT_OPEN, OUT_WAITS, OUT_GAP, OUT_HARM };
enum { JAMS, FREES, COMES, PLACED };

#define LINE           100.0 /* mm from where boats are seen to the line before the bridge */
#define GAP            180.0 /* mm of the gap behind the line */
#define BARRIER_TRAVEL 60.0
#define MOVES          0.5 /* mm/s that count as moving */

static bool is_up(const double *setting, const double *state)
{
    return state[SPAN] >= setting[TRAVEL] - setting[NEAR];
}

static bool in_gap(const double *state)
{
    return state[BOAT] > LINE + 1.0;
}

static bool is_shut(const double *state)
{
    return state[BARRIER] >= BARRIER_TRAVEL - 2.0;
}

static void crossing_begin(const double *setting, double *state)
{
    state[CLOCK] = 0.6 * setting[EVERY];
}

static double wrong(const double *setting, const double *state)
{
    const bool boat = in_gap(state) && (!is_up(setting, state) || fabs(state[SPAN_SPEED]) > MOVES);
    const bool cars = state[SPAN] > setting[NEAR] && !is_shut(state);
    return boat || cars ? 1.0 : 0.0;
}

static void rate(const double *setting, const double *input, double time, const double *state, double *rate_of)
{
    (void)time;
    const double drive = state[JAMMED] > 0.0 ? 0.0 : input[0] / 100.0;
    const bool goes = state[BOAT] > 0.0 && (state[BOAT] < LINE || in_gap(state) || input[2] > 0.5);
    rate_of[SPAN] = state[SPAN_SPEED];
    rate_of[SPAN_SPEED] = (drive * setting[FASTEST] - state[SPAN_SPEED]) / setting[COAST];
    rate_of[BARRIER] = state[BARRIER_SPEED];
    rate_of[BARRIER_SPEED] = (input[1] / 100.0 * setting[FASTEST] - state[BARRIER_SPEED]) / setting[COAST];
    rate_of[BOAT] = goes ? setting[BOATS] : 0.0;
    rate_of[CLOCK] = state[BOAT] > 0.0 ? 0.0 : 1.0;
    rate_of[JAMMED] = 0.0;
    rate_of[HARM] = wrong(setting, state);
}

static double crossing_step(const double *setting)
{
    return setting[COAST] / 24.0;
}

static void stop_at_ends(double *place, double *speed, double travel)
{
    if (*place <= 0.0 || *place >= travel) {
        const bool low = *place <= 0.0;
        *place = low ? 0.0 : travel;
        *speed = low ? fmax(*speed, 0.0) : fmin(*speed, 0.0);
    }
}

static void bound(const double *setting, double *state)
{
    stop_at_ends(&state[SPAN], &state[SPAN_SPEED], setting[TRAVEL]);
    stop_at_ends(&state[BARRIER], &state[BARRIER_SPEED], BARRIER_TRAVEL);
    state[SPAN_SPEED] = state[JAMMED] > 0.0 ? 0.0 : state[SPAN_SPEED];
    if (state[BOAT] > LINE + GAP) {
        state[BOAT] = state[CLOCK] = 0.0;
    } else if (state[BOAT] <= 0.0 && state[CLOCK] >= setting[EVERY]) {
        state[BOAT] = 1e-3;
    }
}

static double crossing_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)time;
    switch (which) {
    case OUT_SPAN:
        return state[SPAN];
    case OUT_TOP:
        return is_up(setting, state) ? 1.0 : 0.0;
    case OUT_BOTTOM:
        return state[SPAN] <= setting[NEAR] ? 1.0 : 0.0;
    case OUT_SHUT:
        return is_shut(state) ? 1.0 : 0.0;
    case OUT_OPEN:
        return state[BARRIER] <= 2.0 ? 1.0 : 0.0;
    case OUT_WAITS:
        return state[BOAT] > 0.6 * LINE && !in_gap(state) ? 1.0 : 0.0;
    case OUT_GAP:
        return in_gap(state) ? 1.0 : 0.0;
    default:
        return state[HARM];
    }
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)amount;
    if (which == COMES) {
        state[CLOCK] = setting[EVERY];
    } else {
        state[JAMMED] = which == JAMS ? 1.0 : 0.0;
    }
    bound(setting, state);
}

/* The span in a hand; barrier and boats stay as they were. */
static void left(const double *setting, double value, double *state)
{
    state[SPAN] = fmin(fmax(value, 0.0), setting[TRAVEL]);
    state[SPAN_SPEED] = 0.0;
}

static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    double state[STATES];
    (void)rate_of;
    memcpy(state, was, sizeof state);
    left(setting, value, state);
    return crossing_output(setting, 0.0, state, which);
}

extern const mechanism mechanism_crossing;
const mechanism mechanism_crossing = {
    .kind = {.word = "crossing",
             .help = "a drawbridge with a barrier, and boats that come to it",
             .setting = {[FASTEST] = {"fastest", "mm/s", 40, 1e-3, 1e5, false, "speed of its motors at 100 %"},
                         [COAST] = {"coast", "s", 0.2, 1e-3, 1e3, false, "time constant of coming up and of coasting"},
                         [TRAVEL] = {"travel", "mm", 100, 1, 1e5, false, "of the span"},
                         [NEAR] = {"near", "mm", 5, 0, 1e4, false, "so far from a stop its switch closes"},
                         [EVERY] = {"every", "s", 20, 0.1, 1e5, false,
                                    "from a boat's leaving to the next one's coming"},
                         [BOATS] = {"boats", "mm/s", 60, 1, 1e4, false, "their speed"}},
             .input = {{"lifted", "%", "the span", 0},
                       {"barred", "%", "the barrier; above 0 it shuts", 0},
                       {"lit", "", "the light for boats: they go while it is above 0", 0}},
             .output = {[OUT_SPAN] = {"span", "mm", "how high the span is", 0},
                        [OUT_TOP] = {"top", "", "1 while the span is up", 1},
                        [OUT_BOTTOM] = {"bottom", "", "1 while it is down", -1},
                        [OUT_SHUT] = {"shut", "", "1 while the barrier is shut", 0},
                        [OUT_OPEN] = {"open", "", "1 while it is open", 0},
                        [OUT_WAITS] = {"waits", "", "1 while a boat is before the bridge", 0},
                        [OUT_GAP] = {"gap", "", "1 while one is in the gap", 0},
                        [OUT_HARM] = {"harm", "s", "how long something was wrong", 0}},
             .disturbance = {[JAMS] = {"jams", NULL, "the span's motor sticks, until it is freed", 0},
                             [FREES] = {"frees", NULL, "it turns again", 0},
                             [COMES] = {"comes", NULL, "another boat comes at once, when there is none", 0},
                             [PLACED] = MECHANISM_PLACED("mm")}},
    .states = STATES,
    .begin = crossing_begin,
    .rate = rate,
    .step = crossing_step,
    .brief = 0.02,
    .bound = bound,
    .output = crossing_output,
    .disturb = disturb,
    .hand = {.moves = OUT_SPAN, .speed = 50.0, .left = left, .output = held},
};
