/* A capture: the mean of a window that stands still, its error, and the reasons to refuse one. */
#include "capture.h"

#include <math.h>
#include <string.h>

#define BLOCKS         8u
#define BAD_MOST       0.1          /* of the readings */
#define STRAY_FROM     5.0          /* robust deviations from the median: a miss or a spike, and left out */
#define STRAYS_MOST    0.25         /* of the readings */
#define PINNED_MOST    0.25         /* likewise */
#define COUNT_VARIANCE (1.0 / 12.0) /* of the error of rounding to a count */
#define SURE           5.0          /* times its standard error: a change that is there */
#define NOISE_GREW     4.0          /* times that of the other captures */
#define NOISE_MOST     0.05         /* of the sensor's declared range */
#define SPAN_LEAST     20.0         /* times the noise: less is no travel */
#define MEDIAN_SCALE   0.6745       /* median of |x| of a normal deviate of deviation 1 */

static int by_size(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;
    return (x > y) - (x < y);
}

static double median(double *x, guint n)
{
    if (n == 0) {
        return 0.0;
    }
    qsort(x, n, sizeof *x, by_size);
    return n % 2 ? x[n / 2] : 0.5 * (x[n / 2 - 1] + x[n / 2]);
}

static bool is_new(const rgp_intake *in, guint i)
{
    return !in->same || !g_array_index(in->same, uint8_t, i);
}

/* The usable values of a window, each once. */
static GArray *usable(const rgp_intake *in, const GArray *value, const GArray *quality, guint from, guint to)
{
    GArray *kept = g_array_new(FALSE, FALSE, sizeof(double));
    for (guint i = from; i < to; i++) {
        if (is_new(in, i) && rgp_usable(g_array_index(quality, rgp_quality, i))) {
            g_array_append_val(kept, g_array_index(value, double, i));
        }
    }
    return kept;
}

/* Takes out what lies far from all others; the share that it was. */
static double drop_strays(GArray *value)
{
    const guint n = value->len;
    g_autofree double *away = g_memdup2(value->data, n * sizeof *away);
    const double middle = median(away, n);
    double least = INFINITY;
    for (guint i = 0; i < n; i++) {
        away[i] = fabs(g_array_index(value, double, i) - middle);
        least = away[i] > 0.0 ? fmin(least, away[i]) : least;
    }
    const double most = STRAY_FROM * median(away, n) / MEDIAN_SCALE + (isfinite(least) ? 2.0 * least : 0.0);
    guint kept = 0;
    for (guint i = 0; i < n; i++) {
        const double x = g_array_index(value, double, i);
        if (fabs(x - middle) <= most) {
            g_array_index(value, double, kept++) = x;
        }
    }
    g_array_set_size(value, kept);
    return n ? (double)(n - kept) / n : 0.0;
}

static double mean_of(const double *x, guint n, double *spread)
{
    double mean = 0.0, squares = 0.0;
    for (guint i = 0; i < n; i++) {
        const double away = x[i] - mean;
        mean += away / (i + 1);
        squares += away * (x[i] - mean);
    }
    if (spread) {
        *spread = n > 1 ? sqrt(squares / (n - 1)) : 0.0;
    }
    return mean;
}

/* From the steps between neighbours (von Neumann, 1941), so that slow changes do not count; at least the rounding. */
static double noise_of(const double *x, guint n)
{
    double smallest = INFINITY, squares = 0.0;
    for (guint i = 1; i < n; i++) {
        const double step = fabs(x[i] - x[i - 1]);
        squares += step * step;
        smallest = step > 0.0 ? fmin(smallest, step) : smallest;
    }
    const double rounding = isfinite(smallest) ? smallest / sqrt(12.0) : 0.0;
    return n > 1 ? fmax(rounding, sqrt(squares / (2.0 * (n - 1)))) : 0.0;
}

/* A straight line through the blocks of a window. */
typedef struct slow {
    double moved;       /* what the line changes by in the whole window */
    double moved_error; /* its standard error */
    double swung;       /* deviation of the blocks about the line */
} slow;

/* Each block stands for an eighth of the window: by its median, or by its mean. Of fewer readings than that nothing
 * can be said. */
