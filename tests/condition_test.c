/* Each block of condition/ against closed-form answers: one table of cases a family. */
#include "blocks.h"

#include "rigpulse/condition.h"
#include "rigpulse/numeric.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

static rgp_reading step_despike(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_despike_config config = {(uint32_t)c->setting[0]};
    if (reset) {
        rgp_despike_reset(state);
        return in;
    }
    return rgp_despike_step(&config, state, in, c->dt);
}

static void test_despike(void **unused)
{
    (void)unused;
    static const sequence_case cases[] = {
        {"first readings: lower median of those there are", {5}, 1, {4, 2, 9, 1, 7, NAN}, {4, 2, 4, 2, 4}},
        {"a spike leaves no trace", {3}, 1, {5, 5, 99, 5, 5, -99, 5, NAN}, {5, 5, 5, 5, 5, 5, 5}},
        {"a step comes through after (N+1)/2", {5}, 1, {0, 0, 0, 0, 0, 8, 8, 8, NAN}, {0, 0, 0, 0, 0, 0, 0, 8}},
        {"bad readings do not enter", {3}, 1, {1, BAD, BAD, 3, 2, BAD, NAN}, {1, 1, 1, 1, 2, 2}},
        {"bad from the beginning: passed on", {3}, 1, {BAD, 6, NAN}, {777, 6}},
        {"dt 0 steps nothing", {3}, 0, {1, 2, NAN}, {1, 2}},
        {"equal readings", {3}, 1, {2, 2, 2, 1, 1, 2, NAN}, {2, 2, 2, 2, 1, 1}},
        {"extremes", {3}, 1, {3e38f, -3e38f, 3e38f, NAN}, {3e38f, -3e38f, 3e38f}},
    };
    run_cases(cases, sizeof cases / sizeof *cases, step_despike, 0.0);
}

static int by_value(const void *a, const void *b)
{
    const float x = *(const float *)a, y = *(const float *)b;
    return (x > y) - (x < y);
}

/* Against sorting each window anew, for every window there is. */
static void test_despike_against_sorting(void **unused)
{
    (void)unused;
    uint32_t chance = 1;
    for (uint32_t window = 3; window <= RGP_DESPIKE_WINDOW_MAX; window += 2) {
        const rgp_despike_config config = {window};
        rgp_despike_state state;
        float all[200];
        rgp_despike_reset(&state);
        for (uint32_t i = 0; i < 200; i++) {
            chance = chance * 1664525u + 1013904223u;
            all[i] = (float)(chance >> 27);
            const float got = rgp_despike_step(&config, &state, rgp_good(all[i]), 0.01f).value;
            const uint32_t n = i + 1 < window ? i + 1 : window;
            float sorted[RGP_DESPIKE_WINDOW_MAX];
            memcpy(sorted, all + i + 1 - n, n * sizeof *sorted);
            qsort(sorted, n, sizeof *sorted, by_value);
            assert_true(got == sorted[(n - 1) / 2]);
        }
    }
}

/* Of zeros of one sign that sign comes out, before and after the window is full. */
static void test_despike_of_zeros(void **unused)
{
    (void)unused;
    for (uint32_t window = 3; window <= 9; window += 2) {
        for (int negative = 0; negative < 2; negative++) {
            const rgp_despike_config config = {window};
            rgp_despike_state state;
            rgp_despike_reset(&state);
            for (uint32_t i = 0; i < 3 * window; i++) {
                const float zero = negative ? -0.0f : 0.0f;
                const float in = i % window == 1 ? 7.0f : i % window == 2 ? -7.0f : zero;
                const float got = rgp_despike_step(&config, &state, rgp_good(in), 0.01f).value;
                assert_true(got == 0.0f && (signbit(got) != 0) == (negative != 0));
            }
        }
    }
}

/* Bad readings and such as are no number do not count; when as many in a row are bad as the window holds, it is empty.
 */
static void test_despike_among_bad_readings(void **unused)
{
    (void)unused;
    const rgp_despike_config config = {5};
    rgp_despike_state state;
    uint32_t chance = 7, emptied = 0, count = 0, missed = 0;
    float kept[5] = {0};
    rgp_despike_reset(&state);
    for (uint32_t i = 0; i < 20000; i++) {
        chance = chance * 1664525u + 1013904223u;
        const uint32_t roll = chance >> 20;
        const bool bad = roll % 7 < 4, number = roll % 11 > 0;
        const rgp_reading in = {number ? (float)(roll % 100) - 50.0f : NAN, bad ? RGP_LATE : RGP_GOOD};
        const float got = rgp_despike_step(&config, &state, in, 0.01f).value;
        if (!bad && number) {
            memmove(kept, kept + 1, sizeof kept - sizeof *kept);
            kept[4] = in.value;
            count = count < 5 ? count + 1 : 5;
        }
        missed = bad ? missed + 1 : number ? 0 : missed;
        if (missed >= 5) {
            emptied += count > 0;
            count = missed = 0;
        }
        if (count > 0) {
            float sorted[5];
            memcpy(sorted, kept + 5 - count, count * sizeof *sorted);
            qsort(sorted, count, sizeof *sorted, by_value);
            assert_true(got == sorted[(count - 1) / 2]);
        } else {
            assert_true(got == in.value || !number);
        }
    }
    assert_in_range(emptied, 100, 10000);
}

