/* Captures, changes and answers on readings that are made here, so that what is in them is known. */
#include "support.h"

#include "analysis/answer.h"
#include "analysis/change.h"
#include "analysis/capture.h"
#include "analysis/fit.h"
#include "analysis/response.h"

#include "explain/describe.h"

#include <gsl/gsl_randist.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>
#include <string.h>

/* ---- captures -------------------------------------------------------------------------------------- */

enum { READINGS = 60 };

typedef struct capture_case {
    const char *what;
    double noise, drift, swing, period; /* counts; seconds */
    double strays;                      /* share of readings that are 0 */
    double bad;                         /* share of readings that are missing */
    double at;
    double noise_before;
    const char *refused; /* a piece of the reason; NULL: believed */
} capture_case;

static const capture_case capture_cases[] = {
    {"a quiet sensor", 0, 0, 0, 1, 0, 0, 1000, 0, NULL},
    {"noise within a count", 0.3, 0, 0, 1, 0, 0, 1000, 0, NULL},
    {"noise", 6, 0, 0, 1, 0, 0, 1000, 5, NULL},
    {"a few misses", 6, 0, 0, 1, 0.08, 0, 1000, 5, NULL},
    {"a few bad readings", 6, 0, 0, 1, 0, 0.05, 1000, 5, NULL},
    {"a drift within the noise", 6, 3, 0, 1, 0, 0, 1000, 0, NULL},
    {"a swing of a fifth of the window", 6, 0, 4, 0.12, 0, 0, 1000, 0, NULL},
    {"a drift", 6, 60, 0, 1, 0, 0, 1000, 0, "it drifts"},
    {"a drift of a quiet sensor", 0, 6, 0, 1, 0, 0, 1000, 0, "it drifts"},
    {"a swing", 4, 0, 40, 0.9, 0, 0, 1000, 0, "it swings"},
    {"twenty times the noise of before", 80, 0, 0, 1, 0, 0, 1000, 4, "it is noisy"},
    {"nothing but noise", 400, 0, 0, 1, 0, 0, 2000, 0, "too noisy"},
    {"many misses", 6, 0, 0, 1, 0.4, 0, 1000, 0, "lie far from the others"},
    {"a rail", 0, 0, 0, 1, 0, 0, 4095, 0, "end of its range"},
    {"bad readings", 6, 0, 0, 1, 0, 0.3, 1000, 0, "mostly missing"},
};

static rgp_intake intake_of(const capture_case *k, double at, gsl_rng *chance)
{
    rgp_intake in = {.sensor = "s",
                     .unit = "counts",
                     .input = "s",
                     .input_unit = "counts",
                     .tick = 0.02,
                     .high = 4095,
                     .raw = g_array_new(FALSE, FALSE, sizeof(double)),
                     .in = g_array_new(FALSE, FALSE, sizeof(double)),
                     .raw_quality = g_array_new(FALSE, FALSE, sizeof(rgp_quality)),
                     .in_quality = g_array_new(FALSE, FALSE, sizeof(rgp_quality))};
    for (int i = 0; i < READINGS; i++) {
        const double time = i * in.tick, share = (double)i / READINGS;
        double x = at + k->drift * share + k->swing * sin(2.0 * G_PI * time / k->period);
        x = round(x + gsl_ran_gaussian(chance, k->noise > 0.0 ? k->noise : 1e-9));
        x = gsl_rng_uniform(chance) < k->strays ? 0.0 : CLAMP(x, 0.0, 4095.0);
        const rgp_quality quality = gsl_rng_uniform(chance) < k->bad ? RGP_MISSING : RGP_GOOD;
        g_array_append_val(in.raw, x);
        g_array_append_val(in.in, x);
        g_array_append_val(in.raw_quality, quality);
        g_array_append_val(in.in_quality, quality);
    }
    return in;
}

static void drop(rgp_intake *in)
{
    g_array_unref(in->raw);
    g_array_unref(in->in);
    g_array_unref(in->raw_quality);
    g_array_unref(in->in_quality);
}

