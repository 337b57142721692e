/* The engine through the language: what a rig does tick by tick; and the loader on damaged images. */
#include "support.h"

#include "engine/params.h"
#include "engine/phase.h"

#include "rigpulse/command.h"
#include "rigpulse/numeric.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

#define HEAD                                 \
    "rig t\ntick 10 ms\n"                    \
    "sensor s counts 0..100\n"               \
    "actuator a percent 0..100, rest at 5\n" \
    "actuator b switch, rest at off\n"       \
    "param p = 50 counts in 20..80 counts\n"

static float output(const bench *b, const char *name)
{
    return bench_value(b, name).value;
}

/* Runs `ticks` ticks with one reading and counts the firings. */
static uint32_t run(bench *b, int ticks, int32_t raw)
{
    uint32_t fired = 0;
    for (int i = 0; i < ticks; i++) {
        bench_tick(b, 0, raw);
        fired += bench_events(b, RGP_EVENT_FIRED);
    }
    return fired;
}

static void test_while_rule(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD "while s below 30\n    a 40 % for 50 ms\n    holdoff 30 ms\n");
    assert_int_equal(run(&b, 3, 60), 0);
    assert_true(output(&b, "a") == 5.0f);
    bench_tick(&b, 0, 10);
    assert_int_equal(bench_events(&b, RGP_EVENT_FIRED), 1);
    assert_true(output(&b, "a") == 40.0f); /* in the tick of the reading */
    assert_int_equal(run(&b, 4, 10), 0);
    assert_true(output(&b, "a") == 40.0f);
    bench_tick(&b, 0, 10); /* 50 ms on: over */
    assert_int_equal(bench_events(&b, RGP_EVENT_ENDED), 1);
    assert_true(output(&b, "a") == 5.0f);
    assert_int_equal(run(&b, 2, 10), 0);
    assert_int_equal(run(&b, 1, 10), 1); /* 80 ms on: the holdoff is over, and it is still so */
    bench_close(&b);
}

static void test_on_rule_fires_once_and_drops(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD "on s goes above p\n    b on\n    a 100 % for 30 ms\n    mark here\n");
    assert_int_equal(run(&b, 1, 60), 0); /* the first value is no event */
    assert_int_equal(run(&b, 2, 10), 0);
    assert_int_equal(run(&b, 5, 60), 1);
    assert_true(output(&b, "b") == 1.0f); /* a plain set stays */
    run(&b, 2, 10);
    assert_int_equal(run(&b, 1, 60), 1);
    run(&b, 1, 10);
    bench_tick(&b, 0, 60); /* again while it is acting */
    assert_int_equal(bench_events(&b, RGP_EVENT_FIRED), 0);
    assert_int_equal(bench_events(&b, RGP_EVENT_DROPPED), 1);
    assert_int_equal(b.event[0].reason, RGP_PULSE_ACTING);
    bench_close(&b);
}

static void test_bad_readings_fire_nothing(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD "signal x = s | smooth 20 ms\nwhile s below 30\n    a 40 % for 10 ms\n"
                        "on s goes below 30\n    b on\n");
    run(&b, 2, 60);
    for (int i = 0; i < 3; i++) {
        bench_tick_bad(&b, RGP_MISSING);
        assert_int_equal(bench_events(&b, RGP_EVENT_FIRED), 0);
        assert_int_equal(bench_events(&b, RGP_EVENT_SENSOR), i == 0);
        assert_int_equal(bench_value(&b, "x").quality, RGP_MISSING);
    }
    bench_tick(&b, 0, 101); /* beyond the declared range */
    assert_int_equal(bench_value(&b, "s").quality, RGP_OUT_OF_RANGE);
    bench_tick(&b, 0, 10); /* the change is told once, on the first good tick */
    assert_int_equal(bench_events(&b, RGP_EVENT_FIRED), 2);
    assert_int_equal(bench_value(&b, "x").quality, RGP_GOOD);
    bench_close(&b);
}

static void test_parameters(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD
               "bands z = s: low below p, high; margin 2 counts\nwhile z is low\n    a p / 2 counts * 1 % for 10 ms\n");
    run(&b, 1, 55);
    assert_true(output(&b, "z") == 1.0f);
    assert_int_equal(rgp_engine_set(&b.engine, 0, 70.0f), RGP_OK);
    assert_int_equal(run(&b, 1, 55), 1);
    assert_true(output(&b, "z") == 0.0f && output(&b, "a") == 35.0f);
    assert_int_equal(rgp_engine_set(&b.engine, 0, 81.0f), RGP_E_RANGE);
    assert_int_equal(rgp_engine_set(&b.engine, 1, 50.0f), RGP_E_INDEX);
    assert_true(bench_value(&b, "p").value == 70.0f);
    rgp_engine_reset(&b.engine);
    assert_true(bench_value(&b, "p").value == 50.0f);
    bench_close(&b);
}

static void test_ranks(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD "on start\n    a 20 %\nwhile s below 30\n    a 40 % for 20 ms, priority 1\n"
                        "while s below 20\n    a 60 % for 50 ms\n");
    run(&b, 1, 60);
    assert_true(output(&b, "a") == 20.0f); /* the latch */
    run(&b, 1, 25);
    assert_true(output(&b, "a") == 40.0f);
    assert_int_equal(rgp_engine_hand(&b.engine, 0, 77.0f), RGP_OK);
    assert_int_equal(rgp_engine_hand(&b.engine, 0, 101.0f), RGP_E_RANGE);
    run(&b, 1, 60);
    assert_true(output(&b, "a") == 77.0f);
    rgp_engine_release(&b.engine, 0);
    run(&b, 3, 60);
    assert_true(output(&b, "a") == 20.0f); /* uncovered again */
    run(&b, 1, 10);
    assert_true(output(&b, "a") == 40.0f); /* both act: the priority decides */
    run(&b, 2, 60);
    assert_true(output(&b, "a") == 60.0f); /* the first one is over */
    rgp_engine_stop(&b.engine);
    assert_int_equal(run(&b, 3, 10), 0);
    assert_true(output(&b, "a") == 5.0f);
    assert_int_equal(rgp_engine_owner(&b.engine, 0), RGP_OWNER_STOP);
    rgp_engine_resume(&b.engine);
    assert_int_equal(run(&b, 1, 10), 2);
    bench_close(&b);
}

