/* A recording as a picture: the script for the plotting program, panel by panel. */
#include "figure.h"

#include "gnuplot.h"
#include "panels.h"

#include "explain/disassembly.h"
#include "explain/describe.h"

#include <math.h>
#include <string.h>

#define BUCKETS       1500u
#define LABEL_SPACING 0.02
#define TICS          28.0 /* over the whole height of a picture */
#define MARK_LETTERS  28
#define LETTER_WIDTH  0.0062 /* in shares of the picture's width */
#define KEY_WIDTH     0.0073 /* the same of a letter in a key */
#define NAME_MOST     32

/* ---- the script ---------------------------------------------------------------------------------- */

static double seconds(const rgp_recording *r, uint32_t row)
{
    return (double)rgp_recording_time_us(r, row) / 1e6;
}

/* A series as it is drawn: a slot, or by row; and where it goes. */
typedef struct series {
    int32_t column;     /* of the history, or -1 */
    const float *value; /* by row, when it is none */
    float scale, shift;
} series;

static float series_at(const drawing *d, const series *s, uint32_t row)
{
    return s->value ? s->value[row - d->first] : rgp_history_value(d->r->history, (uint32_t)s->column, row);
}

static bool is_drawn(const drawing *d, const series *s, uint32_t row)
{
    return s->value || rgp_usable(rgp_history_quality(d->r->history, (uint32_t)s->column, row));
}

static void put_point(const drawing *d, const series *s, uint32_t row)
{
    g_string_append_printf(d->to, "%.6f %.9g\n", seconds(d->r, row),
                           (double)(series_at(d, s, row) * s->scale + s->shift));
}

/* Thinned to the least and the greatest of each stretch, so that no spike is lost; broken where nothing is to be
 * trusted. */
static void put_series(const drawing *d, const char *name, guint panel_number, guint number, const series *s)
{
    const uint32_t rows = d->end, stretch_rows = (rows - d->first) / BUCKETS + 1;
    g_string_append_printf(d->to, "$%s_%u_%u << EOD\n", name, panel_number, number);
    for (uint32_t from = d->first; from < rows; from += stretch_rows) {
        const uint32_t end = MIN(from + stretch_rows, rows);
        uint32_t least = end, greatest = end;
        for (uint32_t row = from; row < end; row++) {
            if (is_drawn(d, s, row)) {
                least = least == end || series_at(d, s, row) < series_at(d, s, least) ? row : least;
                greatest = greatest == end || series_at(d, s, row) > series_at(d, s, greatest) ? row : greatest;
            }
        }
        if (least == end) {
            g_string_append_c(d->to, '\n');
            continue;
        }
        put_point(d, s, MIN(least, greatest));
        if (least != greatest) {
            put_point(d, s, MAX(least, greatest));
        }
    }
    g_string_append(d->to, "EOD\n");
}

static bool is_driven(const rgp_image_header *image, uint32_t slot)
{
    const uint32_t first = rgp_image_actuator_slot(image, 0);
    return slot >= first && slot < first + rgp_image_count(image, RGP_SECTION_ACTUATORS);
}

static void put_data(drawing *d)
{
    for (guint i = 0; i < d->panel->len; i++) {
        const panel *p = d->panel->pdata[i];
        for (guint k = 0; k < p->slot->len; k++) {
            const uint32_t slot = g_array_index(p->slot, uint32_t, k);
            const series s = {rgp_history_slot(d->r->history, slot), NULL,
                              p->states ? panels_lane_step(d->r->image, slot) : 1.0f,
                              p->states ? (float)panels_lane_of(d->r->image, p, k) : 0.0f};
            put_series(d, "s", i, k, &s);
        }
        for (guint k = 0; k < p->border->len; k++) {
            const series s = {-1, g_array_index(p->border, panel_border, k).value, 1.0f, 0.0f};
            put_series(d, "b", i, k, &s);
        }
    }
}

