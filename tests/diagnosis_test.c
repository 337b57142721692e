/* Diagnoses: causes that are known, trials that come of them, and what cannot be told. */
#include "support.h"

#include "analysis/diagnosis_moves.h"
#include "analysis/diagnosis_parts.h"
#include "analysis/diagnosis_words.h"
#include "analysis/loop_lost.h"
#include "analysis/margins.h"
#include "analysis/trials.h"

#include <math.h>
#include <string.h>

#define ROWS 600u

#define LONG 3000u

/* A lag of 1 s behind a dead time of 0.2 s, stepped every 50 ms, with the product's own controller. */
typedef struct made {
    rgp_response_row row[LONG];
    rgp_pid_config pid;
} made;

/* Between controller and mechanism, in output units: a play; friction that holds up to a difference and then lets go of
 * 0.9 of it; a wave from outside, every so many seconds; a load from 15 s on. */
typedef struct between {
    double play, sticks, wave, every, load;
} between;

static double pass(const between *b, double driven, double time, double *stuck, double *slack)
{
    if (fabs(driven - *stuck) > b->sticks) {
        *stuck = driven - copysign(0.1 * b->sticks, driven - *stuck);
    }
    *slack = fmin(fmax(*slack, *stuck - b->play / 2.0), *stuck + b->play / 2.0);
    return *slack + (b->every > 0.0 ? b->wave * sin(2.0 * G_PI * time / b->every) : 0.0) +
           (time >= 15.0 ? b->load : 0.0);
}

static void make_behind(made *m, rgp_pid_gains gain, double most, double noise, const between *b)
{
    double past[5] = {0}, x = 0.0, stuck = 0.0, slack = 0.0;
    uint32_t chance = 12345u;
    rgp_pid_state state = {0};
    m->pid = (rgp_pid_config){.gain = gain, .low = (float)-most, .high = (float)most};
    for (uint32_t k = 0; k < LONG; k++) {
        chance = chance * 1664525u + 1013904223u;
        const double seen = x + noise * ((double)(chance >> 8) / (1u << 24) - 0.5), target = k >= 60 ? 10.0 : 0.0;
        const rgp_pid_input in = {{(float)target, RGP_GOOD}, {(float)seen, RGP_GOOD}, 0.0f, 0.0f};
        const double driven = (double)rgp_pid_step(&m->pid, &state, &in, 0.05f).value;
        past[k % 5] = pass(b, driven, 0.05 * k, &stuck, &slack);
        m->row[k] = (rgp_response_row){.time = 0.05 * k,
                                       .target = target,
                                       .measured = seen,
                                       .output = driven,
                                       .saturated = state.saturated != 0,
                                       .usable = true};
        x += 0.05 * (past[(k + 1) % 5] - x);
    }
}

static void make_run(made *m, rgp_pid_gains gain, double most, double noise)
{
    make_behind(m, gain, most, noise, &(between){0.0, 0.0, 0.0, 0.0, 0.0});
}

static rgp_loop_run run_of(const made *m)
{
    return (rgp_loop_run){m->row, ROWS, &m->pid, 0.0, NULL, false};
}

static const rgp_trial_names names = {"K", {"kp", "ki", "kd"}, {1.0f, 1.0f, 1.0f}};

static void check_cause(rgp_pid_gains gain, double most, rgp_cause cause, const char *says, const char *trial)
{
    static made m;
    rgp_diagnosis d;
    make_run(&m, gain, most, 0.05);
    const rgp_loop_run run = run_of(&m);
    rgp_diagnose(&run, &d);
    g_autoptr(GString) text = g_string_new(NULL);
    rgp_diagnosis_say(&run, &d, &names, text);
    double foreseen;
    g_autofree char *next = rgp_diagnosis_trial(&run, &d, &names, &foreseen);
    double sum = 0.0;
    for (int c = 0; c < RGP_CAUSES; c++) {
        sum += d.chance[c];
    }
    assert_near(sum, 1.0, 1e-9);
    assert_false(d.falls);
    if (d.first != cause) {
        fail_msg("taken for: %s", text->str);
    }
    assert_says(text->str, says);
    if (trial ? !next || !g_str_has_prefix(next, trial) : next != NULL) {
        fail_msg("%s; next: %s, foreseen %g", text->str, next ? next : "nothing", foreseen);
    }
}

/* A loop that is never still is not healthy, nor what a good model has swinging more and more, however sure its weights
 * are. */
