/* Gains, tests and tries: in words, as figures, and back into the file. */
#include "tune.h"

#include "tool/rewrite.h"

#include "files/files.h"
#include "runtime/ports.h"
#include "explain/describe.h"
#include "rigpulse/edit.h"

#include <gio/gio.h>
#include <jansson.h>
#include <math.h>
#include <string.h>

#define DECAY_SHOWN  0.1  /* below, noise decides */
#define SAME         1e-6 /* relative: what a file's number and one that was typed may differ by */
#define AMOUNT_LEAST 1e-6
#define AMOUNT_MOST  1e6

/* ---- gains and settings ------------------------------------------------------------------------------ */

static const char *param_name(const tuning *t, uint32_t gain)
{
    return rp_image_text(t->image, RP_NAME_SLOT, t->is->gain[gain], 0);
}

const char *tune_gain_word(const tuning *t, uint32_t gain)
{
    if (gain >= t->gains) {
        return t->setting[gain - t->gains].name;
    }
    const char *name = param_name(t, gain);
    return t->is->brought >> gain & 1u ? name + strlen(t->name) + 1 : name;
}

const char *tune_gain_unit(const tuning *t, uint32_t gain)
{
    return gain < t->gains ? rp_image_unit(t->image, RP_NAME_SLOT, t->is->gain[gain], 0)
                           : t->setting[gain - t->gains].unit;
}

static double in_file(const tuning *t, uint32_t gain)
{
    const rp_image_param *param = rp_image_at(t->image, RP_SECTION_PARAMS);
    return gain < t->gains ? (double)param[t->is->gain[gain]].initial : t->setting[gain - t->gains].place.value;
}

static void limits_of(const tuning *t, uint32_t gain, double *low, double *high)
{
    const rp_image_param *param = rp_image_at(t->image, RP_SECTION_PARAMS);
    *low = gain < t->gains ? (double)param[t->is->gain[gain]].low : t->setting[gain - t->gains].low;
    *high = gain < t->gains ? (double)param[t->is->gain[gain]].high : t->setting[gain - t->gains].high;
}

void tune_file_gains(const tuning *t, double *gain)
{
    for (uint32_t i = 0; i < t->gains + t->settings; i++) {
        gain[i] = in_file(t, i);
    }
}

static bool is_same(double a, double b)
{
    return fabs(a - b) <= SAME * fmax(fabs(a), fabs(b));
}

bool tune_same_settings(const tuning *t, const double *a, const double *b)
{
    uint32_t i = t->gains;
    while (i < t->gains + t->settings && is_same(a[i], b[i])) {
        i++;
    }
    return i == t->gains + t->settings;
}

static char *gain_words(const tuning *t)
{
    GString *all = g_string_new(NULL);
    for (uint32_t i = 0; i < t->gains + t->settings; i++) {
        g_string_append_printf(all, "%s%s", i ? ", " : "", tune_gain_word(t, i));
    }
    return g_string_free(all, FALSE);
}

/* The gain or setting that a text begins with, and what follows it; the longest name counts ("slope weight"). */
static uint32_t named_by(const tuning *t, const char *text, const char **rest)
{
    uint32_t found = t->gains + t->settings;
    size_t longest = 0;
    for (uint32_t i = 0; i < t->gains + t->settings; i++) {
        const char *word = tune_gain_word(t, i);
        const size_t length = strlen(word);
        if (length > longest && strncmp(text, word, length) == 0 && strchr(" =", text[length])) {
            found = i;
            longest = length;
        }
    }
    *rest = text + longest + strspn(text + longest, " =");
    return found;
}

/* `bare`: it may be written without its unit. *wrong: the reason, when it cannot be taken. */
static bool parse_number(const char *text, const char *unit, bool bare, double *number, const char **wrong)
{
    const char *not_bare;
    return rp_quantity_parse(text, unit, number, wrong) || (bare && rp_quantity_parse(text, "", number, &not_bare));
}

