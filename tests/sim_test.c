/* The simulated port: its mechanisms against other people's integration, its sensors, its clock. */
#include "support.h"

#include "sim/mechanisms/mechanism.h"
#include "sim/sim.h"

#include <math.h>
#include <sndfile.h>
#include <string.h>

/* Made with scipy.integrate.solve_ivp (LSODA, rtol 1e-11): depth of the tank of tank.c with inflow 60 ml/s,
 * runup 0.3 s, leak 15 ml/s, area 60 cm2, height 12 cm, from 5.5 cm; pump at 80 % from 0 to 2 s, then off. */
static void test_tank_against_scipy(void **unused)
{
    (void)unused;
    static const struct {
        double time, depth;
    } wanted[] = {{0.5, 5.620440731}, {1.0, 5.897116519}, {2.0, 6.509151887}, {3.0, 6.555074929}, {8.0, 5.671745002}};
    const mechanism *tank = mechanisms[0];
    assert_string_equal(tank->kind.word, "tank");
    const double setting[] = {60, 0.3, 15, 60, 12, 5.5, 0, 1, 0};
    double state[MECHANISM_STATES_MAX], time = 0.0;
    mechanism_begin(tank, setting, state);
    for (size_t i = 0; i < sizeof wanted / sizeof *wanted; i++) {
        const double input = wanted[i].time <= 2.0 ? 80.0 : 0.0;
        mechanism_run(tank, setting, &input, time, wanted[i].time, state);
        time = wanted[i].time;
        assert_near(tank->output(setting, time, state, 0), wanted[i].depth, 1e-6);
    }
}

/* The answer of lags in a row to a step of the drive, by the textbook: after `dead`, 1 - (T e^(-t/T) - S e^(-t/S)) /
 * (T - S); of two equal ones 1 - (1 + t/T) e^(-t/T). Whatever the ticks that it is run in. */
static double answer_of_lags(const double *setting, double time)
{
    const double t = time - setting[3], first = setting[1], second = setting[2];
    if (t <= 0.0) {
        return 0.0;
    }
    return second <= 0.0     ? 1.0 - exp(-t / first)
           : first == second ? 1.0 - (1.0 + t / first) * exp(-t / first)
                             : 1.0 - (first * exp(-t / first) - second * exp(-t / second)) / (first - second);
}

static void test_lag_closed_form(void **unused)
{
    (void)unused;
    static const double settings[][6] = {
        {2, 3, 0, 0, 0, 0},   {2, 3, 1.2, 0, 0, 5},      {0.5, 2, 2, 0, -7, 1},
        {2, 3, 0, 0.8, 0, 0}, {-1, 0.3, 4, 2.56, 10, 3},
    };
    static const double ticks[] = {0.01, 0.37};
    const mechanism *lag = mechanisms[1];
    for (size_t i = 0; i < 2 * sizeof settings / sizeof *settings; i++) {
        const double *setting = settings[i / 2], tick = ticks[i % 2], input = 50.0;
        double state[MECHANISM_STATES_MAX];
        mechanism_begin(lag, setting, state);
        for (uint32_t n = 0; n * tick < 9.0; n++) {
            mechanism_run(lag, setting, &input, n * tick, (n + 1) * tick, state);
            const double share = answer_of_lags(setting, (n + 1) * tick);
            const double speed = setting[0] * 50.0 * setting[3] / 256.0 / setting[1]; /* of a piece of the pipe */
            assert_near(lag->output(setting, 0.0, state, 0), setting[5] + setting[4] + setting[0] * 50.0 * share,
                        1e-9 + fabs(speed));
        }
        mechanism_disturb(lag, setting, state, 1, 4.0);
        mechanism_run(lag, setting, &input, 10.0, 200.0, state);
        assert_near(lag->output(setting, 0.0, state, 0), setting[5] + setting[4] + setting[0] * 50.0 + 4.0, 1e-6);
    }
}

/* After hours and months what is in the pipe still goes round: pieces end where times can no longer tell them apart to
 * the last digit, and none is lost, filled twice, or never left. */
static void test_lag_after_months(void **unused)
{
    (void)unused;
    static const double setting[] = {1, 0.4, 0, 0.06, 0, 0}, begins[] = {4400.0, 1e5, 8e6};
    const mechanism *lag = mechanisms[1];
    const double input = 50.0;
    for (size_t i = 0; i < sizeof begins / sizeof *begins; i++) {
        double state[MECHANISM_STATES_MAX];
        mechanism_begin(lag, setting, state);
        for (uint32_t n = 0; n < 60000; n++) {
            const double now = begins[i] + n * 1e-3, then = begins[i] + (n + 1) * 1e-3;
            mechanism_run(lag, setting, &input, now, then, state);
            assert_true(n < 12000 || fabs(lag->output(setting, then, state, 0) - 50.0) < 1e-3);
        }
        for (uint32_t n = 0; n < 100; n++) { /* many times the dead time in one go, and then a piece of it */
            const double now = begins[i] + 60.0 + n * 0.4, then = now + 0.39;
            mechanism_run(lag, setting, &input, now, then, state);
            mechanism_run(lag, setting, &input, then, now + 0.4, state);
            assert_near(lag->output(setting, then, state, 0), 50.0, 1e-3);
        }
    }
}

