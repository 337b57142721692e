/* Calibration: fits against another package, edits of awkward layouts, the command with and without a person. */
#include "terminal.h"

#include "analysis/fit.h"
#include "analysis/separate.h"
#include "sim/sim.h"
#include "rigpulse/edit.h"

#include <glib/gstdio.h>
#include <math.h>
#include <signal.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

/* ---- fits ------------------------------------------------------------------------------------------ */

static rgp_fit *fit(const char *word, const double (*xy)[2], guint points, const double *setting)
{
    rgp_fit_point point[16] = {{0}};
    char *why = NULL;
    for (guint i = 0; i < points; i++) {
        point[i] = (rgp_fit_point){xy[i][0], 0.0, xy[i][1]};
    }
    rgp_fit *f = rgp_fit_points(word, point, points, setting, false, "u", "v", &why);
    if (!f) {
        fail_msg("%s: %s", word, why);
    }
    return f;
}

/* The wanted numbers come from numpy.polyfit, numpy.linalg.lstsq and scipy.stats.t. */
static void test_fits_against_numpy(void **unused)
{
    (void)unused;
    static const double level[][2] = {{310, 0}, {905, 2.7}, {1480, 5.2}, {2110, 8.1}, {2700, 10.6}};
    static const double thermistor[][2] = {{32650, 0}, {10000, 25}, {3603, 50}, {1000, 90}, {300, 140}};
    static const double light[][2] = {{18.58, 40}, {9.782, 100}, {5.885, 200}, {3.627, 400}, {2.012, 900}};
    static const double left_out[] = {-0.06505424439509166, 0.0414914292996893, -0.03333007636997376,
                                      0.10501239372158189, -0.12357236112132419};
    double setting[RGP_FIT_SETTINGS_MAX] = {0};
    rgp_fit *f = fit("line", level, 5, setting);
    assert_near(f->setting[0], 0.00444476, 5e-9);
    assert_near(f->setting[1], -1.3515906, 5e-8);
    assert_near(rgp_fit_error(f, 1500.0), 0.20152026105398868, 1e-5);
    for (guint i = 0; i < 5; i++) {
        assert_near(f->left_out[i], left_out[i], 1e-9);
    }
    assert_true(rgp_fit_is_bent(f));
    rgp_fit_free(f);
    f = fit("steinhart", thermistor, 5, setting);
    assert_near(f->setting[0], 8.09585294e-04, 1e-12);
    assert_near(f->setting[1], 2.86425374e-04, 1e-12);
    assert_near(f->setting[2], -1.13619963e-07, 1e-15);
    rgp_fit_free(f);
    setting[2] = 25.0;
    f = fit("beta", thermistor, 5, setting);
    assert_near(f->setting[0], 3789.551287857302, 1e-5);
    assert_near(f->setting[1], 9972.39518187481, 1e-5);
    rgp_fit_free(f);
    setting[1] = 5.0;
    f = fit("power", light, 5, setting);
    assert_near(f->setting[2], -1.4001462337886317, 1e-9);
    assert_near(f->setting[0], 253.0479487735683, 1e-6);
    rgp_fit_free(f);
}

/* A condition that still moves is refused for that, though none of its values is on the wrong side. */
static void test_condition_that_drifts(void **unused)
{
    (void)unused;
    rgp_condition c[2] = {{.name = "low"}, {.name = "high"}};
    rgp_separation found;
    g_autofree char *why = NULL;
    for (int i = 0; i < 2; i++) {
        c[i].value = g_array_new(FALSE, FALSE, sizeof(double));
        for (int k = -20; k <= 20; k++) {
            const double x = i == 0 ? k & 1 : 25.0 + k;
            g_array_append_val(c[i].value, x);
        }
    }
    assert_false(rgp_separate(c, 2, "cm", &found, &why));
    assert_says(why,
                "'low' (0.4878 cm, scattering by 0.51) and 'high' (25 cm, scattering by 12, for it drifts: by 41 in");
    assert_says(why, "no value is beyond the best border");
    assert_says(why, "wait until both stand still");
    g_array_unref(c[0].value);
    g_array_unref(c[1].value);
}

/* A line between two conditions that scatter alike lies in the middle; conditions that overlap are refused. */
static void test_conditions(void **unused)
{
    (void)unused;
    for (int near = 0; near < 2; near++) {
        rgp_condition c[2] = {{.name = "high"}, {.name = "low"}};
        rgp_separation found;
        g_autofree char *why = NULL;
        for (int i = 0; i < 2; i++) {
            c[i].value = g_array_new(FALSE, FALSE, sizeof(double));
            for (int k = -20; k <= 20; k++) {
                const double x = (i == 0 ? (near ? 5.0 : 100.0) : 0.0) + k / 10.0;
                g_array_append_val(c[i].value, x);
            }
        }
        assert_int_equal(rgp_separate(c, 2, "cm", &found, &why), !near);
        assert_string_equal(c[0].name, "low");
        if (near) {
            assert_says(why, "cannot be told apart");
        } else {
            assert_near(found.border[0], 50.0, 5.0);
            assert_true(found.margin > 3.0 * c[0].spread && found.margin < 48.0);
        }
        g_array_unref(c[0].value);
        g_array_unref(c[1].value);
    }
}

