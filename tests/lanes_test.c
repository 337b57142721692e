/* Operations that go four by four give, bit for bit, what they give one by one; and an image that says what is no lanes
 * is refused. */
#include "support.h"

#include "engine/inside.h"
#include "image/ops.h"
#include "lanes/lanes.h"

#include <glib.h>

#define SENSORS 14

/* Fourteen channels of each kind: in rows, mixed, and two that are left; with settings that differ, and that a
 * parameter sets. The last six sensors are slower than the rest. */
static char *rig_of_lanes(void)
{
    static const char *const beyond[] = {"", ", extended", ", strict"};
    GString *all = g_string_new("rig t\ntick 10 ms\nparam p = 50 ms in 20 ms..80 ms\nparam q = 2 cm in -5 cm..5 cm\n");
    for (int i = 0; i < SENSORS; i++) {
        g_string_append_printf(all, "sensor s%d counts 0..4095\n", i);
    }
    for (int i = 0; i < SENSORS; i++) {
        g_string_append_printf(
            all, "signal a%d = s%d | despike 5 | table %d: 0 cm, 1890: 6 cm, 3020: 12 cm | smooth %d ms\n", i, i,
            312 + i, 50 * i + 10);
    }
    for (int i = 0; i < SENSORS; i++) {
        const int k = i * 5 % SENSORS;
        g_string_append_printf(all, "signal b%d = s%d | despike 3 | line 0.%d cm/counts, q | smooth p\n", i, k, i + 1);
        g_string_append_printf(all, "signal c%d = s%d | table 0: 3 cm, 1000: -%d cm, 1800: 3 cm, 2500: 9 cm%s\n", i, i,
                               i, beyond[i % 4 == 3 ? i / 4 % 3 : 0]);
        g_string_append_printf(all, "signal d%d = s%d | line 0.2 cm/counts, %d cm\n", i, k, i);
    }
    return g_string_free(all, FALSE);
}

static rgp_image_run *runs_of(const bench *b, uint32_t *runs)
{
    *runs = rgp_image_count(b->rig->image, RGP_SECTION_RUNS);
    return (rgp_image_run *)(uintptr_t)rgp_image_at(b->rig->image, RGP_SECTION_RUNS);
}

/* Four settings that lie by field, one behind the other. */
static void part_settings(unsigned char *group, uint32_t stride)
{
    unsigned char four[RGP_LANES * RGP_LANES_SET_MAX];
    for (uint32_t lane = 0; lane < RGP_LANES; lane++) {
        rgp_lanes_take(group, lane, four + lane * stride, stride);
    }
    memcpy(group, four, RGP_LANES * (size_t)stride);
}

/* A patch of what has gone by lanes sets the same setting where that lies then. */
static void part_patches(const bench *b)
{
    rgp_image_patch *patch = (rgp_image_patch *)(uintptr_t)rgp_image_at(b->rig->image, RGP_SECTION_PATCHES);
    for (uint32_t i = 0; i < rgp_image_count(b->rig->image, RGP_SECTION_PATCHES); i++) {
        rgp_op_live of;
        assert_true(rgp_op_locate_live(b->rig->image, patch[i].live_offset, &of));
        patch[i].live_offset = of.run->config + of.n * of.run->config_stride + of.at;
    }
}

/* The state of a run is as long, and begins as zeroes, whichever way it goes. */
static uint32_t go_one_by_one(const bench *b)
{
    uint32_t runs, ways = 0;
    rgp_image_run *run = runs_of(b, &runs);
    part_patches(b);
    for (uint32_t i = 0; i < runs; i++) {
        ways |= 1u << run[i].way;
        unsigned char *settings = run[i].live
                                      ? part_live(&b->engine)
                                      : (unsigned char *)(uintptr_t)rgp_image_at(b->rig->image, RGP_SECTION_CONFIGS);
        for (uint32_t n = 0; rgp_image_by_lanes(&run[i]) && n < run[i].count; n += RGP_LANES) {
            part_settings(settings + run[i].config + n * run[i].config_stride, run[i].config_stride);
        }
        run[i].way = run[i].way == RGP_WAY_WHOLE ? RGP_WAY_WHOLE : RGP_WAY_PLAIN;
    }
    return ways;
}

/* Spikes, readings beyond the tables, bad ones, stretches in which some or all are not new, parameters that change, and
 * ticks of uneven length. */
static void feed(bench *b, uint32_t n, uint32_t seed, uint64_t now_us)
{
    b->events = 0;
    for (uint16_t i = 0; i < SENSORS; i++) {
        seed = seed * 1664525u + 1013904223u;
        const uint32_t roll = seed >> 10;
        const bool slow = n % 3000 > 2000 && (i >= 8 ? n % 3 != 0 : roll % 90 == 0);
        const rgp_sample sample = {.time_us = now_us,
                                   .raw =
                                       (int32_t)(1500 + roll % 400 + (n / 500 + i) % 3 * 1000) + (roll % 50 ? 0 : 500),
                                   .quality = roll % 400 ? RGP_GOOD : (rgp_quality)(roll / 400 % RGP_QUALITIES),
                                   .same = slow};
        rgp_engine_sense(&b->engine, i, &sample);
    }
    if (n % 700 == 650) {
        rgp_engine_set(&b->engine, 0, 0.02f + (float)(seed >> 20) * 1e-5f);
        rgp_engine_set(&b->engine, 1, (float)(seed >> 28) - 5.0f);
    }
    rgp_engine_step(&b->engine, now_us);
}

