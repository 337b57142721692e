/* The findings about one sensor: noise, steps, spikes, hum, drift, gaps, and how late its readings come. */
#include "advice.h"
#include "inspect.h"

#include <gsl/gsl_fft_real.h>
#include <gsl/gsl_fit.h>
#include <gsl/gsl_movstat.h>
#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>

#define SPIKE_SIGMAS 6.0
#define HUM_POWER    40.0 /* times the median of the spectrum: chance alone gives this in one of 1e12 lines */
#define AROUND       31u  /* readings that one is held against */
#define LASTS_MOST   10u  /* readings; what stands out for longer is a movement */
#define PACE_CHANGES 12u
#define AGREES_S     0.25   /* blocks that a turn is summed over */
#define AGREES_LEAST 8u     /* blocks */
#define AGREES_FROM  0.8    /* correlation: chance alone gives this for eight blocks in 1 of 100 */
#define BOUNCE_S     0.05   /* changes that are nearer belong together */
#define SWING_HZ     5.0    /* slower than that, a thing itself can swing */
#define NORMAL_MAD   1.4826 /* standard deviation over median absolute deviation, of a normal distribution */

static double at(const rgp_series *s, guint i)
{
    return g_array_index(s->raw, double, i);
}

static bool is_railed(const rgp_series *s, guint i)
{
    return at(s, i) <= s->low || at(s, i) >= s->high;
}

static double median(double *value, size_t count)
{
    gsl_sort(value, 1, count);
    return gsl_stats_median_from_sorted_data(value, 1, count);
}

/* ---- noise and spikes ---------------------------------------------------------------------------- */

/* From second differences: a level, a slope, and single spikes drop out. The variance of x[i-1] - 2 x[i] + x[i+1] is
 * six times that of x when readings are independent. */
static double noise_of(const rgp_series *s)
{
    const guint n = s->raw->len - 2;
    g_autofree double *second = g_new(double, n);
    for (guint i = 0; i < n; i++) {
        second[i] = fabs(at(s, i) - 2.0 * at(s, i + 1) + at(s, i + 2));
    }
    return NORMAL_MAD * median(second, n) / sqrt(6.0);
}

static bool is_spike(const rgp_series *s, guint i, double limit)
{
    if (i == 0 || i + 1 >= s->raw->len) {
        return false;
    }
    const double before = at(s, i) - at(s, i - 1), after = at(s, i) - at(s, i + 1);
    return (before > limit && after > limit) || (before < -limit && after < -limit);
}

/* A reading that stands out of those around it, for one reading or for a few: where a fair part of it lasts, it is
 * something that happens, and what lasts for one reading may be the same. */
static void find_spikes(const rgp_series *s, rgp_findings *f)
{
    const double limit = fmax(SPIKE_SIGMAS * f->noise, 2.5 * f->step);
    const guint n = s->raw->len;
    const gsl_vector_const_view all = gsl_vector_const_view_array((const double *)(void *)s->raw->data, n);
    gsl_movstat_workspace *space = gsl_movstat_alloc(AROUND);
    gsl_vector *around = gsl_vector_alloc(n);
    gsl_movstat_median(GSL_MOVSTAT_END_PADVALUE, &all.vector, around, space);
    for (guint i = 0, run = 0; i <= n; i++) {
        const bool out = i < n && fabs(at(s, i) - gsl_vector_get(around, i)) > limit;
        if (!out && run == 1) {
            f->spikes += is_spike(s, i - 1, limit);
        } else if (!out && run > 1 && run <= LASTS_MOST && !is_railed(s, i - 1)) {
            f->events++;
            f->longest = fmax(f->longest, run * s->tick);
        }
        run = out ? run + 1 : 0;
    }
    gsl_vector_free(around);
    gsl_movstat_free(space);
    if (f->events > 1 && 4 * f->events >= f->spikes) {
        f->events += f->spikes;
        f->spikes = 0;
    } else {
        f->events = 0;
    }
}

/* ---- pace ------------------------------------------------------------------------------------------ */

/* The ticks from one reading to the next, of a sensor that is slower than the tick: it stays the same for some ticks,
 * and then changes by more than a step. 1 where that cannot be told. */
