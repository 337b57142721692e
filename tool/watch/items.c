/* The lines of the list, and the curves to begin with. */
#include "watch.h"

#include "explain/disassembly.h"

#include <string.h>

static void add_item(view *v, item_kind kind, uint32_t index, int32_t column)
{
    const view_item item = {kind, index, (uint32_t)column, -1, 0};
    if (column >= 0) {
        g_array_append_val(v->item, item);
    }
}

/* `details`: those that a loop brings along, or the others. */
static void add_slots(view *v, item_kind kind, uint32_t from, uint32_t end, bool details)
{
    rgp_decoded step;
    for (uint32_t slot = from; slot < end; slot++) {
        if (rgp_image_is_detail(v->image, slot) != details) {
            continue;
        }
        const bool bands = kind == ITEM_SIGNAL && rgp_disassembly_writer(v->image, (uint16_t)slot, UINT32_MAX, &step) &&
                           step.op == RGP_OP_BANDS;
        add_item(v, bands ? ITEM_BANDS : kind, slot, rgp_history_slot(v->history, slot));
    }
}

/* As the data goes: what is read, what is made of it, what may be changed, what is driven, and by which rules; then the
 * terms and the gains of loops. */
static void find_items(view *v)
{
    const uint32_t sensors = rgp_image_sensor_slot(v->image, 0), actuators = rgp_image_actuator_slot(v->image, 0);
    const uint32_t computed = actuators + rgp_image_count(v->image, RGP_SECTION_ACTUATORS);
    v->item = g_array_new(FALSE, FALSE, sizeof(view_item));
    add_slots(v, ITEM_SENSOR, sensors, actuators, false);
    add_slots(v, ITEM_SIGNAL, computed, v->image->slots, false);
    add_slots(v, ITEM_PARAM, 0, sensors, false);
    add_slots(v, ITEM_ACTUATOR, actuators, computed, false);
    for (uint32_t i = 0; i < rgp_image_count(v->image, RGP_SECTION_RULES); i++) {
        add_item(v, ITEM_RULE, i, (int32_t)rgp_history_rule(v->history, i));
    }
    add_slots(v, ITEM_SIGNAL, computed, v->image->slots, true);
    add_slots(v, ITEM_PARAM, 0, sensors, true);
}

/* The first loop's measured value, and its setpoint. */
static bool is_looped(const view *v, const view_item *is)
{
    const rgp_image_loop *l = rgp_image_at(v->image, RGP_SECTION_LOOPS);
    return rgp_image_count(v->image, RGP_SECTION_LOOPS) > 0 &&
           (is->index == l->measured || is->index == (uint32_t)l->first + RGP_TERM_TARGET);
}

/* To begin with the chart shows what a loop measures and is to come to, or what limits look at, and what is driven in
 * percent. */
static void choose_series(view *v)
{
    int series = 0;
    for (int pass = 0; pass < 3; pass++) {
        for (guint i = 0; i < v->item->len && series < 3; i++) {
            view_item *is = view_item_at(v, i);
            rgp_decoded_limit limit;
            const bool watched =
                is->kind == ITEM_SIGNAL && (rgp_image_count(v->image, RGP_SECTION_LOOPS) > 0
                                                ? is_looped(v, is)
                                                : rgp_disassembly_limits(v->image, (uint16_t)is->index, &limit, 1) > 0);
            const bool driven = is->kind == ITEM_ACTUATOR && strcmp(view_unit(v, is), "%") == 0;
            const bool any = series == 0 && (is->kind == ITEM_SIGNAL || is->kind == ITEM_SENSOR);
            if (is->series < 0 && (pass == 0 ? watched : pass == 1 ? driven : any)) {
                is->series = series++;
            }
        }
    }
}

void watch_find_items(view *v)
{
    find_items(v);
    choose_series(v);
}