/* Stretches in which something in the panel was not to be trusted. */
static void put_bad_stretches(const drawing *d, const panel *p)
{
    const rgp_recording *r = d->r;
    uint32_t from = 0, drawn = 0;
    bool bad_before = false;
    for (uint32_t row = d->first; row <= d->end && drawn < 300; row++) {
        bool bad = false;
        for (guint k = 0; row < d->end && k < p->slot->len; k++) {
            bad |= !rgp_usable(rgp_recording_quality(r, g_array_index(p->slot, uint32_t, k), row));
        }
        if (bad && !bad_before) {
            from = row;
        } else if (!bad && bad_before) {
            g_string_append_printf(d->to,
                                   "set object rectangle from first %.6f,graph 0 to first %.6f,graph 1 behind "
                                   "fillcolor rgb '#DDDDDD' fillstyle solid noborder\n",
                                   seconds(r, from), seconds(r, row < d->end ? row : d->end - 1));
            drawn++;
        }
        bad_before = bad;
    }
}

static void put_band_names(const drawing *d, const panel *p)
{
    if (!p->band_name) {
        return;
    }
    const uint32_t last = d->end - 1 - d->first;
    const guint borders = p->band_name->len - 1;
    for (guint i = 0; i <= borders; i++) {
        const double low = i > 0 ? (double)g_array_index(p->border, panel_border, i - 1).value[last] : p->low;
        const double high = i < borders ? (double)g_array_index(p->border, panel_border, i).value[last] : p->high;
        g_string_append(d->to, "set label ");
        gnuplot_quote(d->to, p->band_name->pdata[i]);
        g_string_append_printf(
            d->to, " at graph 0.992, first %.9g right front textcolor rgb '#777777' font ',11' noenhanced\n",
            (fmax(low, p->low) + fmin(high, p->high)) / 2.0);
    }
}

static void put_border_labels(const drawing *d, const panel *p)
{
    for (guint i = 0; i < p->border->len; i++) {
        const panel_border *b = &g_array_index(p->border, panel_border, i);
        uint32_t beside = 0; /* others that are as good as in the same place */
        bool again = false;
        for (guint k = 0; k < i; k++) {
            const panel_border *other = &g_array_index(p->border, panel_border, k);
            beside += fabs((double)(other->value[0] - b->value[0])) < 0.12 * (p->high - p->low);
            again |= other->value[0] == b->value[0] && strcmp(other->label, b->label) == 0;
        }
        if (again) {
            continue;
        }
        g_autoptr(GString) text = g_string_new(b->label);
        g_string_append(text, *b->label ? " " : "");
        g_autofree char *unit = gnuplot_unit(p->unit);
        rgp_describe_number((double)b->value[0], unit, text);
        g_string_append(d->to, "set label ");
        gnuplot_quote(d->to, text->str);
        g_string_append_printf(d->to,
                               " at graph %.3f, first %.9g left offset 0,0.5 textcolor rgb '#777777' font ',10' "
                               "noenhanced\n",
                               0.006 + 0.15 * beside, (double)b->value[0]);
    }
}

static char *shortened(const char *text)
{
    if (g_utf8_strlen(text, -1) <= MARK_LETTERS) {
        return g_strdup(text);
    }
    g_autofree char *head = g_utf8_substring(text, 0, MARK_LETTERS - 1);
    return g_strconcat(head, "…", NULL);
}