/* ---- edits ----------------------------------------------------------------------------------------- */

#define HEAD "rig t\ntick 10 ms\nsensor s counts 0..4095\nsensor t us 0..40000\n"

typedef struct edit_case {
    const char *before, *name;
    double number[8];
    guint count; /* of a table: points, in and out in turn */
    const char *after;
} edit_case;

static const edit_case edit_cases[] = {
    {"signal d=s|table 0:0 cm,100:6 cm", "d", {5, 0, 90, 6}, 2, "signal d=s|table 5:0 cm,90:6 cm"},
    {"signal d = s | table 0: 0 cm, 100: 60 mm | smooth 1 s # keep",
     "d",
     {5, 0, 90, 7},
     2,
     "signal d = s | table 5: 0 cm, 90: 70 mm | smooth 1 s # keep"},
    {"signal d = s | table 0: 0 cm,   # empty\n        50: 3 cm,\t# half\n        100: 6 cm    # full\n    | smooth 1 "
     "s",
     "d",
     {1, 0, 52, 3, 101, 6},
     3,
     "signal d = s | table 1: 0 cm,   # empty\n        52: 3 cm,\t# half\n        101: 6 cm    # full\n    | smooth 1 "
     "s"},
    {"signal d = s | table 0: 0 cm, # empty\n   50: 3 cm, # half\n   100: 6 cm # full",
     "d",
     {1, 0, 99, 6},
     2,
     "signal d = s | table 1: 0 cm, # empty\n   99: 6 cm # half\n      # full"},
    {"signal d = s | table 100: 0 cm, 0: 6 cm",
     "d",
     {1, 6, 50, 3, 90, 0},
     3,
     "signal d = s | table 90: 0 cm, 50: 3 cm, 1: 6 cm"},
    {"signal d = s | table 0: 0 cm, 1: 1 cm, 2: 2 cm, 4: 4 cm extended",
     "d",
     {1, 0, 99, 6},
     2,
     "signal d = s | table 1: 0 cm, 99: 6 cm extended"},
    {"signal d = s | line -0.5 cm/counts, -1 cm", "d", {0.25, 2}, 0, "signal d = s | line 0.25 cm/counts, 2 cm"},
    {"signal d = s | line 5 mm/counts, 0 cm", "d", {0.25, 2}, 0, "signal d = s | line 2.5 mm/counts, 2 cm"},
    {"signal l = s | power 10 lx at 2 counts, exponent -1.4",
     "l",
     {20, 2, -1.5},
     0,
     "signal l = s | power 20 lx at 2 counts, exponent -1.5"},
    {"signal e = t | echo far 4 m", "e", {18.5}, 0, "signal e = t | echo at 18.5 degC, far 4 m"},
    {"signal e = t | echo near 3 cm, far 4 m, at 20 °C",
     "e",
     {18.5},
     0,
     "signal e = t | echo near 3 cm, far 4 m, at 18.5 °C"},
    {"signal d = s | line 2 cm/counts, 1 cm | smooth 1 s # here",
     "d",
     {2, 1.5, -3, 12},
     0,
     "signal d = s | line 2 cm/counts, 1.5 cm, within -3..12 cm | smooth 1 s # here"},
    {"signal d = s | line 2 cm/counts, 1 cm within 20..100 mm",
     "d",
     {3, 1, 3, 10},
     0,
     "signal d = s | line 3 cm/counts, 1 cm within 30..100 mm"},
    {"signal d = s | line 1 cm/counts, 0 cm\nbands b = d: low below 3 cm, high; margin 1 cm",
     "b",
     {4, 0.5},
     0,
     "signal d = s | line 1 cm/counts, 0 cm\nbands b = d: low below 4 cm, high; margin 0.5 cm"},
    {"param p = 30 mm in 1..6 cm # here\nsignal d = s | line 1 cm/counts, 0 cm\nbands b = d: hi above 9 cm, mid, lo "
     "below p",
     "b",
     {4, 8, 0.5},
     0,
     "param p = 40 mm in 1..6 cm # here\nsignal d = s | line 1 cm/counts, 0 cm\n"
     "bands b = d: hi above 8 cm, mid, lo below p; margin 0.5 cm"},
};

