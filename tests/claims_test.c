/* Whatever happens to a rig: outputs are what the claims owe, and each short way of the engine is the long one. */
#include "support.h"

#include "engine/params.h"
#include "engine/phase.h"

#include "rigpulse/numeric.h"

#include <math.h>

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
    if (rgp_engine_is_stopped(e) || rgp_engine_is_lost(e, (uint16_t)actuator) || owner == claims) {
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

/* Of so many actuators; a number that is none is refused. */
static void command_at_random(rgp_engine *e, uint32_t roll, uint32_t actuators)
{
    const uint16_t actuator = (uint16_t)(roll % actuators);
    switch (roll % 97) {
    case 0:
        rgp_engine_hand(e, actuator, (float)(roll % 130) - 25.0f);
        break;
    case 1:
        rgp_engine_release(e, actuator);
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
    case 6:
        rgp_engine_lose(e, actuator);
        break;
    case 7:
    case 8:
        rgp_engine_regain(e, actuator);
        break;
    default:
        break;
    }
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
        command_at_random(&b.engine, roll, 5);
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

/* The long way through a tick where the engine knows a short one: each sample is judged, every run is computed and asks
 * its pace, every rule is looked at, loops look at all that could be new, and all outputs are chosen anew. */
static void go_the_long_way(const rgp_engine *e)
{
    for (uint32_t i = 0; i < COUNT(e, SENSORS); i++) {
        part_newness(e)[i] &= (uint8_t)~RGP__SENSOR_PLAIN;
    }
    part_head(e)->behind = 1;
    part_head(e)->next_end_us = 0;
    part_head(e)->moves = part_head(e)->wanting_at = 0;
    make_due(e, RGP__DUE_FOLLOW | RGP__DUE_OUTPUTS | RGP__DUE_STATES);
    for (uint32_t i = 0; i < COUNT(e, LOOPS); i++) {
        rgp_loop_state *const loop = (void *)(link_of(e, &image_LOOPS(e)[i]) + 1); /* it follows the link */
        loop->bound = 0.0f;
    }
}

static const char loops[] =
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

/* Operations that change with sensors and parameters alone, some of them written over by others, and rules on them. */
static const char steady[] =
    "rig t\ntick 10 ms\nparam p = 50 counts in 20..80 counts\nsensor a counts 0..100\n"
    "sensor b counts -50..50, stuck 30 ms, fault after 50 ms\nsensor c counts 0..100\nsensor d switch\n"
    "sensor e counts 0..100\nactuator f percent 0..100, rest at 0\nactuator g percent 0..100, rest at 0\n"
    "actuator h percent 0..100, rest at 0\nactuator i switch, rest at off\n"
    "signal twice = a * 2 + b\nsignal most = twice + c * 3 - e\nsignal over = c | line 2 cm/counts, 1 cm | smooth 30 "
    "ms\n"
    "bands z = e: low below p, high; margin 3 counts\n"
    "while a above 52 counts, margin 2 counts\n    f 20 %\n    holdoff 100 ms\n"
    "while b below 10 counts\n    g 30 % for 40 ms\non c goes above p\n    h 40 % for 30 ms\n"
    "while z is high and d is on\n    i on for 20 ms\non e goes below 55 counts\n    mark fell\n"
    "while most above 150 counts, margin 9 counts\n    f 60 % for 20 ms, priority 1\n"
    "while twice below 90 counts or over above 120 cm\n    h 12 % for 30 ms, priority 1\n    holdoff 70 ms\n"
    "while a above 54 counts and c above 54 counts\n    g 90 % for 30 ms, priority 2\n"
    "on every 90 ms\n    mark tick\nwhile e above 53 counts for 50 ms\n    p 40 counts\n    holdoff 300 ms\n";

/* With many more of that kind, since few of them are computed in every tick. */
static char *with_more(const char *text)
{
    GString *all = g_string_new(text);
    for (int i = 0; i < 70; i++) {
        g_string_append_printf(all, "signal m%d = %c * %d + p\n", i, "ace"[i % 3], i);
    }
    return g_string_free(all, FALSE);
}

/* Every short way is the long one, bit for bit: values, qualities, owners and events. Readings change every so many
 * ticks. */
static void check_short_ways(const char *text, uint64_t every)
{
    bench one, all;
    uint32_t chance = 9, told = 0, bad = 0, driven = 0, unmoved = 0;
    int32_t held[5] = {0};
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
            held[i] = n % every == 0 || roll % 50 == 0 ? raw : held[i];
            const rgp_sample sample = {
                .time_us = n * 10000, .raw = held[i], .quality = quality, .same = n % 4000 > 3000 && roll % 3};
            bad += quality != RGP_GOOD;
            rgp_engine_sense(&one.engine, i, &sample);
            rgp_engine_sense(&all.engine, i, &sample);
            go_the_long_way(&all.engine);
        }
        command_at_random(&one.engine, chance >> 8, 4);
        command_at_random(&all.engine, chance >> 8, 4);
        go_the_long_way(&all.engine);
        rgp_engine_step(&one.engine, n * 10000);
        rgp_engine_step(&all.engine, n * 10000);
        unmoved += part_head(&one.engine)->unmoved;
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
    assert_true(told > 3000 && bad > 500 && driven > 10000 && (every == 1 || unmoved > 5000));
    bench_close(&one);
    bench_close(&all);
}

static void test_short_ways(void **unused)
{
    (void)unused;
    check_short_ways(loops, 1);
    g_autofree char *many = with_more(steady);
    check_short_ways(many, 7);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_outputs_are_what_the_claims_owe),
        cmocka_unit_test(test_short_ways),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
