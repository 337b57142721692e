/* The examples of the harbour do their jobs, by what their mechanisms did and not by what was printed: each over
 * several seeds. */
#include "support.h"

#include "sim/mechanisms/mechanism.h"
#include "sim/sim.h"

#include <inttypes.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define SEEDS (1u + OFTEN(3))

/* The promises that an example is held to, tick by tick: the engine's values beside the truth of its first mechanism.
 */
typedef struct stage {
    bench b;
    rgp_sim *sim;
    double time;
    uint32_t ticks;
    double worst;          /* of whatever the example measures */
    double at;             /* when */
    uint32_t count, other; /* likewise */
    double kept;
} stage;

static double truth(const stage *s, uint32_t output)
{
    return rgp_sim_truth(s->sim, 0, output);
}

static double value(const stage *s, const char *name)
{
    return (double)bench_value(&s->b, name).value;
}

static bool usable(const stage *s, const char *name)
{
    return rgp_usable(bench_value(&s->b, name).quality);
}

static double tick_seconds(const stage *s)
{
    return s->b.engine.image->tick_us / 1e6;
}

static void note_error(stage *s, double error)
{
    if (fabs(error) > s->worst) {
        s->worst = fabs(error);
        s->at = s->time;
    }
}

static void run_rig(stage *s, const char *text, uint64_t seed, double seconds, void (*tick)(stage *s))
{
    *s = (stage){0};
    bench_open(&s->b, text);
    s->sim = rgp_sim_new(s->b.rig, seed, false, NULL);
    assert_non_null(s->sim);
    const rgp_port *port = rgp_sim_port(s->sim);
    const uint32_t tick_us = s->b.engine.image->tick_us;
    for (uint64_t n = 0; (double)n * tick_us < seconds * 1e6; n++) {
        s->b.events = 0;
        s->time = (double)n * tick_us / 1e6;
        port->sleep_until(port->self, n * tick_us);
        assert_int_equal(rgp_engine_tick(&s->b.engine, port), RGP_OK);
        tick(s);
        s->ticks++;
    }
    rgp_sim_free(s->sim);
    bench_close(&s->b);
}

/* True when the line, or the one that goes on from it, hooks up a sensor that says numbers. */
static bool hooks_up_number(const char *text, const char *line)
{
    g_autofree char *stripped = g_strstrip(g_strdup(line));
    g_auto(GStrv) word = g_strsplit_set(stripped, " ", 3);
    if (g_strv_length(word) < 3 || (strcmp(word[1], "sees") != 0 && strcmp(word[1], "plays") != 0)) {
        return false;
    }
    g_autofree char *number = g_strdup_printf("(?m)^sensor +%s ++(?!switch|names)", word[0]);
    return g_regex_match_simple(number, text, 0, 0);
}

/* The same rig at a third of the tick, its numeric sensors having a new reading every three ticks. */
static char *slow_sensors(const char *text, uint32_t tick_us)
{
    g_auto(GStrv) line = g_strsplit(text, "\n", -1);
    GString *to = g_string_new(NULL);
    bool hooked = false;
    for (char **l = line; *l; l++) {
        hooked |= hooks_up_number(text, *l);
        const bool goes_on = g_str_has_suffix(*l, ","), ends = hooked && !goes_on;
        if (g_str_has_prefix(*l, "tick ")) {
            g_string_append_printf(to, "tick %u us\n", tick_us / 3);
        } else {
            g_string_append(to, *l);
            if (ends) {
                g_string_append_printf(to, ", period %u us", tick_us / 3 * 3);
            }
            g_string_append_c(to, '\n');
        }
        hooked = hooked && goes_on;
    }
    return g_string_free(to, FALSE);
}

/* Nothing that an example is held to may hang on whether a sensor is as fast as the tick: odd seeds have slow ones. */
static void run_example(stage *s, const char *example, uint64_t seed, double seconds, void (*tick)(stage *s))
{
    g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", example);
    if (seed % 2) {
        bench b;
        bench_open(&b, text);
        g_autofree char *slow = slow_sensors(text, b.engine.image->tick_us);
        bench_close(&b);
        run_rig(s, slow, seed, seconds, tick);
    } else {
        run_rig(s, text, seed, seconds, tick);
    }
}