static bool parse_gain(const tuning *t, const char *text, double *gain, char **why)
{
    const char *rest, *wrong;
    double low, high;
    const uint32_t i = named_by(t, text, &rest);
    if (i == t->gains + t->settings || !*rest) {
        g_autofree char *all = gain_words(t);
        *why = g_strdup_printf("'%s' is no gain or setting of '%s'; write for instance: %s 8 (there is %s)", text,
                               t->name, tune_gain_word(t, 0), all);
        return false;
    }
    if (!parse_number(rest, tune_gain_unit(t, i), i < t->gains, &gain[i], &wrong)) {
        const char *unit = tune_gain_unit(t, i);
        *why = g_strdup_printf("%s: %s; it %s%s", text, wrong, *unit ? "is in " : "has no unit", unit);
        return false;
    }
    limits_of(t, i, &low, &high);
    if (!(gain[i] >= low && gain[i] <= high)) {
        *why = low > 0.0 && gain[i] <= 0.0
                   ? g_strdup_printf("%s: %s must be above 0", text, tune_gain_word(t, i))
                   : g_strdup_printf("%s: %s can be from %g to %g", text, tune_gain_word(t, i), low, high);
        return false;
    }
    return true;
}

bool tune_parse_gains(const tuning *t, const char *text, double *gain, char **why)
{
    g_auto(GStrv) each = g_strsplit(text, ",", -1);
    bool sound = true;
    for (char **one = each; *one && sound; one++) {
        sound = parse_gain(t, g_strstrip(*one), gain, why);
    }
    return sound;
}

bool tune_parse_amount(const tuning *t, tune_test test, const char *text, double *amount, char **why)
{
    const char *unit = test == TUNE_STEP ? rp_image_unit(t->image, RP_NAME_SLOT, t->is->trim, 0)
                                         : rp_image_unit(t->image, RP_NAME_SLOT, t->is->push, 0);
    const char *wrong;
    if (!parse_number(text, unit, true, amount, &wrong)) {
        *why = g_strdup_printf("'%s': %s; it is in %s", text, wrong, unit);
        return false;
    }
    if (!(fabs(*amount) >= AMOUNT_LEAST && fabs(*amount) <= AMOUNT_MOST)) {
        *why = g_strdup_printf("'%s': it must be from %g to %g %s, or below 0 by as much", text, AMOUNT_LEAST,
                               AMOUNT_MOST, unit);
        return false;
    }
    return true;
}

double tune_setpoint(const tuning *t, const rp_history *h)
{
    const uint64_t newest = rp_history_end(h) - 1;
    const rp_image_loop *l = t->is;
    if (!(l->setpoint & RP_REF_CONSTANT) && rp_history_slot(h, l->setpoint) < 0) { /* an expression: nobody keeps it */
        return (double)rp_history_value(h, (uint32_t)rp_history_slot(h, l->first + RP_TERM_TARGET), newest);
    }
    return (double)rp_history_setting(h, t->is->setpoint, newest) + (double)rp_history_setting(h, t->is->trim, newest);
}

bool tune_step_fits(const tuning *t, double setpoint, double step, char **why)
{
    const uint32_t params = rp_image_count(t->image, RP_SECTION_PARAMS);
    const rp_image_param *p = (const rp_image_param *)rp_image_at(t->image, RP_SECTION_PARAMS) + t->is->setpoint;
    const double to = setpoint + step;
    if (t->is->setpoint < params && !(to >= (double)p->low && to <= (double)p->high)) {
        const char *name = rp_image_text(t->image, RP_NAME_SLOT, t->is->setpoint, 0);
        const char *unit = rp_image_unit(t->image, RP_NAME_SLOT, t->is->setpoint, 0);
        *why = g_strdup_printf("a step by %g %s would take the setpoint to %g %s; '%s' goes from %g to %g", step,
                               t->unit, to, unit, name, (double)p->low, (double)p->high);
        return false;
    }
    if ((float)to == (float)setpoint) {
        *why = g_strdup_printf("a step by %g %s makes no difference to a setpoint of %g", step, t->unit, setpoint);
        return false;
    }
    return true;
}