/* Thin lines where a rule fired; in the top panel also the rule's line number, and the words of marks. */
static void put_events(const drawing *d, bool top)
{
    const double begin = seconds(d->r, d->first), end = seconds(d->r, d->end - 1), span = end - begin;
    double labelled = -INFINITY, marked = -INFINITY; /* up to where there is something written already */
    const GPtrArray *all = rgp_history_occurrences(d->r->history);
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *e = all->pdata[i];
        const bool fired = e->kind == RGP_EVENT_FIRED, mark = e->kind == RGP_EVENT_MARK;
        if ((!fired && !mark) || e->until < begin || e->time > end) {
            continue;
        }
        if (e->until > e->time) {
            g_string_append_printf(d->to,
                                   "set object rectangle from first %.6f,graph 0 to first %.6f,graph 1 behind "
                                   "fillstyle solid noborder fillcolor rgb '#F3EFE0'\n",
                                   fmax(e->time, begin), fmin(e->until, end));
        } else if (fired || e->line == 0) {
            g_string_append_printf(d->to,
                                   "set arrow from first %.6f,graph 0 to first %.6f,graph 1 nohead back "
                                   "linecolor rgb '#B0B0B0' linewidth 1 dashtype 3\n",
                                   e->time, e->time);
        }
        double *const last = fired ? &labelled : &marked;
        if (top && e->time > *last) {
            g_autofree char *text = fired ? g_strdup_printf("%u", e->line) : shortened(e->of);
            const double letters = fired ? 0.0 : LETTER_WIDTH * (double)g_utf8_strlen(text, -1);
            *last = e->time + (LABEL_SPACING + letters) * span;
            g_string_append(d->to, "set label ");
            gnuplot_quote(d->to, text);
            g_string_append_printf(d->to, " at first %.6f,graph 1 %s textcolor rgb '#333333' font ',10' noenhanced\n",
                                   e->time, fired ? "center offset 0,0.6" : "left offset 0,1.6");
        }
    }
}

/* A slot's name in at most NAME_MOST letters, by its beginning and its end: 'x' is not 'x_target'. To be freed. */
static char *name_of(const drawing *d, uint32_t slot)
{
    const char *name = rgp_image_text(d->r->image, RGP_NAME_SLOT, slot, 0);
    const glong letters = g_utf8_strlen(name, -1);
    if (letters <= NAME_MOST) {
        return g_strdup(name);
    }
    g_autofree char *begin = g_utf8_substring(name, 0, NAME_MOST / 2 - 1),
                    *end = g_utf8_substring(name, letters - NAME_MOST / 2, letters);
    return g_strconcat(begin, "…", end, NULL);
}

static void put_curves(const drawing *d, const panel *p, guint number)
{
    const rgp_image_header *image = d->r->image;
    const char *separator = "plot ";
    for (guint k = 0; k < p->border->len; k++) {
        g_string_append_printf(
            d->to, "%s$b_%u_%u using 1:2 with steps notitle linecolor rgb '#999999' linewidth 1.2 dashtype 2",
            separator, number, k);
        separator = ", ";
    }
    for (guint k = 0; k < p->slot->len; k++) {
        const uint32_t slot = g_array_index(p->slot, uint32_t, k);
        const bool steps = p->states || is_driven(image, slot);
        g_string_append_printf(
            d->to, "%s$s_%u_%u using 1:2 with %s linewidth 1.8 dashtype %s linecolor rgb '%s' title ", separator,
            number, k, steps ? "steps" : "lines", gnuplot_dash(steps ? 0 : k), gnuplot_color(k));
        g_autofree char *name = name_of(d, slot);
        gnuplot_quote(d->to, name);
        separator = ", ";
    }
    g_string_append_c(d->to, '\n');
}

static void put_state_axis(const drawing *d, const panel *p)
{
    g_string_append(d->to, "set ytics (");
    for (guint k = 0; k < p->slot->len; k++) {
        const uint32_t slot = g_array_index(p->slot, uint32_t, k);
        const uint32_t lane = panels_lane_of(d->r->image, p, k);
        const uint32_t parts = panels_parts_of(d->r->image, slot);
        for (uint32_t part = 0; part<parts; part += parts> NAMES_MOST ? parts - 1u : 1u) {
            g_autofree char *name = name_of(d, slot),
                            *plain = part > 0 && parts > NAMES_MOST
                                         ? g_strdup_printf("%s step %u", name, part)
                                         : g_strdup_printf("%s %s", name,
                                                           rgp_image_text(d->r->image, RGP_NAME_PART, slot, part));
            g_auto(GStrv) around = g_strsplit(plain, "%", -1); /* a tic's text is a format */
            g_autofree char *text = g_strjoinv("%%", around);
            gnuplot_quote(d->to, text);
            g_string_append_printf(d->to, " %g%s", (double)lane + (double)panels_lane_step(d->r->image, slot) * part,
                                   k + 1 < p->slot->len || part + 1 < parts ? ", " : ") font ',10' noenhanced\n");
        }
    }
    g_string_append_printf(d->to, "set yrange [-0.25:%g]\nunset ylabel\n",
                           (double)(panels_lane_of(d->r->image, p, 0) +
                                    panels_lane_height(d->r->image, g_array_index(p->slot, uint32_t, 0))) -
                               0.75);
}

