/* Process models: answers against closed forms, fits against what made the data, and the command on simulated
 * mechanisms whose constants are known. */
#include "support.h"

#include "analysis/process.h"
#include "analysis/relay.h"

#include <math.h>
#include <string.h>

#define ROWS 1200u
#define TICK 0.1

/* Up, down, down, up, and back. */
static void put_pulses(double *driven)
{
    static const double way[] = {0, 1, -1, -1, 1, 0};
    for (size_t k = 0; k < ROWS; k++) {
        driven[k] = way[k * 6 / ROWS];
    }
}

/* A step at row 10 is answered by 1 - e^(-t/T) behind a dead time of 3.7 ticks, and by two lags, as closed forms have
 * it; an integral by the time, and one behind a lag by t - T (1 - e^(-t/T)). */
static void test_answers(void **unused)
{
    (void)unused;
    double driven[200] = {0}, answer[200];
    for (size_t k = 10; k < 200; k++) {
        driven[k] = 1.0;
    }
    const rgp_process_data d = {driven, driven, 200, TICK};
    rgp_process_answer(&(rgp_plant){RGP_PROCESS_LAG, 1.0, 2.0, 0.0, 0.37}, &d, answer);
    for (size_t k = 0; k < 200; k++) {
        const double t = ((double)k - 10.0) * TICK - 0.37;
        assert_near(answer[k], t > 0.0 ? 1.0 - exp(-t / 2.0) : 0.0, 1e-12);
    }
    rgp_process_answer(&(rgp_plant){RGP_PROCESS_LAGS, 1.0, 2.0, 0.5, 0.37}, &d, answer);
    for (size_t k = 0; k < 200; k++) {
        const double t = fmax(0.0, ((double)k - 10.0) * TICK - 0.37);
        assert_near(answer[k], 1.0 - (2.0 * exp(-t / 2.0) - 0.5 * exp(-t / 0.5)) / 1.5, 2e-3);
    }
    rgp_process_answer(&(rgp_plant){RGP_PROCESS_INTEGRAL, 1.0, 1.0, 0.0, 0.37}, &d, answer);
    for (size_t k = 0; k < 200; k++) {
        assert_near(answer[k], fmax(0.0, ((double)k - 10.0) * TICK - 0.37), 1e-12);
    }
    rgp_process_answer(&(rgp_plant){RGP_PROCESS_GLIDE, 1.0, 1.0, 0.8, 0.37}, &d, answer);
    for (size_t k = 0; k < 200; k++) {
        const double t = fmax(0.0, ((double)k - 10.0) * TICK - 0.37);
        assert_near(answer[k], t - 0.8 * (1.0 - exp(-t / 0.8)), 2e-3);
    }
}

/* An answer in one go is to the bit what a plant gives that is driven tick by tick, of each kind and dead time. */
static void test_answers_in_one_go(void **unused)
{
    (void)unused;
    static const double deads[] = {0.0, 0.03, 0.1, 0.37, 4.0, 90.0};
    double driven[300], answer[300];
    GRand *chance = g_rand_new_with_seed(3);
    for (size_t k = 0; k < 300; k++) {
        driven[k] = k % 7 ? gauss(chance) : 1.0;
    }
    for (int kind = 0; kind < RGP_PROCESS_KINDS; kind++) {
        for (size_t i = 0; i < G_N_ELEMENTS(deads); i++) {
            const rgp_plant plant = {(rgp_process_kind)kind, 1.7, 2.0, 0.6, deads[i]};
            rgp_plant_state s;
            rgp_plant_begin(&s, &plant, TICK);
            rgp_plant_answer(&plant, TICK, driven, 300, answer);
            for (size_t k = 0; k < 300; k++) {
                const double stepped = rgp_plant_measured(&s);
                assert_memory_equal(&answer[k], &stepped, sizeof stepped);
                rgp_plant_drive(&s, driven, k);
            }
        }
    }
    g_rand_free(chance);
}

static bool holds(const rgp_estimate *e, double is)
{
    return e->low <= is && is <= e->high && e->low <= e->value && e->value <= e->high;
}

typedef struct made {
    rgp_process_kind kind;
    double correlation, noise;
} made;

/* The likeliest model alone is where all of them together are. */
static void check_glance(const rgp_process_data *d, const rgp_process *whole)
{
    rgp_process p;
    assert_true(rgp_process_glance(d, 0.0, &p));
    assert_int_equal(p.kind, whole->kind);
    assert_true(holds(&whole->gain, p.gain.value) && holds(&whole->dead, p.dead.value));
    assert_true(p.kind == RGP_PROCESS_INTEGRAL ||
                (holds(&whole->lag, p.lag.value) && holds(&whole->sum, p.lag.value + p.second + p.dead.value)));
    assert_near((p.gain.high - p.gain.low) / (whole->gain.high - whole->gain.low), 1.0, 0.3);
    assert_near(p.fit, whole->fit, 0.5);
}

