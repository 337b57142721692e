/* A parameter varied over a recorded run, as a table, as JSON and as a picture. */
#include "vary.h"

#include "tool/picture.h"

#include "analysis/figures/variation_figure.h"

#include <jansson.h>
#include <stdio.h>
#include <string.h>

#define VALUES_MOST  50
#define VALUES_USUAL 7

typedef struct stretch {
    uint32_t param;
    double low, high;
    uint32_t values;
} stretch;

static char *params_of(const rgp_image_header *image)
{
    GString *all = g_string_new(NULL);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_PARAMS); i++) {
        g_string_append_printf(all, "%s%s", i > 0 ? ", " : "", rgp_image_text(image, RGP_NAME_SLOT, i, 0));
    }
    return g_string_free(all->len > 0 ? all : g_string_append(all, "none"), FALSE);
}

/* A bare number is in the parameter's unit. */
static bool parse_end(const char *text, gsize length, const char *unit, double *value, const char **why)
{
    g_autofree char *part = g_strstrip(g_strndup(text, length));
    const size_t end = strlen(part);
    const bool bare = end > 0 && (g_ascii_isdigit(part[end - 1]) || part[end - 1] == '.');
    g_autofree char *with = bare ? g_strdup_printf("%s %s", part, unit) : g_strdup(part);
    return rgp_quantity_parse(g_strchomp(with), unit, value, why);
}

static bool refuse(const variation_ask *ask, const char *why)
{
    command_refuse(ask->self, "--vary %s: %s", ask->text, why);
    return false;
}

/* The parameter before the '='. */
static bool parse_name(const variation_ask *ask, const char *equals, stretch *to)
{
    g_autofree char *name = g_strndup(ask->text, equals ? (gsize)(equals - ask->text) : 0);
    const int32_t param = rgp_image_find(ask->rig->image, RGP_FIND_PARAM, name);
    to->param = param < 0 ? 0 : (uint32_t)param;
    if (param < 0) {
        g_autofree char *params = params_of(ask->rig->image);
        g_autofree char *why = g_strdup_printf("this rig has no such parameter; it has %s", params);
        return refuse(ask, why);
    }
    return true;
}

static bool is_within(const variation_ask *ask, const stretch *s, gint64 values)
{
    const rgp_image_param *is = (const rgp_image_param *)rgp_image_at(ask->rig->image, RGP_SECTION_PARAMS) + s->param;
    if (s->low < (double)is->low || s->high > (double)is->high) {
        g_autofree char *why = g_strdup_printf(
            "%s can be from %g to %g %s", rgp_image_text(ask->rig->image, RGP_NAME_SLOT, s->param, 0), (double)is->low,
            (double)is->high, rgp_image_unit(ask->rig->image, RGP_NAME_SLOT, s->param, 0));
        return refuse(ask, why);
    }
    if (values < 2 || values > VALUES_MOST || !(s->low < s->high)) {
        g_autofree char *why = g_strdup_printf("A is less than B, and there are 2 to %d values", VALUES_MOST);
        return refuse(ask, why);
    }
    return true;
}

/* "NAME=A..B[,N]", in the parameter's unit or with units. */
static bool parse(const variation_ask *ask, stretch *to)
{
    const char *equals = strchr(ask->text, '='), *dots = equals ? strstr(equals, "..") : NULL;
    const char *comma = dots ? strchr(dots, ',') : NULL, *why = "it takes NAME=A..B, or NAME=A..B,N";
    if (!dots) {
        return refuse(ask, why);
    }
    if (!parse_name(ask, equals, to)) {
        return false;
    }
    const char *unit = rgp_image_unit(ask->rig->image, RGP_NAME_SLOT, to->param, 0);
    const gint64 values = comma ? g_ascii_strtoll(comma + 1, NULL, 10) : VALUES_USUAL;
    const gsize high = comma ? (gsize)(comma - dots - 2) : strlen(dots + 2);
    if (!parse_end(equals + 1, (gsize)(dots - equals - 1), unit, &to->low, &why) ||
        !parse_end(dots + 2, high, unit, &to->high, &why)) {
        return refuse(ask, why);
    }
    to->values = (uint32_t)values;
    return is_within(ask, to, values);
}