static const char rig_head[] = "rig t\ntick 10 ms\nsensor s counts 0..4095\nactuator pump percent 0..100, rest at 0\n";

static rgp_sim *make_sim(rgp_rig **rig, const char *hookup, uint64_t seed)
{
    g_autofree char *text = g_strconcat(rig_head, hookup, NULL);
    GError *error = NULL;
    *rig = rgp_rig_compile("t.rig", text, strlen(text), rgp_sim_catalog());
    if (!(*rig)->image) {
        fail_msg("%s", rgp_rig_report(*rig));
    }
    rgp_sim *sim = rgp_sim_new(*rig, seed, false, &error);
    if (!sim) {
        fail_msg("%s", error->message);
    }
    return sim;
}

static void drop_sim(rgp_sim *sim, rgp_rig *rig)
{
    rgp_sim_free(sim);
    rgp_rig_free(rig);
}

static rgp_sample sample_at(rgp_sim *sim, uint64_t time_us)
{
    const rgp_port *port = rgp_sim_port(sim);
    rgp_sample sample;
    assert_int_equal(port->sleep_until(port->self, time_us), RGP_OK);
    assert_int_equal(port->now(port->self), time_us);
    assert_int_equal(port->read(port->self, 0, &sample), RGP_OK);
    return sample;
}

static int32_t read_at(rgp_sim *sim, uint64_t time_us)
{
    const rgp_sample sample = sample_at(sim, time_us);
    assert_int_equal(sample.quality, RGP_GOOD);
    return sample.raw;
}

/* The noise has the spread that the hook-up states, the same for the same seed, another for another. */
static void test_noise(void **unused)
{
    (void)unused;
    rgp_rig *rig;
    int32_t kept[2000];
    for (uint64_t seed = 1; seed <= 3; seed++) {
        rgp_sim *sim = make_sim(&rig, "hookup sim\n    s reads 2000: noise 20\n", seed == 3 ? 1 : seed);
        double sum = 0.0, squares = 0.0;
        uint32_t same = 0;
        for (uint32_t i = 0; i < 2000; i++) {
            const int32_t raw = read_at(sim, i * 10000);
            sum += raw - 2000;
            squares += (raw - 2000.0) * (raw - 2000.0);
            same += seed > 1 && raw == kept[i];
            kept[i] = seed == 1 ? raw : kept[i];
        }
        assert_near(sum / 2000.0, 0.0, 4.0 * 20.0 / sqrt(2000.0));
        assert_near(sqrt(squares / 2000.0), 20.0, 4.0 * 20.0 / sqrt(4000.0));
        assert_int_equal(same == 2000, seed == 3);
        drop_sim(sim, rig);
    }
}

static void test_spikes_rails_and_scale(void **unused)
{
    (void)unused;
    rgp_rig *rig;
    rgp_sim *sim = make_sim(&rig, "hookup sim\n    s reads 4000: spikes 500 every 100 ms\n", 1);
    uint32_t spikes = 0;
    for (uint32_t i = 0; i < 5000; i++) {
        const int32_t raw = read_at(sim, i * 10000);
        assert_true(raw == 4000 || raw == 3500 || raw == 4095);
        spikes += raw != 4000;
    }
    assert_near(spikes, 5000.0 * (1.0 - exp(-0.1)), 4.0 * sqrt(450.0));
    drop_sim(sim, rig);
    sim = make_sim(&rig,
                   "hookup sim\n    lag x: driven by pump, gain 1, time 1 ms, start 20\n"
                   "    s sees x value: 100 at 0, 300 at 20, 1100 at 40\n    at 1 s x jumps -15\n",
                   1);
    assert_int_equal(read_at(sim, 0), 300);
    assert_int_equal(read_at(sim, 1000000), 150); /* the disturbance, exactly at its time */
    rgp_sim_port(sim)->write(rgp_sim_port(sim)->self, 0, 10.0f);
    assert_int_equal(read_at(sim, 2000000), 700);
    drop_sim(sim, rig);
}

