/* Controllers beside closed forms, and what makes them fit for use: no windup, no bumps, no surprise from a bad
 * reading. */
#include "support.h"

#include "rigpulse/regulate.h"

#include <math.h>

static const rgp_pid_config plain = {.gain = {.kp = 2, .ki = 2}, .low = -100, .high = 100};

static rgp_pid_input input_of(double setpoint, double measured)
{
    return (rgp_pid_input){rgp_good((float)setpoint), rgp_good((float)measured), 0.0f, 0.0f};
}

/* kp = ki = 2 on the lag 1 / (s + 1) cancels its pole: the closed loop is 2 / (s + 2), its step 1 - e^-2t. */
static void test_closed_loop(void **unused)
{
    (void)unused;
    rgp_pid_state s;
    rgp_pid_reset(&s);
    const double dt = 1e-3;
    double y = 0.0;
    for (int i = 0; i < 2000; i++) {
        const rgp_pid_input in = input_of(1.0, y);
        const double u = (double)rgp_pid_step(&plain, &s, &in, (float)dt).value;
        y += (u - y) * (1.0 - exp(-dt));
        assert_near(y, 1.0 - exp(-2.0 * (i + 1) * dt), 2e-3);
        assert_near((double)s.error, 1.0 - (double)in.measured.value, 1e-6);
    }
}

/* The slope of a ramp behind its filter is r (1 - e^-t/T), at any dt; and a step of the setpoint does not kick. */
static void test_derivative(void **unused)
{
    (void)unused;
    const rgp_pid_config c = {.gain = {.kd = 3, .filter = 0.1f}, .low = -100, .high = 100};
    static const float steps[] = {0.01f, 0.03f, 0.002f, 0.05f};
    rgp_pid_state s;
    rgp_pid_reset(&s);
    double t = 0.0;
    rgp_pid_input in = input_of(0.0, 0.0);
    rgp_pid_step(&c, &s, &in, 0.01f);
    for (int i = 0; i < 40; i++) {
        t += (double)steps[i % 4];
        in = input_of(i < 20 ? 0.0 : 50.0, 4.0 * t);
        rgp_pid_step(&c, &s, &in, steps[i % 4]);
        assert_near((double)s.d, -3.0 * 4.0 * (1.0 - exp(-t / 0.1)), 2e-4);
    }
}

/* The integral is the sum of what was seen, in whatever steps; and goes on though each step is far below its last
 * digit. */
static void test_integral(void **unused)
{
    (void)unused;
    const rgp_pid_config c = {.gain = {.ki = 0.5f}, .low = -1e6f, .high = 1e6f};
    rgp_pid_state a, b;
    rgp_pid_reset(&a);
    rgp_pid_reset(&b);
    for (int i = 0; i < 100; i++) {
        const rgp_pid_input in = input_of(8.0, 5.0);
        rgp_pid_step(&c, &a, &in, 0.03f);
    }
    for (int i = 0; i < 100; i++) {
        const rgp_pid_input in = input_of(8.0, 5.0);
        rgp_pid_step(&c, &b, &in, i % 2 ? 0.01f : 0.05f);
    }
    assert_near((double)a.i, 0.5 * 3.0 * 3.0, 1e-5);
    assert_near((double)b.i, 0.5 * 3.0 * 3.0, 1e-5);
    a.i = 1000.0f;
    for (int i = 0; i < 1000000; i++) {
        const rgp_pid_input in = {rgp_good(2e-4f), rgp_good(0.0f), 0.0f, 0.0f};
        rgp_pid_step(&c, &a, &in, 0.01f);
    }
    assert_near((double)a.i, 1001.0, 1e-3);
}