/* Over many seeds: nearly all are judged rightly, and where they are believed the stated error holds. */
static void test_captures(void **unused)
{
    (void)unused;
    enum { SEEDS = 200 };
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (size_t i = 0; i < sizeof capture_cases / sizeof *capture_cases; i++) {
        const capture_case *k = &capture_cases[i];
        int right = 0, within = 0, believed = 0, named = 0;
        for (int seed = 0; seed < SEEDS; seed++) {
            gsl_rng_set(chance, (unsigned long)(1000 * i + (size_t)seed));
            const double at = k->at + gsl_rng_uniform(chance); /* anywhere between two counts */
            rgp_intake in = intake_of(k, at, chance);
            rgp_capture c = rgp_capture_window(&in, 0, READINGS, k->noise_before);
            right += !k->refused == !c.reason;
            named += k->refused && c.reason && strstr(c.reason, k->refused);
            believed += !c.reason;
            within += !c.reason && fabs(c.in - at - k->drift / 2.0) <= 2.5 * c.in_error;
            rgp_capture_clear(&c);
            drop(&in);
        }
        if (right < SEEDS * 96 / 100 || (k->refused ? named < SEEDS * 90 / 100 : within < believed * 95 / 100)) {
            fail_msg("%s: %d of %d judged rightly, %d for the reason, %d of %d within the error", k->what, right, SEEDS,
                     named, within, believed);
        }
    }
    gsl_rng_free(chance);
}

/* A capture of few readings is not believed, yet its mean is theirs, never 0. */
static void test_few_readings(void **unused)
{
    (void)unused;
    const capture_case steady = {"", 3, 0, 0, 1, 0, 0, 2000, 0, NULL}, silent = {"", 3, 0, 0, 1, 0, 1, 2000, 0, NULL};
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    rgp_intake in = intake_of(&steady, steady.at, chance);
    for (guint n = 1; n <= RGP_CAPTURE_READINGS_LEAST; n++) {
        rgp_capture c = rgp_capture_window(&in, 20, 20 + n, 0.0);
        assert_int_equal(c.usable, n);
        assert_near(c.in, 2000.0, 15.0);
        assert_near(c.raw, 2000.0, 15.0);
        assert_true(n == RGP_CAPTURE_READINGS_LEAST || strstr(c.reason, "too few"));
        rgp_capture_clear(&c);
    }
    drop(&in);
    in = intake_of(&silent, silent.at, chance);
    rgp_capture c = rgp_capture_window(&in, 0, READINGS, 0.0);
    assert_int_equal(c.usable, 0);
    assert_says(c.reason, "were bad");
    rgp_capture_clear(&c);
    drop(&in);
    gsl_rng_free(chance);
}

/* A lever moved to and fro: its ends, with single spikes left out; one that stood still is refused. */
static void test_span(void **unused)
{
    (void)unused;
    const capture_case lever = {"", 3, 0, 800, 1.2, 0, 0, 2000, 0, NULL}, still = {"", 3, 0, 0, 1, 0, 0, 2000, 0, NULL};
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    double least = 0.0, greatest = 0.0, error;
    char *why = NULL;
    rgp_intake in = intake_of(&lever, lever.at, chance);
    g_array_index(in.in, double, 20) = 4095.0;
    assert_true(rgp_capture_span(&in, 0, READINGS, &least, &greatest, &error, &why));
    assert_near(least, 1200.0, 30.0);
    assert_near(greatest, 2800.0, 30.0);
    drop(&in);
    in = intake_of(&still, still.at, chance);
    assert_false(rgp_capture_span(&in, 0, READINGS, &least, &greatest, &error, &why));
    assert_says(why, "hardly moved");
    g_free(why);
    drop(&in);
    gsl_rng_free(chance);
}

/* ---- fits that are refused, rounded, moved --------------------------------------------------------- */

