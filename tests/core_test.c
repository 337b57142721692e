/* Each block against closed-form answers: one table of cases a family. */
#include "support.h"

#include "rigpulse/condition.h"
#include "rigpulse/detect.h"
#include "rigpulse/numeric.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

#define BAD (-1e9f) /* in a row of inputs: a missing reading */
#define ROW 16

/* A row of inputs and what has to come out; NAN ends it. Bad readings show the held number. */
typedef struct sequence_case {
    const char *what;
    float setting[4];
    float dt;
    float in[ROW], out[ROW];
} sequence_case;

typedef rp_reading step_one(const sequence_case *c, void *state, rp_reading in, bool reset);

static void run_cases(const sequence_case *cases, size_t count, step_one *step, double tolerance)
{
    for (size_t i = 0; i < count; i++) {
        const sequence_case *c = &cases[i];
        union {
            double align;
            unsigned char bytes[512];
        } state;
        memset(&state, 0xA5, sizeof state);
        step(c, &state, rp_good(0.0f), true);
        for (int k = 0; k < ROW && !isnan(c->in[k]); k++) {
            const bool bad = c->in[k] == BAD;
            const rp_reading r = step(c, &state, (rp_reading){bad ? 777.0f : c->in[k], bad ? RP_LATE : RP_GOOD}, false);
            if (!(fabs((double)r.value - (double)c->out[k]) <= tolerance) || r.quality != (bad ? RP_LATE : RP_GOOD)) {
                fail_msg("%s: step %d gives %.9g, not %.9g (%s)", c->what, k, (double)r.value, (double)c->out[k],
                         rp_quality_text(r.quality));
            }
        }
    }
}

static rp_reading step_despike(const sequence_case *c, void *state, rp_reading in, bool reset)
{
    const rp_despike_config config = {(uint32_t)c->setting[0]};
    if (reset) {
        rp_despike_reset(state);
        return in;
    }
    return rp_despike_step(&config, state, in, c->dt);
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
    for (uint32_t window = 3; window <= RP_DESPIKE_WINDOW_MAX; window += 2) {
        const rp_despike_config config = {window};
        rp_despike_state state;
        float all[200];
        rp_despike_reset(&state);
        for (uint32_t i = 0; i < 200; i++) {
            chance = chance * 1664525u + 1013904223u;
            all[i] = (float)(chance >> 27);
            const float got = rp_despike_step(&config, &state, rp_good(all[i]), 0.01f).value;
            const uint32_t n = i + 1 < window ? i + 1 : window;
            float sorted[RP_DESPIKE_WINDOW_MAX];
            memcpy(sorted, all + i + 1 - n, n * sizeof *sorted);
            qsort(sorted, n, sizeof *sorted, by_value);
            assert_true(got == sorted[(n - 1) / 2]);
        }
    }
}

static rp_reading step_smooth(const sequence_case *c, void *state, rp_reading in, bool reset)
{
    const rp_smooth_config config = {c->setting[0]};
    if (reset) {
        rp_smooth_reset(state);
        return in;
    }
    return rp_smooth_step(&config, state, in, c->dt);
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
        {"two bad readings: the next acts for all three", {1}, 0.1f, {0, BAD, BAD, 1, NAN}, {0, 0, 0, 0.259181779f}},
        {"dt 0 steps nothing", {1}, 0, {3, 4, NAN}, {3, 4}},
    };
    run_cases(cases, sizeof cases / sizeof *cases, step_smooth, 2e-7);
}

/* Odd steps and even ones end at the same place: the answer depends on the time alone. */
static void test_smooth_at_any_dt(void **unused)
{
    (void)unused;
    const rp_smooth_config config = {0.3f};
    rp_smooth_state one, many;
    rp_smooth_reset(&one);
    rp_smooth_reset(&many);
    rp_smooth_step(&config, &one, rp_good(0.0f), 1.0f);
    rp_smooth_step(&config, &many, rp_good(0.0f), 1.0f);
    const float whole = rp_smooth_step(&config, &one, rp_good(10.0f), 0.5f).value;
    const float pieces[] = {0.013f, 0.2f, 0.087f, 0.15f, 0.05f};
    float last = 0.0f;
    for (size_t i = 0; i < 5; i++) {
        last = rp_smooth_step(&config, &many, rp_good(10.0f), pieces[i]).value;
    }
    assert_near((double)last, (double)whole, 2e-6);
}

