/* The engine through the language: a rig tick by tick, on a port that fails, with edges and a memory. */
#include "support.h"

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

/* The engine obeys each command that the check lets through, and refuses the others in the check's own words. */
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
        cmocka_unit_test(test_transfers_and_life),
        cmocka_unit_test(test_port_failures),
        cmocka_unit_test(test_edges),
        cmocka_unit_test(test_edges_of_one_sensor),
        cmocka_unit_test(test_kept),
        cmocka_unit_test(test_bound),
        cmocka_unit_test(test_commands),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
