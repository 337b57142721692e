/* Taking points without a person: flags, a file of pairs, a recording with marks. */
#include "calibrate.h"
#include "runtime/interrupt.h"

#include "runtime/recording.h"
#include "tool/reading.h"
#include "files/files.h"

#include <csv.h>
#include <gio/gio.h>
#include <math.h>
#include <string.h>

#define TIME_MOST     36000.0
#define USABLE_WITHIN 60.0 /* seconds that a stage may take to learn */
#define SETTLE        2.0  /* seconds after a hand has let the mechanism come to rest */

/* ---- one point ------------------------------------------------------------------------------------- */

bool calibrate_read_known(const calibration *c, const char *text, double *known, char **why)
{
    const char *reason;
    for (uint32_t i = 0; i < c->what.bands; i++) {
        if (strcmp(c->what.band[i], text) == 0) {
            *known = i;
            return true;
        }
    }
    if (calibrate_is_bands(c)) {
        g_autofree char *all = g_strjoinv(", ", (char **)(void *)c->what.band);
        const char *near = rgp_nearest_word(text, c->what.band, c->what.bands);
        *why = g_strdup_printf("there is no condition '%s' in %s; there %s %s", text, c->what.owner,
                               near ? "is" : "are", near ? near : all);
        return false;
    }
    if (!rgp_quantity_parse(text, c->what.unit, known, &reason)) {
        *why = g_strdup_printf("'%s': %s; known values of '%s' are in %s", text, reason, c->name,
                               *c->what.unit ? c->what.unit : "bare numbers");
        return false;
    }
    return true;
}

static double noise_before(const calibration *c)
{
    double least = INFINITY;
    for (guint i = 0; i < c->point->len; i++) {
        const rgp_capture *k = &g_array_index(c->point, calibrate_point, i).capture;
        least = k->noise > 0.0 ? fmin(least, k->noise) : least;
    }
    return isfinite(least) ? least : 0.0;
}

/* Conditions may waver: it is only asked that they can be read. */
static char *reason_against(const calibration *c, const rgp_capture *k)
{
    const bool readable = k->readings > 0 && k->bad * 10 <= k->readings;
    return calibrate_is_bands(c) && readable ? NULL : k->reason;
}

bool calibrate_capture_at(calibration *c, const char *text, double known, guint from, bool anyway, char **why)
{
    const rgp_intake *in = capture_session_intake(c->capture_session);
    const guint to = from + (guint)MAX(1.0, c->window / in->tick + 0.5);
    if (to > capture_session_ticks(c->capture_session)) {
        *why = g_strdup_printf("%s: the readings end at %g s, before a window of %g s is over", text,
                               capture_session_time(c->capture_session), c->window);
        return false;
    }
    calibrate_point p = {.known = known, .from = from, .to = to};
    p.capture = rgp_capture_window(in, from, to, noise_before(c));
    const char *against = reason_against(c, &p.capture);
    const bool unreadable = p.capture.usable == 0 || p.capture.bad * 2 > p.capture.readings;
    if (against && (!anyway || unreadable)) {
        *why = g_strdup_printf("%s is not taken: %s", text, against);
        rgp_capture_clear(&p.capture);
        return false;
    }
    p.doubtful = against != NULL;
    p.text = g_strdup(text);
    g_array_append_val(c->point, p);
    return true;
}

static bool is_usable_now(const calibration *c)
{
    const GArray *quality = capture_session_intake(c->capture_session)->in_quality;
    return quality->len > 0 && rgp_usable(g_array_index(quality, rgp_quality, quality->len - 1));
}

static bool tick_for(calibration *c, double seconds)
{
    const guint end = capture_session_ticks(c->capture_session) +
                      (guint)(seconds / capture_session_intake(c->capture_session)->tick + 0.5);
    bool more = true;
    while (more && !interrupt_asked() && capture_session_ticks(c->capture_session) < end) {
        more = capture_session_tick(c->capture_session);
    }
    return more && !interrupt_asked();
}