static void check_fit(const made *of, const rgp_process_data *d, double *measured)
{
    double answer[ROWS], noise = 0.0;
    GRand *chance = g_rand_new_with_seed(100);
    const double lag = 4.0 + 3.0 * g_rand_double(chance), dead = 0.8 + 1.7 * g_rand_double(chance),
                 second = of->kind == RGP_PROCESS_LAGS ? 0.3 * lag : 0.0, rho = of->correlation;
    const bool integral = of->kind == RGP_PROCESS_INTEGRAL;
    rgp_process p;
    rgp_process_answer(&(rgp_plant){of->kind, 1.0, lag, second, dead}, d, answer);
    for (size_t k = 0; k < ROWS; k++) {
        noise = rho * noise + sqrt(1.0 - rho * rho) * of->noise * gauss(chance);
        measured[k] = k % 97 == 5 ? (double)NAN : 2.0 - 3.0 * answer[k] + noise;
    }
    assert_true(rgp_process_fit(d, &p));
    assert_int_equal(p.kind, integral ? RGP_PROCESS_INTEGRAL : RGP_PROCESS_LAG);
    assert_true(p.fit > 95.0);
    assert_false(p.misses);
    assert_near(p.gain.value, -3.0, 0.15);
    assert_true(holds(&p.gain, -3.0) && holds(&p.dead, dead));
    assert_true(integral || (holds(&p.sum, lag + second + dead) && holds(&p.lag, lag)));
    check_glance(d, &p);
    rgp_process_clear(&p);
    g_rand_free(chance);
}

/* Gain, sum, lag and dead time lie within the intervals that are told of them; an integral is told from a lag, and
 * readings that are missing do no harm. */
static void test_fits(void **unused)
{
    (void)unused;
    static const made cases[] = {{RGP_PROCESS_LAG, 0.0, 0.05},
                                 {RGP_PROCESS_LAG, 0.9, 0.05},
                                 {RGP_PROCESS_LAGS, 0.0, 0.05},
                                 {RGP_PROCESS_INTEGRAL, 0.0, 0.3}};
    double driven[ROWS], measured[ROWS];
    const rgp_process_data d = {driven, measured, ROWS, TICK};
    put_pulses(driven);
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        check_fit(&cases[i], &d, measured);
    }
}

/* A process that a PI controller regulates, with loads that come at rows of their own, and a new setpoint or none. */
typedef struct regulated {
    rgp_plant plant;
    double kp, ki, setpoint;
    size_t at[2];
    double size[2];
    double wave, period; /* driven units, seconds */
} regulated;

static void regulate(const regulated *r, double *driven, double *measured, GRand *chance)
{
    double with_loads[ROWS], integral = 0.0;
    rgp_plant_state s;
    rgp_plant_begin(&s, &r->plant, TICK);
    for (size_t k = 0; k < ROWS; k++) {
        measured[k] = rgp_plant_measured(&s) + 0.01 * gauss(chance);
        const double error = (k >= 100 ? r->setpoint : 0.0) - measured[k];
        integral += r->ki * TICK * error;
        driven[k] = r->kp * error + integral;
        with_loads[k] = driven[k];
        for (size_t i = 0; i < 2; i++) {
            with_loads[k] += k >= r->at[i] ? r->size[i] : 0.0;
        }
        with_loads[k] += r->wave > 0.0 ? r->wave * sin(2.0 * G_PI * (double)k * TICK / r->period) : 0.0;
        rgp_plant_drive(&s, with_loads, k);
    }
}

/* Loads that nothing tells of but what a loop did about them: the process within its intervals, and when each load
 * came, within its dead time, and how great it was. Without any none is told. */
static void test_loads(void **unused)
{
    (void)unused;
    static const regulated cases[] = {
        {{RGP_PROCESS_LAG, 2.0, 5.0, 0.0, 0.8}, 1.2, 0.3, 1.0, {500, 0}, {-0.4, 0.0}, 0.0, 0.0},
        {{RGP_PROCESS_LAG, 2.0, 5.0, 0.0, 0.8}, 1.2, 0.3, 0.0, {300, 800}, {-0.4, 0.5}, 0.0, 0.0},
        {{RGP_PROCESS_LAG, 2.0, 5.0, 0.0, 0.8}, 1.2, 0.3, 1.0, {0, 0}, {0.0, 0.0}, 0.0, 0.0},
        {{RGP_PROCESS_INTEGRAL, 0.5, 1.0, 0.0, 0.9}, 0.9, 0.1, 1.0, {600, 0}, {0.3, 0.0}, 0.0, 0.0},
        {{RGP_PROCESS_GLIDE, 0.5, 1.0, 1.5, 0.6}, 0.8, 0.05, 1.0, {600, 0}, {0.3, 0.0}, 0.0, 0.0},
    };
    double driven[ROWS], measured[ROWS];
    const rgp_process_data d = {driven, measured, ROWS, TICK};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        const regulated *r = &cases[i];
        const size_t loads = (size_t)(r->size[0] != 0.0) + (size_t)(r->size[1] != 0.0);
        GRand *chance = g_rand_new_with_seed((guint32)i + 20);
        rgp_process p;
        regulate(r, driven, measured, chance);
        assert_true(rgp_process_fit_held(&d, r->kp, &p));
        assert_true(p.fit > 95.0);
        assert_true(holds(&p.gain, r->plant.gain));
        assert_near(p.gain.value / r->plant.gain, 1.0, 0.1);
        assert_true(holds(&p.dead, r->plant.dead));
        assert_near(p.second, r->plant.second, 0.1);
        assert_int_equal(p.loads, loads);
        for (size_t k = 0; k < loads; k++) {
            assert_near(p.came[k].at.value, (double)r->at[k] * TICK + r->plant.dead, 0.3);
            assert_near(p.came[k].size.value / r->size[k], 1.0, 0.05);
            assert_true(holds(&p.came[k].at, (double)r->at[k] * TICK + r->plant.dead));
            assert_true(holds(&p.came[k].size, r->size[k]));
        }
        rgp_process_clear(&p);
        g_rand_free(chance);
    }
}