static rgp_reading step_smooth(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_smooth_config config = {c->setting[0]};
    if (reset) {
        rgp_smooth_reset(state);
        return in;
    }
    return rgp_smooth_step(&config, state, in, c->dt);
}

static void test_smooth(void **unused)
{
    (void)unused;
    /* 1 - e^(-n dt / T) of a step from 0 to 1. */
    static const sequence_case cases[] = {
        {"first reading passes", {1}, 0.1f, {5, NAN}, {5}},
        {"a step, T = 1, dt = 0.1", {1}, 0.1f, {0, 1, 1, NAN}, {0, 0.0951625820f, 0.181269247f}},
        {"dt as long as T", {1}, 1, {0, 1, 1, NAN}, {0, 0.632120559f, 0.864664717f}},
        {"dt much longer than T", {0.001f}, 1, {0, 1, NAN}, {0, 1}},
        {"dt much shorter than T", {1000}, 0.001f, {0, 1, NAN}, {0, 9.9999950e-7f}},
        {"two bad readings: the next acts for all three, the one behind it for itself",
         {1},
         0.1f,
         {0, BAD, BAD, 1, 1, NAN},
         {0, 0, 0, 0.259181779f, 0.329679954f}},
        {"dt 0 steps nothing", {1}, 0, {3, 4, NAN}, {3, 4}},
    };
    run_cases(cases, sizeof cases / sizeof *cases, step_smooth, 2e-7);
}

/* Odd steps and even ones end at the same place: the answer depends on the time alone. */
static void test_smooth_at_any_dt(void **unused)
{
    (void)unused;
    const rgp_smooth_config config = {0.3f};
    rgp_smooth_state one, many;
    rgp_smooth_reset(&one);
    rgp_smooth_reset(&many);
    rgp_smooth_step(&config, &one, rgp_good(0.0f), 1.0f);
    rgp_smooth_step(&config, &many, rgp_good(0.0f), 1.0f);
    const float whole = rgp_smooth_step(&config, &one, rgp_good(10.0f), 0.5f).value;
    const float pieces[] = {0.013f, 0.2f, 0.087f, 0.15f, 0.05f};
    float last = 0.0f;
    for (size_t i = 0; i < 5; i++) {
        last = rgp_smooth_step(&config, &many, rgp_good(10.0f), pieces[i]).value;
    }
    assert_near((double)last, (double)whole, 2e-6);
}

/* Against a low pass in double precision, over steps of any length, gaps, and a time constant that changes meanwhile.
 */
static void test_smooth_whatever_comes(void **unused)
{
    (void)unused;
    rgp_smooth_config config = {0.3f};
    rgp_smooth_state state;
    rgp_smooth_reset(&state);
    uint32_t chance = 3;
    double is = 0.0, gap = 0.0;
    for (uint32_t i = 0; i < 20000; i++) {
        chance = chance * 1664525u + 1013904223u;
        const uint32_t roll = chance >> 16;
        const float dt = roll % 5 ? 0.02f : (float)(roll % 97) * 1e-3f, in = (float)(roll % 200) - 100.0f;
        const rgp_quality quality = roll % 13 < 3 ? RGP_MISSING : RGP_GOOD;
        config.time_constant = roll % 501 == 0 ? (float)(roll % 17 + 1) * 0.05f : config.time_constant;
        const rgp_reading out = rgp_smooth_step(&config, &state, (rgp_reading){in, quality}, dt);
        if (quality != RGP_GOOD || dt == 0.0f) {
            gap += (double)dt;
        } else {
            is = i == 0 ? (double)in
                        : is - (is - (double)in) * -expm1(-((double)dt + gap) / (double)config.time_constant);
            gap = 0.0;
        }
        assert_near((double)out.value, is, 2e-4);
    }
}

static rgp_reading step_table(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    (void)state;
    const rgp_table_config config = {3, (uint32_t)c->setting[0], {{312, 0}, {1890, 6}, {3020, 12}}};
    return reset ? in : rgp_table_step(&config, in);
}

static void test_table(void **unused)
{
    (void)unused;
    static const sequence_case cases[] = {
        {"at the points", {0}, 1, {312, 1890, 3020, NAN}, {0, 6, 12}},
        {"between", {0}, 1, {1101, 2455, NAN}, {3, 9}},
        {"clamped", {0}, 1, {-5000, 0, 4095, NAN}, {0, 0, 12}},
        {"extended", {1}, 1, {-477, 3585, NAN}, {-3, 15}},
    };
    run_cases(cases, sizeof cases / sizeof *cases, step_table, 1e-6);
    rgp_table_config many = {16, 0, {{0, 0}}};
    for (uint32_t i = 0; i < 16; i++) {
        many.point[i] = (rgp_table_point){(float)(i * i), (float)(i % 3) - (float)i};
    }
    for (uint32_t extended = 0; extended < 2; extended++) {
        many.beyond = extended;
        for (double x = -30.0; x < 260.0; x += 0.25) {
            uint32_t i = 1;
            while (i < 15 && x >= (double)many.point[i].in) {
                i++;
            }
            const rgp_table_point *from = &many.point[i - 1], *to = &many.point[i];
            const double at = extended ? x : fmin(fmax(x, 0.0), 225.0);
            const double share = (at - (double)from->in) / (double)(to->in - from->in);
            assert_near((double)rgp_table_step(&many, rgp_good((float)x)).value,
                        (double)from->out + share * (double)(to->out - from->out), 1e-4);
        }
    }
    assert_int_equal(rgp_table_step(&many, (rgp_reading){7.0f, RGP_LATE}).quality, RGP_LATE);
    const rgp_table_config steep = {2, 1, {{0, 0}, {1, 3e38f}}};
    assert_int_equal(rgp_table_step(&steep, rgp_good(5.0f)).quality, RGP_OUT_OF_RANGE);
    assert_true(rgp_table_step(&steep, rgp_good(5.0f)).value == 0.0f);
}