/* "kp 25", whose unit is the same in all rows and long; "margin 0.2 K". */
static void put_value(const tuning *t, uint32_t i, double value, GString *to)
{
    const bool ratio = i < t->gains && t->is->terms > RP_TERM_D;
    const char *unit = ratio ? "" : tune_gain_unit(t, i);
    g_string_append_printf(to, "%s%s %.4g%s%s", to->len ? ", " : "", tune_gain_word(t, i), value, *unit ? " " : "",
                           unit);
}

char *tune_settings_text(const tuning *t, const double *gain)
{
    GString *text = g_string_new(NULL);
    for (uint32_t i = t->gains; i < t->gains + t->settings; i++) {
        if (!is_same(gain[i], in_file(t, i))) {
            put_value(t, i, gain[i], text);
        }
    }
    return g_string_free(text, FALSE);
}

char *tune_gains_text(const tuning *t, const double *gain)
{
    GString *text = g_string_new(NULL);
    g_autofree char *settings = tune_settings_text(t, gain);
    for (uint32_t i = 0; i < t->gains; i++) {
        put_value(t, i, gain[i], text);
    }
    g_string_append_printf(text, "%s%s", *settings ? ", " : "", settings);
    return g_string_free(text, FALSE);
}

/* As it stands in the rig file, without when: "at 25 min kettle opens". */
static void put_disturbance(const tuning *t, uint32_t which, GString *to)
{
    const rp_disturbance_item *d = &t->file->hookup->disturbance[which];
    g_auto(GStrv) lines = g_strsplit(t->file->source, "\n", -1);
    g_autofree char *line = g_strstrip(g_strdup(lines[d->line - 1]));
    const uint32_t sensor = rp_image_sensor_slot(t->image, (uint32_t)MAX(d->sensor, 0));
    const char *of = d->mechanism >= 0 ? t->file->hookup->mechanism[d->mechanism].name
                     : d->sensor >= 0  ? rp_image_text(t->image, RP_NAME_SLOT, sensor, 0)
                                       : "clock";
    line[strcspn(line, "#")] = '\0';
    const char *from = strstr(line, of);
    g_string_append(to, g_strchomp(line) && from ? from : line);
}

char *tune_test_text(const tuning *t, const tune_try *one)
{
    GString *text = g_string_new(one->test == TUNE_STEP ? "step " : one->test == TUNE_PUSH ? "push " : "");
    if (one->test == TUNE_DISTURB) {
        put_disturbance(t, one->disturbance, text);
    } else {
        rp_tell_number(one->size, one->test == TUNE_STEP ? t->unit : t->drive_unit, text);
    }
    return g_string_free(text, FALSE);
}

uint32_t tune_disturbances(const tuning *t)
{
    uint32_t count = 0;
    for (uint32_t i = 0; t->file->hookup && i < t->file->hookup->disturbances; i++) {
        count += t->file->hookup->disturbance[i].at_seconds > 0.0;
    }
    return count;
}

uint32_t tune_disturbance(const tuning *t, uint32_t k)
{
    uint32_t i = 0;
    for (; t->file->hookup->disturbance[i].at_seconds <= 0.0 || k > 0; i++) {
        k -= t->file->hookup->disturbance[i].at_seconds > 0.0;
    }
    return i;
}

guint tune_add(tuning *t, tune_try *one)
{
    const rp_response_row *row = (const void *)one->rows->data;
    const rp_response_test test = one->test == TUNE_STEP ? RP_RESPONSE_STEP : RP_RESPONSE_DISTURBANCE;
    if (!one->stopped &&
        !rp_response_of(row, one->rows->len, one->before, test, one->size, t->band, t->tolerance, &one->response)) {
        one->stopped = g_strdup("there were too few ticks to judge it");
    }
    g_array_append_val(t->tries, *one);
    return t->tries->len;
}

