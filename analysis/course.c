/* One value over the time of a run. */
#include "course.h"

#include <math.h>
#include <string.h>

static bool is_number(const rgp_image_header *image, uint32_t slot)
{
    return rgp_image_name_of(image, RGP_NAME_SLOT, slot, 0) && !rgp_image_name_of(image, RGP_NAME_PART, slot, 0);
}

static const char *name_of(const rgp_image_header *image, uint32_t slot)
{
    return rgp_image_text(image, RGP_NAME_SLOT, slot, 0);
}

static void name_first_loop(const rgp_image_header *image, GPtrArray *names)
{
    const rgp_image_loop *loop = rgp_image_at(image, RGP_SECTION_LOOPS);
    const uint32_t seen = is_number(image, loop->measured) ? loop->measured : loop->first + RGP_TERM_ERROR;
    g_ptr_array_add(names, g_strdup(name_of(image, seen)));
    g_ptr_array_add(names, g_strdup(name_of(image, rgp_image_actuator_slot(image, loop->actuator))));
}

static void name_first_values(const rgp_image_header *image, GPtrArray *names)
{
    const uint32_t actuators = rgp_image_count(image, RGP_SECTION_ACTUATORS), first = rgp_image_actuator_slot(image, 0);
    for (uint32_t slot = first + actuators; slot < image->slots && names->len == 0; slot++) {
        if (is_number(image, slot)) {
            g_ptr_array_add(names, g_strdup(name_of(image, slot)));
        }
    }
    if (names->len == 0 && rgp_image_count(image, RGP_SECTION_SENSORS) > 0) {
        g_ptr_array_add(names, g_strdup(name_of(image, rgp_image_sensor_slot(image, 0))));
    }
    if (actuators > 0) {
        g_ptr_array_add(names, g_strdup(name_of(image, first)));
    }
}

char **rgp_course_names(const rgp_image_header *image)
{
    GPtrArray *names = g_ptr_array_new();
    if (rgp_image_count(image, RGP_SECTION_LOOPS) > 0) {
        name_first_loop(image, names);
    } else {
        name_first_values(image, names);
    }
    g_ptr_array_add(names, NULL);
    return (char **)g_ptr_array_free(names, FALSE);
}

static char **parts_of(const rgp_image_header *image, uint32_t slot)
{
    GPtrArray *parts = g_ptr_array_new();
    for (uint32_t i = 0; rgp_image_name_of(image, RGP_NAME_PART, slot, i); i++) {
        g_ptr_array_add(parts, g_strdup(rgp_image_text(image, RGP_NAME_PART, slot, i)));
    }
    const bool named = parts->len > 0;
    g_ptr_array_add(parts, NULL);
    char **all = (char **)g_ptr_array_free(parts, FALSE);
    if (!named) {
        g_clear_pointer(&all, g_strfreev);
    }
    return all;
}

rgp_course *rgp_course_of(rgp_history *h, const char *name, uint64_t from_us, uint64_t to_us)
{
    const rgp_image_header *image = rgp_history_image(h);
    uint32_t slot = 0;
    while (slot < image->slots && (rgp_history_slot(h, slot) < 0 || strcmp(name_of(image, slot), name) != 0)) {
        slot++;
    }
    if (slot == image->slots) {
        return NULL;
    }
    const uint32_t column = (uint32_t)rgp_history_slot(h, slot);
    rgp_course *c = g_new0(rgp_course, 1);
    *c = (rgp_course){.name = g_strdup(name),
                      .unit = g_strdup(rgp_image_unit(image, RGP_NAME_SLOT, slot, 0)),
                      .part = parts_of(image, slot),
                      .point = g_array_new(FALSE, FALSE, sizeof(rgp_course_point))};
    for (uint64_t row = rgp_history_find(h, from_us); row < rgp_history_end(h); row++) {
        const uint64_t time_us = rgp_history_time_us(h, row);
        if (time_us >= to_us) {
            break;
        }
        const bool usable = rgp_usable(rgp_history_quality(h, column, row));
        const rgp_course_point point = {(double)(time_us - from_us) / 1e6,
                                        usable ? (double)rgp_history_value(h, column, row) : (double)NAN};
        g_array_append_val(c->point, point);
    }
    return c;
}

void rgp_course_free(rgp_course *c)
{
    if (c) {
        g_free(c->name);
        g_free(c->unit);
        g_strfreev(c->part);
        g_array_unref(c->point);
        g_free(c);
    }
}

double rgp_course_at(const rgp_course *c, double time)
{
    guint low = 0, high = c->point->len;
    while (low < high) {
        const guint middle = low + (high - low) / 2;
        if (g_array_index(c->point, rgp_course_point, middle).time <= time) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return low > 0 ? g_array_index(c->point, rgp_course_point, low - 1).value : (double)NAN;
}
