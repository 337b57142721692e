/* Parameters named and set by a person. */
#include "setting.h"

#include "rigpulse/lang.h"

#include <gio/gio.h>
#include <string.h>

int32_t rgp_param_find(const rgp_image_header *image, const char *name, GError **error)
{
    const int32_t param = rgp_image_find(image, RGP_FIND_PARAM, name);
    if (param < 0) {
        g_autoptr(GString) all = g_string_new(NULL);
        for (uint32_t k = 0; k < rgp_image_count(image, RGP_SECTION_PARAMS); k++) {
            g_string_append_printf(all, "%s%s", k ? ", " : "", rgp_image_text(image, RGP_NAME_SLOT, k, 0));
        }
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "this rig has no parameter '%s'; it has %s", name,
                    all->len > 0 ? all->str : "none");
    }
    return param;
}

bool rgp_param_value(const rgp_image_header *image, uint32_t param, const char *text, double *value, GError **error)
{
    const rgp_image_param *is = (const rgp_image_param *)rgp_image_at(image, RGP_SECTION_PARAMS) + param;
    const char *name = rgp_image_text(image, RGP_NAME_SLOT, param, 0);
    const char *unit = rgp_image_unit(image, RGP_NAME_SLOT, param, 0), *why;
    if (!rgp_quantity_parse(text, unit, value, &why)) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "%s; %s is in %s", why, name,
                    *unit ? unit : "bare numbers");
        return false;
    }
    if ((float)*value < is->low || (float)*value > is->high) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "%s can be from %g to %g %s", name, (double)is->low,
                    (double)is->high, unit);
        return false;
    }
    return true;
}

bool rgp_set_param(rgp_engine *engine, const char *text, GError **error)
{
    double value;
    g_auto(GStrv) part = g_strsplit(text, "=", 2);
    if (g_strv_length(part) != 2) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "--set %s: it takes NAME=VALUE", text);
        return false;
    }
    const int32_t param = rgp_param_find(engine->image, g_strstrip(part[0]), error);
    if (param < 0 || !rgp_param_value(engine->image, (uint32_t)param, part[1], &value, error)) {
        g_prefix_error(error, "--set %s: ", text);
        return false;
    }
    rgp_engine_set(engine, (uint16_t)param, (float)value);
    return true;
}