bool calibrate_capture(calibration *c, const char *text, double known, bool anyway, char **why)
{
    const double give_up = capture_session_time(c->capture_session) + USABLE_WITHIN;
    bool more = true;
    while (more && !is_usable_now(c) && !interrupt_asked() && capture_session_time(c->capture_session) < give_up) {
        more = capture_session_tick(c->capture_session);
    }
    const guint from = capture_session_ticks(c->capture_session);
    if (!tick_for(c, c->window) || !more) {
        *why = g_strdup("there is no room for more readings; take shorter windows");
        return false;
    }
    return calibrate_capture_at(c, text, known, from, anyway, why);
}

bool calibrate_place(calibration *c, const char *text, char **why)
{
    const char *reason, *unit = capture_session_hand_unit(c->capture_session, &reason);
    double to;
    if (!unit) {
        *why = g_strdup_printf("what '%s' sees cannot be placed: %s", c->what.sensor, reason);
        return false;
    }
    if (!rgp_quantity_parse(text, unit, &to, &reason)) {
        *why = g_strdup_printf("'%s': %s; it can be placed in %s", text, reason, *unit ? unit : "bare numbers");
        return false;
    }
    const double takes = capture_session_place(c->capture_session, to) + SETTLE;
    if (!c->options->fast) {
        printf("  bringing it to %s: %.1f s ...\n", text, takes);
        fflush(stdout);
    }
    if (!tick_for(c, takes)) {
        *why = g_strdup("there is no room for more readings");
        return false;
    }
    return true;
}

void calibrate_drop_point(calibration *c, guint index)
{
    calibrate_point *p = &g_array_index(c->point, calibrate_point, index);
    g_free(p->text);
    rgp_capture_clear(&p->capture);
    g_array_remove_index(c->point, index);
}

/* ---- flags: VALUE[@WHEN], or CONDITION[=PLACE][@WHEN] ---------------------------------------------- */

/* Before a recording is looked at, all of it is read. */
static void read_all(calibration *c)
{
    while (capture_session_tick(c->capture_session)) {
    }
}

static bool take_at_time(calibration *c, const char *text, double known, double time, char **why)
{
    if (!c->options->recording) {
        if (!(time <= TIME_MOST)) {
            *why = g_strdup_printf("%s@%g s: a moment to come can be up to %g s ahead", text, time, TIME_MOST);
            return false;
        }
        if (capture_session_ticks(c->capture_session) > 0 && time <= capture_session_time(c->capture_session)) {
            *why = g_strdup_printf("%s@%g s: it is %g s already; name points in the order of their times", text, time,
                                   capture_session_time(c->capture_session));
            return false;
        }
        tick_for(c, time - capture_session_time(c->capture_session) -
                        capture_session_intake(c->capture_session)->tick / 2);
        return calibrate_capture(c, text, known, c->options->anyway, why);
    }
    return calibrate_capture_at(c, text, known, capture_session_find(c->capture_session, time), c->options->anyway,
                                why);
}

/* Every mark of that text in the recording. */
static bool take_at_mark(calibration *c, const char *text, double known, const char *mark, char **why)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *r = c->options->recording ? reading_whole(c->options->recording, &error) : NULL;
    guint found = 0;
    bool taken = true;
    for (guint i = 0; r && taken && i < rgp_history_occurrences(r->history)->len; i++) {
        const rgp_occurrence *e = rgp_history_occurrences(r->history)->pdata[i];
        if (e->kind == RGP_EVENT_MARK && strcmp(e->of, mark) == 0) {
            found++;
            taken = take_at_time(c, text, known, e->time, why);
        }
    }
    rgp_recording_free(r);
    if (found == 0) {
        *why = g_strdup_printf("%s@%s: write a time ('6cm@12s')%s", text, mark,
                               c->options->recording ? " or a mark of the recording; it has none of this text" : "");
        return false;
    }
    return taken;
}