static void test_played_file(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "d.csv", "time,a,\"b, c\"\r\n0,1,10\r\n0.5,2,20\r\n1.5,3,30\r\n10,4,5000\r\n11,5,-7\r\n", -1);
    put_file(folder, "bad.csv", "time,a\n0,1\n0,2\n", -1);
    rgp_rig *rig;
    g_autofree char *line = g_strdup_printf("hookup sim\n    s plays \"%s/d.csv\" \"b, c\"\n", folder);
    rgp_sim *sim = make_sim(&rig, line, 1);
    assert_int_equal(read_at(sim, 0), 10);
    assert_int_equal(read_at(sim, 490000), 10);
    assert_int_equal(read_at(sim, 500000), 20);
    assert_int_equal(read_at(sim, 9000000), 30);
    assert_int_equal(read_at(sim, 10000000), 5000); /* beyond 0..4095: for the engine to refuse */
    assert_int_equal(read_at(sim, 11000000), -7);
    drop_sim(sim, rig);
    static const char *const wrong[] = {"bad.csv\"", "none.csv\"", "d.csv\" \"z\""};
    for (size_t i = 0; i < 3; i++) {
        g_autofree char *text = g_strdup_printf("%shookup sim\n    s plays \"%s/%s\n", rig_head, folder, wrong[i]);
        g_autoptr(GError) error = NULL;
        rig = rgp_rig_compile("t.rig", text, strlen(text), rgp_sim_catalog());
        assert_null(rgp_sim_new(rig, 1, false, &error));
        assert_non_null(strstr(error->message, "t.rig:6: "));
        rgp_rig_free(rig);
    }
    remove_folder(folder);
}

/* Tables and the readings that the port plays from them at 0, 100, 200 ... ms; `-` for a missing one, `=` for no new
 * one. */
static void test_played_tables(void **unused)
{
    (void)unused;
    static const struct {
        const char *table, *behind, *readings; /* `behind` the file's name in the line */
    } cases[] = {
        {"time,v\n0,1\n0.1,2\n0.2,3\n", "", "1 2 3 - - -"}, /* behind the last row it is missing, */
        {"time,v\n0,1\n0.1,2\n0.2,3\n", ": again", "1 2 3 1 2 3"},
        {"time,v\n0,1\n0.1,2\n0.3,3\n", ": again", "1 2 = 3 = 1"}, /* which holds as long as the one before it did */
        {"time,v\n0.1,5\n", "", "- 5 - -"},
        {"time,v\n0,1\n0.1,\n0.2,nan\n0.3,4\n0.4,5\n", "", "1 - - 4 5 -"},
        {"time,v,s\n0,9,1\n0.1,9,2\n0.2,9,3\n", "", "1 2 3"}, /* the column of its own name, */
        {"time,v,s [V]\n0,9,1\n0.1,9,2\n0.2,9,3\n", "", "1 2 3"},
        {"time,v,s [V]\n0,9,1\n0.1,8,2\n0.2,7,3\n", " \"v\"", "9 8 7"}, /* or the one that is asked for */
        {"time,s,samples\n0,1,\n0.1,1,x: missing; s: same\n0.2,1,s: missing\n0.3,1,\n", "", "1 = - 1"},
        {"time,s,not good\n0,1,\n0.1,1,x: late; s: missing\n0.2,3,ss: late\n", "", "1 - 3"}, /* the first format */
        {"time,s,not good,samples\n0,1,,\n0.1,1,s: stuck,\n", "", "1 1"},                    /* judged anew */
        {"time,v\n0,1\n0.1,2\n0.2,3\n0.3", "", "1 2 3 -"},                                   /* cut off */
        {"time,v\n0,1\n0.1,\n0.2,3\n0.3,4\n", ": averaged 300 ms", "1 - 2 4"},
    };
    char *folder = make_folder();
    for (size_t i = 0; i < G_N_ELEMENTS(cases); i++) {
        put_file(folder, "t.csv", cases[i].table, -1);
        g_autofree char *line = g_strdup_printf("hookup sim\n    s plays \"%s/t.csv\"%s\n", folder, cases[i].behind);
        g_autoptr(GString) readings = g_string_new(NULL);
        rgp_rig *rig;
        rgp_sim *sim = make_sim(&rig, line, 1);
        for (uint32_t k = 0; readings->len < strlen(cases[i].readings); k++) {
            const rgp_sample sample = sample_at(sim, k * 100000);
            g_string_append(readings, k ? " " : "");
            if (sample.quality == RGP_MISSING || sample.same) {
                g_string_append_c(readings, sample.quality == RGP_MISSING ? '-' : '=');
            } else {
                g_string_append_printf(readings, "%d", sample.raw);
            }
        }
        if (strcmp(readings->str, cases[i].readings) != 0) {
            fail_msg("case %zu is played as %s", i, readings->str);
        }
        drop_sim(sim, rig);
    }
    remove_folder(folder);
}

