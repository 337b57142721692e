/* Thresholds from marked recordings: intervals against an independent package, the rule without the engine against the
 * engine bit for bit, scores against their definition, edits of texts, and the command on runs with known answers. */
#include "support.h"

#include "analysis/threshold.h"
#include "runtime/marks.h"

#include <math.h>
#include <string.h>

/* ---- intervals --------------------------------------------------------------------------------------- */

/* Values of SciPy 1.10 (chi2.ppf, beta.ppf). */
static void test_intervals(void **unused)
{
    (void)unused;
    rgp_interval i = rgp_rate_interval(4.0, 70.0 / 60.0, 0.95);
    assert_near(i.low, 0.9341703202511356, 1e-12);
    assert_near(i.high, 8.77850457891745, 1e-11);
    i = rgp_rate_interval(3.0, 1.0, 0.99);
    assert_near(i.low, 0.33786338872773336, 1e-12);
    assert_near(i.high, 10.977477495329765, 1e-11);
    assert_near(rgp_rate_interval(0.0, 1.0, 0.95).high, 3.6888794541139354, 1e-12);
    assert_near(rgp_exposure_for(2.0, 0.95), 3.6888794541139354 / 2.0, 1e-12);
    assert_true(isinf(rgp_rate_interval(0.0, 0.0, 0.95).high));
    for (double count = 0.0; count < 400.0; count += 0.37) { /* widened counts are not whole; none may end the tool */
        i = rgp_rate_interval(count, 1.0, 0.9833);
        assert_true(i.low <= count && i.high > count && i.high < 3.0 * count + 10.0);
    }
    i = rgp_share_interval(0, 24, 0.95);
    assert_true(i.low == 0.0);
    assert_near(i.high, 1.0 - pow(0.025, 1.0 / 24.0), 1e-12);
    i = rgp_share_interval(3, 20, 0.95);
    assert_near(i.low, 0.0320709371854637, 1e-12);
    assert_near(i.high, 0.37892682654531396, 1e-12);
    assert_true(rgp_share_interval(5, 5, 0.95).high == 1.0 && rgp_share_interval(0, 0, 0.95).high == 1.0);
}

/* Evenly spread sightings are no clumps; forty groups of five, which come by chance, are about forty. */
static void test_clumps(void **unused)
{
    (void)unused;
    double at[200], next = 0.0;
    for (int i = 0; i < 120; i++) {
        at[i] = 30.0 * i + 15.0;
    }
    const rgp_sightings even = {at, 120, 3600.0};
    assert_near(rgp_dispersion(&even), 1.0, 0.0);
    GRand *chance = g_rand_new_with_seed(5);
    for (int i = 0; i < 200; i++) {
        next += i % 5 == 0 ? 10.0 - 300.0 * log(g_rand_double(chance)) : 2.0;
        at[i] = next;
    }
    g_rand_free(chance);
    const rgp_sightings groups = {at, 200, next + 1.0};
    assert_in_range((int)rgp_dispersion(&groups), 4, 9);
    assert_in_range(rgp_clumps(&groups, 2.0), 30, 50);
    const rgp_sightings one = {at, 1, 3600.0};
    assert_int_equal(rgp_clumps(&one, 2.0), 1);
}

/* ---- a recording with known marks -------------------------------------------------------------------- */

static const char quay[] = "rig quay\ntick 20 ms\nsensor knock counts 0..4095\nactuator lamp switch, rest at off\n"
                           "param loud = 1200 counts in 100..4000 counts\n"
                           "on knock goes above loud                 # too high\n    lamp on for 1 s\n"
                           "hookup sim\n    knock plays \"in.csv\"\n";