static void test_time(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD "signal x = s | smooth 20 ms\non s goes above 50\n    b on\n");
    run(&b, 2, 10);
    const uint64_t now = b.now_us;
    const float before = output(&b, "x");
    b.now_us = now - 10000; /* the same moment again: nothing steps, no event */
    bench_tick(&b, 0, 90);
    assert_true(output(&b, "x") == before);
    assert_int_equal(bench_events(&b, RGP_EVENT_FIRED), 0);
    b.now_us = 3; /* back to the beginning: survived, and time goes on from there */
    bench_tick(&b, 0, 90);
    assert_true(output(&b, "x") == before);
    bench_tick(&b, 0, 90);
    assert_int_equal(bench_events(&b, RGP_EVENT_FIRED), 1);
    assert_near((double)output(&b, "x"), 10.0 + 80.0 * 0.393469340, 1e-4); /* 1 - e^(-10/20) */
    bench_close(&b);
}

static void test_arithmetic(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor s mm 0..1000\nunit span = 25 cm\nparam t = 20 °C in 0..100 °C\n"
                   "signal late = early + 1 cm\nsignal early = s * 2\nsignal speed = early / 500 ms\n"
                   "signal ratio = s / 1 m\nsignal spans = s in span\nsignal gone = 1 mm / (s - s)\n"
                   "signal warm = t + 5 K\nsignal diff = t - 68 °F\nsignal wet = early above s + 20 mm, margin 5 mm\n"
                   "signal lower = min(s, 3 cm)\nsignal minus = -s\n");
    bench_tick(&b, 0, 50);
    const struct {
        const char *name;
        double value;
        const char *unit;
    } cases[] = {
        {"late", 110, "mm"}, {"speed", 200, "mm/s"}, {"ratio", 0.05, ""}, {"spans", 0.2, "span"}, {"warm", 25, "degC"},
        {"diff", 0, "K"},    {"wet", 1, ""},         {"lower", 30, "mm"}, {"minus", -50, "mm"},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        assert_near((double)output(&b, cases[i].name), cases[i].value, 1e-5);
        assert_string_equal(rgp_image_unit(b.engine.image, RGP_NAME_SLOT, bench_slot(&b, cases[i].name), 0),
                            cases[i].unit);
    }
    assert_int_equal(bench_value(&b, "gone").quality, RGP_OUT_OF_RANGE); /* never an infinity */
    assert_true(output(&b, "gone") == 0.0f);
    bench_close(&b);
}

/* ---- whatever happens ---------------------------------------------------------------------------- */

/* The output that the claims owe to an actuator, worked out anew from the list of claims. */
static float owed(const rgp_engine *e, uint32_t actuator)
{
    const rgp_image_actuator *a = &image_ACTUATORS(e)[actuator];
    const rgp_image_claim *claim = image_CLAIMS(e);
    const uint32_t claims = COUNT(e, CLAIMS);
    uint32_t owner = claims;
    for (uint32_t i = 0; i < claims; i++) {
        const bool higher = owner == claims || claim[i].rank > claim[owner].rank;
        if (claim[i].actuator == actuator && part_claim(e)[i].active && higher) {
            owner = i;
        }
    }
    if (rgp_engine_is_stopped(e) || owner == claims) {
        return a->rest;
    }
    const float asked = part_claim(e)[owner].value;
    return asked < a->low ? a->low : asked > a->high ? a->high : asked;
}

static double term(const rgp_engine *e, const rgp_image_loop *l, uint32_t which)
{
    return (double)rgp_engine_value(e, l->first + which).value;
}

/* A loop's own account: its terms make up what it asks, and what it asks, within the travel, its output. */
static void assert_terms_agree(const rgp_engine *e, const rgp_image_loop *l)
{
    const rgp_image_actuator *a = &image_ACTUATORS(e)[l->actuator];
    const double asked = term(e, l, RGP_TERM_UNLIMITED), output = term(e, l, RGP_TERM_OUTPUT);
    assert_near(term(e, l, RGP_TERM_P) + term(e, l, RGP_TERM_I) + term(e, l, RGP_TERM_D), asked, 1e-3);
    assert_near(output, fmin(fmax(asked, (double)a->low), (double)a->high), 1e-3);
    assert_near(term(e, l, RGP_TERM_ERROR),
                term(e, l, RGP_TERM_TARGET) - (double)rgp_engine_value(e, l->measured).value, 1e-3);
    assert_true(output == asked || term(e, l, RGP_TERM_SATURATED) == 1.0);
}

/* The number of loops that own their actuators: each drives with its own output. */
static uint32_t loops_drive(const rgp_engine *e)
{
    const rgp_image_loop *loop = image_LOOPS(e);
    uint32_t owning = 0;
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        if (rgp_engine_owner(e, loop[i].actuator) == loop[i].claim) {
            const float asks = rgp_engine_value(e, loop[i].first + RGP_TERM_OUTPUT).value;
            assert_true(rgp_engine_output(e, loop[i].actuator) == asks);
            if (loop[i].terms == RGP_TERMS && link_of(e, &loop[i])->phase == RGP_LOOP_ENGAGED) {
                assert_terms_agree(e, &loop[i]);
            }
            owning++;
        }
    }
    return owning;
}