static void test_fit_reasons(void **unused)
{
    (void)unused;
    static const struct {
        const char *word;
        double xy[4][2];
        guint points;
        const char *why;
    } cases[] = {
        {"line", {{1, 1}}, 1, "at least 2 points"},
        {"line", {{1, 5}, {9, 5}}, 2, "all points are at one value"},
        {"table", {{1, 1}, {1, 2}}, 2, "does not tell them apart"},
        {"table", {{1, 1}, {2, 3}, {3, 2}}, 3, "turn back"},
        {"power", {{-1, 1}, {2, 3}}, 2, "above 0"},
        {"power", {{1, 0}, {2, 3}}, 2, "above 0"},
        {"steinhart", {{1, 10}, {2, 5}}, 2, "at least 3 points"},
    };
    const double setting[RGP_FIT_SETTINGS_MAX] = {0};
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_fit_point point[4] = {{0}};
        g_autofree char *why = NULL;
        for (guint k = 0; k < cases[i].points; k++) {
            point[k] = (rgp_fit_point){cases[i].xy[k][0], 0.0, cases[i].xy[k][1]};
        }
        assert_null(rgp_fit_points(cases[i].word, point, cases[i].points, setting, false, "u", "v", &why));
        assert_says(why, cases[i].why);
    }
}

/* Rounding costs no more than it may; a table through its own points; moving keeps the slope. */
static void test_fit_rounding_and_moving(void **unused)
{
    (void)unused;
    const double setting[RGP_FIT_SETTINGS_MAX] = {0};
    rgp_fit_point point[5];
    char *why = NULL;
    for (int i = 0; i < 5; i++) {
        point[i] = (rgp_fit_point){100.4 + 300.7 * i, 0.8, 1.5 * i + (i % 2 ? 0.01 : -0.01)};
    }
    rgp_fit *f = rgp_fit_points("line", point, 5, setting, false, "cm", "counts", &why);
    const double before = rgp_fit_at(f, 700.0);
    rgp_fit_round(f, true);
    assert_near(rgp_fit_at(f, 700.0), before, 0.5 * f->expected);
    g_autofree char *gain = g_strdup_printf("%.9g", f->setting[0]);
    assert_true(strlen(gain) <= 8);
    rgp_fit_free(f);
    f = rgp_fit_points("table", point, 5, setting, false, "cm", "counts", &why);
    rgp_fit_round(f, true);
    for (guint i = 0; i < 5; i++) {
        assert_near(f->knot_in[i], round(point[i].in), 0.0);
        assert_near(rgp_fit_at(f, f->knot_in[i]), point[i].known, 1e-9);
    }
    rgp_fit_free(f);
    const double line[] = {0.01, -1.0}, table[] = {100, 0, 700, 6, 1300, 12};
    const rgp_fit_point at = {420.0, 0.5, 3.0};
    double moved[6];
    assert_true(rgp_fit_shift("line", line, 2, &at, false, moved, &why));
    assert_near(moved[0] * 420.0 + moved[1], 3.0, 0.01);
    assert_true(moved[0] == line[0]);
    assert_true(rgp_fit_shift("table", table, 6, &at, true, moved, &why));
    assert_near(moved[0], 120.0, 0.0);
    assert_near(moved[4] - moved[2], 600.0, 0.0);
    assert_false(rgp_fit_shift("power", line, 2, &at, false, moved, &why));
    assert_says(why, "only a 'line' or a 'table'");
    g_free(why);
}

/* ---- changes --------------------------------------------------------------------------------------- */

typedef struct change_case {
    const char *what;
    double noise, drift, wave, step; /* counts; a second; counts; counts */
    bool changed;
} change_case;

static const change_case change_cases[] = {
    {"nothing", 4, 0, 0, 0, false},
    {"nothing, drifting", 4, -40, 0, 0, false},
    {"nothing, in waves", 4, 0, 25, 0, false},
    {"up", 4, 0, 0, 60, true},
    {"down", 4, 0, 0, -60, true},
    {"up, while it drifts down", 4, -40, 0, 120, true},
    {"up, in waves", 4, 0, 25, 200, true},
    {"a quiet sensor", 0, 0, 0, 5, true},
    {"a step of one count", 0, 0, 0, 1, false},
};