static bool take_flag(calibration *c, const char *flag, char **why)
{
    const char *at = strrchr(flag, '@'), *reason;
    g_autofree char *what = g_strstrip(at ? g_strndup(flag, (gsize)(at - flag)) : g_strdup(flag));
    char *equals = strchr(what, '=');
    double known, time;
    if (equals) {
        *equals = '\0';
        g_strchomp(what);
    }
    if (!calibrate_read_known(c, what, &known, why)) {
        return false;
    }
    if (c->options->place && !calibrate_place(c, equals ? g_strchug(equals + 1) : what, why)) {
        return false;
    }
    if (at) {
        return rgp_quantity_parse(at + 1, "s", &time, &reason) && time >= 0.0
                   ? take_at_time(c, what, known, time, why)
                   : take_at_mark(c, what, known, at + 1, why);
    }
    if (c->options->recording) {
        *why = g_strdup_printf("--point %s: say when in the recording it was, with '%s@12s' or '%s@MARK'", flag, what,
                               what);
        return false;
    }
    return calibrate_capture(c, what, known, c->options->anyway, why);
}

/* ---- a recording's own marks ----------------------------------------------------------------------- */

static bool take_marks(calibration *c, char **why)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *r = reading_whole(c->options->recording, &error);
    bool taken = true;
    guint found = 0;
    for (guint i = 0; r && taken && i < rgp_history_occurrences(r->history)->len; i++) {
        const rgp_occurrence *e = rgp_history_occurrences(r->history)->pdata[i];
        double known;
        char *ignored = NULL;
        if (e->kind == RGP_EVENT_MARK && calibrate_read_known(c, e->of, &known, &ignored)) {
            found++;
            taken = take_at_time(c, e->of, known, e->time, why);
        }
        g_free(ignored);
    }
    rgp_recording_free(r);
    if (found == 0) {
        *why = g_strdup_printf("%s has no mark that is a known value; state them with --point VALUE@TIME",
                               c->options->recording);
        return false;
    }
    return taken;
}

/* ---- a file of pairs ------------------------------------------------------------------------------- */

typedef struct pairs {
    calibration *c;
    GPtrArray *field;
    guint row;
    char *why;
} pairs;

static void end_field(void *text, size_t length, void *self)
{
    pairs *p = self;
    g_ptr_array_add(p->field, g_strstrip(g_strndup(text, length)));
}

/* A reading that was given: the sensor's own, bare or in its unit, is brought to the stage that is measured; what goes
 * into that can be stated, too, in its unit where that is another one. */
static bool read_in(const calibration *c, const char *text, rgp_capture *capture, char **why)
{
    const rgp_intake *in = capture_session_intake(c->capture_session);
    const char *reason, *ignored;
    if (rgp_quantity_parse(text, "", &capture->raw, &ignored) ||
        rgp_quantity_parse(text, in->unit, &capture->raw, &ignored)) {
        return capture_session_bring(c->capture_session, capture->raw, &capture->in, &capture->in_error, why);
    }
    if (!rgp_quantity_parse(text, c->what.input_unit, &capture->in, &reason)) {
        *why = g_strdup_printf("%s; write what '%s' read, or what goes into '%s' in %s", reason, in->sensor,
                               c->what.word, c->what.input_unit);
        return false;
    }
    return true;
}

static void end_row(int ending, void *self)
{
    (void)ending;
    pairs *p = self;
    p->row++;
    const guint fields = p->field->len;
    const char *in = fields > 0 ? p->field->pdata[0] : "", *known = fields > 1 ? p->field->pdata[1] : "";
    calibrate_point made = {.text = NULL};
    const bool heading = p->row == 1 && !g_ascii_isdigit(*in) && *in != '-' && *in != '.';
    if (!p->why && !heading && (fields > 1 || *in)) {
        if (fields != 2) {
            p->why = g_strdup_printf("row %u: write what was read and what was known, as in '312, 0 cm'", p->row);
        } else if (!read_in(p->c, in, &made.capture, &p->why)) {
            g_autofree char *what = p->why;
            p->why = g_strdup_printf("row %u: '%s': %s", p->row, in, what);
        } else if (!calibrate_read_known(p->c, known, &made.known, &p->why)) {
            g_autofree char *what = p->why;
            p->why = g_strdup_printf("row %u: %s", p->row, what);
        } else {
            made.text = g_strdup(known);
            g_array_append_val(p->c->point, made);
        }
    }
    g_ptr_array_set_size(p->field, 0);
}

