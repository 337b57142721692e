/* Blocks of detect/ against closed-form answers. */
#include "blocks.h"

#include "rigpulse/detect.h"

#include <math.h>

static rgp_reading step_compare(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_compare_config config = {c->setting[0], c->setting[1], (uint32_t)c->setting[2]};
    if (reset) {
        rgp_compare_reset(state);
        return in;
    }
    return rgp_compare_step(&config, state, in, c->dt);
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

static rgp_reading step_bands(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    /* low below 3, mid, high above 9 */
    const rgp_bands_config config = {2, 2, c->setting[0], {3, 9}};
    if (reset) {
        rgp_bands_reset(state);
        return in;
    }
    return rgp_bands_step(&config, state, in, c->dt);
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

static rgp_reading step_edge(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_edge_config config = {(uint32_t)c->setting[0]};
    if (reset) {
        rgp_edge_reset(state);
        return in;
    }
    return rgp_edge_step(&config, state, in, c->dt);
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

static rgp_reading step_lasts(const sequence_case *c, void *state, rgp_reading in, bool reset)
{
    const rgp_lasts_config config = {c->setting[0]};
    if (reset) {
        rgp_lasts_reset(state);
        return in;
    }
    return rgp_lasts_step(&config, state, in, c->dt);
}

static void test_lasts(void **unused)
{
    (void)unused;
    static const sequence_case cases[] = {
        {"three steps", {3}, 1, {0, 1, 1, 1, 1, 1, 0, 1, NAN}, {0, 0, 0, 0, 1, 1, 0, 0}},
        {"a glitch begins it anew", {2}, 1, {1, 1, 0, 1, 1, 1, NAN}, {0, 0, 0, 0, 0, 1}},
        {"less than a step", {0.5f}, 1, {1, 1, NAN}, {0, 1}},
        {"true from the first", {2}, 1, {1, 1, 1, NAN}, {0, 0, 1}},
        {"bad: no time passes, and nothing breaks", {2}, 1, {1, 1, BAD, 1, 0, BAD, NAN}, {0, 0, 0, 1, 0, 0}},
        {"sums of small steps", {0.5f}, 0.1f, {1, 1, 1, 1, 1, 1, 1, NAN}, {0, 0, 0, 0, 0, 1, 1}},
    };
    run_cases(cases, sizeof cases / sizeof *cases, step_lasts, 0.0);
    assert_int_equal(rgp_lasts_check(&(rgp_lasts_config){0.0f}), RGP_E_CONFIG);
    assert_int_equal(rgp_lasts_check(&(rgp_lasts_config){NAN}), RGP_E_CONFIG);
    assert_int_equal(rgp_lasts_check(&(rgp_lasts_config){1e9f}), RGP_E_CONFIG);
}

/* Of a pass of thousands of readings a part is kept, and the middle of the nearest is still where it is. */
static void test_scan_of_a_long_pass(void **unused)
{
    (void)unused;
    static const struct {
        int readings;
        uint32_t give;
        double result;
    } cases[] = {{100, RGP_SCAN_PLACE, 37},   {2000, RGP_SCAN_PLACE, 37},   {50000, RGP_SCAN_PLACE, 37},
                 {2000, RGP_SCAN_EXTENT, 20}, {50000, RGP_SCAN_EXTENT, 20}, {2000, RGP_SCAN_VALUE, 12},
                 {50000, RGP_SCAN_VALUE, 12}};
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        const rgp_scan_config config = {.give = cases[i].give, .within = 10.5f};
        rgp_scan_state state;
        rgp_scan_reset(&state);
        rgp_reading got = {0};
        for (int k = 0; k <= cases[i].readings * 5 / 4; k++) {
            const float share = (float)k / (float)cases[i].readings, place = 90.0f * (share < 1 ? share : 2 - share);
            const float distance = 12.0f + fabsf(place - 37.0f);
            got = rgp_scan_step(&config, &state, rgp_good(distance), rgp_good(place), 0.001f);
        }
        assert_int_equal(got.quality, RGP_GOOD);
        assert_near((double)got.value, cases[i].result, 2.0 * 90.0 / 64.0); /* at least 64 places of a pass are kept */
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_compare),
        cmocka_unit_test(test_bands),
        cmocka_unit_test(test_edge),
        cmocka_unit_test(test_lasts),
        cmocka_unit_test(test_scan_of_a_long_pass),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
