/* From what is asked to what is driven: least power, slew, longest time and guards, one by one and on random rigs. */
#include "support.h"

#include "sim/mechanisms/mechanism.h"
#include "sim/sim.h"

#include <inttypes.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define HEAD                                                                                                          \
    "rig t\ntick 10 ms\nsensor s counts -1000..1000\nsensor top switch\nsensor bottom switch\nsensor button switch\n" \
    "actuator lamp switch, rest at off\nparam most = 20 % in 0..50 %\n"

#define GONE (-9999)

/* Hands in the sensors in turn and ticks; GONE, or of a switch anything below 0: missing. */
static void step_by(bench *b, uint64_t passed_us, int32_t s, int32_t top, int32_t bottom, int32_t button)
{
    const int32_t raw[] = {s, top, bottom, button};
    b->events = 0;
    b->now_us += passed_us;
    for (uint16_t i = 0; i < 4; i++) {
        const bool missing = raw[i] == GONE || (i > 0 && raw[i] < 0);
        const rgp_sample sample = {
            .time_us = b->now_us, .raw = missing ? 0 : raw[i], .quality = missing ? RGP_MISSING : RGP_GOOD};
        rgp_engine_sense(&b->engine, i, &sample);
    }
    rgp_engine_step(&b->engine, b->now_us);
}

static void step(bench *b, int32_t s, int32_t top, int32_t bottom, int32_t button)
{
    step_by(b, 10000, s, top, bottom, button);
}

static double output(const bench *b, const char *name)
{
    return (double)bench_value(b, name).value;
}

static uint16_t owner(const bench *b, const char *name)
{
    return rgp_engine_owner(&b->engine, (uint16_t)(bench_slot(b, name) - rgp_image_actuator_slot(b->engine.image, 0)));
}

static void test_least_and_slew(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD "actuator m percent -100..80, rest at 0, least 15 %, slew 100 %/s\n");
    static const struct {
        float asked;
        int ticks;
        double out;
    } cases[] = {
        {5, 1, 1}, {5, 20, 15}, {-5, 10, 5}, {-5, 40, -15}, {80, 200, 80}, {0, 40, 40}, {0, 41, 0},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        assert_int_equal(rgp_engine_hand(&b.engine, 1, cases[i].asked), RGP_OK);
        for (int k = 0; k < cases[i].ticks; k++) {
            step(&b, 0, 0, 0, 0);
        }
        assert_near(output(&b, "m"), cases[i].out, 1e-4);
    }
    assert_int_equal(rgp_engine_hand(&b.engine, 1, 60.0f), RGP_OK);
    for (int k = 0; k < 80; k++) {
        step(&b, 0, 0, 0, 0);
    }
    rgp_engine_stop(&b.engine); /* at once, without the slew */
    step(&b, 0, 0, 0, 0);
    assert_near(output(&b, "m"), 0.0, 0.0);
    bench_close(&b);
}