/* Blocks without a state: one reading in, one out. Each row: setting(s), readings, results to 1 part in 1e6. */
typedef rgp_reading map_one(const float *setting, rgp_reading in);

static rgp_reading map_line(const float *s, rgp_reading in)
{
    return rgp_line_step(&(rgp_line_config){s[0], s[1], 0, 0}, in);
}

static rgp_reading map_power(const float *s, rgp_reading in)
{
    return rgp_power_step(&(rgp_power_config){s[0], s[1], s[2]}, in);
}

static rgp_reading map_divider(const float *s, rgp_reading in)
{
    return rgp_divider_step(&(rgp_divider_config){s[0], 4095, 3.3f, s[1], (uint32_t)s[2]}, in);
}

static rgp_reading map_beta(const float *s, rgp_reading in)
{
    return rgp_beta_step(&(rgp_beta_config){s[0], s[1], s[2]}, in);
}

static rgp_reading map_steinhart(const float *s, rgp_reading in)
{
    return rgp_steinhart_step(&(rgp_steinhart_config){1.125e-3f, 2.347e-4f, 8.566e-8f, s[0]}, in);
}

static rgp_reading map_echo(const float *s, rgp_reading in)
{
    return rgp_echo_step(&(rgp_echo_config){1e-6f, 100.0f, s[0], 5.0f, 400.0f}, in);
}

static rgp_reading map_wrap(const float *s, rgp_reading in)
{
    return rgp_wrap_step(&(rgp_wrap_config){s[0], s[1]}, in);
}

static rgp_reading map_deadband(const float *s, rgp_reading in)
{
    return rgp_deadband_step(&(rgp_deadband_config){s[0]}, in);
}

static rgp_reading map_clamp(const float *s, rgp_reading in)
{
    return rgp_clamp_step(&(rgp_clamp_config){s[0], s[1]}, in);
}

#define NONE (-2e9f) /* a result that has to be bad */

static void test_maps(void **unused)
{
    (void)unused;
    static const struct {
        map_one *map;
        float setting[3], in[5], out[5]; /* a row of inputs ends with NAN */
    } cases[] = {
        {map_line, {2, -3}, {0, 5, NAN}, {-3, 7}},
        {map_line, {3e38f, 0}, {1, 1e5f, NAN}, {3e38f, NONE}},
        {map_power, {10, 50e3f, -1.4f}, {50e3f, 5e3f, 2011, 0, NAN}, {10, 251.188643f, 899.044332f, NONE}},
        {map_divider, {10e3f, 3.3f, RGP_DIVIDER_FIXED_ABOVE}, {2047.5f, 1365, 4095, 0, NAN}, {10e3f, 5e3f, NONE, NONE}},
        {map_divider, {10e3f, 3.3f, RGP_DIVIDER_FIXED_BELOW}, {2047.5f, 1365, NAN}, {10e3f, 20e3f}},
        {map_divider, {1e3f, 5, RGP_DIVIDER_FIXED_ABOVE}, {4095, NAN}, {1941.17647f}},
        {map_beta, {3950, 10e3f, 25}, {10e3f, 32650, 2e3f, 0, NAN}, {25, 0.554457236f, 66.2283636f, NONE}},
        {map_steinhart, {1}, {10e3f, 2e3f, -1, NAN}, {25.0375152f, 66.2302300f, NONE}},
        {map_steinhart, {1000}, {10, NAN}, {25.0375152f}},
        {map_echo, {20}, {1000, 5000, 10000, NAN}, {17.1607311f, 85.8036557f, 171.607311f}},
        {map_echo, {20}, {0, 100, 30000, -5, NAN}, {NONE, NONE, NONE, NONE}}, /* none, too near, too far */
        {map_wrap, {360, -180}, {190, -190, 180, 720, NAN}, {-170, 170, -180, 0}},
        {map_wrap, {360, 0}, {-1, 360, 359, 3e12f, NAN}, {359, 0, 359, NONE}},
        {map_deadband, {2}, {1.5f, -2, 3, -5, NAN}, {0, 0, 1, -3}},
        {map_clamp, {-1, 2}, {-3, 0.5f, 9, NAN}, {-1, 0.5f, 2}},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        for (int k = 0; k < 5 && !isnan(cases[i].in[k]); k++) {
            const rgp_reading r = cases[i].map(cases[i].setting, rgp_good(cases[i].in[k]));
            const double wanted = (double)cases[i].out[k];
            const bool bad = cases[i].out[k] == NONE;
            if (rgp_usable(r.quality) == bad || (!bad && fabs((double)r.value - wanted) > 2e-6 * fabs(wanted) + 3e-5)) {
                fail_msg("case %zu: %g gives %.9g (%s)", i, (double)cases[i].in[k], (double)r.value,
                         rgp_quality_text(r.quality));
            }
            assert_true(rgp_finite(r.value));
            assert_int_equal(cases[i].map(cases[i].setting, (rgp_reading){cases[i].in[k], RGP_MISSING}).quality,
                             RGP_MISSING);
        }
    }
    assert_near((double)rgp_divider_best(2e3f, 50e3f), 10e3, 0.01);
    assert_near((double)rgp_divider_share(10e3f, 2e3f, 50e3f), 50.0 / 60 - 2.0 / 12, 1e-6);
}

