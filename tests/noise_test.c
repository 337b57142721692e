/* Estimates of noise on noise that is known: white, with each reading repeated, rounded, with gaps and spikes, and such
 * that hangs together. */
#include "support.h"

#include "analysis/noise.h"

#include <gsl/gsl_randist.h>
#include <gsl/gsl_rng.h>
#include <math.h>

#define COUNT 20000u

static double value[COUNT];

static gsl_rng *chance_of(unsigned long seed)
{
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(chance, seed);
    return chance;
}

/* Each of `count` readings stands for `each` values. */
static void put_white(double sigma, size_t each)
{
    gsl_rng *chance = chance_of(7);
    double now = 0.0;
    for (size_t i = 0; i < COUNT; i++) {
        now = i % each == 0 ? 100.0 + gsl_ran_gaussian(chance, sigma) : now;
        value[i] = now;
    }
    gsl_rng_free(chance);
}

static void test_white(void **unused)
{
    (void)unused;
    for (size_t each = 1; each <= 7; each++) {
        put_white(2.0, each);
        assert_near(rgp_noise_of(value, COUNT).sigma, 2.0, 0.06 * sqrt((double)each));
    }
}

/* Gaps of a tenth, spikes of a hundredth, and a slow climb do not matter. */
static void test_disturbed(void **unused)
{
    (void)unused;
    put_white(2.0, 1);
    for (size_t i = 0; i < COUNT; i++) {
        value[i] = i % 10 == 3 ? (double)NAN : value[i] + (i % 100 == 8 ? 500.0 : 0.0) + 1e-3 * (double)i;
    }
    assert_near(rgp_noise_of(value, COUNT).sigma, 2.0, 0.12);
}

/* Rounded readings have at least the noise of their rounding; readings that never change have none, nor have none. */
static void test_rounded(void **unused)
{
    (void)unused;
    put_white(0.05, 1);
    for (size_t i = 0; i < COUNT; i++) {
        value[i] = round(value[i] + 0.45);
    }
    const rgp_noise rounded = rgp_noise_of(value, COUNT);
    assert_near(rounded.step, 1.0, 1e-12);
    assert_near(rounded.sigma, 1.0 / sqrt(12.0), 1e-12);
    for (size_t i = 0; i < COUNT; i++) {
        value[i] = 3.0;
    }
    assert_near(rgp_noise_of(value, COUNT).sigma, 0.0, 0.0);
    for (size_t count = 0; count < 3; count++) {
        value[count] = (double)NAN;
        assert_near(rgp_noise_of(value, count).sigma, 0.0, 0.0);
        assert_near(rgp_noise_coloured(value, count).sigma, 0.0, 0.0);
    }
}

/* A first-order noise is found again, with its spread and what of it holds on, also among spikes. */
static void test_coloured(void **unused)
{
    (void)unused;
    static const double holds[] = {0.0, 0.5, 0.8, 0.9};
    for (size_t k = 0; k < G_N_ELEMENTS(holds); k++) {
        gsl_rng *chance = chance_of(k + 1);
        double now = 0.0;
        for (size_t i = 0; i < COUNT; i++) {
            now = holds[k] * now + gsl_ran_gaussian(chance, 3.0 * sqrt(1.0 - holds[k] * holds[k]));
            value[i] = now + (i % 200 == 8 ? 100.0 : 0.0);
        }
        const rgp_coloured found = rgp_noise_coloured(value, COUNT);
        assert_near(found.sigma, 3.0, 0.45);
        assert_near(found.hold, holds[k], 0.06);
        gsl_rng_free(chance);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_white),
        cmocka_unit_test(test_disturbed),
        cmocka_unit_test(test_rounded),
        cmocka_unit_test(test_coloured),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
