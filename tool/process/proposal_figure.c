/* A proposal as a picture: what is measured and driven after a step and after a push, predicted with its band, with the
 * gains that stand in the file, and as it was when it was tried. */
#include "proposal.h"

#include "analysis/figures/gnuplot.h"

#include <math.h>

enum { WIDTH = 1280, HEIGHT = 800, POINTS = 1500 };

static const char *const names[PROPOSAL_SIDES] = {"suggested", "as it stands"};
static const char *const colors[PROPOSAL_SIDES] = {"#0072B2", "#999999"};

static void put_rehearsed(GString *to, const rgp_rehearsed *r, int side, int test)
{
    const uint32_t stride = 1 + r->rows / POINTS;
    g_string_append_printf(to, "$side%d%d << EOD\n", side, test);
    for (uint32_t i = r->before - r->before / 4; i < r->rows; i += stride) {
        const rgp_spread *y = &r->measured[i], *u = &r->driven[i];
        g_string_append_printf(to, "%.6g %.6g %.6g %.6g %.6g %.6g %.6g\n", ((double)i - r->before) * r->tick, y->low,
                               y->median, y->high, u->low, u->median, u->high);
    }
    g_string_append(to, "EOD\n");
}

/* One that was broken off before it began has nothing to show. */
static bool is_shown(const tune_try *one)
{
    return one && one->rows->len > one->before + 2;
}

/* As differences from the setpoint before the test. */
static void put_tried(GString *to, const tune_try *one, int test)
{
    const rgp_response_row *row = (const void *)one->rows->data;
    const guint stride = 1 + one->rows->len / POINTS, first = one->before - MIN(one->before, one->rows->len / 20);
    const double begin = row[one->before].time, from = row[one->before - MIN(one->before, 1)].target;
    g_string_append_printf(to, "$tried%d << EOD\n", test);
    for (guint i = first; i < one->rows->len; i += stride) {
        if (row[i].usable) {
            g_string_append_printf(to, "%.6g %.6g %.6g\n", row[i].time - begin, row[i].measured - from, row[i].output);
        }
    }
    g_string_append(to, "EOD\n");
}

/* `low`: the column of the band's lower end; behind it stand the median and the upper end. */
static void put_panel(const proposal *p, GString *to, int test, int low)
{
    const bool measured = low == 2;
    g_string_append(to, "plot ");
    if (measured && test == PROPOSAL_STEP) {
        g_string_append_printf(to, "%.9g with lines dashtype 2 linecolor rgb 'black' title 'setpoint', ",
                               p->size[PROPOSAL_STEP]);
    }
    for (int side = PROPOSAL_SIDES - 1; side >= 0; side--) {
        g_string_append_printf(
            to,
            "$side%d%d using 1:%d:%d with filledcurves linecolor rgb '%s' fillstyle transparent solid "
            "0.25 noborder notitle, $side%d%d using 1:%d with lines linewidth 2 linecolor rgb '%s' "
            "title '%s'%s",
            side, test, low, low + 2, colors[side], side, test, low + 1, colors[side], names[side],
            side > 0 ? ", " : "");
    }
    if (is_shown(p->tried[test])) {
        g_string_append_printf(to,
                               ", $tried%d using 1:%d with lines linewidth 1.5 linecolor rgb '#D55E00' title 'tried'",
                               test, measured ? 2 : 3);
    }
    g_string_append_c(to, '\n');
}

GString *proposal_script(const proposal *p, const char *path)
{
    GString *to = g_string_new(NULL);
    gnuplot_head(to, path, WIDTH, HEIGHT);
    for (int test = 0; test < PROPOSAL_TESTS; test++) {
        for (int side = 0; side < PROPOSAL_SIDES; side++) {
            put_rehearsed(to, p->side[side].of[test], side, test);
        }
        if (is_shown(p->tried[test])) {
            put_tried(to, p->tried[test], test);
        }
    }
    g_autofree char *title = g_strdup_printf("%s: what to expect of the gains", p->s.name);
    g_string_append_printf(to, "set multiplot layout 2,%d columnsfirst title ", PROPOSAL_TESTS);
    gnuplot_quote(to, title);
    g_string_append(
        to, " noenhanced font ',15'\nset grid linecolor rgb '#E4E4E4' linetype 1 linewidth 1\nset border 3\n"
            "set tics nomirror\nset lmargin 11\nset rmargin 3\nset key bottom right opaque\nset autoscale xfix\n");
    for (int test = 0; test < PROPOSAL_TESTS; test++) {
        const bool step = test == PROPOSAL_STEP;
        const char *unit = step ? p->t.unit : p->t.drive_unit;
        g_autofree char *head =
            g_strdup_printf("a %s of %.3g%s%s", step ? "step" : "push", p->size[test], *unit ? " " : "", unit);
        g_string_append(to, "set title ");
        gnuplot_quote(to, head);
        g_string_append(to, " noenhanced\nset xlabel ''\n");
        gnuplot_label(to, "ylabel", "measured, from the setpoint", p->t.unit);
        put_panel(p, to, test, 2);
        g_string_append(to, "unset key\n");
        g_string_append(to, "set title ''\n");
        gnuplot_label(to, "xlabel", "time since then", "s");
        gnuplot_label(to, "ylabel", p->s.actuator, p->t.drive_unit);
        put_panel(p, to, test, 5);
    }
    g_string_append(to, "unset multiplot\n");
    return to;
}