/* A servo, an integral behind a lag, which a loop swings: at a glance its lag is found besides the dead time, with a
 * load in between and without. */
static void test_glide(void **unused)
{
    (void)unused;
    double driven[ROWS], measured[ROWS];
    const rgp_process_data d = {driven, measured, ROWS, TICK};
    for (int loaded = 0; loaded < 2; loaded++) {
        const regulated r = {
            {RGP_PROCESS_GLIDE, 0.5, 1.0, 1.5, 0.6}, 0.8, 0.05, 1.0, {600, 0}, {loaded ? 0.3 : 0.0, 0.0}, 0.0, 0.0};
        GRand *chance = g_rand_new_with_seed(31);
        rgp_process p;
        regulate(&r, driven, measured, chance);
        assert_true(rgp_process_glance(&d, 1.0, &p));
        assert_int_equal(rgp_process_glance_besides(&d, 1.0, 0.01, 0.0, &p), loaded);
        assert_int_equal(p.kind, RGP_PROCESS_INTEGRAL);
        assert_near(p.gain.value, 0.5, 0.02);
        assert_near(p.second, 1.5, 0.1);
        assert_near(p.dead.value, 0.6, 0.1);
        assert_true(p.fit > 99.0);
        g_rand_free(chance);
    }
}

/* A swing alone tells no sign, so the one that is asked for is found, with the other's dead time half a period away;
 * steps tell it, whatever is asked for. */
static void test_way(void **unused)
{
    (void)unused;
    double driven[ROWS], measured[ROWS];
    const rgp_process_data d = {driven, measured, ROWS, TICK};
    const rgp_plant plant = {RGP_PROCESS_LAG, 2.0, 3.0, 0.0, 0.8};
    const double turns = 2.0 * G_PI / 5.0, late = 0.8 * turns + atan(3.0 * turns),
                 height = 2.0 / hypot(1.0, 3.0 * turns);
    for (int swings = 0; swings < 2; swings++) {
        GRand *chance = g_rand_new_with_seed(19);
        put_pulses(driven);
        rgp_plant_answer(&plant, TICK, driven, ROWS, measured);
        for (size_t k = 0; k < ROWS; k++) {
            if (swings) { /* since long ago */
                driven[k] = sin(turns * ((double)k + 0.5) * TICK);
                measured[k] = height * sin(turns * (double)k * TICK - late);
            }
            measured[k] += (swings ? 0.3 : 0.02) * gauss(chance);
        }
        for (double way = -1.0; way <= 1.0; way += 2.0) {
            rgp_process p;
            assert_true(rgp_process_glance(&d, way, &p));
            assert_true(p.fit > (swings ? 50.0 : 99.0));
            assert_int_equal(p.gain.value > 0.0, way > 0.0 || !swings);
        }
        g_rand_free(chance);
    }
}

/* A loop that is moved by a wave from outside: with it the process is found as it is, which the loop's answer to the
 * wave hides without; a load in between is found beside it. Of a loop that swings by itself there is no wave. */
static void test_wave(void **unused)
{
    (void)unused;
    static const regulated cases[] = {
        {{RGP_PROCESS_LAG, 2.0, 5.0, 0.0, 0.8}, 1.2, 0.3, 1.0, {0, 0}, {0.0, 0.0}, 0.3, 9.0},
        {{RGP_PROCESS_LAG, 2.0, 5.0, 0.0, 0.8}, 1.2, 0.3, 1.0, {600, 0}, {-0.4, 0.0}, 0.3, 9.0},
        {{RGP_PROCESS_LAG, 2.0, 5.0, 0.0, 0.8}, 4.85, 0.3, 1.0, {0, 0}, {0.0, 0.0}, 0.0, 0.0},
    };
    double driven[ROWS], measured[ROWS];
    const rgp_process_data d = {driven, measured, ROWS, TICK};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        const regulated *r = &cases[i];
        GRand *chance = g_rand_new_with_seed(41);
        rgp_process p;
        regulate(r, driven, measured, chance);
        assert_true(rgp_process_glance(&d, 1.0, &p));
        assert_int_equal(rgp_process_glance_besides(&d, 1.0, 0.01, r->wave > 0.0 ? 9.3 : 3.0, &p), r->wave > 0.0);
        assert_near(p.gain.value / 2.0, 1.0, 0.05);
        assert_near(p.lag.value / 5.0, 1.0, 0.05);
        assert_near(p.dead.value, 0.8, 0.1);
        assert_near(p.wave, r->period, 0.05);
        assert_int_equal(p.loads, r->size[0] != 0.0);
        g_rand_free(chance);
    }
}