/* Against the equations in double precision: steps of any length, lost readings, and all that shapes the error. */
static void test_pid_whatever_comes(void **unused)
{
    (void)unused;
    const rgp_pid_config cases[] = {
        {.gain = {3, 2, 0.5f, 0.05f}, .low = -1e6f, .high = 1e6f},
        {.gain = {3, 2, 0.5f, 0},
         .setpoint_softness = 0.7f,
         .slope_weight = 0.5f,
         .low = -1e6f,
         .high = 1e6f,
         .reverse = 1},
        {.gain = {3, 2, 0.5f, 0.2f}, .setpoint_softness = 1, .deadband = 4, .low = -1e6f, .high = 1e6f},
    };
    for (size_t k = 0; k < sizeof cases / sizeof *cases; k++) {
        const rgp_pid_config *c = &cases[k];
        const double sign = c->reverse ? -1.0 : 1.0, band = (double)c->deadband;
        rgp_pid_state s;
        rgp_pid_reset(&s);
        uint32_t chance = 5;
        double first = 0.0, before = 0.0, slope = 0.0, gap = 0.0, sum = 0.0, setpoint = 10.0;
        for (uint32_t i = 0; i < 5000; i++) {
            chance = chance * 1664525u + 1013904223u;
            const uint32_t roll = chance >> 16;
            const double dt = roll % 4 ? 0.0625 : (double)(roll % 7 + 1) / 64.0, measured = (double)(roll % 40) - 12.0;
            const bool lost = i > 0 && roll % 9 < 2;
            setpoint = roll % 101 == 0 ? (double)(roll % 30) : setpoint;
            rgp_pid_input in = input_of(setpoint, measured);
            in.measured.quality = lost ? RGP_MISSING : RGP_GOOD;
            const rgp_reading out = rgp_pid_step(c, &s, &in, (float)dt);
            if (lost) {
                gap += dt;
                continue;
            }
            const double error = sign * (setpoint - measured),
                         now = sign * ((double)c->slope_weight * setpoint - measured);
            const double beyond = error > band ? error - band : error < -band ? error + band : 0.0;
            const double share = c->gain.filter > 0.0f ? -expm1(-(dt + gap) / (double)c->gain.filter) : 1.0;
            first = i == 0 ? setpoint : first;
            slope += i == 0 ? 0.0 : share * ((now - before) / (dt + gap) - slope);
            before = now;
            gap = 0.0;
            sum += (double)c->gain.ki * beyond * dt;
            const double weighted = beyond - sign * (double)c->setpoint_softness * (setpoint - first);
            const double asked = (double)c->gain.kp * weighted + sum + (double)c->gain.kd * slope;
            assert_near((double)out.value, asked, 2e-3 + 1e-5 * fabs(asked));
        }
    }
}

/* After a minute at its limit the output leaves it as soon as the error turns: with the limit its own, or something
 * further down that gives less than is asked. */
static void test_no_windup(void **unused)
{
    (void)unused;
    static const struct {
        float tracking_time, given; /* what is given at most */
        int ticks;                  /* after which it must have left */
    } cases[] = {{0, 100, 1}, {0, 30, 1}, {0.5f, 100, 40}, {0.5f, 30, 40}};
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_pid_config c = plain;
        c.tracking_time = cases[i].tracking_time;
        rgp_pid_state s;
        rgp_pid_reset(&s);
        for (int n = 0; n < 6000 + cases[i].ticks; n++) {
            rgp_pid_input in = input_of(n < 6000 ? 80.0 : 0.0, 10.0);
            in.shortfall = s.output - rgp_limit(s.output, -100.0f, cases[i].given);
            rgp_pid_step(&c, &s, &in, 0.01f);
            assert_int_equal(s.saturated != 0, n < 6000 || s.unlimited > cases[i].given || n == 6000);
        }
        assert_true(s.output < cases[i].given);
    }
}

/* An integral of which one step alone would go beyond a limit drives what the limit allows, to either side, and leaves
 * it as soon as the error turns. */
static void test_great_integral(void **unused)
{
    (void)unused;
    for (int side = -1; side <= 1; side += 2) {
        rgp_pid_config c = plain;
        c.gain = (rgp_pid_gains){.kp = 1.0f, .ki = 1e5f};
        rgp_pid_state s = {0};
        for (int n = 0; n < 10; n++) {
            const rgp_pid_input in = input_of(side * (n < 8 ? 10.0 : -10.0), 0.0);
            const float out = rgp_pid_step(&c, &s, &in, 0.01f).value;
            assert_near((double)out, side * (n < 8 ? 100.0 : -100.0), 1e-4);
            assert_true(s.saturated);
        }
    }
}