static bool take_pairs(calibration *c, char **why)
{
    g_autofree char *text = NULL;
    gsize length = 0;
    g_autoptr(GError) error = NULL;
    const bool standard = strcmp(c->options->points, "-") == 0;
    if (calibrate_is_bands(c) || c->what.summed) {
        *why = g_strdup("--points takes pairs of what was read and what was known; here they must be captured");
        return false;
    }
    if (!(standard ? rgp_file_read_input(&text, &length, &error)
                   : rgp_file_read(c->options->points, &text, &length, &error))) {
        *why = g_strdup(error->message);
        return false;
    }
    struct csv_parser parser;
    pairs p = {.c = c, .field = g_ptr_array_new_with_free_func(g_free)};
    csv_init(&parser, CSV_APPEND_NULL);
    csv_parse(&parser, text, length, end_field, end_row, &p);
    csv_fini(&parser, end_field, end_row, &p);
    csv_free(&parser);
    g_ptr_array_unref(p.field);
    *why = p.why ? g_strdup_printf("%s: %s", standard ? "standard input" : c->options->points, p.why) : NULL;
    g_free(p.why);
    return *why == NULL;
}

/* ---- the least and the greatest -------------------------------------------------------------------- */

/* LOW..HIGH; a unit written behind the second holds for the first. */
static bool read_span(const calibration *c, double *low, double *high, char **first, char **second, char **why)
{
    const char *dots = strstr(c->options->span, "..");
    if (!dots) {
        *why = g_strdup_printf("--span %s: write what the two ends are, as in 0..100%%", c->options->span);
        return false;
    }
    char *end;
    *first = g_strstrip(g_strndup(c->options->span, (gsize)(dots - c->options->span)));
    *second = g_strstrip(g_strdup(dots + 2));
    g_ascii_strtod(*first, &end);
    if (*end == '\0') {
        char *unit;
        g_ascii_strtod(*second, &unit);
        char *whole = g_strconcat(*first, " ", g_strchug(unit), NULL);
        g_free(*first);
        *first = g_strstrip(whole);
    }
    return calibrate_read_known(c, *first, low, why) && calibrate_read_known(c, *second, high, why);
}

static void add_end(calibration *c, const char *text, double known, double in, double error, guint from, guint to)
{
    const calibrate_point p = {
        .text = g_strdup(text), .known = known, .from = from, .to = to, .capture = {.in = in, .in_error = error}};
    g_array_append_val(c->point, p);
}

static bool take_span(calibration *c, char **why)
{
    g_autofree char *first = NULL, *second = NULL;
    double low, high, least, greatest, error;
    if (calibrate_is_bands(c)) {
        *why = g_strdup("--span is for a signal; bands are told apart by conditions");
        return false;
    }
    if (!read_span(c, &low, &high, &first, &second, why)) {
        return false;
    }
    if (c->options->recording) {
        read_all(c);
    } else {
        tick_for(c, c->window);
    }
    const guint to = capture_session_ticks(c->capture_session);
    if (!rgp_capture_span(capture_session_intake(c->capture_session), 0, to, &least, &greatest, &error, why)) {
        return false;
    }
    add_end(c, first, low, least, error, 0, 0);
    add_end(c, second, high, greatest, error, 0, 0);
    return true;
}

/* ---- all ------------------------------------------------------------------------------------------- */

static bool take_all(calibration *c, char **why)
{
    const calibrate_options *o = c->options;
    bool taken = true;
    if (o->points) {
        return take_pairs(c, why);
    }
    if (o->span) {
        return take_span(c, why);
    }
    if (o->recording) {
        read_all(c);
    }
    if (o->rezero) {
        return take_flag(c, o->rezero, why);
    }
    if (!o->point) {
        return take_marks(c, why);
    }
    for (char **flag = o->point; taken && *flag; flag++) {
        taken = take_flag(c, *flag, why);
    }
    return taken;
}

bool calibrate_take_points(calibration *c)
{
    g_autofree char *why = NULL;
    if (take_all(c, &why)) {
        return true;
    }
    g_autoptr(GString) list = g_string_new(NULL);
    calibrate_list(c, list);
    fputs(list->str, stderr);
    command_refuse(c->self, "%s; %s is as it was", why, c->path);
    return false;
}
