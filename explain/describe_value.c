/* Values in words: numbers with as many digits as are read, names of bands and switches. */
#include "scene.h"

#include <math.h>
#include <string.h>

/* Four significant digits, but never fewer than those of the whole number. */
static void put_digits(double number, char *text, gulong room)
{
    const double size = fabs(number);
    const int digits = size >= 1000.0 ? 0 : size >= 100.0 ? 1 : size >= 10.0 ? 2 : size >= 1e-3 || size == 0.0 ? 3 : 7;
    g_snprintf(text, room, "%.*f", digits, number);
}

static void strip_zeros(char *text)
{
    size_t end = strlen(text);
    while (strchr(text, '.') && (text[end - 1] == '0' || text[end - 1] == '.')) {
        text[--end] = '\0';
    }
}

void rgp_describe_number(double number, const char *unit, GString *to)
{
    char text[64];
    put_digits(number, text, sizeof text);
    strip_zeros(text);
    g_string_append(to, strcmp(text, "-0") == 0 ? "0" : text);
    if (*unit) {
        g_string_append_printf(to, " %s", unit);
    }
}

rgp_digits_text rgp_digits(double number, int digits)
{
    rgp_digits_text to;
    const bool is_whole = fabs(number) >= pow(10.0, digits) - 0.5;
    if (is_whole && fabs(number) < 1e15) {
        g_snprintf(to.text, sizeof to.text, "%.0f", number);
    } else {
        g_snprintf(to.text, sizeof to.text, "%.*g", digits, number);
    }
    return to;
}

void rgp_describe_estimate(double number, GString *to)
{
    g_string_append(to, rgp_digits(number, 3).text);
}

static const struct {
    double from, in;
    const char *unit;
} spans[] = {{3600.0, 3600.0, "h"}, {120.0, 60.0, "min"}, {0.9995, 1.0, "s"}, {0.0, 1e-3, "ms"}};

void rgp_describe_span(double seconds, GString *to)
{
    size_t i = 0;
    while (i + 1 < G_N_ELEMENTS(spans) && seconds < spans[i].from) {
        i++;
    }
    rgp_describe_estimate(seconds / spans[i].in, to);
    g_string_append_printf(to, " %s", spans[i].unit);
}

const char *describe_part(const rgp_image_header *image, uint32_t slot, float value)
{
    const rgp_image_name *name =
        value >= 0.0f && value < 256.0f ? rgp_image_name_of(image, RGP_NAME_PART, slot, (uint32_t)value) : NULL;
    return name ? (const char *)rgp_image_at(image, RGP_SECTION_TEXT) + name->text : NULL;
}

void rgp_describe_value(const rgp_image_header *image, uint32_t slot, float value, GString *to)
{
    const char *part = describe_part(image, slot, value);
    if (part) {
        g_string_append(to, part);
    } else {
        rgp_describe_number((double)value, rgp_image_unit(image, RGP_NAME_SLOT, slot, 0), to);
    }
}

void rgp_describe_cell(const rgp_image_header *image, uint32_t slot, float value, GString *to)
{
    const char *part = describe_part(image, slot, value);
    const uint32_t sensors = rgp_image_sensor_slot(image, 0),
                   computed = sensors + rgp_image_count(image, RGP_SECTION_SENSORS);
    char text[64];
    put_digits(fabsf(value) < 5e-4f ? 0.0 : (double)value, text, sizeof text);
    if (part) {
        g_string_append(to, part);
    } else if (slot >= sensors && slot < computed) {
        g_string_append_printf(to, "%.0f", (double)value);
    } else {
        g_string_append(to, text);
    }
}