/* Idle noise, with a higher piece now and then; after `idle_s` an event every 5 s. */
static void record_quay(const char *folder, const char *name, uint32_t seed, int idle_s, int events, int height,
                        int usual)
{
    g_autoptr(GString) csv = g_string_new("t,knock\n");
    GRand *chance = g_rand_new_with_seed(seed);
    for (int i = 0; i < (idle_s + 5 * events) * 50; i++) {
        const int at = i - idle_s * 50, in = at >= 0 ? at % 250 : -1;
        int level = usual + g_rand_int_range(chance, -60, 61);
        level += i % 700 < 10 ? g_rand_int_range(chance, 0, 150) : 0;
        level += in >= 100 && in < 130 && height > 0 ? height + g_rand_int_range(chance, -100, 101) : 0;
        if (i % 1999 == 1998) {
            g_string_append_printf(csv, "%.2f,\n", i / 50.0);
        } else {
            g_string_append_printf(csv, "%.2f,%d\n", i / 50.0, CLAMP(level, 0, 4095));
        }
    }
    g_rand_free(chance);
    put_file(folder, "in.csv", csv->str, -1);
    g_autofree char *call = g_strdup_printf("run quay.rig --fast --for %ds --record %s --overwrite --quiet",
                                            idle_s + 5 * events, name),
                    *stem = g_build_filename(folder, name, NULL);
    called c = call_tool(folder, call);
    rgp_recording *r = rgp_recording_read(stem, NULL);
    if (c.status != 0 || !r) {
        fail_msg("%s", c.err);
    }
    call_done(&c);
    rgp_mark_change put = {.what = RGP_MARK_PUT, .name = "idle", .from = 0.0, .until = idle_s};
    assert_true(rgp_mark_change_one(r, &put, NULL));
    for (int k = 0; k < events; k++) {
        put = (rgp_mark_change){
            .what = RGP_MARK_PUT, .name = "bump", .from = idle_s + 5 * k + 1.9, .until = idle_s + 5 * k + 2.8};
        assert_true(rgp_mark_change_one(r, &put, NULL));
    }
    rgp_recording_free(r);
}

static rgp_recording *read_run(const char *folder, const char *name)
{
    g_autofree char *stem = g_build_filename(folder, name, NULL);
    rgp_recording *r = rgp_recording_read(stem, NULL);
    assert_non_null(r);
    return r;
}

/* ---- without the engine, and with it ------------------------------------------------------------------ */

static rgp_rig *quay_with(const char *lines)
{
    g_autofree char *text = g_strdup_printf("rig quay\ntick 20 ms\nsensor knock counts 0..4095\n%s", lines);
    rgp_rig *rig = rgp_rig_compile("quay.rig", text, strlen(text), NULL);
    if (!rig->image) {
        fail_msg("%s", rgp_rig_report(rig));
    }
    return rig;
}

/* Limits, margins, widths and holdoffs of all sizes, above and below: the same rows. */
static void test_rule_without_engine(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "quay.rig", quay, -1);
    record_quay(folder, "run", 7, 60, 8, 700, 500);
    rgp_recording *run[] = {read_run(folder, "run")};
    const char *const name[] = {"knock"};
    GRand *chance = g_rand_new_with_seed(3);
    char text[] = "knock", unit[] = "counts";
    uint32_t fired = 0;
    for (int i = 0; i < 200; i++) {
        rgp_finding f = {.value = text, .unit = "counts", .margin_unit = unit};
        f.trigger = (rgp_trigger){g_rand_boolean(chance), (float)g_rand_int_range(chance, 420, 900),
                                  (float)g_rand_int_range(chance, 0, 80), 0.02f * (float)g_rand_int_range(chance, 0, 9),
                                  0.02f * (float)g_rand_int_range(chance, 1, 60)};
        g_autofree char *first = rgp_finding_rule(&f),
                        *lines = g_strdup_printf("%s\n    mark \"it\"\n    holdoff %.6g ms\n", first,
                                                 (double)f.trigger.holdoff_s * 1e3);
        rgp_rig *rig = quay_with(lines);
        rgp_series *series = rgp_series_of(rig, name, 1, run, 1, NULL);
        g_autoptr(GPtrArray) engine = rgp_series_firings(rig, run, 1, NULL);
        g_autoptr(GArray) without = g_array_new(FALSE, FALSE, sizeof(uint32_t));
        const rgp_values v = rgp_series_values(series, run, 0, 0);
        rgp_trigger_firings(&f.trigger, &v, without);
        const GArray *with = engine->pdata[0];
        bool same = with->len == without->len;
        for (guint k = 0; same && k < with->len; k++) {
            same = g_array_index(with, uint32_t, k) == g_array_index(without, uint32_t, k);
        }
        if (!same) {
            fail_msg("%s: %u firings with the engine, %u without", first, with->len, without->len);
        }
        fired += with->len;
        rgp_series_free(series);
        rgp_rig_free(rig);
    }
    assert_true(fired > 1000);
    g_rand_free(chance);
    rgp_recording_free(run[0]);
    remove_folder(folder);
}