/* Readings, gaps, hands, parameters, stops and faults at random: every output is always what the claims owe it, within
 * the travel, and at rest after a stop. */
static void test_outputs_are_what_the_claims_owe(void **unused)
{
    (void)unused;
    bench b;
    uint32_t chance = 11, driven = 0, looped = 0;
    bench_open(
        &b,
        "rig t\ntick 10 ms\nsensor s counts 0..100, stuck 200 ms, fault after 100 ms\n"
        "actuator a percent -20..80, rest at 5\nactuator b switch, rest at on\nparam p = 50 counts in 20..80 counts\n"
        "bands z = s: low below p, high; margin 3 counts\non z goes low\n    a s * 2 %/counts for 70 ms\n    b off\n"
        "while z is high\n    a -100 % * (s / 100 counts) for 30 ms, priority 1\n    holdoff 50 ms\n"
        "on z leaves low\n    b on\n    a 12 %\n    d 25 % for 40 ms\n"
        "actuator d percent 0..100, rest at 0\nactuator f percent 0..100, rest at 0\n"
        "loop l: s at 50 counts with d\n    pid kp 2, ki 30, kd 0.01, filter 20 ms\n"
        "    cut out beyond 42 counts for 30 ms, again\n    engage within 30 counts\n    one way\n"
        "loop m: s at p with f\n    on-off margin 2 counts\n    one way\n");
    for (uint32_t n = 0; n < 50000; n++) {
        chance = chance * 1664525u + 1013904223u;
        const uint32_t roll = chance >> 8;
        switch (roll % 97) {
        case 0:
            rgp_engine_hand(&b.engine, (uint16_t)(roll % 5), (float)(roll % 130) - 25.0f);
            break;
        case 1:
            rgp_engine_release(&b.engine, (uint16_t)(roll % 5));
            break;
        case 2:
            rgp_engine_set(&b.engine, 0, (float)(roll % 100));
            break;
        case 3:
            rgp_engine_stop(&b.engine);
            break;
        case 4:
        case 5:
            rgp_engine_resume(&b.engine);
            rgp_engine_clear(&b.engine);
            break;
        default:
            break;
        }
        if (roll % 50 < n / 1000 % 3) {
            bench_tick_bad(&b, RGP_MISSING);
        } else {
            bench_tick(&b, roll % 41 == 0 ? 35000 : 0, (int32_t)(roll % 23 + (n / 60 % 2 ? 70 : 10)));
        }
        for (uint16_t i = 0; i < 4; i++) {
            const float is = rgp_engine_output(&b.engine, i);
            if (is != owed(&b.engine, i)) {
                fail_msg("tick %u: actuator %u has %g, and is owed %g", n, i, (double)is, (double)owed(&b.engine, i));
            }
            driven += is != image_ACTUATORS(&b.engine)[i].rest;
        }
        looped += loops_drive(&b.engine);
    }
    assert_in_range(driven, 5000, 190000);
    assert_in_range(looped, 20000, 90000);
    bench_close(&b);
}

/* The long way through a tick where the engine knows a short one: each sample is judged, every run asks its pace, loops
 * look at all that could be new, and all outputs are chosen anew. */
static void go_the_long_way(const rgp_engine *e)
{
    for (uint32_t i = 0; i < COUNT(e, SENSORS); i++) {
        part_newness(e)[i] &= (uint8_t)~RGP__SENSOR_PLAIN;
    }
    part_head(e)->behind = 1;
    part_head(e)->next_end_us = 0;
    make_due(e, RGP__DUE_FOLLOW | RGP__DUE_OUTPUTS | RGP__DUE_STATES);
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        rgp_loop_state *const loop = (void *)(link_of(e, &image_LOOPS(e)[i]) + 1); /* it follows the link */
        loop->bound = 0.0f;
    }
}

static void command_at_random(rgp_engine *e, uint32_t roll)
{
    switch (roll % 97) {
    case 0:
        rgp_engine_hand(e, (uint16_t)(roll % 3), (float)(roll % 100));
        break;
    case 1:
        rgp_engine_release(e, (uint16_t)(roll % 3));
        break;
    case 2:
        rgp_engine_set(e, 0, (float)(roll % 100));
        break;
    case 3:
        rgp_engine_stop(e);
        break;
    case 4:
    case 5:
        rgp_engine_resume(e);
        rgp_engine_clear(e);
        break;
    default:
        break;
    }
}

