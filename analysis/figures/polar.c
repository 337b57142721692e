/* A sweep as a picture: readings over the angle of what turns. */
#include "polar.h"

#include "gnuplot.h"

#include "explain/describe.h"

#include <math.h>
#include <string.h>

#define BEYOND     1.08  /* of the farthest reading: how far the picture goes */
#define LABEL_AT   1.05  /* of that: where the angles are written */
#define ROUND_FROM 300.0 /* degrees that are swept: the whole circle is drawn */
#define RAYS_MOST  9.0
#define RINGS_MOST 5.0
#define ARC_STEP   1.0  /* degrees */
#define MARGIN     0.08 /* of the picture's range, around it */

typedef struct polar {
    const rgp_recording *r;
    uint32_t value, place;
    double degrees;   /* in one unit of the place */
    double low, high; /* the sector that was swept, in degrees, to whole rays */
    double ray;       /* degrees from ray to ray */
    double radius;    /* how far the picture goes */
    GString *to;
} polar;

/* 0 degrees are at the top, and angles go clockwise. */
static double across(double distance, double angle)
{
    return distance * sin(angle * G_PI / 180.0);
}

static double along(double distance, double angle)
{
    return distance * cos(angle * G_PI / 180.0);
}

static const struct {
    const char *unit;
    double degrees;
} angles[] = {{"deg", 1.0}, {"°", 1.0}, {"rad", 57.29577951308232}, {"turn", 360.0}, {"turns", 360.0}};

static double degrees_of(const rgp_image_header *image, uint32_t slot)
{
    const char *unit = rgp_image_unit(image, RGP_NAME_SLOT, slot, 0);
    for (size_t i = 0; i < G_N_ELEMENTS(angles); i++) {
        if (strcmp(angles[i].unit, unit) == 0) {
            return angles[i].degrees;
        }
    }
    return 0.0;
}

static bool is_seen(const polar *p, uint32_t row)
{
    return rgp_usable(rgp_recording_quality(p->r, p->value, row)) &&
           rgp_usable(rgp_recording_quality(p->r, p->place, row)) && rgp_recording_value(p->r, p->value, row) >= 0.0f;
}

/* The last row at which the place turned round for good: where the last whole pass began. */
static uint32_t last_pass(const polar *p)
{
    const rgp_extent all =
        rgp_history_extent(p->r->history, (uint32_t)rgp_history_slot(p->r->history, p->place), 0, p->r->rows);
    const float near_end = 0.1f * (all.greatest - all.least);
    uint32_t turns[2] = {0, 0};
    int side = 0;
    for (uint32_t row = 0; row < p->r->rows; row++) {
        const float at = rgp_recording_value(p->r, p->place, row);
        const int now = at > all.greatest - near_end ? 1 : at < all.least + near_end ? -1 : 0;
        if (now != 0 && now != side) {
            side = now;
            turns[0] = turns[1];
            turns[1] = row;
        }
    }
    return turns[0];
}

static double farthest(const polar *p)
{
    double most = 0.0;
    for (uint32_t row = 0; row < p->r->rows; row++) {
        most = is_seen(p, row) ? fmax(most, (double)rgp_recording_value(p->r, p->value, row)) : most;
    }
    return most;
}

static void find_sector(polar *p)
{
    static const double rays[] = {5.0, 10.0, 15.0, 30.0, 45.0};
    const rgp_extent swept =
        rgp_history_extent(p->r->history, (uint32_t)rgp_history_slot(p->r->history, p->place), 0, p->r->rows);
    const double low = (double)swept.least * p->degrees, high = (double)swept.greatest * p->degrees;
    size_t i = 0;
    while (i + 1 < G_N_ELEMENTS(rays) && (high - low) / rays[i] > RAYS_MOST) {
        i++;
    }
    p->ray = rays[i];
    p->low = p->ray * floor(low / p->ray) + 0.0; /* no -0 */
    p->high = fmax(p->ray * ceil(high / p->ray), p->low + p->ray);
    if (high - low > ROUND_FROM) {
        p->low = -180.0;
        p->high = 180.0;
    }
}

/* ---- the script -------------------------------------------------------------------------------------- */

static void put_points(const polar *p, const char *name, uint32_t from, uint32_t to)
{
    g_string_append_printf(p->to, "$%s << EOD\n", name);
    for (uint32_t row = from; row < to; row++) {
        const double value = (double)rgp_recording_value(p->r, p->value, row);
        const double angle = (double)rgp_recording_value(p->r, p->place, row) * p->degrees;
        if (is_seen(p, row)) {
            g_string_append_printf(p->to, "%.6g %.6g\n", across(value, angle), along(value, angle));
        }
    }
    g_string_append(p->to, "NaN NaN\nEOD\n");
}

static void put_label(const polar *p, const char *text, double distance, double angle, const char *how)
{
    g_string_append(p->to, "set label ");
    gnuplot_quote(p->to, text);
    g_string_append_printf(p->to, " at %.6g,%.6g %s font ',10' textcolor rgb '#333333' noenhanced\n",
                           across(distance, angle), along(distance, angle), how);
}