static void check_edit(const edit_case *k, const char *line_end)
{
    g_auto(GStrv) lines = g_strsplit(k->before, "\n", -1), wanted_lines = g_strsplit(k->after, "\n", -1);
    g_autofree char *body = g_strjoinv(line_end, lines), *wanted_body = g_strjoinv(line_end, wanted_lines);
    g_autofree char *source = g_strconcat(HEAD, body, NULL), *wanted = g_strconcat(HEAD, wanted_body, NULL);
    rgp_rig *rig = rgp_rig_compile("t.rig", source, strlen(source), rgp_sim_catalog());
    rgp_calibration c;
    const char *why = "", *made;
    if (!rig->image || !rgp_rig_calibration(rig, k->name, &c, &why)) {
        fail_msg("%s: %s %s", k->before, why, rgp_rig_report(rig));
    }
    if (k->count > 0) {
        double in[8], out[8];
        for (guint i = 0; i < k->count; i++) {
            in[i] = k->number[2 * i];
            out[i] = k->number[2 * i + 1];
        }
        made = rgp_edit_points(rig, &c, in, out, k->count);
    } else {
        const rgp_place *place[8];
        guint count = 0;
        for (; count < c.places && count < 3 && (count == 0 || strcmp(c.word, "echo") != 0); count++) {
            place[count] = &c.place[count];
        }
        for (guint i = 0; i < 2 && c.ranged && k->number[2] < k->number[3]; i++) {
            place[count++] = &c.range[i];
        }
        made = rgp_edit_places(rig, place, k->number, count);
    }
    assert_string_equal(made, wanted);
    rgp_rig *again = rgp_rig_compile("t.rig", made, strlen(made), rgp_sim_catalog());
    assert_non_null(again->image);
    rgp_rig_free(again);
    rgp_rig_free(rig);
}

static void test_edits(void **unused)
{
    (void)unused;
    for (size_t i = 0; i < sizeof edit_cases / sizeof *edit_cases; i++) {
        check_edit(&edit_cases[i], "\n");
        check_edit(&edit_cases[i], "\r\n");
    }
}

/* New lines go where a careful person would put them. */
static void test_new_lines(void **unused)
{
    (void)unused;
    static const struct {
        const char *before, *name, *line, *after;
    } cases[] = {
        {"rig t\ntick 10 ms\nsensor s counts 0..9 # last\nhookup sim\n    s reads 5", "d", "s | despike 3 | table",
         "rig t\ntick 10 ms\nsensor s counts 0..9 # last\n\nsignal d = s | despike 3 | table 0: 0 cm, 1: 1 "
         "cm, strict\n\nhookup "
         "sim\n    s reads 5"},
        {"rig t\r\ntick 10 ms\r\nsensor s counts 0..9\r\n\r\nsignal longer = s | smooth 1 s", "d", "longer | line",
         "rig t\r\ntick 10 ms\r\nsensor s counts 0..9\r\n\r\nsignal longer = s | smooth 1 s\r\nsignal d      = longer "
         "| "
         "line 1 cm/counts, 0 cm\r\n"},
        {"rig t\ntick 10 ms\nsensor s counts 0..9\nsignal q = s | line 1 cm/counts, 0 cm\n\non start\n    mark x\n",
         "b", "q: a, b, c",
         "rig t\ntick 10 ms\nsensor s counts 0..9\nsignal q = s | line 1 cm/counts, 0 cm\nbands  b = q: a below 0 cm, "
         "b, c "
         "above 10 cm; margin 1 cm\n\non start\n    mark x\n"},
    };
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        rgp_rig *rig = rgp_rig_compile("t.rig", cases[i].before, strlen(cases[i].before), rgp_sim_catalog());
        rgp_calibration c;
        const char *why = "";
        rgp_rig *made = rgp_rig_line_template(rig, cases[i].name, cases[i].line, "cm", rgp_sim_catalog(), &c, &why);
        if (!made) {
            fail_msg("%s: %s", cases[i].line, why);
        }
        assert_string_equal(made->source, cases[i].after);
        rgp_rig_free(made);
        rgp_rig_free(rig);
    }
}

/* ---- the command ----------------------------------------------------------------------------------- */

static void copy_example(const char *folder, const char *name)
{
    g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", name);
    put_file(folder, name, text, -1);
}

