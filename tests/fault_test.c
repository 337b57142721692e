/* Every fault of every simulated sensor, in every example: named within its stated time, and what depends on it at
 * rest. And what `inspect` makes of sensors with something wrong. */
#include "support.h"

#include "analysis/inspect.h"
#include "sim/sim.h"

#include <gsl/gsl_randist.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

#define FAULT_AT    2.5 /* seconds */
#define FAULT_LASTS 3.0
#define FAULT_AFTER 0.6 /* of bad readings */
/* Every fault, the quality that names it, how soon, and whether it stays long enough to become a fault. Amounts are
 * parts of the sensor's range. */
static const struct {
    const char *word;
    double amount;
    const char *unit;
    rgp_quality quality;
    double within;
    uint32_t ticks; /* more that it may take */
    bool stays;
} faults[] = {
    {"sticks", 0.0, NULL, RGP_STUCK, 0.4, 2, true},  {"pins", 0.0, NULL, RGP_PINNED, 0.0, 2, true},
    {"lags", 0.0, NULL, RGP_LATE, 0.12, 2, true},    {"drops", 0.0, NULL, RGP_MISSING, 0.0, 2, true},
    {"drifts", 1.0, "/s", RGP_PINNED, 1.0, 2, true}, {"leaps", 0.4, "", RGP_JUMP, 0.0, 2, false},
    {"spikes", 0.4, "", RGP_JUMP, 0.0, 20, false}, /* every third reading, by chance */
};

typedef struct watch {
    double now, named_at, fault_at;
    uint16_t sensor;
    rgp_quality wanted;
} watch;

static void watch_event(void *self, const rgp_event *event)
{
    watch *w = self;
    if (event->kind == RGP_EVENT_SENSOR && event->source == w->sensor && event->reason == w->wanted &&
        w->named_at < 0.0 && w->now >= FAULT_AT) {
        w->named_at = w->now;
    }
    if (event->kind == RGP_EVENT_FAULT && event->source == w->sensor && w->fault_at < 0.0) {
        w->fault_at = w->now;
    }
}

/* The example's text with the sensor's line held against everything, and the fault in the hook-up. `fastest`: ranges a
 * second. */
static char *with_fault(const char *text, const char *sensor, double fastest, size_t fault)
{
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    GString *made = g_string_new(NULL);
    g_autofree char *pattern = g_strdup_printf("^sensor +%s +([a-zA-Z]+) +(-?[0-9]+)\\.\\.(-?[0-9]+)", sensor);
    double range = 0.0;
    for (char **line = lines; *line; line++) {
        g_autoptr(GMatchInfo) match = NULL;
        g_autoptr(GRegex) regex = g_regex_new(pattern, 0, 0, NULL);
        if (g_regex_match(regex, *line, 0, &match)) {
            g_autofree char *declared = g_match_info_fetch(match, 0), *unit = g_match_info_fetch(match, 1);
            g_autofree char *low = g_match_info_fetch(match, 2), *high = g_match_info_fetch(match, 3);
            range = g_ascii_strtod(high, NULL) - g_ascii_strtod(low, NULL);
            g_string_append_printf(made, "%s, pinned, stuck 400 ms, every 120 ms, jump %.0f %s/s, fault after 600 ms\n",
                                   declared, fastest * range, unit);
        } else {
            g_string_append_printf(made, "%s\n", *line);
        }
    }
    g_string_append_printf(made, "    at %g s %s %s", FAULT_AT, sensor, faults[fault].word);
    if (faults[fault].unit) {
        g_string_append_printf(made, " %.0f counts%s", faults[fault].amount * range, faults[fault].unit);
    }
    g_string_append_printf(made, " for %g s\n", FAULT_LASTS);
    return g_string_free(made, FALSE);
}

/* True when a rule needs the sensor, so that its fault brings something to rest. */
static bool is_needed(const rgp_image_header *image, uint32_t sensor)
{
    const rgp_image_need *need = rgp_image_at(image, RGP_SECTION_NEEDS);
    bool needed = false;
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_NEEDS); i++) {
        needed |= need[i].sensor == sensor;
    }
    return needed;
}