/* By the definition, with all windows looked at one by one. */
static double score_of(const float *value, const rgp_rows *rows, const rgp_trigger_form *form)
{
    double best = -(double)INFINITY;
    for (uint32_t row = rows->from; row < rows->to; row++) {
        double least = (double)INFINITY;
        bool whole = row + 1 >= form->width;
        for (uint32_t k = 0; whole && k < form->width; k++) {
            const double is = form->above ? (double)value[row - k] : -(double)value[row - k];
            whole = !isnan(is);
            least = fmin(least, is);
        }
        if (whole) {
            const double first = (double)value[row + 1 - form->width];
            best = fmax(best, fmin(form->above ? first : -first, least + form->margin));
        }
    }
    return best;
}

static void test_scores(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "quay.rig", quay, -1);
    record_quay(folder, "run", 9, 60, 8, 700, 500);
    rgp_recording *run[] = {read_run(folder, "run")};
    const char *const name[] = {"knock"};
    rgp_rig *rig = quay_with("");
    rgp_series *series = rgp_series_of(rig, name, 1, run, 1, NULL);
    rgp_labels *labels = rgp_labels_of(run, 1, "idle", NULL, NULL);
    rgp_labels_split(labels, 10.0, 10.0, 0.5);
    assert_int_equal(labels->event->len, 8);
    assert_int_equal(labels->block->len, 6);
    for (uint32_t i = 0; i < 24; i++) {
        const rgp_trigger_form form = {i % 2 == 0, 1 + i % 13, i % 3 == 0 ? 0.0 : 40.0};
        rgp_trigger_scores scores;
        rgp_trigger_scores_of(series, 0, labels, &form, &scores);
        for (guint k = 0; k < labels->event->len + labels->piece->len; k++) {
            const bool event = k < labels->event->len;
            const guint n = event ? k : k - labels->event->len;
            const rgp_rows *rows = &g_array_index(event ? labels->event : labels->piece, rgp_rows, n);
            assert_near(event ? scores.event[n] : scores.piece[n], score_of(series->value[0], rows, &form), 0.0);
        }
        rgp_trigger_scores_clear(&scores);
    }
    rgp_labels_free(labels);
    rgp_series_free(series);
    rgp_rig_free(rig);
    rgp_recording_free(run[0]);
    remove_folder(folder);
}

/* ---- edits ------------------------------------------------------------------------------------------- */

typedef struct edit_case {
    const char *name, *before, *after;
} edit_case;

#define HEAD "rig q\ntick 10 ms\nsensor s counts 0..4095\nactuator lamp switch, rest at off\n"

static const edit_case edits[] = {
    {"s", HEAD "on s goes above 300 # loud\n    lamp on for 1 s # here\n",
     HEAD "on s above 320, margin 12 counts for 40 ms # loud\n    lamp on for 1 s # here\n    holdoff 250 ms\n"},
    {"6",
     HEAD "param p = 300 counts in 100..900 counts\nwhile s above p, margin 5 and lamp is off\n  lamp on for 1 s\n"
          "  holdoff 2 s\n",
     HEAD "param p = 320 counts in 100..900 counts\nwhile s above p, margin 12 for 40 ms and lamp is off\n"
          "  lamp on for 1 s\n  holdoff 0.25 s\n"},
    {"p",
     HEAD "param p = 300 counts in 100..900 counts\nbands b = s: low below p, high; margin 9\non b goes low\n"
          "    lamp on\n",
     HEAD "param p = 320 counts in 100..900 counts\nbands b = s: low below p, high; margin 12\non b goes low\n"
          "    lamp on\n"},
    {"high", HEAD "bands b = s: low, high above 300\non b goes low\n    lamp on\n",
     HEAD "bands b = s: low, high above 320; margin 12 counts\non b goes low\n    lamp on\n"},
    {"line", HEAD "signal v = s\r\non v below 300 for 1 s\r\n\tlamp on\r\n",
     HEAD "signal v = s\r\non v below 320, margin 12 counts for 0.04 s\r\n\tlamp on\r\n\tholdoff 250 ms\r\n"},
};

