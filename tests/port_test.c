/* The trial of a port: the simulated one passes it for every example; ports that break the contract in one way each are
 * found out by just that. */
#include "support.h"

#include "rigpulse/port_trial.h"
#include "runtime/ports.h"
#include "sim/sim.h"

#include <string.h>

static const char rig_text[] = "rig bench\n"
                               "tick 10 ms\n"
                               "sensor level counts 0..4095\n"
                               "sensor gate switch\n"
                               "sensor slow counts 0..1000\n"
                               "actuator pump percent 0..100, rest at 0\n"
                               "actuator lamp switch, rest at off\n"
                               "signal passing = gate | width\n"
                               "on passing goes above 1 s\n    lamp on\n"
                               "on level goes above 100 counts\n    pump 20 %\n"
                               "on slow goes above 100 counts\n    pump 30 %\n";

/* A port that keeps the contract, but for one thing. */
typedef struct fake {
    rgp_port_fault broken; /* RGP_PORT_FAULTS: none */
    uint64_t now_us;
    uint32_t reads[3];
    bool dying;
    bool was_read; /* since it was asked for the time */
    int back;      /* how often it has gone back */
    float written[2];
} fake;

/* It goes back behind a reading, where nothing else depends on it. */
static uint64_t now(void *self)
{
    fake *f = self;
    f->now_us += 3; /* time passes */
    const bool back = f->was_read && f->broken == RGP_PORT_CLOCK_BACK && f->now_us > 1400000 && !f->back++;
    f->was_read = false;
    return back ? f->now_us - 20000 : f->now_us;
}

static rgp_status sleep_until(void *self, uint64_t time_us)
{
    fake *f = self;
    const bool early = f->broken == RGP_PORT_WOKE_EARLY && time_us > 1300000;
    f->now_us = MAX(f->now_us, time_us + (early ? 0u : 40u) - (early ? 5000u : 0u));
    return RGP_OK;
}

/* The slow one has a new reading in every third tick; the level is missing now and then. */
static rgp_status read_sensor(void *self, uint16_t sensor, rgp_sample *sample)
{
    fake *f = self;
    const uint32_t n = f->reads[sensor]++;
    f->was_read = true;
    const bool late = n > 20, same = sensor == 2 && n % 3 > 0;
    const uint32_t of = sensor == 2 ? n / 3 : n;
    *sample = (rgp_sample){.raw = sensor == 1 ? (int32_t)(n / 5 % 2) : (int32_t)(100 + of),
                           .time_us = sensor == 2 ? 1 + of * 30000u : f->now_us,
                           .same = same,
                           .quality = sensor == 0 && n % 9 == 8 ? RGP_MISSING : RGP_GOOD};
    f->now_us += f->broken == RGP_PORT_SLOW && late ? 11000 : 0;
    sample->quality = f->broken == RGP_PORT_QUALITY && late ? RGP_LATE : sample->quality;
    sample->time_us += f->broken == RGP_PORT_FUTURE && late ? 50000 : 0;
    sample->time_us -= f->broken == RGP_PORT_SAMPLE_BACK && sensor == 0 && n == 22 ? 200000 : 0;
    sample->raw += f->broken == RGP_PORT_NOT_SAME && same ? 1 : 0;
    sample->raw *= f->broken == RGP_PORT_NO_SWITCH && sensor == 1 ? 4095 : 1;
    return f->broken == RGP_PORT_LOST && n > 30 ? RGP_E_PORT : RGP_OK;
}

/* Two changes a tick. */
static rgp_status edges(void *self, uint16_t sensor, uint64_t until_us, rgp_port_edge *edge, uint16_t room,
                        uint16_t *count, uint32_t *lost)
{
    const fake *f = self;
    (void)sensor;
    *count = f->broken == RGP_PORT_EDGES_ROOM ? (uint16_t)(room + 1) : 2;
    *lost = 0;
    edge[0] = (rgp_port_edge){until_us - 200, 1};
    edge[1] = (rgp_port_edge){until_us - 100 - (f->broken == RGP_PORT_EDGES_ORDER ? 300 : 0),
                              f->broken == RGP_PORT_EDGES_TURN};
    return RGP_OK;
}

