/* A loop that switches. */
#include "loop_switched.h"

#include "noise.h"

#include "explain/describe.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>

#include <math.h>

#define LEAST_ROWS  40u
#define LEAST_STAYS 4u   /* whole ones, of which two are on */
#define BOUND       0.6  /* of the stays of one kind, as long as the least time and no longer */
#define NOISES      4.0  /* a margin below that is within the noise of a reading */
#define QUICK       6.0  /* steps of the loop, a stay */
#define BY_MARGIN   2.0  /* times the margin, from turn to turn */
#define OFF         10.0 /* margins, or noises */
#define LEFT        0.9  /* of the error: more is no way to the setpoint */

typedef struct stays {
    double *length[2]; /* seconds, whole ones, off and on */
    size_t count[2];
    bool is_on; /* at the end */
} stays;

static bool is_on(const rgp_switched *of, size_t row)
{
    return of->row[row].output > 0.5 * ((double)of->is->low + (double)of->is->high);
}

/* Stays last from one switching to the next; the first and the last are not whole, and left out. */
static stays stays_of(const rgp_switched *of)
{
    stays s = {.length = {g_new0(double, of->rows + 1), g_new0(double, of->rows + 1)}};
    double since = NAN;
    for (size_t i = 0; i < of->rows; i++) {
        const bool on = is_on(of, i);
        if (i > 0 && on != s.is_on) {
            if (!isnan(since)) {
                s.length[s.is_on][s.count[s.is_on]++] = of->row[i].time - since;
            }
            since = of->row[i].time;
        }
        s.is_on = on;
    }
    gsl_sort(s.length[0], 1, s.count[0]);
    gsl_sort(s.length[1], 1, s.count[1]);
    return s;
}

typedef struct measure {
    double low, high; /* of the second half, from its second switching on: all but the outermost hundredth */
    double noise, step, was, left; /* `was`, `left`: size of the error in the first and last quarter of that */
    size_t usable;
} measure;

/* The row of the second switching, behind the way from cold, or the middle where that is later or there is none. */
static size_t first_of_cycle(const rgp_switched *of)
{
    size_t at = of->rows / 2, switched = 0;
    for (size_t i = 1; i < of->rows && switched < 2; i++) {
        switched += is_on(of, i) != is_on(of, i - 1);
        at = switched == 2 && i < of->rows - of->rows / 8 ? MAX(at, i) : at;
    }
    return at;
}

static measure measure_of(const rgp_switched *of)
{
    measure m = {.low = NAN};
    const size_t first = first_of_cycle(of);
    g_autofree double *value = g_new0(double, of->rows + 1), *error = g_new0(double, of->rows + 1);
    size_t steps = 0;
    for (size_t i = first; i < of->rows; i++) {
        const rgp_response_row *r = &of->row[i];
        if (r->usable && !r->stands) {
            value[m.usable] = r->measured;
            error[m.usable++] = r->target - r->measured;
        }
        steps += !r->stands;
    }
    if (m.usable < LEAST_ROWS / 4) {
        return m;
    }
    m.noise = rgp_noise_of(value, m.usable).sigma;
    m.step = (of->row[of->rows - 1].time - of->row[first].time) / (double)steps;
    m.was = fabs(gsl_stats_mean(error, 1, m.usable / 4));
    m.left = fabs(gsl_stats_mean(error + 3 * m.usable / 4, 1, m.usable - 3 * m.usable / 4));
    gsl_sort(value, 1, m.usable);
    m.low = gsl_stats_quantile_from_sorted_data(value, 1, m.usable, 0.01);
    m.high = gsl_stats_quantile_from_sorted_data(value, 1, m.usable, 0.99);
    return m;
}

static void put_amount(const rgp_switched *of, double amount, GString *to)
{
    g_string_append_printf(to, "%s%s%s", rgp_digits(amount, 2).text, *of->unit ? " " : "", of->unit);
}

static double median(const double *sorted, size_t count)
{
    return gsl_stats_median_from_sorted_data(sorted, 1, count);
}

/* True when most stays of that kind end as soon as they may. */
static bool is_bound(const stays *s, int on, double least, double step)
{
    size_t bound = 0;
    for (size_t i = 0; i < s->count[on]; i++) {
        bound += s->length[on][i] < least + 1.5 * step;
    }
    return least > 0.0 && (double)bound > BOUND * (double)s->count[on];
}

/* It does what it can, or nothing: whether the error shrinks all the same tells which. */
static const char *tell_still(const rgp_switched *of, const stays *s, const measure *m, GString *to)
{
    g_string_append_printf(to, "it switches less than %u times: %s at the end, and off by ", LEAST_STAYS,
                           s->is_on ? "on" : "off");
    put_amount(of, m->left, to);
    const bool far = m->left > OFF * fmax((double)of->is->margin, m->noise), shrinks = m->left < LEFT * m->was;
    return !far || shrinks ? "it has to run for longer"
           : s->is_on ? "all it has is not enough, or drives it the wrong way: a stronger actuator, a lesser load, or "
                        "'reverse' in the loop where it has none"
                      : "nothing drives it there: the loop drives the wrong way ('reverse', or without it), or "
                        "something else holds it";
}

static const char *tell_cycle(const rgp_switched *of, const stays *s, const measure *m, GString *to)
{
    const double on = median(s->length[1], s->count[1]), off = median(s->length[0], s->count[0]),
                 whole = m->high - m->low, margin = (double)of->is->margin;
    g_string_append_printf(to, "it swings every %s s by ±", rgp_digits(on + off, 2).text);
    put_amount(of, whole / 2.0, to);
    g_string_append_printf(to, ", on for %.0f %% of it; its margin is ", 100.0 * on / (on + off));
    put_amount(of, margin, to);
    if (margin < NOISES * m->noise && fmin(on, off) < QUICK * m->step) {
        g_string_append(to, ", and the noise of a reading ");
        put_amount(of, m->noise, to);
        return "it switches by noise: a margin of five times that noise, or a longer 'smooth', ends it";
    }
    if (is_bound(s, 1, (double)of->is->least_on, m->step) || is_bound(s, 0, (double)of->is->least_off, m->step)) {
        return "its least times make the swing: shorter ones, or an actuator that does less while it is on, lessen it";
    }
    if (whole > BY_MARGIN * margin + 2.0 * NOISES * m->noise) {
        return "most of that is not the margin but what goes on after it has switched: a lesser margin does not help; "
               "'rigpulse model' finds the dead time, and gains for it";
    }
    return NULL;
}

const char *rgp_switched_advice(const rgp_switched *of, GString *to)
{
    const measure m = measure_of(of);
    if (of->rows < LEAST_ROWS || m.usable < LEAST_ROWS / 4) {
        g_string_append(to, "it is too short: forty steps of the loop are needed");
        return NULL;
    }
    stays s = stays_of(of);
    const bool still = s.count[0] + s.count[1] < LEAST_STAYS || s.count[0] == 0 || s.count[1] == 0;
    const char *remedy = still ? tell_still(of, &s, &m, to) : tell_cycle(of, &s, &m, to);
    g_free(s.length[0]);
    g_free(s.length[1]);
    return remedy;
}
