/* Three panels: distributions with the limit, the trade-off, firings in time. */
#include "threshold_figure.h"

#include "gnuplot.h"

#include <math.h>

enum { WIDTH = 1280, HEIGHT = 800, BINS = 60, POINTS = 240 };

#define IDLE_COLOR  "#0072B2"
#define EVENT_COLOR "#D55E00"
#define LIMIT_COLOR "#000000"
#define FALSE_COLOR "#CC79A7"

typedef struct threshold_drawing {
    const rgp_threshold_study *s;
    const rgp_trigger_scores *scores;
    double sign, low, high; /* the range of limits, in the signal's unit */
    GString *to;
} drawing;

/* From the lowest piece of idle time to the highest event, with some room. */
static void find_range(drawing *d)
{
    double low = (double)INFINITY, high = -(double)INFINITY;
    for (guint i = 0; i < d->s->labels->piece->len + d->s->labels->event->len; i++) {
        const guint pieces = d->s->labels->piece->len;
        const double score = i < pieces ? d->scores->piece[i] : d->scores->event[i - pieces];
        if (isfinite(score)) {
            low = fmin(low, d->sign * score);
            high = fmax(high, d->sign * score);
        }
    }
    const double room = high > low ? 0.04 * (high - low) : 1.0;
    d->low = low - room;
    d->high = high + room;
}

/* ---- the distributions ----------------------------------------------------------------------------- */

static void put_shares(const drawing *d, const char *name, const double *score, guint count)
{
    guint in[BINS] = {0};
    for (guint i = 0; i < count; i++) {
        const double at = (d->sign * score[i] - d->low) / (d->high - d->low);
        if (at >= 0.0 && at < 1.0) {
            in[(guint)(at * BINS)]++;
        }
    }
    g_string_append_printf(d->to, "$%s << EOD\n", name);
    for (guint i = 0; i < BINS; i++) {
        g_string_append_printf(d->to, "%.9g %.6g\n", d->low + (i + 0.5) * (d->high - d->low) / BINS,
                               count > 0 ? 100.0 * in[i] / count : 0.0);
    }
    g_string_append(d->to, "EOD\n");
}

static void put_limit(const drawing *d, double height)
{
    const rgp_trigger *t = &d->s->chosen.trigger;
    g_string_append_printf(
        d->to,
        "set arrow 1 from first %.9g,graph 0 to first %.9g,graph 1 nohead linewidth 1.6 linecolor rgb "
        "'" LIMIT_COLOR "'\n",
        (double)t->limit, (double)t->limit);
    g_string_append_printf(d->to,
                           "set label 1 \"limit %.6g\" at first %.9g,graph %.2f offset character 0.7,0 noenhanced\n",
                           (double)t->limit, (double)t->limit, height);
    if (d->s->present.value) {
        g_string_append_printf(d->to,
                               "set arrow 2 from first %.9g,graph 0 to first %.9g,graph 1 nohead dashtype 2 linecolor "
                               "rgb '#888888'\nset label 2 \"in the text\" at first %.9g,graph %.2f offset "
                               "character 0.7,0 textcolor rgb '#666666'\n",
                               (double)d->s->present.trigger.limit, (double)d->s->present.trigger.limit,
                               (double)d->s->present.trigger.limit, height - 0.1);
    }
}

static void put_title(const drawing *d)
{
    const rgp_threshold_study *s = d->s;
    g_autofree char *title = g_strdup_printf(s->chosen.trigger.above ? "%s: the highest in 2 s of '%s' and in each '%s'"
                                                                     : "%s: the lowest in 2 s of '%s' and in each '%s'",
                                             s->chosen.value, s->labels->idle_name, s->labels->event_name);
    g_string_append(d->to, "set title ");
    gnuplot_quote(d->to, title);
    g_string_append(d->to, " font ',14' noenhanced\n");
}

static void put_x(const drawing *d)
{
    g_autofree char *label = gnuplot_titled(d->s->chosen.value, d->s->chosen.unit);
    g_string_append(d->to, "set xlabel ");
    gnuplot_quote(d->to, label);
    g_string_append_printf(d->to, " noenhanced\nset xrange [%.9g:%.9g]\n", d->low, d->high);
}

