/* A boat before the beacon's sounder: it comes and goes, and swings across the beam. Outside the cone there is no echo.
 *
 *   distance = mean + range sin(2 pi t / every);   bearing = across sin(2 pi t / (1.7 every))
 *   flight = 2 distance / (331.3 m/s sqrt(1 + air / 273.15)) within the cone, else 0 */
#include "mechanism.h"

#include <math.h>

enum { MEAN, RANGE, EVERY, ACROSS, CONE, AIR };
enum { DISTANCE, BEARING, FLIGHT };

static double flight_over(const double *setting, double distance)
{
    return 2.0 * distance / 100.0 / (331.3 * sqrt(1.0 + setting[AIR] / 273.15)) * 1e6;
}

static double boat_output(const double *setting, double time, const double *state, uint32_t which)
{
    const double turn = 2.0 * MECHANISM_PI * time / setting[EVERY];
    const double distance = fmax(setting[MEAN] + setting[RANGE] * sin(turn) + state[0], 0.0);
    const double bearing = setting[ACROSS] * sin(turn / 1.7);
    if (which == DISTANCE) {
        return distance;
    }
    if (which == BEARING) {
        return bearing;
    }
    return fabs(bearing) <= 0.5 * setting[CONE] ? flight_over(setting, distance) : 0.0;
}

static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    (void)was;
    (void)rate;
    return which == DISTANCE ? value : which == BEARING ? 0.0 : flight_over(setting, value);
}

extern const mechanism mechanism_boat;
const mechanism mechanism_boat = {
    .kind = {.word = "boat",
             .help = "a boat in the beam of a sounder",
             .setting = {[MEAN] = {"mean", "cm", 120, 1, 1e6, false, "its mean distance"},
                         [RANGE] = {"range", "cm", 80, 0, 1e6, false, "how far it comes and goes"},
                         [EVERY] = {"every", "s", 20, 0.1, 1e5, true, "period of its coming and going"},
                         [ACROSS] = {"across", "deg", 0, 0, 90, false, "how far it swings across the beam"},
                         [CONE] = {"cone", "deg", 30, 0.1, 180, false, "width of the beam"},
                         [AIR] = {"air", "degC", 20, -60, 60, false, "temperature of the air"}},
             .output = {[DISTANCE] = {"distance", "cm", "how far it is"},
                        [BEARING] = {"bearing", "deg", "how far from the middle of the beam"},
                        [FLIGHT] = {"flight", "us", "time of an echo; 0 for none"}},
             .disturbance = {{"drifts", "cm", "it is so much farther off from then on"}, MECHANISM_PLACED("cm")}},
    .states = 1,
    .output = boat_output,
    .hand = {.moves = DISTANCE, .speed = 80.0, .output = held},
};