static rgp_status write_actuator(void *self, uint16_t actuator, float value)
{
    fake *f = self;
    f->written[actuator] = value;
    return (f->broken == RGP_PORT_REFUSED && actuator == 1 && value != 0.0f) ||
                   (f->broken == RGP_PORT_NO_REST && f->dying)
               ? RGP_E_RANGE
               : RGP_OK;
}

static void rest_now(void *self)
{
    ((fake *)self)->dying = true;
}

typedef struct finding {
    uint32_t faults; /* bit by kind */
    uint16_t channel;
} finding;

static void note(void *self, rgp_port_fault fault, uint16_t channel)
{
    finding *f = self;
    f->faults |= 1u << fault;
    f->channel = channel;
    assert_true(strlen(rgp_port_fault_text(fault)) > 10);
}

static void test_broken_ports(void **unused)
{
    (void)unused;
    rgp_rig *rig = rgp_rig_compile("bench.rig", rig_text, strlen(rig_text), NULL);
    assert_non_null(rig->image);
    for (rgp_port_fault broken = RGP_PORT_CONTRACT; broken <= RGP_PORT_FAULTS; broken++) {
        fake f = {.broken = broken, .now_us = 1000000};
        const rgp_port port = {.version = RGP_PORT_VERSION,
                               .self = &f,
                               .now = now,
                               .sleep_until = broken == RGP_PORT_CONTRACT ? NULL : sleep_until,
                               .read = read_sensor,
                               .edges = edges,
                               .write = write_actuator,
                               .rest_now = rest_now};
        rgp_port_trace trace[4] = {{.reserved = 0}};
        finding found = {0, 0};
        rgp_port_result result;
        const rgp_port_trial trial = {&port, rig->image, 100, 0.5f, trace, note, &found};
        const rgp_status status = rgp_port_try(&trial, &result);
        const uint32_t expected = broken == RGP_PORT_FAULTS ? 0 : 1u << broken;
        if (found.faults != expected) {
            fail_msg("a port in which '%s': found %x", rgp_port_fault_text(broken), found.faults);
        }
        assert_int_equal(status, broken == RGP_PORT_FAULTS ? RGP_OK : RGP_E_PORT);
        assert_true((broken == RGP_PORT_NO_SWITCH) <= (found.channel == 1));
        assert_true(f.written[0] == 0.0f && f.written[1] == 0.0f);
        if (broken == RGP_PORT_FAULTS) {
            assert_true(result.standing == 66 && result.missing == 11 && result.edges == 200 && result.latest_us > 0);
        }
    }
    rgp_rig_free(rig);
}

static void test_the_simulated_port(void **unused)
{
    (void)unused;
    GDir *folder = g_dir_open(RIGPULSE_SOURCE "/examples", 0, NULL);
    int tried = 0;
    for (const char *name; (name = g_dir_read_name(folder));) {
        g_autofree char *path = g_build_filename(RIGPULSE_SOURCE, "examples", name, NULL), *text = NULL;
        if (!g_str_has_suffix(name, ".rig") || !g_file_get_contents(path, &text, NULL, NULL)) {
            continue;
        }
        rgp_rig *rig = rgp_rig_compile(path, text, strlen(text), rgp_ports_catalog());
        rgp_sim *sim = rgp_sim_new(rig, 1, false, NULL);
        rgp_port_trace *trace = g_new0(rgp_port_trace, rgp_image_count(rig->image, RGP_SECTION_SENSORS) + 1);
        finding found = {0, 0};
        rgp_port_result result;
        const rgp_port_trial trial = {rgp_sim_port(sim), rig->image, 2000, 0.3f, trace, note, &found};
        if (rgp_port_try(&trial, &result) != RGP_OK) {
            fail_msg("%s: %x of %u", name, found.faults, found.channel);
        }
        assert_true(result.fresh > 100);
        g_free(trace);
        rgp_sim_free(sim);
        rgp_rig_free(rig);
        tried++;
    }
    g_dir_close(folder);
    assert_true(tried > 15);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_broken_ports),
        cmocka_unit_test(test_the_simulated_port),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