static double find_pace(const rgp_series *s)
{
    g_autofree double *gap = g_new(double, s->raw->len), *by = g_new(double, s->raw->len);
    double shortest = INFINITY;
    size_t changes = 0;
    guint last = 0;
    for (guint i = 1; i < s->raw->len; i++) {
        if (at(s, i) != at(s, i - 1)) {
            gap[changes] = g_array_index(s->place, uint32_t, i) - (double)last;
            by[changes] = fabs(at(s, i) - at(s, i - 1));
            shortest = changes > 0 ? fmin(shortest, gap[changes]) : shortest;
            last = g_array_index(s->place, uint32_t, i);
            changes++;
        }
    }
    if (changes < PACE_CHANGES || shortest < 2.0 || median(by + 1, changes - 1) < 2.0) {
        return 1.0;
    }
    const double usual = median(gap + 1, changes - 1); /* sorts them; a reading may be the same as the one before */
    return gap[changes - 1 - changes / 10] <= 2.0 * usual ? usual : 1.0;
}

/* The same where the port says when a reading is new: the mean, but for gaps that are much longer than most. */
static double told_pace(const rgp_series *s, rgp_findings *f)
{
    const guint gaps = s->raw->len - 1;
    g_autofree double *gap = g_new(double, gaps + 1);
    for (guint i = 0; i < gaps; i++) {
        gap[i] = g_array_index(s->place, uint32_t, i + 1) - g_array_index(s->place, uint32_t, i);
        f->longest_gap = fmax(f->longest_gap, gap[i]);
    }
    const double usual = median(gap, gaps); /* sorts them */
    double sum = 0.0;
    guint regular = 0;
    while (regular < gaps && gap[regular] <= RGP_GAP_FROM * usual) {
        sum += gap[regular++];
    }
    return sum / regular;
}

/* Each of a slow sensor's readings once, at ticks of its own pace. */
static rgp_series each_once(const rgp_series *s, double pace)
{
    rgp_series once = *s;
    once.tick = s->tick * pace;
    once.raw = g_array_new(FALSE, FALSE, sizeof(double));
    once.place = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    for (uint32_t i = 0; s->stood > 0 && i < s->raw->len; i++) {
        g_array_append_val(once.raw, g_array_index(s->raw, double, i));
        g_array_append_val(once.place, i);
    }
    if (s->stood > 0) {
        return once;
    }
    guint first = 1;
    while (at(s, first) == at(s, first - 1)) {
        first++;
    }
    for (uint32_t place = 0; lround(first + place * pace) < (long)s->raw->len; place++) {
        const double raw = at(s, (guint)lround(first + place * pace));
        g_array_append_val(once.raw, raw);
        g_array_append_val(once.place, place);
    }
    return once;
}

/* ---- contacts -------------------------------------------------------------------------------------- */

/* The changes of a switch come in groups where its contact bounces: how many groups there are, and how long the longest
 * of three or more changes takes. */
static void find_bounce(const rgp_series *s, rgp_findings *f)
{
    const double apart = fmax(BOUNCE_S, 3.0 * s->tick) / s->tick;
    uint32_t first = 0, last = 0, in_group = 0;
    for (guint i = 1; i <= s->raw->len; i++) {
        const bool ends = i == s->raw->len;
        const uint32_t place = ends ? UINT32_MAX : g_array_index(s->place, uint32_t, i);
        if (!ends && at(s, i) == at(s, i - 1)) {
            continue;
        }
        if (in_group > 0 && place - (double)last > apart) {
            f->changes++;
            f->bounced += in_group > 2;
            f->bounce = in_group > 2 ? fmax(f->bounce, (last - first) * s->tick) : f->bounce;
            in_group = 0;
        }
        first = in_group == 0 ? place : first;
        last = place;
        in_group++;
    }
}

/* ---- steps, rails, stretches ----------------------------------------------------------------------- */

static void find_steps(const rgp_series *s, rgp_findings *f)
{
    g_autofree double *sorted = g_memdup2(s->raw->data, s->raw->len * sizeof(double));
    gsl_sort(sorted, 1, s->raw->len);
    f->step = INFINITY;
    f->values = 1;
    for (guint i = 1; i < s->raw->len; i++) {
        if (sorted[i] > sorted[i - 1]) {
            f->values++;
            f->step = fmin(f->step, sorted[i] - sorted[i - 1]);
        }
    }
    f->step = f->values > 1 ? f->step : 0.0;
}

