/* From points to settings, to a text, and to what is said about it. */
#include "result.h"

#include "analysis/fit.h"
#include "analysis/figures/fit_figure.h"
#include "tool/picture.h"
#include "runtime/ports.h"
#include "explain/describe.h"
#include "tool/rewrite.h"

#include <jansson.h>
#include <math.h>
#include <string.h>

#define NINETEEN_OF_TWENTY 1.96 /* standard errors */

void calibrate_list(const calibration *c, GString *to)
{
    for (guint i = 0; i < c->point->len; i++) {
        const calibrate_point *p = calibrate_point_at(c, i);
        g_autofree char *in = calibrate_number_text(p->capture.in, calibrate_in_unit(c));
        g_string_append_printf(to, "%3u  ", i + 1);
        calibrate_put_padded(to, 12, p->text);
        g_string_append_printf(to, "%s ±%.2g, noise %.2g%s%s%s\n", in, p->capture.in_error, p->capture.noise,
                               p->doubtful ? "   taken anyway: " : "", p->doubtful ? p->capture.reason : "",
                               p->from == p->to ? "   (stated)" : "");
    }
}

/* ---- the new text ---------------------------------------------------------------------------------- */

static bool write_settings(calibration *c, const rgp_fit *fit, char **why)
{
    static const struct {
        const char *word;
        guint which[3], count;
    } measured[] = {{"line", {0, 1}, 2},
                    {"power", {0, 1, 2}, 3},
                    {"echo", {0}, 1},
                    {"beta", {0, 1}, 2},
                    {"steinhart", {0, 1, 2}, 3}};
    if (strcmp(c->what.word, "table") == 0) {
        if (fit->knots > RGP_CALIBRATION_BANDS_MAX) {
            *why = g_strdup_printf("a table holds %d points, and these are %u", RGP_CALIBRATION_BANDS_MAX, fit->knots);
            return false;
        }
        c->edited = g_strdup(rgp_edit_points(calibrate_rig(c), &c->what, fit->knot_in, fit->knot_out, fit->knots));
        return true;
    }
    guint i = 0;
    while (strcmp(measured[i].word, c->what.word) != 0) {
        i++;
    }
    double number[3];
    for (guint k = 0; k < measured[i].count; k++) {
        number[k] = fit->setting[measured[i].which[k]];
    }
    return calibrate_write_places(c, measured[i].which, number, c->what.summed ? 1 : measured[i].count, why);
}

/* ---- trying it ------------------------------------------------------------------------------------- */

/* The input of the fit: 'steinhart' is stated for ohms, whatever its input is in. */
static double fit_scale(const calibration *c)
{
    g_autofree char *one = g_strdup_printf("1 %s", c->what.input_unit);
    double ohms;
    const char *why;
    return strcmp(c->what.word, "steinhart") == 0 && rgp_quantity_parse(one, "ohm", &ohms, &why) ? ohms : 1.0;
}

/* The reading at each point by the file as it would be written. A sum has no zero of its own: it begins at the first
 * point. */
static void read_back(const calibration *c, const rgp_rig *rig, const rgp_fit *fit, double *reads)
{
    for (guint i = 0; i < c->point->len; i++) {
        const calibrate_point *p = calibrate_point_at(c, i);
        const double curve = (rgp_fit_at(fit, p->capture.in * fit_scale(c)) - c->what.offset) / c->what.gain;
        reads[i] = p->to > p->from
                       ? capture_session_reads(c->capture_session, rig, c->name, p->from, p->to, !c->what.summed)
                       : curve;
    }
    for (guint i = c->point->len; c->what.summed && i-- > 0;) {
        reads[i] += calibrate_point_at(c, 0)->known - reads[0];
    }
}

/* ---- signals --------------------------------------------------------------------------------------- */

typedef struct outcome {
    rgp_fit *fit; /* NULL: the calibration was moved as a whole */
    double reads[RGP_FIT_POINTS_MAX];
    double gain; /* one output unit of the stage in units of the signal */
} outcome;