/* Every short way is the long one, bit for bit: values, qualities, owners and events. */
static void test_short_ways(void **unused)
{
    (void)unused;
    static const char text[] =
        "rig t\ntick 10 ms\nparam p = 50 counts in 20..80 counts\nsensor a counts 0..100\n"
        "sensor b counts -50..50, stuck 30 ms, fault after 50 ms\nsensor c counts 0..100\nsensor d switch\n"
        "sensor e counts 0..100\nactuator f percent 0..100, rest at 0\nactuator g percent 0..100, rest at 0\n"
        "actuator h percent 0..100, rest at 0\nactuator i switch, rest at off\n"
        "signal sum = a + b + c + e | smooth 30 ms\nsignal rate = d | rate over 1 s\n"
        "signal calm = c | despike 3 | average 4\non sum goes above 150 counts\n    i on for 20 ms\n"
        "loop l: calm at p with f\n    pid kp 2, ki 30, kd 0.01, filter 20 ms\n"
        "    cut out beyond 45 counts for 30 ms, again\n    engage within 40 counts\n    one way\n"
        "loop m: e at 60 counts with g\n    pid kp 1, ki 3, kd 0\n    one way\n"
        "loop n: e at p with h\n    nudge 5 % every 50 ms\n    one way\n";
    bench one, all;
    uint32_t chance = 9, told = 0, bad = 0, driven = 0;
    bench_open(&one, text);
    bench_open(&all, text);
    for (uint64_t n = 1; n < 20000; n++) {
        one.events = all.events = 0;
        for (uint16_t i = 0; i < 5; i++) {
            chance = chance * 1664525u + 1013904223u;
            const uint32_t roll = chance >> 12;
            const rgp_quality quality = roll % 131 ? RGP_GOOD : (rgp_quality)(roll / 131 % (RGP_QUALITIES + 2));
            const int32_t raw = i == 3   ? (int32_t)(roll % 2)
                                : i == 1 ? (int32_t)(roll % 103) - 51
                                         : (int32_t)(50 + roll % 7 + (n / 300 % 2) * 20) + (roll % 300 ? 0 : 60);
            const rgp_sample sample = {
                .time_us = n * 10000, .raw = raw, .quality = quality, .same = n % 4000 > 3000 && roll % 3};
            bad += quality != RGP_GOOD;
            rgp_engine_sense(&one.engine, i, &sample);
            rgp_engine_sense(&all.engine, i, &sample);
            go_the_long_way(&all.engine);
        }
        command_at_random(&one.engine, chance >> 8);
        command_at_random(&all.engine, chance >> 8);
        go_the_long_way(&all.engine);
        rgp_engine_step(&one.engine, n * 10000);
        rgp_engine_step(&all.engine, n * 10000);
        const uint32_t slots = one.engine.image->slots;
        assert_memory_equal(one.engine.value, all.engine.value, slots * sizeof *one.engine.value);
        assert_memory_equal(one.engine.quality, all.engine.quality, slots * sizeof *one.engine.quality);
        for (uint16_t i = 0; i < 4; i++) {
            assert_int_equal(rgp_engine_owner(&one.engine, i), rgp_engine_owner(&all.engine, i));
            driven += rgp_engine_output(&one.engine, i) > 0.0f;
        }
        assert_int_equal(one.events, all.events);
        assert_memory_equal(one.event, all.event, one.events * sizeof *one.event);
        told += one.events;
    }
    assert_true(told > 3000 && bad > 500 && driven > 20000);
    bench_close(&one);
    bench_close(&all);
}

/* ---- a port that fails --------------------------------------------------------------------------- */

typedef struct flaky {
    rgp_port port;
    uint64_t now;
    uint32_t calls, fails_at; /* the n-th call fails, from 1 */
    float written[2];
} flaky;

static rgp_status flaky_call(flaky *f)
{
    return ++f->calls == f->fails_at ? RGP_E_PORT : RGP_OK;
}

static uint64_t flaky_now(void *self)
{
    return ((flaky *)self)->now += 10000;
}

static rgp_status flaky_read(void *self, uint16_t sensor, rgp_sample *sample)
{
    (void)sensor;
    *sample = (rgp_sample){.raw = 10};
    return flaky_call(self);
}

static rgp_status flaky_write(void *self, uint16_t actuator, float value)
{
    flaky *f = self;
    const rgp_status status = flaky_call(f);
    if (status == RGP_OK) {
        f->written[actuator] = value;
    }
    return status;
}

static rgp_status flaky_of_all(void *self)
{
    return flaky_call(self);
}

/* The order of calls, a letter each; reading takes as long as it is told. */
typedef struct listening {
    GString *calls;
    uint64_t now_us, reading_us;
} listening;

static uint64_t listened_now(void *self)
{
    return ((listening *)self)->now_us;
}

static rgp_status listened_gather(void *self)
{
    g_string_append_c(((listening *)self)->calls, 'g');
    return RGP_OK;
}

static rgp_status listened_read(void *self, uint16_t sensor, rgp_sample *sample)
{
    listening *l = self;
    *sample = (rgp_sample){.time_us = l->now_us, .raw = sensor, .quality = RGP_GOOD};
    l->now_us += l->reading_us;
    g_string_append_c(l->calls, 'r');
    return RGP_OK;
}

static rgp_status listened_write(void *self, uint16_t actuator, float value)
{
    (void)actuator;
    (void)value;
    g_string_append_c(((listening *)self)->calls, 'w');
    return RGP_OK;
}

static rgp_status listened_commit(void *self)
{
    g_string_append_c(((listening *)self)->calls, 'c');
    return RGP_OK;
}

static void listened_alive(void *self)
{
    g_string_append_c(((listening *)self)->calls, 'a');
}

/* One transfer before the reads, one behind the writes, and behind all a sign of life, unless it took too long. */
static void test_transfers_and_life(void **unused)
{
    (void)unused;
    bench b;
    listening l = {g_string_new(NULL), 1000, 10};
    const rgp_port port = {.version = RGP_PORT_VERSION,
                           .self = &l,
                           .now = listened_now,
                           .read = listened_read,
                           .write = listened_write,
                           .gather = listened_gather,
                           .commit = listened_commit,
                           .alive = listened_alive};
    bench_open(&b, HEAD "while s below 30\n    a 40 % for 1 s\non start\n    b on\n");
    const uint32_t sensors = rgp_image_count(b.rig->image, RGP_SECTION_SENSORS);
    g_autofree char *reads = g_strnfill(sensors, 'r'), *whole = g_strconcat("g", reads, "wwca", NULL),
                    *late = g_strconcat("g", reads, "wwc", NULL);
    assert_int_equal(rgp_engine_tick(&b.engine, &port), RGP_OK);
    assert_string_equal(l.calls->str, whole);
    g_string_truncate(l.calls, 0);
    l.reading_us = 1000000;
    assert_int_equal(rgp_engine_tick(&b.engine, &port), RGP_OK);
    assert_string_equal(l.calls->str, late);
    g_string_truncate(l.calls, 0);
    rgp_engine_rest(&b.engine, &port);
    assert_string_equal(l.calls->str, "wwc");
    g_string_free(l.calls, TRUE);
    bench_close(&b);
}

