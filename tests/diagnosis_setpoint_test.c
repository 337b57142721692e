/* Diagnoses of loops whose setpoint moves, and of what is between a controller and a mechanism that a load came upon.
 */
#include "support.h"

#include "analysis/diagnosis_moves.h"
#include "analysis/diagnosis_parts.h"

#include <math.h>

#define ROWS 4000u
#define TICK 0.05
#define DEAD 4u /* ticks */

typedef enum setpoint { STANDS, STEPS, RISES, SWINGS } setpoint;

/* A lag of 1 s, or an integral, behind a dead time; the setpoint's period or way in seconds; a load from 20 s on; in
 * output units a play, or friction that lets go of `jump` of itself. */
typedef struct made {
    bool goes_on;
    rgp_pid_gains gain;
    setpoint moves;
    double takes, wave, every, load, play, sticks, jump;
} made;

static double target_at(const made *m, double time)
{
    const double t = time - 5.0;
    return t < 0.0              ? 0.0
           : m->moves == STEPS  ? (fmod(t, m->takes) < m->takes / 2.0 ? 10.0 : 0.0)
           : m->moves == RISES  ? 10.0 * fmin(1.0, t / m->takes)
           : m->moves == SWINGS ? 5.0 * sin(2.0 * G_PI * t / m->takes)
                                : 0.0;
}

/* Noise of a hundredth, the same in each run. Gives how far the output goes in the second half. */
static double diagnose(const made *m, rgp_diagnosis *to, bool *may)
{
    double low = INFINITY, high = -INFINITY;
    static rgp_response_row row[ROWS];
    const rgp_pid_config pid = {.gain = m->gain, .low = -100.0f, .high = 100.0f};
    double past[DEAD] = {0}, x = 0.0, stuck = 0.0, slack = 0.0;
    uint32_t chance = 4711u;
    rgp_pid_state state = {0};
    for (uint32_t k = 0; k < ROWS; k++) {
        const double time = TICK * k, target = target_at(m, time);
        chance = chance * 1664525u + 1013904223u;
        const double seen = x + 0.02 * ((double)(chance >> 8) / (1u << 24) - 0.5);
        const rgp_pid_input in = {{(float)target, RGP_GOOD}, {(float)seen, RGP_GOOD}, 0.0f, 0.0f};
        const double driven = (double)rgp_pid_step(&pid, &state, &in, (float)TICK).value;
        low = k < ROWS / 2 ? low : fmin(low, driven);
        high = k < ROWS / 2 ? high : fmax(high, driven);
        stuck =
            fabs(driven - stuck) > m->sticks ? driven - copysign((1.0 - m->jump) * m->sticks, driven - stuck) : stuck;
        slack = fmin(fmax(slack, stuck - m->play / 2.0), stuck + m->play / 2.0);
        row[k] = (rgp_response_row){time, target, seen, driven, state.saturated != 0, true, false};
        const double in_all = past[k % DEAD] + (time >= 20.0 ? m->load : 0.0) +
                              (m->every > 0.0 ? m->wave * sin(2.0 * G_PI * time / m->every) : 0.0);
        past[k % DEAD] = slack;
        x += TICK * (in_all - (m->goes_on ? 0.0 : x));
    }
    const rgp_loop_run run = {row, ROWS, &pid, 0.0, NULL, false};
    rgp_diagnose(&run, to);
    diagnosis_bears(to, &run, may);
    return high - low;
}

/* Up and down again and again a good loop is as healthy as once; what swings beside its setpoint is seen. The one with
 * too much I swings as the slowest root of s (s + 1) + (s + 6) exp(-0.225 s) says. */