/* A sound as a sensor: full scale is the sensor's range, silence its middle, also behind the end. */
static void test_played_sound(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *path = g_build_filename(folder, "hum.wav", NULL);
    SF_INFO info = {.samplerate = 1000, .channels = 2, .format = SF_FORMAT_WAV | SF_FORMAT_FLOAT};
    SNDFILE *file = sf_open(path, SFM_WRITE, &info);
    assert_non_null(file);
    for (int i = 0; i < 100; i++) {
        const float frame[2] = {i < 50 ? (float)i / 128.0f : -1.0f, 0.9f};
        assert_int_equal(sf_writef_float(file, frame, 1), 1);
    }
    sf_close(file);
    rgp_rig *rig;
    g_autofree char *line = g_strdup_printf("hookup sim\n    s plays \"%s\"\n", path);
    rgp_sim *sim = make_sim(&rig, line, 1);
    for (uint32_t ms = 0; ms < 100; ms++) { /* each sample at its time, though 0.029 * 1000 is below 29 */
        assert_int_equal(read_at(sim, 1000 * ms), ms < 50 ? 2048 + 16 * (int)ms : 0);
    }
    assert_int_equal(read_at(sim, 500000), 2048);
    drop_sim(sim, rig);
    line = (g_free(line), g_strdup_printf("hookup sim\n    s plays \"%s\": averaged 20 ms\n", path));
    sim = make_sim(&rig, line, 1);
    assert_int_equal(read_at(sim, 19000), 2048 + 16 * 19 / 2); /* the mean of 0 to 19 of 128 */
    assert_int_equal(read_at(sim, 39000), 2048 + 16 * (20 + 39) / 2);
    drop_sim(sim, rig);
    remove_folder(folder);
}

/* The harbour's mechanisms against their closed forms: heading and roll are the integrals of the rates that they show,
 * the boat is heard only in the beam, and its flight is the distance there and back at the speed of sound. */
static void test_harbour(void **unused)
{
    (void)unused;
    double setting[RGP_KIND_SETTINGS_MAX], state[MECHANISM_STATES_MAX];
    const mechanism *const *const p = mechanisms;
    const struct {
        uint32_t which, output, rate;
        double amplitude; /* of output: (1 - cos) turn every / 2 pi for the vane, sin for the deck */
    } cases[] = {{2, 1, 0, 40.0 * 12.0 / (2.0 * MECHANISM_PI)}, {3, 0, 1, 10.0}};
    for (size_t k = 0; k < 2; k++) {
        const mechanism *m = p[cases[k].which];
        for (uint32_t i = 0; m->kind.setting[i].word; i++) {
            setting[i] = m->kind.setting[i].initial;
        }
        mechanism_begin(m, setting, state);
        mechanism_run(m, setting, NULL, 0.0, 2.5, state);
        const double phase = 2.0 * MECHANISM_PI * 2.5 / setting[1];
        const double wanted = cases[k].amplitude * (k == 0 ? 1.0 - cos(phase) : sin(phase));
        assert_near(m->output(setting, 2.5, state, cases[k].output), wanted, 1e-6);
        mechanism_run(m, setting, NULL, 2.5, 2.5001, state);
        const double slope = (m->output(setting, 2.5001, state, cases[k].output) - wanted) / 1e-4;
        assert_near(slope, m->output(setting, 2.50005, state, cases[k].rate), 1e-3);
    }
    const double boat[] = {120, 80, 20, 40, 30, 20};
    uint32_t heard = 0;
    for (double t = 0.0; t < 34.0; t += 0.1) {
        const double distance = p[4]->output(boat, t, (double[]){0}, 0),
                     bearing = p[4]->output(boat, t, (double[]){0}, 1);
        const double flight = p[4]->output(boat, t, (double[]){0}, 2);
        assert_near(flight, fabs(bearing) <= 15.0 ? 2.0 * distance / 34321.46 * 1e6 : 0.0, 0.5);
        heard += flight > 0.0;
    }
    assert_in_range(heard, 60, 120);
    const double fog[] = {900, 60, 60};
    assert_near(p[5]->output(fog, 0, (double[]){0}, 0), 900.0, 1e-9);
    assert_near(p[5]->output(fog, 30, (double[]){0}, 0), 60.0, 1e-9);
}

/* A hand brings each mechanism to a place and holds it there against its own equations; its rate sums up to the way;
 * let go, it goes on by itself. */