/* Whichever call fails, everything that can still be written is at rest afterwards. */
static void test_port_failures(void **unused)
{
    (void)unused;
    bool untouched = false;
    for (uint32_t n = 1; !untouched; n++) {
        bench b;
        flaky f = {.fails_at = n, .written = {-1.0f, -1.0f}};
        f.port = (rgp_port){.version = RGP_PORT_VERSION,
                            .self = &f,
                            .now = flaky_now,
                            .read = flaky_read,
                            .write = flaky_write,
                            .health = flaky_of_all,
                            .gather = flaky_of_all,
                            .commit = flaky_of_all};
        bench_open(&b, HEAD "while s below 30\n    a 40 % for 1 s\non start\n    b on\n");
        rgp_status status = RGP_OK;
        for (int i = 0; i < 3 && status == RGP_OK; i++) {
            status = rgp_engine_tick(&b.engine, &f.port);
        }
        untouched = f.calls < n;
        assert_int_equal(status, untouched ? RGP_OK : RGP_E_PORT);
        assert_true(f.written[0] == (untouched ? 40.0f : 5.0f));
        assert_true(f.written[1] == (untouched ? 1.0f : 0.0f));
        bench_close(&b);
    }
}

/* ---- damaged images ------------------------------------------------------------------------------ */

static rgp_status try_open(const void *image, uint32_t size, void *memory, uint32_t room, rgp_engine *engine)
{
    return rgp_engine_open(engine, image, size, memory, room);
}

static const char whole_rig[] =
    HEAD "signal x = s | despike 3 | table 0: 0 cm, 50: 3 cm, 100: 9 cm | smooth 50 ms\n"
         "bands z = x: low below 2 cm, mid, high above 7 cm; margin 2 mm\n"
         "bands y = s: few below p, many\n"
         "while z is low and y is few\n    a p * 1 %/counts for 20 ms\n    holdoff 20 "
         "ms\non z leaves mid\n    b on\n    mark m\n"
         "signal q = (z leaves mid) | count\nsignal v = (z is low) | lag from (z is high), within 1 s\n"
         "signal u = x | reach 2 mm\nsignal w = x | approach 3 cm, slowing 1 cm\n"
         "keep q\ncue over\nmode day: dawn, noon\nnever a above 90 while z is high\n"
         "never a with b\nnever a stalled, x moves 1 mm in 30 ms\n"
         "stop while x above 8.9 cm until z is low\n"
         "sequence lift, only while day is dawn\n    cycle 3 times\n        a 20 %\n"
         "        dwell 10 ms\n    await over within 20 ms, else go ending\n    b on\n"
         "    cue over\n    part ending\n    day noon\n    dwell 10 ms\n    go ending if z is high\n"
         "on 3 times z goes mid within 1 s\n    begin lift\n"
         "on 20 ms after over\n    begin lift anew\n"
         "on start or every 30 ms\n    begin lift\n    a 30 % for 10 ms, 2 times every 20 ms, priority 2\n";

/* A rig without shaping, so that loops may simply go on. */
static const char loops_rig[] =
    HEAD "actuator c percent -50..50, rest at 0\nactuator d percent 0..100, rest at 0\n"
         "loop l: s at p with c\n    pid kp 2, ki 30, kd 0.01, filter 20 ms, back 1 s\n    feed s * 0.1 %/counts\n"
         "    ramp 2000 counts/s\n    cut out beyond 90 counts for 30 ms, again\n    engage within 90 counts\n"
         "loop m: s at 30 counts with d\n    on-off margin 2 counts, on at least 20 ms\n    one way\n"
         "loop n: s at 40 counts with a\n    nudge 5 % every 20 ms, within 3 counts\n"
         "on l goes out\n    b on\n";

static void test_every_length_and_every_byte(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, whole_rig);
    const uint32_t size = b.rig->image_size, room = b.engine.image->memory;
    unsigned char *copy = aligned_alloc(8, size);
    void *memory = aligned_alloc(8, room);
    rgp_engine engine;
    memcpy(copy, b.rig->image, size);
    for (uint32_t length = 0; length < size; length++) {
        assert_int_not_equal(try_open(copy, length, memory, room, &engine), RGP_OK);
    }
    for (uint32_t i = 0; i < size; i++) {
        copy[i] ^= 0x40;
        assert_int_not_equal(try_open(copy, size, memory, room, &engine), RGP_OK);
        copy[i] ^= 0x40;
    }
    assert_int_equal(try_open(copy, size, memory, room - 1, &engine), RGP_E_MEMORY);
    assert_int_equal(try_open(copy, size, (char *)memory + 4, room, &engine), RGP_E_ALIGNMENT);
    assert_int_equal(try_open(copy, size, memory, room, &engine), RGP_OK);
    free(copy);
    free(memory);
    bench_close(&b);
}

/* With the checksum made good, whatever is still accepted has to run without harm: the sanitizers watch. */
static void forge_all(const char *text)
{
    static const unsigned char masks[] = {0x01, 0x80, 0xFF};
    bench b;
    bench_open(&b, text);
    const uint32_t size = b.rig->image_size;
    unsigned char *copy = aligned_alloc(8, size);
    uint32_t accepted = 0;
    memcpy(copy, b.rig->image, size);
    for (uint32_t i = 0; i < 3 * size; i++) {
        copy[i / 3] ^= masks[i % 3];
        rgp_image_header *header = (rgp_image_header *)(void *)copy;
        const uint32_t checksum = header->checksum;
        header->checksum = rgp_image_checksum(copy, size);
        const uint32_t room = header->memory < 100000 ? header->memory : 100000;
        void *memory = calloc(1, room + 8);
        rgp_engine engine;
        if (try_open(copy, size, memory, room, &engine) == RGP_OK) {
            accepted++;
            for (uint64_t t = 0; t < 12; t++) {
                const rgp_sample sample = {.time_us = t, .raw = (int32_t)(t * 37 % 101)};
                rgp_engine_sense(&engine, 0, &sample);
                rgp_engine_step(&engine, t * 10000);
                assert_true(rgp_finite(rgp_engine_output(&engine, 0)));
            }
        }
        free(memory);
        header->checksum = checksum;
        copy[i / 3] ^= masks[i % 3];
    }
    if (!(accepted > size / 20 && accepted < 2 * size)) { /* of three tries a byte */
        fail_msg("%u of %u accepted", accepted, 3 * size);
    }
    free(copy);
    bench_close(&b);
}