/* A row of a rig that has one sensor and nothing else: its value, and whether it is new. */
static void put_row(rgp_history *h, uint64_t time_us, float value, rgp_quality quality)
{
    const float values[] = {value, 0.0f};
    const rgp_quality qualities[] = {quality, RGP_GOOD};
    assert_int_equal(rgp_history_columns(h), G_N_ELEMENTS(values));
    rgp_history_row(h, time_us, values, qualities);
}

/* Three seconds at rest, two driven; the sensor goes to its new place with a time constant of 0.3 s from 0.4 s on. */
static void test_changes(void **unused)
{
    (void)unused;
    enum { SEEDS = 100, REST = 150, ROWS = 250 };
    bench b;
    bench_open(&b, "rig x\ntick 20 ms\nsensor s counts 0..4095\n");
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (size_t i = 0; i < sizeof change_cases / sizeof *change_cases; i++) {
        const change_case *k = &change_cases[i];
        int right = 0;
        for (int seed = 0; seed < SEEDS; seed++) {
            rgp_history *h = rgp_history_new(b.engine.image, 0);
            gsl_rng_set(chance, (unsigned long)seed);
            for (int row = 0; row < ROWS; row++) {
                const double time = row * 0.02, since = time - REST * 0.02 - 0.4;
                double x = 1000.0 + k->drift * time + k->wave * sin(2.0 * G_PI * time / 0.9);
                x += since > 0.0 ? k->step * (1.0 - exp(-since / 0.3)) : 0.0;
                const float value = (float)round(x + gsl_ran_gaussian(chance, fmax(k->noise, 1e-9)));
                put_row(h, (uint64_t)row * 20000u, value, RGP_GOOD);
            }
            const rgp_change a = rgp_change_of(h, 0, 2.0, 0, REST, ROWS);
            right += a.known && a.changed == k->changed && (!a.changed || a.by * k->step > 0.0) &&
                     (!a.changed || a.after >= 0.3);
            rgp_history_free(h);
        }
        if (right < SEEDS * 95 / 100) {
            fail_msg("%s: %d of %d", k->what, right, SEEDS);
        }
    }
    gsl_rng_free(chance);
    bench_close(&b);
}

/* ---- answers --------------------------------------------------------------------------------------- */

/* A sensor's own movement, as the value of a block. */
typedef enum shape { WHITE, SPIKES, HUM, DRIFT, WALK, WAVES, COARSE, SWING, SHAPES } shape;

static void make_values(gsl_rng *chance, shape what, double *value, uint32_t blocks)
{
    const double phase = 2.0 * G_PI * gsl_rng_uniform(chance);
    double walk = 0.0;
    for (uint32_t i = 0; i < blocks; i++) {
        const double noise = gsl_ran_gaussian(chance, 1.0);
        walk += noise;
        const double by[SHAPES] = {noise,
                                   noise + (gsl_rng_uniform(chance) < 0.1 ? 400.0 : 0.0),
                                   58.0 * sin(phase + 2.9 * i) + noise,
                                   7.0 * i + noise,
                                   walk,
                                   30.0 * sin(phase + 0.6 * i) + noise,
                                   round(0.4 * noise),
                                   10.0 * sin(phase + G_PI * i) + noise};
        value[i] = by[what];
    }
}

/* The chance of a false answer is what is stated, whatever the sensor does: a chance of at most P comes in at most a
 * share P of the trials, and of plain noise in just that share. */
static void test_contrast_is_exact(void **unused)
{
    (void)unused;
    enum { TRIALS = 1500, BLOCKS = 12 };
    const double most = 0.05, doubt = 4.0 * sqrt(most * (1.0 - most) / TRIALS);
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (shape what = WHITE; what < SHAPES; what++) {
        int false_answers = 0;
        for (int trial = 0; trial < TRIALS; trial++) {
            double value[BLOCKS];
            bool on[BLOCKS];
            make_values(chance, what, value, BLOCKS);
            rgp_contrast_order(chance, on, BLOCKS);
            false_answers += rgp_contrast_of(value, on, BLOCKS).chance <= most;
        }
        const double share = (double)false_answers / TRIALS;
        if (share > most + doubt || (what == WHITE && share < most - doubt)) {
            fail_msg("shape %d: %g", (int)what, share);
        }
    }
    gsl_rng_free(chance);
}

