#include "polar.h"

#include "gnuplot.h"

#include "record/tell.h"

#include <math.h>
#include <string.h>

#define LIT 1.15 /* of the farthest reading: how far the picture goes */

typedef struct polar {
    const rp_recording *r;
    uint32_t value, place;
    double degrees; /* in one unit of the place */
} polar;

static const struct {
    const char *unit;
    double degrees;
} angles[] = {{"deg", 1.0}, {"°", 1.0}, {"rad", 57.29577951308232}, {"turn", 360.0}, {"turns", 360.0}};

static double degrees_of(const rp_image_header *image, uint32_t slot)
{
    const char *unit = rp_image_unit(image, RP_NAME_SLOT, slot, 0);
    for (size_t i = 0; i < G_N_ELEMENTS(angles); i++) {
        if (strcmp(angles[i].unit, unit) == 0) {
            return angles[i].degrees;
        }
    }
    return 0.0;
}

static bool is_seen(const polar *p, uint32_t row)
{
    return rp_usable(rp_recording_quality(p->r, p->value, row)) && rp_usable(rp_recording_quality(p->r, p->place, row));
}

/* The last row at which the place turned round for good: where the last whole pass began. */
static uint32_t last_pass(const polar *p)
{
    const rp_extent all =
        rp_history_extent(p->r->history, (uint32_t)rp_history_slot(p->r->history, p->place), 0, p->r->rows);
    const float near_end = 0.1f * (all.greatest - all.least);
    uint32_t turns[2] = {0, 0};
    int side = 0;
    for (uint32_t row = 0; row < p->r->rows; row++) {
        const float at = rp_recording_value(p->r, p->place, row);
        const int now = at > all.greatest - near_end ? 1 : at < all.least + near_end ? -1 : 0;
        if (now != 0 && now != side) {
            side = now;
            turns[0] = turns[1];
            turns[1] = row;
        }
    }
    return turns[0];
}

static double put_points(const polar *p, const char *name, uint32_t from, uint32_t to, GString *script)
{
    double farthest = 0.0;
    g_string_append_printf(script, "$%s << EOD\n", name);
    for (uint32_t row = from; row < to; row++) {
        if (is_seen(p, row)) {
            const double value = (double)rp_recording_value(p->r, p->value, row);
            g_string_append_printf(script, "%.4f %.6g\n", (double)rp_recording_value(p->r, p->place, row) * p->degrees,
                                   value);
            farthest = fmax(farthest, value);
        }
    }
    g_string_append(script, "0 NaN\nEOD\n");
    return farthest;
}

static void put_title(const polar *p, GString *script)
{
    g_autoptr(GString) title = g_string_new(rp_image_text(p->r->image, RP_NAME_SLOT, p->value, 0));
    g_string_append_printf(title, " [%s] along %s", rp_image_unit(p->r->image, RP_NAME_SLOT, p->value, 0),
                           rp_image_text(p->r->image, RP_NAME_SLOT, p->place, 0));
    g_string_append(script, "set title ");
    gnuplot_quote(script, title->str);
    g_string_append(script, " font ',15' noenhanced\n");
}

GString *rp_polar_script(const rp_recording *recording, uint32_t value, uint32_t place, int32_t found,
                         const rp_figure *figure, char **why)
{
    const polar p = {recording, value, place, degrees_of(recording->image, place)};
    const char *name = rp_image_text(recording->image, RP_NAME_SLOT, place, 0);
    if (p.degrees == 0.0) {
        *why = g_strdup_printf("'%s' is no angle; it must be in deg, rad or turns", name);
        return NULL;
    }
    GString *script = g_string_new(NULL);
    const uint32_t last = last_pass(&p);
    gnuplot_head(script, figure->path, figure->width, figure->height);
    const double farthest =
        fmax(put_points(&p, "before", 0, last, script), put_points(&p, "last", last, recording->rows, script));
    if (!(farthest > 0.0)) {
        *why =
            g_strdup_printf("nothing of '%s' is to be seen", rp_image_text(recording->image, RP_NAME_SLOT, value, 0));
        g_string_free(script, TRUE);
        return NULL;
    }
    put_title(&p, script);
    g_string_append_printf(
        script,
        "set polar\nset angles degrees\nset theta top clockwise\nset size square\nunset border\n"
        "unset xtics\nunset ytics\nset rrange [0:%.6g]\nset rtics font ',10'\nset ttics 0,30 font ',10'\n"
        "set grid polar 30 linecolor rgb '#E0E0E0' linetype 1\nset key outside right top noenhanced\n",
        farthest * LIT);
    g_string_append(script,
                    "plot $before using 1:2 with points pointtype 7 pointsize 0.4 linecolor rgb '#BFD7EA' title "
                    "'earlier passes', $last using 1:2 with points pointtype 7 pointsize 0.7 linecolor rgb '#0072B2' "
                    "title 'the last pass'");
    if (found >= 0 && rp_usable(rp_recording_quality(recording, (uint32_t)found, recording->rows - 1))) {
        const double at = (double)rp_recording_value(recording, (uint32_t)found, recording->rows - 1) *
                          degrees_of(recording->image, (uint32_t)found);
        g_string_append_printf(script,
                               ", '+' using (%.4f):($0 == 0 ? 0 : %.6g) every ::0::1 with lines linewidth 2 linecolor "
                               "rgb '#D55E00' title ",
                               at, farthest * LIT);
        g_autofree char *label =
            g_strdup_printf("%s: %.4g°", rp_image_text(recording->image, RP_NAME_SLOT, (uint32_t)found, 0), at);
        gnuplot_quote(script, label);
    }
    g_string_append_c(script, '\n');
    return script;
}