static void test_never_healthy(void **unused)
{
    (void)unused;
    static made m;
    rgp_diagnosis d;
    bool may[RGP_CAUSES];
    make_run(&m, (rgp_pid_gains){2.0f, 2.0f, 0.0f, 0.0f}, 100.0, 0.05);
    const rgp_loop_run run = run_of(&m);
    rgp_diagnose(&run, &d);
    for (int i = 0; i < 3; i++) {
        rgp_diagnosis other = d;
        other.swing = i == 1 ? 4.0 * d.band : d.swing;
        other.beyond = i == 1 ? 0.6 : d.beyond;
        other.sign.grow = i == 2 ? -1.0 : d.sign.grow;
        diagnosis_bears(&other, &run, may);
        assert_int_equal(may[RGP_CAUSE_HEALTHY], i == 0);
    }
}

static void test_causes(void **unused)
{
    (void)unused;
    check_cause((rgp_pid_gains){2.0f, 2.0f, 0.0f, 0.0f}, 100.0, RGP_CAUSE_HEALTHY, "healthy: it ends within", NULL);
    check_cause((rgp_pid_gains){8.5f, 4.0f, 0.0f, 0.0f}, 100.0, RGP_CAUSE_P_MUCH, "it swings every 0.8", "kp ");
    check_cause((rgp_pid_gains){1.5f, 9.0f, 0.0f, 0.0f}, 100.0, RGP_CAUSE_I_MUCH, "the integral lags by",
                "kp 3, ki 4.5");
    check_cause((rgp_pid_gains){2.0f, 0.0f, 0.0f, 0.0f}, 100.0, RGP_CAUSE_I_LITTLE, "and has no integral",
                "kp 1.74, ki 1.78");
    check_cause((rgp_pid_gains){0.25f, 0.2f, 0.0f, 0.0f}, 100.0, RGP_CAUSE_P_LITTLE, "comes back slowly", "kp ");
    check_cause((rgp_pid_gains){2.0f, 2.0f, 0.0f, 0.0f}, 6.0, RGP_CAUSE_WEAK, "it drives all it has", NULL);
}

/* Chances are 0, and nothing is divided by 0, where none of the causes may be said. */
static void test_no_cause(void **unused)
{
    (void)unused;
    const double input[DIAGNOSIS_INPUTS] = {1.0};
    const bool none[RGP_CAUSES] = {false};
    double share[RGP_CAUSES];
    diagnosis_shares(diagnosis_tables[0].weight, input, none, share);
    for (int c = 0; c < RGP_CAUSES; c++) {
        assert_true(share[c] == 0.0);
    }
}

/* A mechanism with a dead time of a fifth of its lag and four steps in that, over gains: h healthy, P too much P, or
 * dead time, which passes for it where it swings on, I too much I; ? has a sensitivity of 2.5 and a little more, and
 * may be either of its neighbours. Where two causes are named either counts. */
static void test_map(void **unused)
{
    (void)unused;
    static const float kp[] = {1.0f, 2.0f, 3.0f, 4.0f, 6.0f, 8.0f}, ki[] = {2.0f, 6.0f, 10.0f};
    static const char *const is[] = {"hhh?PP", "Ih??PP", "III??P"};
    static const struct {
        char sign;
        rgp_cause cause;
    } causes[] = {{'h', RGP_CAUSE_HEALTHY}, {'P', RGP_CAUSE_P_MUCH}, {'I', RGP_CAUSE_I_MUCH}};
    static made m;
    for (size_t i = 0; i < G_N_ELEMENTS(ki) * G_N_ELEMENTS(kp); i++) {
        const size_t row = i / G_N_ELEMENTS(kp), column = i % G_N_ELEMENTS(kp);
        rgp_diagnosis d;
        make_run(&m, (rgp_pid_gains){kp[column], ki[row], 0.0f, 0.0f}, 100.0, 0.05);
        const rgp_loop_run run = run_of(&m);
        rgp_diagnose(&run, &d);
        for (size_t k = 0; k < G_N_ELEMENTS(causes); k++) {
            const bool passes = (causes[k].cause == RGP_CAUSE_P_MUCH && d.first == RGP_CAUSE_DEAD) ||
                                (rgp_diagnosis_divided(&d) && d.second == causes[k].cause);
            if (is[row][column] == causes[k].sign && d.first != causes[k].cause && !passes) {
                fail_msg("kp %g, ki %g: taken for %s", (double)kp[column], (double)ki[row], rgp_cause_words[d.first]);
            }
        }
    }
}