/* ---- what comes out -------------------------------------------------------------------------------- */

static double seconds_at(const variation_ask *ask, uint32_t row)
{
    return (double)rgp_recording_time_us(ask->from, row) / 1e6;
}

static uint32_t line_of(const variation_ask *ask, uint32_t rule)
{
    return rgp_image_name_of(ask->rig->image, RGP_NAME_RULE, rule, 0)->line;
}

static void print_table(const variation_ask *ask, const rgp_variation *v)
{
    const rgp_image_header *image = ask->rig->image;
    const char *name = rgp_image_text(image, RGP_NAME_SLOT, v->param, 0);
    printf("firings in %u rows, %g to %g s, by %s\n%16s", ask->from->rows, seconds_at(ask, 0),
           seconds_at(ask, ask->from->rows - 1), name, name);
    for (uint32_t k = 0; k < v->rules; k++) {
        printf("  line %4u", line_of(ask, k));
    }
    puts("  exact until");
    bool whole = true;
    for (uint32_t n = 0; n < v->values; n++) {
        g_autofree char *told =
            g_strdup_printf("%.4g %s", v->value[n], rgp_image_unit(image, RGP_NAME_SLOT, v->param, 0));
        printf("%16s", told);
        for (uint32_t k = 0; k < v->rules; k++) {
            printf("  %9u", v->firings[n * v->rules + k]);
        }
        whole &= v->driven[n] == ask->from->rows;
        if (v->driven[n] == ask->from->rows) {
            puts("      the end");
        } else {
            printf("  %9.3f s\n", seconds_at(ask, v->driven[n]));
        }
    }
    if (!whole) {
        puts(
            "behind the last column's moment something else is driven than then, and the readings no longer answer it");
    }
}

static void print_json(const variation_ask *ask, const rgp_variation *v)
{
    json_t *lines = json_array(), *table = json_array();
    for (uint32_t k = 0; k < v->rules; k++) {
        json_array_append_new(lines, json_integer(line_of(ask, k)));
    }
    for (uint32_t n = 0; n < v->values; n++) {
        json_t *row = json_array();
        for (uint32_t k = 0; k < v->rules; k++) {
            json_array_append_new(row, json_integer(v->firings[n * v->rules + k]));
        }
        const bool whole = v->driven[n] == ask->from->rows;
        json_array_append_new(table, json_pack("{s:f, s:o, s:o}", "value", v->value[n], "firings", row, "exact_until",
                                               whole ? json_null() : json_real(seconds_at(ask, v->driven[n]))));
    }
    const rgp_image_header *image = ask->rig->image;
    command_print_json(json_pack("{s:s, s:s, s:o, s:o}", "param", rgp_image_text(image, RGP_NAME_SLOT, v->param, 0),
                                 "unit", rgp_image_unit(image, RGP_NAME_SLOT, v->param, 0), "lines", lines, "values",
                                 table));
}

static bool draw(const variation_ask *ask, const rgp_variation *v)
{
    g_autoptr(GError) error = NULL;
    g_autoptr(GString) script = rgp_variation_script(v, ask->from, ask->picture);
    if (!picture_run(script, ask->picture, &error)) {
        command_refuse(ask->self, "%s", error->message);
        return false;
    }
    if (!ask->json) {
        printf("the picture: %s\n", ask->picture);
    }
    return true;
}

int vary_parameter(const variation_ask *ask)
{
    stretch s = {0};
    g_autoptr(GError) error = NULL;
    if (!parse(ask, &s)) {
        return EXIT_USAGE;
    }
    if (rgp_image_count(ask->rig->image, RGP_SECTION_RULES) == 0) {
        refuse(ask, "this rig has no rule that could fire");
        return EXIT_USAGE;
    }
    const rgp_variation_ask each = {ask->rig, ask->from, ask->set, s.param, s.low, s.high, s.values};
    rgp_variation *v = rgp_variation_of(&each, &error);
    if (!v) {
        return command_refuse(ask->self, "%s", error->message);
    }
    (ask->json ? print_json : print_table)(ask, v);
    const bool drawn = !ask->picture || draw(ask, v);
    rgp_variation_free(v);
    return drawn ? EXIT_DONE : EXIT_USAGE;
}