static void test_hand(void **unused)
{
    (void)unused;
    static const struct {
        const char *hookup;
        double to, tolerance;
        uint32_t place, rate; /* outputs; rate 99: none */
        double after;         /* what it is 1 s after it was let go; NAN: something else than `to` */
    } cases[] = {
        {"    tank m: leak 0 ml/s, start 1 cm, waves 1 cm every 1 s\n    s sees m depth\n", 7.0, 1e-9, 0, 99, NAN},
        {"    tank m: leak 0 ml/s, start 1 cm\n    s sees m depth\n", 7.0, 1e-9, 0, 99, 7.0},
        {"    vane m: turn 30 deg/s every 4 s\n    s sees m heading\n", -70.0, 0.1, 1, 0, NAN},
        {"    deck m: swing 9 deg every 4 s\n    s sees m roll\n", 12.0, 0.1, 0, 1, NAN},
        {"    boat m: mean 100 cm\n    s sees m distance\n", 40.0, 1e-9, 0, 99, NAN},
        {"    fog m: thick 60 lx every 60 s\n    s sees m light\n", 333.0, 1e-9, 0, 99, NAN},
        {"    lag m: start 5\n    s sees m value\n", 9.0, 1e-9, 0, 99, NAN},
        {"    carriage m: travel 90 mm\n    s sees m place\n", 50.0, 1e-9, 0, 99, 50.0},
        {"    boiler m: air 80 degC, start 20 degC\n    s sees m warmth\n", 80.0, 1e-9, 0, 99, 80.0},
        {"    lane m: every 4 s\n    s sees m bow\n", 33.0, 1e-9, 4, 99, NAN},
        {"    feeder m: holds 5\n    s sees m left\n", 17.0, 1e-9, 0, 99, 17.0},
        {"    crossing m: every 9 s\n    s sees m span\n", 70.0, 1e-9, 0, 99, 70.0},
        {"    turntable m: start 5 deg\n    s sees m turned\n", -200.0, 0.1, 1, 2, -200.0},
        {"    fender m: every 9 s\n    s sees m sound\n", 33.0, 1e-9, 0, 99, NAN},
        {"    dinghy m: splay 30 deg\n    s sees m heading\n", 70.0, 1e-9, 3, 99, 70.0},
        {"    outlook m: daylight 700 lx\n    s sees m light\n", 100.0, 1e-9, 0, 99, NAN},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_rig *rig;
        static const char *const units[] = {" cm",   " cm", " deg", " deg", " cm",  " lx",   "",     " mm",
                                            " degC", " mm", "",     " mm",  " deg", " mm/s", " deg", " lx"};
        g_autofree char *with_unit = g_strdup_printf("hookup sim\n%s    at 10 s m placed %g%s for 8 s\n",
                                                     cases[i].hookup, cases[i].to, units[i]);
        rgp_sim *sim = make_sim(&rig, with_unit, 1);
        const rgp_port *port = rgp_sim_port(sim);
        port->sleep_until(port->self, 10000000);
        double way = rgp_sim_truth(sim, 0, cases[i].place);
        for (uint64_t t = 10000000; t < 17900000; t += 1000) {
            port->sleep_until(port->self, t);
            way += cases[i].rate != 99 ? rgp_sim_truth(sim, 0, cases[i].rate) * 1e-3 : 0.0;
        }
        assert_near(rgp_sim_truth(sim, 0, cases[i].place), cases[i].to, 1e-9);
        if (cases[i].rate != 99) {
            assert_near(way, cases[i].to, cases[i].tolerance);
        }
        port->sleep_until(port->self, 18700000);
        const double after = rgp_sim_truth(sim, 0, cases[i].place);
        if (isnan(cases[i].after)) {
            assert_true(fabs(after - cases[i].to) > 1e-3);
        } else {
            assert_near(after, cases[i].after, 1e-9);
        }
        drop_sim(sim, rig);
    }
}

/* Driven for a while and then let go, in closed form; the mark passes once in a turn. */
static void test_turntable(void **unused)
{
    (void)unused;
    static const double setting[] = {90, 0.8, 5, 8, 10};
    const mechanism *table = mechanisms[15];
    double state[MECHANISM_STATES_MAX], marks = 0.0, before = 0.0;
    mechanism_begin(table, setting, state);
    for (uint32_t n = 0; n < 3000; n++) { /* 20 s at 60 %, 10 s at what sticks */
        const double drive = n < 2000 ? 60.0 : 4.0, t = (n + 1) * 0.01, since = t - 20.0;
        mechanism_run(table, setting, &drive, n * 0.01, t, state);
        const double driven = 10.0 + 54.0 * (fmin(t, 20.0) - 0.8 * (1.0 - exp(-fmin(t, 20.0) / 0.8)));
        const double coasted = since > 0.0 ? 54.0 * (1.0 - exp(-25.0)) * 0.8 * (1.0 - exp(-since / 0.8)) : 0.0;
        assert_near(table->output(setting, t, state, 1), driven + coasted, 1e-6);
        const double mark = table->output(setting, t, state, 3);
        marks += mark > before;
        before = mark;
    }
    assert_near(marks, 3.0, 0.0); /* 1090 degrees in all, from 10 on: 360, 720, 1080 */
    assert_near(table->output(setting, 30.0, state, 0), fmod(10.0 + 54.0 * 20.0, 360.0), 1e-3);
}

/* The buoy's swing against SciPy's (solve_ivp, relative tolerance 1e-11), left alone, with the weight drawn up, and
 * nearly upside down; and without friction its energy stays. */
static void test_buoy_against_scipy(void **unused)
{
    (void)unused;
    static const struct {
        double fades, start, drawn, time, angle, rate;
    } wanted[] = {
        {60, 30, 0, 0.5, -29.68461742, -11.34270143},     {60, 30, 0, 5.0, 22.9279461, 93.96556357},
        {60, 30, 100, 0.1, 23.4767474, -128.16888947},    {60, 30, 100, 2.0, 20.33638998, -143.62367597},
        {1e9, 175, 0, 1.0, -140.15017774, -242.61346111}, {1e9, 175, 0, 3.0, 173.68140599, -24.18008421},
    };
    const mechanism *buoy = NULL;
    for (uint32_t i = 0; mechanisms[i]; i++) {
        buoy = strcmp(mechanisms[i]->kind.word, "buoy") == 0 ? mechanisms[i] : buoy;
    }
    for (size_t i = 0; i < sizeof wanted / sizeof *wanted; i++) {
        const double setting[] = {250, 15, 0.03, wanted[i].fades, wanted[i].start};
        double state[MECHANISM_STATES_MAX];
        mechanism_begin(buoy, setting, state);
        const double before = buoy->output(setting, 0.0, state, 3);
        mechanism_run(buoy, setting, &wanted[i].drawn, 0.0, wanted[i].time, state);
        assert_near(buoy->output(setting, 0.0, state, 0), wanted[i].angle, 2e-5);
        assert_near(buoy->output(setting, 0.0, state, 1), wanted[i].rate, 2e-4);
        if (wanted[i].fades > 1e6) {
            assert_near(buoy->output(setting, 0.0, state, 3) / before, 1.0, 1e-6);
        }
    }
}