/* The depth is that of the water but for the filter's lag and the bucket; the pump keeps the tide from staying low. */
static void tick_basin(stage *s)
{
    const bool calm = s->time > 1.0 && fabs(s->time - 40.6) > 0.8 && fabs(s->time - 70.6) > 0.8;
    if (calm) {
        note_error(s, value(s, "depth") - truth(s, 0));
    }
    s->count += bench_events(&s->b, RGP_EVENT_FIRED);
    s->other += truth(s, 0) < 1.0;
    assert_true(value(s, "pump") == 0.0 || value(s, "pump") == 80.0);
    assert_true(value(s, "lamp") == 0.0 || s->time > 70.0);
}

static void test_basin(void **unused)
{
    (void)unused;
    for (uint64_t seed = 1; seed <= SEEDS; seed++) {
        stage s;
        run_example(&s, "basin.rig", seed, 90.0, tick_basin);
        assert_true(s.worst < 0.35);
        assert_in_range(s.count, 6, 12);
        assert_int_equal(s.other, 0); /* never dry */
    }
}

/* From when it has learned its zero on, the heading is the vane's to within a degree and a half a minute. */
static void tick_vane(stage *s)
{
    if (bench_events(&s->b, RGP_EVENT_LEARNED)) {
        s->kept = truth(s, 1);
        s->count++;
        assert_true(s->time < 8.0); /* while the vane is still */
    }
    if (s->count) {
        note_error(s, value(s, "turned") - (truth(s, 1) - s->kept));
        assert_true(fabs(value(s, "heading")) <= 180.0);
    }
    assert_true(s->count || value(s, "horn") == 0.0);
}

static void test_vane(void **unused)
{
    (void)unused;
    for (uint64_t seed = 1; seed <= SEEDS; seed++) {
        stage s;
        run_example(&s, "vane.rig", seed, 60.0, tick_vane);
        assert_int_equal(s.count, 1);
        if (!(s.worst < 1.5)) {
            fail_msg("off by %g deg at %g s", s.worst, s.at);
        }
    }
}

/* The light is right to a tenth, hum and all, and the lantern burns in thick fog and only then. */
static void tick_lamp(stage *s)
{
    const double light = truth(s, 0);
    if (s->time < 2.0) {
        return;
    }
    note_error(s, value(s, "light") / light - 1.0);
    if (light < 130.0) {
        s->count += value(s, "lantern") == 1.0;
        assert_true(value(s, "lantern") == 1.0);
    }
    if (light > 210.0) {
        s->other++;
        assert_true(value(s, "lantern") == 0.0);
    }
}

static void test_lamp(void **unused)
{
    (void)unused;
    for (uint64_t seed = 1; seed <= SEEDS; seed++) {
        stage s;
        run_example(&s, "lamp.rig", seed, 60.0, tick_lamp);
        if (!(s.worst < 0.13)) { /* the light changes by a tenth within the 300 ms of the filter */
            fail_msg("off by %g at %g s", s.worst, s.at);
        }
        assert_true(s.count > 2000 && s.other > 5000);
    }
}

/* A boat in the beam is where the distance says; one out of it is missing and not near; the bell rings for near ones
 * only. */
static void tick_beacon(stage *s)
{
    const bool heard = truth(s, 2) > 0.0;
    s->kept = heard ? s->kept + tick_seconds(s) : 0.0;            /* seconds in the beam */
    s->other = heard ? 0 : s->other + s->b.engine.image->tick_us; /* microseconds out of it */
    if (s->kept > 1.0 && usable(s, "distance")) {
        note_error(s, value(s, "distance") - truth(s, 0));
    }
    if (s->other > 500000) {
        assert_false(usable(s, "distance"));
        assert_int_equal(bench_events(&s->b, RGP_EVENT_FIRED), 0);
    }
    if (bench_events(&s->b, RGP_EVENT_FIRED)) {
        if (!(truth(s, 0) < 90.0)) { /* 70 cm, the margin, and what it moves while an echo is bridged */
            fail_msg("the bell rang at %g s with the boat %g cm off, the distance being %g cm", s->time, truth(s, 0),
                     value(s, "distance"));
        }
        s->count++;
    }
}

