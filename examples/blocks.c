/* The core's blocks alone, as firmware would use them: no engine, no rig file, no heap.
 *
 * A level sensor's counts become a depth, the depth a band, and a pump runs for two seconds whenever the tide is low.
 * The readings come from a falling tide that this program makes up; on a board they would come from the converter. */
#include "rigpulse/condition.h"
#include "rigpulse/detect.h"
#include "rigpulse/drive.h"

#include <stdio.h>

#define TICK_US 20000u

static const rgp_despike_config despike = {.window = 5};
static const rgp_table_config table = {.count = 3, .point = {{312, 0}, {1650, 6}, {3020, 12}}};
static const rgp_smooth_config smooth = {.time_constant = 0.2f};
static const rgp_bands_config tide = {
    .borders = 2, .above = 2, .margin = 0.4f, .border = {3, 7}}; /* low below 3, high above 7 */

static struct {
    rgp_despike_state despike;
    rgp_smooth_state smooth;
    rgp_bands_state tide;
    rgp_pulse_state pump;
} state;

static rgp_reading depth_of(int32_t raw, float dt)
{
    rgp_reading r = rgp_good((float)raw);
    r = rgp_despike_step(&despike, &state.despike, r, dt);
    r = rgp_table_step(&table, r);
    return rgp_smooth_step(&smooth, &state.smooth, r, dt);
}

int main(void)
{
    if (rgp_despike_check(&despike) || rgp_table_check(&table) || rgp_smooth_check(&smooth) || rgp_bands_check(&tide)) {
        return 1;
    }
    rgp_despike_reset(&state.despike);
    rgp_smooth_reset(&state.smooth);
    rgp_bands_reset(&state.tide);
    rgp_pulse_reset(&state.pump);
    uint32_t fired = 0;
    float counts = 1100.0f;
    for (uint64_t now = 0; now < 20u * 1000000u; now += TICK_US) {
        const bool pumping = rgp_pulse_at(&state.pump, now) == RGP_PULSE_ACTING;
        counts += pumping ? 1.2f : -0.35f;
        const int32_t raw = now % 1700000u == 0 ? 4095 : (int32_t)counts; /* a spike now and then */
        const rgp_reading depth = depth_of(raw, 0.02f);
        const rgp_reading band = rgp_bands_step(&tide, &state.tide, depth, 0.02f);
        if (rgp_usable(band.quality) && band.value == 0.0f && rgp_pulse_at(&state.pump, now) == RGP_PULSE_READY) {
            rgp_pulse_fire(&state.pump, now, 2000000u, 3000000u);
            printf("%6.2f s: depth %.2f cm, the tide is low: pump for 2 s\n", (double)now / 1e6, (double)depth.value);
            fired++;
        }
    }
    printf("fired %u times in 20 s; no spike did it\n", fired);
    return fired == 0;
}