char *tune_breaks_off(const tuning *t, const rp_event *event)
{
    const rp_image_claim *claim = rp_image_at(t->image, RP_SECTION_CLAIMS);
    const rp_image_guard *guard = rp_image_at(t->image, RP_SECTION_GUARDS);
    const bool cut = event->kind == RP_EVENT_CUT_OUT && event->source == t->loop;
    const bool guarded = event->kind == RP_EVENT_GUARD && !event->reason &&
                         guard[event->source].actuator == claim[t->is->claim].actuator;
    if (cut) {
        return g_strdup_printf("the loop cut out: %s", rp_cut_text(event->reason));
    }
    if (guarded || event->kind == RP_EVENT_FAULT || event->kind == RP_EVENT_STOPPED ||
        event->kind == RP_EVENT_STALLED) {
        return g_strdup_printf("line %u: %s", rp_tell_line(t->image, event), rp_tell_subject(t->image, event));
    }
    return NULL;
}

/* ---- figures ----------------------------------------------------------------------------------------- */

static char *unit_of(const tuning *t, const char *unit)
{
    return strcmp(unit, "m") == 0    ? g_strdup(t->unit)
           : strcmp(unit, "o") == 0  ? g_strdup(t->drive_unit)
           : strcmp(unit, "ms") == 0 ? g_strconcat(*t->unit ? t->unit : "", *t->unit ? "*s" : "s", NULL)
                                     : g_strdup(unit);
}

static const struct {
    const char *name, *unit;
    size_t offset, error;
} figures[] = {
#define FIGURE(field, name, unit, error) {name, unit, offsetof(rp_response, field), offsetof(rp_response, error)},
    RP_RESPONSE_LIST(FIGURE)
#undef FIGURE
};

static double number_at(const rp_response *r, size_t offset)
{
    double value;
    memcpy(&value, (const char *)r + offset, sizeof value);
    return value;
}

static double figure_of(const rp_response *r, size_t i)
{
    return number_at(r, figures[i].offset);
}

/* "16.4 ±0.6 %"; "under 0.5 %" of what was looked for and not seen; "-" of what is not known. */
static void put_figure(const tuning *t, const rp_response *r, size_t i, GString *to)
{
    const double value = figure_of(r, i), error = number_at(r, figures[i].error);
    g_autofree char *unit = unit_of(t, figures[i].unit);
    if (figures[i].offset == offsetof(rp_response, overshoot) && isnan(value) && r->overshoot_under > 0.0) {
        g_string_append_printf(to, "under %.2g %s", r->overshoot_under, unit);
    } else if (figures[i].offset == offsetof(rp_response, decay) && value < DECAY_SHOWN) {
        g_string_append_printf(to, "under %g", DECAY_SHOWN);
    } else if (!isfinite(value)) {
        g_string_append(to, "-");
    } else {
        g_string_append_printf(to, "%.3g", value);
        if (figures[i].error != offsetof(rp_response, noise)) {
            g_string_append_printf(to, " ±%.1g", error);
        }
        g_string_append_printf(to, "%s%s", *unit ? " " : "", unit);
    }
}

/* ---- verdicts ---------------------------------------------------------------------------------------- */

static const struct {
    const char *word, *means;
} verdicts[] = {
    [RP_VERDICT_SETTLED] = {"settled", NULL},
    [RP_VERDICT_BACK] = {"back", "it is back within what it does all by itself, which is more than a calm loop's band; "
                                 "'--within AMOUNT' says what is good enough"},
    [RP_VERDICT_TOO_SHORT] = {"too short",
                              "it was on its way, or only just within the band, when the look was over; take "
                              "a longer --over"},
    [RP_VERDICT_SWINGS] = {"swings on", "each swing leaves as much as the one before: less kp or ki, or more kd"},
    [RP_VERDICT_OFF] = {"stays off",
                        "the error that is left is beyond the band: it takes ki, or a stronger actuator, or "
                        "'--within AMOUNT' where that is good enough"},
    [RP_VERDICT_RESTLESS] = {"does not settle", "it leaves the band again and again"},
    [RP_VERDICT_HIDDEN] = {"by itself",
                           "all by itself it is off by half as much as the test made it, or more, which hides "
                           "the answer: find what moves it, gains that leave it calm, or a greater test; "
                           "'--within AMOUNT' says what is good enough"},
};

