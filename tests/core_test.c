/* The core's own mathematics against references, the settings that blocks refuse, and the pulse of timed actions. */
#include "support.h"

#include "image/ops.h"
#include "rigpulse/condition.h"
#include "rigpulse/detect.h"
#include "rigpulse/numeric.h"
#include "rigpulse/regulate.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

/* Settings that have to be refused, and their nearest sound neighbours. */
static void test_checks(void **unused)
{
    (void)unused;
    for (uint32_t n = 0; n < 40; n++) {
        const bool sound = n >= 3 && n <= 31 && n % 2 == 1;
        assert_int_equal(rgp_despike_check(&(rgp_despike_config){n}), sound ? RGP_OK : RGP_E_CONFIG);
    }
    const float bad_times[] = {0.0f, -1.0f, NAN, INFINITY, 2e6f};
    for (size_t i = 0; i < 5; i++) {
        assert_int_equal(rgp_smooth_check(&(rgp_smooth_config){bad_times[i]}), RGP_E_CONFIG);
    }
    assert_int_equal(rgp_smooth_check(&(rgp_smooth_config){0.2f}), RGP_OK);
    assert_int_equal(rgp_table_check(&(rgp_table_config){2, 0, {{1, 0}, {2, 5}}}), RGP_OK);
    assert_int_equal(rgp_table_check(&(rgp_table_config){2, 0, {{2, 0}, {2, 5}}}), RGP_E_CONFIG);
    assert_int_equal(rgp_table_check(&(rgp_table_config){1, 0, {{2, 0}}}), RGP_E_CONFIG);
    assert_int_equal(rgp_table_check(&(rgp_table_config){17, 0, {{2, 0}}}), RGP_E_CONFIG);
    assert_int_equal(rgp_table_check(&(rgp_table_config){2, 0, {{1, 0}, {2, NAN}}}), RGP_E_CONFIG);
    assert_int_equal(rgp_table_check(&(rgp_table_config){2, 0, {{0, -3e38f}, {1, 3e38f}}}), RGP_E_CONFIG);
    assert_int_equal(rgp_compare_check(&(rgp_compare_config){1, -0.1f, 0}), RGP_E_CONFIG);
    assert_int_equal(rgp_compare_check(&(rgp_compare_config){1, 0, 2}), RGP_E_CONFIG);
    assert_int_equal(rgp_edge_check(&(rgp_edge_config){0}), RGP_E_CONFIG);
    assert_int_equal(rgp_line_check(&(rgp_line_config){0, 1, 0, 0}), RGP_E_CONFIG);
    assert_int_equal(rgp_line_check(&(rgp_line_config){2, 1, 3, -3}), RGP_E_CONFIG);
    assert_int_equal(rgp_line_check(&(rgp_line_config){2, 1, -3e38f, 3e38f}), RGP_E_CONFIG);
    /* low below 3 | high above 9: the margins reach to 3 + m and 9 - m and may meet, not cross */
    assert_int_equal(rgp_bands_check(&(rgp_bands_config){2, 2, 3, {3, 9}}), RGP_OK);
    assert_int_equal(rgp_bands_check(&(rgp_bands_config){2, 2, 3.1f, {3, 9}}), RGP_E_CONFIG);
    assert_int_equal(rgp_bands_check(&(rgp_bands_config){2, 0, 0, {9, 3}}), RGP_E_CONFIG);
}

/* The stated errors of the core's own functions, against the C library's in double. */
static void test_numeric(void **unused)
{
    (void)unused;
    double worst_exp = 0.0, worst_decay = 0.0;
    for (double x = -80.0; x <= 80.0; x += 0.00317) {
        const double wanted = exp((double)(float)x);
        worst_exp = fmax(worst_exp, fabs((double)rgp_exp((float)x) / wanted - 1.0));
    }
    for (double x = 1e-9; x < 50.0; x *= 1.00021) {
        const double wanted = -expm1(-(double)(float)x);
        worst_decay = fmax(worst_decay, fabs((double)rgp_decay((float)x) / wanted - 1.0));
    }
    double worst_log = 0.0, worst_angle = 0.0;
    for (double x = 1e-30; x < 1e30; x *= 1.0037) {
        const double wanted = log((double)(float)x);
        worst_log = fmax(worst_log, fabs((double)rgp_log((float)x) - wanted) / fmax(1.0, fabs(wanted) * 0.75));
    }
    for (double a = -179.9; a < 180.0; a += 0.0137) {
        const float y = (float)sin(a * 3.14159265358979 / 180.0), x = (float)cos(a * 3.14159265358979 / 180.0);
        const double wanted = atan2((double)y, (double)x) * 180.0 / 3.14159265358979;
        worst_angle = fmax(worst_angle, fabs((double)rgp_atan2_degrees(y, x) - wanted));
    }
    assert_near(worst_log, 0.0, 2e-7);
    assert_near(worst_angle, 0.0, 3e-5);
    assert_near(worst_exp, 0.0, 1.2e-7);
    assert_near(worst_decay, 0.0, 2.4e-7);
    assert_true(rgp_exp(NAN) > 0.0f && rgp_finite(rgp_exp(INFINITY)) && rgp_decay(-1.0f) == 0.0f);
}

