/* The words of a hook-up to the simulated port. */
#include "words.h"

#include "sim.h"

#include "sim/mechanisms/mechanism.h"
#include "sim/sensors/sensor.h"

static const rgp_terminal clock_disturbances[] = {
    [CLOCK_LEAPS] = {"leaps", "s", "it is so much later at once"},
    [CLOCK_STANDS] = {"stands", NULL, "it tells the same time again and again, so ticks fall out", .lasts = true},
    {0},
};

const rgp_catalog *rgp_sim_catalog(void)
{
    static const rgp_mechanism_kind *kinds[64];
    static rgp_catalog catalog = {.port = "sim",
                                  .help = "mechanisms that are computed: a bench without hardware",
                                  .thing = "mechanism",
                                  .mechanism = kinds,
                                  .sensor = simulated_kinds,
                                  .clock = clock_disturbances};
    static gsize ready = 0;
    if (g_once_init_enter(&ready)) {
        for (uint32_t i = 0; mechanisms[i]; i++) {
            kinds[i] = &mechanisms[i]->kind;
        }
        g_once_init_leave(&ready, 1);
    }
    return &catalog;
}