static void find_rails_and_stretches(const rgp_series *s, rgp_findings *f)
{
    guint run = 1, longest = 1, railed = 0;
    for (guint i = 0; i < s->raw->len; i++) {
        railed += is_railed(s, i);
        run = i > 0 && at(s, i) == at(s, i - 1) ? run + 1 : 1;
        longest = MAX(longest, run);
    }
    f->pinned = (double)railed / s->raw->len;
    f->still = longest * s->tick * (s->stood > 0 ? f->pace : 1.0);
}

/* ---- drift and hum ------------------------------------------------------------------------------- */

static void find_drift(const rgp_series *s, rgp_findings *f, double *level, double *slope)
{
    const size_t n = s->raw->len;
    g_autofree double *time = g_new(double, n);
    double v00, v01, v11, squares;
    for (size_t i = 0; i < n; i++) {
        time[i] = g_array_index(s->place, uint32_t, i) * s->tick;
    }
    gsl_fit_linear(time, 1, (const double *)(void *)s->raw->data, 1, n, level, slope, &v00, &v01, &v11, &squares);
    f->drift = *slope * 60.0;
    f->drift_error = sqrt(v11) * 60.0;
}

static void window(const rgp_series *s, const rgp_findings *f, double level, double slope, double *out, size_t n)
{
    const double limit = fmax(SPIKE_SIGMAS * f->noise, 2.5 * f->step);
    for (size_t i = 0; i < n; i++) {
        const double x =
            is_spike(s, (guint)i, limit) ? 0.5 * (at(s, (guint)i - 1) + at(s, (guint)i + 1)) : at(s, (guint)i);
        const double hann = 0.5 - 0.5 * cos(2.0 * M_PI * (double)i / (double)n);
        out[i] = (x - level - slope * (double)i * s->tick) * hann;
    }
}

/* The median of the spectrum within an octave of a line, without the line itself: what leaks over from a slow movement
 * raises it, so that it is not taken for a hum. */
static double floor_around(const double *power, size_t lines, size_t line)
{
    g_autofree double *around = g_new(double, lines);
    size_t count = 0;
    for (size_t k = line / 2 + 1; k < MIN(2 * line, lines); k++) {
        if (k + 3 < line || k > line + 3) {
            around[count++] = power[k];
        }
    }
    return count > 0 ? median(around, count) : INFINITY;
}

/* True for a line at which the mains, or what flickers twice in their period, appears when it is looked at every tick.
 */
static bool is_mains(double line, double tick, double width)
{
    static const double mains[] = {50.0, 60.0, 100.0, 120.0};
    bool is = false;
    for (size_t i = 0; i < G_N_ELEMENTS(mains); i++) {
        is |= fabs(fabs(mains[i] - round(mains[i] * tick) / tick) - line) < width;
    }
    return is;
}

/* The strongest line of the spectrum, if it stands out: Hann window, periodogram. Slow movements (fewer than eight
 * periods in the stretch) are no hum. */
static void find_hum(const rgp_series *s, rgp_findings *f, double level, double slope)
{
    size_t n = 64;
    if (s->raw->len < n || s->missing) {
        return;
    }
    while (2 * n <= s->raw->len) {
        n *= 2;
    }
    g_autofree double *spectrum = g_new(double, n), *power = g_new(double, n / 2);
    window(s, f, level, slope, spectrum, n);
    gsl_fft_real_radix2_transform(spectrum, 1, n);
    size_t strongest = 0;
    for (size_t k = 1; k < n / 2; k++) {
        power[k] = spectrum[k] * spectrum[k] + spectrum[n - k] * spectrum[n - k];
        strongest = k >= 8 && (strongest == 0 || power[k] > power[strongest]) ? k : strongest;
    }
    if (strongest > 0 && power[strongest] > HUM_POWER * floor_around(power, n / 2, strongest)) {
        const double height = 4.0 * sqrt(power[strongest]) / (double)n; /* the Hann window halves it */
        const double line = (double)strongest / ((double)n * s->tick);
        const bool swings = line < SWING_HZ && !is_mains(line, s->tick, 2.0 / ((double)n * s->tick));
        if (height > f->step) {
            *(swings ? &f->swing : &f->hum) = line;
            *(swings ? &f->swing_height : &f->hum_height) = height;
        }
    }
}