static void test_setpoint(void **unused)
{
    (void)unused;
    static const struct {
        made is;
        rgp_cause cause;
        double period; /* NAN: it does not swing */
    } cases[] = {
        {{.gain = {2.0f, 2.0f, 0.0f, 0.0f}, .moves = STEPS, .takes = 12.0}, RGP_CAUSE_HEALTHY, NAN},
        {{.gain = {2.0f, 2.0f, 0.0f, 0.0f}, .moves = STEPS, .takes = 40.0}, RGP_CAUSE_HEALTHY, NAN},
        {{.gain = {2.0f, 2.0f, 0.0f, 0.0f}, .moves = STEPS, .takes = 40.0, .load = 3.0}, RGP_CAUSE_HEALTHY, NAN},
        {{.gain = {2.0f, 2.0f, 0.0f, 0.0f}, .moves = RISES, .takes = 20.0}, RGP_CAUSE_HEALTHY, NAN},
        {{.gain = {1.0f, 6.0f, 0.0f, 0.0f}, .moves = STEPS, .takes = 40.0}, RGP_CAUSE_I_MUCH, 2.49},
        {{.gain = {2.0f, 2.0f, 0.0f, 0.0f}, .moves = STEPS, .takes = 24.0, .wave = 5.0, .every = 9.0},
         RGP_CAUSE_OUTSIDE,
         9.0}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        rgp_diagnosis d;
        bool may[RGP_CAUSES];
        diagnose(&cases[i].is, &d, may);
        if (d.unfit || d.first != cases[i].cause) {
            fail_msg("%zu is taken for %s, %g", i, d.unfit ? d.unfit : rgp_cause_words[d.first], d.chance[d.first]);
        }
        if (isnan(cases[i].period) ? d.swing > d.band : fabs(d.period / cases[i].period - 1.0) > 0.1) {
            fail_msg("%zu swings every %g s by %g", i, d.period, d.swing);
        }
    }
}

/* A swing of the setpoint's says nothing of the gains, whatever the weights have. */
static void test_setpoint_that_swings(void **unused)
{
    (void)unused;
    static const rgp_cause own[] = {RGP_CAUSE_P_MUCH, RGP_CAUSE_I_MUCH, RGP_CAUSE_D_MISSING, RGP_CAUSE_D_MUCH,
                                    RGP_CAUSE_DEAD};
    for (int i = 0; i < 2; i++) {
        rgp_diagnosis d;
        bool may[RGP_CAUSES];
        diagnose(&(made){.gain = {2.0f, 2.0f, 0.0f, 0.0f},
                         .moves = i ? SWINGS : STANDS,
                         .takes = 9.0,
                         .wave = i ? 0.0 : 5.0,
                         .every = i ? 0.0 : 9.0},
                 &d, may);
        assert_near(d.period, 9.0, 0.3);
        assert_int_equal(rgp_diagnosis_led(&d), i);
        for (size_t k = 0; i && k < G_N_ELEMENTS(own); k++) {
            assert_false(may[own[k]]);
        }
        assert_int_equal(may[RGP_CAUSE_I_MUCH], !i);
    }
}

/* The width of a play or friction, beside how far the output goes, is found again behind a load, of which no output
 * tells. */
static void test_width(void **unused)
{
    (void)unused;
    static const struct {
        made is;
        rgp_cause cause;
    } cases[] = {{{.goes_on = true, .gain = {1.2f, 0.4f, 0.0f, 0.0f}, .load = 5.0, .play = 3.0}, RGP_CAUSE_PLAY},
                 {{.goes_on = true, .gain = {1.5f, 0.6f, 0.0f, 0.0f}, .load = -9.0, .play = 1.0}, RGP_CAUSE_PLAY},
                 {{.gain = {1.5f, 1.5f, 0.0f, 0.0f}, .load = 5.0, .sticks = 1.5, .jump = 0.8}, RGP_CAUSE_FRICTION},
                 {{.gain = {2.0f, 1.5f, 0.0f, 0.0f}, .load = 9.0, .sticks = 4.0, .jump = 0.6}, RGP_CAUSE_FRICTION}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        const made *is = &cases[i].is;
        rgp_diagnosis d;
        bool may[RGP_CAUSES];
        const double swing = diagnose(is, &d, may);
        assert_int_equal(d.first, cases[i].cause);
        assert_near(swing * (is->play > 0.0 ? d.sign.play / is->play : d.sign.sticks / is->sticks), 1.0, 0.2);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_setpoint), cmocka_unit_test(test_setpoint_that_swings),
                                       cmocka_unit_test(test_width)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
