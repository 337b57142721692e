#include "inspect.h"

#include "record/tell.h"

#include <gsl/gsl_fft_real.h>
#include <gsl/gsl_fit.h>
#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>

#define READINGS_LEAST 20u
#define SPIKE_SIGMAS   6.0
#define HUM_POWER      40.0   /* times the median of the spectrum: chance alone gives this in one of 1e12 lines */
#define NORMAL_MAD     1.4826 /* standard deviation over median absolute deviation, of a normal distribution */

static double at(const rp_series *s, guint i)
{
    return g_array_index(s->raw, double, i);
}

static double median(double *value, size_t count)
{
    gsl_sort(value, 1, count);
    return gsl_stats_median_from_sorted_data(value, 1, count);
}

/* ---- noise and spikes ---------------------------------------------------------------------------- */

/* From second differences: a level, a slope, and single spikes drop out. The variance of x[i-1] - 2 x[i] + x[i+1] is
 * six times that of x when readings are independent. */
static double noise_of(const rp_series *s)
{
    const guint n = s->raw->len - 2;
    g_autofree double *second = g_new(double, n);
    for (guint i = 0; i < n; i++) {
        second[i] = fabs(at(s, i) - 2.0 * at(s, i + 1) + at(s, i + 2));
    }
    return NORMAL_MAD * median(second, n) / sqrt(6.0);
}

static bool is_spike(const rp_series *s, guint i, double limit)
{
    if (i == 0 || i + 1 >= s->raw->len) {
        return false;
    }
    const double before = at(s, i) - at(s, i - 1), after = at(s, i) - at(s, i + 1);
    return (before > limit && after > limit) || (before < -limit && after < -limit);
}

static void find_spikes(const rp_series *s, rp_findings *f)
{
    const double limit = fmax(SPIKE_SIGMAS * f->noise, 2.5 * f->step);
    for (guint i = 0; i < s->raw->len; i++) {
        f->spikes += is_spike(s, i, limit);
    }
}

/* ---- steps, rails, stretches ----------------------------------------------------------------------- */

static void find_steps(const rp_series *s, rp_findings *f)
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

static void find_rails_and_stretches(const rp_series *s, rp_findings *f)
{
    guint run = 1, longest = 1, railed = 0;
    for (guint i = 0; i < s->raw->len; i++) {
        railed += at(s, i) <= s->low || at(s, i) >= s->high;
        run = i > 0 && at(s, i) == at(s, i - 1) ? run + 1 : 1;
        longest = MAX(longest, run);
    }
    f->pinned = (double)railed / s->raw->len;
    f->still = longest * s->tick;
}

/* ---- drift and hum ------------------------------------------------------------------------------- */

static void find_drift(const rp_series *s, rp_findings *f, double *level, double *slope)
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

static void window(const rp_series *s, const rp_findings *f, double level, double slope, double *out, size_t n)
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

/* The strongest line of the spectrum, if it stands out: Hann window, periodogram. Slow movements (fewer than eight
 * periods in the stretch) are no hum. */
static void find_hum(const rp_series *s, rp_findings *f, double level, double slope)
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
        f->hum = height > f->step ? (double)strongest / ((double)n * s->tick) : 0.0;
        f->hum_height = f->hum > 0.0 ? height : 0.0;
    }
}

/* The distance between means of a twentieth of the stretch, against their noise. */
static void find_movement(const rp_series *s, rp_findings *f)
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

/* ---- words --------------------------------------------------------------------------------------- */

G_GNUC_PRINTF(2, 3) static void advise(rp_findings *f, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_ptr_array_add(f->advice, g_strdup_vprintf(format, arguments));
    va_end(arguments);
}

static char *amount(const rp_series *s, double number)
{
    GString *text = g_string_new(NULL);
    rp_tell_number(number, s->unit, text);
    return g_string_free(text, FALSE);
}

static void advise_on_absence(const rp_series *s, rp_findings *f)
{
    if (f->readings == 0) {
        advise(f, "it never answered: is it connected?");
    } else if (s->missing) {
        advise(f,
               "%u of %u readings are missing: 'hold 300 ms' bridges single ones; 'fault after 1 s' in its line stops "
               "what needs it when it stays away",
               s->missing, s->ticks);
    }
    if (s->late) {
        advise(f, "%u of %u readings are older than a tick: say 'every TIME' in its line, so that late ones are seen",
               s->late, s->ticks);
    }
}