/* From raw sensors only, with commands alone, to quantities that are right. */
static void test_from_raw_sensors(void **unused)
{
    (void)unused;
    static const struct {
        const char *rig, *call, *line;
    } cases[] = {
        {"sensor level counts 0..4095\nhookup sim\n    tank basin: height 12 cm\n    level sees basin depth: 312 at 0 "
         "cm, "
         "3020 at 12 cm, noise 1\n",
         "depth --as 'level | despike 5 | table | smooth 200 ms' -p 0cm -p 12cm",
         "signal depth = level | despike 5 | table 312: 0 cm, 3020: 12 cm, strict | smooth 200 ms"},
        {"sensor level counts 0..4095\nhookup sim\n    tank basin: height 12 cm\n    level sees basin depth: 312 at 0 "
         "cm, 3020 at 12 cm\n",
         "depth --as 'level | line' -p 10mm -p 2cm -p 9cm", ", within 10..90 mm"},
        {"sensor flight us 0..40000\nhookup sim\n    boat ferry: air 15 degC\n    flight sees ferry flight: 0 at 0 us, "
         "40000 at 40000 us\n",
         "distance --as 'flight | echo far 400 cm' -p 50cm -p 150cm -p 200cm",
         "signal distance = flight | echo at 15.0"},
        {"sensor gyro counts -32768..32767\nhookup sim\n    vane tower: turn 0 deg/s\n    gyro sees tower rate: -32767 "
         "at "
         "-1000 deg/s, 32767 at 1000 deg/s, noise 2, bias 40\n",
         "turned --as 'gyro | zero over 2 s, spread 20 counts, drift 6 counts | line | accumulate' -p 0deg -p 90deg -p "
         "-90deg",
         "| line 0.0305"},
        {"sensor eye counts 0..4095\nhookup sim\n    fog bank: clear 900 lx\n    eye sees bank light: 3412 at 10 lx, "
         "2089 at "
         "90 lx, 686 at 900 lx, noise 2\n",
         "light --as 'eye | divider 10 kohm above, full 4095 | power' -p 90lx -p 900lx",
         "signal light = eye | divider 10 kohm above, full 4095 | power 2"},
    };
    char *folder = make_folder();
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *text = g_strconcat("rig x\ntick 20 ms\n", cases[i].rig, NULL);
        g_autofree char *call = g_strconcat("calibrate x.rig ", cases[i].call, " --place --fast", NULL);
        put_file(folder, "x.rig", text, -1);
        called c = call_tool(folder, call);
        g_autofree char *made = get_file(folder, "x.rig");
        if (c.status != 0 || !strstr(made, cases[i].line)) {
            fail_msg("%s%s%s", made, c.out, c.err);
        }
        call_done(&c);
        c = call_tool(folder, "calibrate x.rig --undo");
        g_autofree char *back = get_file(folder, "x.rig");
        assert_string_equal(back, text);
        call_done(&c);
    }
    remove_folder(folder);
}

/* Bad calls: a clear message, and the file as it was. */
static void test_bad_calls(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"calibrate", 2, "it needs FILE"},
        {"calibrate basin.rig", 2, "name the signal"},
        {"calibrate basin.rig pump", 2, "in which unit does 'pump' give?"},
        {"calibrate basin.rig level", 2, "these can be: depth (table in line 14), tide (bands in line 15)"},
        {"calibrate basin.rig dept", 2, "did you mean 'depth'?"},
        {"calibrate vane.rig heading", 2, "'wrap' changes what comes out"},
        {"calibrate basin.rig depth -p 3", 2, "it needs a unit"},
        {"calibrate basin.rig depth -p 3s", 2, "units do not go together"},
        {"calibrate basin.rig depth -p 3cm --fast", 2, "it swings"},
        {"calibrate basin.rig depth -p 3cm --place --fast", 2, "at least 2 points"},
        {"calibrate basin.rig depth -p 3cm -p 4cm=3cm --place --fast", 2, "does not tell them apart"},
        {"calibrate basin.rig depth -p 3cm -p 6cm -p 4cm=9cm --place --fast", 2, "turn back at 6 cm"},
        {"calibrate basin.rig tide -p low=2cm -p mid=2.01cm -p high=9cm --place --fast", 2, "cannot be told apart"},
        {"calibrate basin.rig tide -p low=2cm -p high=9cm --place --fast", 2, "'mid' was not captured"},
        {"calibrate basin.rig tide -p flood", 2, "no condition 'flood'"},
        {"calibrate basin.rig depth --rezero 1cm --place --fast --undo", 2, "--undo stands alone"},
        {"calibrate basin.rig --undo", 2, "nothing to take back"},
        {"calibrate basin.rig depth -p 1cm --span 0..1cm", 2, "take one of"},
        {"calibrate basin.rig depth -p 1cm --window 0s", 2, "above 0"},
        {"calibrate basin.rig depth --span 0cm --fast", 2, "what the two ends are"},
        {"calibrate basin.rig depth -p 1cm -o x.gif", 2, "end with .png"},
        {"calibrate basin.rig depth --points none.csv", 2, "none.csv"},
        {"calibrate basin.rig depth --from none -p 1cm@2s", 2, "none.json"},
        {"calibrate basin.rig x --as 'level | smooth 2 s'", 2, "leaves nothing to be measured"},
        {"calibrate basin.rig depth --as 'level | table'", 2, "there is a 'depth' in this rig already"},
        {"calibrate basin.rig x --as 'level | table' -p 3foo", 2, "'foo' is no known unit"},
        {"calibrate basin.rig x --as 'level | table' --fast", 2, "--unit"},
        {"calibrate dead.rig d -p 1cm@5s -p 2cm@9s --fast", 2, "readings were bad, mostly missing"},
        {"calibrate basin.rig depth -p 3cm -p 9cm --place --fast --dry-run", 0, "between the points: not known"},
    };
    char *folder = make_folder();
    copy_example(folder, "basin.rig");
    copy_example(folder, "vane.rig");
    put_file(
        folder, "dead.rig",
        "rig d\ntick 10 ms\nsensor s counts 0..9\nsignal d = s | line 1 cm/counts, 0 cm\nhookup sim\n    s reads 5\n"
        "    at 9.2 s s drops for 20 s\n",
        -1);
    g_autofree char *before = get_file(folder, "basin.rig");
    check_calls(folder, cases, sizeof cases / sizeof *cases);
    g_autofree char *after = get_file(folder, "basin.rig");
    assert_string_equal(before, after);
    remove_folder(folder);
}