static slow slow_change(const double *x, guint n, bool medians)
{
    double block[BLOCKS], slope = 0.0, squares = 0.0;
    if (n < BLOCKS) {
        return (slow){0.0, 0.0, 0.0};
    }
    for (guint b = 0; b < BLOCKS; b++) {
        const guint from = n * b / BLOCKS, count = n * (b + 1) / BLOCKS - from;
        g_autofree double *part = g_memdup2(x + from, count * sizeof *x);
        block[b] = medians ? median(part, count) : mean_of(part, count, NULL);
    }
    const double mean = mean_of(block, BLOCKS, NULL), middle = (BLOCKS - 1) / 2.0;
    const double spread_of_places = BLOCKS * (BLOCKS * BLOCKS - 1.0) / 12.0;
    for (guint b = 0; b < BLOCKS; b++) {
        slope += (b - middle) * (block[b] - mean) / spread_of_places;
    }
    for (guint b = 0; b < BLOCKS; b++) {
        const double away = block[b] - mean - slope * (b - middle);
        squares += away * away;
    }
    const double swung = sqrt(squares / (BLOCKS - 2));
    return (slow){slope * BLOCKS, swung * BLOCKS / sqrt(spread_of_places), swung};
}

/* ---- what speaks against it ------------------------------------------------------------------------ */

static char *worst_quality(const rgp_intake *in, guint from, guint to, uint32_t *bad)
{
    uint32_t count[RGP_QUALITIES] = {0}, worst = 0;
    *bad = 0;
    for (guint i = from; i < to; i++) {
        const rgp_quality q = g_array_index(in->in_quality, rgp_quality, i);
        if (!rgp_usable(q)) {
            (*bad)++;
            count[q]++;
        }
    }
    for (uint32_t q = 0; q < RGP_QUALITIES; q++) {
        worst = count[q] > count[worst] ? q : worst;
    }
    return g_strdup_printf("%u of %u readings were bad, mostly %s", *bad, to - from,
                           rgp_quality_text((rgp_quality)worst));
}

static double pinned_share(const rgp_intake *in, const GArray *raw)
{
    guint pinned = 0;
    for (guint i = 0; i < raw->len; i++) {
        const double x = g_array_index(raw, double, i);
        pinned += x <= in->low || x >= in->high;
    }
    return raw->len ? (double)pinned / raw->len : 0.0;
}

static char *reason_against(const rgp_intake *in, const rgp_capture *c, double pinned, guint readings,
                            const slow *of_raw, const slow *of_in, double noise_before)
{
    const double expected = c->noise / sqrt((double)readings / BLOCKS);
    if (pinned > PINNED_MOST) {
        return g_strdup_printf("%s is at the end of its range (%g), where it cannot say more", in->sensor, c->raw);
    }
    if (fabs(of_raw->moved) > SURE * of_raw->moved_error && fabs(of_raw->moved) > fmax(c->noise, 1.5)) {
        return g_strdup_printf("it drifts: %s moved by %.3g %s in the window, and its noise is only %.2g; wait until "
                               "it stands still",
                               in->sensor, of_raw->moved, in->unit, c->noise);
    }
    if (of_raw->swung > fmax(SURE * expected, c->noise) && of_raw->swung > 1.5) {
        return g_strdup_printf("it swings: %s went to and fro by some %.3g %s, and its noise is only %.2g; hold it "
                               "still, or take a window that is many swings long (--window)",
                               in->sensor, of_raw->swung, in->unit, c->noise);
    }
    if (!in->summed && fabs(of_in->moved) > SURE * of_in->moved_error && fabs(of_in->moved) > 3.0 * c->in_spread) {
        return g_strdup_printf("what goes in has not settled: '%s' still moved by %.3g %s", in->input, of_in->moved,
                               in->input_unit);
    }
    if (noise_before > 0.0 && c->noise > NOISE_GREW * noise_before) {
        return g_strdup_printf("it is noisy: single readings of %s scatter by %.3g %s, and by %.2g in the captures "
                               "before; something disturbs it",
                               in->sensor, c->noise, in->unit, noise_before);
    }
    if (c->noise > NOISE_MOST * ((double)in->high - in->low)) {
        return g_strdup_printf("it is too noisy: single readings of %s scatter by %.3g %s, which is more than %g %% of "
                               "its range; look at it with 'rigpulse inspect'",
                               in->sensor, c->noise, in->unit, 100.0 * NOISE_MOST);
    }
    return NULL;
}

/* The objections of the readings alone, be they as few as they are. */
static char *doubt_about(const rgp_capture *c, char **bad, double strays)
{
    if (c->bad > BAD_MOST * c->readings) {
        return g_steal_pointer(bad);
    }
    if (c->usable < RGP_CAPTURE_READINGS_LEAST) {
        return g_strdup_printf("%u readings are too few; take a longer window", c->usable);
    }
    return strays <= STRAYS_MOST ? NULL
                                 : g_strdup_printf("%.0f %% of the values lie far from the others: it jumps between "
                                                   "two values, or echoes are missed",
                                                   100.0 * strays);
}