/* An output at its limit is at its limit, though no more is asked. */
static void test_limit(void **unused)
{
    (void)unused;
    static made m;
    rgp_diagnosis d;
    make_run(&m, (rgp_pid_gains){2.0f, 2.0f, 0.0f, 0.0f}, 6.0, 0.05);
    for (uint32_t k = 0; k < ROWS; k++) {
        m.row[k].saturated = false;
    }
    rgp_diagnose(&(rgp_loop_run){m.row, ROWS, &m.pid, 0.0, NULL, false}, &d);
    assert_int_equal(d.first, RGP_CAUSE_WEAK);
}

/* At its limit it comes nearer at first, so a load that takes it away later, farther than it was, makes it no loop of
 * the wrong sign. */
static void test_taken_away(void **unused)
{
    (void)unused;
    static made m;
    rgp_diagnosis d;
    make_behind(&m, (rgp_pid_gains){2.0f, 2.0f, 0.0f, 0.0f}, 6.0, 0.05, &(between){.load = -12.0});
    m.row[62].measured -= 40.0; /* wild readings decide nothing */
    const rgp_loop_run run = run_of(&m);
    rgp_diagnose(&run, &d);
    assert_true(d.obeyed && d.grew > d.band);
    assert_int_equal(d.first, RGP_CAUSE_WEAK);
    for (uint32_t k = 0; k < ROWS; k++) { /* the same, where it drives it off at first */
        m.row[k].measured = k == 62 ? 40.0 : -m.row[k].measured;
    }
    rgp_diagnose(&run, &d);
    assert_false(d.obeyed);
}

/* A cause may be said of a stretch of a minute with such signs, which is off for half of the time, and at the end. */
static bool may_be(rgp_cause cause, rgp_signs sign, const rgp_predict_config *line)
{
    const rgp_diagnosis d = {.sign = sign, .period = (double)NAN, .length = 60.0, .beyond = 0.5, .left = 1.0};
    const rgp_pid_config pid = {.gain = {2.0f, 1.0f, 0.0f, 0.0f}};
    bool may[RGP_CAUSES];
    diagnosis_bears(&d, &(rgp_loop_run){NULL, 0, &pid, 0.0, line, false}, may);
    return may[cause];
}

/* Behind a 'predict' line that misses, gains that no line would bear are the matter all the same. Beside gains with
 * much room the step of the loop is the matter where it is most of the delay, and no small part of the answer. A loop
 * that is near swinging does not get more of an integral that it has. */
static void test_what_may_be(void **unused)
{
    (void)unused;
    const rgp_predict_config line = {.gain = 1.0f, .lag = 1.0f, .dead = 1.0f};
#define WITH(...) ((rgp_signs){.explained = 0.99, __VA_ARGS__})
    assert_true(may_be(RGP_CAUSE_DEAD, WITH(.misses = 1.0, .kp_off = 2.5, .ki_off = 1.0), &line));
    assert_false(may_be(RGP_CAUSE_DEAD, WITH(.misses = 1.0, .kp_off = 3.5, .ki_off = 1.0), &line));
    assert_false(may_be(RGP_CAUSE_DEAD, WITH(.misses = 1.0, .kp_off = 1.0, .ki_off = 3.0), &line));
    assert_true(may_be(RGP_CAUSE_PACE, WITH(.rate = -0.1, .grow = 1.5, .late = 0.01), NULL));
    assert_true(may_be(RGP_CAUSE_PACE, WITH(.rate = -0.1, .grow = 2.5, .late = 0.1), NULL));
    assert_false(may_be(RGP_CAUSE_PACE, WITH(.rate = -0.1, .grow = 2.5, .late = 0.01), NULL));
    assert_false(may_be(RGP_CAUSE_PACE, WITH(.rate = -1.0, .grow = 2.5, .late = 0.1), NULL));
    assert_true(may_be(RGP_CAUSE_I_LITTLE, WITH(.ki_off = -2.0, .sensitivity = 0.5), NULL));
    assert_false(may_be(RGP_CAUSE_I_LITTLE, WITH(.ki_off = -2.0, .sensitivity = 1.0), NULL));
#undef WITH
}