static void advise_on_rails(const rp_series *s, rp_findings *f)
{
    if (f->pinned > 0.02) {
        advise(f,
               "%.0f %% of the readings are at the end of the range: it is wired wrongly, broken, or the range is too "
               "small; 'pinned' in its line makes such readings bad",
               100.0 * f->pinned);
    }
    if (f->values == 1 && f->pinned < 1.0) {
        advise(f,
               "not one step of change in %.3g s: it may be stuck or not connected; 'stuck 2 s' in its line makes that "
               "bad",
               f->still);
    } else if (f->still > 0.2 * s->ticks * s->tick && f->noise >= 1.0) {
        advise(f,
               "it stood still for %.3g s and moved at other times: it may get stuck; 'stuck %.2g s' in its line sees "
               "that",
               f->still, fmax(0.1 * f->still, 20.0 * s->tick));
    }
    if (f->values > 1 && f->values < 6 && f->noise < 0.5 * f->step) {
        g_autofree char *step = amount(s, f->step);
        advise(f, "only %u different readings, %s apart: its resolution is coarse for what it sees here", f->values,
               step);
    }
}

static void advise_on_noise(const rp_series *s, rp_findings *f)
{
    if (f->spikes) {
        const double every = (double)f->readings / f->spikes;
        advise(f, "one spike in %.0f readings: 'despike %d'", every, every > 10.0 ? 3 : 5);
    }
    if (f->hum > 0.0) {
        const double period = 1.0 / (f->hum * s->tick);
        int readings = 2;
        for (int n = 2; n <= 64; n++) { /* the window that holds the nearest to whole periods */
            readings = fabs(n / period - round(n / period)) * readings <
                                   fabs(readings / period - round(readings / period)) * n - 1e-9 &&
                               n >= period
                           ? n
                           : readings;
        }
        readings = MAX(readings, (int)lround(period));
        g_autofree char *height = amount(s, f->hum_height);
        advise(f, "a hum at %.3g Hz, %s high: 'average %d' takes whole periods of it", f->hum, height,
               MIN(MAX(readings, 2), 64));
    }
    if (f->noise > 2.0 * fmax(f->step, 1.0) && f->hum_height < f->noise) {
        g_autofree char *noise = amount(s, f->noise);
        const double time = 12.5 * s->tick; /* a first-order low pass leaves sqrt(dt / 2T) of independent noise */
        g_autofree char *shown = time < 1.0 ? g_strdup_printf("%.0f ms", 1e3 * time) : g_strdup_printf("%.1f s", time);
        advise(f, "noise of %s from reading to reading: 'smooth %s' leaves a fifth of it", noise, shown);
    }
}

static void advise_on_drift(const rp_series *s, rp_findings *f)
{
    const double moved = fabs(f->drift) / 60.0 * s->ticks * s->tick;
    if (fabs(f->drift) > 5.0 * f->drift_error && moved > 2.0 * f->noise && f->moved > 8.0) {
        g_autofree char *text = amount(s, f->drift);
        advise(f,
               "it changes by %s a minute: look again with the device at rest; if it still does, it is warming up, and "
               "'zero' needs "
               "a 'warmup'",
               text);
    }
}

/* ---- the whole ----------------------------------------------------------------------------------- */

rp_findings *rp_inspect(const rp_series *s)
{
    rp_findings *f = g_new0(rp_findings, 1);
    f->advice = g_ptr_array_new_with_free_func(g_free);
    f->readings = s->raw->len;
    advise_on_absence(s, f);
    if (f->readings < READINGS_LEAST) {
        if (f->readings > 0) {
            advise(f, "only %u readings: look for longer", f->readings);
        }
        return f;
    }
    const double *raw = (const double *)(void *)s->raw->data;
    double level, slope;
    f->mean = gsl_stats_mean(raw, 1, f->readings);
    f->spread = gsl_stats_sd(raw, 1, f->readings);
    gsl_stats_minmax(&f->least, &f->greatest, raw, 1, f->readings);
    find_steps(s, f);
    find_rails_and_stretches(s, f);
    if (s->state) {
        return f;
    }
    f->noise = noise_of(s);
    f->resolvable = fmax(3.0 * f->noise, f->step);
    find_spikes(s, f);
    find_drift(s, f, &level, &slope);
    find_hum(s, f, level, slope);
    find_movement(s, f);
    advise_on_rails(s, f);
    advise_on_noise(s, f);
    advise_on_drift(s, f);
    return f;
}

void rp_findings_free(rp_findings *f)
{
    g_ptr_array_unref(f->advice);
    g_free(f);
}
