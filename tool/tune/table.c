/* The tries as a table, with figures and verdicts, and as JSON. */
#include "tune.h"

#include "tool/rigfile.h"

#include "explain/describe.h"

#include <jansson.h>
#include <math.h>
#include <string.h>

#define DECAY_SHOWN 0.1 /* below, noise decides */

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
#define FIGURE(field, name, unit, error) {name, unit, offsetof(rgp_response, field), offsetof(rgp_response, error)},
    RGP_RESPONSE_LIST(FIGURE)
#undef FIGURE
};

static double number_at(const rgp_response *r, size_t offset)
{
    double value;
    memcpy(&value, (const char *)r + offset, sizeof value);
    return value;
}

static double figure_of(const rgp_response *r, size_t i)
{
    return number_at(r, figures[i].offset);
}

/* "16.4 ±0.6 %"; "under 0.5 %" of what was looked for and not seen; "-" of what is not known. */
static void put_figure(const tuning *t, const rgp_response *r, size_t i, GString *to)
{
    const double value = figure_of(r, i), error = number_at(r, figures[i].error);
    g_autofree char *unit = unit_of(t, figures[i].unit);
    if (figures[i].offset == offsetof(rgp_response, overshoot) && isnan(value) && r->overshoot_under > 0.0) {
        g_string_append_printf(to, "under %s %s", rgp_digits(r->overshoot_under, 2).text, unit);
    } else if (figures[i].offset == offsetof(rgp_response, decay) && value < DECAY_SHOWN) {
        g_string_append_printf(to, "under %g", DECAY_SHOWN);
    } else if (!isfinite(value)) {
        g_string_append(to, "-");
    } else {
        g_string_append(to, rgp_digits(value, 3).text);
        if (figures[i].error != offsetof(rgp_response, noise)) {
            g_string_append_printf(to, " ±%s", rgp_digits(error, 1).text);
        }
        g_string_append_printf(to, "%s%s", *unit ? " " : "", unit);
    }
}

/* ---- verdicts ---------------------------------------------------------------------------------------- */

static const struct {
    const char *word, *means;
} verdicts[] = {
    [RGP_VERDICT_SETTLED] = {"settled", NULL},
    [RGP_VERDICT_BACK] = {"back",
                          "it is back within what it does all by itself, which is more than a calm loop's band; "
                          "'--within AMOUNT' says what is good enough"},
    [RGP_VERDICT_TOO_SHORT] = {"too short",
                               "it was on its way, or only just within the band, when the look was over; take "
                               "a longer --over"},
    [RGP_VERDICT_SWINGS] = {"swings on", "each swing leaves as much as the one before: less kp or ki, or more kd"},
    [RGP_VERDICT_OFF] = {"stays off",
                         "the error that is left is beyond the band: it takes ki, or a stronger actuator, or "
                         "'--within AMOUNT' where that is good enough"},
    [RGP_VERDICT_RESTLESS] = {"does not settle", "it leaves the band again and again"},
    [RGP_VERDICT_HIDDEN] = {"by itself",
                            "all by itself it is off by half as much as the test made it, or more, which hides "
                            "the answer: find what moves it, gains that leave it calm, or a greater test; "
                            "'--within AMOUNT' says what is good enough"},
};

/* "±0.72 K every 48 s". */
static char *own_movement(const tuning *t, const rgp_response *r)
{
    return isfinite(r->before_period) ? g_strdup_printf("±%s %s every %s s", rgp_digits(r->before, 2).text, t->unit,
                                                        rgp_digits(r->before_period, 2).text)
                                      : g_strdup_printf("±%s %s", rgp_digits(r->before, 2).text, t->unit);
}

char *tune_verdict_text(const tuning *t, const tune_try *one)
{
    const rgp_response *r = &one->response;
    const char *begun = r->unsettled ? "*" : "";
    if (one->stopped) {
        return g_strdup(one->voided ? "void" : "broken off");
    }
    g_autofree char *own = own_movement(t, r);
    switch (r->verdict) {
    case RGP_VERDICT_SETTLED:
        return r->settling <= 0.0 ? g_strdup_printf("stays within %s %s%s", rgp_digits(r->band, 2).text, t->unit, begun)
                                  : g_strdup_printf("settled in %s s%s", rgp_digits(r->settling, 3).text, begun);
    case RGP_VERDICT_BACK:
        return g_strdup_printf("back in %s s to %s%s", rgp_digits(r->settling, 3).text, own, begun);
    case RGP_VERDICT_TOO_SHORT:
        return g_strdup_printf("too short: look %s s%s", rgp_digits(r->needs, 2).text, begun);
    case RGP_VERDICT_SWINGS:
        return g_strdup_printf("swings on every %s s%s", rgp_digits(r->period, 2).text, begun);
    case RGP_VERDICT_OFF:
        return g_strdup_printf("stays off by %s %s%s", rgp_digits(fabs(r->steady), 2).text, t->unit, begun);
    case RGP_VERDICT_HIDDEN:
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

static void print_advice(const tuning *t)
{
    for (guint i = 0; i < t->tries->len; i++) {
        g_autofree char *next = NULL, *says = tune_advice(t, tune_try_at(t, i), &next);
        if (says) {
            printf("try %u: %s%s%s%s\n", i + 1, says, next ? "; next: --try '" : "", next ? next : "", next ? "'" : "");
        }
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

char *tune_other_drivers(const tuning *t)
{
    const char *actuator =
        rgp_image_text(t->image, RGP_NAME_SLOT, rgp_image_actuator_slot(t->image, t->is->actuator), 0);
    const rgp_image_name *own = rgp_image_name_of(t->image, RGP_NAME_LOOP, t->loop, 0);
    g_autofree char *lines = rigfile_driving_lines(t->file, actuator, own->line);
    const bool one = lines && g_str_has_prefix(lines, "line ");
    return !lines ? NULL
                  : g_strdup_printf("%s %s '%s', too: while %s, a try is not the loop's alone", lines,
                                    one ? "drives" : "drive", actuator, one ? "it does" : "they do");
}

void tune_print(const tuning *t)
{
    g_autoptr(GPtrArray) lines = tune_table(t, 2);
    for (guint i = 0; i < lines->len; i++) {
        puts(lines->pdata[i]);
    }
    print_meanings(t);
    print_advice(t);
    g_autofree char *others = tune_other_drivers(t);
    if (others) {
        puts(others);
    }
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
                               !one->stopped && one->response.verdict == RGP_VERDICT_SETTLED);
        g_autofree char *verdict = tune_verdict_text(t, one);
        json_object_set_new(is, "verdict", json_string(verdict));
        json_object_set_new(is, "begun on its way", json_boolean(!one->stopped && one->response.unsettled));
        json_object_set_new(is, "broken off", one->stopped ? json_string(one->stopped) : json_null());
        g_autofree char *next = NULL, *says = tune_advice(t, one, &next);
        json_object_set_new(is, "advice", says ? json_string(says) : json_null());
        json_object_set_new(is, "next", next ? json_string(next) : json_null());
        json_array_append_new(all, is);
    }
    g_autofree char *path = rgp_make_printable(g_strdup(t->path), false);
    g_autofree char *others = tune_other_drivers(t);
    json_t *whole = json_pack("{s:s, s:s, s:s, s:s, s:s?, s:o}", "rig", path, "loop", t->name, "unit", t->unit,
                              "drive unit", t->drive_unit, "other drivers", others, "tries", all);
    command_print_json(whole);
}