static void test_too_little(void **unused)
{
    (void)unused;
    double driven[60] = {0}, measured[60] = {0};
    rgp_process p;
    const rgp_process_data still = {driven, measured, 60, TICK}, few = {driven, measured, 30, TICK};
    assert_false(rgp_process_fit(&still, &p));
    driven[30] = 1.0;
    assert_false(rgp_process_fit(&few, &p));
    for (int i = 0; i < 60; i++) {
        measured[i] = (double)NAN;
    }
    assert_false(rgp_process_fit(&still, &p));
    for (int i = 0; i < 60; i++) { /* nothing of it goes into what is measured: it is fitted, and is bad */
        measured[i] = i % 2;
    }
    assert_true(rgp_process_fit(&still, &p));
    assert_true(p.fit < 50.0);
    rgp_process_clear(&p);
}

/* Spikes, up to three in a row, are left out and counted; where they come more often than one in ten, none are. What
 * moves quickly is no spike, also where there is no noise. */
static void test_spikes(void **unused)
{
    (void)unused;
    double driven[ROWS], answer[ROWS], measured[ROWS];
    const rgp_process_data d = {driven, measured, ROWS, TICK};
    static const rgp_plant plants[] = {{RGP_PROCESS_LAG, 2.0, 5.0, 0.0, 1.0},
                                       {RGP_PROCESS_INTEGRAL, 2.0, 0.0, 0.0, 1.0}};
    GRand *chance = g_rand_new_with_seed(7);
    put_pulses(driven);
    for (size_t i = 0; i < G_N_ELEMENTS(plants); i++) {
        rgp_process p;
        rgp_process_answer(&plants[i], &d, measured);
        assert_true(rgp_process_fit(&d, &p));
        assert_int_equal(p.spikes, 0);
        rgp_process_clear(&p);
    }
    rgp_process_answer(&plants[0], &d, answer);
    static const size_t apart[] = {40, 8}; /* three in a row in each 40: 7.5 %; in each 8: 37 % */
    for (size_t i = 0; i < G_N_ELEMENTS(apart); i++) {
        const size_t every = apart[i];
        rgp_process p;
        size_t put = 0;
        for (size_t k = 0; k < ROWS; k++) {
            const bool spike = k % every >= 5 && k % every < 8;
            put += spike;
            measured[k] = answer[k] + 0.05 * gauss(chance) + (spike ? -8.0 : 0.0);
        }
        assert_true(rgp_process_fit(&d, &p));
        assert_int_equal(p.spikes, every == 40 ? put : 0);
        assert_true(every == 8 || (holds(&p.gain, 2.0) && holds(&p.lag, 5.0) && holds(&p.dead, 1.0)));
        rgp_process_clear(&p);
    }
    g_rand_free(chance);
}

/* A process that first goes the other way is none of the models: what is left over follows what was driven. */
static void test_misses(void **unused)
{
    (void)unused;
    double driven[ROWS], slow[ROWS], quick[ROWS], measured[ROWS];
    const rgp_process_data d = {driven, measured, ROWS, TICK};
    rgp_process p;
    GRand *chance = g_rand_new_with_seed(9);
    put_pulses(driven);
    rgp_process_answer(&(rgp_plant){RGP_PROCESS_LAG, 3.0, 4.0, 0.0, 0.5}, &d, slow);
    rgp_process_answer(&(rgp_plant){RGP_PROCESS_LAG, -1.5, 0.8, 0.0, 0.5}, &d, quick);
    for (size_t k = 0; k < ROWS; k++) {
        measured[k] = slow[k] + quick[k] + 0.05 * gauss(chance);
    }
    assert_true(rgp_process_fit(&d, &p));
    assert_true(p.misses && p.later < 10.0);
    rgp_process_clear(&p);
    g_rand_free(chance);
}

/* A process that falls, held by a PD controller that is pushed to and fro, for long and for short: found as one that
 * falls, within its intervals, at its place; the same rows without a loop in charge make no such model, and a lag that
 * is held makes a lag. */
enum { FALLING_ROWS = 45000 };

