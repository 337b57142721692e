/* Diagnoses of what falls without its loop. */
#include "support.h"

#include "analysis/diagnosis_falling.h"
#include "analysis/diagnosis_words.h"

#include <math.h>
#include <string.h>

#define ROWS 6000u
#define TICK 0.005
#define LAG  0.19
#define GAIN 0.2 /* deg for a percent */

static const rgp_plant mast = {RGP_PROCESS_FALLING, GAIN, LAG, 0.0, 0.012};

typedef struct made {
    rgp_response_row row[ROWS];
    size_t rows;
    rgp_pid_config pid;
} made;

/* Held up by the product's own controller, asked to lean a little to and fro, and shoved twice; it ends where it has
 * fallen over. */
static void make(made *m, rgp_pid_gains gain)
{
    static double driven[ROWS];
    GRand *chance = g_rand_new_with_seed(4);
    rgp_pid_state state = {0};
    rgp_plant_state s;
    m->pid = (rgp_pid_config){.gain = gain, .low = -100.0f, .high = 100.0f};
    rgp_plant_begin(&s, &mast, TICK);
    for (m->rows = 0; m->rows < ROWS && fabs(rgp_plant_measured(&s)) < 15.0; m->rows++) {
        const size_t k = m->rows;
        const double target = 0.1 * ((double)(k / 400 * 7 % 5) - 2.0),
                     is = rgp_plant_measured(&s) + 0.01 * gauss(chance);
        const rgp_pid_input in = {{(float)target, RGP_GOOD}, {(float)is, RGP_GOOD}, 0.0f, 0.0f};
        const double asked = (double)rgp_pid_step(&m->pid, &state, &in, (float)TICK).value;
        m->row[k] = (rgp_response_row){TICK * (double)k, target, is, asked, state.saturated != 0, true, false};
        driven[k] = asked;
        rgp_plant_drive(&s, driven, k);
        s.z += k == 1600 ? LAG * 8.0 : k == 2800 ? -LAG * 8.0 : 0.0; /* deg/s */
    }
    g_rand_free(chance);
}

static rgp_loop_run run_of(const made *m)
{
    return (rgp_loop_run){m->row, m->rows, &m->pid, 0.0, NULL, false};
}

static double sensitivity_with(const rgp_pid_gains *g)
{
    const rgp_margins m = rgp_margins_of(&mast, g, TICK);
    return m.stable ? m.sensitivity : INFINITY;
}

static const rgp_trial_names names = {"deg", {"kp", "ki", "kd"}, {1.0f, 1.0f, 1.0f}};

/* Causes of what is wrong, each with a trial after which the mast itself is less sensitive. */
static void test_causes(void **unused)
{
    (void)unused;
    static const struct {
        rgp_pid_gains gain;
        rgp_cause cause;
        const char *says;
    } cases[] = {
        {{15.0f, 0.0f, 2.5f, 0.01f}, RGP_CAUSE_HEALTHY, "s without its loop, and its gains could grow"},
        {{5.6f, 0.0f, 2.0f, 0.01f}, RGP_CAUSE_P_LITTLE, "and with more P it would be"},
        {{15.0f, 0.0f, 0.5f, 0.01f}, RGP_CAUSE_D_MISSING, "and with more D, or a shorter filter, it would be"},
        {{15.0f, 150.0f, 2.5f, 0.01f}, RGP_CAUSE_I_MUCH, "and with less I it would be"},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        static made m;
        rgp_diagnosis d;
        make(&m, cases[i].gain);
        const rgp_loop_run run = run_of(&m);
        rgp_diagnose(&run, &d);
        g_autoptr(GString) text = g_string_new(NULL);
        rgp_diagnosis_say(&run, &d, &names, text);
        if (d.first != cases[i].cause) {
            fail_msg("case %zu is taken for: %s", i, text->str);
        }
        assert_says(text->str, cases[i].says);
        assert_true(d.falls);
        assert_near(d.model.gain.value / GAIN, 1.0, 0.05);
        assert_near(d.model.lag.value / LAG, 1.0, 0.3);
        double foreseen;
        g_autofree char *next = rgp_diagnosis_trial(&run, &d, &names, &foreseen);
        rgp_pid_gains other = cases[i].gain;
        const bool is_gain = cases[i].cause != RGP_CAUSE_HEALTHY;
        assert_int_equal(next != NULL, is_gain);
        if (is_gain) {
            assert_true(rgp_trial_take_gains(next, &names, &other));
            assert_true(sensitivity_with(&other) < 0.9 * sensitivity_with(&cases[i].gain));
        }
    }
}

/* Whatever is blamed, no trial is proposed with which it would fall: not the lesser gains that tell friction. */
static void test_no_trial_lets_it_fall(void **unused)
{
    (void)unused;
    static made m;
    rgp_diagnosis d;
    make(&m, (rgp_pid_gains){6.0f, 0.0f, 2.0f, 0.01f});
    const rgp_loop_run run = run_of(&m);
    rgp_diagnose(&run, &d);
    assert_true(d.falls);
    uint32_t tried = 0;
    for (int c = 0; c < RGP_CAUSES; c++) {
        double foreseen;
        rgp_pid_gains other = m.pid.gain;
        rgp_diagnosis blamed = d;
        rgp_diagnosis_settle(&blamed, (rgp_cause)c);
        g_autofree char *next = rgp_diagnosis_trial(&run, &blamed, &names, &foreseen);
        assert_true(c != RGP_CAUSE_FRICTION || !next);
        if (next && rgp_trial_take_gains(next, &names, &other)) {
            assert_true(isfinite(sensitivity_with(&other)));
            tried++;
        }
    }
    assert_true(tried >= 2);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_causes),
        cmocka_unit_test(test_no_trial_lets_it_fall),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