static void run_fault(const char *example, const char *text, const char *sensor, double fastest, size_t fault)
{
    g_autofree char *made = with_fault(text, sensor, fastest, fault);
    bench b;
    bench_open(&b, made);
    watch w = {.named_at = -1.0, .fault_at = -1.0, .wanted = faults[fault].quality};
    w.sensor = (uint16_t)(bench_slot(&b, sensor) - rgp_image_sensor_slot(b.engine.image, 0));
    rgp_sim *sim = rgp_sim_new(b.rig, 1, false, NULL);
    const rgp_port *port = rgp_sim_port(sim);
    const double tick = b.engine.image->tick_us / 1e6;
    const rgp_image_actuator *actuator = rgp_image_at(b.engine.image, RGP_SECTION_ACTUATORS);
    rgp_engine_listen(&b.engine, watch_event, &w);
    for (uint64_t n = 0; (double)n * tick < FAULT_AT + FAULT_LASTS; n++) {
        w.now = (double)n * tick;
        port->sleep_until(port->self, n * b.engine.image->tick_us);
        assert_int_equal(rgp_engine_tick(&b.engine, port), RGP_OK);
        for (uint16_t i = 0; w.fault_at >= 0.0 && i < rgp_image_count(b.engine.image, RGP_SECTION_ACTUATORS); i++) {
            if (rgp_engine_output(&b.engine, i) != actuator[i].rest) {
                fail_msg("%s: %s %s, and actuator %u is driven", example, sensor, faults[fault].word, i);
            }
        }
    }
    const double allowed = faults[fault].within + faults[fault].ticks * tick + 1e-9;
    if (!(w.named_at >= 0.0 && w.named_at - FAULT_AT <= allowed)) {
        fail_msg("%s: %s %s was named %g s after it began, not within %g s", example, sensor, faults[fault].word,
                 w.named_at - FAULT_AT, allowed);
    }
    if (faults[fault].stays) {
        assert_true(w.fault_at >= FAULT_AT + FAULT_AFTER - 2.0 * tick);
        assert_true(w.fault_at <= FAULT_AT + FAULT_AFTER + allowed + 2.0 * tick);
    } else {
        assert_true(w.fault_at < 0.0); /* it comes and goes */
    }
    assert_true(is_needed(b.engine.image, w.sensor));
    rgp_sim_free(sim);
    bench_close(&b);
}

static void test_matrix(void **unused)
{
    (void)unused;
    static const struct {
        const char *example, *sensor;
        double fastest; /* ranges a second that count as possible */
    } cases[] = {
        {"basin.rig", "level", 5},   {"vane.rig", "gyro", 5},     {"lamp.rig", "eye", 50}, /* the hum is fast */
        {"beacon.rig", "flight", 5}, {"deck.rig", "gyro", 5},     {"deck.rig", "ay", 5},      {"deck.rig", "az", 5},
        {"deck.rig", "ax", 5},       {"feeder.rig", "hopper", 5}, {"buoy.rig", "encoder", 5},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", cases[i].example);
        for (size_t k = 0; k < sizeof faults / sizeof *faults; k++) {
            run_fault(cases[i].example, text, cases[i].sensor, cases[i].fastest, k);
        }
    }
}

/* Faults that come and go: spikes and a leap are jumps while they are impossible, and a drift ends at the rail. */
static void test_passing_faults(void **unused)
{
    (void)unused;
    static const struct {
        const char *what;
        rgp_quality quality;
        uint32_t least, most; /* ticks of it in a second from the fault on */
    } cases[] = {
        {"spikes 500 counts for 1 s", RGP_JUMP, 15, 60},
        {"leaps 500 counts", RGP_JUMP, 40, 60},       /* 500 counts at 1000 counts/s: half a second */
        {"drifts 5000 counts/s", RGP_PINNED, 55, 62}, /* 2000 counts to the rail: 400 ms */
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *text =
            g_strdup_printf("rig x\ntick 10 ms\nsensor s counts 0..4000, pinned, jump %s counts/s\nhookup sim\n"
                            "    s reads 2000: noise 2\n    at 1 s s %s\n",
                            i == 2 ? "60000" : "1000", cases[i].what);
        bench b;
        bench_open(&b, text);
        rgp_sim *sim = rgp_sim_new(b.rig, 1, false, NULL);
        const rgp_port *port = rgp_sim_port(sim);
        uint32_t named = 0;
        for (uint64_t n = 0; n < 200; n++) {
            port->sleep_until(port->self, n * 10000);
            rgp_engine_tick(&b.engine, port);
            const rgp_quality q = bench_value(&b, "s").quality;
            assert_true(n >= 100 || q == RGP_GOOD);
            named += q == cases[i].quality;
        }
        if (named < cases[i].least || named > cases[i].most) {
            fail_msg("'%s' was named in %u ticks", cases[i].what, named);
        }
        rgp_sim_free(sim);
        bench_close(&b);
    }
}