/* Each line: what is asked by hand, the sensors, and what comes out; -1 of a sensor: missing. */
static void test_guards(void **unused)
{
    (void)unused;
    static const struct {
        float asked;
        int32_t s, top, bottom, button;
        double m, lamp;
        bool guarded;
    } cases[] = {
        {60, 0, 0, 0, 0, 60, 1, false},  {60, 0, 1, 0, 0, 0, 1, true},      {-60, 0, 1, 0, 0, -60, 1, false},
        {-60, 0, 0, 1, 0, 0, 1, true},   {60, 0, 0, 1, 0, 60, 1, false},    {60, 0, 1, 1, 0, 0, 1, true},
        {60, 0, -1, 0, 0, 0, 1, true},   {-60, 0, -1, 0, 0, -60, 1, false}, {60, 0, 0, 0, 1, 0, 0, true},
        {60, 0, 0, 0, -1, 0, 0, true},   {60, 500, 0, 0, 0, 20, 1, true},   {10, 500, 0, 0, 0, 10, 1, false},
        {60, 900, 0, 0, 0, 20, 0, true}, {60, 0, 0, 0, 0, 60, 1, false},
    };
    bench b;
    bench_open(&b, HEAD "actuator m percent -100..100, rest at 0\n"
                        "never m above 0 while top is on\nnever m below 0 while bottom is on\n"
                        "never m above most while s above 400 counts\nnever lamp on while s above 800 counts\n"
                        "never anything while button is on\n");
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_engine_hand(&b.engine, 1, cases[i].asked);
        rgp_engine_hand(&b.engine, 0, 1.0f);
        step(&b, cases[i].s, cases[i].top, cases[i].bottom, cases[i].button);
        if (output(&b, "m") != cases[i].m || output(&b, "lamp") != cases[i].lamp ||
            (owner(&b, "m") == RGP_OWNER_GUARD) != cases[i].guarded) {
            fail_msg("case %zu: m %g, lamp %g, owner %u", i, output(&b, "m"), output(&b, "lamp"), owner(&b, "m"));
        }
    }
    assert_int_equal(rgp_engine_set(&b.engine, bench_slot(&b, "most"), 35.0f), RGP_OK);
    step(&b, 500, 0, 0, 0);
    assert_near(output(&b, "m"), 35.0, 1e-4);
    bench_close(&b);
}

/* An intervention is told once, when it begins; what it takes off does not wait for the slew on the way back. */
static void test_interventions(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD "actuator m percent -100..100, rest at 0, slew 500 %/s\nnever m above 0 while top is on\n");
    rgp_engine_hand(&b.engine, 1, 50.0f);
    for (int k = 0; k < 20; k++) {
        step(&b, 0, 0, 0, 0);
        assert_int_equal(bench_events(&b, RGP_EVENT_GUARD), 0);
    }
    step(&b, 0, 1, 0, 0);
    assert_int_equal(bench_events(&b, RGP_EVENT_GUARD), 1);
    assert_near(output(&b, "m"), 0.0, 0.0);
    for (int k = 0; k < 20; k++) {
        step(&b, 0, 1, 0, 0);
        assert_int_equal(bench_events(&b, RGP_EVENT_GUARD), 0);
        assert_int_equal(owner(&b, "m"), RGP_OWNER_GUARD);
    }
    step(&b, 0, 0, 0, 0);
    assert_near(output(&b, "m"), 5.0, 1e-4); /* up again from 0 by the slew */
    step(&b, 0, 0, 0, 0);
    assert_true(owner(&b, "m") != RGP_OWNER_GUARD);
    bench_close(&b);
}

/* At rest after its longest time, until nobody asks for it; then it may be driven again. */
static void test_longest(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, HEAD "actuator m percent 0..100, rest at 0, longest 200 ms\n");
    for (int round = 0; round < 2; round++) {
        uint32_t driven = 0, spent = 0;
        rgp_engine_hand(&b.engine, 1, 50.0f);
        for (int k = 0; k < 60; k++) {
            step(&b, 0, 0, 0, 0);
            driven += output(&b, "m") > 0.0;
            spent += bench_events(&b, RGP_EVENT_ON_TIME_LIMIT);
        }
        assert_true(driven >= 20 && driven <= 22);
        assert_int_equal(spent, 1);
        rgp_engine_release(&b.engine, 1);
        step(&b, 0, 0, 0, 0);
    }
    bench_close(&b);
}

/* The written value counts, however slowly it goes back: a rule that asks now and then, under a slew, does not keep it
 * driven for ever; and it goes to rest at once. */
static void test_longest_with_a_slew(void **unused)
{
    (void)unused;
    bench b;
    uint32_t driven = 0, most = 0;
    bench_open(&b, HEAD "actuator m percent 0..100, rest at 0, slew 20 %/s, longest 2 s\n");
    for (int k = 0; k < 6000; k++) {
        const double before = output(&b, "m");
        if (k % 100 == 0) {
            rgp_engine_hand(&b.engine, 1, 80.0f);
        } else if (k % 100 == 60) {
            rgp_engine_release(&b.engine, 1);
        }
        step(&b, 0, 0, 0, 0);
        driven = output(&b, "m") > 0.0 ? driven + 1 : 0;
        most = MAX(most, driven);
        assert_true(output(&b, "m") == 0.0 || output(&b, "m") > before - 0.21); /* by the slew, or to rest at once */
    }
    assert_int_equal(most, 201);
    bench_close(&b);
}