static void test_four_by_four_is_one_by_one(void **unused)
{
    (void)unused;
    bench four, one;
    g_autofree char *text = rig_of_lanes();
    uint32_t seed = 5;
    uint64_t now_us = 0;
    bench_open(&four, text);
    bench_open(&one, text);
    assert_int_equal(go_one_by_one(&one), 1u << RGP_WAY_PLAIN | 1u << RGP_WAY_LANES | 1u << RGP_WAY_ROWS);
    for (uint32_t n = 0; n < 20000; n++) {
        seed = seed * 1664525u + 1013904223u;
        now_us += n / 1000 % 4 == 3 ? 10000 + seed % 300 : 10000;
        feed(&four, n, seed, now_us);
        feed(&one, n, seed, now_us);
        const uint32_t slots = four.engine.image->slots;
        assert_memory_equal(four.engine.value, one.engine.value, slots * sizeof *four.engine.value);
        assert_memory_equal(four.engine.quality, one.engine.quality, slots * sizeof *four.engine.quality);
    }
    bench_close(&four);
    bench_close(&one);
}

/* More equal operations than one run holds of those that go by lanes, with one that is bad at the end. */
static void test_many(void **unused)
{
    (void)unused;
    enum { MANY = 300 };
    bench b;
    GString *all = g_string_new("rig t\ntick 10 ms\n");
    for (int i = 0; i < MANY; i++) {
        g_string_append_printf(all, "sensor s%d counts 0..4095\n", i);
    }
    for (int i = 0; i < MANY; i++) {
        g_string_append_printf(all, "signal a%d = s%d | line 0.5 cm/counts, %d cm\n", i, i, i);
    }
    bench_open(&b, all->str);
    g_string_free(all, TRUE);
    uint32_t runs, by_lanes = 0;
    const rgp_image_run *run = runs_of(&b, &runs);
    for (uint32_t i = 0; i < runs; i++) {
        by_lanes += rgp_image_by_lanes(&run[i]) ? run[i].count : 0;
        assert_true(run[i].count <= RGP_LANES_RUN_MAX);
    }
    assert_int_equal(by_lanes, MANY);
    for (uint16_t i = 0; i < MANY; i++) {
        const rgp_sample sample = {.raw = 7 * i, .quality = i == MANY - 2 ? RGP_MISSING : RGP_GOOD};
        rgp_engine_sense(&b.engine, i, &sample);
    }
    rgp_engine_step(&b.engine, 10000);
    const uint32_t first = b.engine.image->slots - MANY; /* the signals come last */
    for (uint32_t i = 0; i < MANY; i++) {
        const rgp_reading is = rgp_engine_value(&b.engine, first + i);
        assert_int_equal(is.quality, i == MANY - 2 ? RGP_MISSING : RGP_GOOD);
        assert_true(i == MANY - 2 || is.value == 3.5f * (float)i + (float)i);
    }
    bench_close(&b);
}

static rgp_status open_with(const bench *b, rgp_image_run *run, rgp_image_run as)
{
    rgp_image_header *header = (rgp_image_header *)(uintptr_t)b->rig->image;
    const rgp_image_run was = *run;
    rgp_engine e;
    *run = as;
    header->checksum = rgp_image_checksum(header, b->rig->image_size);
    const rgp_status status = rgp_engine_open(&e, header, b->rig->image_size, b->memory, header->memory);
    *run = was;
    return status;
}

static void test_what_is_no_lanes(void **unused)
{
    (void)unused;
    bench b;
    g_autofree char *text = rig_of_lanes();
    bench_open(&b, text);
    uint32_t runs, mixed = 0, rows = 0;
    rgp_image_run *run = runs_of(&b, &runs);
    for (uint32_t i = 0; i < runs; i++) {
        rgp_image_run as = run[i];
        as.way = RGP_WAYS;
        assert_int_equal(open_with(&b, &run[i], as), RGP_E_INDEX);
        as.way = RGP_WAY_ROWS;
        if (run[i].way == RGP_WAY_LANES) {
            assert_int_equal(open_with(&b, &run[i], as), RGP_E_INDEX);
            mixed++;
        } else if (run[i].way == RGP_WAY_ROWS) {
            as.way = RGP_WAY_LANES;
            assert_int_equal(open_with(&b, &run[i], as), RGP_OK);
            rows++;
        }
    }
    assert_true(mixed >= 2 && rows >= 3);
    bench_close(&b);
}

/* No window with a rising order, no fewer than four, none that takes a whole number. */
static void test_what_stays_apart(void **unused)
{
    (void)unused;
    static const char *const texts[] = {"signal a = s%d | despike 7\n", "signal a = s%d | average 4\n",
                                        "signal a = s%d | line 2 cm/counts, 1 cm\n"};
    for (size_t k = 0; k < 3; k++) {
        GString *all = g_string_new("rig t\ntick 10 ms\n");
        for (int i = 0; i < (k == 2 ? 3 : 8); i++) {
            g_string_append_printf(all, "sensor s%d counts 0..4095\n", i);
            g_autofree char *line = g_strdup_printf(texts[k], i);
            line[strlen("signal ")] = (char)('a' + i);
            g_string_append(all, line);
        }
        bench b;
        bench_open(&b, all->str);
        assert_int_equal(go_one_by_one(&b), 1u << RGP_WAY_PLAIN);
        bench_close(&b);
        g_string_free(all, TRUE);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_four_by_four_is_one_by_one),
        cmocka_unit_test(test_many),
        cmocka_unit_test(test_what_is_no_lanes),
        cmocka_unit_test(test_what_stays_apart),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