/* Without a person: pairs from a file, marks of a recording, a dialogue on standard input, moving, spanning, bands. */
static void test_without_a_person(void **unused)
{
    (void)unused;
    static const call_case cases[] = {
        {"calibrate basin.rig depth --points pairs.csv --json", 0, "\"stage\": \"table\""},
        {"calibrate basin.rig depth --points bad.csv", 2, "bad.csv: row 2"},
        {"run tide.rig --for 25s --fast --quiet --record tide", 0, "3 firings"},
        {"calibrate tide.rig depth --from tide", 0, "table 503: 2 cm, 1510: 6 cm, 3020: 12 cm"},
        {"calibrate tide.rig depth --from tide -p 2cm@8s -p '6cm@6 cm'", 0, "table 503: 2 cm, 1510: 6 cm"},
        {"calibrate tide.rig depth --from tide -p 2cm@8s -p 6cm@99s", 2, "the readings end at 24.98 s"},
        {"calibrate basin.rig depth --rezero 5cm=6cm --place --fast", 0, "table 536: 0 cm"},
        {"calibrate warm.rig warmth --points warm.csv", 0, "steinhart 0.001118, 0.0002359, 8.12e-08"},
        {"calibrate warm.rig hot --points warm.csv", 0, "off by"},
        {"calibrate warm.rig warmth --points counts.csv --dry-run", 0, "1  0 degC      32.75 kohm"},
        {"calibrate warm.rig warmth --points beyond.csv --dry-run", 2, "row 2: '5000': 's' cannot read 5000"},
        {"calibrate warm.rig warmth --points rail.csv --dry-run", 2, "what goes in is out of range"},
        {"calibrate vane.rig rate --points beyond.csv --dry-run", 2, "goes by what it has learned"},
        {"calibrate basin.rig depth --span 0..12cm --fast", 0, "table "},
        {"calibrate boiler.rig warmth -p 20degC -p 80degC -p 95degC --place --fast", 0, "2667 counts         80 degC"},
        {"calibrate feeder.rig left -p 2portions -p 9portions --place --fast", 0, "530.2 counts        8.999 portions"},
        {"calibrate basin.rig tide -p low=2cm -p mid=5cm -p high=9cm --place --fast", 0, "margin 0."},
        {"calibrate basin.rig depth -p 1cm -p 6cm -p 11cm --place --fast -o fit.png", 0, "basin.rig is written"},
    };
    char *folder = make_folder();
    copy_example(folder, "basin.rig");
    put_file(folder, "pairs.csv", "read,known\r\n312,0 cm\r\n1650,6 cm\r\n3020,120 mm\r\n", -1);
    put_file(folder, "warm.csv", "32.65 kohm,0 degC\n10 kohm,25 degC\n3.603 kohm,50 degC\n1.075 kohm,85 degC\n", -1);
    put_file(folder, "counts.csv", "3137,0 degC\n2048 counts,25 degC\n1084,50 degC\n397.5,85 degC\n", -1);
    put_file(folder, "beyond.csv", "3137,0 degC\n5000,25 degC\n", -1);
    put_file(folder, "rail.csv", "4095,0 degC\n", -1);
    copy_example(folder, "vane.rig");
    copy_example(folder, "boiler.rig");
    copy_example(folder, "feeder.rig");
    put_file(folder, "warm.rig",
             "rig warm\ntick 20 ms\nsensor s counts 0..4095\n"
             "signal warmth = s | divider 10 kohm above, full 4095 | steinhart 1e-3, 2e-4, 1e-7\n"
             "signal hot = s | divider 10 kohm above, full 4095 | beta 3000 K, 5 kohm at 25 degC\n"
             "hookup sim\n    s reads 2000\n",
             -1);
    put_file(folder, "bad.csv", "312,0 cm\n1650\n", -1);
    put_file(folder, "tide.rig",
             "rig tide\ntick 20 ms\nsensor level counts 0..4095\nsignal depth = level | table 0: 0 cm, 4095: 10 cm\n"
             "on level goes above 500 counts\n    mark \"2 cm\"\non level goes above 1506 counts\n    mark \"6 cm\"\n"
             "on level goes above 3016 counts\n    mark \"12 cm\"\nhookup sim\n    tank basin: height 20 cm\n"
             "    level sees basin depth: 0 at 0 cm, 3020 at 12 cm, noise 1\n    at 5 s basin placed 2 cm\n"
             "    at 10 s basin placed 6 cm\n    at 15 s basin placed 12 cm\n",
             -1);
    check_calls(folder, cases, sizeof cases / sizeof *cases);
    g_autofree char *picture = g_build_filename(folder, "fit.png", NULL);
    assert_true(g_file_test(picture, G_FILE_TEST_EXISTS));
    remove_folder(folder);
}

