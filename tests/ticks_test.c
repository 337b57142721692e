/* Rigs tick by tick, as data: tests/ticks.rig says how. */
#include "support.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static void feed(bench *b, const char *readings, const char *where)
{
    g_auto(GStrv) each = g_strsplit(readings, " ", -1);
    const uint32_t sensors = rgp_image_count(b->engine.image, RGP_SECTION_SENSORS);
    if (g_strv_length(each) != sensors) {
        fail_msg("%s: %u readings for %u sensors", where, g_strv_length(each), sensors);
    }
    b->events = 0;
    for (uint16_t i = 0; i < sensors; i++) {
        const bool missing = strcmp(each[i], "-") == 0;
        const rgp_sample sample = {.time_us = b->now_us,
                                   .raw = missing ? 0 : atoi(each[i]),
                                   .quality = missing ? RGP_MISSING : RGP_GOOD,
                                   .same = strcmp(each[i], "=") == 0};
        assert_int_equal(rgp_engine_sense(&b->engine, i, &sample), RGP_OK);
    }
    rgp_engine_step(&b->engine, b->now_us);
    b->now_us += b->engine.image->tick_us;
}

static bool fits(const bench *b, uint16_t slot, const char *wanted)
{
    const rgp_reading r = rgp_engine_value(&b->engine, slot);
    if (*wanted == '!') {
        return strcmp(rgp_quality_word(r.quality), wanted + 1) == 0;
    }
    if (!rgp_usable(r.quality)) {
        return false;
    }
    char *end;
    const double number = strtod(wanted, &end);
    if (*end == '\0') {
        return fabs((double)r.value - number) <= 6e-4 * fabs(number) + 1e-6;
    }
    return strcmp(rgp_image_text(b->engine.image, RGP_NAME_PART, slot, (uint32_t)r.value), wanted) == 0;
}

/* "READINGS [*TIMES] : NAME=VALUE ..." */
static void run_line(bench *b, const char *line, const char *where)
{
    g_auto(GStrv) halves = g_strsplit(line, " : ", 2);
    assert_non_null(halves[1]);
    char *times = strstr(halves[0], " *");
    const int count = times ? atoi(times + 2) : 1;
    if (times) {
        *times = '\0';
    }
    for (int i = 0; i < count; i++) {
        feed(b, halves[0], where);
    }
    g_auto(GStrv) wanted = g_strsplit(halves[1], " ", -1);
    for (char **w = wanted; *w; w++) {
        char *equals = strchr(*w, '=');
        assert_non_null(equals);
        *equals = '\0';
        const uint16_t slot = bench_slot(b, *w);
        if (!fits(b, slot, equals + 1)) {
            const rgp_reading r = rgp_engine_value(&b->engine, slot);
            fail_msg("%s: after '> %s' %s is %.6g (%s), not %s", where, line, *w, (double)r.value,
                     rgp_quality_text(r.quality), equals + 1);
        }
    }
}

static void run_case(const char *text)
{
    g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
    g_autoptr(GString) rig = g_string_new("rig t\ntick 10 ms\n");
    char **line = lines + 1;
    for (; *line && **line != '>'; line++) {
        g_string_append_printf(rig, "%s\n", *line);
    }
    bench b;
    bench_open(&b, rig->str);
    uint32_t ticks = 0;
    for (; *line; line++) {
        if (**line == '>') {
            run_line(&b, *line + 2, lines[0]);
            ticks++;
        }
    }
    assert_true(ticks > 0);
    bench_close(&b);
}

static void test_ticks(void **unused)
{
    (void)unused;
    g_autofree char *file = get_file(RIGPULSE_SOURCE "/tests", "ticks.rig");
    g_auto(GStrv) cases = g_strsplit(file, "\n=== ", -1);
    for (char **c = cases + 1; *c; c++) {
        run_case(*c);
    }
    assert_true(g_strv_length(cases) > 20);
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_ticks)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