/* "±0.72 K every 48 s". */
static char *own_movement(const tuning *t, const rp_response *r)
{
    return isfinite(r->before_period) ? g_strdup_printf("±%.2g %s every %.2g s", r->before, t->unit, r->before_period)
                                      : g_strdup_printf("±%.2g %s", r->before, t->unit);
}

char *tune_verdict_text(const tuning *t, const tune_try *one)
{
    const rp_response *r = &one->response;
    const char *begun = r->unsettled ? "*" : "";
    if (one->stopped) {
        return g_strdup(one->voided ? "void" : "broken off");
    }
    g_autofree char *own = own_movement(t, r);
    switch (r->verdict) {
    case RP_VERDICT_SETTLED:
        return r->settling <= 0.0 ? g_strdup_printf("stays within %.2g %s%s", r->band, t->unit, begun)
                                  : g_strdup_printf("settled in %.3g s%s", r->settling, begun);
    case RP_VERDICT_BACK:
        return g_strdup_printf("back in %.3g s to %s%s", r->settling, own, begun);
    case RP_VERDICT_TOO_SHORT:
        return g_strdup_printf("too short: look %.2g s%s", r->needs, begun);
    case RP_VERDICT_SWINGS:
        return g_strdup_printf("swings on every %.2g s%s", r->period, begun);
    case RP_VERDICT_OFF:
        return g_strdup_printf("stays off by %.2g %s%s", fabs(r->steady), t->unit, begun);
    case RP_VERDICT_HIDDEN:
        return g_strdup_printf("by itself %s%s", own, begun);
    default:
        return g_strdup_printf("%s%s", verdicts[r->verdict].word, begun);
    }
}

/* The meanings of the verdicts in the table, once each. */
static void print_meanings(const tuning *t)
{
    bool told[G_N_ELEMENTS(verdicts)] = {false}, unsettled = false;
    for (guint i = 0; i < t->tries->len; i++) {
        const tune_try *one = tune_try_at(t, i);
        if (one->stopped) {
            continue;
        }
        unsettled |= one->response.unsettled;
        if (!told[one->response.verdict] && verdicts[one->response.verdict].means) {
            printf("%s: %s\n", verdicts[one->response.verdict].word, verdicts[one->response.verdict].means);
        }
        told[one->response.verdict] = true;
    }
    if (unsettled) {
        puts("*: it was on its way somewhere when the test began, so it has no rise and no overshoot");
    }
}

/* Of a column of texts: the widest. */
static int widest(const GPtrArray *texts)
{
    glong most = 0;
    for (guint i = 0; i < texts->len; i++) {
        most = MAX(most, g_utf8_strlen(texts->pdata[i], -1));
    }
    return (int)most;
}

static void put_padded(const char *text, int gap, int width, bool right, GString *to)
{
    const int rest = width - (int)g_utf8_strlen(text, -1);
    g_string_append_printf(to, "%*s%*s%s%*s", gap, "", right ? rest : 0, "", text, right ? 0 : rest, "");
}

#define HEADS         4u
#define TOLD          1u /* figures that the verdict tells: how long it took to settle */
#define TABLE_COLUMNS (HEADS + G_N_ELEMENTS(figures) - TOLD)