static void test_forged_images_run_or_are_refused(void **unused)
{
    (void)unused;
    forge_all(whole_rig);
    forge_all(loops_rig);
}

/* Images that the loader must refuse for a step, a sequence, a state, a stall, a stop or an actuator, one by one. */
typedef struct forgery {
    const char *what;
    uint32_t section, element, offset; /* bytes */
    uint32_t bytes;                    /* 2 or 4 */
    uint32_t value;
    rgp_status status;
} forgery;

#define FIELD(type, name) (uint32_t) offsetof(type, name), (uint32_t)sizeof(((type *)0)->name)

static void test_forged_fields(void **unused)
{
    (void)unused;
    static const forgery cases[] = {
        {"a kind of step", RGP_SECTION_STEPS, 0, FIELD(rgp_image_step, kind), RGP_STEPS, RGP_E_INDEX},
        {"the cycle's target", RGP_SECTION_STEPS, 0, FIELD(rgp_image_step, target), 500, RGP_E_INDEX},
        {"the cycle's times", RGP_SECTION_STEPS, 0, FIELD(rgp_image_step, value), 0x8fff, RGP_E_INDEX},
        {"an action", RGP_SECTION_STEPS, 1, FIELD(rgp_image_step, what), 900, RGP_E_INDEX},
        {"a dwell's time", RGP_SECTION_STEPS, 2, FIELD(rgp_image_step, value), RGP_REF_NONE, RGP_E_INDEX},
        {"the way back", RGP_SECTION_STEPS, 3, FIELD(rgp_image_step, target), RGP_REF_NONE, RGP_E_INDEX},
        {"what is awaited", RGP_SECTION_STEPS, 4, FIELD(rgp_image_step, what), RGP_REF_NONE, RGP_E_INDEX},
        {"a sequence's steps", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, steps), 0, RGP_E_INDEX},
        {"its last step", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, steps), 3, RGP_E_INDEX},
        {"its first step", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, first_step), 2000, RGP_E_INDEX},
        {"its state", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, state), 77, RGP_E_INDEX},
        {"what it lives in", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, condition), 0x7000, RGP_E_INDEX},
        {"its ending", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, ending), 99, RGP_E_INDEX},
        {"a kind of state", RGP_SECTION_STATES, 0, FIELD(rgp_image_state, kind), RGP_STATES, RGP_E_INDEX},
        {"a stall's actuator", RGP_SECTION_STALLS, 0, FIELD(rgp_image_stall, actuator), 1, RGP_E_INDEX},
        {"a stall's value", RGP_SECTION_STALLS, 0, FIELD(rgp_image_stall, value), 0x6000, RGP_E_INDEX},
        {"a stall's amount", RGP_SECTION_STALLS, 0, FIELD(rgp_image_stall, amount), 0, RGP_E_RANGE},
        {"a stall's time", RGP_SECTION_STALLS, 0, FIELD(rgp_image_stall, time), 0x7fc00000, RGP_E_RANGE},
        {"a stop's condition", RGP_SECTION_STOPS, 0, FIELD(rgp_image_stop, condition), 0x6000, RGP_E_INDEX},
        {"a stop's release", RGP_SECTION_STOPS, 0, FIELD(rgp_image_stop, release), 0x6000, RGP_E_INDEX},
        {"what is kept", RGP_SECTION_RETAINED, 0, FIELD(rgp_image_retained, slot), 0x6000, RGP_E_INDEX},
        {"a duty", RGP_SECTION_ACTUATORS, 0, FIELD(rgp_image_actuator, duty), 0x3f800000, RGP_E_RANGE},
        {"a kind of actuator", RGP_SECTION_ACTUATORS, 0, FIELD(rgp_image_actuator, kind), 3, RGP_E_RANGE},
        {"an inversion", RGP_SECTION_ACTUATORS, 0, FIELD(rgp_image_actuator, inverted), 2, RGP_E_RANGE},
        {"a timed sensor", RGP_SECTION_SENSORS, 0, FIELD(rgp_image_sensor, timed), 1, RGP_E_RANGE},
        {"a name's order", RGP_SECTION_NAMES, 3, FIELD(rgp_image_name, kind), RGP_NAME_RIG, RGP_E_ORDER},
    };
    bench b;
    bench_open(&b, whole_rig);
    const uint32_t size = b.rig->image_size, room = b.engine.image->memory;
    unsigned char *copy = aligned_alloc(8, size);
    void *memory = aligned_alloc(8, room);
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        static const uint32_t widths[RGP_SECTIONS] = {
#define WIDTH(name, type) sizeof(type),
            RGP_SECTION_LIST(WIDTH)
#undef WIDTH
        };
        const forgery *c = &cases[i];
        rgp_engine engine;
        memcpy(copy, b.rig->image, size);
        rgp_image_header *header = (rgp_image_header *)(void *)copy;
        assert_true(c->element < header->section[c->section].count);
        memcpy(copy + header->section[c->section].offset + c->element * widths[c->section] + c->offset, &c->value,
               c->bytes);
        header->checksum = rgp_image_checksum(copy, size);
        const rgp_status status = try_open(copy, size, memory, room, &engine);
        if (status != c->status) {
            fail_msg("%s: '%s', not '%s'", c->what, rgp_status_text(status), rgp_status_text(c->status));
        }
        rgp_image_fault fault = {0, 0};
        assert_int_equal(rgp_image_verify(copy, size, memory, room, &fault), c->status);
        if (fault.section != c->section || fault.row != c->element) {
            fail_msg("%s: said to be in section %u, row %u", c->what, fault.section, fault.row);
        }
    }
    free(copy);
    free(memory);
    bench_close(&b);
}