static void test_edits(void **unused)
{
    (void)unused;
    const rgp_threshold_numbers to = {320.0, 12.0, 0.04, 0.25};
    for (size_t i = 0; i < G_N_ELEMENTS(edits); i++) {
        rgp_rig *rig = rgp_rig_compile("q.rig", edits[i].before, strlen(edits[i].before), NULL);
        rgp_threshold found[RGP_THRESHOLDS_MAX];
        if (!rig->image) {
            fail_msg("%s", rgp_rig_report(rig));
        }
        const char *name = strcmp(edits[i].name, "line") == 0 ? "6" : edits[i].name;
        assert_int_equal(rgp_rig_thresholds(rig, name, found), 1);
        assert_near(found[0].limit.value, 300.0, 0.0);
        const char *after = rgp_edit_threshold(rig, &found[0], &to);
        assert_string_equal(after, edits[i].after);
        rgp_rig *again = rgp_rig_compile("q.rig", after, strlen(after), NULL);
        if (!again->image) {
            fail_msg("%s", rgp_rig_report(again));
        }
        rgp_rig_free(again);
        rgp_rig_free(rig);
    }
}

/* ---- the command ------------------------------------------------------------------------------------- */

static const call_case asked[] = {
    {"threshold quay.rig knock a b", 0,
     "60 events 'bump' and 30 min of 'idle' in 2 recordings; chosen by every other block"},
    {"threshold quay.rig loud a b --avoid misses", 0, "a false trigger was weighed 1, a missed event 5"},
    {"threshold quay.rig 6 a b --cost 3:2 --events 50 --json", 0, "\"events_an_hour\": 50.0"},
    {"threshold quay.rig knock a b -o t.svg", 0, "as line 6 has it: knock above 1200 counts"},
    {"threshold quay.rig knok a", 2, "there is no value 'knok'; did you mean 'knock'?"},
    {"threshold quay.rig lamp a", 2, "'lamp' is no number"},
    {"threshold quay.rig 7 a", 2, "no rule with a limit begins in line 7"},
    {"threshold quay.rig knock a --event bum", 2, "no mark is called 'bum'; did you mean 'bump'?"},
    {"threshold quay.rig knock a --idle calm", 2, "no stretch is called 'calm'"},
    {"threshold quay.rig knock a --avoid all", 2, "it takes 'false' or 'misses'"},
    {"threshold quay.rig knock a --cost 0:1", 2, "--cost 0:1"},
    {"threshold quay.rig knock a --cost 1:2 --avoid false", 2, "take one"},
    {"threshold quay.rig --write --undo", 2, "take one of the two"},
    {"threshold quay.rig knock a -o t.gif", 2, "ends with .png or .svg"},
    {"threshold quay.rig knock", 2, "it takes recordings in which idle time and events are marked"},
    {"threshold quay.rig", 2, "it takes a value, a parameter, a band or 'line N'"},
    {"threshold quay.rig knock none", 2, "none"},
    {"threshold quay.rig knock few", 1, "3 events 'bump': at least 5 are needed"},
    {"threshold quay.rig knock few", 1, "at least 8 are needed, so that half of them can judge"},
    {"threshold quay.rig knock same", 1, "'idle' and 'bump' cannot be told apart by knock"},
    {"threshold quay.rig knock a drifted", 1, "more than they wander themselves"},
    {"threshold quay.rig knock spoilt", 1, "in 'idle' there is what looks like 'bump' (15"},
    {"threshold quay.rig knock overlap", 2, "a stretch in which the event happens is not idle"},
    {"threshold other.rig deep a", 2, "holds no reading from which 'judged_0' could be made"},
};

static void put_marks(const char *folder, const char *name, const char *marks)
{
    g_auto(GStrv) line = g_strsplit(marks, "; ", 0);
    for (char **one = line; *one; one++) {
        g_autofree char *call = g_strdup_printf("mark %s %s", name, *one);
        called c = call_tool(folder, call);
        assert_int_equal(c.status, 0);
        call_done(&c);
    }
}

static void test_command(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "quay.rig", quay, -1);
    put_file(folder, "other.rig", "rig other\ntick 20 ms\nsensor deep counts 0..4095\n", -1);
    record_quay(folder, "a", 1, 900, 30, 600, 500);
    record_quay(folder, "b", 2, 900, 30, 600, 500);
    record_quay(folder, "few", 3, 50, 3, 600, 500);
    record_quay(folder, "same", 4, 200, 12, 0, 500);
    record_quay(folder, "spoilt", 5, 150, 12, 600, 500);
    put_marks(folder, "spoilt", "--remove 2; --remove 2; --remove 2; --remove 1; idle 0..165.5s");
    record_quay(folder, "overlap", 6, 100, 6, 600, 500);
    put_marks(folder, "overlap", "idle 90..108s");
    record_quay(folder, "drifted", 8, 900, 30, 600, 900);
    check_calls(folder, asked, G_N_ELEMENTS(asked));
    remove_folder(folder);
}