/* A load that comes on the way is no part of the mechanism: the model has it besides, and it is told of, at its time in
 * the recording. */
static void test_load(void **unused)
{
    (void)unused;
    static made m;
    rgp_diagnosis d;
    make_behind(&m, (rgp_pid_gains){1.0f, 1.0f, 0.0f, 0.0f}, 100.0, 0.05, &(between){.load = -9.0});
    for (uint32_t k = 0; k < ROWS; k++) {
        m.row[k].time += 1000.0;
    }
    const rgp_loop_run run = run_of(&m);
    rgp_diagnose(&run, &d);
    assert_true(d.sign.explained > RGP_ALL_BUT_ALL);
    assert_near(d.model.gain.value, 1.0, 0.2);
    assert_int_equal(d.model.loads, 1);
    assert_near(d.model_begin + d.model.came[0].at.value, 1015.2, 0.2);
    g_autoptr(GString) says = g_string_new(NULL);
    rgp_diagnosis_say(&run, &d, &names, says);
    assert_says(says->str, "; a load came and stayed: about -4.5 % of the travel at 16.9 min");
}

static double error_of(const made *m)
{
    double sum = 0.0;
    for (uint32_t k = 0; k < ROWS; k++) {
        sum += fabs(m->row[k].target - m->row[k].measured);
    }
    return sum;
}

/* With the next trial the error is what is foretold, at most. */
static void check_foretold(rgp_pid_gains gain)
{
    static made m;
    rgp_diagnosis d;
    double foreseen;
    make_run(&m, gain, 100.0, 0.05);
    const rgp_loop_run run = run_of(&m);
    rgp_diagnose(&run, &d);
    g_autofree char *next = rgp_diagnosis_trial(&run, &d, &names, &foreseen);
    const double before = error_of(&m);
    assert_true(next && foreseen < 0.9 && rgp_trial_take_gains(next, &names, &gain));
    make_run(&m, gain, 100.0, 0.05);
    assert_true(error_of(&m) <= foreseen * before);
}

static void test_foretold(void **unused)
{
    (void)unused;
    check_foretold((rgp_pid_gains){0.25f, 0.2f, 0.0f, 0.0f});
    check_foretold((rgp_pid_gains){0.5f, 0.2f, 0.0f, 0.0f});
    check_foretold((rgp_pid_gains){2.0f, 0.4f, 0.0f, 0.0f});
}

/* Sound gains: the swing is made by what stands between, or beside. */
static void check_between(between b, float gain, rgp_cause cause, const char *says)
{
    static made m;
    rgp_diagnosis d;
    make_behind(&m, (rgp_pid_gains){gain, gain, 0.0f, 0.0f}, 100.0, 0.1, &b);
    const rgp_loop_run run = {m.row, LONG, &m.pid, 0.0, NULL, false};
    rgp_diagnose(&run, &d);
    g_autoptr(GString) text = g_string_new(NULL);
    rgp_diagnosis_say(&run, &d, &names, text);
    if (d.first != cause) {
        fail_msg("taken for: %s", text->str);
    }
    assert_says(text->str, says);
}

static void test_between(void **unused)
{
    (void)unused;
    check_between((between){.wave = 6.0, .every = 7.0}, 2.0f, RGP_CAUSE_OUTSIDE, "it swings every 7 s");
    check_between((between){.sticks = 3.0}, 1.0f, RGP_CAUSE_FRICTION, "stands still for ");
    check_between((between){.play = 0.0}, 2.0f, RGP_CAUSE_HEALTHY, "it ends within");
}

/* Trials with these gains and errors, which may have too little P and, as the second, too little I, or the other way
 * round. */
static void check_trials_of(rgp_cause first, const rgp_pid_gains *gains, const double *error, guint count,
                            const char *says, const char *next)
{
    const rgp_cause second = first == RGP_CAUSE_P_LITTLE ? RGP_CAUSE_I_LITTLE : RGP_CAUSE_P_LITTLE;
    rgp_diagnosis d = {.first = first, .second = second, .period = (double)NAN, .length = 60.0};
    d.chance[first] = 0.7;
    d.chance[second] = 0.295;
    d.chance[RGP_CAUSE_HEALTHY] = 0.005;
    rgp_pid_config pid[4] = {{.low = 0.0f}};
    rgp_tried all[4];
    for (guint i = 0; i < count; i++) {
        pid[i].gain = gains[i];
        all[i] = (rgp_tried){i + 1, {NULL, 0, &pid[i], 0.0, NULL, false}, &d, error[i]};
    }
    g_autoptr(GString) text = g_string_new(NULL);
    g_autofree char *then = rgp_trials_say(all, count, &names, text);
    assert_says(text->str, says);
    assert_true(next ? then && strcmp(then, next) == 0 : !then);
}