/* A minute at 1 ms is a minute, to the tick. */
static void test_longest_to_the_tick(void **unused)
{
    (void)unused;
    bench b;
    uint32_t driven = 0;
    bench_open(&b, HEAD "actuator m percent 0..100, rest at 0, longest 60 s\n");
    rgp_engine_hand(&b.engine, 1, 50.0f);
    for (int k = 0; k < 70000; k++) {
        step_by(&b, 1000, 0, 0, 0, 0);
        driven += output(&b, "m") > 0.0;
    }
    assert_int_equal(driven, 60001);
    bench_close(&b);
}

/* A fault takes it to rest at once, but to what somebody else asks by the slew. */
static void test_fault_and_slew(void **unused)
{
    (void)unused;
    for (int other = 0; other < 2; other++) {
        bench b;
        g_autofree char *text = g_strconcat("rig t\ntick 10 ms\nsensor s counts -1000..1000, fault after 50 ms\n"
                                            "sensor top switch\nsensor bottom switch\nsensor button switch\n"
                                            "actuator m percent 0..100, rest at 0, slew 100 %/s\n"
                                            "on s goes above 10 counts\n    m 90 % for 100 s\n",
                                            other ? "on start\n    m 20 %\n" : "", NULL);
        bench_open(&b, text);
        step(&b, 0, 0, 0, 0);
        for (int k = 0; k < 60; k++) {
            step(&b, 40, 0, 0, 0);
        }
        const double before = output(&b, "m");
        assert_true(before > 50.0);
        for (int k = 0; k < 5; k++) {
            step(&b, GONE, 0, 0, 0);
        }
        const double after = output(&b, "m");
        if (other ? after < before - 1.1 : after != 0.0) {
            fail_msg("from %g to %g", before, after);
        }
        bench_close(&b);
    }
}

/* A drive lets go when its value cannot be trusted, and after a fault stays so until that is cleared. */
static void test_drive_and_fault(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, "rig t\ntick 10 ms\nsensor s counts -1000..1000, fault after 50 ms\nsensor top switch\n"
                   "sensor bottom switch\nsensor button switch\nactuator m percent 0..100, rest at 5\n"
                   "drive m = s * 1 %/counts\n");
    step(&b, 40, 0, 0, 0);
    assert_near(output(&b, "m"), 40.0, 1e-4);
    step(&b, GONE, 0, 0, 0);
    assert_near(output(&b, "m"), 5.0, 0.0);
    step(&b, 60, 0, 0, 0);
    assert_near(output(&b, "m"), 60.0, 1e-4);
    for (int k = 0; k < 8; k++) {
        step(&b, GONE, 0, 0, 0);
    }
    step(&b, 60, 0, 0, 0);
    assert_near(output(&b, "m"), 5.0, 0.0); /* good again, and at rest all the same */
    rgp_engine_clear(&b.engine);
    step(&b, 60, 0, 0, 0);
    assert_near(output(&b, "m"), 60.0, 1e-4);
    bench_close(&b);
}

/* ---- random rigs ----------------------------------------------------------------------------------- */

static const char *const conditions[] = {"top is on", "bottom is on", "s above 300 counts, margin 50 counts",
                                         "s below -300 counts", "top is off and s above 0 counts"};

static bool holds(const bench *b, const rgp_image_guard *g)
{
    const rgp_reading condition = rgp_engine_value(&b->engine, g->condition);
    return condition.value != 0.0f || !rgp_usable(condition.quality);
}

/* The outputs of a rig so far, to hold them against what may go on for a time only. */
typedef struct watching {
    double driven; /* seconds away from rest, of m */
    double on;     /* the same, without a break */
    double still;  /* seconds driven without that s has moved, of m */
    double time, longest_step;
    int32_t at; /* where it was when it moved */
    bool was_driven;
    uint32_t ticks, guarded, stalled, tired, locked;
} watching;