static void test_beacon(void **unused)
{
    (void)unused;
    for (uint64_t seed = 1; seed <= SEEDS; seed++) {
        stage s;
        run_example(&s, "beacon.rig", seed, 120.0, tick_beacon);
        assert_true(s.worst < 6.0); /* two lost echoes at the greatest speed of 22 cm/s, and the median's lag */
        assert_in_range(s.count, 3, 40);
    }
}

/* The fused angle is the deck's to a degree; neither the rate alone nor gravity alone is. */
static void tick_deck(stage *s)
{
    if (usable(s, "roll") && s->time > 4.0) {
        note_error(s, value(s, "roll") - truth(s, 0));
        s->kept = fmax(s->kept, fabs(value(s, "lean") - truth(s, 0)));
        s->count++;
    }
}

static void test_deck(void **unused)
{
    (void)unused;
    for (uint64_t seed = 1; seed <= SEEDS; seed++) {
        stage s;
        run_example(&s, "deck.rig", seed, 60.0, tick_deck);
        assert_true(s.count > 5000);
        assert_true(s.worst < 1.0);
        assert_true(s.kept > 2.0 * s.worst);
    }
}

/* Every boat is counted, and its speed is right both ways until the gate is knocked; then the doubt tells. The leaf at
 * 21 s is no boat. The lamp is red for who is too fast, and the bell rings three times, each for 150 ms. */
static void tick_trap(stage *s)
{
    s->other += truth(s, 1) == 0.0 && truth(s, 3) != value(s, "boats");
    for (uint32_t i = 0; i < s->b.events; i++) {
        s->count += s->b.event[i].kind == RGP_EVENT_FIRED && usable(s, "by_way") && value(s, "far") == 0.0;
    }
    if (bench_events(&s->b, RGP_EVENT_FIRED) && usable(s, "by_way")) {
        const double speed = truth(s, 2);
        if (s->time < 33.0) {
            note_error(s, value(s, "by_way") / speed - 1.0);
            assert_true(fabs(value(s, "doubt")) < 0.1);
            assert_int_equal(value(s, "board"), speed > 220.0 ? 2 : 1);
        } else {
            assert_near(value(s, "by_way") / speed, 300.0 / 360.0, 1e-3);
            assert_near(value(s, "by_length") / speed, 1.0, 1e-3);
        }
    }
    s->kept += value(s, "bell") * tick_seconds(s);
}

static void test_trap(void **unused)
{
    (void)unused;
    stage s;
    run_example(&s, "trap.rig", 1, 60.0, tick_trap);
    assert_true(s.worst < 1e-4); /* at a tick of 20 ms in which a boat goes 4 mm */
    assert_int_equal(s.other, 0);
    assert_in_range(s.count, 12, 30);
    assert_near(s.kept, 2 * 3 * 0.16, 0.07); /* two were too fast */
}

/* Two meals of two portions each, to within a hundredth; none from an empty hopper; an auger that is clogged is let go
 * within its time. */
static void tick_feeder(stage *s)
{
    const double given = truth(s, 2);
    s->count += bench_events(&s->b, RGP_EVENT_STALLED);
    if (fabs(s->time - 31.0) < 0.011 || fabs(s->time - 61.0) < 0.011) {
        note_error(s, given - (s->time > 40.0 ? 4.0 : 2.0));
    }
    if (s->time > 90.0) {
        s->kept += value(s, "auger") > 0.0 ? tick_seconds(s) : 0.0;
    }
    if (s->time > 69.0 && s->time < 70.0) {
        assert_int_equal(value(s, "sign"), 2);
        note_error(s, given - 4.0);
    }
}