static void check_trials(const rgp_pid_gains *gains, const double *error, guint count, const char *says,
                         const char *next)
{
    check_trials_of(RGP_CAUSE_P_LITTLE, gains, error, count, says, next);
}

/* A slow wave goes on at the same height, and so does a loop's own swing that limits stop; one that nothing stops dies
 * away. */
static void test_kept_up(void **unused)
{
    (void)unused;
    static const struct {
        rgp_pid_gains gain;
        double most, wave;
        bool kept_up, steady;
        size_t rows;
    } cases[] = {{{2.0f, 2.0f, 0.0f, 0.0f}, 100.0, 6.0, true, true, LONG},
                 {{2.0f, 2.0f, 0.0f, 0.0f}, 100.0, 6.0, true, true, 900}, /* three periods */
                 {{5.5f, 2.0f, 0.0f, 0.0f}, 1000.0, 0.0, false, false, ROWS / 2},
                 {{20.0f, 2.0f, 0.0f, 0.0f}, 14.0, 0.0, false, true, ROWS / 2}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        static made m;
        rgp_diagnosis d;
        make_behind(&m, cases[i].gain, cases[i].most, 0.001, &(between){.wave = cases[i].wave, .every = 15.0});
        rgp_loop_run run = run_of(&m);
        run.rows = cases[i].rows;
        rgp_diagnose(&run, &d);
        assert_true(isfinite(d.period));
        assert_int_equal(rgp_diagnosis_kept_up(&d), cases[i].kept_up);
        assert_int_equal(d.sign.steady < -4.0, cases[i].steady);
        assert_int_equal(d.first == RGP_CAUSE_OUTSIDE, cases[i].kept_up);
    }
}

/* A worse trial says that the advice which it took was wrong. */
static void test_trials(void **unused)
{
    (void)unused;
    const rgp_pid_gains advised[] = {{10.0f, 1.0f, 0.0f, 0.5f}, {12.0f, 1.2f, 0.0f, 0.5f}, {10.0f, 2.0f, 0.0f, 0.5f}},
                        other[] = {{10.0f, 1.0f, 0.0f, 0.5f}, {12.0f, 0.6f, 0.0f, 0.5f}};
    check_trials(advised, (const double[]){1.0}, 1, "likely too little P", "kp 12, ki 1.2");
    check_trials(advised, (const double[]){1.0, 0.8}, 2, "likely too little P", "kp 14.4, ki 1.44");
    check_trials(advised, (const double[]){1.0, 1.2}, 2,
                 "worse than try 1, so that was not 'too little P'; from there, sure too little I",
                 "kp 10, ki 2.5, kd 0, filter 0.5 s");
    check_trials(other, (const double[]){1.0, 1.2}, 2, "likely too little P", "kp 14.4, ki 0.72");
    const rgp_pid_gains back[] = {{10.0f, 2.0f, 0.0f, 0.5f}, {20.0f, 2.8f, 0.0f, 0.5f}, {10.0f, 1.0f, 0.0f, 0.5f}};
    check_trials_of(RGP_CAUSE_I_LITTLE, back, (const double[]){1.0, 1.1, 0.9}, 3,
                    "; try 1, which lies that way, was no better: half of the way to it", "ki 1.41");
    const rgp_pid_gains near[] = {{11.0f, 1.1f, 0.0f, 0.5f}, {20.0f, 2.8f, 0.0f, 0.5f}, {10.0f, 1.0f, 0.0f, 0.5f}};
    check_trials(near, (const double[]){1.0, 1.1, 0.9}, 3, "; with what would come next it was try 1", NULL);
    const rgp_pid_gains beyond[] = {{15.0f, 1.5f, 0.0f, 0.5f}, {20.0f, 2.8f, 0.0f, 0.5f}, {10.0f, 1.0f, 0.0f, 0.5f}};
    check_trials(beyond, (const double[]){1.0, 1.1, 0.9}, 3, "likely too little P", "kp 12, ki 1.2");
    const rgp_pid_gains askew[] = {{10.2f, 1.19f, 0.0f, 0.5f}, {20.0f, 2.8f, 0.0f, 0.5f}, {10.0f, 1.0f, 0.0f, 0.5f}};
    check_trials(askew, (const double[]){1.0, 1.1, 0.9}, 3, "likely too little P", "kp 12, ki 1.2");
}

