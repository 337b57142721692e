/* An actuator that its port cannot drive: it alone is at rest, the rig goes on, and it comes back by itself. */
#include "support.h"

#include <string.h>

#define TICK_US 20000u

static const char rig_text[] = "rig quay\ntick 20 ms\nsensor level counts 0..4095\n"
                               "actuator pump percent 0..100, rest at 5, slew 50 %/s\n"
                               "actuator lamp switch, rest at off, inverted\nactuator fan percent 0..100, rest at 0\n"
                               "on level goes above 100 counts\n    lamp on\n    pump 80 % for 10 s\n"
                               "loop hold: level at 200 counts with fan\n    pid kp 0.1, ki 0.05, kd 0\n    one way\n";

/* A port that notes what is written, and refuses the lamp while it is told to. */
typedef struct wired {
    rgp_port port;
    uint64_t now_us;
    int32_t level;
    int32_t refuses; /* -1: none */
    uint32_t writes[3];
    float written[3];
    uint16_t opened;
    char names[64];
} wired;

static uint64_t now(void *self)
{
    return ((wired *)self)->now_us;
}

static rgp_status read_sensor(void *self, uint16_t sensor, rgp_sample *sample)
{
    const wired *w = self;
    (void)sensor;
    *sample = (rgp_sample){.time_us = w->now_us, .raw = w->level};
    return RGP_OK;
}

static rgp_status write_actuator(void *self, uint16_t actuator, float value)
{
    wired *w = self;
    w->writes[actuator]++;
    if (actuator == w->refuses) {
        return RGP_E_CHANNEL;
    }
    w->written[actuator] = value;
    return RGP_OK;
}

static rgp_status open_channel(void *self, const rgp_port_channel *channel)
{
    wired *w = self;
    const size_t length = strlen(w->names);
    g_snprintf(w->names + length, sizeof w->names - length, "%s%c%g ", channel->name, channel->actuator ? '=' : ':',
               (double)(channel->actuator ? channel->rest : channel->high));
    return w->opened++ == 3 ? RGP_E_INDEX : RGP_OK;
}

static void begin(bench *b, wired *w)
{
    bench_open(b, rig_text);
    *w = (wired){.refuses = -1, .level = 150, .now_us = 1000000};
    w->port = (rgp_port){.version = RGP_PORT_VERSION,
                         .self = w,
                         .now = now,
                         .read = read_sensor,
                         .write = write_actuator,
                         .open = open_channel};
}

static void tick(bench *b, wired *w, uint32_t ticks)
{
    b->events = 0;
    for (uint32_t i = 0; i < ticks; i++) {
        assert_int_equal(rgp_engine_tick(&b->engine, &w->port), RGP_OK);
        w->now_us += TICK_US;
    }
}

static void test_one_is_lost_and_the_others_go_on(void **unused)
{
    (void)unused;
    bench b;
    wired w;
    begin(&b, &w);
    w.level = 50;
    tick(&b, &w, 2);
    w.level = 150;
    tick(&b, &w, 100);
    assert_true(w.written[0] == 80.0f && w.written[1] == 0.0f && w.written[2] > 4.0f);

    w.refuses = 0;
    tick(&b, &w, 1);
    assert_false(bench_events(&b, RGP_EVENT_LOST)); /* the tick that finds it is over already */
    tick(&b, &w, 1);
    assert_int_equal(bench_events(&b, RGP_EVENT_LOST), 1);
    assert_true(rgp_engine_is_lost(&b.engine, 0));
    assert_int_equal(rgp_engine_owner(&b.engine, 0), RGP_OWNER_FAULT);
    assert_true(rgp_engine_output(&b.engine, 0) == 5.0f); /* at once, whatever its slew */
    assert_true(w.written[1] == 0.0f && rgp_engine_owner(&b.engine, 2) != RGP_OWNER_FAULT);

    const uint32_t before = w.writes[0], others = w.writes[2];
    tick(&b, &w, 200);
    assert_in_range(w.writes[0] - before, 3, 5); /* rest is tried each second */
    assert_int_equal(w.writes[2] - others, 200);

    w.refuses = -1;
    tick(&b, &w, 60);
    assert_int_equal(bench_events(&b, RGP_EVENT_REGAINED), 1);
    assert_true(w.written[0] == 5.0f); /* the timed action has ended with the loss */
    assert_int_equal(rgp_engine_owner(&b.engine, 0), RGP_OWNER_REST);
    rgp_engine_hand(&b.engine, 0, 30.0f);
    tick(&b, &w, 100);
    assert_true(w.written[0] == 30.0f);
    bench_close(&b);
}

/* The loop follows what is driven, so it neither winds up nor jumps. */
static void test_a_loop_goes_on_from_rest(void **unused)
{
    (void)unused;
    bench b;
    wired w;
    begin(&b, &w);
    tick(&b, &w, 500);
    const float settled = w.written[2];
    w.refuses = 2;
    tick(&b, &w, 1000);
    w.refuses = -1;
    tick(&b, &w, 51);
    assert_true(settled > 15.0f);
    assert_true(rgp_engine_owner(&b.engine, 2) != RGP_OWNER_FAULT);
    assert_true(rgp_engine_output(&b.engine, 2) > 0.0f && rgp_engine_output(&b.engine, 2) < 10.0f);
    bench_close(&b);
}

static void test_unchanged_outputs_wait(void **unused)
{
    (void)unused;
    bench b;
    wired w;
    begin(&b, &w);
    w.port.repeat_us = 500000;
    w.level = 250; /* the loop's output stays at 0 */
    tick(&b, &w, 251);
    assert_int_equal(w.writes[2], 11);
    assert_int_equal(w.writes[1], 11);
    rgp_engine_rest(&b.engine, &w.port);
    tick(&b, &w, 1); /* what stands there is not known any more */
    assert_int_equal(w.writes[1], 13);
    bench_close(&b);
}

static void test_channels_are_opened_by_name(void **unused)
{
    (void)unused;
    bench b;
    wired w;
    rgp_port_channel refused = {0};
    begin(&b, &w);
    assert_int_equal(rgp_engine_connect(&b.engine, &w.port, &refused), RGP_E_INDEX);
    assert_string_equal(w.names, "level:4095 pump=5 lamp=1 fan=0 ");
    assert_string_equal(refused.name, "fan");
    w.port.open = NULL;
    assert_int_equal(rgp_engine_connect(&b.engine, &w.port, NULL), RGP_OK);
    bench_close(&b);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_one_is_lost_and_the_others_go_on),
        cmocka_unit_test(test_a_loop_goes_on_from_rest),
        cmocka_unit_test(test_unchanged_outputs_wait),
        cmocka_unit_test(test_channels_are_opened_by_name),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