/* Neither new gains nor the hand's letting go make a step. */
static void test_no_bumps(void **unused)
{
    (void)unused;
    rgp_pid_config c = plain;
    c.gain.kd = 0.5f;
    c.gain.filter = 0.05f;
    rgp_pid_state s;
    rgp_pid_reset(&s);
    double y = 0.0;
    for (int i = 0; i < 300; i++) {
        const rgp_pid_input in = input_of(5.0, y);
        y += ((double)rgp_pid_step(&c, &s, &in, 0.01f).value - y) * 0.01;
    }
    const rgp_pid_input same = input_of(5.0, y);
    rgp_pid_state before = s, after = s;
    rgp_pid_step(&c, &before, &same, 0.01f);
    c.gain.kp = 7;
    c.gain.ki = 0.1f;
    c.gain.kd = 2;
    rgp_pid_step(&c, &after, &same, 0.01f); /* nobody has told it */
    assert_near((double)after.output, (double)before.output, 0.05);
    for (int i = 0; i < 50; i++) {
        const rgp_pid_input hand = {rgp_good(5.0f), rgp_good((float)y), 0.0f, 0.0f};
        rgp_pid_follow(&c, &after, &hand, -33.0f, 0.01f);
        assert_near((double)after.output, -33.0, 1e-4);
    }
    const rgp_pid_input back = {rgp_good(5.0f), rgp_good((float)y), 0.0f, 0.0f};
    assert_near((double)rgp_pid_step(&c, &after, &back, 0.01f).value, -33.0, 0.1);
}

/* A heater on an output of 8 bits, as a firmware writer would begin: zeroed memory, gains, limits, a step each tick. It
 * ends at the setpoint, and knows that a coarse output drives as asked. */
static void test_coarse_output(void **unused)
{
    (void)unused;
    for (int told = 0; told < 2; told++) {
        rgp_pid_config c = {.gain = {.kp = 12, .ki = 0.5f}, .high = 100, .resolution = told ? 100.0f / 15.0f : 0.0f};
        rgp_pid_state s = {0};
        double oven = 20.0, mean = 0.0;
        float driven = 0.0f;
        for (int tick = 0; tick < 6000; tick++) {
            const rgp_pid_input in = {.setpoint = rgp_good(60.0f),
                                      .measured = rgp_good((float)oven),
                                      .shortfall = told ? s.output - driven : 0.0f};
            const float asked = rgp_pid_step(&c, &s, &in, 0.1f).value;
            driven = told ? floorf(asked / 100.0f * 15.0f) / 15.0f * 100.0f : roundf(asked * 2.55f) / 2.55f;
            oven += 0.1 * (0.02 * (double)driven - (oven - 20.0) / 50.0);
            mean += tick >= 5000 ? oven / 1000.0 : 0.0;
        }
        assert_near(mean, 60.0, 0.05);
    }
}

/* Bad readings step nothing; weights, dead band, reverse action, feed; the ideal form; what is no setting. */
static void test_pid_settings(void **unused)
{
    (void)unused;
    rgp_pid_config c = {.gain = {.kp = 2}, .setpoint_softness = 0.75f, .deadband = 1, .low = -100, .high = 100};
    rgp_pid_state s;
    rgp_pid_reset(&s);
    rgp_pid_input in = {rgp_good(10), rgp_good(6), 1.5f, 0.0f};
    assert_near((double)rgp_pid_step(&c, &s, &in, 0.1f).value, 2.0 * 3.0 + 1.5, 1e-6);
    in.setpoint = rgp_good(14); /* 4 more, of which a quarter counts */
    assert_near((double)rgp_pid_step(&c, &s, &in, 0.1f).value, 2.0 * (7.0 - 0.75 * 4.0) + 1.5, 1e-6);
    in.measured = (rgp_reading){-1000, RGP_MISSING};
    const rgp_reading held = rgp_pid_step(&c, &s, &in, 0.1f);
    assert_int_equal(held.quality, RGP_MISSING);
    assert_near((double)held.value, 9.5, 1e-6);
    rgp_pid_reset(&s);
    c.reverse = 1;
    in = (rgp_pid_input){rgp_good(10), rgp_good(6), 0.0f, 0.0f};
    assert_near((double)rgp_pid_step(&c, &s, &in, 0.1f).value, -6.0, 1e-6);

    float gain, integral, derivative;
    rgp_pid_from_ideal(&c, 4.0f, 20.0f, 5.0f);
    assert_near((double)c.gain.ki, 0.2, 1e-6);
    assert_near((double)c.gain.kd, 20.0, 1e-6);
    rgp_pid_to_ideal(&c, &gain, &integral, &derivative);
    assert_near((double)integral, 20.0, 1e-5);
    assert_near((double)derivative, 5.0, 1e-5);

    const float wrong[] = {NAN, INFINITY, -1.0f};
    for (size_t i = 0; i < 3; i++) {
        rgp_pid_config bad[] = {plain, plain, plain, plain, plain};
        bad[0].gain.kp = bad[1].gain.ki = bad[2].gain.kd = bad[3].gain.filter = bad[4].setpoint_softness = wrong[i];
        for (size_t k = 0; k < 5; k++) {
            assert_int_equal(rgp_pid_check(&bad[k]), RGP_E_CONFIG);
        }
    }
    const rgp_pid_config narrow = {.low = 1, .high = 1};
    assert_int_equal(rgp_pid_check(&narrow), RGP_E_CONFIG);
    assert_int_equal(rgp_pid_check(&plain), RGP_OK);
    /* what overflows is no number, and is forgotten */
    rgp_pid_reset(&s);
    const rgp_pid_config huge = {.gain = {.kp = 1e30f}, .low = -1, .high = 1};
    in = (rgp_pid_input){rgp_good(3e38f), rgp_good(-3e38f), 0.0f, 0.0f};
    assert_int_equal(rgp_pid_step(&huge, &s, &in, 0.1f).quality, RGP_OUT_OF_RANGE);
    assert_near((double)s.output, 0.0, 0.0);
}

