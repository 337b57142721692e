/* From captures of conditions to the borders of bands. */
#include "result.h"

#include "analysis/separate.h"

#include <jansson.h>
#include <math.h>
#include <string.h>

static bool gather(const calibration *c, rgp_condition *condition, char **why)
{
    const rgp_intake *in = capture_session_intake(c->capture_session);
    for (guint b = 0; b < c->what.bands; b++) {
        condition[b] = (rgp_condition){.name = c->what.band[b], .value = g_array_new(FALSE, FALSE, sizeof(double))};
        for (guint i = 0; i < c->point->len; i++) {
            const calibrate_point *p = calibrate_point_at(c, i);
            for (guint k = p->from; p->known == b && k < p->to; k++) {
                if (rgp_usable(g_array_index(in->in_quality, rgp_quality, k))) {
                    g_array_append_val(condition[b].value, g_array_index(in->in, double, k));
                }
            }
        }
    }
    for (guint b = 0; b < c->what.bands; b++) {
        if (condition[b].value->len == 0) {
            *why = g_strdup_printf("condition '%s' was not captured; all of them are needed", condition[b].name);
            return false;
        }
    }
    return true;
}

/* The bands stand in the file from the lowest; what was captured must be in that order. */
static bool in_order(const calibration *c, const rgp_condition *condition, char **why)
{
    for (guint b = 0; b < c->what.bands; b++) {
        if (condition[b].name != c->what.band[b]) {
            g_autoptr(GString) order = g_string_new(condition[0].name);
            for (guint i = 1; i < c->what.bands; i++) {
                g_string_append_printf(order, ", %s", condition[i].name);
            }
            *why = g_strdup_printf("from the lowest the conditions are %s; the bands '%s' are in another order",
                                   order->str, c->name);
            return false;
        }
    }
    return true;
}

static void put_separation(const calibration *c, const rgp_condition *condition, const rgp_separation *found)
{
    const char *unit = c->what.unit;
    g_string_append_printf(c->said, "  %-14s%-16s%-12s\n", "condition", "mean", "scatter");
    for (guint b = 0; b < c->what.bands; b++) {
        g_autofree char *mean = calibrate_number_text(condition[b].mean, unit);
        g_string_append(c->said, "  ");
        calibrate_put_padded(c->said, 14, condition[b].name);
        calibrate_put_padded(c->said, 16, mean);
        g_string_append_printf(c->said, "%-12.2g\n", condition[b].spread);
        if (b + 1 < c->what.bands) {
            g_autofree char *border = calibrate_number_text(found->border[b], unit);
            g_string_append_printf(c->said, "    border at %s, with %.2g %% of the values on the wrong side\n", border,
                                   100.0 * found->mistaken[b]);
        }
    }
    g_autofree char *margin = calibrate_number_text(found->margin, unit);
    g_string_append_printf(c->said, "  margin %s\n", margin);
}

static void put_separation_json(const calibration *c, const rgp_condition *condition, const rgp_separation *found)
{
    json_t *all = json_array();
    for (guint b = 0; b < c->what.bands; b++) {
        json_t *one = json_pack("{s:s, s:f, s:f}", "condition", condition[b].name, "mean", condition[b].mean, "spread",
                                condition[b].spread);
        if (b + 1 < c->what.bands) {
            json_object_set_new(one, "border_above", json_real(found->border[b]));
        }
        json_array_append_new(all, one);
    }
    json_t *whole = json_pack("{s:s, s:s, s:o, s:f}", "bands", c->name, "unit", c->what.unit, "conditions", all,
                              "margin", found->margin);
    char *text = json_dumps(whole, JSON_INDENT(2) | JSON_REAL_PRECISION(9));
    g_string_append_printf(c->said, "%s\n", text);
    free(text);
    json_decref(whole);
}

static bool write_bands(calibration *c, const rgp_separation *found, char **why)
{
    guint which[RGP_CALIBRATION_PLACES_MAX];
    double number[RGP_CALIBRATION_PLACES_MAX];
    for (guint i = 0; i < c->what.places; i++) {
        which[i] = i;
        number[i] = i + 1 < c->what.places ? found->border[i] : found->margin;
    }
    return calibrate_write_places(c, which, number, c->what.places, why);
}

bool calibrate_conclude_bands(calibration *c, char **why)
{
    rgp_condition condition[RGP_CALIBRATION_BANDS_MAX] = {{0}};
    rgp_separation found;
    bool sound = gather(c, condition, why) && rgp_separate(condition, c->what.bands, c->what.unit, &found, why) &&
                 in_order(c, condition, why) && write_bands(c, &found, why);
    rgp_rig *made = sound ? calibrate_try_text(c, c->edited, why) : NULL;
    sound = made != NULL;
    if (sound && c->options->json) {
        put_separation_json(c, condition, &found);
    } else if (sound) {
        put_separation(c, condition, &found);
    }
    for (guint b = 0; b < c->what.bands; b++) {
        if (condition[b].value) {
            g_array_unref(condition[b].value);
        }
    }
    rgp_rig_free(made);
    return sound;
}
