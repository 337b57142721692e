/* A stretch foreseen with other gains is, on the plant that made it, the stretch that is made with them. */
#include "support.h"

#include "analysis/foresight.h"

#include <math.h>

#define ROWS 400u
#define STEP 0.05

typedef struct made {
    rgp_response_row row[ROWS];
    rgp_pid_config pid;
    double error; /* mean size */
} made;

/* A new setpoint, and a load and a wave that nobody tells of; every fifth row is between two steps of the loop. A bias
 * stands on the output. `line`: a 'predict' line on whose word it acts, or NULL. `at_once`: the setpoint is there with
 * the first row, without a bias. */
static void make_with(made *m, const rgp_plant *plant, const rgp_predict_config *line, bool at_once,
                      rgp_pid_gains gains)
{
    static double in[ROWS];
    rgp_plant_state state;
    rgp_pid_state pid = {0};
    rgp_predict_state ahead = {0};
    double driven = 0.0;
    size_t n = 0, steps = 0;
    rgp_plant_begin(&state, plant, STEP);
    m->error = 0.0;
    m->pid = (rgp_pid_config){.gain = gains, .low = -100.0f, .high = 100.0f, .reverse = plant->gain < 0.0};
    for (size_t k = 0; k < ROWS; k++) {
        const bool stands = k % 5 == 4;
        const double target = k > 40 || at_once ? 2.0 : 0.0,
                     seen = rgp_plant_measured(&state) + 0.2 * sin(0.3 * (double)k);
        m->row[k] = k > 0 ? m->row[k - 1] : (rgp_response_row){.usable = true};
        m->row[k].stands = stands;
        if (stands) {
            continue;
        }
        const rgp_reading read = {(float)seen, RGP_GOOD}, was = {(float)driven, RGP_GOOD},
                          told = line ? rgp_predict_step(line, &ahead, read, was, n > 0 ? (float)STEP : 0.0f) : read;
        const rgp_pid_input at = {{(float)target, RGP_GOOD}, told, at_once ? 0.0f : 1.5f, 0.0f};
        driven = (double)rgp_pid_step(&m->pid, &pid, &at, (float)STEP).value;
        m->row[k].target = target;
        m->row[k].measured = seen;
        m->row[k].output = driven;
        m->error += fabs(target - seen);
        in[n] = driven + (n > 200 ? 3.0 : 0.0);
        rgp_plant_drive(&state, in, n++);
        steps++;
    }
    m->error /= (double)steps;
}

static void check(rgp_plant plant, const rgp_predict_config *line, bool at_once, rgp_pid_gains from, rgp_pid_gains to)
{
    static made a, b;
    make_with(&a, &plant, line, at_once, from);
    make_with(&b, &plant, line, at_once, to);
    const rgp_loop_run run = {a.row, ROWS, &a.pid, 0.0, line, false};
    rgp_foresight *f = rgp_foresight_of(&run, &plant, STEP);
    assert_near(rgp_foresee(f, &from).error, 1.0, 1e-4);
    assert_near(rgp_foresee_on(f, &plant, &to).error, b.error / a.error, 1e-3);
    assert_true(rgp_foresee(f, &to).error >= rgp_foresee_on(f, &plant, &to).error);
    rgp_foresight_free(f);
}

static void test_foreseen_is_what_comes(void **unused)
{
    (void)unused;
    const rgp_pid_gains slow = {0.5f, 0.3f, 0.0f, 0.0f}, quick = {2.0f, 1.5f, 0.2f, 0.1f},
                        alone = {1.0f, 0.0f, 0.0f, 0.0f}, more = {3.0f, 0.0f, 0.1f, 0.2f};
    const rgp_plant lags = {RGP_PROCESS_LAGS, 1.2, 1.0, 0.2, 0.13},
                    integral = {RGP_PROCESS_INTEGRAL, 0.8, 0.0, 0.0, 0.22},
                    falls = {RGP_PROCESS_LAG, -0.7, 2.0, 0.0, 0.0};
    const rgp_predict_config fits = {1.2f, 1.0f, 0.3f}, misses = {0.9f, 1.4f, 0.5f};
    check(lags, NULL, false, slow, quick);
    check(lags, NULL, false, alone, more);
    check(integral, NULL, false, slow, quick);
    check(falls, NULL, false, quick, slow);
    check(lags, &fits, false, slow, quick);
    check(lags, &misses, false, quick, slow);
    check(lags, NULL, true, slow, quick);
    check(lags, NULL, true, quick, slow);
    check(integral, NULL, true, quick, slow);
    check(lags, &fits, true, slow, quick);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_foreseen_is_what_comes)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