/* ---- a person -------------------------------------------------------------------------------------- */

/* As a person does, who types it once more when the mechanism has not come to rest yet, as may be on a slow machine. */
static void person_captures(person *p, const char *typed, const char *taken)
{
    static const char refused[] = "is not taken: what goes in has not settled";
    for (int tries = 0; tries < 20; tries++) {
        person_types(p, typed);
        for (int n = 0; n < 400 && !strstr(p->seen->str, taken) && !strstr(p->seen->str, refused); n++) {
            person_looks_on(p, 50);
        }
        if (!strstr(p->seen->str, refused)) {
            break;
        }
        person_waits(p, refused);
    }
    person_waits(p, taken);
}

static void test_dialogue(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    copy_example(folder, "basin.rig");
    g_autofree char *before = get_file(folder, "basin.rig");
    person p = person_call(folder, "calibrate basin.rig depth --window 400ms");
    person_waits(&p, "type what that is");
    person_waits(&p, "level ");
    person_waits(&p, "counts ±");
    person_types(&p, "place 2 cm\n");
    person_waits(&p, "bringing it to 2 cm: ");
    person_waits(&p, "placed at 2 cm");
    person_types(&p, "2\n");
    person_waits(&p, "it needs a unit; known values of 'depth' are in cm");
    person_captures(&p, "2 cm\n", "  1  2 cm ");
    person_types(&p, "place 8 cm\n");
    person_waits(&p, "placed at 8 cm");
    person_captures(&p, "7 cm\n", "  2  7 cm ");
    person_types(&p, "back\n");
    person_waits(&p, "point 2 is taken back; there is 1");
    person_types(&p, "done\n");
    person_waits(&p, "needs at least 2 points");
    person_captures(&p, "8 cm\n", "  2  8 cm ");
    person_types(&p, "done\n");
    person_waits(&p, "line 14");
    person_waits(&p, "write this into basin.rig?");
    person_types(&p, "perhaps\n");
    person_waits(&p, "type 'yes' or 'no'");
    person_types(&p, "yes\n");
    person_waits(&p, "basin.rig is written");
    assert_int_equal(person_leaves(&p, NULL), 0);
    g_autofree char *after = get_file(folder, "basin.rig");
    assert_says(after, ": 2 cm, 2");
    assert_says(after, ": 8 cm, clamped | smooth 200 ms\nbands ");
    called c = call_tool(folder, "calibrate basin.rig --undo");
    g_autofree char *back = get_file(folder, "basin.rig");
    assert_string_equal(back, before);
    call_done(&c);
    remove_folder(folder);
}

/* An actuator's portions by trial: driven for the times that a person says, on the simulated mechanism, which says what
 * came of it; written, and taken back. */