static rgp_reading step_average(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_average_config config = {(uint32_t)c->setting[0]};
    if (reset) {
        rgp_average_reset(state);
        return in;
    }
    return rgp_average_step(&config, state, in, c->dt);
}

static rgp_reading step_slope(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_slope_config config = {c->setting[0]};
    if (reset) {
        rgp_slope_reset(state);
        return in;
    }
    return rgp_slope_step(&config, state, in, c->dt);
}

static rgp_reading step_envelope(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_envelope_config config = {c->setting[0], c->setting[1]};
    if (reset) {
        rgp_envelope_reset(state);
        return in;
    }
    return rgp_envelope_step(&config, state, in, c->dt);
}

static rgp_reading step_rms(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_rms_config config = {c->setting[0]};
    if (reset) {
        rgp_rms_reset(state);
        return in;
    }
    return rgp_rms_step(&config, state, in, c->dt);
}

/* Closed forms: each way an exponential of its own; the root of an exponential of squares. */
static void test_sizes_of_swings(void **unused)
{
    (void)unused;
    static const sequence_case envelope[] = {
        {"the first reading passes as its size", {1, 1}, 0.1f, {-5, NAN}, {5}},
        {"up by one time, down by the other", {0.1f, 1}, 0.1f, {0, -10, 0, NAN}, {0, 6.32120559f, 5.71966334f}},
        {"at once, and slowly down", {0, 1}, 0.1f, {0, 3, -4, 1, NAN}, {0, 3, 4, 3.71451225f}},
        {"bad readings: the next acts for all", {0.1f, 1}, 0.1f, {0, BAD, BAD, 10, NAN}, {0, 0, 0, 9.50212932f}},
        {"dt 0 steps nothing", {1, 1}, 0, {3, -4, NAN}, {3, 4}},
    };
    run_cases(envelope, sizeof envelope / sizeof *envelope, step_envelope, 1e-6);
    static const sequence_case rms[] = {
        {"the first reading passes as its size", {1}, 0.1f, {-5, NAN}, {5}},
        {"a step, T = 1, dt = 0.1", {1}, 0.1f, {0, 10, -10, NAN}, {0, 3.08484302f, 4.25757263f}},
        {"bad readings: the next acts for all", {1}, 0.1f, {0, BAD, BAD, 10, NAN}, {0, 0, 0, 5.09098988f}},
    };
    run_cases(rms, sizeof rms / sizeof *rms, step_rms, 1e-6);
    const rgp_rms_config config = {1.0f};
    rgp_rms_state state;
    rgp_rms_reset(&state);
    rgp_rms_step(&config, &state, rgp_good(3.0f), 0.1f);
    assert_int_equal(rgp_rms_step(&config, &state, rgp_good(1e30f), 0.1f).quality, RGP_OUT_OF_RANGE);
    assert_true(rgp_rms_step(&config, &state, rgp_good(4.0f), 0.1f).value == 4.0f); /* it begins anew */
}

/* Against the extremes of all readings kept: never less than the last `time` has, and never more than with a sixteenth
 * before; through gaps, and with steps of any length. */
static void test_moving_windows(void **unused)
{
    (void)unused;
    enum { READINGS = 20000 };
    static float kept[READINGS];
    static double at[READINGS];
    uint32_t chance = 7, n = 0;
    double now = 0.0;
    const rgp_highest_config highest = {0.5f};
    const rgp_lowest_config lowest = {0.5f};
    rgp_highest_state h;
    rgp_lowest_state l;
    rgp_highest_reset(&h);
    rgp_lowest_reset(&l);
    for (int i = 0; i < READINGS; i++) {
        chance = chance * 1664525u + 1013904223u;
        const float dt = chance >> 28 == 0 ? 0.7f : 0.001f * (float)(1u + (chance >> 8) % 40u);
        const bool bad = (chance >> 20) % 9 == 0;
        const rgp_reading in = {(float)((chance >> 4) % 1000u), bad ? RGP_MISSING : RGP_GOOD};
        const rgp_reading high = rgp_highest_step(&highest, &h, in, dt), low = rgp_lowest_step(&lowest, &l, in, dt);
        now += (double)dt;
        if (bad) {
            assert_int_equal(high.quality, RGP_MISSING);
            continue;
        }
        kept[n] = in.value;
        at[n++] = now;
        float least[2] = {in.value, in.value},
              greatest[2] = {in.value, in.value}; /* of the window, and of a longer one */
        for (uint32_t k = n; k-- > 0 && now - at[k] <= 0.5 * 17.0 / 16.0 + 1e-3;) {
            for (int wide = now - at[k] < 0.5 - 1e-3 ? 0 : 1; wide < 2; wide++) {
                least[wide] = fminf(least[wide], kept[k]);
                greatest[wide] = fmaxf(greatest[wide], kept[k]);
            }
        }
        assert_true(high.value >= greatest[0] && high.value <= greatest[1]);
        assert_true(low.value <= least[0] && low.value >= least[1]);
    }
}