static const char *short_name(const char *path)
{
    const char *slash = strrchr(path, '/');
    return slash ? slash + 1 : path;
}

/* The reading without the point, less what is known, as "off by" beside it. */
static double left_out_of(const calibration *c, const outcome *o, const calibrate_point *p)
{
    for (guint i = 0; o->fit && i < o->fit->points; i++) {
        if (o->fit->point[i].in == p->capture.in * fit_scale(c)) {
            return -o->fit->left_out[i] * o->gain;
        }
    }
    return (double)NAN;
}

/* A sum that does not lie on a line: it is its zero that is off, not the line. */
static const char *advice_of(const calibration *c, const outcome *o)
{
    return c->what.summed && rgp_fit_is_bent(o->fit)
               ? "the sum creeps between the points, since the zero of what is summed is not exact; be quicker between "
                 "them, or learn the zero over a longer time"
               : o->fit->advice;
}

static void put_range(const calibration *c, GString *to)
{
    double range[2];
    if (calibrate_writes_range(c, range)) {
        g_autofree char *low = calibrate_number_text((range[0] - c->what.offset) / c->what.gain, c->what.unit);
        g_autofree char *high = calibrate_number_text((range[1] - c->what.offset) / c->what.gain, c->what.unit);
        g_string_append_printf(
            to, "known from %s to %s: what is farther beyond than 2 %% of that way is out of range\n", low, high);
    }
}

static void put_outcome(const calibration *c, const outcome *o)
{
    GString *to = c->said;
    const char *unit = c->what.unit;
    g_string_append_printf(to, "  #  %-12s%-20s%-16s%-14s%s%s%s\n", "known", "went in", "now it reads", "off by",
                           "off by, were it left out", *unit ? ", in " : "", unit);
    for (guint i = 0; i < c->point->len; i++) {
        const calibrate_point *p = calibrate_point_at(c, i);
        const double left_out = left_out_of(c, o, p);
        g_autofree char *in = calibrate_number_text(p->capture.in, calibrate_in_unit(c)),
                        *reads = calibrate_number_text(o->reads[i], unit);
        g_string_append_printf(to, "%3u  ", i + 1);
        calibrate_put_padded(to, 12, p->text);
        calibrate_put_padded(to, 20, in);
        calibrate_put_padded(to, 16, reads);
        g_autofree char *off = calibrate_error_text(o->reads[i] - p->known), *without = calibrate_error_text(left_out);
        g_string_append_printf(to, "%-14s%s\n", off, without);
    }
    if (o->fit) {
        const double expected = o->fit->expected * fabs(o->gain);
        g_autofree char *most = calibrate_error_text(expected);
        g_string_append(to, "expected error between the points: ");
        if (isfinite(expected)) {
            g_string_append_printf(to, "at most %s%s%s (19 of 20 times)\n", most, *unit ? " " : "", unit);
        } else {
            g_string_append(to, "not known\n");
        }
        g_string_append_printf(to, "%s\n", advice_of(c, o));
        put_range(c, to);
    }
}

static json_t *outcome_as_json(const calibration *c, const outcome *o)
{
    json_t *all = json_object(), *points = json_array();
    for (guint i = 0; i < c->point->len; i++) {
        const calibrate_point *p = calibrate_point_at(c, i);
        const double left_out = left_out_of(c, o, p);
        json_t *one = json_pack("{s:s, s:f, s:f, s:f, s:f, s:f, s:b}", "stated", p->text, "known", p->known, "in",
                                p->capture.in, "in_error", p->capture.in_error, "noise", p->capture.noise, "reads",
                                o->reads[i], "doubtful", (int)p->doubtful);
        json_object_set_new(one, "left_out", isfinite(left_out) ? json_real(left_out) : json_null());
        json_array_append_new(points, one);
    }
    json_object_set_new(all, "signal", json_string(c->name));
    json_object_set_new(all, "stage", json_string(c->what.word));
    json_object_set_new(all, "unit", json_string(c->what.unit));
    json_object_set_new(all, "points", points);
    if (o->fit) {
        json_object_set_new(all, "expected_error",
                            isfinite(o->fit->expected) ? json_real(o->fit->expected * fabs(o->gain)) : json_null());
        json_object_set_new(all, "advice", json_string(advice_of(c, o)));
    }
    return all;
}