static void test_pulse(void **unused)
{
    (void)unused;
    rgp_pulse_state p;
    rgp_pulse_reset(&p);
    assert_int_equal(rgp_pulse_at(&p, 0), RGP_PULSE_READY);
    rgp_pulse_fire(&p, 100, 20, 30);
    assert_int_equal(rgp_pulse_at(&p, 119), RGP_PULSE_ACTING);
    assert_int_equal(rgp_pulse_at(&p, 120), RGP_PULSE_HOLDOFF);
    assert_int_equal(rgp_pulse_at(&p, 149), RGP_PULSE_HOLDOFF);
    assert_int_equal(rgp_pulse_at(&p, 150), RGP_PULSE_READY);
    rgp_pulse_fire(&p, UINT64_MAX - 5, 10, 10);
    assert_int_equal(rgp_pulse_at(&p, UINT64_MAX - 1), RGP_PULSE_ACTING);
}

/* ---- whole numbers beyond what a float holds ---------------------------------------------------------- */

__extension__ typedef __int128 wide_int;

/* A float as a multiple of 2^-80. */
static wide_int scaled(float x)
{
    int exponent;
    const float part = frexpf(x, &exponent);
    const wide_int mantissa = (wide_int)ldexpf(part, 24);
    return exponent + 56 >= 0 ? mantissa * ((wide_int)1 << (exponent + 56))
                              : mantissa / ((wide_int)1 << -(exponent + 56));
}

static wide_int distance(wide_int a, wide_int b)
{
    return a > b ? a - b : b - a;
}

/* Of all floats none is nearer to the exact sum; whatever cancels. */
static void test_nearest_sum(void **unused)
{
    (void)unused;
    uint64_t chance = 5;
    uint32_t cancelled = 0;
    for (uint32_t n = 0; n < 200000; n++) {
        float by[2];
        int64_t times[2];
        for (int i = 0; i < 2; i++) {
            chance = chance * 6364136223846793005u + 1442695040888963407u;
            by[i] = ldexpf((float)(1u << 23 | (uint32_t)(chance >> 40)), -29 + (int)(chance >> 33 & 7u));
            by[i] = chance >> 32 & 1u ? by[i] : -by[i];
            chance = chance * 6364136223846793005u + 1442695040888963407u;
            times[i] = (int64_t)(int32_t)(chance >> 32) >> (chance >> 20 & 31u);
        }
        if (n % 4 == 0) { /* nearly nothing is left */
            by[1] = -(float)((double)times[0] * (double)by[0]);
            times[1] = fabsf(by[1]) < 64.0f ? 1 : times[1];
            by[1] = fabsf(by[1]) < 64.0f ? by[1] : -by[0];
            times[1] = by[1] == -by[0] ? times[0] + (int64_t)(chance >> 60) : times[1];
        }
        const float got = rgp_nearest_sum(times[0], by[0], times[1], by[1]);
        const wide_int exact = times[0] * scaled(by[0]) + times[1] * scaled(by[1]);
        const wide_int off = distance(scaled(got), exact);
        if (off > distance(scaled(nextafterf(got, INFINITY)), exact) ||
            off > distance(scaled(nextafterf(got, -INFINITY)), exact)) {
            fail_msg("%lld * %a + %lld * %a is not %a", (long long)times[0], (double)by[0], (long long)times[1],
                     (double)by[1], (double)got);
        }
        cancelled += fabs((double)got) < 1e-3 * fabs((double)times[0] * (double)by[0]);
    }
    assert_in_range(cancelled, 20000, 100000);
    assert_true(rgp_nearest_sum(0, 3.0f, 0, 5.0f) == 0.0f && rgp_nearest_sum(0, 3.0f, 1, 5.5f) == 5.5f);
    assert_true(rgp_nearest_sum(3, 0.0f, 2, 1e30f) == 2e30f &&
                rgp_nearest_sum(1, 1e-30f, 1, -1e-31f) == 1e-30f - 1e-31f);
}