static bool breaks(const bench *b, const rgp_image_guard *g, const rgp_image_actuator *a, float out)
{
    const rgp_engine *e = &b->engine;
    const float *constant = rgp_image_at(e->image, RGP_SECTION_CONSTANTS);
    switch (g->side) {
    case RGP_GUARD_ABOVE:
        return out > constant[g->limit & ~RGP_REF_CONSTANT] && holds(b, g);
    case RGP_GUARD_BELOW:
        return out < constant[g->limit & ~RGP_REF_CONSTANT] && holds(b, g);
    case RGP_GUARD_REST:
        return out != a->rest && holds(b, g);
    default:
        return out != a->rest &&
               rgp_engine_output(e, g->condition) !=
                   ((const rgp_image_actuator *)rgp_image_at(e->image, RGP_SECTION_ACTUATORS))[g->condition].rest;
    }
}

/* `passed`: seconds since the tick before. Whatever has a limit of time is over it for one tick at most, the one in
 * which that shows. */
static void check_outputs(const bench *b, watching *w, const char *text, int32_t s, double passed)
{
    const rgp_engine *e = &b->engine;
    const rgp_image_stall *stall = rgp_image_at(e->image, RGP_SECTION_STALLS);
    const rgp_image_guard *guard = rgp_image_at(e->image, RGP_SECTION_GUARDS);
    const rgp_image_actuator *actuator = rgp_image_at(e->image, RGP_SECTION_ACTUATORS);
    bool sound = true;
    for (uint32_t i = 0; i < rgp_image_count(e->image, RGP_SECTION_ACTUATORS); i++) {
        const rgp_image_actuator *a = &actuator[i];
        const float out = rgp_engine_output(e, (uint16_t)i);
        sound &= out >= a->low && out <= a->high && (!rgp_engine_is_stopped(e) || out == a->rest);
        for (uint32_t k = a->first_guard; out != a->rest && k < (uint32_t)a->first_guard + a->guards; k++) {
            sound &= !breaks(b, &guard[k], a, out);
        }
    }
    const rgp_image_actuator *m = &actuator[1];
    const bool driven = rgp_engine_output(e, 1) != m->rest;
    w->ticks++;
    w->time += passed;
    w->longest_step = fmax(w->longest_step, passed);
    w->driven += w->was_driven ? passed : 0.0;
    w->on = w->was_driven ? w->on + passed : 0.0;
    sound &= m->duty == 0.0f || w->driven <= (double)m->duty * ((double)m->window + w->time) + w->longest_step + 1e-4;
    sound &= m->longest == 0.0f || !driven || w->on <= (double)m->longest + 1e-6;
    const bool still = w->was_driven && m->stalls && abs(s - w->at) < (int32_t)stall->amount;
    w->still = still ? w->still + passed : 0.0;
    w->at = still ? w->at : s;
    w->was_driven = driven;
    sound &= !m->stalls || !driven || w->still <= (double)stall->time + 1e-6;
    if (!sound) {
        fail_msg("tick %u: m has %g, lamp %g in\n%s", w->ticks, output(b, "m"), output(b, "lamp"), text);
    }
    w->guarded += bench_events(b, RGP_EVENT_GUARD);
    w->stalled += bench_events(b, RGP_EVENT_STALLED);
    w->tired += bench_events(b, RGP_EVENT_DUTY_LIMIT);
}