static void test_feeder(void **unused)
{
    (void)unused;
    for (uint64_t seed = 1; seed <= SEEDS; seed++) {
        stage s;
        run_example(&s, "feeder.rig", seed, 115.0, tick_feeder);
        if (!(s.worst < 0.04)) {
            fail_msg("gave %g portions too much or too little by %g s", s.worst, s.at);
        }
        assert_int_equal(s.count, 1);
        assert_near(s.kept, 1.5, 0.1);
    }
}

/* The bridge is open whenever a boat is in the gap, and moves only behind a shut barrier: `harm` says for how long not.
 */
static void tick_crossing(stage *s)
{
    s->other += (uint32_t)(truth(s, 6) > 0.0 && s->kept == 0.0); /* boats that have come into the gap */
    s->kept = truth(s, 6);
    s->worst = truth(s, 7);
    s->count = s->count || bench_events(&s->b, RGP_EVENT_FAILED);
    assert_true(!(truth(s, 6) > 0.0) || value(s, "span") == 0.0);
}

/* Runs it with something going wrong at a time that the seed chooses. RIGPULSE_SEEDS: how many, for the long study. */
static stage cross_with(const char *what, uint64_t seed)
{
    g_autoptr(GRand) chance = g_rand_new_with_seed((guint32)seed);
    g_autofree char *plain = get_file(RIGPULSE_SOURCE "/examples", "crossing.rig");
    g_autofree char *more = g_strdup_printf(what, g_rand_double_range(chance, 5.0, 60.0));
    g_autofree char *text = g_strconcat(plain, more, NULL);
    stage s;
    run_rig(&s, text, seed, 150.0, tick_crossing);
    return s;
}

static void test_crossing(void **unused)
{
    (void)unused;
    static const struct {
        const char *goes_wrong;
        uint32_t boats; /* at least so many get through */
    } cases[] = {
        {"", 5},
        {"    at %g s bridge jams\n    at 70 s bridge frees\n", 3},
        {"    at %g s top drops for 15 s\n", 3},
        {"    at %g s top sticks for 20 s\n", 3},
        {"    at %g s bottom sticks for 20 s\n", 3},
        {"    at %g s shut sticks for 20 s\n", 3},
        {"    at %g s gap pins for 10 s\n", 3},
        {"    at %g s waits pins for 40 s\n", 3},
        {"    at %g s bridge comes\n", 5},
        {"    at %g s button pins for 2 s\n    at 65 s key pins for 1 s\n", 2},
    };
    const char *wanted = getenv("RIGPULSE_SEEDS");
    const uint64_t seeds = wanted ? strtoull(wanted, NULL, 10) : 1 + OFTEN(2);
    uint64_t boats = 0;
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        for (uint64_t seed = 1; seed <= seeds; seed++) {
            const stage s = cross_with(cases[i].goes_wrong, seed);
            boats += s.other;
            if (s.worst > 0.0 || s.other < cases[i].boats) {
                fail_msg("with '%s', seed %d: %u boats, %g s of harm", cases[i].goes_wrong, (int)seed, s.other,
                         s.worst);
            }
        }
    }
    if (wanted) {
        printf("| %zu | %" PRIu64 " | 0 |\n", seeds * (sizeof cases / sizeof *cases), boats);
    }
}

/* Stopped at each of its steps in turn: everything rests at once, and when it is resumed the boats get through. */
static uint32_t stop_at;

static void tick_stopped(stage *s)
{
    rgp_engine *e = &s->b.engine;
    const double step = value(s, "let_through");
    if (s->count == 0 && step == (double)stop_at) {
        s->count = 1;
        s->at = s->time;
        rgp_engine_stop(e);
    } else if (s->count == 1) {
        assert_true(value(s, "span") == 0.0 && value(s, "barrier") == 0.0 && value(s, "light") == 0.0);
        if (s->time > s->at + 2.0) {
            s->count = 2;
            rgp_engine_resume(e);
        }
    }
    s->other += (uint32_t)(s->count == 2 && truth(s, 6) > 0.0 && s->kept == 0.0);
    s->kept = truth(s, 6);
}

