/* A sensor that is slower than the tick: what has not changed is no new reading. And what else the engine owes a
 * program that holds its memory: checkpoints, and sequences that hear of one another in a stated order. */
#include "support.h"

#include <math.h>
#include <string.h>

#define THIRD 10000u /* us */

/* Everything that steps on new readings only, behind one sensor. */
static const char paced[] =
    "sensor s counts 0..1000\n"
    "actuator m percent 0..100, rest at 0\nactuator n percent 0..100, rest at 0\nactuator o percent 0..100, rest at 0\n"
    "signal calm = s | despike 5\nsignal mean = s | average 7\nsignal speed = s | slope 200 ms\n"
    "signal sum = s | line 1 deg/s/counts, -500 deg/s | accumulate\n"
    "signal zeroed = s | zero over 2 s, spread 30 counts, drift 30 counts, warmup 1.025 s\n"
    "signal spanned = s | span over 3 s, least 20 counts\nsignal far = s | reach 20 counts\n"
    "signal fade = s | decay 20 counts\nsignal way = calm | line 0.1 cm/counts, 0 cm\n"
    "signal near = way | nearest along m, within 3 cm, after 1\n"
    "signal chain = s | despike 3 | line 2 cm/counts, 1 cm | slope 100 ms | average 3\n"
    "loop l: calm at 500 counts with m\n    pid kp 0.1, ki 0.05, kd 0.01, filter 200 ms\n    one way\n"
    "loop k: mean at 480 counts with n\n    nudge 1 % every 300 ms\n    one way\n"
    "on s turns by 40 counts\n    mark turned\n"
    "while s still for 300 ms within 2 counts\n    o 50 %\n";

static const char *const signals[] = {"calm", "mean", "speed", "sum",   "zeroed", "spanned", "far",
                                      "fade", "way",  "near",  "chain", "l_i",    "l_d",     "l_output"};

static void sense_and_step(bench *b, uint64_t now_us, int32_t raw, bool same)
{
    const rgp_sample sample = {
        .time_us = now_us, .raw = raw, .quality = raw < 0 ? RGP_MISSING : RGP_GOOD, .same = same};
    b->events = 0;
    assert_int_equal(rgp_engine_sense(&b->engine, 0, &sample), RGP_OK);
    rgp_engine_step(&b->engine, now_us);
}

static void assert_same_bits(const bench *fast, const bench *slow, uint32_t n)
{
    for (size_t i = 0; i < G_N_ELEMENTS(signals); i++) {
        const rgp_reading a = bench_value(fast, signals[i]), b = bench_value(slow, signals[i]);
        if (memcmp(&a.value, &b.value, sizeof a.value) != 0 || a.quality != b.quality) {
            fail_msg("reading %u: %s is %.9g (%s) with a sensor as fast as the tick, %.9g (%s) with a slower one", n,
                     signals[i], (double)a.value, rgp_quality_text(a.quality), (double)b.value,
                     rgp_quality_text(b.quality));
        }
    }
}

/* Rest at the loop's setpoint, then swings with spikes and rests among them. */
static int32_t reading(uint32_t n)
{
    const uint32_t roll = n * 2654435761u >> 20;
    if (n < 150) {
        return 500 + (n ? (int32_t)(roll % 5) : 0);
    }
    return roll % 61 == 0 ? 990 : n % 400 > 370 ? 450 : 500 + (int32_t)(200.0 * sin(n / 9.0)) + (int32_t)(roll % 7);
}

/* A rig whose sensor is as fast as the tick gives, bit for bit, what it gives at a third of the tick with the same
 * readings, each seen three times. The first of all is in the middle of everything: before it no time has passed, which
 * is a tick and a third of one. */
static void test_the_same_at_a_third_of_the_tick(void **unused)
{
    (void)unused;
    g_autofree char *at_tick = g_strconcat("rig t\ntick 30 ms\n", paced, NULL);
    g_autofree char *at_third = g_strconcat("rig t\ntick 10 ms\n", paced, NULL);
    bench fast, slow;
    bench_open(&fast, at_tick);
    bench_open(&slow, at_third);
    uint32_t turned = 0, marked = 0, learned = 0, usable = 0;
    for (uint32_t n = 0; n < 3000; n++) {
        const int32_t raw = reading(n);
        sense_and_step(&fast, n * 3u * THIRD, raw, false);
        marked += bench_events(&fast, RGP_EVENT_MARK);
        learned += bench_events(&fast, RGP_EVENT_LEARNED);
        for (uint32_t k = 0; k < 3; k++) {
            sense_and_step(&slow, (n * 3u + k) * THIRD, raw, k > 0);
            turned += bench_events(&slow, RGP_EVENT_MARK);
        }
        assert_same_bits(&fast, &slow, n);
        usable += rgp_usable(bench_value(&slow, "l_output").quality);
    }
    assert_true(marked > 20 && turned == marked && learned >= 2 && usable > 2500);
    bench_close(&fast);
    bench_close(&slow);
}