static void write_random_rig(GRand *chance, GString *text)
{
    g_string_append_printf(text, "actuator m percent -%d..%d, rest at 0%s%s%s%s\n", g_rand_int_range(chance, 70, 100),
                           g_rand_int_range(chance, 70, 100), g_rand_boolean(chance) ? ", least 8 %" : "",
                           g_rand_boolean(chance) ? ", slew 300 %/s" : "",
                           g_rand_boolean(chance) ? ", longest 500 ms" : "",
                           g_rand_boolean(chance) ? ", duty 30 % over 1 s" : "");
    for (int g = g_rand_int_range(chance, 0, 5); g > 0; g--) {
        const bool above = g_rand_boolean(chance);
        g_string_append_printf(text, "never m %s %s%d while %s\n", above ? "above" : "below", above ? "" : "-",
                               g_rand_int_range(chance, 0, 60),
                               conditions[g_rand_int_range(chance, 0, (gint32)G_N_ELEMENTS(conditions))]);
    }
    g_string_append(text, g_rand_boolean(chance) ? "never anything while button is on\n" : "");
    g_string_append(text, g_rand_boolean(chance) ? "never m with lamp\n" : "");
    g_string_append(text, g_rand_boolean(chance) ? "never m stalled, s moves 100 counts in 80 ms\n" : "");
    g_string_append(text, g_rand_int_range(chance, 0, 4) == 0 ? "stop while button is on until top is on\n" : "");
    g_string_append(text,
                    "while s above 0 counts\n    m 70 % for 100 ms, 2 times every 150 ms, priority 1\n    lamp on\n"
                    "    holdoff 50 ms\n"
                    "on s goes below -100 counts\n    m s * -0.2 %/counts for 300 ms\n    lamp off\n");
}

/* A hand steps in now and then. */
static void meddle(GRand *chance, rgp_engine *e)
{
    const int32_t dice = g_rand_int_range(chance, 0, 40);
    if (dice == 0) {
        rgp_engine_hand(e, 1, (float)g_rand_int_range(chance, -10, 10));
    } else if (dice == 1) {
        rgp_engine_release(e, 1);
    } else if (dice == 2) {
        rgp_engine_stop(e);
    } else if (dice < 6) {
        rgp_engine_resume(e);
    }
}

/* A clock that is late now and then, and sometimes very much so. */
static uint64_t jump(GRand *chance)
{
    const int32_t dice = g_rand_int_range(chance, 0, 60);
    return dice == 0 ? 3000000u : dice < 4 ? 47000u : 10000u;
}

/* Whatever is asked and read: never outside the travel, never against a guard, never for longer than its duty or for
 * nothing, at rest after a stop. RIGPULSE_RIGS: how many rigs, for the long study. */
static void test_random_rigs(void **unused)
{
    (void)unused;
    enum { RIGS = 60, TICKS = 400 };
    const char *wanted = getenv("RIGPULSE_RIGS");
    const int rigs = wanted ? atoi(wanted) : RIGS;
    g_autoptr(GRand) chance = g_rand_new_with_seed(11);
    uint64_t guarded = 0, stalled = 0, tired = 0;
    for (int r = 0; r < rigs; r++) {
        g_autoptr(GString) text = g_string_new(HEAD);
        write_random_rig(chance, text);
        bench b;
        bench_open(&b, text->str);
        watching w = {0};
        int32_t s = 0;
        for (int tick = 0; tick < TICKS; tick++) {
            meddle(chance, &b.engine);
            s = g_rand_int_range(chance, 0, 8) == 0 ? g_rand_int_range(chance, -1000, 1001) : s;
            const uint64_t passed = tick == 0 ? 10000 : jump(chance);
            step_by(&b, passed, s, g_rand_int_range(chance, -1, 2), g_rand_int_range(chance, -1, 2),
                    g_rand_int_range(chance, 0, 30) == 0);
            check_outputs(&b, &w, text->str, s, (double)passed / 1e6);
        }
        guarded += w.guarded;
        stalled += w.stalled;
        tired += w.tired;
        bench_close(&b);
    }
    if (!(guarded > 300 && stalled > 5 && tired > 20)) {
        fail_msg("hardly anything has been tried: %" PRIu64 " %" PRIu64 " %" PRIu64, guarded, stalled, tired);
    }
    if (wanted) {
        printf("| %d | %d | %" PRIu64 " | %" PRIu64 " | %" PRIu64 " | 0 |\n", rigs, rigs * TICKS, guarded, stalled,
               tired);
    }
}

/* ---- the drawbridge -------------------------------------------------------------------------------- */

