/* Light behind fog that comes and goes: light = thick + (clear - thick) (1 + cos(2 pi t / every)) / 2, times (1 +
 * state). */
#include "mechanism.h"

#include <math.h>

enum { CLEAR, THICK, EVERY };

static double fog_output(const double *setting, double time, const double *state, uint32_t which)
{
    (void)which;
    const double share = 0.5 + 0.5 * cos(2.0 * MECHANISM_PI * time / setting[EVERY]);
    return fmax(setting[THICK] + (setting[CLEAR] - setting[THICK]) * share + state[0], 0.0);
}

static double held(const double *setting, const double *was, double value, double rate, uint32_t which)
{
    (void)was;
    (void)setting;
    (void)rate;
    (void)which;
    return fmax(value, 0.0);
}

extern const mechanism mechanism_fog;
const mechanism mechanism_fog = {
    .kind = {.word = "fog",
             .help = "light through fog that comes and goes",
             .setting = {[CLEAR] = {"clear", "lx", 900, 0, 1e6, false, "light without fog"},
                         [THICK] = {"thick", "lx", 60, 0, 1e6, false, "light in the thickest fog"},
                         [EVERY] = {"every", "s", 60, 0.1, 1e6, true, "period of its coming and going"}},
             .output = {{"light", "lx", "what reaches the sensor"}},
             .disturbance = {{"brightens", "lx", "so much more light from then on"}, MECHANISM_PLACED("lx")}},
    .states = 1,
    .output = fog_output,
    .hand = {.moves = 0, .speed = 500.0, .output = held},
};