static char *table_cell(const tuning *t, guint i, size_t k)
{
    const tune_try *one = tune_try_at(t, i);
    if (k == 0) {
        return g_strdup_printf("%u", i + 1);
    }
    if (k < HEADS) {
        return k == 1 ? tune_verdict_text(t, one) : k == 2 ? tune_gains_text(t, one->gain) : tune_test_text(t, one);
    }
    GString *value = g_string_new(NULL);
    if (!one->stopped) {
        put_figure(t, &one->response, k - HEADS + TOLD, value);
    }
    return g_string_free(value, FALSE);
}

static GPtrArray *table_column(const tuning *t, size_t k)
{
    static const char *const heads[] = {"try", "verdict", "gains", "test"};
    GPtrArray *texts = g_ptr_array_new_with_free_func(g_free);
    g_ptr_array_add(texts, g_strdup(k < HEADS ? heads[k] : figures[k - HEADS + TOLD].name));
    for (guint i = 0; i < t->tries->len; i++) {
        g_ptr_array_add(texts, table_cell(t, i, k));
    }
    return texts;
}

GPtrArray *tune_table(const tuning *t, int gap)
{
    GPtrArray *lines = g_ptr_array_new_with_free_func(g_free), *column[TABLE_COLUMNS];
    int width[TABLE_COLUMNS];
    for (size_t k = 0; k < TABLE_COLUMNS; k++) {
        column[k] = table_column(t, k);
        width[k] = widest(column[k]);
    }
    for (guint i = 0; i <= t->tries->len; i++) {
        const tune_try *one = i > 0 ? tune_try_at(t, i - 1) : NULL;
        GString *line = g_string_new(NULL);
        for (size_t k = 0; k < (one && one->stopped ? HEADS : TABLE_COLUMNS); k++) {
            put_padded(column[k]->pdata[i], gap, width[k], k >= HEADS, line);
        }
        if (one && one->stopped) {
            g_string_append_printf(line, "%*s%s%s", gap, "", one->voided ? "" : "everything at rest: ", one->stopped);
        }
        g_ptr_array_add(lines, g_string_free(line, FALSE));
    }
    for (size_t k = 0; k < TABLE_COLUMNS; k++) {
        g_ptr_array_unref(column[k]);
    }
    return lines;
}

void tune_print(const tuning *t)
{
    g_autoptr(GPtrArray) lines = tune_table(t, 2);
    for (guint i = 0; i < lines->len; i++) {
        puts(lines->pdata[i]);
    }
    print_meanings(t);
}

void tune_print_json(const tuning *t)
{
    json_t *all = json_array();
    for (guint i = 0; i < t->tries->len; i++) {
        const tune_try *one = tune_try_at(t, i);
        g_autofree char *test = tune_test_text(t, one);
        json_t *gains = json_object(), *settings = json_object(), *response = json_object();
        for (uint32_t k = 0; k < t->gains + t->settings; k++) {
            json_object_set_new(k < t->gains ? gains : settings, tune_gain_word(t, k), json_real(one->gain[k]));
        }
        for (size_t k = 0; k < G_N_ELEMENTS(figures) && !one->stopped; k++) {
            const double value = figure_of(&one->response, k);
            json_object_set_new(response, figures[k].name, isfinite(value) ? json_real(value) : json_null());
        }
        json_t *is = json_pack("{s:i, s:o, s:o, s:s, s:o, s:b}", "try", (int)i + 1, "gains", gains, "settings",
                               settings, "test", test, "figures", response, "settles",
                               !one->stopped && one->response.verdict == RP_VERDICT_SETTLED);
        g_autofree char *verdict = tune_verdict_text(t, one);
        json_object_set_new(is, "verdict", json_string(verdict));
        json_object_set_new(is, "begun on its way", json_boolean(!one->stopped && one->response.unsettled));
        json_object_set_new(is, "broken off", one->stopped ? json_string(one->stopped) : json_null());
        json_array_append_new(all, is);
    }
    g_autofree char *path = rp_make_printable(g_strdup(t->path), false);
    json_t *whole = json_pack("{s:s, s:s, s:s, s:s, s:o}", "rig", path, "loop", t->name, "unit", t->unit, "drive unit",
                              t->drive_unit, "tries", all);
    command_print_json(whole);
}