static void test_trials(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    copy_example(folder, "feeder.rig");
    g_autofree char *before = get_file(folder, "feeder.rig");
    person p = person_call(folder, "calibrate feeder.rig auger --fast");
    person_waits(&p, "driven with 100 %");
    person_waits(&p, "for how long? ");
    person_types(&p, "3\n");
    person_waits(&p, "it needs a unit; write a time");
    person_types(&p, "1 s\n");
    person_waits(&p, "given +0.938");
    person_waits(&p, "how many portions came out? ");
    person_types(&p, "a few\n");
    person_waits(&p, "write how many portions came out");
    person_waits(&p, "for how long? ");
    person_types(&p, "1 s\n");
    person_waits(&p, "how many portions came out? ");
    person_types(&p, "0.94 portions\n");
    person_waits(&p, "for how long? ");
    person_types(&p, "200 ms\n");
    person_waits(&p, "given 0");
    person_types(&p, "0\n");
    person_waits(&p, "for how long? ");
    person_types(&p, "3 s\n");
    person_waits(&p, "given +3.437");
    person_types(&p, "3.44\n");
    person_waits(&p, "for how long? ");
    person_types(&p, "done\n");
    person_waits(&p, "3 trials: 1 portions in 0.8 s, after 0.248 s");
    person_waits(&p, "feeder.rig is written");
    assert_int_equal(person_leaves(&p, NULL), 0);
    g_autofree char *after = get_file(folder, "feeder.rig");
    assert_says(after, "gives 1 portions in 800 ms after 248 ms, longest 6 s");
    called c = call_tool(folder, "calibrate feeder.rig --undo");
    g_autofree char *back = get_file(folder, "feeder.rig");
    assert_string_equal(back, before);
    call_done(&c);
    remove_folder(folder);
}

/* Ctrl-C at any prompt, also in the middle of a capture; the terminal as it was; the end of input. */
static void test_interrupts(void **unused)
{
    (void)unused;
    static const char *const at[] = {"\x03", "2 cm\x03", "2 cm\n\x03", "\x04", "quit\n"};
    char *folder = make_folder();
    copy_example(folder, "basin.rig");
    g_autofree char *before = get_file(folder, "basin.rig");
    for (size_t i = 0; i < sizeof at / sizeof *at; i++) {
        char *left = NULL;
        person p = person_call(folder, "calibrate basin.rig depth --window 30s");
        person_waits(&p, "counts ±");
        person_types(&p, at[i]);
        assert_int_equal(person_leaves(&p, &left), 0);
        assert_says(left, "basin.rig is as it was");
        g_free(left);
    }
    g_autofree char *after = get_file(folder, "basin.rig");
    assert_string_equal(before, after);
    remove_folder(folder);
}

/* Whoever else writes to the file wins; a file that must not be written is not, and a link stays a link. */
static void test_file_safety(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    copy_example(folder, "basin.rig");
    person p = person_call(folder, "calibrate basin.rig depth --fast");
    person_waits(&p, "> ");
    person_types(&p, "place 2 cm\n2 cm\nplace 8 cm\n8 cm\ndone\n");
    person_waits(&p, "write this into basin.rig?");
    g_autofree char *text = get_file(folder, "basin.rig");
    g_autofree char *changed = g_strconcat("# mine\n", text, NULL);
    put_file(folder, "basin.rig", changed, -1);
    person_types(&p, "yes\n");
    person_waits(&p, "changed by someone else meanwhile");
    assert_int_equal(person_leaves(&p, NULL), 2);
    g_autofree char *after = get_file(folder, "basin.rig");
    assert_string_equal(after, changed);

    g_autofree char *path = g_build_filename(folder, "basin.rig", NULL),
                    *link = g_build_filename(folder, "l.rig", NULL);
    assert_int_equal(g_chmod(path, 0444), 0);
    const char *call = "calibrate l.rig depth -p 1cm -p 6cm -p 11cm --place --fast";
    assert_int_equal(symlink("basin.rig", link), 0);
    called c = call_tool(folder, call);
    assert_int_equal(c.status, 2);
    assert_says(c.err, "is read-only");
    call_done(&c);
    assert_int_equal(g_chmod(path, 0640), 0);
    c = call_tool(folder, call);
    assert_int_equal(c.status, 0);
    call_done(&c);
    GStatBuf is;
    assert_true(g_file_test(link, G_FILE_TEST_IS_SYMLINK));
    assert_int_equal(g_stat(path, &is), 0);
    assert_int_equal(is.st_mode & 0777, 0640);

    /* The way back holds while its line stands, wherever it has moved to. */
    g_autofree char *written = get_file(folder, "basin.rig");
    g_autofree char *moved = g_strconcat("# one line more\n", written, NULL);
    put_file(folder, "basin.rig", moved, -1);
    c = call_tool(folder, "calibrate basin.rig --undo");
    g_autofree char *back = get_file(folder, "basin.rig");
    g_autofree char *wanted = g_strconcat("# one line more\n", changed, NULL);
    assert_string_equal(back, wanted);
    call_done(&c);
    remove_folder(folder);
}

