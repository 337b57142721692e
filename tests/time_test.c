/* Blocks over long times, and what is measured of passages and swings, against closed forms. */
#include "support.h"

#include "rigpulse/condition.h"
#include "rigpulse/detect.h"
#include "rigpulse/numeric.h"
#include "rigpulse/regulate.h"

#include <math.h>
#include <stdlib.h>

/* Four hours at 1 kHz: the compensated sum is exact to a float's step; a bare one is off by far more. */
static void test_accumulate_for_hours(void **unused)
{
    (void)unused;
    const rgp_accumulate_config config = {1};
    rgp_accumulate_state state;
    float bare = 0.0f;
    rgp_accumulate_reset(&state);
    const uint32_t steps = 4u * 3600u * 1000u;
    for (uint32_t i = 0; i <= steps; i++) {
        rgp_accumulate_step(&config, &state, rgp_good(0.1f), 0.001f);
        bare += 0.1f * 0.001f;
    }
    const double exact = (double)0.1f * (double)0.001f * steps;
    assert_near((double)state.sum, exact, exact * 1e-6);
    assert_true(fabs((double)bare - exact) > exact * 1e-3);
}

/* ---- two gates ---- */

typedef struct gate_edge {
    uint32_t gate;
    uint64_t at_us;
    uint32_t rising;
} gate_edge;

/* Steps of 10 ms up to `until`, each with the edges that have come since the one before it; the last result. */
static rgp_reading step_gates(const rgp_lag_config *config, rgp_lag_state *state, uint64_t *now_us, uint64_t until_us,
                              const gate_edge *edge, size_t edges)
{
    rgp_reading got = rgp_good(0.0f);
    for (; *now_us < until_us; *now_us += 10000) {
        rgp_port_edge port[2][8];
        rgp_edges in[2];
        for (uint32_t gate = 0; gate < 2; gate++) {
            in[gate] = (rgp_edges){rgp_good(0.0f), port[gate], 0, 0, *now_us};
            for (size_t i = 0; i < edges; i++) {
                if (edge[i].gate == gate && edge[i].at_us <= *now_us && edge[i].at_us + 10000 > *now_us) {
                    port[gate][in[gate].count++] = (rgp_port_edge){edge[i].at_us, edge[i].rising};
                }
            }
        }
        got = rgp_lag_step(config, state, &in[0], &in[1], 0.01f);
    }
    return got;
}

/* A drop-out within a passage leaves no trace, at either gate; the passages behind it are measured right. */
static void test_lag_with_a_drop_out(void **unused)
{
    (void)unused;
    static const gate_edge edges[] = {
        {1, 100000, 1}, {1, 140000, 0}, {1, 143000, 1}, {1, 200000, 0}, /* one, with a leaf in it: mid 150 ms */
        {0, 300000, 1}, {0, 400000, 0},                                 /* mid 350 ms */
        {1, 500000, 1}, {1, 600000, 0},                                 /* mid 550 ms */
        {0, 690000, 1}, {0, 705000, 0}, {0, 708000, 1}, {0, 810000, 0}, /* mid 750 ms */
        {1, 900000, 1}, {1, 904000, 0},                                 /* too short for anything */
    };
    const rgp_lag_config config = {5.0f, 0.01f};
    rgp_lag_state state;
    uint64_t now = 10000;
    rgp_lag_reset(&state);
    assert_near((double)step_gates(&config, &state, &now, 450000, edges, 14).value, 0.2, 1e-7);
    assert_near((double)step_gates(&config, &state, &now, 850000, edges, 14).value, 0.2, 1e-7);
    assert_near((double)step_gates(&config, &state, &now, 2000000, edges, 14).value, 0.2, 1e-7);
    assert_int_equal(state.passing, 0);
}