/* The rule of thumb of a cause that is certain, of a swing of 0.4 in 60 s with a step of 0.1 s, with no model of it. */
static void check_rule(rgp_cause cause, rgp_pid_gains gain, double lag_of_i, const char *next)
{
    rgp_diagnosis d = {.step = 0.1, .period = 10.0, .length = 60.0, .swing = 0.4};
    const rgp_pid_config pid = {.gain = gain};
    double foreseen;
    rgp_diagnosis_settle(&d, cause);
    d.sign.lag_of_i = lag_of_i;
    g_autofree char *trial =
        rgp_diagnosis_trial(&(rgp_loop_run){NULL, 0, &pid, 0.0, NULL, false}, &d, &names, &foreseen);
    assert_string_equal(trial, next);
    assert_true(isnan(foreseen));
}

/* A rule of thumb takes what makes the swing, and leaves the derivative whole behind its filter; where no model tells,
 * too much D takes its P with it, and missing D is none to be guessed. */
static void test_rules_of_thumb(void **unused)
{
    (void)unused;
    check_rule(RGP_CAUSE_D_MUCH, (rgp_pid_gains){2.0f, 1.0f, 8.0f, 0.1f}, 0.2, "kp 1, kd 4");
    check_rule(RGP_CAUSE_D_MUCH, (rgp_pid_gains){2.0f, 5.0f, 8.0f, 0.1f}, 0.9, "ki 2");
    check_rule(RGP_CAUSE_D_MUCH, (rgp_pid_gains){2.0f, 0.0f, 8.0f, 0.1f}, 0.0, "kp 1, kd 4");
    check_rule(RGP_CAUSE_NOISE, (rgp_pid_gains){2.0f, 1.0f, 8.0f, 0.0f}, 0.0, "filter 0.3 s");
    check_rule(RGP_CAUSE_NOISE, (rgp_pid_gains){2.0f, 1.0f, 8.0f, 0.5f}, 0.0, "kd 5.6");
    check_rule(RGP_CAUSE_NOISE, (rgp_pid_gains){2.0f, 1.0f, 0.5f, 0.0f}, 0.0, "kd 0.25");
    check_rule(RGP_CAUSE_D_MISSING, (rgp_pid_gains){2.0f, 1.0f, 0.0f, 0.2f}, 0.0, "kp 1.4");
    check_rule(RGP_CAUSE_COUNTS, (rgp_pid_gains){2.0f, 1.0f, 0.0f, 0.0f}, 0.0, "deadband 0.2 K");
    check_rule(RGP_CAUSE_I_LITTLE, (rgp_pid_gains){2.0f, 0.1f, 0.0f, 0.0f}, 0.0, "ki 0.4");
    check_rule(RGP_CAUSE_I_LITTLE, (rgp_pid_gains){2.0f, 0.001f, 0.0f, 0.0f}, 0.0, "ki 0.5"); /* as of none at all */
}

/* The next trial of a cause that is likely, with such signs, from kp 2 and ki 1. */
static void check_likely(rgp_cause cause, rgp_signs sign, const char *next)
{
    rgp_diagnosis d = {
        .step = 0.1, .period = 10.0, .length = 60.0, .first = cause, .sign = sign, .explained = sign.explained};
    const rgp_pid_config pid = {.gain = {2.0f, 1.0f, 0.0f, 0.0f}};
    double foreseen;
    d.chance[cause] = 0.95;
    g_autofree char *trial =
        rgp_diagnosis_trial(&(rgp_loop_run){NULL, 0, &pid, 0.0, NULL, false}, &d, &names, &foreseen);
    assert_string_equal(trial, next);
}

/* Lesser gains tell friction from a swing of the loop's own; so do more where a model that makes all of what moved has
 * room for them, and they cost nothing. */
static void test_told_apart(void **unused)
{
    (void)unused;
    check_likely(RGP_CAUSE_FRICTION, (rgp_signs){.explained = 0.5, .grow = 2.0}, "kp 1.4, ki 0.7");
    check_likely(RGP_CAUSE_FRICTION, (rgp_signs){.explained = 0.99, .grow = 0.5}, "kp 1.4, ki 0.7");
    check_likely(RGP_CAUSE_FRICTION, (rgp_signs){.explained = 0.99, .grow = 2.0}, "kp 2.8, ki 1.4");
}