/* A spike that is seen three times drives nothing that it would not drive if it were seen once. */
static void test_one_spike_is_one(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor s counts 0..1000\nactuator pump switch, rest at off\n"
                   "signal d = s | despike 5\nwhile d above 600 counts\n    pump on for 100 ms\n");
    for (uint32_t n = 0; n < 60; n++) {
        sense_and_step(&b, n * THIRD, n / 3 == 7 ? 990 : 300, n % 3 != 0);
        assert_int_equal(bench_events(&b, RGP_EVENT_FIRED), 0);
    }
    bench_close(&b);
}

/* Late by time, in the tick in which it becomes so; a fault counts the time; nothing else is made of what stands. */
static void test_standing_grows_late(void **unused)
{
    (void)unused;
    bench b;
    bench_open(
        &b, "rig t\ntick 10 ms\nsensor s counts 0..1000, every 50 ms, fault after 40 ms\nsignal m = s | average 4\n");
    const rgp_sample first = {.raw = 100}, again = {.raw = 100, .same = 1};
    uint32_t late_at = 0, fault_at = 0;
    for (uint32_t n = 0; n < 20; n++) {
        b.events = 0;
        rgp_engine_sense(&b.engine, 0, n ? &again : &first);
        rgp_engine_step(&b.engine, n * THIRD);
        late_at = !late_at && bench_value(&b, "s").quality == RGP_LATE ? n : late_at;
        fault_at = bench_events(&b, RGP_EVENT_FAULT) ? n : fault_at;
        assert_int_equal(rgp_engine_is_new(&b.engine, 0), n == 0);
    }
    assert_int_equal(late_at, 6);
    assert_int_equal(fault_at, 9);
    bench_close(&b);
}

/* A tick that takes no time uses nothing up: what was handed in is new in the next one that does. */
static void test_new_until_time_passes(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor s counts 0..1000\nsignal m = s | average 2\n");
    sense_and_step(&b, 0, 100, false);
    sense_and_step(&b, 0, 300, false);
    sense_and_step(&b, THIRD, 999, true);
    assert_near((double)bench_value(&b, "m").value, 200.0, 1e-6);
    assert_true(rgp_engine_is_new(&b.engine, 0));
    bench_close(&b);
}

/* Stages are held to the pace of what stands before their '|'; between two sensors, to either. */
static void test_pace_of_two_sensors(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor a counts 0..100\nsensor b counts 0..100\n"
                   "signal of_a = a | average 4\nsignal of_both = (a + b) | average 4\nsignal always = (a | smooth 10 "
                   "ms) | average 4\n");
    for (uint32_t n = 0; n < 40; n++) {
        const rgp_sample slow = {.raw = (int32_t)(n / 8 * 8), .same = n % 8 != 0};
        const rgp_sample fast = {.raw = (int32_t)n, .same = n % 2 != 0};
        rgp_engine_sense(&b.engine, 0, &slow);
        rgp_engine_sense(&b.engine, 1, &fast);
        rgp_engine_step(&b.engine, n * THIRD);
    }
    assert_near((double)bench_value(&b, "of_a").value, (8 + 16 + 24 + 32) / 4.0, 1e-4);
    assert_near((double)bench_value(&b, "of_both").value, 32.0 + (32 + 34 + 36 + 38) / 4.0, 1e-4);
    assert_near((double)bench_value(&b, "always").value, 32.0, 0.1);
    bench_close(&b);
}

/* A loop that has no new measurement lets its output stand, and follows a hand at once. */
static void test_loop_stands(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor s counts 0..100\nactuator m percent 0..100, rest at 0\n"
                   "loop l: s at 60 counts with m\n    pid kp 0.5, ki 1, kd 0\n    one way\n");
    for (uint32_t n = 0; n < 30; n++) {
        const float before = bench_value(&b, "l_output").value;
        sense_and_step(&b, n * THIRD, 50, n % 10 != 0);
        assert_true(n % 10 == 0 || n < 2 || bench_value(&b, "l_output").value == before);
    }
    const float grown = bench_value(&b, "l_i").value;
    assert_near((double)grown, 10.0 * (0.01 + 0.1 + 0.1), 1e-4); /* the integral takes the whole time */
    rgp_engine_hand(&b.engine, 0, 33.0f);
    sense_and_step(&b, 30 * THIRD, 50, true);
    sense_and_step(&b, 31 * THIRD, 50, true);
    assert_near((double)bench_value(&b, "l_output").value, 33.0, 1e-4);
    rgp_engine_release(&b.engine, 0);
    sense_and_step(&b, 32 * THIRD, 50, true);
    assert_near((double)rgp_engine_output(&b.engine, 0), 33.0, 1e-4); /* without a bump */
    bench_close(&b);
}

/* ---- whole numbers ----------------------------------------------------------------------------------- */