/* ---- edges, and what is kept ------------------------------------------------------------------------- */

#define GATE_RIG                                                                                         \
    "rig t\ntick 20 ms\nsensor g switch\nsensor k switch\nsensor s counts 0..99\nsignal w = g | width\n" \
    "signal n = g | count\nsignal z = s | zero over 100 ms, spread 3 counts, drift 3 counts\nkeep n, z\n"

static void gate_tick(bench *b, uint64_t now_us, int32_t level)
{
    const rgp_sample gate = {.time_us = now_us, .raw = level}, other = {.time_us = now_us};
    const rgp_sample s = {.time_us = now_us, .raw = 40};
    b->events = 0;
    rgp_engine_sense(&b->engine, 0, &gate);
    rgp_engine_sense(&b->engine, 1, &other);
    rgp_engine_sense(&b->engine, 2, &s);
    rgp_engine_step(&b->engine, now_us);
}

/* A port's edges are measured in microseconds, told, and counted where there are too many; those of a clock that jumps
 * do no harm. */
static void test_edges(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, GATE_RIG);
    const rgp_port_edge pulse[2] = {{25000, 1}, {25123, 0}};
    gate_tick(&b, 20000, 0);
    assert_int_equal(rgp_engine_edges(&b.engine, 1, pulse, 2, 0), RGP_E_INDEX); /* nothing measures it */
    assert_int_equal(rgp_engine_edges(&b.engine, 7, pulse, 2, 0), RGP_E_INDEX);
    assert_int_equal(rgp_engine_edges(&b.engine, 0, pulse, 2, 0), RGP_OK);
    gate_tick(&b, 40000, 0); /* over before any tick has seen it */
    assert_near((double)bench_value(&b, "w").value, 123e-6, 1e-9);
    assert_near((double)bench_value(&b, "n").value, 1.0, 0.0);
    assert_int_equal(bench_events(&b, RGP_EVENT_EDGE), 2);
    rgp_port_edge many[RGP_EDGES_KEPT + 4];
    for (uint32_t i = 0; i < RGP_EDGES_KEPT + 4; i++) {
        many[i] = (rgp_port_edge){41000 + 100 * i, i % 2 == 0};
    }
    rgp_engine_edges(&b.engine, 0, many, RGP_EDGES_KEPT + 4, 6);
    gate_tick(&b, 60000, 0);
    assert_near((double)bench_value(&b, "n").value, 1.0 + 8.0 + 5.0, 0.0); /* ten lost: five beginnings */
    assert_int_equal(bench_events(&b, RGP_EVENT_OVERFLOW), 1);
    const rgp_port_edge odd[3] = {{5, 1}, {90000000000u, 0}, {70000, 1}}; /* the past, the future, out of order */
    rgp_engine_edges(&b.engine, 0, odd, 3, 0);
    gate_tick(&b, 10000, 1); /* the clock goes back */
    gate_tick(&b, 30000, 1);
    gate_tick(&b, 7200000000u, 0); /* and two hours on */
    assert_true(rgp_finite(bench_value(&b, "w").value) && bench_value(&b, "w").value >= 0.0f);
    bench_close(&b);
}

/* Edges are told of one sensor by itself: another timed switch is still looked for in its readings. */
static void test_edges_of_one_sensor(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 20 ms\nsensor told switch\nsensor seen switch\nsignal a = told | count\n"
                   "signal c = seen | count\n");
    for (uint32_t k = 1; k <= 20; k++) {
        const rgp_port_edge pulse[2] = {{k * 20000u - 900u, 1}, {k * 20000u - 100u, 0}};
        rgp_engine_edges(&b.engine, 0, pulse, 2, 0);
        const rgp_sample off = {.time_us = k * 20000u}, other = {.time_us = k * 20000u, .raw = k % 2};
        rgp_engine_sense(&b.engine, 0, &off);
        rgp_engine_sense(&b.engine, 1, &other);
        b.events = 0;
        rgp_engine_step(&b.engine, k * 20000u);
    }
    assert_near((double)bench_value(&b, "a").value, 20.0, 0.0);
    assert_near((double)bench_value(&b, "c").value, 9.0, 0.0); /* on at the first look is no change */
    bench_close(&b);
}