static void check_falling(size_t rows, guint32 seeds)
{
    static double driven[FALLING_ROWS], off[FALLING_ROWS], measured[FALLING_ROWS];
    const double tick = 0.005, place = 1.5, lag = 0.19, dead = 0.012, gain = 0.2;
    const rgp_plant plant = {RGP_PROCESS_FALLING, gain, lag, 0.0, dead};
    unsigned hits = 0;
    for (guint32 seed = 0; seed < seeds; seed++) {
        const rgp_process_data d = {driven, measured, rows, tick};
        GRand *chance = g_rand_new_with_seed(seed);
        rgp_plant_state s;
        rgp_process p;
        double before = 0.0;
        rgp_plant_begin(&s, &plant, tick);
        for (size_t k = 0; k < d.count; k++) {
            measured[k] = place + rgp_plant_measured(&s) + 0.02 * gauss(chance);
            const double away = measured[k] - place, push = k / 200 % 3 == 1 ? 10.0 : k / 200 % 3 == 2 ? -10.0 : 0.0;
            off[k] = -3.0 / gain * away - 0.3 * (away - before) / tick / gain * 0.2 + push;
            before = away;
            driven[k] = off[k];
            rgp_plant_drive(&s, off, k);
        }
        assert_true(rgp_process_fit_held(&d, 3.0 / gain, &p));
        assert_int_equal(p.kind, RGP_PROCESS_FALLING);
        hits += (holds(&p.gain, gain) ? 1u : 0u) + (holds(&p.lag, lag) ? 1u : 0u) + (holds(&p.dead, dead) ? 1u : 0u);
        assert_true(fabs(p.gain.value / gain - 1.0) < 0.01 && fabs(p.lag.value / lag - 1.0) < 0.01);
        assert_near(p.rest, place, 0.01);
        rgp_process_clear(&p);
        assert_true(rgp_process_fit(&d, &p));
        assert_int_not_equal(p.kind, RGP_PROCESS_FALLING);
        rgp_process_clear(&p);
        g_rand_free(chance);
    }
    assert_true(hits + 2 >= 3 * seeds);
}

static void test_falling(void **unused)
{
    (void)unused;
    check_falling(3000, 1 + OFTEN(2));
}

static void test_falling_for_long_at_length(void **unused)
{
    (void)unused;
    check_falling(FALLING_ROWS, 1);
}

/* Small setpoints, two shoves, and else the noise of its readings, which the loop answers, and which may hold on;
 * somebody may hold it for a second at the beginning, too: the numbers are the same, in their intervals, but for two in
 * sixteen. */
static void test_falling_in_an_ordinary_run_at_length(void **unused)
{
    (void)unused;
    enum { ORDINARY = 6000, BY_HAND = 200 };
    static double driven[ORDINARY], measured[ORDINARY];
    const double tick = 0.005, lag = 0.19, gain = 0.2, place = 1.5;
    const rgp_plant plant = {RGP_PROCESS_FALLING, gain, lag, 0.0, 0.012};
    unsigned hits = 0, fits = 0;
    for (guint32 seed = 0; seed < 8; seed++) {
        GRand *chance = g_rand_new_with_seed(seed);
        const bool is_held = seed & 1u;
        const double stays = seed & 2u ? 0.9 : 0.0;
        double noise = 0.0, before = 0.0;
        rgp_plant_state s;
        rgp_process p;
        rgp_plant_begin(&s, &plant, tick);
        for (size_t k = 0; k < ORDINARY; k++) {
            noise = stays * noise + sqrt(1.0 - stays * stays) * 0.02 * gauss(chance);
            const bool held = is_held && k < BY_HAND;
            const double asked = k / 400 % 2 ? 0.3 : -0.3, away = (held ? -1.0 : rgp_plant_measured(&s)) + noise;
            measured[k] = place + away;
            driven[k] = -3.0 / gain * (away - asked) - 0.3 * (away - before) / tick / gain * 0.2;
            before = away;
            if (held) { /* as it is let go, from where it is driven then */
                rgp_plant_begin(&s, &plant, tick);
            }
            rgp_plant_drive(&s, driven, k);
            s.z += k == 1600 ? lag * 40.0 / gain : k == 2800 ? -lag * 40.0 / gain : 0.0; /* deg/s */
        }
        assert_true(rgp_process_fit_held(&(rgp_process_data){driven, measured, ORDINARY, tick}, 3.0 / gain, &p));
        assert_int_equal(p.kind, RGP_PROCESS_FALLING);
        hits += (holds(&p.gain, gain) ? 1u : 0u) + (holds(&p.lag, lag) ? 1u : 0u);
        fits += 2;
        assert_true(fabs(p.gain.value / gain - 1.0) < 0.05 && fabs(p.lag.value / lag - 1.0) < 0.05);
        rgp_process_clear(&p);
        g_rand_free(chance);
    }
    assert_true(hits + 2 >= fits);
}

/* A process that answers half as strongly again below the middle as above: both gains are told; of one that does not,
 * none are, whatever its noise. */