/* Sixteen may be under way; with one more the measure is missing until nothing is. */
static void test_lag_with_many(void **unused)
{
    (void)unused;
    for (uint32_t many = 16; many <= 17; many++) {
        gate_edge edge[2 * 34];
        size_t edges = 0;
        for (uint32_t i = 0; i < many; i++) {
            edge[edges++] = (gate_edge){1, 100000 + 50000 * i, 1};
            edge[edges++] = (gate_edge){1, 120000 + 50000 * i, 0};
        }
        for (uint32_t i = 0; i < many; i++) {
            edge[edges++] = (gate_edge){0, 1600000 + 50000 * i, 1};
            edge[edges++] = (gate_edge){0, 1620000 + 50000 * i, 0};
        }
        const rgp_lag_config config = {3.0f, 0.0f};
        rgp_lag_state state;
        uint64_t now = 10000;
        rgp_lag_reset(&state);
        const rgp_reading got = step_gates(&config, &state, &now, 2500000, edge, edges);
        assert_int_equal(got.quality, many == 16 ? RGP_GOOD : RGP_MISSING);
        assert_true(many != 16 || fabs((double)got.value - 1.5) < 1e-6);
        const gate_edge later[] = {{1, 9000000, 1}, {1, 9100000, 0}, {0, 9400000, 1}, {0, 9500000, 0}};
        const rgp_reading again = step_gates(&config, &state, &now, 10000000, later, 4);
        assert_int_equal(again.quality, RGP_GOOD);
        assert_near((double)again.value, 0.4, 1e-6);
    }
}

/* A steady ramp gives its slope whatever the time constant, also one of a single step. */
static void test_slope_of_a_ramp(void **unused)
{
    (void)unused;
    static const float steps[] = {1.0f, 3.0f, 10.0f, 200.0f};
    for (size_t i = 0; i < sizeof steps / sizeof *steps; i++) {
        const rgp_slope_config config = {steps[i] * 0.0625f};
        rgp_slope_state state;
        rgp_reading got = rgp_good(0.0f);
        rgp_slope_reset(&state);
        for (uint32_t n = 0; n < 24u * (uint32_t)steps[i]; n++) {
            got = rgp_slope_step(&config, &state, rgp_good(0.5f * (float)n), 0.0625f);
        }
        assert_near((double)got.value, 8.0, 8e-6);
    }
}

/* Within 1e-6 of the step, or two units in the last place, whichever is more. */
static void arrives(const char *what, double got, double wanted, double step)
{
    const double two_ulp = 2.0 * (double)(nextafterf((float)fabs(wanted), INFINITY) - (float)fabs(wanted));
    if (!(fabs(got - wanted) <= fmax(1e-6 * fabs(step), two_ulp))) {
        fail_msg("%s: %.9g, and not %.9g", what, got, wanted);
    }
}

/* A step from 2000 to 2010, with a time constant of ten million steps, after half of that, one and three of them:
 * against 1 - e^(-t/T). RIGPULSE_LONG: ten times as many steps, for the long study. */
static void test_long_time_constants_at_length(void **unused)
{
    (void)unused;
    const uint32_t steps = getenv("RIGPULSE_LONG") ? 100000000u : 10000000u;
    const float dt = 0.001f, time = (float)steps * dt;
    const rgp_smooth_config smooth = {time};
    const rgp_moved_config moved = {5.0f, 0.0f, time};
    const rgp_fuse_config fuse = {time, 1.0f};
    const rgp_slope_config slope = {time};
    rgp_smooth_state a;
    rgp_moved_state b;
    rgp_fuse_state c;
    rgp_slope_state d;
    rgp_smooth_reset(&a);
    rgp_moved_reset(&b);
    rgp_fuse_reset(&c);
    rgp_slope_reset(&d);
    rgp_smooth_step(&smooth, &a, rgp_good(2000.0f), dt);
    rgp_moved_step(&moved, &b, rgp_good(2000.0f), dt);
    rgp_fuse_step(&fuse, &c, rgp_good(0.0f), rgp_good(2000.0f), dt);
    rgp_slope_step(&slope, &d, rgp_good(0.0f), dt);
    float ramp = 0.0f;
    for (uint32_t n = 1; n <= 3u * steps; n++) {
        rgp_smooth_step(&smooth, &a, rgp_good(2010.0f), dt);
        rgp_moved_step(&moved, &b, rgp_good(2010.0f), dt);
        rgp_fuse_step(&fuse, &c, rgp_good(0.0f), rgp_good(2010.0f), dt);
        ramp = n % 2 ? 0.25f : 0.0f; /* to and fro: its slope stays about 0 */
        rgp_slope_step(&slope, &d, rgp_good(ramp), dt);
        if (n == steps / 2 || n == steps || n == 3u * steps) {
            const double wanted = 2010.0 - 10.0 * exp(-(double)n * (double)dt / (double)time);
            arrives("smooth", (double)a.output, wanted, 10.0);
            arrives("moved", (double)b.baseline, wanted, 10.0);
            arrives("fuse", (double)c.angle, wanted, 10.0);
            assert_true(fabs((double)d.slope) < 250.0 / steps * 2.0);
        }
    }
}

