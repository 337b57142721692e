/* The circumstances of a recorded run: parameters at its beginning, what was bound or taken up, who told edges. */
#include "recording_parts.h"

static void take_params(rgp_recording *to, const json_t *params)
{
    const rgp_image_param *param = rgp_image_at(to->image, RGP_SECTION_PARAMS);
    const uint32_t count = rgp_image_count(to->image, RGP_SECTION_PARAMS);
    to->param = g_new0(float, count + 1);
    for (uint32_t i = 0; i < count; i++) {
        const json_t *one = json_object_get(params, rgp_image_text(to->image, RGP_NAME_SLOT, i, 0));
        const json_t *value = json_object_get(one, "value");
        to->param[i] = json_is_number(value) ? (float)json_number_value(value) : param[i].initial;
    }
}

static void take_told(rgp_recording *to, const json_t *edges)
{
    size_t i;
    json_t *name;
    to->told = g_new0(bool, rgp_image_count(to->image, RGP_SECTION_SENSORS) + 1);
    json_array_foreach(edges, i, name)
    {
        const char *text = json_string_value(name);
        const int32_t sensor = text ? rgp_image_find(to->image, RGP_FIND_SENSOR, text) : -1;
        if (sensor >= 0) {
            to->told[sensor] = true;
        }
    }
}

static void take_kept(rgp_recording *to, const json_t *hex)
{
    const char *text = json_string_value(hex);
    GByteArray *bytes = g_byte_array_new();
    for (; text && g_ascii_isxdigit(text[0]) && g_ascii_isxdigit(text[1]); text += 2) {
        const guint8 byte = (guint8)(g_ascii_xdigit_value(text[0]) << 4 | g_ascii_xdigit_value(text[1]));
        g_byte_array_append(bytes, &byte, 1);
    }
    to->kept = bytes->len > 0 ? g_byte_array_free_to_bytes(bytes) : (g_byte_array_unref(bytes), NULL);
}

static bool is_said(const json_t *summary, const char *what)
{
    return json_is_true(json_object_get(summary, what));
}

void rgp_recording_circumstances(rgp_recording *to, const json_t *summary)
{
    to->bits = (int)json_integer_value(json_object_get(summary, "bits"));
    to->first_tick = (uint64_t)json_integer_value(json_object_get(summary, "first_tick"));
    to->events_lost = (uint64_t)json_integer_value(json_object_get(summary, "events_lost"));
    to->simulated = g_strcmp0(json_string_value(json_object_get(summary, "port")), "sim") == 0;
    to->dry = is_said(summary, "dry");
    to->hand_only = is_said(summary, "hand_only");
    to->at_rest = is_said(summary, "at_rest");
    to->power = (float)json_number_value(json_object_get(summary, "power"));
    take_params(to, json_object_get(summary, "params"));
    take_told(to, json_object_get(summary, "edges"));
    take_kept(to, json_object_get(summary, "kept"));
}