/* A cleared fault lets the rule act again; a fault that is not cleared does not, even when the sensor is well. */
static void test_clearing(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig x\ntick 10 ms\nsensor s counts 0..100, fault after 30 ms\nactuator a switch, rest at off\n"
                   "while s above 50\n    a on for 20 ms\n");
    bench_tick(&b, 0, 80);
    assert_true(bench_value(&b, "a").value == 1.0f);
    for (int i = 0; i < 3; i++) {
        bench_tick_bad(&b, RGP_MISSING);
    }
    assert_int_equal(bench_events(&b, RGP_EVENT_FAULT), 1);
    bench_tick(&b, 0, 80);
    assert_true(bench_value(&b, "a").value == 0.0f);
    rgp_engine_clear(&b.engine);
    bench_tick(&b, 0, 80);
    assert_true(bench_value(&b, "a").value == 1.0f);
    bench_close(&b);
}

/* The stages that `inspect` names help: the error of the conditioned signal beside that of the raw one, over the second
 * half of 16 s. */
static void test_named_stages_help(void **unused)
{
    (void)unused;
    static const struct {
        const char *wrong, *stage;
        double least_gain; /* how many times smaller the error gets */
    } cases[] = {
        {"noise 20", "smooth 50 ms", 4.0},
        {"noise 2, spikes 400 every 400 ms", "despike 3", 10.0},
        {"noise 2, flicker 40 every 20 ms", "average 5", 20.0},
        {"noise 5, bias 80", "zero over 1 s, spread 20 counts, drift 5 counts", 10.0},
        {"noise 2, warmup 300 over 1 s, bias 50", "zero over 1 s, spread 9 counts, drift 3 counts, warmup 6 s", 10.0},
        {"misses 2 %", "despike 5", 10.0},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        const bool zero = strncmp(cases[i].stage, "zero", 4) == 0;
        g_autofree char *text = g_strdup_printf(
            "rig x\ntick 4 ms\nsensor s counts 0..4095\nsignal x = s | %s\nhookup sim\n    s reads 2000: %s\n",
            cases[i].stage, cases[i].wrong);
        bench b;
        bench_open(&b, text);
        rgp_sim *sim = rgp_sim_new(b.rig, 1, false, NULL);
        double raw = 0.0, conditioned = 0.0;
        for (uint64_t n = 0; n < 4000; n++) {
            rgp_sim_port(sim)->sleep_until(rgp_sim_port(sim)->self, n * 4000);
            rgp_engine_tick(&b.engine, rgp_sim_port(sim));
            if (n >= 2000) {
                const double off = (double)bench_value(&b, "x").value - (zero ? 0.0 : 2000.0);
                raw += pow((double)bench_value(&b, "s").value - 2000.0, 2.0);
                /* what a zero leaves is the noise: its own error is what counts */
                conditioned += zero ? off : off * off;
                assert_true(rgp_usable(bench_value(&b, "x").quality));
            }
        }
        raw = sqrt(raw / 2000.0);
        conditioned = zero ? fabs(conditioned / 2000.0) : sqrt(conditioned / 2000.0);
        if (!(conditioned * cases[i].least_gain < raw)) {
            fail_msg("'%s' against '%s' leaves %g of %g counts", cases[i].stage, cases[i].wrong, conditioned, raw);
        }
        rgp_sim_free(sim);
        bench_close(&b);
    }
}