/* Beside another reckoning: the partial correlation of values and order, a straight line given, over the 20 orders of 6
 * blocks; and beside a closed form: without noise just two of the 184 756 orders are as clear. */
static double correlation_of(const double *a, const double *b)
{
    return gsl_stats_correlation(a, 1, b, 1, 6);
}

static double partial_of(const double *value, const double *on)
{
    static const double number[] = {0, 1, 2, 3, 4, 5};
    const double vo = correlation_of(value, on), vn = correlation_of(value, number), on_n = correlation_of(on, number);
    return fabs(vo - vn * on_n) / sqrt((1.0 - vn * vn) * (1.0 - on_n * on_n));
}

static void test_contrast_by_hand(void **unused)
{
    (void)unused;
    static const double value[] = {3.1, 1.4, 2.2, 4.8, 1.9, 5.0};
    static const bool on[] = {true, false, false, true, false, true};
    double order[6];
    int as_great = 0, orders = 0;
    for (int i = 0; i < 6; i++) {
        order[i] = on[i];
    }
    const double drawn = partial_of(value, order);
    for (uint32_t set = 0; set < 64; set++) {
        if (__builtin_popcount(set) == 3) {
            for (int i = 0; i < 6; i++) {
                order[i] = set >> i & 1;
            }
            orders++;
            as_great += partial_of(value, order) >= drawn * (1.0 - 1e-9);
        }
    }
    assert_int_equal(orders, 20);
    assert_near(rgp_contrast_of(value, on, 6).chance, as_great / 20.0, 1e-12);

    double clear[20];
    bool drawn_on[20];
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    rgp_contrast_order(chance, drawn_on, 20);
    for (int i = 0; i < 20; i++) {
        clear[i] = 100.0 - 7.0 * i + (drawn_on[i] ? 3.0 : 0.0);
    }
    const rgp_contrast c = rgp_contrast_of(clear, drawn_on, 20);
    assert_near(c.chance, 2.0 / 184756.0, 1e-12);
    assert_near(c.effect, 3.0, 1e-9);
    for (int i = 0; i < 20; i++) {
        clear[i] = 5.0;
    }
    assert_near(rgp_contrast_of(clear, drawn_on, 20).chance, 1.0, 0.0);
    gsl_rng_free(chance);
}

typedef struct answer_case {
    const char *what;
    double step, rate, noise; /* counts; counts a second; counts */
    bool answered;
    rgp_answer_by by;
} answer_case;

static const answer_case answer_cases[] = {
    {"nothing", 0, 0, 4, false, RGP_ANSWER_LEVEL},
    {"a step", 12, 0, 4, true, RGP_ANSWER_LEVEL},
    {"a step down", -12, 0, 4, true, RGP_ANSWER_LEVEL},
    {"what stays where it was put", 0, 40, 4, true, RGP_ANSWER_RATE},
    {"a quiet sensor", 1, 0, 0, true, RGP_ANSWER_LEVEL},
};