/* The distance between means of a twentieth of the stretch, against their noise. */
static void find_movement(const rgp_series *s, rgp_findings *f)
{
    const guint group = MAX(s->raw->len / 20u, 1u);
    double least = INFINITY, greatest = -INFINITY;
    for (guint from = 0; from + group <= s->raw->len; from += group) {
        const double mean = gsl_stats_mean(&g_array_index(s->raw, double, from), 1, group);
        least = fmin(least, mean);
        greatest = fmax(greatest, mean);
    }
    f->moved = (greatest - least) / (fmax(f->noise, fmax(0.3 * f->step, 0.3)) / sqrt(group));
}

/* ---- the whole ----------------------------------------------------------------------------------- */

/* Of a slow sensor, what goes by its own readings is made of each `once`. */
static void inspect_numbers(const rgp_series *s, const rgp_series *once, rgp_findings *f)
{
    double level, slope;
    f->noise = noise_of(once);
    f->resolvable = fmax(3.0 * f->noise, f->step);
    find_spikes(once, f);
    find_drift(once, f, &level, &slope);
    find_hum(once, f, level, slope);
    find_movement(s, f);
}

rgp_findings *rgp_inspect(const rgp_series *s)
{
    rgp_findings *f = g_new0(rgp_findings, 1);
    f->advice = g_ptr_array_new_with_free_func(g_free);
    f->readings = s->raw->len;
    f->pace = 1.0;
    if (f->readings < RGP_INSPECT_LEAST) {
        rgp_advise(s, f);
        return f;
    }
    const double *raw = (const double *)(void *)s->raw->data;
    f->mean = gsl_stats_mean(raw, 1, f->readings);
    f->spread = gsl_stats_sd(raw, 1, f->readings);
    gsl_stats_minmax(&f->least, &f->greatest, raw, 1, f->readings);
    find_steps(s, f);
    f->pace = s->stood > 0 ? told_pace(s, f) : 1.0;
    find_rails_and_stretches(s, f);
    if (s->state) {
        find_bounce(s, f);
        rgp_advise(s, f);
        return f;
    }
    f->pace = s->stood > 0 ? f->pace : find_pace(s);
    const rgp_series once = f->pace > 1.0 ? each_once(s, f->pace) : *s;
    inspect_numbers(s, &once, f);
    if (f->pace > 1.0) {
        g_array_unref(once.raw);
        g_array_unref(once.place);
    }
    rgp_advise(s, f);
    return f;
}

/* ---- two sensors that see the same turn ------------------------------------------------------------ */

rgp_agreement rgp_rate_and_place(const GArray *rate, const GArray *place, double tick)
{
    rgp_agreement a = {false, 0.0, 0.0};
    const guint block = MAX(1u, (guint)lround(AGREES_S / tick)), blocks = MIN(rate->len, place->len) / block;
    if (blocks < AGREES_LEAST + 1) {
        return a;
    }
    g_autofree double *turned = g_new(double, blocks), *moved = g_new(double, blocks);
    double before = 0.0;
    for (guint b = 0; b < blocks; b++) {
        const double mean = gsl_stats_mean(&g_array_index(place, double, b *block), 1, block);
        double sum = 0.0; /* from the middle of the block before to the middle of this one */
        for (guint i = b * block + block / 2; b > 0 && i-- > (b - 1) * block + block / 2;) {
            sum += g_array_index(rate, double, i) * tick;
        }
        turned[b] = sum;
        moved[b] = mean - before;
        before = mean;
    }
    const double spread = gsl_stats_sd(turned + 1, 1, blocks - 1);
    if (spread > 0.0) {
        a.correlation = gsl_stats_correlation(turned + 1, 1, moved + 1, 1, blocks - 1);
        a.times = a.correlation * gsl_stats_sd(moved + 1, 1, blocks - 1) / spread;
        a.moved = fabs(a.correlation) > AGREES_FROM;
    }
    return a;
}

void rgp_findings_free(rgp_findings *f)
{
    g_ptr_array_unref(f->advice);
    g_free(f);
}