/* The words of `inspect` for a raw sensor with one thing wrong. */
static void test_inspect_finds(void **unused)
{
    (void)unused;
    static const struct {
        const char *wrong, *says, *silent; /* `silent`: what it must not say */
    } cases[] = {
        {"reads 2000: noise 3", "leaves a fifth", "spike"},
        {"reads 2000: noise 3, spikes 400 every 400 ms", "despike 3", "hum"},
        {"reads 2000: noise 2, flicker 40 every 20 ms", "a hum at 50", "spike"},
        {"reads 2000: noise 2, warmup 300 over 4 s", "warming up", "hum"},
        {"reads 2000", "not one step of change", "leaves a fifth"},
        {"reads 4095: noise 5", "at the end of the range", "hum"},
        {"reads 2000: noise 3\n    at 1 s s drops for 1 s", "are missing", "spike"},
        {"reads 2000: noise 3\n    at 1 s s lags for 1 s", "for up to 1.0 s no newer reading came", "smooth 57 s"},
        {"reads 2000: noise 3, period 20 ms", "noise of 3", "delivers about"},
        {"reads 2000: noise 3\n    at 1 s s sticks for 3 s", "it may get stuck", "missing"},
    };
    char *folder = make_folder();
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *text =
            g_strdup_printf("rig x\ntick 4 ms\nsensor s counts 0..4095\nhookup sim\n    s %s\n", cases[i].wrong);
        put_file(folder, "x.rig", text, -1);
        called c = call_tool(folder, "inspect x.rig --for 8s --fast");
        assert_int_equal(c.status, 0);
        if (!strstr(c.out, cases[i].says) || strstr(c.out, cases[i].silent)) {
            fail_msg("of 's %s' it says: %s", cases[i].wrong, c.out);
        }
        call_done(&c);
    }
    remove_folder(folder);
}

typedef enum made { SLOW, CLAPS, SPIKY, WAVES, MAINS, BOUNCING, CLEAN_SWITCH, RAMP } made;

static double made_value(gsl_rng *chance, made what, uint32_t tick, double before)
{
    const double noise = round(gsl_ran_gaussian(chance, 4.0)), time = tick * 0.01;
    const uint32_t since = tick % 150;
    static const int after_change[] = {1, 0, 1, 0, 1, 1};
    switch (what) {
    case SLOW:
        return tick % 3 == 0 ? 1000.0 + noise + (tick % 300 == 0 ? 500.0 : 0.0) : before;
    case CLAPS:
        return 1000.0 + noise + (since < 4 ? 900.0 * exp(-0.8 * since) : 0.0);
    case SPIKY:
        return 1000.0 + noise + (since == 75 ? 900.0 : 0.0);
    case WAVES:
        return round(1000.0 + noise + 40.0 * sin(2.0 * G_PI * 1.1 * time));
    case MAINS:
        return round(1000.0 + noise + 40.0 * sin(2.0 * G_PI * 60.0 * time));
    case BOUNCING:
        return since < 6 ? after_change[since] : since < 75;
    case CLEAN_SWITCH:
        return since < 75;
    default:
        return 1000.0 + (double)(tick / 5);
    }
}

/* Readings that are made here, 10 ms apart: what is said of them, and what is not. */
static void test_inspect_tells_apart(void **unused)
{
    (void)unused;
    static const struct {
        made what;
        const char *says, *silent;
    } cases[] = {
        {SLOW, "it delivers about every 30 ms", "stuck"},
        {SLOW, "'despike 7'", "hum"},
        {CLAPS, "events, as of a clap", "one spike"},
        {SPIKY, "one spike in 150 readings: 'despike 3'", "events"},
        {WAVES, "it swings at 1.1", "hum"},
        {MAINS, "a hum at 40 Hz", "swings"},
        {BOUNCING, "for up to 40 ms; 'for 60 ms'", "spike"},
        {CLEAN_SWITCH, NULL, "bounces"},
        {RAMP, NULL, "delivers"},
    };
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        const bool state = cases[i].what == BOUNCING || cases[i].what == CLEAN_SWITCH;
        rgp_series s = {.name = "s",
                        .unit = "counts",
                        .high = state ? 1 : 4095,
                        .state = state,
                        .tick = 0.01,
                        .raw = g_array_new(FALSE, FALSE, sizeof(double)),
                        .place = g_array_new(FALSE, FALSE, sizeof(uint32_t)),
                        .ticks = 3000};
        double value = 0.0;
        for (uint32_t tick = 0; tick < s.ticks; tick++) {
            value = made_value(chance, cases[i].what, tick, value);
            g_array_append_val(s.raw, value);
            g_array_append_val(s.place, tick);
        }
        rgp_findings *f = rgp_inspect(&s);
        g_autoptr(GString) all = g_string_new(NULL);
        for (guint k = 0; k < f->advice->len; k++) {
            g_string_append_printf(all, "%s\n", (const char *)f->advice->pdata[k]);
        }
        if ((cases[i].says && !strstr(all->str, cases[i].says)) || strstr(all->str, cases[i].silent)) {
            fail_msg("case %zu: %s", i, all->str);
        }
        assert_true(cases[i].what != SLOW || fabs(f->noise - 4.0) < 0.5);
        rgp_findings_free(f);
        g_array_unref(s.raw);
        g_array_unref(s.place);
    }
    gsl_rng_free(chance);
}