/* A sine of amplitude A has A / sqrt(2), to the ripple of its own frequency; and A under an envelope that rises at
 * once.
 */
static void test_size_of_a_sine(void **unused)
{
    (void)unused;
    const rgp_rms_config rms = {2.0f};
    const rgp_envelope_config envelope = {0.0f, 10.0f};
    rgp_rms_state r;
    rgp_envelope_state e;
    rgp_rms_reset(&r);
    rgp_envelope_reset(&e);
    rgp_reading size = {0}, peak = {0};
    for (int i = 0; i < 200000; i++) {
        const float in = (float)(7.0 * sin(6.283185307179586 * 50.0 * i * 1e-3 + 0.3));
        size = rgp_rms_step(&rms, &r, rgp_good(in), 1e-3f);
        peak = rgp_envelope_step(&envelope, &e, rgp_good(in), 1e-3f);
    }
    assert_near((double)size.value, 7.0 / sqrt(2.0), 0.01);
    assert_near((double)peak.value, 7.0, 0.1);
}

static rgp_reading step_accumulate(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_accumulate_config config = {c->setting[0]};
    if (reset) {
        rgp_accumulate_reset(state);
        return in;
    }
    return rgp_accumulate_step(&config, state, in, c->dt);
}

static rgp_reading step_unwrap(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_unwrap_config config = {c->setting[0], c->setting[1], c->setting[2] > 0.0f};
    if (reset) {
        rgp_unwrap_reset(state);
        return in;
    }
    return rgp_unwrap_step(&config, state, in, c->dt);
}

static rgp_reading step_fuse(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_fuse_config config = {c->setting[0], 1};
    if (reset) {
        rgp_fuse_reset(state);
        return in;
    }
    return rgp_fuse_step(&config, state, in, rgp_good(0.0f), c->dt);
}

static void test_stages_with_memory(void **unused)
{
    (void)unused;
    static const sequence_case average[] = {
        {"before the window is full, and after", {3}, 1, {3, 6, 9, 12, 0, NAN}, {3, 4.5f, 6, 9, 7}},
        {"bad readings do not enter", {2}, 1, {4, BAD, 8, NAN}, {4, 4, 6}},
        {"bad from the beginning", {2}, 1, {BAD, 8, NAN}, {777, 8}},
    };
    run_cases(average, 3, step_average, 1e-6);
    static const sequence_case slope[] = {
        {"a ramp of 2 a second, T = 0.5",
         {0.5f},
         0.1f,
         {0, 0.2f, 0.4f, 0.6f, 0.8f, 1, NAN},
         {0, 0.362538494f, 0.659359908f, 0.902376728f, 1.10134207f, 1.26424112f}} /* 2 (1 - e^(-t/T)) */,
        {"a bad reading: the last slope", {0.5f}, 0.1f, {0, 0.2f, BAD, NAN}, {0, 0.362538494f, 0.362538494f}},
    };
    run_cases(slope, 2, step_slope, 1e-6);
    static const sequence_case unwrap[] = {
        {"over the seam and back", {360}, 1, {350, 5, 20, 355, 340, NAN}, {350, 365, 380, 355, 340}},
        {"twice round", {360}, 1, {0, 170, 340, 150, 320, 130, NAN}, {0, 170, 340, 510, 680, 850}},
        {"a gap: half a turn decides", {360}, 1, {350, BAD, 10, NAN}, {350, 350, 370}},
    };
    run_cases(unwrap, 3, step_unwrap, 1e-4);
    static const sequence_case fuse[] = {
        {"rate 10 against a tilt of 0, T = 1",
         {1},
         0.1f,
         {10, 10, 10, 10, 10, NAN},
         {0, 0.904837418f, 1.72356817f, 2.46438639f, 3.13470644f}},
    };
    run_cases(fuse, 1, step_fuse, 1e-6);
    static const sequence_case sum[] = {
        {"trapezoids", {1}, 0.5f, {0, 2, 2, 4, NAN}, {0, 0.5f, 1.5f, 3}},
    };
    run_cases(sum, 1, step_accumulate, 1e-6);
    rgp_accumulate_state lost;
    rgp_accumulate_reset(&lost);
    rgp_accumulate_step(&(rgp_accumulate_config){1}, &lost, rgp_good(1), 1);
    rgp_accumulate_step(&(rgp_accumulate_config){1}, &lost, (rgp_reading){1, RGP_LATE}, 1);
    assert_int_equal(rgp_accumulate_step(&(rgp_accumulate_config){1}, &lost, rgp_good(1), 1).quality, RGP_LATE);
    rgp_accumulate_reset(&lost);
    assert_int_equal(rgp_accumulate_step(&(rgp_accumulate_config){1}, &lost, rgp_good(1), 1).quality, RGP_GOOD);
}

