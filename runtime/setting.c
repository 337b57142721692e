/* NAME=VALUE: a parameter's value at the start. */
#include "setting.h"

#include "rigpulse/lang.h"

#include <gio/gio.h>
#include <string.h>

bool rgp_set_param(rgp_engine *engine, const char *text, GError **error)
{
    const rgp_image_header *image = engine->image;
    const char *equals = strchr(text, '=');
    g_autofree char *name = equals ? g_strstrip(g_strndup(text, (gsize)(equals - text))) : NULL;
    const uint32_t params = rgp_image_count(image, RGP_SECTION_PARAMS);
    const int32_t found = name ? rgp_image_find(image, RGP_FIND_PARAM, name) : -1;
    const uint32_t i = (uint32_t)found;
    if (found < 0) {
        g_autoptr(GString) all = g_string_new(NULL);
        for (uint32_t k = 0; k < params; k++) {
            g_string_append_printf(all, "%s%s", k ? ", " : "", rgp_image_text(image, RGP_NAME_SLOT, k, 0));
        }
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT,
                    "--set %s: it takes NAME=VALUE of a parameter; this rig has %s", text, params ? all->str : "none");
        return false;
    }
    const char *unit = rgp_image_unit(image, RGP_NAME_SLOT, i, 0), *why;
    const rgp_image_param *param = (const rgp_image_param *)rgp_image_at(image, RGP_SECTION_PARAMS) + i;
    double value;
    if (!rgp_quantity_parse(equals + 1, unit, &value, &why)) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "--set %s: %s; %s is in %s", text, why, name,
                    *unit ? unit : "bare numbers");
        return false;
    }
    if (rgp_engine_set(engine, (uint16_t)i, (float)value) != RGP_OK) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "--set %s: %s can be from %g to %g %s", text, name,
                    (double)param->low, (double)param->high, unit);
        return false;
    }
    return true;
}