/* A dead band that made it worse is taken back, and what is next is told with the one of before. */
static void test_dead_band_in_vain(void **unused)
{
    (void)unused;
    rgp_diagnosis d = {.first = RGP_CAUSE_COUNTS, .second = RGP_CAUSE_I_LITTLE, .period = 10.0, .length = 60.0};
    d.chance[RGP_CAUSE_COUNTS] = 0.9;
    d.chance[RGP_CAUSE_I_LITTLE] = 0.1;
    d.swing = 0.4;
    const rgp_pid_config was = {.gain = {2.0f, 0.1f, 0.0f, 0.0f}, .deadband = 0.1f},
                         is = {.gain = {2.0f, 0.1f, 0.0f, 0.0f}, .deadband = 0.2f};
    const rgp_tried all[] = {{1, {NULL, 0, &was, 0.0, NULL, false}, &d, 1.0},
                             {2, {NULL, 0, &is, 0.0, NULL, false}, &d, 1.2}};
    g_autoptr(GString) text = g_string_new(NULL);
    g_autofree char *next = rgp_trials_say(all, 2, &names, text);
    assert_says(text->str, "worse than try 1, so that was not 'too coarse a reading'");
    assert_string_equal(next, "kp 2, ki 0.4, kd 0, deadband 0.1 K");
}

/* A swing that limits cut off, and of which no model tells, may be the loop's own, however likely it is none: it is not
 * made quicker. */
static void test_cut_off(void **unused)
{
    (void)unused;
    check_likely(RGP_CAUSE_OUTSIDE, (rgp_signs){.cut = 0.1}, "kp 1.4, ki 0.7");
    check_likely(RGP_CAUSE_OUTSIDE, (rgp_signs){.cut = 0.0}, "kp 2.4, ki 1.2");
}

/* On an integral of 1, stepped each 0.1 s, P alone swings from 20 on (2 / (gain * step)); with a third more gain half
 * of that leaves a sensitivity of 1 / (1 - 2/3). On a lag behind a dead time a quarter of the integral is what calms.
 */
static void test_calmed(void **unused)
{
    (void)unused;
    const rgp_stand integral = {{RGP_PROCESS_INTEGRAL, 1.0, 0, 0, 0}, {0.0, 0.0, 0.0}, 0.1},
                    lag = {{RGP_PROCESS_LAG, 1.0, 10.0, 0, 1.0}, {0.0, 0.0, 0.0}, 0.1};
    const rgp_pid_gains much_p = {20.0f, 0, 0, 0}, far_too_much_p = {2000.0f, 0, 0, 0}, much_i = {4.0f, 6.0f, 0, 0};
    rgp_pid_gains to;
    assert_true(rgp_calmed(&integral, &much_p, ANY, &to));
    assert_near((double)to.kp, 10.0, 1e-5);
    assert_false(rgp_calmed(&integral, &far_too_much_p, ANY, &to));
    assert_false(rgp_stand_margins(&lag, &much_i).stable);
    assert_true(rgp_calmed(&lag, &much_i, ANY, &to));
    assert_near((double)to.kp, 4.0, 1e-5);
    assert_near((double)to.ki, 1.5, 1e-5);
    assert_true(rgp_stand_margins(&lag, &to).sensitivity < 2.0);
}

/* Single wild readings, and none at the beginning, are no swing. */
static void test_spikes(void **unused)
{
    (void)unused;
    static made m;
    rgp_diagnosis d;
    make_run(&m, (rgp_pid_gains){2.0f, 2.0f, 0.0f, 0.0f}, 100.0, 0.05);
    for (uint32_t k = 0; k < ROWS; k++) {
        m.row[k].measured += k % 97 == 50 ? 30.0 : 0.0;
        m.row[k].usable = k >= 5;
        m.row[k].measured = k >= 5 ? m.row[k].measured : (double)NAN;
    }
    rgp_diagnose(&(rgp_loop_run){m.row, ROWS, &m.pid, 0.0, NULL, false}, &d);
    assert_null(d.unfit);
    assert_int_equal(d.first, RGP_CAUSE_HEALTHY);
    assert_true(fabs(d.left) < 0.1 && d.swing < 0.2);
}