static void test_hold(void **unused)
{
    (void)unused;
    const rgp_hold_config config = {0.25f};
    rgp_hold_state state;
    rgp_hold_reset(&state);
    assert_int_equal(rgp_hold_step(&config, &state, (rgp_reading){9, RGP_MISSING}, 0.1f).quality, RGP_MISSING);
    rgp_hold_step(&config, &state, rgp_good(5), 0.1f);
    static const rgp_quality wanted[] = {RGP_HELD, RGP_HELD, RGP_LATE, RGP_LATE};
    for (int i = 0; i < 4; i++) {
        const rgp_reading r = rgp_hold_step(&config, &state, (rgp_reading){9, RGP_LATE}, 0.1f);
        assert_int_equal(r.quality, wanted[i]);
        assert_true(r.quality != RGP_HELD || r.value == 5.0f);
    }
    assert_int_equal(rgp_hold_step(&config, &state, rgp_good(6), 0.1f).quality, RGP_GOOD);
}

/* Zeroing: when it has learned, what, and that it insists on rest. `moves`: until when the input ramps. */
static void test_zero(void **unused)
{
    (void)unused;
    static const struct {
        float warmup, moves;
        uint32_t tries, phase, learned_at; /* step */
    } cases[] = {
        {0, 0, 3, RGP_ZERO_LEARNED, 10},
        {1, 0, 3, RGP_ZERO_LEARNED, 20},
        {0, 1.5f, 5, RGP_ZERO_LEARNED, 30},
        {0, 99, 3, RGP_ZERO_GAVE_UP, 30},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        const rgp_zero_config config = {1, 0.5f, 0.2f, cases[i].warmup, cases[i].tries};
        rgp_zero_state state;
        uint32_t at = 0;
        rgp_zero_reset(&state);
        for (uint32_t k = 1; k <= 50; k++) {
            const float t = (float)k * 0.1f;
            const float in = 7.0f + (k % 2 ? 0.1f : -0.1f) + (t < cases[i].moves ? 5.0f * t : 0.0f);
            const rgp_reading r = rgp_zero_step(&config, &state, rgp_good(in), 0.1f);
            const bool done = state.phase == RGP_ZERO_LEARNED || state.phase == RGP_ZERO_GAVE_UP;
            at = done && at == 0 ? k : at;
            assert_int_equal(r.quality, state.phase == RGP_ZERO_LEARNED ? RGP_GOOD : RGP_LEARNING);
        }
        assert_int_equal(state.phase, cases[i].phase);
        assert_in_range(at, cases[i].learned_at - 1, cases[i].learned_at + 1);
        if (state.phase == RGP_ZERO_LEARNED) {
            assert_near((double)state.offset, 7.0, 0.03);
            assert_near((double)state.noise, 0.1054, 0.005);
        } else {
            assert_true(state.moved > 2.0f); /* how far it moved in the last window */
        }
    }
}

static void test_span(void **unused)
{
    (void)unused;
    const rgp_span_config config = {1, 10, 0}, falling = {1, 10, 1};
    rgp_span_state state, other;
    rgp_span_reset(&state);
    rgp_span_reset(&other);
    for (int k = 0; k < 15; k++) {
        float in = k < 6 ? 100.0f : 300.0f;
        in = k == 3 ? 5000.0f : in; /* one reading that is far off */
        const rgp_reading r = rgp_span_step(&config, &state, rgp_good(in), 0.1f);
        rgp_span_step(&falling, &other, rgp_good(in), 0.1f);
        assert_int_equal(r.quality, k < 10 ? RGP_LEARNING : RGP_GOOD);
    }
    assert_near((double)rgp_span_step(&config, &state, rgp_good(150), 0.1f).value, 25.0, 1e-4);
    assert_near((double)rgp_span_step(&falling, &other, rgp_good(150), 0.1f).value, 75.0, 1e-4);
    assert_near((double)rgp_span_step(&config, &state, rgp_good(900), 0.1f).value, 100.0, 1e-4);

    const rgp_learning news = rgp_span_news(&state);
    assert_true(news.what == RGP_LEARNING_DONE && news.value == 200.0f);
    assert_int_equal(rgp_span_news(&state).what, RGP_LEARNING_ON); /* told once */
    rgp_retained kept;
    assert_true(rgp_span_retain(&state, &kept) && rgp_span_restore(&other, &kept));
    for (float in = 90; in < 310; in += 0.7f) {
        assert_true(rgp_span_step(&config, &state, rgp_good(in), 0.1f).value ==
                    rgp_span_step(&config, &other, rgp_good(in), 0.1f).value);
    }
    assert_false(rgp_span_restore(&other, &(rgp_retained){.a = 5, .b = 5}));
    assert_false(rgp_span_restore(&other, &(rgp_retained){.a = (float)NAN, .b = 5}));
    rgp_span_reset(&state);
    assert_false(rgp_span_retain(&state, &kept));
    for (int k = 0; k < 40; k++) { /* nothing moved: it does not pretend to have learned */
        assert_int_equal(rgp_span_step(&config, &state, rgp_good(100), 0.1f).quality, RGP_LEARNING);
    }
    assert_int_equal(rgp_span_news(&state).what, RGP_LEARNING_ANEW);
}