/* Of more than one curve the names stand in the key. `height`: in shares of the picture. */
static void put_value_axis(const drawing *d, const panel *p, double height)
{
    g_string_append_printf(d->to, "set ytics %.9g font ',10'\nset yrange [%.9g:%.9g]\nset ylabel ",
                           gnuplot_step(p->high - p->low, fmax(2.0, height * TICS)), p->low, p->high);
    const bool one = p->slot->len == 1;
    g_autofree char *title = gnuplot_titled(
        one ? rgp_image_text(d->r->image, RGP_NAME_SLOT, g_array_index(p->slot, uint32_t, 0), 0) : "", p->unit);
    gnuplot_quote(d->to, title);
    g_string_append(d->to, " offset 0.5,0 font ',10' noenhanced\n");
}

/* Heights in shares of the picture: panels of states are flat. */
static double weight(const drawing *d, const panel *p)
{
    uint32_t parts = 0;
    for (guint k = 0; p->states && k < p->slot->len; k++) {
        parts += panels_lane_height(d->r->image, g_array_index(p->slot, uint32_t, k));
    }
    return p->states ? 0.2 + 0.11 * parts : strcmp(p->unit, "%") == 0 ? 0.7 : 1.0;
}

static void put_title(const drawing *d)
{
    const rgp_recording *r = d->r;
    const bool whole = d->first == 0 && d->end == r->rows;
    g_autofree char *title =
        whole ? g_strdup_printf("%s: %.6g s, %s", rgp_image_text(r->image, RGP_NAME_RIG, 0, 0),
                                seconds(r, r->rows - 1) + r->image->tick_us / 1e6, r->ending)
              : g_strdup_printf("%s: from %.6g to %.6g s", rgp_image_text(r->image, RGP_NAME_RIG, 0, 0),
                                seconds(r, d->first), seconds(r, d->end - 1));
    g_string_append(d->to, "set label ");
    gnuplot_quote(d->to, title);
    g_string_append(d->to,
                    " at screen 0.085,0.965 left font ',15' noenhanced\n"
                    "set label 'dotted: a rule fired (above it its line in the rig file)   grey dashes: limits   "
                    "grey: not to be trusted' at screen 0.915,0.965 right font ',10' textcolor rgb '#666666' "
                    "noenhanced\n");
}

static bool has_key(const panel *p)
{
    return p->slot->len > 1 && !p->states;
}

static void put_panels(drawing *d)
{
    const double top = 0.885, bottom = 0.085, gap = 0.02;
    double total = 0.0, at = top;
    for (guint i = 0; i < d->panel->len; i++) {
        total += weight(d, d->panel->pdata[i]);
    }
    for (guint i = 0; i < d->panel->len; i++) {
        panel *p = d->panel->pdata[i];
        const bool last = i + 1 == d->panel->len;
        const double height = (top - bottom) * weight(d, p) / total;
        g_string_append_printf(d->to,
                               "unset label\nunset arrow\nunset object\nset tmargin at screen %.4f\n"
                               "set bmargin at screen %.4f\n",
                               at, at - height + (last ? 0.0 : gap));
        at -= height;
        g_string_append(d->to, has_key(p) ? "set key on\n" : "set key off\n");
        g_string_append(d->to, last ? "set format x '%g'\nset xlabel 'time [s]'\n" : "set format x ''\nunset xlabel\n");
        put_bad_stretches(d, p);
        if (p->states) {
            put_state_axis(d, p);
        } else {
            put_value_axis(d, p, height);
            put_band_names(d, p);
            put_border_labels(d, p);
        }
        put_events(d, i == 0);
        if (i == 0) {
            put_title(d);
        }
        put_curves(d, p, i);
    }
}

static glong letters_of(const drawing *d, uint32_t slot)
{
    g_autofree char *name = name_of(d, slot);
    return g_utf8_strlen(name, -1);
}