/* The written limit lies between idle time and the events, catches all of them on a run that was never seen, and is
 * taken back to the byte. */
static void test_written(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    put_file(folder, "quay.rig", quay, -1);
    record_quay(folder, "a", 1, 1800, 40, 600, 500);
    called c = call_tool(folder, "threshold quay.rig loud a --write");
    assert_int_equal(c.status, 0);
    assert_says(c.out, "quay.rig is written");
    assert_non_null(strstr(c.out, "  false    0 in ")); /* told of what judged it, and ... */
    assert_non_null(strstr(c.out, "  missed   0 of "));
    call_done(&c);
    c = call_tool(folder, "replay quay.rig a"); /* ... so of the whole recording, by the rule that stands in the file */
    assert_says(c.out, "now 40; ");
    call_done(&c);
    g_autofree char *text = get_file(folder, "quay.rig");
    rgp_rig *rig = rgp_rig_compile("quay.rig", text, strlen(text), NULL);
    rgp_threshold found[RGP_THRESHOLDS_MAX];
    assert_int_equal(rgp_rig_thresholds(rig, "loud", found), 1);
    assert_true(found[0].limit.value > 710.0 && found[0].limit.value < 1000.0);
    rgp_rig_free(rig);
    record_quay(folder, "unseen", 99, 300, 30, 600, 500);
    c = call_tool(folder, "list unseen");
    assert_says(c.out, "30");
    call_done(&c);
    c = call_tool(folder, "threshold quay.rig --undo");
    assert_int_equal(c.status, 0);
    call_done(&c);
    g_autofree char *back = get_file(folder, "quay.rig");
    assert_string_equal(back, quay);
    remove_folder(folder);
}

/* ---- live -------------------------------------------------------------------------------------------- */

static const call_case live[] = {
    {"threshold fender.rig shake --live --fast --script orders --event hull --record lf --bare", 1, "  hull 3: up to"},
    {"mark lf", 0, "   1     300.010 ..    420.0"},
    {"threshold fender.rig shake lf --event hull --bare", 1, "12 events 'hull' and 2 min of 'idle' in 1 recording"},
    {"threshold fender.rig shake --live --fast --script orders --record lf", 2, "lf.csv is there already"},
    {"threshold fender.rig shake --live --fast --script early --overwrite", 2,
     "line 2 of the script: 'event 3' could not be done"},
    {"threshold fender.rig shake --live --fast --script wrong --overwrite", 2,
     "line 1 of the script: 'idel 3s' could not be done"},
    {"threshold fender.rig shake --live --fast --script leaves --overwrite", 0, "recorded fender-live.csv"},
    {"threshold fender.rig shake --live --fast --overwrite --script none", 2, "none: No such file"},
    {"threshold fender.rig shake --live lf", 2, "--live makes a recording of its own"},
    {"threshold fender.rig shake lf --fast", 2, "go with --live"},
    {"threshold fender.rig shake --live --port moon", 2, "moon"},
};

/* Twelve hulls are caught behind two minutes without any; one is taken back, and another takes its place. */
static void test_live(void **unused)
{
    (void)unused;
    char *folder = make_folder();
    g_autofree char *text = get_file(RIGPULSE_SOURCE "/examples", "fender.rig");
    put_file(folder, "fender.rig", text, -1);
    put_file(folder, "orders",
             "wait 5min\nidle 2min # talk, but do not bump\nwait 3min\n\nevent 12 within 5min\nback\nevent 1\n", -1);
    put_file(folder, "early", "wait 1s\nevent 3\n", -1);
    put_file(folder, "wrong", "idel 3s\n", -1);
    put_file(folder, "leaves", "wait 1s\nlist\nhelp\nnow\nback\nquit\n", -1);
    check_calls(folder, live, G_N_ELEMENTS(live));
    remove_folder(folder);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_intervals), cmocka_unit_test(test_clumps), cmocka_unit_test(test_rule_without_engine),
        cmocka_unit_test(test_scores),    cmocka_unit_test(test_edits),  cmocka_unit_test(test_command),
        cmocka_unit_test(test_written),   cmocka_unit_test(test_live),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
