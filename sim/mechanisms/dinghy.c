/* A dinghy with two paddles and two eyes, on a basin with one lamp.
 *
 *   d port / dt = (drive fastest - port) / coast, and so starboard;   speed = (port + starboard) / 2
 *   d heading / dt = (port - starboard) / wide,   it goes where it heads
 *   an eye sees ambient + bright (1 m / distance)^2 cos(angle between where it looks and the lamp), while that is below
 *   90 degrees; the eyes look `splay` to either side
 *
 * Within 80 mm of the lamp it lies there, and is stopped by it; after 3 s the lamp goes out, and the next one, number
 * k, is lit at (700 + 500 r1) mm from the middle, in the direction 360 r2 degrees. Each r is a number of its own from 0
 * to 1. */
#include "chance.h"
#include "mechanism.h"

#include <math.h>

enum { FASTEST, COAST, WIDE, SPLAY, BRIGHT, AMBIENT, DAY };
enum { NORTH, EAST, HEADING, PORT, STARBOARD, LAMP, LIES, STATES };
enum { OUT_LEFT, OUT_RIGHT, OUT_DISTANCE, OUT_HEADING, OUT_THERE };
enum { NUDGED, PLACED };
enum { FAR_ROW, WAY_ROW };

#define THERE_MM 80.0
#define LIES_S   3.0
#define DEGREES  (180.0 / MECHANISM_PI)

static void lamp_at(const double *setting, double k, double *north, double *east)
{
    const double far = 700.0 + 500.0 * mechanism_chance(setting[DAY], FAR_ROW, k),
                 way = 2.0 * MECHANISM_PI * mechanism_chance(setting[DAY], WAY_ROW, k);
    *north = far * cos(way);
    *east = far * sin(way);
}

static double distance_to_lamp(const double *setting, const double *state, double *way)
{
    double north, east;
    lamp_at(setting, state[LAMP], &north, &east);
    *way = atan2(east - state[EAST], north - state[NORTH]) * DEGREES;
    return hypot(east - state[EAST], north - state[NORTH]);
}

static void rate(const double *setting, const double *input, double time, const double *state, double *rate_of)
{
    double way;
    const double speed = (state[PORT] + state[STARBOARD]) / 2.0, heading = state[HEADING] / DEGREES;
    (void)time;
    rate_of[NORTH] = speed * cos(heading);
    rate_of[EAST] = speed * sin(heading);
    rate_of[HEADING] = (state[PORT] - state[STARBOARD]) / setting[WIDE] * DEGREES;
    rate_of[PORT] = (input[0] / 100.0 * setting[FASTEST] - state[PORT]) / setting[COAST];
    rate_of[STARBOARD] = (input[1] / 100.0 * setting[FASTEST] - state[STARBOARD]) / setting[COAST];
    rate_of[LAMP] = 0.0;
    rate_of[LIES] = distance_to_lamp(setting, state, &way) <= THERE_MM ? 1.0 : 0.0;
}

static double step(const double *setting)
{
    return setting[COAST] / 8.0;
}

/* The lamp's post stops it; a lamp that it has lain at goes out. */
static void bound(const double *setting, double *state)
{
    double way, north, east;
    const double distance = distance_to_lamp(setting, state, &way), least = THERE_MM / 2.0;
    if (distance < least) {
        lamp_at(setting, state[LAMP], &north, &east);
        state[NORTH] = north - least * cos(way / DEGREES);
        state[EAST] = east - least * sin(way / DEGREES);
    }
    if (state[LIES] >= LIES_S) {
        state[LAMP] += 1.0;
        state[LIES] = 0.0;
    }
}

static double seen(const double *setting, double distance, double off)
{
    const double shows = cos(remainder(off, 360.0) / DEGREES), metres = distance / 1000.0;
    return setting[AMBIENT] + (shows > 0.0 ? setting[BRIGHT] * shows / (metres * metres) : 0.0);
}

static double dinghy_output(const double *setting, double time, const double *state, uint32_t which)
{
    double way;
    const double distance = distance_to_lamp(setting, state, &way);
    (void)time;
    switch (which) {
    case OUT_LEFT:
        return seen(setting, distance, way - (state[HEADING] - setting[SPLAY]));
    case OUT_RIGHT:
        return seen(setting, distance, way - (state[HEADING] + setting[SPLAY]));
    case OUT_DISTANCE:
        return distance;
    case OUT_HEADING:
        return state[HEADING];
    default:
        return distance <= THERE_MM ? 1.0 : 0.0;
    }
}

/* Turned by hand, on the spot. */
static double held(const double *setting, const double *was, double value, double rate_of, uint32_t which)
{
    double state[STATES];
    (void)rate_of;
    for (uint32_t i = 0; i < STATES; i++) {
        state[i] = was[i];
    }
    state[HEADING] = value;
    return dinghy_output(setting, 0.0, state, which);
}

static void left(const double *setting, double value, double *state)
{
    (void)setting;
    state[HEADING] = value;
    state[PORT] = state[STARBOARD] = 0.0;
}

static void disturb(const double *setting, double *state, uint32_t which, double amount)
{
    (void)setting;
    (void)which;
    state[HEADING] += amount;
}

extern const mechanism mechanism_dinghy;
const mechanism mechanism_dinghy = {
    .kind =
        {.word = "dinghy",
         .help = "a dinghy with two paddles and two eyes, on a basin with a lamp",
         .setting = {[FASTEST] = {"fastest", "mm/s", 200, 1, 1e4, false, "its speed with both paddles at 100 %"},
                     [COAST] = {"coast", "s", 0.4, 1e-2, 1e3, false, "time constant of a paddle"},
                     [WIDE] = {"wide", "mm", 120, 1, 1e4, false, "from paddle to paddle"},
                     [SPLAY] = {"splay", "deg", 35, 0, 90, false, "how far to its side an eye looks"},
                     [BRIGHT] = {"bright", "lx", 400, 0, 1e5, false, "of the lamp, at a metre"},
                     [AMBIENT] = {"ambient", "lx", 20, 0, 1e5, false, "light without the lamp"},
                     [DAY] = {"day", "", 1, 0, 1e6, false, "another one has its lamps elsewhere"}},
         .input = {{"port", "%", "the paddle on its left"}, {"starboard", "%", "the paddle on its right"}},
         .output = {[OUT_LEFT] = {"left", "lx", "what the left eye sees", 0},
                    [OUT_RIGHT] = {"right", "lx", "what the right eye sees", 0},
                    [OUT_DISTANCE] = {"distance", "mm", "to the lamp", 0},
                    [OUT_HEADING] = {"heading", "deg", "clockwise, counted on", 0},
                    [OUT_THERE] = {"there", "", "1 while it lies at the lamp", 0}},
         .disturbance =
             {[NUDGED] = {"nudged", "deg", "it is turned by so much at once", 0}, [PLACED] = MECHANISM_PLACED("deg")}},
    .states = STATES,
    .rate = rate,
    .step = step,
    .bound = bound,
    .output = dinghy_output,
    .disturb = disturb,
    .hand = {.moves = OUT_HEADING, .speed = 90.0, .left = left, .output = held},
};