/* Of an 'echo': the distance for one input unit of time at 1 m/s. */
static bool echo_scale(const calibration *c, double *scale)
{
    g_autofree char *one = g_strdup_printf("1 %s", c->what.input_unit);
    double seconds, metre;
    const char *why;
    const bool known =
        rgp_quantity_parse(one, "s", &seconds, &why) && rgp_quantity_parse("1 m", c->what.unit, &metre, &why);
    *scale = known ? 0.5 * seconds * metre / c->what.gain : 0.0;
    return known;
}

static bool has_whole_inputs(const calibration *c)
{
    return strcmp(c->what.input_unit, "counts") == 0;
}

/* The error of the zero that a sum takes off, times the time from the first capture to the last, is in all captures
 * alike, so that their scatter does not show it. */
static void share_zero_error(const calibration *c, rgp_fit *fit)
{
    const double seconds = (calibrate_point_at(c, c->point->len - 1)->to - calibrate_point_at(c, 0)->from) *
                           capture_session_intake(c->capture_session)->tick;
    const double shared =
        NINETEEN_OF_TWENTY * fit->setting[0] * capture_session_zero_error(c->capture_session) * seconds;
    fit->expected = hypot(fit->expected, shared);
}

static bool fit_signal(calibration *c, outcome *o, char **why)
{
    rgp_fit_point point[RGP_FIT_POINTS_MAX];
    double setting[RGP_FIT_SETTINGS_MAX] = {0};
    const double scale = fit_scale(c);
    if (c->point->len > RGP_FIT_POINTS_MAX) {
        *why = g_strdup_printf("%u points are more than the %u that are fitted", c->point->len, RGP_FIT_POINTS_MAX);
        return false;
    }
    if (c->what.summed && strcmp(c->what.word, "line") != 0) {
        *why =
            g_strdup_printf("through 'accumulate' only a 'line' can be calibrated, and this is a '%s'", c->what.word);
        return false;
    }
    for (guint i = 0; i < RGP_FIT_SETTINGS_MAX && i < c->what.places; i++) {
        setting[i] = c->what.place[i].value;
    }
    if (strcmp(c->what.word, "echo") == 0 && !echo_scale(c, &setting[RGP_FIT_ECHO_SCALE])) {
        *why = g_strdup("the units of this 'echo' are of the rig's own; write them in us and cm to calibrate it");
        return false;
    }
    for (guint i = 0; i < c->point->len; i++) {
        const calibrate_point *p = calibrate_point_at(c, i);
        point[i] = (rgp_fit_point){p->capture.in * scale, p->capture.in_error * scale,
                                   p->known * c->what.gain + c->what.offset};
    }
    o->fit = rgp_fit_points(c->what.word, point, c->point->len, setting, c->template_rig != NULL, c->what.unit,
                            scale != 1.0 ? "ohm" : calibrate_in_unit(c), why);
    if (o->fit) {
        rgp_fit_round(o->fit, has_whole_inputs(c));
    }
    if (o->fit && c->what.summed) {
        share_zero_error(c, o->fit);
    }
    return o->fit && write_settings(c, o->fit, why);
}