static void test_inspect_stages_and_ranking(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"inspect " RIGPULSE_SOURCE "/examples/vane.rig --fast --for 8s", 0, "zero in 'turning': offset 9"},
        {"inspect " RIGPULSE_SOURCE "/examples/vane.rig --fast --for 3s", 0, "not learned yet"},
        {"inspect " RIGPULSE_SOURCE "/examples/deck.rig --fast --for 3s", 0, "z points up, as it should"},
        {"inspect upside.rig --fast --for 2s", 0, "minus z points up, not z"},
        {"inspect upside.rig --fast --for 2s", 0, "it feels 1.10"},
        {"inspect shaken.rig --fast --for 8s", 0, "gave up after 2 tries"},
        {"inspect " RIGPULSE_SOURCE "/examples/mast.rig --fast --for 8s", 0, "the rate and the tilt agree"},
        {"inspect twisted.rig --fast --for 8s", 0, "put a minus before 'rate'"},
        {"inspect " RIGPULSE_SOURCE "/examples/trap.rig --fast --for 20s", 0, "on                     8."},
        {"inspect two.rig --fast --for 5s --which", 0, "  b "},
        {"inspect two.rig --fast --for 0s", 2, "above 0"},
        {"inspect two.rig --fast --for 5", 2, "it needs a unit"},
        {"divider 2kohm 50kohm", 0, "to be had as 10 kohm"},
        {"divider 2kohm 50kohm", 0, "uses 67 %"},
        {"divider 50kohm 2kohm", 2, "greater than the first"},
        {"divider 5 6", 2, "it needs a unit"},
    };
    char *folder = make_folder();
    put_file(folder, "upside.rig",
             "rig x\ntick 5 ms\nsensor x mg -8000..8000\nsensor y mg -8000..8000\nsensor z mg -8000..8000\n"
             "signal gx = x in g\nsignal gy = y in g\nsignal gz = z in g\nsignal lean = gx | tilt roll with gy, gz\n"
             "hookup sim\n    x reads 0: noise 9\n    y reads 0: noise 9\n    z reads -1100: noise 9\n",
             -1);
    g_autofree char *mast = get_file(RIGPULSE_SOURCE "/examples", "mast.rig");
    g_auto(GStrv) about_the_rate = g_strsplit(mast, "-32767 at -1000 deg/s, 32767 at 1000 deg/s", 2);
    g_autofree char *twisted = g_strjoinv("32767 at -1000 deg/s, -32767 at 1000 deg/s", about_the_rate);
    put_file(folder, "twisted.rig", twisted, -1);
    put_file(folder, "shaken.rig",
             "rig x\ntick 5 ms\nsensor s counts 0..4095\nsignal z = s | zero over 1 s, spread 5 counts, drift 5 "
             "counts, tries 2\n"
             "hookup sim\n    s reads 2000: noise 40\n",
             -1);
    put_file(
        folder, "two.rig",
        "rig x\ntick 5 ms\nsensor a counts 0..4095\nsensor b counts 0..4095\nhookup sim\n    a reads 900: noise 30\n"
        "    b reads 900: noise 2\n    at 2 s b leaps 60 counts for 1 s\n",
        -1);
    check_calls(folder, cases, sizeof cases / sizeof *cases);
    called c = call_tool(folder, "inspect two.rig --fast --for 5s --which");
    assert_true(strstr(c.out, "  b ") < strstr(c.out, "  a ")); /* what moved comes first, whatever the louder noise */
    assert_non_null(strstr(strstr(c.out, "  a "), "did not move"));
    call_done(&c);
    c = call_tool(folder, "inspect --json two.rig --fast --for 5s");
    json_t *all = json_loads(c.out, 0, NULL);
    assert_int_equal(json_array_size(all), 2);
    assert_near(json_number_value(json_object_get(json_array_get(all, 0), "noise")), 30.0, 3.0);
    json_decref(all);
    call_done(&c);
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_matrix),
        cmocka_unit_test(test_passing_faults),
        cmocka_unit_test(test_clearing),
        cmocka_unit_test(test_inspect_finds),
        cmocka_unit_test(test_inspect_tells_apart),
        cmocka_unit_test(test_named_stages_help),
        cmocka_unit_test(test_inspect_stages_and_ranking),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