static void put_distributions(const drawing *d)
{
    put_title(d);
    put_x(d);
    g_string_append(d->to, "unset xlabel\n");
    put_limit(d, 0.92);
    g_string_append(d->to, "set ylabel \"share [%]\"\nset yrange [0:*]\nset key top right\n"
                           "set style fill solid 0.55 noborder\n"
                           "plot $idle using 1:2 with boxes linecolor rgb '" IDLE_COLOR "' title ");
    gnuplot_quote(d->to, d->s->labels->idle_name);
    g_string_append(d->to, " noenhanced, $event using 1:2 with boxes linecolor rgb '" EVENT_COLOR "' title ");
    gnuplot_quote(d->to, d->s->labels->event_name);
    g_string_append(d->to, " noenhanced\n");
}

/* ---- the trade-off --------------------------------------------------------------------------------- */

static void put_costs(const drawing *d)
{
    const rgp_labels *l = d->s->labels;
    const double hours = l->piece->len * RGP_PIECE_S / 3600.0;
    g_string_append(d->to, "$cost << EOD\n");
    for (guint i = 0; i <= POINTS; i++) {
        const double limit = d->low + (d->high - d->low) * i / POINTS;
        guint falses = 0, missed = 0;
        for (guint k = 0; k < l->piece->len; k++) {
            falses += d->scores->piece[k] > d->sign * limit;
        }
        for (guint k = 0; k < l->event->len; k++) {
            missed += !(d->scores->event[k] > d->sign * limit);
        }
        g_string_append_printf(d->to, "%.9g %.6g %.6g\n", limit, hours > 0.0 ? falses / hours : 0.0,
                               l->event->len > 0 ? 100.0 * missed / l->event->len : 0.0);
    }
    g_string_append(d->to, "EOD\n");
}

static void put_trade_off(const drawing *d)
{
    put_x(d);
    put_limit(d, 0.5);
    g_string_append(d->to,
                    "set title \"what each limit lets through and misses, as recorded (all of it)\" font ',14'\n"
                    "set ylabel \"2 s pieces an hour\"\nset yrange [0.5:*]\nset logscale y\nset ytics nomirror\n"
                    "set y2label \"missed [%]\"\nset y2range [-3:103]\nset y2tics\nset key bottom right\n"
                    "plot $cost using 1:($2 > 0 ? $2 : NaN) with lines linewidth 2 linecolor rgb '" IDLE_COLOR
                    "' title \"idle time beyond it\", $cost using 1:3 axes x1y2 with lines linewidth 2 dashtype '-' "
                    "linecolor rgb '" EVENT_COLOR "' title \"events missed\"\n"
                    "unset logscale y\nunset y2tics\nunset y2label\nunset arrow\nunset label\n");
}

/* ---- in time --------------------------------------------------------------------------------------- */

static double seconds_at(const rgp_labels *l, guint run, uint32_t row)
{
    return (double)rgp_recording_time_us(l->run[run], MIN(row, l->run[run]->rows - 1)) / 1e6;
}

static void put_spans(const drawing *d, const GArray *spans, const char *color, double low, double high, int *number)
{
    const rgp_labels *l = d->s->labels;
    for (guint i = 0; i < spans->len && *number < 4000; i++) {
        const rgp_rows *span = &g_array_index(spans, rgp_rows, i);
        g_string_append_printf(d->to,
                               "set object %d rectangle from %.6f,%.2f to %.6f,%.2f fillcolor rgb '%s' fillstyle solid "
                               "%.2f noborder behind\n",
                               (*number)++, seconds_at(l, span->run, span->from), span->run + low,
                               seconds_at(l, span->run, span->to), span->run + high, color, span->judges ? 0.7 : 0.3);
    }
}

static bool is_in(const GArray *spans, guint run, uint32_t row)
{
    for (guint i = 0; i < spans->len; i++) {
        const rgp_rows *span = &g_array_index(spans, rgp_rows, i);
        if (span->run == run && row >= span->from && row < span->to) {
            return true;
        }
    }
    return false;
}

