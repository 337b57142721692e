/* The tries of a loop as a picture: a column for each sort of test, in it what was measured above and what was driven
 * below, one colour a try. */
#include "tool/picture.h"
#include "tune.h"

#include "analysis/figures/gnuplot.h"

#include <gio/gio.h>
#include <math.h>
#include <string.h>

#define WIDTH       1280u
#define HEIGHT      800u
#define COLUMNS     3u
#define POINTS_MOST 2000u
#define STRONG_MOST 4u
#define BEFORE_PART 10u /* of a test's time, that is shown before it */

/* Colours that differ for all eyes (Okabe and Ito, 2008). */
static const char *const colours[] = {"#999999", "#0072B2", "#D55E00", "#009E73", "#CC79A7", "#E69F00", "#56B4E9"};

static bool same_test(const tune_try *a, const tune_try *b)
{
    return a->test == b->test && (a->test == TUNE_DISTURB ? a->disturbance == b->disturbance : a->size == b->size);
}

/* One that was never begun has nothing to show. */
static bool was_begun(const tune_try *one)
{
    return one->rows->len > one->before + 2;
}

/* The first try of each sort of test that was begun. */
static guint find_tests(const tuning *t, guint *first)
{
    guint count = 0;
    for (guint i = 0; i < t->tries->len && count < COLUMNS; i++) {
        guint k = was_begun(tune_try_at(t, i)) ? 0 : COLUMNS;
        while (k < count && !same_test(tune_try_at(t, first[k]), tune_try_at(t, i))) {
            k++;
        }
        if (k == count) {
            first[count++] = i;
        }
    }
    return count;
}

static void put_rows(const tune_try *one, guint number, GString *script)
{
    const rgp_response_row *row = (const void *)one->rows->data;
    const double begin = one->rows->len > one->before ? row[one->before].time : 0.0;
    const guint step = one->rows->len / POINTS_MOST + 1;
    g_string_append_printf(script, "$try%u << EOD\n", number);
    const guint shown =
        one->before - MIN(one->before, (one->rows->len - MIN(one->rows->len, one->before)) / BEFORE_PART);
    for (guint i = shown; i < one->rows->len; i += step) {
        if (row[i].usable) {
            g_string_append_printf(script, "%.6g %.6g %.6g %.6g\n", row[i].time - begin, row[i].measured, row[i].target,
                                   row[i].output);
        }
    }
    g_string_append(script, "0 NaN NaN NaN\nEOD\n");
}

/* The try whose setpoint is drawn: the last one that was not broken off. */
static guint last_whole(const tuning *t, guint first)
{
    guint last = first;
    for (guint i = first; i < t->tries->len; i++) {
        const tune_try *one = tune_try_at(t, i);
        last = !one->stopped && same_test(tune_try_at(t, first), one) ? i : last;
    }
    return last;
}

/* The better of two tries of one test: one that settled, sooner; else one that was not broken off, by less error. */
static bool is_better(const tune_try *a, const tune_try *b)
{
    const bool whole[2] = {!a->stopped, !b->stopped};
    if (!whole[0] || !whole[1]) {
        return whole[0] && !whole[1];
    }
    const bool settled[2] = {a->response.verdict == RGP_VERDICT_SETTLED, b->response.verdict == RGP_VERDICT_SETTLED};
    if (settled[0] != settled[1]) {
        return settled[0];
    }
    return settled[0] ? a->response.settling < b->response.settling : a->response.iae < b->response.iae;
}

/* One of the few that are drawn strongly, with their names: all of few tries, the best of many. */
static bool is_strong(const tuning *t, guint i)
{
    guint better = 0;
    for (guint k = 0; k < t->tries->len; k++) {
        const tune_try *other = tune_try_at(t, k);
        better +=
            k != i && same_test(tune_try_at(t, i), other) && was_begun(other) && is_better(other, tune_try_at(t, i));
    }
    return better < STRONG_MOST;
}

static void put_curve(const tuning *t, guint i, guint colour, const char *what, bool titled, GString *script)
{
    const tune_try *one = tune_try_at(t, i);
    const bool strong = is_strong(t, i);
    g_string_append_printf(script, "$try%u using 1:%s with lines linewidth %s linecolor rgb '%s' ", i, what,
                           strong ? "2" : "1", strong ? colours[colour % G_N_ELEMENTS(colours)] : "#D8D8D8");
    if (!titled || !strong) {
        g_string_append(script, "notitle");
        return;
    }
    g_autofree char *gains = tune_gains_text(t, one->gain), *verdict = tune_verdict_text(t, one);
    g_autofree char *label = g_strdup_printf("%u: %s: %s", i + 1, gains, verdict);
    g_string_append(script, "title ");
    gnuplot_quote(script, label);
}

/* The faint ones first, so that they lie below. */
static void put_curves(const tuning *t, guint first, const char *what, GString *script)
{
    const tune_try *like = tune_try_at(t, first);
    const bool measured = strcmp(what, "2") == 0;
    const char *separator = "plot ";
    if (measured) {
        g_string_append_printf(script,
                               "%s$try%u using 1:3 with lines dashtype 2 linecolor rgb 'black' title 'setpoint'",
                               separator, last_whole(t, first));
        separator = ", ";
    }
    for (int strong = 0; strong < 2; strong++) {
        for (guint i = 0, colour = 0; i < t->tries->len; i++) {
            const tune_try *one = tune_try_at(t, i);
            const bool shown = same_test(like, one) && was_begun(one);
            if (shown && is_strong(t, i) == (strong == 1)) {
                g_string_append(script, separator);
                put_curve(t, i, colour, what, measured, script);
                separator = ", ";
            }
            colour += shown && is_strong(t, i);
        }
    }
    g_string_append_c(script, '\n');
}

bool tune_draw(const tuning *t, const char *path, GError **error)
{
    guint first[COLUMNS];
    const guint tests = find_tests(t, first);
    if (tests == 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: nothing to draw: no test was begun", path);
        return false;
    }
    g_autoptr(GString) script = g_string_new(NULL);
    gnuplot_head(script, path, WIDTH, HEIGHT);
    for (guint i = 0; i < t->tries->len; i++) {
        put_rows(tune_try_at(t, i), i, script);
    }
    g_autofree char *name = g_strdup_printf("%s: %s", rgp_image_text(t->image, RGP_NAME_RIG, 0, 0), t->name);
    g_string_append_printf(script, "set multiplot layout 2,%u columnsfirst title ", tests);
    gnuplot_quote(script, name);
    g_string_append(script,
                    " noenhanced font ',15'\n"
                    "set grid linecolor rgb '#E4E4E4' linetype 1 linewidth 1\nset key below Left reverse maxcols 1 "
                    "noenhanced font ',9'\nset border 3\n"
                    "set tics nomirror\nset lmargin 10\nset rmargin 3\n");
    for (guint k = 0; k < tests; k++) {
        g_autofree char *title = tune_test_text(t, tune_try_at(t, first[k]));
        g_string_append(script, "set title ");
        gnuplot_quote(script, title);
        g_string_append(script, " noenhanced\nset xlabel ''\n");
        gnuplot_label(script, "ylabel", "measured",
                      rgp_image_unit(t->image, RGP_NAME_SLOT, t->is->first + RGP_TERM_TARGET, 0));
        put_curves(t, first[k], "2", script);
        g_string_append(script, "set title ''\nset xlabel 'seconds since the test'\n");
        gnuplot_label(script, "ylabel", "driven", t->drive_unit);
        put_curves(t, first[k], "4", script);
    }
    g_string_append(script, "unset multiplot\n");
    return picture_run(script, path, error);
}