/* Twenty blocks of 50 ticks of 20 ms, the answer from the tenth tick of each on. */
static void test_answers(void **unused)
{
    (void)unused;
    enum { SEEDS = 40, BLOCKS = 20, ROWS = 50, DELAY = 10 };
    bench b;
    bench_open(&b, "rig x\ntick 20 ms\nsensor s counts 0..4095\n");
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (size_t i = 0; i < G_N_ELEMENTS(answer_cases); i++) {
        const answer_case *k = &answer_cases[i];
        int right = 0, timed = 0;
        for (unsigned long seed = 1; seed <= SEEDS; seed++) {
            rgp_history *h = rgp_history_new(b.engine.image, 0);
            rgp_block block[BLOCKS];
            bool on[BLOCKS];
            double at = 1000.0;
            gsl_rng_set(chance, seed);
            rgp_contrast_order(chance, on, BLOCKS);
            for (uint32_t row = 0; row < ROWS * (BLOCKS + 1); row++) {
                const uint32_t which = row / ROWS;
                const bool driven = which > 0 && on[which - 1] && row % ROWS >= DELAY;
                const rgp_quality quality = row % 7 == 3 ? RGP_MISSING : RGP_GOOD;
                at += driven ? k->rate * 0.02 : 0.0;
                const float value =
                    (float)round(at + (driven ? k->step : 0.0) + gsl_ran_gaussian(chance, fmax(k->noise, 1e-9)));
                put_row(h, (uint64_t)row * 20000u, value, quality);
            }
            for (uint32_t which = 0; which < BLOCKS; which++) {
                block[which] = (rgp_block){ROWS * (which + 1), ROWS * (which + 2), on[which]};
            }
            const rgp_answer a = rgp_answer_of(h, 0, block, BLOCKS, 3, RGP_ANSWER_RATE);
            right += a.known && a.answered == k->answered &&
                     (!a.answered || (a.by == k->by && a.effect * (k->step + k->rate) > 0.0 && a.chance < 1e-4)) &&
                     (k->by == RGP_ANSWER_RATE || !a.answered || fabs(a.effect - k->step) <= 2.0 * a.band + 1e-6);
            timed += fabs(a.after - 0.2) < 0.1;
            rgp_history_free(h);
        }
        if (right < SEEDS * 9 / 10 || (fabs(k->step) > 2.0 && timed < SEEDS * 9 / 10)) {
            fail_msg("%s: %d and %d of %d", k->what, right, timed, SEEDS);
        }
    }
    gsl_rng_free(chance);
    bench_close(&b);
}

/* So many blocks that the clearest of all orders is clear enough. */
static void test_blocks_of_an_answer(void **unused)
{
    (void)unused;
    assert_int_equal(rgp_answer_blocks(1), 20);
    assert_int_equal(rgp_answer_blocks(23), 20);
    assert_int_equal(rgp_answer_blocks(24), 22);
    assert_int_equal(rgp_answer_blocks(88), 22);
    assert_int_equal(rgp_answer_blocks(89), 24);
}

/* ---- responses ------------------------------------------------------------------------------------- */

/* A step of a second-order system has closed forms: overshoot e^(-pi z / sqrt(1 - z2)), the square of which is the
 * decay ratio, period 2 pi / (w sqrt(1 - z2)). Its integral of the absolute error is summed here anew. */
static void test_step_response(void **unused)
{
    (void)unused;
    const double z = 0.3, w = 2.0, root = sqrt(1.0 - z * z), dt = 0.005, from = 40.0, size = -5.0;
    GArray *rows = g_array_new(FALSE, FALSE, sizeof(rgp_response_row));
    const uint32_t before = 100, behind = 4000;
    double iae = 0.0, last_outside = 0.0;
    for (uint32_t i = 0; i < before + behind; i++) {
        const double t = ((double)i - before) * dt;
        const double y = t < 0.0 ? 0.0 : 1.0 - exp(-z * w * t) * (cos(w * root * t) + z / root * sin(w * root * t));
        const rgp_response_row row = {.time = 7.0 + t,
                                      .target = t < 0.0 ? from : from + size,
                                      .measured = from + size * y,
                                      .output = i % 2 ? 3.0 : 4.0,
                                      .saturated = t >= 1.0 && t < 3.0,
                                      .usable = true};
        iae += t < 0.0 ? 0.0 : fabs(size * (1.0 - y)) * dt;
        last_outside = t >= 0.0 && fabs(1.0 - y) > 0.02 ? t : last_outside;
        g_array_append_val(rows, row);
    }
    rgp_response r;
    assert_true(rgp_response_of((void *)rows->data, rows->len, before, RGP_RESPONSE_STEP, size, 0.0, 0.0, &r));
    assert_near(r.overshoot, 100.0 * exp(-G_PI * z / root), 0.05);
    assert_near(r.peak, 5.0 * exp(-G_PI * z / root), 0.005);
    assert_near(r.decay, exp(-2.0 * G_PI * z / root), 0.002);
    assert_near(r.period, 2.0 * G_PI / (w * root), 0.01);
    assert_near(r.settling, last_outside, 0.011);
    assert_near(r.rise, 0.66067, 0.006); /* by scipy.optimize.brentq on the closed form */
    assert_near(r.iae, iae, 0.03);
    assert_near(r.saturated, 2.0, 0.006);
    assert_near(r.effort, behind - 1.0, 0.5);
    assert_near(r.steady, 0.0, 1e-3);
    assert_int_equal(r.verdict, RGP_VERDICT_SETTLED);
    assert_false(rgp_response_of((void *)rows->data, before + 5, before, RGP_RESPONSE_STEP, size, 0.0, 0.0, &r));
    g_array_unref(rows);
}