/* Rings of one distance and rays of one angle, over the sector. */
static void put_grid(const polar *p)
{
    const double ring = gnuplot_step(p->radius, RINGS_MOST);
    g_string_append(p->to, "$grid << EOD\n");
    for (double r = ring; r <= p->radius; r += ring) {
        for (double a = p->low; a <= p->high; a += ARC_STEP) {
            g_string_append_printf(p->to, "%.6g %.6g\n", across(r, a), along(r, a));
        }
        g_string_append(p->to, "\n");
    }
    for (double a = p->low; a <= p->high; a += p->ray) {
        g_string_append_printf(p->to, "0 0\n%.6g %.6g\n\n", across(p->radius, a), along(p->radius, a));
    }
    g_string_append(p->to, "EOD\n");
    for (double r = ring; r <= p->radius; r += ring) {
        g_autofree char *text = g_strdup_printf("%g", r);
        put_label(p, text, r, p->low, "right offset -0.6,-0.3");
    }
    for (double a = p->low; a <= fmin(p->high, p->low + 359.0); a += p->ray) {
        g_autofree char *text = g_strdup_printf("%g°", a);
        put_label(p, text, LABEL_AT * p->radius, a, "center");
    }
}

/* As much of the plane as the sector takes. */
static void put_ranges(const polar *p)
{
    double left = 0.0, right = 0.0, bottom = 0.0, top = 0.0;
    for (double a = p->low; a <= p->high; a += ARC_STEP) {
        left = fmin(left, across(p->radius, a));
        right = fmax(right, across(p->radius, a));
        bottom = fmin(bottom, along(p->radius, a));
        top = fmax(top, along(p->radius, a));
    }
    const double margin = MARGIN * fmax(right - left, top - bottom);
    g_string_append_printf(p->to,
                           "set size ratio -1\nunset border\nunset xtics\nunset ytics\nset xrange [%.6g:%.6g]\n"
                           "set yrange [%.6g:%.6g]\nset key at graph 1,1 right top noenhanced\n",
                           left - margin, right + margin, bottom - margin, top + margin);
}

static void put_title(const polar *p)
{
    const rgp_image_header *image = p->r->image;
    g_autofree char *value = gnuplot_titled(rgp_image_text(image, RGP_NAME_SLOT, p->value, 0),
                                            rgp_image_unit(image, RGP_NAME_SLOT, p->value, 0)),
                    *title = g_strdup_printf("%s along %s", value, rgp_image_text(image, RGP_NAME_SLOT, p->place, 0));
    g_string_append(p->to, "set title ");
    gnuplot_quote(p->to, title);
    g_string_append(p->to, " font ',15' noenhanced\n");
}

/* The line where the thing is said to be at the end. */
static void put_found(const polar *p, int32_t found)
{
    if (found < 0 || !rgp_usable(rgp_recording_quality(p->r, (uint32_t)found, p->r->rows - 1))) {
        return;
    }
    const double at =
        (double)rgp_recording_value(p->r, (uint32_t)found, p->r->rows - 1) * degrees_of(p->r->image, (uint32_t)found);
    g_autofree char *label =
        g_strdup_printf("%s: %.4g°", rgp_image_text(p->r->image, RGP_NAME_SLOT, (uint32_t)found, 0), at);
    g_string_append_printf(p->to,
                           ", '+' using ($0 * %.6g):($0 * %.6g) every ::0::1 with lines linewidth 2 linecolor rgb "
                           "'#D55E00' title ",
                           across(p->radius, at), along(p->radius, at));
    gnuplot_quote(p->to, label);
}

GString *rgp_polar_script(const rgp_recording *recording, uint32_t value, uint32_t place, int32_t found,
                          const rgp_figure *figure, char **why)
{
    polar p = {.r = recording, .value = value, .place = place, .degrees = degrees_of(recording->image, place)};
    if (p.degrees == 0.0) {
        *why = g_strdup_printf("'%s' is no angle; it must be in deg, rad or turns",
                               rgp_image_text(recording->image, RGP_NAME_SLOT, place, 0));
        return NULL;
    }
    p.radius = BEYOND * farthest(&p);
    if (!(p.radius > 0.0)) {
        *why =
            g_strdup_printf("nothing of '%s' is to be seen", rgp_image_text(recording->image, RGP_NAME_SLOT, value, 0));
        return NULL;
    }
    const uint32_t last = last_pass(&p);
    p.to = g_string_new(NULL);
    find_sector(&p);
    gnuplot_head(p.to, figure->path, figure->width, figure->height);
    put_points(&p, "before", 0, last);
    put_points(&p, "last", last, recording->rows);
    put_title(&p);
    put_ranges(&p);
    put_grid(&p);
    g_string_append(p.to,
                    "plot $grid using 1:2 with lines linecolor rgb '#D8D8D8' notitle, $before using 1:2 with "
                    "points pointtype 6 pointsize 0.8 linecolor rgb '#7FB2D9' title 'earlier passes', $last using "
                    "1:2 with points pointtype 7 pointsize 0.7 linecolor rgb '#0072B2' title 'the last pass'");
    put_found(&p, found);
    g_string_append_c(p.to, '\n');
    return p.to;
}
