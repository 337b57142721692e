/* The controller alone, from C: a PID holds a small oven at 60 degrees, and a hand meddles for a while.
 *
 * The oven: dT/dt = (0.02 K/s a percent) * heat - (T - 20) / 50 s. No engine, no rig file: config, state, step. */
#include "rigpulse/regulate.h"

#include <stdio.h>

int main(void)
{
    const rgp_pid_config config = {.gain = {.kp = 12, .ki = 0.5f, .kd = 4, .filter = 0.5f}, .high = 100};
    const float dt = 0.1f;
    rgp_pid_state pid;
    float oven = 20.0f, heat = 0.0f;
    if (rgp_pid_check(&config) != RGP_OK) {
        return 1;
    }
    rgp_pid_reset(&pid);
    puts("seconds   oven   heat      P      I      D");
    for (int tick = 0; tick <= 1200; tick++) {
        const bool by_hand = tick >= 600 && tick < 700;
        const rgp_pid_input in = {.setpoint = rgp_good(60.0f), .measured = rgp_good(oven)};
        if (by_hand) {
            heat = 30.0f;
            rgp_pid_follow(&config, &pid, &in, heat, dt); /* so that it goes on without a step */
        } else {
            heat = rgp_pid_step(&config, &pid, &in, dt).value;
        }
        oven += dt * (0.02f * heat - (oven - 20.0f) / 50.0f);
        if (tick % 50 == 0) {
            printf("%7.1f %6.2f %6.1f %6.1f %6.1f %6.1f%s\n", (double)tick * 0.1, (double)oven, (double)heat,
                   (double)pid.p, (double)pid.i, (double)pid.d, by_hand ? "  by hand" : "");
        }
    }
    return oven > 59.5f && oven < 60.5f ? 0 : 1;
}
