/* One step of the controller, the block beside the same by hand, on a noisy measured value that dips now and then, and
 * is lost.
 *
 * Usage: perf_pid block|hand|none|compare STEPS */
#include "hand.h"

#include "rigpulse/regulate.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

int main(int argc, char **argv)
{
    if (argc != 3) {
        return 2;
    }
    const int block = strcmp(argv[1], "block") == 0 || strcmp(argv[1], "compare") == 0;
    const int by_hand = strcmp(argv[1], "hand") == 0 || strcmp(argv[1], "compare") == 0;
    const rgp_pid_config config = {.gain = {.kp = 8, .ki = 2, .kd = 1, .filter = 0.1f}, .low = 0, .high = 100};
    rgp_pid_state state;
    static hand_loop its;
    rgp_pid_reset(&state);
    uint32_t chance = 1;
    float sum = 0.0f, driven[2] = {0.0f, 0.0f};
    for (uint32_t n = 0; n < (uint32_t)strtoul(argv[2], NULL, 10); n++) {
        const float dip = n % 1000 > 950 ? 8.0f : 0.0f; /* far enough for the output's limit */
        const float measured =
            5.8f + 0.2f * (float)(n / 500 % 3) + 0.001f * (float)(readings_chance(&chance) % 25) - dip;
        const uint8_t quality = n % 1000 > 990 ? RGP_MISSING : RGP_GOOD;
        if (block) {
            const rgp_pid_input in = {rgp_good(6.0f), {measured, quality}, 0.0f, 0.0f};
            driven[0] = rgp_pid_step(&config, &state, &in, 0.02f).value;
        }
        if (by_hand) {
            driven[1] = hand_pid(&its, measured, quality, driven[1], 0.02f);
        }
        if (block && by_hand && driven[0] != driven[1] && quality == RGP_GOOD && n < 990) {
            fprintf(stderr, "step %u: %g and by hand %g\n", n, (double)driven[0], (double)driven[1]);
            return 1;
        }
        sum += driven[block ? 0 : 1];
    }
    return sum < 0.0f;
}