static const mechanism *kind_of(const char *word)
{
    uint32_t i = 0;
    while (strcmp(mechanisms[i]->kind.word, word) != 0) {
        i++;
    }
    return mechanisms[i];
}

/* The mechanisms that are regulated, beside an integration by SciPy (DOP853, tolerance 1e-11): driven so for a while,
 * then so. A mast that nothing drives and nothing rubs keeps its energy. */
static void test_regulated_against_scipy(void **unused)
{
    (void)unused;
    static const double boiler[] = {400, 2000, 2, 0.5, 4, 6, 20, 20};
    static const double platform[] = {0, 6, 0, 2, 0, 0, 0.06, 60, 0.6};
    static const double mast[] = {30, 1.5, 4, 0.25, 40, 4000, 0.2, 40, 3};
    static const struct {
        const char *word;
        const double *setting;
        double drive, time;
        int32_t disturbance; /* before; -1: none */
        double first, last;  /* outputs 0 and 2; of the platform 0 and 5, which are one */
        double exact;
    } wanted[] = {
        {"boiler", boiler, 100, 20, -1, 22.01436718577822, 397.3048212001076, 2e-5},
        {"boiler", boiler, 60, 200, 0, 43.41420696440281, 240.0, 2e-5},
        {"boiler", boiler, 0, 30, 1, 43.85781310673273, 0.13274023884873676, 2e-5},
        {"platform", platform, 10, 0.1, -1, 5.100044911097919, 5.100044911097919, 2e-3},
        {"platform", platform, 10, 0.5, -1, 9.698839572514439, 9.698839572514439, 2e-3},
        {"platform", platform, -5, 0.2, -1, -1.0882555421467655, -1.0882555421467655, 2e-3},
        {"mast", mast, 0, 0.2, -1, 3.9801550728869004, 0.0, 1e-6},
        {"mast", mast, 80, 0.1, -1, 3.1607333332050196, 120.38232252742509, 1e-6},
        {"mast", mast, -30, 0.15, -1, 1.295484114411737, 51.6273871117263, 1e-6},
    };
    double state[MECHANISM_STATES_MAX], time = 0.0;
    for (size_t i = 0; i < sizeof wanted / sizeof *wanted; i++) {
        const mechanism *p = kind_of(wanted[i].word);
        if (i == 0 || strcmp(wanted[i].word, wanted[i - 1].word) != 0) {
            mechanism_begin(p, wanted[i].setting, state);
            time = 0.0;
        }
        if (wanted[i].disturbance >= 0) {
            mechanism_disturb(p, wanted[i].setting, state, (uint32_t)wanted[i].disturbance, 0.0);
        }
        mechanism_run(p, wanted[i].setting, &wanted[i].drive, time, time + wanted[i].time, state);
        time += wanted[i].time;
        const uint32_t last = strcmp(wanted[i].word, "platform") == 0 ? 5 : 2;
        assert_near(p->output(wanted[i].setting, time, state, 0), wanted[i].first, wanted[i].exact);
        assert_near(p->output(wanted[i].setting, time, state, last), wanted[i].last, 20.0 * wanted[i].exact);
    }
    static const double free_mast[] = {30, 1.5, 4, 0.25, 40, 4000, 0, 40, 3};
    const mechanism *p = kind_of("mast");
    const double none = 0.0;
    mechanism_begin(p, free_mast, state);
    mechanism_run(p, free_mast, &none, 0.0, 0.4, state);
    assert_near(p->output(free_mast, 0.4, state, 4), 29.989719749266726, 1e-9);
    assert_true(state[0] > 5.0);
}

/* Without the others each part is what its equation says; hulls and boats come in the even spells alone, about as often
 * as they are to, and are another row on another day. */