/* In shares of the picture: room for the longest name of a state. */
static double left_margin(const drawing *d)
{
    glong letters = 0;
    for (guint i = 0; i < d->panel->len; i++) {
        const panel *p = d->panel->pdata[i];
        for (guint k = 0; p->states && k < p->slot->len; k++) {
            const uint32_t slot = g_array_index(p->slot, uint32_t, k), parts = panels_parts_of(d->r->image, slot);
            const glong name = letters_of(d, slot);
            for (uint32_t part = 0; part < parts; part++) {
                const char *text = rgp_image_text(d->r->image, RGP_NAME_PART, slot, part);
                letters = MAX(letters, name + 1 + (parts > NAMES_MOST ? 7 : g_utf8_strlen(text, -1)));
            }
        }
    }
    return fmax(0.085, 0.012 + LETTER_WIDTH * (double)letters);
}

/* The same for the longest name in a key, behind its sample. */
static double right_margin(const drawing *d)
{
    glong letters = 0;
    for (guint i = 0; i < d->panel->len; i++) {
        const panel *p = d->panel->pdata[i];
        for (guint k = 0; has_key(p) && k < p->slot->len; k++) {
            const uint32_t slot = g_array_index(p->slot, uint32_t, k);
            letters = MAX(letters, letters_of(d, slot));
        }
    }
    return fmin(0.915, 0.957 - KEY_WIDTH * (double)letters);
}

static void put_head(drawing *d, const rgp_figure *figure)
{
    const rgp_recording *r = d->r;
    gnuplot_head(d->to, figure->path, figure->width, figure->height);
    g_string_append_printf(
        d->to,
        "set multiplot\nset lmargin at screen %.4f\n"
        "set rmargin at screen %.4f\nset grid linecolor rgb '#E4E4E4' linetype 1 linewidth 1\n"
        "set border 3 linecolor rgb '#666666'\nset tics nomirror textcolor rgb '#333333'\n"
        "set key outside right center vertical noenhanced samplen 1.2 font ',11'\nset xrange [%.6f:%.6f]\n",
        left_margin(d), right_margin(d), seconds(r, d->first),
        d->end > d->first + 1 ? seconds(r, d->end - 1) : seconds(r, d->first) + 1.0);
}

static void free_panel(void *self)
{
    panel *p = self;
    for (guint i = 0; i < p->border->len; i++) {
        g_free(g_array_index(p->border, panel_border, i).label);
        g_free(g_array_index(p->border, panel_border, i).value);
    }
    if (p->band_name) {
        g_ptr_array_unref(p->band_name);
    }
    g_array_unref(p->border);
    g_array_unref(p->slot);
    g_free(p);
}

static void find_rows(drawing *d, const rgp_figure *figure)
{
    const rgp_history *h = d->r->history;
    d->first = (uint32_t)rgp_history_find(h, (uint64_t)(figure->from * 1e6 + 0.5));
    d->end = figure->to > 0.0 ? (uint32_t)rgp_history_find(h, (uint64_t)(figure->to * 1e6 + 0.5) + 1) : d->r->rows;
    d->first = MIN(d->first, d->r->rows - 1);
    d->end = CLAMP(d->end, d->first + 1, d->r->rows);
}

GString *rgp_figure_script(const rgp_recording *recording, const rgp_figure *figure)
{
    drawing d = {.r = recording,
                 .names = figure->names,
                 .param_value = g_new0(float, rgp_image_count(recording->image, RGP_SECTION_PARAMS) + 1),
                 .panel = g_ptr_array_new_with_free_func(free_panel),
                 .to = g_string_new(NULL)};
    find_rows(&d, figure);
    panels_place_slots(&d);
    panels_place_borders(&d);
    for (guint i = 0; i < d.panel->len; i++) {
        panels_find_range(&d, d.panel->pdata[i]);
    }
    put_data(&d);
    put_head(&d, figure);
    put_panels(&d);
    g_string_append(d.to, "unset multiplot\n");
    g_ptr_array_unref(d.panel);
    g_free(d.param_value);
    return d.to;
}