/* Ten hours at 1 ms come to their end at the step at which they have to. */
static void test_times_of_hours_at_length(void **unused)
{
    (void)unused;
    const uint32_t steps = 36000000u;
    const rgp_hold_config hold = {36000.0f};
    const rgp_supervision_config supervision = {.low = 0, .high = 100, .stuck = 36000.0f};
    const rgp_loop_config loop = {.beyond = 1.0f, .beyond_for = 36000.0f};
    rgp_hold_state a;
    rgp_supervision_state b;
    rgp_loop_state c;
    uint32_t held = 0, well = 0, engaged = 0;
    rgp_hold_reset(&a);
    rgp_supervision_reset(&b);
    rgp_loop_reset(&c);
    rgp_hold_step(&hold, &a, rgp_good(3.0f), 0.001f);
    rgp_loop_step(&loop, &c, rgp_good(0.0f), rgp_good(0.0f), false, false, 0.001f);
    b.sample = (rgp_sample){.raw = 50};
    b.fresh = 1;
    for (uint32_t n = 0; n < steps + 1000u; n++) {
        held += rgp_hold_step(&hold, &a, (rgp_reading){0.0f, RGP_MISSING}, 0.001f).quality == RGP_HELD;
        well += rgp_supervision_step(&supervision, &b, 0, 0.001f) == RGP_GOOD;
        engaged += rgp_loop_step(&loop, &c, rgp_good(0.0f), rgp_good(5.0f), false, false, 0.001f) == RGP_LOOP_ENGAGED;
    }
    assert_int_equal(held, steps);
    assert_int_equal(well, steps); /* the first step is that of its change */
    assert_int_equal(engaged, steps);
}

/* ---- measured swings -------------------------------------------------------------------------------- */

/* A slow stage's moments are read rightly by a stage that steps faster: a turn 60 ms before a step of 60 ms, by the
 * edges that are looked for every 20 ms. */
static void test_moments_between_paces(void **unused)
{
    (void)unused;
    static const float value[] = {0, 10, 20, 10, 0};
    const rgp_turn_config config = {5.0f, RGP_TURN_DOWN};
    rgp_turn_state turn;
    rgp_edges_memory memory = {0};
    rgp_port_edge room;
    rgp_turn_reset(&turn);
    for (size_t i = 0; i < sizeof value / sizeof *value; i++) {
        const uint64_t now_us = 60000u * (i + 1);
        const rgp_reading told = rgp_turn_step(&config, &turn, rgp_good(value[i]), 0.06f);
        const rgp_edges found = rgp_edges_find(&memory, told, true, now_us, 0.02f, &room);
        assert_int_equal(found.count, i == 3);
        if (found.count > 0) {
            assert_in_range(found.edge->time_us, 180000u - 1u, 180000u + 1u);
        }
    }
}