/* Changes are taken back one by one, the newest first; one whose line was touched since says what stood there. */
static void test_undo(void **unused)
{
    (void)unused;
    static const char *const calls[] = {"calibrate basin.rig depth -p 1cm -p 6cm -p 11cm --place --fast",
                                        "calibrate basin.rig tide -p low=2cm -p mid=5cm -p high=9cm --place --fast",
                                        "calibrate basin.rig depth --rezero 5cm=6cm --place --fast"};
    enum { CALLS = 3 };
    char *folder = make_folder(), *text[CALLS + 1];
    copy_example(folder, "basin.rig");
    text[0] = get_file(folder, "basin.rig");
    for (int i = 0; i < CALLS; i++) {
        called c = call_tool(folder, calls[i]);
        assert_int_equal(c.status, 0);
        call_done(&c);
        text[i + 1] = get_file(folder, "basin.rig");
        assert_string_not_equal(text[i + 1], text[i]);
    }
    for (int i = CALLS; i > 0; i--) {
        called c = call_tool(folder, "calibrate basin.rig --undo");
        g_autofree char *now = get_file(folder, "basin.rig");
        assert_int_equal(c.status, 0);
        assert_string_equal(now, text[i - 1]);
        call_done(&c);
    }
    called c = call_tool(folder, calls[0]);
    call_done(&c);
    g_autofree char *written = get_file(folder, "basin.rig");
    char *smooth = strstr(written, "smooth 200 ms");
    memcpy(smooth, "smooth 300 ms", strlen("smooth 300 ms"));
    put_file(folder, "basin.rig", written, -1);
    c = call_tool(folder, "calibrate basin.rig --undo");
    assert_int_equal(c.status, 2);
    assert_says(c.err, "was changed since");
    assert_says(c.err, "table 312: 0 cm, 1650: 6 cm, 3020: 12 cm");
    g_autofree char *after = get_file(folder, "basin.rig");
    assert_string_equal(after, written);
    call_done(&c);
    for (int i = 0; i <= CALLS; i++) {
        g_free(text[i]);
    }
    remove_folder(folder);
}

/* A number that the setting can be, and that does not stand there. */
static double another(const rgp_loop_setting *s)
{
    const double wanted = s->place.value > 0.0 ? 0.75 * s->place.value : 0.5;
    return fmin(fmax(wanted, s->low), s->high);
}

/* One setting at a time, in its place: the text compiles and says it, and all others say what they did. */
static void check_loop_settings(const char *text, const char *loop)
{
    rgp_loop_setting before[RGP_LOOP_SETTINGS_MAX], after[RGP_LOOP_SETTINGS_MAX];
    rgp_rig *rig = rgp_rig_compile("t.rig", text, strlen(text), rgp_sim_catalog());
    const uint32_t count = rgp_rig_loop_settings(rig, loop, before);
    assert_in_range(count, 6, RGP_LOOP_SETTINGS_MAX);
    for (uint32_t i = 0; i < count; i++) {
        const rgp_place *const place = &before[i].place;
        const double number = another(&before[i]);
        const char *made = rgp_edit_places(rig, &place, &number, 1);
        rgp_rig *again = rgp_rig_compile("t.rig", made, strlen(made), rgp_sim_catalog());
        if (!again->image) { /* what stands alone is about nothing */
            assert_string_equal(before[i].name, "cut out for");
            rgp_rig_free(again);
            continue;
        }
        const uint32_t found = rgp_rig_loop_settings(again, loop, after);
        assert_true(found >= count);
        for (uint32_t k = 0; k < count; k++) {
            assert_string_equal(after[k].name, before[k].name);
            assert_true(fabs(after[k].place.value - (k == i ? number : before[k].place.value)) <= 1e-8 * number);
        }
        rgp_rig_free(again);
    }
    rgp_rig_free(rig);
}

static void test_loop_settings(void **unused)
{
    (void)unused;
    static const char *const cases[][2] = {{"boiler.rig", "steam"},         {"boiler_onoff.rig", "steam"},
                                           {"boiler_predict.rig", "steam"}, {"ferry.rig", "level"},
                                           {"mast.rig", "upright"},         {"pointer.rig", "point"}};
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", cases[i][0]);
        g_auto(GStrv) lines = g_strsplit(text, "\n", -1);
        g_autofree char *crlf = g_strjoinv("\r\n", lines);
        check_loop_settings(text, cases[i][1]);
        check_loop_settings(crlf, cases[i][1]);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_fits_against_numpy),
        cmocka_unit_test(test_conditions),
        cmocka_unit_test(test_condition_that_drifts),
        cmocka_unit_test(test_edits),
        cmocka_unit_test(test_loop_settings),
        cmocka_unit_test(test_new_lines),
        cmocka_unit_test(test_from_raw_sensors),
        cmocka_unit_test(test_bad_calls),
        cmocka_unit_test(test_without_a_person),
        cmocka_unit_test(test_dialogue),
        cmocka_unit_test(test_trials),
        cmocka_unit_test(test_interrupts),
        cmocka_unit_test(test_file_safety),
        cmocka_unit_test(test_undo),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
