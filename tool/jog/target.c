/* The actuator that is jogged: its row, its name, what guards it, its least power in the file. */
#include "jog.h"

#include "rigpulse/edit.h"
#include "runtime/ports.h"
#include "tool/rewrite.h"
#include "tool/rigfile.h"

#include <math.h>
#include <string.h>

const rgp_image_actuator *jog_actuator(const jog *j)
{
    return (const rgp_image_actuator *)rgp_image_at(j->rig->image, RGP_SECTION_ACTUATORS) + j->actuator;
}

const char *jog_name(const jog *j)
{
    return rgp_image_text(j->rig->image, RGP_NAME_SLOT, rgp_image_actuator_slot(j->rig->image, j->actuator), 0);
}

char *jog_rest_told(const jog *j)
{
    g_autofree char *lines = rigfile_driving_lines(j->file, NULL, 0);
    return !lines ? g_strdup("everything else at rest")
                  : g_strdup_printf("everything else at rest, whatever %s %s", lines,
                                    g_str_has_prefix(lines, "line ") ? "says" : "say");
}

bool jog_is_number(const jog *j, uint32_t sensor)
{
    return ((const rgp_image_sensor *)rgp_image_at(j->rig->image, RGP_SECTION_SENSORS))[sensor].kind ==
           RGP_SENSOR_NUMBER;
}

const char *jog_guard_at(const jog *j, const rgp_history *h, uint64_t row)
{
    const GPtrArray *all = rgp_history_occurrences(h);
    const rgp_image_guard *guard = rgp_image_at(j->rig->image, RGP_SECTION_GUARDS);
    if ((uint16_t)rgp_history_value(h, rgp_history_owner(h, j->actuator), row) != RGP_OWNER_GUARD) {
        return "";
    }
    for (guint i = all->len; i-- > 0;) {
        const rgp_occurrence *o = all->pdata[i];
        for (uint32_t g = 0; o->kind == RGP_EVENT_GUARD && g < rgp_image_count(j->rig->image, RGP_SECTION_GUARDS);
             g++) {
            const rgp_image_name *name = rgp_image_name_of(j->rig->image, RGP_NAME_GUARD, g, 0);
            if (o->row <= row && guard[g].actuator == j->actuator && name && name->line == o->line) {
                return o->of;
            }
        }
    }
    return "driven for its longest, its duty, or for nothing";
}

bool jog_write_least(const jog *j, char **why)
{
    g_autoptr(GError) error = NULL;
    rgp_place place;
    const rgp_place *const which = &place;
    if (!rgp_rig_least_place(j->file, jog_name(j), &place)) {
        *why = g_strdup("its line has no place for a least power");
        return false;
    }
    const char *text = rgp_edit_places(j->file, &which, &j->least, 1);
    if (!rewrite_file(j->path, j->file->source, text, "jog", &error)) {
        *why = g_strdup(error->message);
        return false;
    }
    return true;
}