static void test_sides(void **unused)
{
    (void)unused;
    double driven[ROWS], each[2][ROWS], side[ROWS], measured[ROWS];
    const rgp_process_data d = {driven, measured, ROWS, TICK};
    const rgp_plant plant = {RGP_PROCESS_LAG, 1.0, 5.0, 0.0, 1.0};
    put_pulses(driven);
    for (int below = 0; below < 2; below++) {
        for (size_t k = 0; k < ROWS; k++) {
            side[k] = below ? fmin(0.0, driven[k]) : fmax(0.0, driven[k]);
        }
        rgp_process_answer(&plant, &(rgp_process_data){side, side, ROWS, TICK}, each[below]);
    }
    for (guint32 seed = 0; seed < 8; seed++) {
        GRand *chance = g_rand_new_with_seed(seed);
        const double rho = seed % 2 ? 0.9 : 0.0, strength = seed < 4 ? 1.0 : 1.5;
        double noise = 0.0;
        rgp_process p;
        for (size_t k = 0; k < ROWS; k++) {
            noise = rho * noise + sqrt(1.0 - rho * rho) * 0.04 * gauss(chance);
            measured[k] = 2.0 + each[0][k] + strength * each[1][k] + noise;
        }
        assert_true(rgp_process_fit(&d, &p));
        if (seed < 4) {
            assert_true(p.up == 0.0 && p.down == 0.0);
        } else {
            assert_near(p.up, 1.0, 0.15);
            assert_near(p.down, 1.5, 0.15);
        }
        rgp_process_clear(&p);
        g_rand_free(chance);
    }
}

/* Each reason not to build on a model, by itself; a sound one has none. */
static void test_doubts(void **unused)
{
    (void)unused;
    static const struct {
        double fit, excursion, gain_half, lag_ratio, lag, load;
        const char *says;
    } cases[] = {{99, 10, 0.01, 1.1, 5, 0, NULL},
                 {79, 10, 0.01, 1.1, 5, 0, "it leaves 21 % of what moved unexplained"},
                 {99, 0.5, 0.01, 1.1, 5, 0, "moved by 5 noises of a reading, at least 6 are needed"},
                 {99, 10, 0.31, 1.1, 5, 0, "the gain is not known to a third"},
                 {99, 10, 0.01, 3.0, 5, 0, "the lag is not known to a half"},
                 {99, 10, 0.01, (double)INFINITY, 5, 0, "the lag is not known to a half"},
                 {99, 10, 0.01, 1.1, 0.2, 0, "shorter than three steps of the loop, one each 100 ms"},
                 {99, 10, 0.01, 1.1, 5, 0.6, "a load that wanders is in it"}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        const double wide = cases[i].lag_ratio;
        const rgp_process p = {.kind = RGP_PROCESS_LAG,
                               .gain = {-1.0, -1.0 - cases[i].gain_half, -1.0 + cases[i].gain_half},
                               .lag = {cases[i].lag, cases[i].lag / wide, cases[i].lag * wide},
                               .fit = cases[i].fit,
                               .noise = 0.1,
                               .excursion = cases[i].excursion,
                               .load = cases[i].load};
        g_autoptr(GPtrArray) doubts = rgp_process_doubts(&p, 0.1);
        assert_int_equal(doubts->len, cases[i].says != NULL);
        if (cases[i].says) {
            assert_says(doubts->pdata[0], cases[i].says);
        }
    }
}

/* A relay on a process that is known: the answer at the swing's frequency is that of the closed form
 * K e^(-j w dead) / (1 + j w lag), without noise to 0.6 % and 0.2 degrees, with noise within four of its errors; a
 * middle that is off is moved until up and down last as long. */
static void test_relay(void **unused)
{
    (void)unused;
    enum { ROWS_MOST = 6000 };
    static double driven[ROWS_MOST], measured[ROWS_MOST];
    static const struct {
        double lag, dead, noise, off;
    } cases[] = {{4.0, 1.0, 0.0, 0.0}, {4.0, 0.43, 0.0, 0.0}, {1.0, 2.0, 0.0, 6.0}, {4.0, 1.0, 0.05, 3.0}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        const rgp_plant plant = {RGP_PROCESS_LAG, -2.0, cases[i].lag, 0.0, cases[i].dead};
        GRand *chance = g_rand_new_with_seed(4);
        const double tick = 0.05;
        rgp_plant_state s;
        rgp_relay relay;
        rgp_relay_answer a;
        size_t rows = 0;
        rgp_plant_begin(&s, &plant, tick);
        rgp_relay_begin(&relay, 50.0 + cases[i].off, 10.0, 0.0, 4.0 * cases[i].noise, true);
        while (!rgp_relay_is_over(&relay) && rows < ROWS_MOST) {
            measured[rows] = rgp_plant_measured(&s) + cases[i].noise * gauss(chance);
            driven[rows] = rgp_relay_step(&relay, measured[rows]) - 50.0;
            rgp_plant_drive(&s, driven, rows++);
        }
        assert_null(rgp_relay_answer_of(&relay, driven, measured, &a));
        const double w = 2.0 * G_PI / (a.period * tick);
        const double complex is = -2.0 * cexp(-I * w * plant.dead) / (1.0 + I * w * plant.lag);
        assert_near(cabs(a.answer) / cabs(is), 1.0, 0.006 + 4.0 * a.gain_error / cabs(is));
        assert_near(carg(a.answer / is) * 180.0 / G_PI, 0.0, 0.25 + 4.0 * a.phase_error * 180.0 / G_PI);
        if (cases[i].off > 0.0 && (relay.shifts == 0 || fabs(relay.middle - 50.0) > 0.5 * cases[i].off)) {
            fail_msg("%zu: moved %u times, to %g", i, relay.shifts, relay.middle);
        }
        rgp_relay_end(&relay);
        g_rand_free(chance);
    }
}