static void test_two_points(void **unused)
{
    (void)unused;
    const rgp_onoff_config c = {.margin = 2, .least_on = 0.5f, .least_off = 1, .low = 0, .high = 80};
    rgp_onoff_state s;
    rgp_onoff_reset(&s);
    static const struct {
        float measured;
        int ticks; /* of 0.1 s */
        float output;
    } steps[] = {{9, 1, 80},     {13, 4, 80}, {13, 1, 0}, /* on for half a second, though it is past the margin */
                 {9, 9, 0},      {9, 1, 80},              /* off for a whole one */
                 {11.9f, 9, 80}, {12, 1, 0}};
    for (size_t i = 0; i < sizeof steps / sizeof *steps; i++) {
        rgp_reading out = {0};
        for (int n = 0; n < steps[i].ticks; n++) {
            out = rgp_onoff_step(&c, &s, rgp_good(10), rgp_good(steps[i].measured), 0.1f);
        }
        if (out.value != steps[i].output) {
            fail_msg("step %zu: %g instead of %g", i, (double)out.value, (double)steps[i].output);
        }
    }
}

/* Whatever is measured: it changes only where the error says so, never too soon, and on a bad reading not at all. */
static void test_two_points_whatever_comes(void **unused)
{
    (void)unused;
    for (uint32_t reverse = 0; reverse < 2; reverse++) {
        const rgp_onoff_config c = {
            .margin = 3, .least_on = 0.5f, .least_off = 0.25f, .low = -10, .high = 40, .reverse = reverse};
        rgp_onoff_state s;
        rgp_onoff_reset(&s);
        uint32_t chance = 2, changes = 0;
        double since = 1e9;
        bool on = false;
        for (uint32_t i = 0; i < 20000; i++) {
            chance = chance * 1664525u + 1013904223u;
            const uint32_t roll = chance >> 16;
            const double dt = (double)(roll % 5) / 16.0, error = (double)(roll % 23) - 11.0;
            const bool bad = roll % 7 == 0;
            const rgp_reading measured = {(float)(reverse ? 20.0 + error : 20.0 - error), bad ? RGP_LATE : RGP_GOOD};
            const rgp_reading out = rgp_onoff_step(&c, &s, rgp_good(20), measured, (float)dt);
            since += dt;
            const bool wants = on ? error > -3.0 : error > 0.0;
            if (!bad && dt > 0.0 && wants != on && since >= (on ? 0.5 : 0.25)) {
                on = wants;
                since = 0.0;
                changes++;
            }
            assert_true(out.value == (on ? 40.0f : s.primed ? -10.0f : 0.0f));
            assert_int_equal(out.quality, measured.quality);
        }
        assert_in_range(changes, 500, 19000);
    }
}