/* A first stage makes the float nearest to the exact result of a number that no float holds. */
static void test_numbers_beyond_a_float(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor s counts -2000000000..2000000000, every 1 s\n"
                   "signal way = s | line 0.5 mm/counts, -500000000 mm\n"
                   "signal rest = s | zero over 100 ms, spread 3 counts, drift 3 counts\n"
                   "signal angle = s | unwrap 2000000000 counts\nsignal on = angle - 2000000000 counts\n");
    for (uint32_t n = 0; n < 40; n++) {
        sense_and_step(&b, n * THIRD, 1000000001 + (int32_t)(n % 2), false);
    }
    assert_int_equal(bench_value(&b, "rest").quality, RGP_GOOD);
    for (int32_t off = -3; off < 200; off += 7) {
        sense_and_step(&b, (50u + (uint32_t)off) * THIRD, 1000000001 + off, false);
        assert_true(bench_value(&b, "way").value == 0.5f + 0.5f * (float)off);
        assert_near((double)bench_value(&b, "rest").value, off - 5.0 / 11.0, 2e-5); /* of the window of 11 */
    }
    const rgp_sample beyond = {.time_us = 300 * THIRD, .raw = -999999990}; /* over the seam */
    rgp_engine_sense(&b.engine, 0, &beyond);
    rgp_engine_step(&b.engine, 300 * THIRD);
    assert_true(bench_value(&b, "angle").value == 1000000010.0f);
    bench_close(&b);
}

/* ---- the memory -------------------------------------------------------------------------------------- */

/* All that changes lies in the caller's block: copied, and copied back, everything goes on as it did. */
static void test_checkpoint(void **unused)
{
    (void)unused;
    g_autofree char *text = g_strconcat("rig t\ntick 10 ms\n", paced, NULL);
    bench b;
    bench_open(&b, text);
    const uint32_t size = b.engine.image->memory, slots = b.engine.image->slots;
    g_autofree void *kept = g_malloc(size);
    g_autofree float *first = g_new(float, slots);
    for (uint32_t n = 0; n < 900; n++) {
        if (n == 500) {
            memcpy(kept, b.engine.memory, size);
        }
        sense_and_step(&b, n * THIRD, 500 + (int32_t)(200.0 * sin(n / 20.0)), n % 3 != 0);
    }
    memcpy(first, b.engine.value, slots * sizeof *first);
    memcpy(b.engine.memory, kept, size);
    for (uint32_t n = 500; n < 900; n++) {
        sense_and_step(&b, n * THIRD, 500 + (int32_t)(200.0 * sin(n / 20.0)), n % 3 != 0);
    }
    assert_memory_equal(first, b.engine.value, slots * sizeof *first);
    bench_close(&b);
}

/* ---- requests of sequences --------------------------------------------------------------------------- */

static uint32_t first_tick_of(const char *text, const char *sequence)
{
    bench b;
    bench_open(&b, text);
    uint32_t n = 0;
    while (n < 20 && bench_value(&b, sequence).value == 0.0f) {
        sense_and_step(&b, n * THIRD, n >= 5 ? 90 : 10, false);
        n++;
    }
    bench_close(&b);
    return n;
}

/* One that another sequence begins does so in the next tick, in whichever order the two stand. */
static void test_sequences_begin_one_another(void **unused)
{
    (void)unused;
    static const char head[] = "rig t\ntick 10 ms\nsensor s counts 0..100\nactuator a percent 0..100, rest at 0\n";
    static const char first[] = "sequence one\n    begin two\n    dwell 1 s\n",
                      second[] = "sequence two\n    dwell 1 s\n";
    static const char rule[] = "on s goes above 50 counts\n    begin one\n";
    g_autofree char *down = g_strconcat(head, first, second, rule, NULL);
    g_autofree char *up = g_strconcat(head, second, first, rule, NULL);
    assert_int_equal(first_tick_of(down, "one"), first_tick_of(up, "one"));
    assert_int_equal(first_tick_of(down, "two"), first_tick_of(up, "two"));
    assert_int_equal(first_tick_of(down, "two"), first_tick_of(down, "one") + 1);
}

/* The requests of rules are taken up in the tick in which they are made, in the order in which they stand. */
static void test_rules_ask_in_order(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor s counts 0..100\nactuator a percent 0..100, rest at 0\n"
                   "sequence one\n    dwell 1 s\non s goes above 50 counts\n    begin one\n"
                   "on s goes above 50 counts\n    end one\non s goes above 60 counts\n    begin one\n");
    sense_and_step(&b, 0, 10, false);
    sense_and_step(&b, THIRD, 90, false);
    assert_int_equal(bench_events(&b, RGP_EVENT_BEGUN), 2);
    assert_int_equal(bench_events(&b, RGP_EVENT_FINISHED), 1);
    sense_and_step(&b, 2 * THIRD, 90, false);
    assert_true(bench_value(&b, "one").value == 1.0f);
    bench_close(&b);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_the_same_at_a_third_of_the_tick),
        cmocka_unit_test(test_one_spike_is_one),
        cmocka_unit_test(test_standing_grows_late),
        cmocka_unit_test(test_new_until_time_passes),
        cmocka_unit_test(test_pace_of_two_sensors),
        cmocka_unit_test(test_loop_stands),
        cmocka_unit_test(test_numbers_beyond_a_float),
        cmocka_unit_test(test_checkpoint),
        cmocka_unit_test(test_sequences_begin_one_another),
        cmocka_unit_test(test_rules_ask_in_order),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