/* A relay that never turns, and one that has not swung for long enough, say nothing. */
static void test_relay_too_short(void **unused)
{
    (void)unused;
    const double none[64] = {0};
    rgp_relay relay;
    rgp_relay_answer a;
    rgp_relay_begin(&relay, 0.0, 1.0, 0.0, 0.1, false);
    for (int i = 0; i < 20; i++) {
        rgp_relay_step(&relay, i < 10 ? 0.0 : (double)NAN);
    }
    assert_string_equal(rgp_relay_answer_of(&relay, none, none, &a), "it never turned");
    for (int i = 0; i < 12; i++) {
        rgp_relay_step(&relay, i % 4 < 2 ? 1.0 : -1.0);
    }
    assert_string_equal(rgp_relay_answer_of(&relay, none, none, &a), "it did not swing for long enough");
    rgp_relay_end(&relay);
}

static const char lagging[] = "rig lagging\ntick 50 ms\nsensor raw counts 0..4095, every 50 ms\n"
                              "actuator heat percent 0..100, rest at 0\nsignal warm = raw / 40 counts\n"
                              "loop w: warm at 50 with heat\n    pid kp 1, ki 0.1, kd 0\n    one way\n"
                              "hookup sim\n    lag l: driven by heat, gain 0.8, time 4 s, dead 1 s\n"
                              "    raw sees l value: 0 at 0, 4000 at 100, noise 3\n";

static const char playing[] =
    "rig playing\ntick 50 ms\nsensor raw counts 0..4095\n"
    "actuator lever deg -90..90, rest at 0\nsignal turned = raw | line 0.05 deg/counts, -102.4 deg\n"
    "loop w: turned at 0 deg with lever\n    pid kp 0.1, ki 0.1, kd 0\n"
    "hookup sim\n    platform p: tilted by lever, swing 0 deg, lag 400 ms, speed 500 deg/s, play 6 deg\n"
    "    raw sees p angle: 0 at -102.4 deg, 4095 at 102.35 deg, noise 1\n";

static const call_case asked[] = {
    {"model lagging.rig w --fast -o m.svg --json", 0, "\"kind\": \"lag\""},
    {"model lagging.rig w --from run --begin 5s", 0, "1100 readings of 50 ms"},
    {"model boiler.rig steam --at 40% --size 20% --each 5min --fast", 0, "as a line of the loop:\n    predict gain "},
    {"model lagging.rig w --fast --size 0.01%", 1, "the gain is not known to a third"},
    {"model lagging.rig w --fast --at 95%", 2, "that does not lie within 0 to 100 %"},
    {"model lagging.rig w --fast --each 0s", 2, "each for 0 s"},
    {"model lagging.rig w --fast --test relay", 0, "deg late\nas a line of the loop:"},
    {"model lagging.rig w --fast --test relay --json", 0, "\"late_deg\": 16"},
    {"model lagging.rig w --fast --test step --times 2", 0, "1200 readings of 50 ms"},
    {"model lagging.rig w --fast --times 2", 0, "4000 readings of 50 ms"},
    {"model slow.rig w --fast", 0, "923 readings of 130 ms"},
    {"model turned.rig w --fast --test relay", 2, "the relay about 40"},
    {"model lagging.rig w --fast --test rely", 2, "--test: there is no test 'rely'; did you mean 'relay'?"},
    {"model lagging.rig w --fast --each 9s --within 1", 2, "has left 1 "},
    {"model lagging.rig w --fast --each 9s --within 500", 0, "a gain behind a lag"},
    {"model lagging.rig w --from run --within 3", 2, "a recording is as it is"},
    {"model lagging.rig w --fast --test halves", 0, "a gain behind a lag"},
    {"model play.rig w --fast --each 3s --size 10deg --test halves", 1, "there is a play or a friction in it"},
    {"model lagging.rig w --fast --times 1.5", 2, "--times 1.5: a whole number from 1 to 100"},
    {"model lagging.rig v", 2, "there is no loop 'v'; there is w"},
    {"model basin.rig tide", 2, "there is no loop 'tide'; there are none"},
    {"model lagging.rig w --from none", 2, "none"},
    {"model lagging.rig w --from run --begin noon", 2, "--begin noon: it is no time"},
    {"model lagging.rig w --from run --begin 9s --until 8s", 2, "there is nothing between --begin and --until"},
    {"model lagging.rig w --from run --fast", 2, "a recording is as it is"},
    {"model lagging.rig w --begin 3s", 2, "go with --from RECORDING"},
    {"model lagging.rig w --from tides", 2, "the recording does not hold 'warm'"},
    {"model lagging.rig w -o m.gif", 2, "ends with .png or .svg"},
    {"model unnamed.rig w --fast", 2, "has no name: put 'signal it = ...' before the loop"},
};