static void test_nudge(void **unused)
{
    (void)unused;
    const rgp_nudge_config c = {.step = 2, .pace = 0.25f, .within = 1, .low = 0, .high = 20};
    rgp_nudge_state s;
    rgp_nudge_reset(&s);
    float out = 0.0f;
    for (int n = 1; n <= 100; n++) { /* ten seconds: forty paces, but the travel ends */
        out = rgp_nudge_step(&c, &s, rgp_good(30), rgp_good(5), 7.0f, 0.1f).value;
        assert_near((double)out, fmin(7.0 + 2.0 * floor(n * 0.1 / 0.25 + 1e-6), 20.0), 1e-5);
    }
    for (int n = 0; n < 30; n++) {
        assert_near((double)rgp_nudge_step(&c, &s, rgp_good(30), rgp_good(30.9f), 0.0f, 0.1f).value, 20.0, 0.0);
    }
    rgp_nudge_step(&c, &s, rgp_good(30), rgp_good(31.1f), 0.0f, 0.25f);
    assert_near((double)s.output, 18.0, 0.0);
}

/* Of a process that is like its model, what comes out is the process without its dead time. */
static void test_predictor(void **unused)
{
    (void)unused;
    const rgp_predict_config c = {.gain = 0.5f, .lag = 3, .dead = 2};
    rgp_predict_state s;
    rgp_predict_reset(&s);
    for (int n = 0; n < 3000; n++) {
        const double t = n * 0.01, late = t - 2.0;
        const double measured = 20.0 + (late > 0.0 ? 0.5 * 40.0 * (1.0 - exp(-late / 3.0)) : 0.0);
        const rgp_reading out =
            rgp_predict_step(&c, &s, rgp_good((float)measured), rgp_good(n == 0 ? 10.0f : 50.0f), 0.01f);
        const double kink = fabs(t - 2.0) < 0.05 ? 0.06 : 5e-3; /* which is rounded over a 63rd of the dead time */
        assert_near((double)out.value, 20.0 + 0.5 * 40.0 * (1.0 - exp(-t / 3.0)), kink);
    }
}

/* Engaging and cutting out, second by second. */
static void test_phases(void **unused)
{
    (void)unused;
    static const rgp_loop_config c = {
        .within = 5, .delay = 2, .beyond = 10, .beyond_for = 1, .saturated_for = 3, .hold = 1, .ramp = 2};
    static const rgp_loop_config again = {
        .within = 5, .delay = 2, .beyond = 10, .beyond_for = 1, .hold = 1, .again = 1};
    static const struct {
        const rgp_loop_config *config;
        const char
            *measured; /* a letter a second: a: at the setpoint, n: near, f: far, -: missing, s: at it, saturated */
        const char *phases;
        uint8_t reason;
    } cases[] = {
        {&c, "ffnaaaa", "wwwwEEE", 0},
        {&c, "aaaffffaaa", "wwEEOOOOOO", RGP_TRIP_BEYOND},
        {&c, "aaaa-aa---aa", "wwEEhEEhOOOO", RGP_TRIP_SENSOR},
        {&c, "aaassssaaa", "wwEEEEOOOO", RGP_TRIP_SATURATED},
        {&again, "aaafffffnna", "wwEEOOOOOOE", 0},
    };

    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_loop_state s;
        rgp_loop_reset(&s);
        for (size_t n = 0; cases[i].measured[n]; n++) {
            const char is = cases[i].measured[n];
            const rgp_reading measured = is == '-' ? (rgp_reading){0, RGP_MISSING}
                                                   : rgp_good(is == 'f'   ? 40
                                                              : is == 'n' ? 24
                                                                          : 20);
            const char phase =
                "wEhO"[rgp_loop_step(cases[i].config, &s, rgp_good(20), measured, is == 's', false, 1.0f)];
            if (phase != cases[i].phases[n]) {
                fail_msg("case %zu, second %zu: %c instead of %c", i, n, phase, cases[i].phases[n]);
            }
        }
        assert_true(s.phase != RGP_LOOP_OUT || s.reason == cases[i].reason);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_closed_loop),
        cmocka_unit_test(test_derivative),
        cmocka_unit_test(test_integral),
        cmocka_unit_test(test_pid_whatever_comes),
        cmocka_unit_test(test_no_windup),
        cmocka_unit_test(test_great_integral),
        cmocka_unit_test(test_no_bumps),
        cmocka_unit_test(test_coarse_output),
        cmocka_unit_test(test_pid_settings),
        cmocka_unit_test(test_two_points),
        cmocka_unit_test(test_two_points_whatever_comes),
        cmocka_unit_test(test_nudge),
        cmocka_unit_test(test_predictor),
        cmocka_unit_test(test_phases),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