static void test_fender_and_outlook(void **unused)
{
    (void)unused;
    const mechanism *fender = kind_of("fender"), *outlook = kind_of("outlook");
    double state[MECHANISM_STATES_MAX] = {0};
    double wall[] = {10, 100, 0, 0, 25, 6, 2.5, 1}, reach[] = {20, 0, 0, 0, 0, 0, 0, 0, 0};
    mechanism_begin(fender, wall, state);
    assert_near(fender->output(wall, 3.3, state, 0),
                6.0 * (sin(2.0 * MECHANISM_PI * 3.3 / 2.5) + 0.4 * sin(1.37 * 2.0 * MECHANISM_PI * 3.3 / 2.5 + 1.0)),
                1e-9);
    mechanism_disturb(fender, wall, state, 0, 80.0);
    mechanism_run(fender, wall, NULL, 4.0, 4.05, state);
    wall[5] = 0.0;
    assert_near(fender->output(wall, 4.05, state, 0), 80.0 * exp(-0.05 / 0.12) * sin(2.0 * MECHANISM_PI * 18.0 * 0.05),
                1e-9);
    assert_near(fender->output(wall, 4.05, state, 1), 1.0, 0.0);
    mechanism_begin(fender, wall, state);
    const double days[] = {1, 2};
    double first[2] = {0};
    for (int day = 0; day < 2; day++) {
        uint32_t hulls = 0, odd = 0, was = 0;
        wall[7] = days[day];
        for (int t = 0; t < 100000; t++) {
            const uint32_t is = fender->output(wall, t / 100.0, state, 1) > 0.0;
            hulls += is && !was;
            first[day] = is && first[day] == 0.0 ? t / 100.0 : first[day];
            odd += is && !was && t / 10000 % 2 == 1;
            was = is;
        }
        assert_in_range(hulls, 48, 52);
        assert_int_equal(odd, 0);
    }
    assert_true(first[0] > 0.0 && first[0] != first[1]);
    const double open_water[] = {800, 20, 100, 240, 200, 30, 60, 0, 1};
    memcpy(reach, open_water, sizeof reach);
    double state2[MECHANISM_STATES_MAX] = {0};
    uint32_t boats = 0;
    bool was = false;
    for (int t = 0; t < 100000; t++) {
        const double light = outlook->output(reach, t / 100.0, state2, 0);
        const bool there = outlook->output(reach, t / 100.0, state2, 1) > 0.0;
        assert_true(there ? light >= 800.0 * 0.7 - 1e-9 && light <= 800.0 * 0.85 + 1e-9 : light == 800.0);
        boats += there && !was;
        was = there;
    }
    assert_in_range(boats, 23, 27);
}

/* Both paddles alike go straight on, one alone turns it; the eye that looks at the lamp sees the more, by the square of
 * the distance; what has lain at a lamp is shown another. */
static void test_dinghy(void **unused)
{
    (void)unused;
    const mechanism *p = kind_of("dinghy");
    const double setting[] = {200, 0.4, 120, 35, 400, 20, 1};
    double state[MECHANISM_STATES_MAX] = {0};
    const double both[] = {50, 50}, port[] = {50, 0}, none[] = {0, 0};
    mechanism_begin(p, setting, state);
    mechanism_run(p, setting, both, 0.0, 2.0, state);
    assert_near(state[0], 100.0 * (2.0 - 0.4 * (1.0 - exp(-5.0))), 1e-4); /* north, at 50 % of 200 mm/s */
    assert_near(state[1], 0.0, 1e-9);
    mechanism_begin(p, setting, state);
    state[0] = state[1] = state[2] = state[3] = state[4] = 0.0;
    mechanism_run(p, setting, port, 0.0, 2.0, state);
    assert_near(state[2], 100.0 * (2.0 - 0.4 * (1.0 - exp(-5.0))) / 120.0 * 180.0 / MECHANISM_PI, 1e-4);
    const double distance = p->output(setting, 0.0, state, 2);
    double best = 0.0;
    for (int i = 0; i < 3600; i++) {
        state[2] = i / 10.0;
        best = fmax(best, p->output(setting, 0.0, state, 0));
    }
    assert_near(best, 20.0 + 400.0 / (distance / 1000.0 * distance / 1000.0), 0.01);
    for (int lamp = 0; lamp < 3; lamp++) { /* carried to it, it lies there for three seconds */
        state[0] += 1.0;
        double before = p->output(setting, 0.0, state, 2);
        for (int i = 0; i < 20000 && before > 60.0; i++) {
            const double north = state[0], east = state[1];
            state[0] = north + 1.0;
            const double ahead = p->output(setting, 0.0, state, 2);
            state[0] = north;
            state[1] = east + 1.0;
            const double aside = p->output(setting, 0.0, state, 2);
            state[0] = north + (before - ahead);
            state[1] = east + (before - aside);
            before = p->output(setting, 0.0, state, 2);
        }
        assert_true(before <= 60.0 && p->output(setting, 0.0, state, 4) > 0.0);
        state[3] = state[4] = 0.0;
        mechanism_run(p, setting, none, 0.0, 2.9, state);
        assert_near(p->output(setting, 0.0, state, 4), 1.0, 0.0);
        mechanism_run(p, setting, none, 2.9, 3.1, state);
        assert_near(p->output(setting, 0.0, state, 4), 0.0, 0.0);
    }
}