typedef struct crossing {
    double highest, lowest_after, strain;
    uint32_t opened;
} crossing;

/* Runs the example with more disturbances, and looks at the mechanism, not at what is printed. */
static crossing cross(const char *more, double seconds, uint64_t seed)
{
    g_autofree char *plain = get_file(RIGPULSE_SOURCE "/examples", "bridge.rig"),
                    *text = g_strconcat(plain, more, NULL);
    crossing c = {0};
    rgp_rig *rig = rgp_rig_compile("bridge.rig", text, strlen(text), rgp_sim_catalog());
    if (!rig->image) {
        fail_msg("%s", rgp_rig_report(rig));
    }
    const rgp_image_header *image = rig->image;
    rgp_engine engine;
    void *memory = g_malloc0(image->memory);
    rgp_engine_open(&engine, image, rig->image_size, memory, image->memory);
    rgp_sim *sim = rgp_sim_new(rig, seed, false, NULL);
    const rgp_port *port = rgp_sim_port(sim);
    bool open = false;
    for (uint64_t t = 0; t < (uint64_t)(seconds * 1e6); t += image->tick_us) {
        port->sleep_until(port->self, t);
        assert_int_equal(rgp_engine_tick(&engine, port), RGP_OK);
        const double place = rgp_sim_truth(sim, 0, 0);
        const bool now = rgp_sim_truth(sim, 0, 1) > 0.0;
        c.opened += now && !open;
        open = now;
        c.highest = fmax(c.highest, place);
        c.lowest_after = place;
    }
    c.strain = rgp_sim_truth(sim, 0, 3);
    rgp_sim_free(sim);
    rgp_rig_free(rig);
    g_free(memory);
    return c;
}

static void test_bridge(void **unused)
{
    (void)unused;
    crossing c = cross("", 70.0, 1);
    assert_int_equal(c.opened, 2); /* the motor stuck once */
    assert_true(c.highest >= 116.0 && c.lowest_after <= 4.0);
    assert_true(c.strain < 0.05);
    /* an end switch that does not answer: not an inch in its direction, and back down */
    c = cross("    at 4 s top drops for 30 s\n", 25.0, 1);
    assert_true(c.highest < 60.0 && c.strain < 0.05 && c.lowest_after <= 4.0);
    /* one that says the same for ever: it cannot save the stop, but the longest time does */
    c = cross("    at 4 s top sticks\n    at 4.5 s gate pins for 30 s\n", 30.0, 1);
    assert_true(c.strain < 9.0);
}

/* The carriage's own motion has a closed form: speed v (1 - e^(-t/T)), place v (t - T (1 - e^(-t/T))). */
static void test_carriage_closed_form(void **unused)
{
    (void)unused;
    uint32_t k = 0;
    while (strcmp(mechanisms[k]->kind.word, "carriage") != 0) {
        k++;
    }
    const double setting[] = {40, 0.25, 1000, 4, 0}, input = 50.0;
    double state[MECHANISM_STATES_MAX];
    mechanism_begin(mechanisms[k], setting, state);
    mechanism_run(mechanisms[k], setting, &input, 0.0, 1.5, state);
    assert_near(state[0], 20.0 * (1.5 - 0.25 * (1.0 - exp(-6.0))), 1e-6);
    mechanism_disturb(mechanisms[k], setting, state, 0, 0.0);
    mechanism_run(mechanisms[k], setting, &input, 1.5, 2.5, state);
    assert_near(state[0], 20.0 * (1.5 - 0.25 * (1.0 - exp(-6.0))), 0.03);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_least_and_slew),
        cmocka_unit_test(test_guards),
        cmocka_unit_test(test_longest_with_a_slew),
        cmocka_unit_test(test_longest_to_the_tick),
        cmocka_unit_test(test_fault_and_slew),
        cmocka_unit_test(test_interventions),
        cmocka_unit_test(test_longest),
        cmocka_unit_test(test_drive_and_fault),
        cmocka_unit_test(test_random_rigs),
        cmocka_unit_test(test_bridge),
        cmocka_unit_test(test_carriage_closed_form),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