static void test_stop_at_every_step(void **unused)
{
    (void)unused;
    uint32_t stopped = 0;
    for (stop_at = 1; stop_at <= 27; stop_at += 2) {
        stage s;
        run_example(&s, "crossing.rig", 1, 130.0, tick_stopped);
        stopped += s.count > 0;
        if (s.count && s.other < 1) {
            fail_msg("stopped at step %u no boat came through any more", stop_at);
        }
    }
    assert_true(stopped >= 4); /* those at which it is seen, since they take time */
}

/* Pumped up from 3 deg until it rings, and calmed in a tenth of the time that it takes by itself; its own figures of
 * that are right: a period of 1.00 s, a decay ratio e^(-T / fades); and it knows where it is beyond half a turn, too.
 */
static void tick_buoy(stage *s)
{
    const bool alone = value(s, "task") == 2.0;
    s->worst = fmax(s->worst, fabs(truth(s, 0)));
    s->at = s->at == 0.0 && s->worst > 60.0 ? s->time : s->at;
    s->kept = s->kept == 0.0 && alone ? s->time : s->kept;
    if (alone && s->time > 44.0 && s->time < 60.0) {
        assert_near(value(s, "left"), 100.0 * exp(-1.018 / 40.0), 0.4);
        assert_near(value(s, "period"), 2.0 * MECHANISM_PI * sqrt(0.25 / 9.81) * (1.0 + pow(truth(s, 0) / 400.0, 2)),
                    0.03);
    }
    if (usable(s, "angle")) {
        s->count += fabs(value(s, "angle") - truth(s, 0)) > 0.2 + 0.006 * fabs(truth(s, 1));
    }
}

static void test_buoy(void **unused)
{
    (void)unused;
    g_autofree char *plain = get_file(RIGPULSE_SOURCE "/examples", "buoy.rig");
    g_autofree char *over = g_strconcat(plain, "    at 62 s bell pushed 1000 deg/s\n", NULL);
    for (uint64_t seed = 1; seed <= 2; seed++) {
        stage s;
        run_rig(&s, over, seed, 80.0, tick_buoy);
        const double by_itself = 40.0 * log(70.0 / 4.0);
        assert_true(s.at > 5.0 && s.at < 20.0);
        if (!(s.kept - s.at < 0.1 * by_itself)) {
            fail_msg("calmed in %g s, by itself in %g s", s.kept - s.at, by_itself);
        }
        assert_true(s.worst > 360.0);
        assert_int_equal(s.count, 0);
    }
}

/* The nearer boat's bearing is that of its middle to within a degree and a half, its breadth that of boat and beam,
 * pass after pass, though echoes are lost; after it has drifted off the second pass knows where it is. */
static void tick_lookout(stage *s)
{
    const bool known = usable(s, "bearing") && (s->time < 30.0 || s->time > 37.0);
    if (known) {
        note_error(s, value(s, "bearing") - truth(s, 2));
        s->kept = fmax(s->kept, fabs(value(s, "broad") - 23.0));
        s->count++;
        assert_near(value(s, "off"), 80.0, 2.0);
    }
}

static void test_lookout(void **unused)
{
    (void)unused;
    for (uint64_t seed = 1; seed <= SEEDS; seed++) {
        stage s;
        run_example(&s, "lookout.rig", seed, 90.0, tick_lookout);
        assert_true(s.count > 3000);
        if (!(s.worst < 1.7) || !(s.kept < 4.0)) {
            fail_msg("off by %g deg at %g s, its breadth by %g", s.worst, s.at, s.kept);
        }
    }
}