static void test_motion(void **unused)
{
    (void)unused;
    static const struct {
        float x, y, z, roll, pitch;
    } cases[] = {
        {0, 0, 1, 0, 0},
        {0, 1, 0, 90, 0},
        {0, 0, -1, 180, 0},
        {0, -1, -1, -135, 0},
        {-1, 0, 0, 0, 90},
        {1, 0, 1, 0, -45},
        {0, 0.5f, 0.866025404f, 30, 0},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        const rgp_reading x = rgp_good(cases[i].x), y = rgp_good(cases[i].y), z = rgp_good(cases[i].z);
        if (cases[i].x > -1.0f || cases[i].z != 0.0f) {
            assert_near((double)rgp_tilt_step(&(rgp_tilt_config){RGP_TILT_ROLL}, x, y, z).value, (double)cases[i].roll,
                        4e-5);
        }
        assert_near((double)rgp_tilt_step(&(rgp_tilt_config){RGP_TILT_PITCH}, x, y, z).value, (double)cases[i].pitch,
                    4e-5);
    }
    const rgp_reading none = rgp_good(0);
    assert_int_equal(rgp_tilt_step(&(rgp_tilt_config){RGP_TILT_ROLL}, none, none, none).quality, RGP_OUT_OF_RANGE);
    const rgp_axes_config mounted = {{2, -1, 3}};
    float device[3], g;
    assert_int_equal(rgp_axes_check(&mounted), RGP_OK);
    rgp_axes_step(&mounted, (float[]){1, 2, 3}, device);
    assert_true(device[0] == 2.0f && device[1] == -1.0f && device[2] == 3.0f);
    assert_int_equal(rgp_axes_check(&(rgp_axes_config){{2, 1, 3}}), RGP_E_CONFIG); /* a mirror image */
    assert_int_equal(rgp_axes_check(&(rgp_axes_config){{1, 1, 3}}), RGP_E_CONFIG);
    assert_int_equal(rgp_axes_check(&(rgp_axes_config){{-1, 2, -3}}), RGP_OK);
    assert_int_equal(rgp_mounting_up((float[]){0.1f, -0.05f, -0.98f}, &g), -3);
    assert_int_equal(rgp_mounting_up((float[]){0.7f, 0, 0.7f}, &g), 0);
    assert_near((double)g, 0.98995, 1e-4);
}

/* The checks of a reading: the quality of each of a row of samples 10 ms apart. */
static void test_vet(void **unused)
{
    (void)unused;
    enum {
        G = RGP_GOOD,
        R = RGP_OUT_OF_RANGE,
        P = RGP_PINNED,
        J = RGP_JUMP,
        S = RGP_STUCK,
        L = RGP_LATE,
        M = RGP_MISSING,
        END = 99
    };
    static const struct {
        rgp_supervision_config config;
        int32_t raw[7]; /* -1: missing; -2: the one before once more, not taken anew */
        int wanted[8];
    } cases[] = {
        {{0, 100, 0, 0, 0, 0}, {0, 100, 101, -9, -1, 50}, {G, G, R, R, M, G, END}},
        {{0, 100, 1, 0, 0, 0}, {1, 0, 100, 99}, {G, P, P, G, END}},
        {{0, 100, 0, 0, 0.025f, 0}, {5, 5, 5, 5, 6}, {G, G, G, S, G, END}},
        {{0, 100, 0, 0, 0, 1000}, {50, 59, 80, 79, 79, 80}, {G, G, J, G, G, G, END}},
        {{0, 100, 0, 0, 0, 1000}, {50, 80, -2, -2, -2, -2, 80}, {G, J, J, J, J, J, G, END}},
        {{0, 100, 0, 15000, 0, 0}, {5, -2, -2, 6}, {G, G, L, G, END}},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_supervision_state state;
        rgp_supervision_reset(&state);
        for (uint32_t k = 0; cases[i].wanted[k] != END; k++) {
            if (cases[i].raw[k] != -2) {
                const bool missing = cases[i].raw[k] == -1;
                state.fresh = 1;
                state.sample = (rgp_sample){
                    .time_us = k * 10000u, .raw = cases[i].raw[k], .quality = missing ? RGP_MISSING : RGP_GOOD};
            }
            const rgp_quality got = rgp_supervision_step(&cases[i].config, &state, k * 10000u, 0.01f);
            if (got != cases[i].wanted[k]) {
                fail_msg("case %zu, reading %u is %s", i, k, rgp_quality_text(got));
            }
        }
    }
}

/* After a gap in which it may have turned on unseen an unwrapped angle is not known: bad until it is learned again, or
 * held where that is asked for. How long that takes is what the sensor can do, else four readings. */
