/* A parameter varied over a recorded run, as a table, as JSON and as a picture. */
#include "vary.h"

#include "tool/picture.h"

#include "analysis/figures/variation_figure.h"
#include "runtime/setting.h"

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

static bool refuse(const variation_ask *ask, const char *why)
{
    command_refuse(ask->self, "--vary %s: %s", ask->text, why);
    return false;
}

/* Another value of the same parameter by --set would never be heeded. */
static bool is_free(const variation_ask *ask, const char *name)
{
    for (char **one = ask->set; one && *one; one++) {
        g_autofree char *set = g_strstrip(g_strndup(*one, strcspn(*one, "=")));
        if (strcmp(set, name) == 0) {
            return refuse(ask, "--set gives this parameter one value; take one of the two out");
        }
    }
    return true;
}

/* As the language writes a range, "2..5 cm": an A without a unit has that of B. */
static bool parse_ends(const variation_ask *ask, const char *low, const char *high, stretch *to, GError **error)
{
    char *behind_low, *behind_high;
    g_ascii_strtod(low, &behind_low);
    g_ascii_strtod(high, &behind_high);
    g_autofree char *with = g_strconcat(low, *behind_low ? "" : behind_high, NULL);
    return rgp_param_value(ask->rig->image, to->param, with, &to->low, error) &&
           rgp_param_value(ask->rig->image, to->param, high, &to->high, error);
}

/* "NAME=A..B[,N]". */
static bool parse(const variation_ask *ask, stretch *to)
{
    g_auto(GStrv) name = g_strsplit(ask->text, "=", 2);
    const char *range = name[0] ? name[1] : NULL;
    g_auto(GStrv) ends = g_strsplit(range ? range : "", "..", 2);
    if (!range || g_strv_length(ends) != 2) {
        return refuse(ask, "it takes NAME=A..B, or NAME=A..B,N");
    }
    char *comma = strchr(ends[1], ',');
    guint64 values = VALUES_USUAL;
    if (comma && !g_ascii_string_to_unsigned(comma + 1, 10, 2, VALUES_MOST, &values, NULL)) {
        g_autofree char *why = g_strdup_printf("N is a whole number from 2 to %d", VALUES_MOST);
        return refuse(ask, why);
    }
    if (comma) {
        *comma = '\0';
    }
    to->values = (uint32_t)values;
    g_autoptr(GError) error = NULL;
    const int32_t param = rgp_param_find(ask->rig->image, name[0], &error);
    to->param = (uint32_t)param;
    if (param < 0 || !parse_ends(ask, g_strstrip(ends[0]), g_strstrip(ends[1]), to, &error)) {
        return refuse(ask, error->message);
    }
    return is_free(ask, name[0]) && (to->low < to->high || refuse(ask, "A is not less than B"));
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
    if (*v->says) {
        puts(v->says);
    }
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
        whole &= v->exact[n] == ask->from->rows;
        if (v->exact[n] == ask->from->rows) {
            puts("      the end");
        } else {
            printf("  %9.3f s\n", seconds_at(ask, v->exact[n]));
        }
    }
    if (!whole) {
        puts("behind the last column's moment they are a hint: something else is driven than then, or inputs are "
             "missing");
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
        const bool whole = v->exact[n] == ask->from->rows;
        json_array_append_new(table, json_pack("{s:f, s:o, s:o}", "value", v->value[n], "firings", row, "exact_until",
                                               whole ? json_null() : json_real(seconds_at(ask, v->exact[n]))));
    }
    const rgp_image_header *image = ask->rig->image;
    command_print_json(
        json_pack("{s:s, s:s, s:s, s:o, s:o}", "param", rgp_image_text(image, RGP_NAME_SLOT, v->param, 0), "unit",
                  rgp_image_unit(image, RGP_NAME_SLOT, v->param, 0), "says", v->says, "lines", lines, "values", table));
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