/* The edges of a gate are those of the boats, to the microsecond, whatever the tick; what nobody fetches is counted. */
static void test_edges(void **unused)
{
    (void)unused;
    static const char text[] =
        "rig t\ntick 50 ms\nsensor g switch\nsensor k switch\nsignal w = g | width\n"
        "hookup sim\n    lane l: speed 200 mm/s, spread 0 %, length 80 mm, every 4 s\n"
        "    g sees l near\n    k sees l far\n    at 7 s l leaf 2 ms\n    at 9 s g pins for 300 ms\n";
    static const uint64_t wanted[] = {2000000, 2400000, 6000000, 6400000, 7000000, 7002000, 9000000, 9300000};
    rgp_rig *rig = rgp_rig_compile("t.rig", text, strlen(text), rgp_sim_catalog());
    rgp_sim *sim = rgp_sim_new(rig, 1, false, NULL);
    const rgp_port *port = rgp_sim_port(sim);
    rgp_port_edge edge[4];
    rgp_sample sample;
    uint32_t lost, seen = 0;
    uint16_t count;
    for (uint64_t t = 0; t < 9800000; t += 50000) {
        port->sleep_until(port->self, t);
        port->read(port->self, 0, &sample);
        assert_int_equal(port->edges(port->self, 0, t, edge, 4, &count, &lost), RGP_OK);
        for (uint16_t i = 0; i < count; i++, seen++) {
            assert_true(seen < 8);
            assert_int_equal(edge[i].rising, seen % 2 == 0);
            assert_in_range(edge[i].time_us, wanted[seen] - 1, wanted[seen] + 1);
        }
        assert_int_equal(lost, 0);
    }
    assert_int_equal(seen, 8);
    assert_int_equal(port->edges(port->self, 1, 0, edge, 4, &count, &lost), RGP_E_INDEX); /* nobody measures it */
    port->sleep_until(port->self, 400000000);
    port->edges(port->self, 0, 400000000, edge, 4, &count, &lost);
    assert_int_equal(count, 4);
    assert_in_range(lost, 100, 200);
    drop_sim(sim, rig);
}

/* A clock tells seconds since midnight, past midnight too; a switch drives with 100 %, an inverted one the other way
 * round unless it is wired so. */
static void test_clock_and_inputs(void **unused)
{
    (void)unused;
    rgp_rig *rig;
    static const char text[] =
        "rig t\ntick 10 ms\nsensor c s 0..86399\nactuator l switch, rest at off\n"
        "actuator m percent -100..60, rest at 0, inverted\nhookup sim\n"
        "    c tells 23 h 59 min: pace 60\n    lag a: driven by l, gain 1, time 1 ms\n"
        "    lag b: driven by m reversed, gain 1, time 1 ms\n    lag d: driven by m, gain 1, time 1 ms\n";
    rig = rgp_rig_compile("t.rig", text, strlen(text), rgp_sim_catalog());
    if (!rig->image) {
        fail_msg("%s", rgp_rig_report(rig));
    }
    rgp_sim *sim = rgp_sim_new(rig, 1, false, NULL);
    const rgp_port *port = rgp_sim_port(sim);
    rgp_engine engine;
    g_autofree void *memory = g_malloc0(((const rgp_image_header *)rig->image)->memory);
    rgp_engine_open(&engine, rig->image, rig->image_size, memory, ((const rgp_image_header *)rig->image)->memory);
    rgp_engine_hand(&engine, 0, 1.0f);
    rgp_engine_hand(&engine, 1, 50.0f);
    for (uint64_t t = 0; t < 2000000; t += 10000) {
        port->sleep_until(port->self, t);
        rgp_engine_tick(&engine, port);
        if (t == 980000 || t == 1000000) {
            assert_near((double)rgp_engine_value(&engine, rgp_image_sensor_slot(engine.image, 0)).value,
                        t == 980000 ? 86398.0 : 0.0, 1.0);
        }
    }
    assert_near(rgp_sim_truth(sim, 0, 0), 100.0, 1e-3);
    assert_near(rgp_sim_truth(sim, 1, 0), 50.0, 1e-3);
    assert_near(rgp_sim_truth(sim, 2, 0), -90.0, 1e-3); /* -100 + 60 - 50 */
    drop_sim(sim, rig);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_tank_against_scipy),
        cmocka_unit_test(test_lag_closed_form),
        cmocka_unit_test(test_lag_after_months),
        cmocka_unit_test(test_noise),
        cmocka_unit_test(test_spikes_rails_and_scale),
        cmocka_unit_test(test_played_file),
        cmocka_unit_test(test_played_tables),
        cmocka_unit_test(test_played_sound),
        cmocka_unit_test(test_hand),
        cmocka_unit_test(test_turntable),
        cmocka_unit_test(test_buoy_against_scipy),
        cmocka_unit_test(test_regulated_against_scipy),
        cmocka_unit_test(test_fender_and_outlook),
        cmocka_unit_test(test_dinghy),
        cmocka_unit_test(test_edges),
        cmocka_unit_test(test_clock_and_inputs),
        cmocka_unit_test(test_harbour),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