/* Of an ordinary run of the boiler, in which its door was opened and shut. */
static const call_case asked_of_kettle[] = {
    {"model boiler.rig steam --from kettle --begin 15min", 0, "  a load came at 25.1 min ±"},
    {"model boiler.rig steam --from kettle -o m.svg", 0, " and stayed, as if 9.37 ±"},
    {"model boiler.rig steam --from kettle --json", 0,
     "\"loads\": [\n    {\n      \"time_s\": {\n        \"value\": 149"},
    {"model boiler.rig steam --from kettle --until 24min --json", 0, "\"loads\": []"},
    {"suggest boiler.rig steam --from kettle --begin 15min", 0, "it begins like an integral, gain 0.0019"},
};

static double number_in(const char *text, const char *behind)
{
    const char *at = strstr(text, behind);
    assert_non_null(at);
    return g_ascii_strtod(at + strlen(behind), NULL);
}

static void test_kettle_at_length(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", "boiler.rig");
    const call_case run = {"run boiler.rig --for 40min --fast --record kettle --quiet", 0, ""};
    put_file(folder, "boiler.rig", text, -1);
    check_calls(folder, &run, 1);
    check_calls(folder, asked_of_kettle, G_N_ELEMENTS(asked_of_kettle));
    g_autofree char *drawn = get_file(folder, "m.svg");
    assert_says(drawn, "</svg>");
    g_autofree char *rows = get_file(folder, "kettle.csv");
    char *gap = strstr(rows, "\n1100.");
    assert_non_null(gap);
    memmove(gap, strstr(gap, "\n1160."), strlen(strstr(gap, "\n1160.")) + 1); /* a minute is missing */
    put_file(folder, "kettle.csv", rows, -1);
    check_calls(folder, asked_of_kettle, 2);
    remove_folder(folder);
}

static void put_variant(const char *folder, const char *name, const char *what, const char *with)
{
    g_autoptr(GString) text = g_string_new(lagging);
    assert_int_equal(g_string_replace(text, what, with, 1), 1);
    put_file(folder, name, text->str, -1);
}

/* The command finds what the hook-up says, and the line that is printed is one that the loop takes. */
static void test_command(void **unused)
{
    (void)unused;
    static const char *const examples[] = {"boiler.rig", "basin.rig"};
    char *folder = make_folder();
    for (size_t i = 0; i < G_N_ELEMENTS(examples); i++) {
        g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", examples[i]);
        put_file(folder, examples[i], text, -1);
    }
    put_file(folder, "lagging.rig", lagging, -1);
    put_file(folder, "play.rig", playing, -1);
    g_autoptr(GString) unnamed = g_string_new(lagging);
    g_string_replace(unnamed, "warm at 50", "raw / 40 counts at 50", 1);
    put_file(folder, "unnamed.rig", unnamed->str, -1);
    put_variant(folder, "slow.rig", "noise 3", "noise 3, period 130 ms");
    put_variant(folder, "turned.rig", "one way", "one way\n    reverse");
    static const char *const prepare[] = {"run lagging.rig --for 60s --fast --record run --quiet",
                                          "run basin.rig --for 5s --fast --record tides --quiet"};
    for (size_t i = 0; i < G_N_ELEMENTS(prepare); i++) {
        called c = call_tool(folder, prepare[i]);
        assert_int_equal(c.status, 0);
        call_done(&c);
    }
    check_calls(folder, asked, G_N_ELEMENTS(asked));
    called c = call_tool(folder, "model lagging.rig w --fast");
    const char *line = strstr(c.out, "predict gain ");
    assert_non_null(line);
    assert_near(number_in(c.out, "predict gain "), 0.8, 0.01);
    assert_near(number_in(c.out, ", lag "), 4.0, 0.1);
    assert_near(number_in(c.out, ", dead "), 1.0, 0.1);
    g_autofree char *with = g_strdup_printf("one way\n    %.*s", (int)strcspn(line, "\n"), line);
    g_autoptr(GString) text = g_string_new(lagging);
    g_string_replace(text, "one way", with, 1);
    put_file(folder, "with.rig", text->str, -1);
    called check = call_tool(folder, "check with.rig");
    assert_int_equal(check.status, 0);
    call_done(&check);
    call_done(&c);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_answers),
        cmocka_unit_test(test_answers_in_one_go),
        cmocka_unit_test(test_loads),
        cmocka_unit_test(test_glide),
        cmocka_unit_test(test_way),
        cmocka_unit_test(test_wave),
        cmocka_unit_test(test_fits),
        cmocka_unit_test(test_too_little),
        cmocka_unit_test(test_spikes),
        cmocka_unit_test(test_misses),
        cmocka_unit_test(test_falling),
        cmocka_unit_test(test_falling_in_an_ordinary_run_at_length),
        cmocka_unit_test(test_sides),
        cmocka_unit_test(test_doubts),
        cmocka_unit_test(test_relay),
        cmocka_unit_test(test_relay_too_short),
        cmocka_unit_test(test_command),
        cmocka_unit_test(test_kettle_at_length),
        cmocka_unit_test(test_falling_for_long_at_length),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