/* ---- the file ---------------------------------------------------------------------------------------- */

/* The places whose numbers are others now, in a rig of the same loop. *nowhere: a gain that has none. */
static uint32_t changed_places(const tuning *t, rp_rig *rig, const double *gain, rp_place *place, double *number,
                               const char **nowhere)
{
    rp_loop_setting setting[RP_LOOP_SETTINGS_MAX];
    const uint32_t settings = rp_rig_loop_settings(rig, t->name, setting);
    uint32_t count = 0;
    for (uint32_t i = 0; i < t->gains + MIN(settings, t->settings); i++) {
        if (i >= t->gains) {
            place[count] = setting[i - t->gains].place;
        } else if (!rp_rig_param_place(rig, param_name(t, i), &place[count])) {
            *nowhere = param_name(t, i);
            continue;
        }
        if (!is_same(place[count].value, gain[i])) {
            number[count++] = g_ascii_strtod(
                g_ascii_dtostr((char[G_ASCII_DTOSTR_BUF_SIZE]){0}, G_ASCII_DTOSTR_BUF_SIZE, gain[i]), NULL);
        }
    }
    return count;
}

/* The rig's text with these gains and settings; NULL when they stand there already. */
static const char *text_with(const tuning *t, rp_rig *rig, const double *gain, const char **nowhere)
{
    rp_place place[TUNE_VALUES];
    const rp_place *which[TUNE_VALUES];
    double number[TUNE_VALUES];
    const uint32_t count = changed_places(t, rig, gain, place, number, nowhere);
    for (uint32_t i = 0; i < count; i++) {
        which[i] = &place[i];
    }
    return count > 0 ? rp_edit_places(rig, which, number, count) : NULL;
}

rp_rig *tune_rig(const tuning *t, const double *gain, GError **error)
{
    double file[TUNE_VALUES];
    tune_file_gains(t, file);
    memcpy(file + t->gains, gain + t->gains, t->settings * sizeof *gain);
    const char *nowhere = NULL, *with = text_with(t, t->file, file, &nowhere), *text = with ? with : t->file->source;
    rp_rig *rig = rp_rig_compile(t->path, text, strlen(text), rp_ports_catalog());
    const bool alike = rig && rig->image && ((const rp_image_header *)rig->image)->slots == t->image->slots &&
                       ((const rp_image_header *)rig->image)->memory == t->image->memory;
    if (!alike) {
        g_autofree char *gains = tune_gains_text(t, gain);
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "the rig cannot be taken with %s%s%s", gains,
                    rig && rig->messages ? ": " : "", rig && rig->messages ? rig->message[0].text : "");
        rp_rig_free(rig);
        return NULL;
    }
    return rig;
}

bool tune_save(tuning *t, const double *gain, char **why)
{
    g_autofree char *now = NULL;
    g_autoptr(GError) error = NULL;
    gsize length = 0;
    if (!rp_file_read(t->path, &now, &length, &error)) {
        *why = g_strdup(error->message);
        return false;
    }
    rp_rig *rig = rp_rig_compile(t->path, now, length, rp_ports_catalog());
    const char *nowhere = NULL, *text = rig && rig->image ? text_with(t, rig, gain, &nowhere) : NULL;
    g_autofree char *words = tune_gains_text(t, gain), *what = g_strdup_printf("tune %s: %s", t->name, words);
    if (!rig || !rig->image) {
        *why = g_strdup_printf("%s has mistakes in it now; 'rigpulse check' says which", t->path);
    } else if (nowhere) {
        *why = g_strdup_printf("%s stands nowhere as a number", nowhere);
    } else if (!text) {
        *why = g_strdup_printf("these gains stand in %s already", t->path);
    } else if (!rewrite_file(t->path, rig->source, text, what, &error)) {
        *why = g_strdup(error->message);
    }
    rp_rig_free(rig);
    return !*why;
}