/* Readings are whole counts: what rounds them all the same way does not average out, unless noise carries them over the
 * steps (Widrow 1956). In the unit of what goes in, which is taken to be in proportion where it is no count. */
static double rounding_of(const rgp_intake *in, const rgp_capture *c, const double *raw, guint readings)
{
    double spread;
    mean_of(raw, readings, &spread);
    const double carried = fmax(spread * spread - COUNT_VARIANCE, 0.0);
    const double counts = sqrt(COUNT_VARIANCE) * exp(-2.0 * G_PI * G_PI * carried);
    return strcmp(in->input_unit, "counts") == 0 ? counts : fabs(c->in) * counts / fmax(fabs(c->raw), 1.0);
}

static uint32_t count_new(const rgp_intake *in, guint from, guint to)
{
    uint32_t new = 0;
    for (guint i = from; i < to; i++) {
        new += is_new(in, i);
    }
    return new;
}

rgp_capture rgp_capture_window(const rgp_intake *in, guint from, guint to, double noise_before)
{
    rgp_capture c = {.readings = count_new(in, from, to)};
    g_autofree char *bad = worst_quality(in, from, to, &c.bad);
    g_autoptr(GArray) raw = usable(in, in->raw, in->raw_quality, from, to);
    g_autoptr(GArray) value = usable(in, in->in, in->in_quality, from, to);
    c.usable = MIN(raw->len, value->len);
    const double pinned = pinned_share(in, raw), strays = fmax(drop_strays(value), drop_strays(raw));
    const double *x = (const double *)(void *)value->data, *r = (const double *)(void *)raw->data;
    const slow of_raw = slow_change(r, raw->len, true), of_in = slow_change(x, value->len, false);
    c.in = mean_of(x, value->len, &c.in_spread);
    c.noise = noise_of(r, raw->len);
    g_autofree double *sorted = g_memdup2(r, raw->len * sizeof *r);
    c.raw = median(sorted, raw->len);
    c.moved = of_raw.moved;
    c.swung = of_raw.swung;
    const double chance = fmax(of_in.swung / sqrt(BLOCKS), c.in_spread / sqrt(MAX(value->len, 1u)));
    c.in_error = hypot(chance, rounding_of(in, &c, r, raw->len));
    c.reason = doubt_about(&c, &bad, strays);
    if (!c.reason) {
        c.reason = reason_against(in, &c, pinned, raw->len, &of_raw, &of_in, noise_before);
    }
    return c;
}

void rgp_capture_clear(rgp_capture *c)
{
    g_clear_pointer(&c->reason, g_free);
}

/* From the median of the second differences, so that neither a steady movement nor spikes count. */
static double noise_of_moving(const double *x, guint n)
{
    g_autofree double *bend = g_new0(double, n + 1);
    for (guint i = 2; i < n; i++) {
        bend[i - 2] = fabs(x[i] - 2.0 * x[i - 1] + x[i - 2]);
    }
    return n > 2 ? median(bend, n - 2) / (MEDIAN_SCALE * sqrt(6.0)) : 0.0;
}

bool rgp_capture_span(const rgp_intake *in, guint from, guint to, double *least, double *greatest, double *error,
                      char **reason)
{
    g_autoptr(GArray) value = usable(in, in->in, in->in_quality, from, to);
    const double *x = (const double *)(void *)value->data;
    if (value->len < RGP_CAPTURE_READINGS_LEAST) {
        *reason = g_strdup_printf("only %u of %u readings were usable", value->len, count_new(in, from, to));
        return false;
    }
    const double noise = noise_of_moving(x, value->len);
    *least = INFINITY;
    *greatest = -INFINITY;
    for (guint i = 0; i + 5 <= value->len; i++) {
        double five[5];
        memcpy(five, x + i, sizeof five);
        const double middle = median(five, 5);
        *least = fmin(*least, middle);
        *greatest = fmax(*greatest, middle);
    }
    *error = noise;
    if (*greatest - *least < SPAN_LEAST * noise || *greatest <= *least) {
        *reason = g_strdup_printf("it was hardly moved: '%s' went from %.4g to %.4g %s, with a noise of %.2g",
                                  in->input, *least, *greatest, in->input_unit, noise);
        return false;
    }
    return true;
}