/* A row a firing: its time, its recording, 1 in an event, 2 in idle time, 0 in neither. */
static void put_firings(const drawing *d)
{
    const rgp_labels *l = d->s->labels;
    g_string_append(d->to, "$fired << EOD\n");
    for (guint run = 0; run < d->s->firings->len; run++) {
        const GArray *rows = d->s->firings->pdata[run];
        for (guint i = 0; i < rows->len; i++) {
            const uint32_t row = g_array_index(rows, uint32_t, i);
            const int kind = is_in(l->event, run, row) ? 1 : is_in(l->idle, run, row) ? 2 : 0;
            g_string_append_printf(d->to, "%.6f %u %d\n", seconds_at(l, run, row), run, kind);
        }
    }
    g_string_append(d->to, "-1 -1 -1\nEOD\n");
}

static void put_time(const drawing *d)
{
    const rgp_labels *l = d->s->labels;
    double until = 0.0;
    int number = 1;
    g_string_append(d->to, "set ytics (");
    for (guint run = 0; run < l->runs; run++) {
        until = fmax(until, seconds_at(l, run, l->run[run]->rows));
        g_autofree char *name = g_path_get_basename(l->run[run]->name);
        g_string_append(d->to, run > 0 ? ", " : "");
        gnuplot_quote(d->to, name);
        g_string_append_printf(d->to, " %.2f", run + 0.4);
    }
    g_string_append(d->to, ") noenhanced\n");
    put_spans(d, l->block, IDLE_COLOR, 0.05, 0.3, &number);
    put_spans(d, l->event, EVENT_COLOR, 0.05, 0.3, &number);
    g_string_append_printf(
        d->to,
        "set title \"when it fires, below what was marked (darker: it judges)\" left font ',14' offset graph -0.5,0\n"
        "set xlabel \"time [s]\"\nset xrange [0:%.6f]\nset yrange [%u:0]\nunset ylabel\n"
        "set key at graph 1,1.02 right bottom horizontal\n"
        "plot $fired using ($3 == 1 ? $1 : NaN):($2 + 0.55) with points pointtype 7 pointsize 0.9 "
        "linecolor rgb '" EVENT_COLOR "' title \"in an event\", "
        "$fired using ($3 == 2 ? $1 : NaN):($2 + 0.55) with points pointtype 5 pointsize 1.1 "
        "linecolor rgb '" FALSE_COLOR "' title \"false\", "
        "$fired using ($3 == 0 ? $1 : NaN):($2 + 0.55) with points pointtype 6 pointsize 0.9 "
        "linecolor rgb '#888888' title \"unmarked\"\n",
        until, l->runs);
}

GString *rgp_threshold_script(const rgp_threshold_study *s, const char *path)
{
    drawing d = {.s = s,
                 .scores = rgp_finding_scores(&s->widths, &s->chosen),
                 .sign = s->chosen.trigger.above ? 1.0 : -1.0,
                 .to = g_string_new(NULL)};
    find_range(&d);
    gnuplot_head(d.to, path, WIDTH, HEIGHT);
    put_shares(&d, "idle", d.scores->piece, s->labels->piece->len);
    put_shares(&d, "event", d.scores->event, s->labels->event->len);
    put_costs(&d);
    put_firings(&d);
    g_string_append(d.to, "set grid linecolor rgb '#E4E4E4' linetype 1\nset border 3 linecolor rgb '#666666'\n"
                          "set tics nomirror textcolor rgb '#333333'\nset multiplot\n"
                          "set lmargin at screen 0.08\nset rmargin at screen 0.93\n"
                          "set tmargin at screen 0.94\nset bmargin at screen 0.71\n");
    put_distributions(&d);
    g_string_append(d.to, "set tmargin at screen 0.615\nset bmargin at screen 0.40\n");
    put_trade_off(&d);
    g_string_append(d.to, "set tmargin at screen 0.25\nset bmargin at screen 0.09\n");
    put_time(&d);
    g_string_append(d.to, "unset multiplot\n");
    return d.to;
}