/* A second-order step under noise of 3 % of it: the figures keep to their closed forms within the errors that they
 * state, however long it is looked at; and with P alone, where the swing is about another place than the setpoint. */
static void test_figures_under_noise(void **unused)
{
    (void)unused;
    enum { SEEDS = 60, BEFORE = 400 };
    static const struct {
        const char *what;
        double damping, gain; /* gain: where it ends, as a share of the step */
        int behind;
    } cases[] = {{"damped", 0.5, 1.0, 600},
                 {"damped, longer", 0.5, 1.0, 1200},
                 {"ringing", 0.15, 1.0, 1200},
                 {"P alone", 0.15, 0.8, 1200}};
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (size_t k = 0; k < G_N_ELEMENTS(cases); k++) {
        const double z = cases[k].damping, w = 2.0, root = sqrt(1.0 - z * z);
        const double overshoot = 100.0 * (cases[k].gain * (1.0 + exp(-G_PI * z / root)) - 1.0);
        const double decay = exp(-2.0 * G_PI * z / root);
        int over = 0, decays = 0, shown = 0, settled = 0;
        double off = 0.0;
        for (unsigned long seed = 0; seed < SEEDS; seed++) {
            GArray *rows = g_array_new(FALSE, FALSE, sizeof(rgp_response_row));
            gsl_rng_set(chance, seed);
            for (int i = -BEFORE; i < cases[k].behind; i++) {
                const double t = i * 0.02, wd = w * root;
                const double y = t < 0.0 ? 0.0 : 1.0 - exp(-z * w * t) * (cos(wd * t) + z / root * sin(wd * t));
                const rgp_response_row row = {.time = t,
                                              .target = t < 0.0 ? 0.0 : 10.0,
                                              .measured = 10.0 * cases[k].gain * y + gsl_ran_gaussian(chance, 0.3),
                                              .usable = true};
                g_array_append_val(rows, row);
            }
            rgp_response r;
            assert_true(rgp_response_of((void *)rows->data, rows->len, BEFORE, RGP_RESPONSE_STEP, 10.0, 0.0, 0.0, &r));
            over += fabs(r.overshoot - overshoot) <= 2.5 * r.overshoot_error;
            off += (r.overshoot - overshoot) / SEEDS;
            shown += isfinite(r.decay);
            decays += isfinite(r.decay) && fabs(r.decay - decay) <= 2.5 * r.decay_error;
            settled += r.verdict == (cases[k].gain < 1.0 ? RGP_VERDICT_OFF : RGP_VERDICT_SETTLED);
            g_array_unref(rows);
        }
        if (over < SEEDS * 85 / 100 || fabs(off) > 1.0 || settled < SEEDS * 95 / 100 || decays < shown * 85 / 100 ||
            (z < 0.3 && shown < SEEDS * 9 / 10)) {
            fail_msg("%s: overshoot within its error %d, off by %g on the mean; decay shown %d, within its error %d; "
                     "verdict "
                     "%d of %d",
                     cases[k].what, over, off, shown, decays, settled, SEEDS);
        }
    }
    gsl_rng_free(chance);
}