static void test_unwrap_over_gaps(void **unused)
{
    (void)unused;
    static const struct {
        rgp_unwrap_config config;
        uint32_t bad; /* readings of 0.1 s */
        rgp_quality quality;
    } cases[] = {
        {{360, 0, 0}, 3, RGP_GOOD},    {{360, 0, 0}, 4, RGP_LATE},    {{360, 0, 1}, 4, RGP_HELD},
        {{360, 100, 0}, 16, RGP_GOOD}, {{360, 100, 0}, 17, RGP_LATE}, {{360, 100, 1}, 40, RGP_HELD},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_unwrap_state state;
        rgp_unwrap_reset(&state);
        rgp_unwrap_step(&cases[i].config, &state, rgp_good(350), 0.1f);
        for (uint32_t k = 0; k < cases[i].bad; k++) {
            assert_int_equal(rgp_unwrap_step(&cases[i].config, &state, (rgp_reading){0, RGP_LATE}, 0.1f).quality,
                             RGP_LATE);
        }
        for (int k = 0; k < 3; k++) {
            const rgp_reading got = rgp_unwrap_step(&cases[i].config, &state, rgp_good(10), 0.1f);
            assert_int_equal(got.quality, cases[i].quality);
            assert_near((double)got.value, 370, 0);
        }
        rgp_unwrap_reset(&state);
        assert_int_equal(rgp_unwrap_step(&cases[i].config, &state, rgp_good(10), 0.1f).quality, RGP_GOOD);
    }
}

/* A line that is known from 10 to 60: farther beyond than 1, which is 2 % of the way, it is out of range, with its
 * value; a worse quality stays. */
static void test_beyond_a_line(void **unused)
{
    (void)unused;
    static const struct {
        float in, out;
        rgp_quality quality;
    } cases[] = {{5, 10, RGP_GOOD},          {4.51f, 9.02f, RGP_GOOD},           {4.49f, 8.98f, RGP_OUT_OF_RANGE},
                 {30.49f, 60.98f, RGP_GOOD}, {30.51f, 61.02f, RGP_OUT_OF_RANGE}, {-1e30f, -2e30f, RGP_OUT_OF_RANGE}};
    const rgp_line_config line = {2, 0, 10, 60};
    assert_int_equal(rgp_line_check(&line), RGP_OK);
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        const rgp_reading got = rgp_line_step(&line, rgp_good(cases[i].in));
        assert_near(got.value, cases[i].out, 1e-6 * fabs((double)cases[i].out));
        assert_int_equal(got.quality, cases[i].quality);
    }
    assert_int_equal(rgp_line_step(&line, (rgp_reading){500, RGP_LATE}).quality, RGP_LATE);
    assert_int_equal(rgp_line_step(&line, (rgp_reading){500, RGP_HELD}).quality, RGP_OUT_OF_RANGE);
}

/* A strict table refuses what is farther beyond its points than 2 % of their span, an extended one meets its last point
 * exactly and goes on. */
static void test_beyond_a_table(void **unused)
{
    (void)unused;
    const rgp_table_config strict = {3, RGP_TABLE_STRICT, {{100, 1}, {150, 7}, {200, 20}}};
    static const struct {
        float in, out;
        rgp_quality quality;
    } cases[] = {{98, 1, RGP_GOOD},   {97.9f, 1, RGP_OUT_OF_RANGE},   {100, 1, RGP_GOOD},
                 {202, 20, RGP_GOOD}, {202.1f, 20, RGP_OUT_OF_RANGE}, {125, 4, RGP_GOOD}};
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        const rgp_reading got = rgp_table_step(&strict, rgp_good(cases[i].in));
        assert_near((double)got.value, (double)cases[i].out, 1e-6);
        assert_int_equal(got.quality, cases[i].quality);
    }
    assert_int_equal(rgp_table_step(&strict, (rgp_reading){500, RGP_LATE}).quality, RGP_LATE);
    const rgp_table_config extended = {3, RGP_TABLE_EXTENDED, {{0.1f, 0.3f}, {0.7f, 1.9f}, {1.3f, 2.7f}}};
    assert_true(rgp_table_step(&extended, rgp_good(1.3f)).value == 2.7f);
    assert_near((double)rgp_table_step(&extended, rgp_good(2.5f)).value, 2.7 + 1.2 * 0.8 / 0.6, 1e-6);
    assert_near((double)rgp_table_step(&extended, rgp_good(-0.5f)).value, 0.3 - 0.6 * 1.6 / 0.6, 1e-6);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_despike),
        cmocka_unit_test(test_despike_against_sorting),
        cmocka_unit_test(test_despike_among_bad_readings),
        cmocka_unit_test(test_despike_of_zeros),
        cmocka_unit_test(test_sizes_of_swings),
        cmocka_unit_test(test_size_of_a_sine),
        cmocka_unit_test(test_moving_windows),
        cmocka_unit_test(test_smooth),
        cmocka_unit_test(test_smooth_at_any_dt),
        cmocka_unit_test(test_smooth_whatever_comes),
        cmocka_unit_test(test_table),
        cmocka_unit_test(test_maps),
        cmocka_unit_test(test_stages_with_memory),
        cmocka_unit_test(test_hold),
        cmocka_unit_test(test_zero),
        cmocka_unit_test(test_span),
        cmocka_unit_test(test_motion),
        cmocka_unit_test(test_vet),
        cmocka_unit_test(test_unwrap_over_gaps),
        cmocka_unit_test(test_beyond_a_line),
        cmocka_unit_test(test_beyond_a_table),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