static rp_reading step_table(const sequence_case *c, void *state, rp_reading in, bool reset)
{
    (void)state;
    const rp_table_config config = {3, (uint32_t)c->setting[0], {{312, 0}, {1890, 6}, {3020, 12}}};
    return reset ? in : rp_table_step(&config, in);
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
    const rp_table_config steep = {2, 1, {{0, 0}, {1, 3e38f}}};
    assert_int_equal(rp_table_step(&steep, rp_good(5.0f)).quality, RP_OUT_OF_RANGE);
    assert_true(rp_table_step(&steep, rp_good(5.0f)).value == 0.0f);
}

static rp_reading step_compare(const sequence_case *c, void *state, rp_reading in, bool reset)
{
    const rp_compare_config config = {c->setting[0], c->setting[1], (uint32_t)c->setting[2]};
    if (reset) {
        rp_compare_reset(state);
        return in;
    }
    return rp_compare_step(&config, state, in, c->dt);
}

static void test_compare(void **unused)
{
    (void)unused;
    static const sequence_case cases[] = {
        {"below 3, margin 0.5", {3, 0.5f, 0}, 1, {4, 3, 2.99f, 3.4f, 3.5f, 3.2f, NAN}, {0, 0, 1, 1, 0, 0}},
        {"above 9, margin 0.5", {9, 0.5f, 1}, 1, {9, 9.1f, 8.6f, 8.5f, 8.9f, NAN}, {0, 1, 1, 0, 0}},
        {"no margin", {1, 0, 1}, 1, {1, 2, 1, 2, NAN}, {0, 1, 0, 1}},
        {"the first is judged by the limit alone", {3, 0.5f, 0}, 1, {3.2f, NAN}, {0}},
        {"bad: the last answer stands", {3, 0.5f, 0}, 1, {1, BAD, 9, BAD, NAN}, {1, 1, 0, 0}},
    };
    run_cases(cases, sizeof cases / sizeof *cases, step_compare, 0.0);
}

static rp_reading step_bands(const sequence_case *c, void *state, rp_reading in, bool reset)
{
    /* low below 3, mid, high above 9 */
    const rp_bands_config config = {2, 2, c->setting[0], {3, 9}};
    if (reset) {
        rp_bands_reset(state);
        return in;
    }
    return rp_bands_step(&config, state, in, c->dt);
}

static void test_bands(void **unused)
{
    (void)unused;
    static const sequence_case cases[] = {
        {"up and down", {0.5f}, 1, {1, 3.4f, 3.5f, 9, 9.1f, 8.6f, 8.5f, 3, 2.9f, NAN}, {0, 0, 1, 1, 2, 2, 1, 1, 0}},
        {"over two borders at once", {0.5f}, 1, {1, 20, 1, NAN}, {0, 2, 0}},
        {"the first is judged by the borders alone", {0.5f}, 1, {3.1f, NAN}, {1}},
        {"bad: the last band stands", {0.5f}, 1, {10, BAD, 5, NAN}, {2, 2, 1}},
    };
    run_cases(cases, sizeof cases / sizeof *cases, step_bands, 0.0);
}

static rp_reading step_edge(const sequence_case *c, void *state, rp_reading in, bool reset)
{
    const rp_edge_config config = {(uint32_t)c->setting[0]};
    if (reset) {
        rp_edge_reset(state);
        return in;
    }
    return rp_edge_step(&config, state, in, c->dt);
}

static void test_edge(void **unused)
{
    (void)unused;
    static const sequence_case cases[] = {
        {"rise", {1}, 1, {0, 1, 1, 0, 1, NAN}, {0, 1, 0, 0, 1}},
        {"fall", {2}, 1, {1, 0, 0, 1, 0, NAN}, {0, 1, 0, 0, 1}},
        {"either", {3}, 1, {0, 1, 0, NAN}, {0, 1, 1}},
        {"the first sets the state", {1}, 1, {1, 1, NAN}, {0, 0}},
        {"a change during a gap is told once, after it", {1}, 1, {0, BAD, BAD, 1, 1, NAN}, {0, 0, 0, 1, 0}},
    };
    run_cases(cases, sizeof cases / sizeof *cases, step_edge, 0.0);
}

