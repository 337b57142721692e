/* The spectrum of a value. */
#include "spectrum.h"

#include <gsl/gsl_cdf.h>
#include <gsl/gsl_fft_halfcomplex.h>
#include <gsl/gsl_fft_real.h>
#include <gsl/gsl_fit.h>
#include <math.h>

#define POINTS_LEAST  64u
#define SEGMENT_MOST  8192u
#define SEGMENTS      8u /* at least so many, where there are points for segments of SEGMENT_LEAST */
#define SEGMENT_LEAST 64u
#define FREEDOM       1.9  /* degrees a segment */
#define UNEVEN        0.01 /* of the step */
#define FILLED_MOST   10u  /* one in so many */

static const rgp_course_point *point_at(const rgp_course *c, guint i)
{
    return &g_array_index(c->point, rgp_course_point, i);
}

/* The step in time; 0: they are not evenly apart. */
static double step_of(const rgp_course *c)
{
    const guint n = c->point->len;
    const double step = (point_at(c, n - 1)->time - point_at(c, 0)->time) / (n - 1);
    for (guint i = 1; i < n; i++) {
        if (fabs(point_at(c, i)->time - point_at(c, i - 1)->time - step) > UNEVEN * step) {
            return 0.0;
        }
    }
    return step;
}

/* A power of two, so that some segments can be averaged. */
static uint32_t segment_of(guint points)
{
    uint32_t size = SEGMENT_LEAST;
    while (size * 2u <= SEGMENT_MOST && size * (SEGMENTS + 1u) <= points) {
        size *= 2u;
    }
    return size;
}

static double *fill(const rgp_course *c, uint32_t *filled)
{
    double *x = g_new(double, c->point->len), before = 0.0;
    guint first = 0;
    while (first < c->point->len && isnan(point_at(c, first)->value)) {
        first++;
    }
    before = first < c->point->len ? point_at(c, first)->value : 0.0;
    for (guint i = 0; i < c->point->len; i++) {
        const double value = point_at(c, i)->value;
        *filled += isnan(value) ? 1u : 0u;
        before = isnan(value) ? before : value;
        x[i] = before;
    }
    return x;
}

/* Adds the power of one segment; `work` has room for it. */
static void add_segment(const double *x, uint32_t size, double *work, double *power)
{
    double constant, slope, c00, c01, c11, rest;
    g_autofree double *place = g_new(double, size);
    for (uint32_t i = 0; i < size; i++) {
        place[i] = i;
    }
    gsl_fit_linear(place, 1, x, 1, size, &constant, &slope, &c00, &c01, &c11, &rest);
    for (uint32_t i = 0; i < size; i++) {
        const double window = 0.5 - 0.5 * cos(2.0 * G_PI * i / size);
        work[i] = (x[i] - constant - slope * i) * window;
    }
    gsl_fft_real_radix2_transform(work, 1, size);
    for (uint32_t k = 1; k <= size / 2; k++) {
        const double real = work[k], imaginary = k < size / 2 ? work[size - k] : 0.0;
        power[k - 1] += real * real + imaginary * imaginary;
    }
}

static rgp_spectrum *average(const double *x, guint points, double step)
{
    const uint32_t size = segment_of(points);
    rgp_spectrum *s = g_new0(rgp_spectrum, 1);
    g_autofree double *work = g_new(double, size);
    s->lines = size / 2;
    s->step = 1.0 / (step * size);
    s->density = g_new0(double, s->lines);
    for (guint from = 0; from + size <= points; from += size / 2, s->segments++) {
        add_segment(x + from, size, work, s->density);
    }
    for (uint32_t k = 0; k < s->lines;
         k++) { /* a Hann window has a mean square of 3/8; all but the last stand for two */
        const double sides = k + 1 < s->lines ? 2.0 : 1.0;
        s->density[k] = sqrt(sides * s->density[k] * step / (0.375 * size * s->segments));
        s->peak = s->density[k] > s->density[s->peak] ? k : s->peak;
    }
    const double freedom = FREEDOM * s->segments;
    s->low = sqrt(freedom / gsl_cdf_chisq_Pinv(0.975, freedom));
    s->high = sqrt(freedom / gsl_cdf_chisq_Pinv(0.025, freedom));
    return s;
}

rgp_spectrum *rgp_spectrum_of(const rgp_course *c, char **why)
{
    const guint points = c->point->len;
    if (points < POINTS_LEAST) {
        *why = g_strdup_printf("a spectrum needs %u rows, and there are %u", POINTS_LEAST, points);
        return NULL;
    }
    const double step = step_of(c);
    if (step <= 0.0) {
        *why = g_strdup("the rows are not evenly apart; take a part of it that is, with --from and --to");
        return NULL;
    }
    uint32_t filled = 0;
    g_autofree double *x = fill(c, &filled);
    if (filled > points / FILLED_MOST) {
        *why = g_strdup_printf("'%s' was not to be used in %u of %u rows", c->name, filled, points);
        return NULL;
    }
    rgp_spectrum *s = average(x, points, step);
    s->filled = filled;
    return s;
}

void rgp_spectrum_free(rgp_spectrum *s)
{
    if (s) {
        g_free(s->density);
        g_free(s);
    }
}