/* Noise is no swing; a push that fades comes back when it does; one that is never made good does not settle. */
static void test_disturbance_response(void **unused)
{
    (void)unused;
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_taus2);
    for (int lasts = 0; lasts < 2; lasts++) {
        GArray *rows = g_array_new(FALSE, FALSE, sizeof(rgp_response_row));
        for (int i = 0; i < 1100; i++) {
            const double t = (i - 100) * 0.01;
            const double off = t < 0.0 ? 0.0 : lasts ? 2.0 : 2.0 * exp(-t / 0.8);
            const rgp_response_row row = {.time = t,
                                          .target = 10.0,
                                          .measured = 10.0 - off + gsl_ran_gaussian(chance, 0.02),
                                          .usable = i % 50 != 7};
            g_array_append_val(rows, row);
        }
        rgp_response r;
        assert_true(rgp_response_of((void *)rows->data, rows->len, 100, RGP_RESPONSE_DISTURBANCE, 0.0, 0.0, 0.0, &r));
        assert_near(r.noise, 0.02, 0.005);
        assert_near(r.peak, 2.0, 0.08);
        assert_int_equal(r.verdict, lasts ? RGP_VERDICT_OFF : RGP_VERDICT_SETTLED);
        assert_true(isnan(r.overshoot) && isnan(r.period) && isnan(r.settling) == (lasts != 0));
        assert_true(lasts || fabs(r.settling - 0.8 * log(10.0)) < 0.25);
        g_array_unref(rows);
    }
    gsl_rng_free(chance);
}

/* Times and estimates in words: three digits, in the unit that suits, and no power of ten for what is a whole number.
 */
static void test_words_of_numbers(void **unused)
{
    (void)unused;
    static const struct {
        double number;
        const char *estimate, *span;
    } cases[] = {{0.0, "0", "0 ms"},
                 {0.00024, "0.00024", "0.24 ms"},
                 {0.2404, "0.24", "240 ms"},
                 {0.9999, "1", "1 s"},
                 {1.0, "1", "1 s"},
                 {14.53, "14.5", "14.5 s"},
                 {119.9, "120", "120 s"},
                 {120.0, "120", "2 min"},
                 {1278.0, "1278", "21.3 min"},
                 {3600.0, "3600", "1 h"},
                 {11520.0, "11520", "3.2 h"},
                 {1e7, "10000000", "2778 h"},
                 {999.6, "1000", "16.7 min"},
                 {123456.0, "123456", "34.3 h"}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        g_autoptr(GString) estimate = g_string_new(NULL), span = g_string_new(NULL);
        rgp_describe_estimate(cases[i].number, estimate);
        rgp_describe_span(cases[i].number, span);
        assert_string_equal(estimate->str, cases[i].estimate);
        assert_string_equal(span->str, cases[i].span);
    }
}

/* As many digits as asked for, but a whole number has all of its own, and no power of ten. */
static void test_digits(void **unused)
{
    (void)unused;
    static const struct {
        double number;
        int digits;
        const char *text;
    } cases[] = {{0.5432, 2, "0.54"},   {99.4, 2, "99"},     {99.6, 2, "100"},  {174.0, 2, "174"},
                 {-1849.0, 2, "-1849"}, {1234.4, 3, "1234"}, {999.4, 3, "999"}, {999.6, 3, "1000"},
                 {23.0, 1, "23"},       {9.4, 1, "9"},       {9.6, 1, "10"},    {12e-6, 2, "1.2e-05"},
                 {0.0, 3, "0"},         {INFINITY, 2, "inf"}};
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        assert_string_equal(rgp_digits(cases[i].number, cases[i].digits).text, cases[i].text);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_words_of_numbers),
        cmocka_unit_test(test_captures),
        cmocka_unit_test(test_few_readings),
        cmocka_unit_test(test_span),
        cmocka_unit_test(test_fit_reasons),
        cmocka_unit_test(test_fit_rounding_and_moving),
        cmocka_unit_test(test_changes),
        cmocka_unit_test(test_contrast_is_exact),
        cmocka_unit_test(test_contrast_by_hand),
        cmocka_unit_test(test_answers),
        cmocka_unit_test(test_blocks_of_an_answer),
        cmocka_unit_test(test_step_response),
        cmocka_unit_test(test_figures_under_noise),
        cmocka_unit_test(test_disturbance_response),
        cmocka_unit_test(test_digits),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