/* Memory of zeroes is a state that has been reset, of every block. */
static void test_zeroed_is_reset(void **unused)
{
    (void)unused;
    for (uint32_t op = 0; op < RGP_OPS; op++) {
        uint64_t state[256] = {0};
        for (uint32_t i = rgp_ops[op].reset ? 0 : 256; i < 256; i++) {
            if (i == 0) {
                rgp_ops[op].reset(state);
            }
            if (state[i] != 0) {
                fail_msg("operation %u: reset leaves something in its bytes from %u on", op, 8 * i);
            }
        }
    }
}

/* The first wrong setting is told in words, with its limits; zeroed memory with what has no default is sound. */
static void test_faults(void **unused)
{
    (void)unused;
    rgp_smooth_config smooth = {0};
    assert_string_equal(rgp_smooth_fault(&smooth), "time_constant: seconds, above 0, at most 1e6");
    assert_int_equal(rgp_smooth_check(&smooth), RGP_E_CONFIG);
    smooth.time_constant = 1e6f;
    assert_null(rgp_smooth_fault(&smooth));
    assert_int_equal(rgp_smooth_check(&smooth), RGP_OK);
    rgp_pid_config pid = {.gain = {.kp = 1}, .high = 100};
    assert_null(rgp_pid_fault(&pid));
    pid.resolution = -1;
    assert_string_equal(rgp_pid_fault(&pid), "resolution: 0 or more");
    pid.gain.filter = (float)NAN;
    assert_string_equal(rgp_pid_fault(&pid), "gain.filter: seconds, 0 to 1e6");
    const rgp_pid_loop_config loop = {.loop = {.again = 1}, .pid = {.high = 1}};
    assert_string_equal(rgp_pid_loop_fault(&loop), "again: 0, or 1 with a within above 0");
    const rgp_bands_config near = {.borders = 2, .margin = 1, .border = {3.0f, 3.5f}};
    assert_string_equal(rgp_bands_fault(&near), "border: rising, and farther apart than the margins reach");
}

#define CHECKED(NAME, block)                             \
    static rgp_status checked_##NAME(const void *config) \
    {                                                    \
        return rgp_##block##_check(config);              \
    }
#define CHECKED_STAGE(NAME, block)  CHECKED(NAME, block)
#define CHECKED_PAIR(NAME, block)   CHECKED(NAME, block)
#define CHECKED_EDGES(NAME, block)  CHECKED(NAME, block)
#define CHECKED_EDGES2(NAME, block) CHECKED(NAME, block)
#define CHECKED_LOOP(NAME, block)   CHECKED(NAME, block)
#define CHECKED_MAP(NAME, block)    CHECKED(NAME, block)
#define CHECKED_MAP3(NAME, block)   CHECKED(NAME, block)
#define CHECKED_JOIN(NAME, block)                        \
    static rgp_status checked_##NAME(const void *config) \
    {                                                    \
        (void)config;                                    \
        return RGP_OK;                                   \
    }
#define RGP_OP(NAME, shape, block, ...) CHECKED_##shape(NAME, block)
#include "image/ops.def"

typedef union any_config {
    float number[64];
    uint32_t whole[64];
    uint8_t byte[256];
} any_config;

static uint32_t draw(uint64_t *chance)
{
    *chance = *chance * 6364136223846793005u + 1442695040888963407u;
    return (uint32_t)(*chance >> 40);
}

/* Settings as they come: few or many of them are not nothing, by `n`. */
static void draw_config(any_config *config, uint32_t n, uint64_t *chance)
{
    static const float few[] = {0.0f, 0.01f, 0.5f, 1.0f, 2.0f, 9.0f, 100.0f, -1.0f, NAN, INFINITY, 3e6f};
    *config = (any_config){{0}};
    for (uint32_t i = 0; i < 64; i++) {
        const uint32_t drawn = draw(chance);
        if (drawn % 16 > n % 16) {
            continue;
        }
        if (drawn >> 4 & 1u) {
            config->number[i] = few[(drawn >> 5) % 11];
        } else if (drawn >> 12 & 1u) {
            config->whole[i] = (drawn >> 5) % 8;
        } else {
            config->byte[4 * i + (drawn >> 13) % 4] = 1;
        }
    }
}

/* Of any settings the check says the same as the words; the words start with a setting's name; each block refuses some
 * and takes some. */