/* Settings that have to be refused, and their nearest sound neighbours. */
static void test_checks(void **unused)
{
    (void)unused;
    for (uint32_t n = 0; n < 40; n++) {
        const bool sound = n >= 3 && n <= 31 && n % 2 == 1;
        assert_int_equal(rp_despike_check(&(rp_despike_config){n}), sound ? RP_OK : RP_E_CONFIG);
    }
    const float bad_times[] = {0.0f, -1.0f, NAN, INFINITY, 2e6f};
    for (size_t i = 0; i < 5; i++) {
        assert_int_equal(rp_smooth_check(&(rp_smooth_config){bad_times[i]}), RP_E_CONFIG);
    }
    assert_int_equal(rp_smooth_check(&(rp_smooth_config){0.2f}), RP_OK);
    assert_int_equal(rp_table_check(&(rp_table_config){2, 0, {{1, 0}, {2, 5}}}), RP_OK);
    assert_int_equal(rp_table_check(&(rp_table_config){2, 0, {{2, 0}, {2, 5}}}), RP_E_CONFIG);
    assert_int_equal(rp_table_check(&(rp_table_config){1, 0, {{2, 0}}}), RP_E_CONFIG);
    assert_int_equal(rp_table_check(&(rp_table_config){17, 0, {{2, 0}}}), RP_E_CONFIG);
    assert_int_equal(rp_table_check(&(rp_table_config){2, 0, {{1, 0}, {2, NAN}}}), RP_E_CONFIG);
    assert_int_equal(rp_table_check(&(rp_table_config){2, 0, {{0, -3e38f}, {1, 3e38f}}}), RP_E_CONFIG);
    assert_int_equal(rp_compare_check(&(rp_compare_config){1, -0.1f, 0}), RP_E_CONFIG);
    assert_int_equal(rp_compare_check(&(rp_compare_config){1, 0, 2}), RP_E_CONFIG);
    assert_int_equal(rp_edge_check(&(rp_edge_config){0}), RP_E_CONFIG);
    assert_int_equal(rp_line_check(&(rp_line_config){0, 1}), RP_E_CONFIG);
    /* low below 3 | high above 9: the margins reach to 3 + m and 9 - m and may meet, not cross */
    assert_int_equal(rp_bands_check(&(rp_bands_config){2, 2, 3, {3, 9}}), RP_OK);
    assert_int_equal(rp_bands_check(&(rp_bands_config){2, 2, 3.1f, {3, 9}}), RP_E_CONFIG);
    assert_int_equal(rp_bands_check(&(rp_bands_config){2, 0, 0, {9, 3}}), RP_E_CONFIG);
}

/* The stated errors of the core's own functions, against the C library's in double. */
static void test_numeric(void **unused)
{
    (void)unused;
    double worst_exp = 0.0, worst_decay = 0.0;
    for (double x = -80.0; x <= 80.0; x += 0.00317) {
        const double wanted = exp((double)(float)x);
        worst_exp = fmax(worst_exp, fabs((double)rp_exp((float)x) / wanted - 1.0));
    }
    for (double x = 1e-9; x < 50.0; x *= 1.00021) {
        const double wanted = -expm1(-(double)(float)x);
        worst_decay = fmax(worst_decay, fabs((double)rp_decay((float)x) / wanted - 1.0));
    }
    assert_near(worst_exp, 0.0, 1.2e-7);
    assert_near(worst_decay, 0.0, 2.4e-7);
    assert_true(rp_exp(NAN) > 0.0f && rp_finite(rp_exp(INFINITY)) && rp_decay(-1.0f) == 0.0f);
}

static void test_pulse(void **unused)
{
    (void)unused;
    rp_pulse_state p;
    rp_pulse_reset(&p);
    assert_int_equal(rp_pulse_at(&p, 0), RP_PULSE_READY);
    rp_pulse_fire(&p, 100, 20, 30);
    assert_int_equal(rp_pulse_at(&p, 119), RP_PULSE_ACTING);
    assert_int_equal(rp_pulse_at(&p, 120), RP_PULSE_HOLDOFF);
    assert_int_equal(rp_pulse_at(&p, 149), RP_PULSE_HOLDOFF);
    assert_int_equal(rp_pulse_at(&p, 150), RP_PULSE_READY);
    rp_pulse_fire(&p, UINT64_MAX - 5, 10, 10);
    assert_int_equal(rp_pulse_at(&p, UINT64_MAX - 1), RP_PULSE_ACTING);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_despike), cmocka_unit_test(test_despike_against_sorting),
        cmocka_unit_test(test_smooth),  cmocka_unit_test(test_smooth_at_any_dt),
        cmocka_unit_test(test_table),   cmocka_unit_test(test_compare),
        cmocka_unit_test(test_bands),   cmocka_unit_test(test_edge),
        cmocka_unit_test(test_checks),  cmocka_unit_test(test_numeric),
        cmocka_unit_test(test_pulse),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