/* A swing that dies away, 10 ms apart: its period from turning points, and its decay ratio, e^(-T / tau). */
static void test_turning_points(void **unused)
{
    (void)unused;
    static const struct {
        double noise, least, period_off, decay_off;
    } cases[] = {{0.0, 0.5, 1e-4, 0.02}, {0.02, 0.5, 0.02, 2.0}};
    const double period = 1.237, tau = 9.0, wanted = 100.0 * exp(-period / tau);
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        const rgp_turn_config config = {(float)cases[i].least, RGP_TURN_DOWN};
        const rgp_swing_config left = {(float)cases[i].least, RGP_SWING_LEFT};
        rgp_turn_state turn;
        rgp_swing_state swing;
        double last = 0.0, worst = 0.0, worst_decay = 0.0;
        uint32_t turns = 0, chance = 1;
        rgp_turn_reset(&turn);
        rgp_swing_reset(&swing);
        for (uint32_t k = 1; k <= 800; k++) {
            const double t = 0.01 * k;
            chance = chance * 1664525u + 1013904223u;
            const double noise = cases[i].noise * ((double)(chance >> 8) / (1 << 23) - 1.0);
            const double x = 20.0 + 10.0 * exp(-t / tau) * cos(2.0 * M_PI * t / period) + noise;
            const rgp_reading told = rgp_turn_step(&config, &turn, rgp_good((float)x), 0.01f);
            const rgp_reading decay = rgp_swing_step(&left, &swing, rgp_good((float)x), 0.01f);
            if (told.value != 0.0f) {
                const double at = t - (double)rgp_moment_age(told.value);
                if (turns > 0) {
                    worst = fmax(worst, fabs(at - last - period));
                    worst_decay = fmax(worst_decay, fabs((double)decay.value - wanted));
                }
                last = at;
                turns++;
            }
        }
        assert_int_equal(turns, 6); /* and none of the noise's */
        if (!(worst < cases[i].period_off && worst_decay < cases[i].decay_off)) {
            fail_msg("case %zu: a period off by %g s, a decay ratio by %g %%", i, worst, worst_decay);
        }
    }
}

/* A pendulum through a gate that stands a third of its reach beside its middle: edges worked out, not sampled. */
static void test_gate_of_a_swing(void **unused)
{
    (void)unused;
    const double period = 1.6, place = 1.0 / 3.0, half_width = 0.005;
    const struct {
        rgp_gauge_config config;
        double wanted;
    } cases[] = {
        {{.what = RGP_GAUGE_INTERVAL, .every = 2, .window = 1}, 1.6},
        {{.what = RGP_GAUGE_OFFCENTRE, .every = 1, .window = 1}, 100.0 / 3.0},
        {{.what = RGP_GAUGE_UNEVEN, .every = 1, .window = 1}, 2.0 * 1.6 / M_PI * asin(1.0 / 3.0)},
        {{.what = RGP_GAUGE_RATE, .every = 1, .window = 5}, 0.0},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_gauge_state state;
        rgp_reading got = {0};
        bool was = false;
        rgp_gauge_reset(&state);
        for (uint32_t k = 1; k <= 800; k++) {
            rgp_port_edge edge[4];
            rgp_edges in = {.now = rgp_good(0.0f), .edge = edge, .now_us = k * 20000u};
            for (uint32_t us = (k - 1) * 20000u; us < k * 20000u; us++) {
                const bool is = fabs(sin(2.0 * M_PI * us * 1e-6 / period) - place) < half_width;
                if (is != was) {
                    edge[in.count++] = (rgp_port_edge){us, is};
                    was = is;
                }
            }
            in.now.value = was ? 1.0f : 0.0f;
            got = rgp_gauge_step(&cases[i].config, &state, &in, 0.02f);
        }
        if (cases[i].wanted > 0.0) {
            assert_near((double)got.value, cases[i].wanted, 2e-4 * cases[i].wanted);
        } else { /* by turns after the longer and after the shorter half */
            const double longer = 0.8 + 1.6 / M_PI * asin(1.0 / 3.0);
            assert_true((double)got.value > 0.999 / longer && (double)got.value < 1.001 / (1.6 - longer));
        }
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_accumulate_for_hours),
        cmocka_unit_test(test_lag_with_a_drop_out),
        cmocka_unit_test(test_lag_with_many),
        cmocka_unit_test(test_slope_of_a_ramp),
        cmocka_unit_test(test_long_time_constants_at_length),
        cmocka_unit_test(test_times_of_hours_at_length),
        cmocka_unit_test(test_moments_between_paces),
        cmocka_unit_test(test_turning_points),
        cmocka_unit_test(test_gate_of_a_swing),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