static bool shift_signal(calibration *c, char **why)
{
    double setting[RGP_CALIBRATION_PLACES_MAX], shifted[RGP_CALIBRATION_PLACES_MAX];
    guint which[RGP_CALIBRATION_PLACES_MAX];
    const calibrate_point *p = calibrate_point_at(c, 0);
    const rgp_fit_point point = {p->capture.in, p->capture.in_error, p->known * c->what.gain + c->what.offset};
    for (guint i = 0; i < c->what.places; i++) {
        which[i] = i;
        setting[i] = c->what.place[i].value;
    }
    if (c->what.summed) {
        *why = g_strdup("a sum has no zero to be moved; 'relearn' begins it anew");
        return false;
    }
    return rgp_fit_shift(c->what.word, setting, c->what.places, &point, has_whole_inputs(c), shifted, why) &&
           calibrate_write_places(c, which, shifted, c->what.places, why);
}

static bool draw_result(const calibration *c, const outcome *o, char **why)
{
    g_autoptr(GError) error = NULL;
    g_autofree char *title = g_strdup_printf("%s in %s: '%s'", c->name, short_name(c->path), c->what.word);
    const rgp_fit_figure figure = {.path = c->options->output,
                                   .title = title,
                                   .in_label = c->what.input,
                                   .in_unit = fit_scale(c) != 1.0 ? "ohm" : calibrate_in_unit(c),
                                   .out_label = c->name,
                                   .out_unit = c->what.unit,
                                   .gain = o->gain,
                                   .offset = -c->what.offset * o->gain};
    g_autoptr(GString) script = rgp_fit_figure_script(o->fit, &figure);
    if (!picture_run(script, figure.path, &error)) {
        *why = g_strdup(error->message);
        return false;
    }
    return true;
}

static bool conclude_signal(calibration *c, char **why)
{
    outcome o = {.gain = 1.0 / c->what.gain};
    const bool moved = c->options->rezero != NULL;
    if (moved && c->point->len != 1) {
        *why = g_strdup("--rezero takes one known value");
        return false;
    }
    bool sound = moved ? shift_signal(c, why) : fit_signal(c, &o, why);
    rgp_rig *made = sound ? calibrate_try_text(c, c->edited, why) : NULL;
    sound = made != NULL;
    if (sound && moved) {
        o.reads[0] = capture_session_reads(c->capture_session, made, c->name, calibrate_point_at(c, 0)->from,
                                           calibrate_point_at(c, 0)->to, true);
    } else if (sound) {
        read_back(c, made, o.fit, o.reads);
    }
    sound = sound && (!c->options->output || moved || draw_result(c, &o, why));
    if (sound && c->options->json) {
        json_t *all = outcome_as_json(c, &o);
        char *text = json_dumps(all, JSON_INDENT(2) | JSON_REAL_PRECISION(9));
        g_string_append_printf(c->said, "%s\n", text);
        free(text);
        json_decref(all);
    } else if (sound) {
        put_outcome(c, &o);
    }
    rgp_rig_free(made);
    rgp_fit_free(o.fit);
    return sound;
}

/* ---- both ------------------------------------------------------------------------------------------ */

static void put_change(const calibration *c)
{
    g_autoptr(GPtrArray) hunks = rewrite_differences(c->file->source, c->edited);
    for (guint i = 0; i < hunks->len; i++) {
        const rewrite_hunk *h = hunks->pdata[i];
        g_autofree char *before = g_strchomp(g_strdup(h->before)), *after = g_strchug(g_strchomp(g_strdup(h->after)));
        if (*before) {
            g_string_append_printf(c->said, "line %-4u was   %s\n          is    %s\n", h->line, g_strchug(before),
                                   after);
        } else {
            g_string_append_printf(c->said, "line %-4u new   %s\n", h->line, after);
        }
    }
    if (hunks->len == 0) {
        g_string_append(c->said, "the file says so already\n");
    }
}

bool calibrate_conclude(calibration *c, char **why)
{
    g_string_truncate(c->said, 0);
    g_clear_pointer(&c->edited, g_free);
    if (!(calibrate_is_bands(c) ? calibrate_conclude_bands(c, why) : conclude_signal(c, why))) {
        g_clear_pointer(&c->edited, g_free);
        return false;
    }
    if (!c->options->json) {
        put_change(c);
    }
    return true;
}