/* A round trip; any byte changed, or any length but its own: nothing is taken. */
static void test_kept(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, GATE_RIG);
    for (uint32_t k = 1; k <= 20; k++) {
        gate_tick(&b, k * 20000u, k % 4 == 0);
    }
    unsigned char block[256];
    uint32_t size, taken, again;
    assert_int_equal(rgp_engine_retain(&b.engine, block, sizeof block, &size), RGP_OK);
    assert_int_equal(rgp_engine_retain(&b.engine, block, size - 1, &again), RGP_E_MEMORY);
    rgp_engine_retain(&b.engine, block, sizeof block, &size);
    bench_close(&b);

    bench_open(&b, GATE_RIG);
    assert_int_equal(rgp_engine_restore(&b.engine, block, size, &taken), RGP_OK);
    assert_int_equal(taken, 2);
    gate_tick(&b, 20000, 0);
    assert_near((double)bench_value(&b, "n").value, 5.0, 0.0);
    assert_near((double)bench_value(&b, "z").value, 0.0, 1e-6); /* learned, and on the first tick */
    assert_int_equal(bench_value(&b, "z").quality, RGP_GOOD);
    rgp_engine_relearn(&b.engine, bench_slot(&b, "n"));
    gate_tick(&b, 40000, 0);
    assert_near((double)bench_value(&b, "n").value, 0.0, 0.0);
    for (uint32_t i = 0; i < size; i++) {
        block[i] ^= 0x10;
        assert_true(rgp_engine_restore(&b.engine, block, size, &taken) != RGP_OK && taken == 0);
        block[i] ^= 0x10;
        assert_true(rgp_engine_restore(&b.engine, block, i, &taken) != RGP_OK && taken == 0);
    }
    bench_close(&b);
    bench_open(&b, "rig t\ntick 20 ms\nsensor g switch\nsignal m = g | count\nkeep m\n");
    assert_int_equal(rgp_engine_restore(&b.engine, block, size, &taken), RGP_OK);
    assert_int_equal(taken, 0); /* of another name */
    bench_close(&b);
}

/* Nothing goes further from rest than the bound, also by hand; switches do. */
static void test_bound(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor s counts 0..9\nactuator m percent -100..80, rest at 10\n"
                   "actuator l switch, rest at off\n");
    assert_int_equal(rgp_engine_bound(&b.engine, 101.0f), RGP_E_RANGE);
    assert_int_equal(rgp_engine_hand(&b.engine, 1, 0.78f), RGP_E_RANGE); /* between off and on */
    assert_int_equal(rgp_engine_bound(&b.engine, 50.0f), RGP_OK);
    static const float asked[] = {80, -100, 20}, wanted[] = {45, -45, 20};
    for (size_t i = 0; i < sizeof asked / sizeof *asked; i++) {
        rgp_engine_hand(&b.engine, 0, asked[i]);
        rgp_engine_hand(&b.engine, 1, 1.0f);
        bench_tick(&b, 0, 5);
        assert_near((double)rgp_engine_output(&b.engine, 0), (double)wanted[i], 0.0);
        assert_near((double)rgp_engine_output(&b.engine, 1), 1.0, 0.0);
    }
    rgp_engine_reset(&b.engine);
    b.now_us = 0;
    rgp_engine_hand(&b.engine, 0, 80.0f);
    bench_tick(&b, 0, 5);
    assert_near((double)rgp_engine_output(&b.engine, 0), 80.0, 0.0);
    bench_close(&b);
}

/* What the check lets through the engine obeys, and what the check refuses it refuses in the same words. */
static void test_commands(void **unused)
{
    (void)unused;
    static const float values[] = {0.0f, 1.0f, 0.5f, 20.0f, 50.0f, 80.0f, 80.5f, 100.5f, -1.0f, (float)NAN};
    bench b;
    bench_open(&b, HEAD
               "signal z = s | zero over 1 s, spread 2 counts, drift 2 counts\nwhile z below 30 counts\n    a 40 %\n");
    uint32_t obeyed[RGP_COMMANDS] = {0};
    for (uint32_t n = 0; n < RGP_COMMANDS * 4 * 10; n++) {
        const rgp_command c = {.what = (uint8_t)(n % RGP_COMMANDS),
                               .which = (uint16_t)(n / RGP_COMMANDS % 4),
                               .value = values[n / RGP_COMMANDS / 4]};
        const rgp_status check = rgp_command_check(b.rig->image, &c), done = rgp_command_obey(&b.engine, &c);
        const bool of_engine = c.what < RGP_COMMAND_DISTURB;
        if (done != (of_engine ? check : RGP_E_INDEX) && c.what != RGP_COMMAND_RELEARN) {
            fail_msg("%s %u %g: %s, but %s", rgp_command_word(c.what), c.which, (double)c.value, rgp_status_name(check),
                     rgp_status_text(done));
        }
        obeyed[c.what] += done == RGP_OK;
        b.events = 0;
    }
    const rgp_command anew = {.what = RGP_COMMAND_RELEARN, .which = bench_slot(&b, "z")};
    obeyed[RGP_COMMAND_RELEARN] += rgp_command_obey(&b.engine, &anew) == RGP_OK;
    for (uint8_t what = 0; what < RGP_COMMANDS; what++) {
        assert_int_equal(obeyed[what] > 0, what < RGP_COMMAND_DISTURB);
        assert_string_not_equal(rgp_command_word(what), "?");
    }
    assert_string_equal(rgp_command_word(RGP_COMMANDS), "?");
    const rgp_command lost = {.what = RGP_COMMANDS};
    assert_int_equal(rgp_command_check(b.rig->image, &lost), RGP_E_INDEX);
    bench_close(&b);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_while_rule),
        cmocka_unit_test(test_on_rule_fires_once_and_drops),
        cmocka_unit_test(test_bad_readings_fire_nothing),
        cmocka_unit_test(test_parameters),
        cmocka_unit_test(test_ranks),
        cmocka_unit_test(test_time),
        cmocka_unit_test(test_arithmetic),
        cmocka_unit_test(test_outputs_are_what_the_claims_owe),
        cmocka_unit_test(test_short_ways),
        cmocka_unit_test(test_transfers_and_life),
        cmocka_unit_test(test_port_failures),
        cmocka_unit_test(test_every_length_and_every_byte),
        cmocka_unit_test(test_forged_images_run_or_are_refused),
        cmocka_unit_test(test_forged_fields),
        cmocka_unit_test(test_edges),
        cmocka_unit_test(test_edges_of_one_sensor),
        cmocka_unit_test(test_kept),
        cmocka_unit_test(test_bound),
        cmocka_unit_test(test_commands),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