/* Nothing is told of what does not bear it. */
static void test_what_cannot_be_told(void **unused)
{
    (void)unused;
    static made m;
    rgp_diagnosis d;
    make_run(&m, (rgp_pid_gains){2.0f, 2.0f, 0.0f, 0.0f}, 100.0, 0.05);
    rgp_diagnose(&(rgp_loop_run){m.row, 39, &m.pid, 0.0, NULL, false}, &d);
    assert_says(d.unfit, "too short");
    for (uint32_t k = 0; k < ROWS; k++) {
        m.row[k].usable = k % 4 == 0;
    }
    rgp_diagnose(&(rgp_loop_run){m.row, ROWS, &m.pid, 0.0, NULL, false}, &d);
    assert_says(d.unfit, "less than half");
    for (uint32_t k = 0; k < ROWS; k++) {
        m.row[k].stands = true;
    }
    rgp_diagnose(&(rgp_loop_run){m.row, ROWS, &m.pid, 0.0, NULL, false}, &d);
    assert_says(d.unfit, "too short");
    rgp_diagnose(&(rgp_loop_run){m.row, 0, &m.pid, 0.0, NULL, false}, &d);
    assert_non_null(d.unfit);
    for (uint32_t k = 0; k < ROWS; k++) { /* nothing moves at all */
        m.row[k] = (rgp_response_row){.time = 0.05 * k, .usable = true};
    }
    rgp_diagnose(&(rgp_loop_run){m.row, ROWS, &m.pid, 0.0, NULL, false}, &d);
    assert_null(d.unfit);
    assert_int_equal(d.first, RGP_CAUSE_HEALTHY);
    make_run(&m, (rgp_pid_gains){20.0f, 0.1f, 0.0f, 0.0f}, 9.9, 0.05); /* at its limit, and on its way to 10 */
    rgp_diagnose(&(rgp_loop_run){m.row + 61, 40, &m.pid, 0.0, NULL, false}, &d);
    assert_says(d.unfit, "it has to run for longer");
}

/* A loop that runs off, and one that swings ever farther. */
static void test_lost(void **unused)
{
    (void)unused;
    static made m;
    make_run(&m, (rgp_pid_gains){2.0f, 0.0f, 0.1f, 0.0f}, 100.0, 0.05);
    for (uint32_t k = 0; k < ROWS; k++) {
        m.row[k].target = 0.0;
        m.row[k].measured = 0.01 * exp(0.02 * k);
    }
    const rgp_loop_run run = run_of(&m);
    rgp_lost lost = rgp_lost_of(&run);
    g_autofree char *more = rgp_lost_trial(&run, &lost, &names);
    assert_int_equal(lost.turns, 0);
    assert_string_equal(more, "kp 4, kd 0.2");
    for (uint32_t k = 0; k < ROWS; k++) {
        m.row[k].measured *= cos(2.0 * G_PI * 0.05 * k / 3.0);
    }
    lost = rgp_lost_of(&run);
    g_autofree char *lead = rgp_lost_trial(&run, &lost, &names);
    assert_near(lost.period, 3.0, 0.1);
    assert_true(g_str_has_prefix(lead, "kd "));
    lost = rgp_lost_of(&(rgp_loop_run){m.row, 3, &m.pid, 0.0, NULL, false});
    assert_false(lost.known);
    assert_null(rgp_lost_trial(&run, &lost, &names));
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_causes),
        cmocka_unit_test(test_never_healthy),
        cmocka_unit_test(test_no_cause),
        cmocka_unit_test(test_map),
        cmocka_unit_test(test_limit),
        cmocka_unit_test(test_taken_away),
        cmocka_unit_test(test_what_may_be),
        cmocka_unit_test(test_load),
        cmocka_unit_test(test_foretold),
        cmocka_unit_test(test_between),
        cmocka_unit_test(test_kept_up),
        cmocka_unit_test(test_cut_off),
        cmocka_unit_test(test_trials),
        cmocka_unit_test(test_rules_of_thumb),
        cmocka_unit_test(test_told_apart),
        cmocka_unit_test(test_dead_band_in_vain),
        cmocka_unit_test(test_calmed),
        cmocka_unit_test(test_spikes),
        cmocka_unit_test(test_what_cannot_be_told),
        cmocka_unit_test(test_lost),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