static void test_faults_of_every_block(void **unused)
{
    (void)unused;
    static rgp_status (*const check[])(const void *) = {
#define RGP_OP(NAME, ...) checked_##NAME,
#include "image/ops.def"
    };
    uint64_t chance = 7;
    for (uint32_t op = 0; op < RGP_OPS; op++) {
        uint32_t refused = 0, taken = 0;
        for (uint32_t n = 0; rgp_ops[op].fault && n < 200000 && (n < 200 || taken == 0); n++) {
            any_config config;
            draw_config(&config, n, &chance);
            const char *fault = rgp_ops[op].fault(&config);
            assert_int_equal(check[op](&config), fault ? RGP_E_CONFIG : RGP_OK);
            const size_t name = fault ? strspn(fault, "abcdefghijklmnopqrstuvwxyz_.,[] ") : 0;
            if (fault && (name == 0 || strncmp(fault + name, ": ", 2) != 0)) {
                fail_msg("operation %u: '%s' does not start with a setting's name", op, fault);
            }
            refused += fault != NULL;
            taken += fault == NULL;
        }
        if (rgp_ops[op].fault && (refused == 0 || taken == 0)) {
            fail_msg("operation %u refuses %u and takes %u", op, refused, taken);
        }
    }
}

/* Each block that is stepped by readings, as one function. */
typedef rgp_reading step_function(const void *config, void *state, rgp_reading a, rgp_reading b, float dt);
#define STEPPED_STAGE(NAME, block)                                                                             \
    static rgp_reading stepped_##NAME(const void *config, void *state, rgp_reading a, rgp_reading b, float dt) \
    {                                                                                                          \
        (void)b;                                                                                               \
        return rgp_##block##_step(config, state, a, dt);                                                       \
    }
#define STEPPED_PAIR(NAME, block)                                                                              \
    static rgp_reading stepped_##NAME(const void *config, void *state, rgp_reading a, rgp_reading b, float dt) \
    {                                                                                                          \
        return rgp_##block##_step(config, state, a, b, dt);                                                    \
    }
#define STEPPED_NONE(NAME)              static step_function *const stepped_##NAME = NULL;
#define STEPPED_MAP(NAME, block)        STEPPED_NONE(NAME)
#define STEPPED_MAP3(NAME, block)       STEPPED_NONE(NAME)
#define STEPPED_EDGES(NAME, block)      STEPPED_NONE(NAME)
#define STEPPED_EDGES2(NAME, block)     STEPPED_NONE(NAME)
#define STEPPED_JOIN(NAME, block)       STEPPED_NONE(NAME)
#define STEPPED_LOOP(NAME, block)       STEPPED_NONE(NAME)
#define RGP_OP(NAME, shape, block, ...) STEPPED_##shape(NAME, block)
#include "image/ops.def"

static rgp_reading draw_reading(uint64_t *chance)
{
    const uint32_t drawn = draw(chance);
    return rgp_reading_of((float)(drawn % 7) - 2.0f,
                          drawn >> 8 & 3u ? (rgp_quality)RGP_GOOD : (rgp_quality)RGP_MISSING);
}

/* The same moment again, at a step of 0 s, leaves each block's state as it is, byte for byte. */
static void test_no_time_steps_nothing(void **unused)
{
    (void)unused;
    step_function *const step[] = {
#define RGP_OP(NAME, ...) stepped_##NAME,
#include "image/ops.def"
    };
    uint64_t chance = 11;
    uint32_t tried = 0;
    for (uint32_t op = 0; op < RGP_OPS; op++) {
        for (uint32_t n = 0, sound = 0; step[op] && n < 200000 && sound < 20; n++) {
            any_config config;
            draw_config(&config, n, &chance);
            if (rgp_ops[op].fault(&config)) {
                continue;
            }
            uint64_t state[1024] = {0}, before[1024];
            for (uint32_t i = 0; i < 40; i++) {
                step[op](&config, state, draw_reading(&chance), draw_reading(&chance), 0.02f);
                memcpy(before, state, sizeof before);
                step[op](&config, state, draw_reading(&chance), draw_reading(&chance), 0.0f);
                if (memcmp(before, state, sizeof before) != 0) {
                    fail_msg("operation %u changes its state in no time", op);
                }
            }
            sound++;
            tried++;
        }
    }
    assert_true(tried > 400);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_checks),
        cmocka_unit_test(test_faults),
        cmocka_unit_test(test_faults_of_every_block),
        cmocka_unit_test(test_zeroed_is_reset),
        cmocka_unit_test(test_no_time_steps_nothing),
        cmocka_unit_test(test_numeric),
        cmocka_unit_test(test_pulse),
        cmocka_unit_test(test_nearest_sum),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