/* Each runs from the command line, can be recorded, listed and drawn. */
static void test_from_the_command_line(void **unused)
{
    (void)unused;
    g_autoptr(GPtrArray) names = list_files(RIGPULSE_SOURCE "/examples", ".rig"),
                         poor = list_files(RIGPULSE_SOURCE "/examples/poor", ".rig");
    for (guint i = 0; i < poor->len; i++) {
        g_ptr_array_add(names, g_build_filename("poor", poor->pdata[i], NULL));
    }
    char *folder = make_folder();
    assert_true(names->len >= 28);
    for (guint i = 0; i < names->len; i++) {
        const char *n = names->pdata[i];
        g_autofree char *run = g_strdup_printf(
            "run " RIGPULSE_SOURCE "/examples/%s --port sim --for 3s --fast --quiet --record r%u", n, i);
        g_autofree char *list = g_strdup_printf("list r%u", i), *plot = g_strdup_printf("plot r%u -o r%u.png", i, i);
        g_autofree char *check = g_strdup_printf("check " RIGPULSE_SOURCE "/examples/%s", n);
        g_autofree char *picture = g_strdup_printf("r%u.png", i);
        const char *const each[] = {check, run, list, plot};
        for (size_t k = 0; k < G_N_ELEMENTS(each); k++) {
            called c = call_tool(folder, each[k]);
            if (c.status != 0) {
                fail_msg("'%s' ended with %d: %s%s", each[k], c.status, c.out, c.err);
            }
            call_done(&c);
        }
        g_autofree char *png = get_file(folder, picture);
        assert_memory_equal(png, "\x89PNG", 4);
    }
    remove_folder(folder);
}

/* By hand: one actuator goes where it is asked, and whatever the rig's rules, drives, loops and sequences want, all
 * others rest. */
static void hand_alone(const char *text, uint32_t taken)
{
    stage s = {0};
    bench_open(&s.b, text);
    s.sim = rgp_sim_new(s.b.rig, 1, false, NULL);
    assert_non_null(s.sim);
    const rgp_port *port = rgp_sim_port(s.sim);
    const rgp_image_header *image = s.b.engine.image;
    const rgp_image_actuator *is = rgp_image_at(image, RGP_SECTION_ACTUATORS);
    rgp_engine_hand_only(&s.b.engine, true);
    assert_int_equal(rgp_engine_hand(&s.b.engine, (uint16_t)taken, is[taken].high), RGP_OK);
    for (s.b.now_us = 0; s.b.now_us < 30000000u; s.b.now_us += image->tick_us) {
        s.b.events = 0;
        port->sleep_until(port->self, s.b.now_us);
        assert_int_equal(rgp_engine_tick(&s.b.engine, port), RGP_OK);
        for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
            const float now = rgp_engine_value(&s.b.engine, (uint16_t)rgp_image_actuator_slot(image, i)).value;
            if (i != taken && now != is[i].rest) {
                fail_msg("actuator %u is at %g while %u is moved by hand:\n%.200s", i, (double)now, taken, text);
            }
        }
    }
    rgp_sim_free(s.sim);
    bench_close(&s.b);
}

static void test_by_hand_everything_else_rests(void **unused)
{
    (void)unused;
    g_autoptr(GPtrArray) rigs = list_files(RIGPULSE_SOURCE "/examples", ".rig");
    assert_true(rigs->len > 0);
    for (guint i = 0; i < rigs->len; i++) {
        g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", rigs->pdata[i]);
        bench b;
        bench_open(&b, text);
        const uint32_t actuators = rgp_image_count(b.engine.image, RGP_SECTION_ACTUATORS);
        bench_close(&b);
        for (uint32_t taken = 0; taken < actuators; taken++) {
            hand_alone(text, taken);
        }
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_basin),
        cmocka_unit_test(test_vane),
        cmocka_unit_test(test_lamp),
        cmocka_unit_test(test_beacon),
        cmocka_unit_test(test_deck),
        cmocka_unit_test(test_trap),
        cmocka_unit_test(test_feeder),
        cmocka_unit_test(test_crossing),
        cmocka_unit_test(test_buoy),
        cmocka_unit_test(test_lookout),
        cmocka_unit_test(test_by_hand_everything_else_rests),
        cmocka_unit_test(test_stop_at_every_step),
        cmocka_unit_test(test_from_the_command_line),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
