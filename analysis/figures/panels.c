/* The panels of a picture: which channel stands where, with which limits and borders, over which range. */
#include "panels.h"

#include "explain/disassembly.h"
#include "explain/describe.h"

#include <math.h>
#include <string.h>

#define PANELS_MOST 8u
#define LANE        0.8f /* from one name of a state to the next; from state to state it is more */

/* ---- what goes where ----------------------------------------------------------------------------- */

static bool is_state(const rgp_image_header *image, uint32_t slot)
{
    return rgp_image_name_of(image, RGP_NAME_PART, slot, 0) != NULL;
}

uint32_t panels_parts_of(const rgp_image_header *image, uint32_t slot)
{
    uint32_t parts = 0;
    while (rgp_image_name_of(image, RGP_NAME_PART, slot, parts)) {
        parts++;
    }
    return parts;
}

/* A sequence has more steps than there is room for names: its lane is flatter. */
uint32_t panels_lane_height(const rgp_image_header *image, uint32_t slot)
{
    return MIN(panels_parts_of(image, slot), NAMES_MOST);
}

float panels_lane_step(const rgp_image_header *image, uint32_t slot)
{
    return LANE * (float)(panels_lane_height(image, slot) - 1u) / (float)(panels_parts_of(image, slot) - 1u);
}

/* The height of a state's lowest name: the first state is on top. */
uint32_t panels_lane_of(const rgp_image_header *image, const panel *p, guint k)
{
    uint32_t below = 0;
    for (guint i = k + 1; i < p->slot->len; i++) {
        below += panels_lane_height(image, g_array_index(p->slot, uint32_t, i));
    }
    return below;
}

static panel *panel_for(drawing *d, const char *unit, bool states)
{
    for (guint i = 0; i < d->panel->len; i++) {
        panel *p = d->panel->pdata[i];
        if (p->states == states && strcmp(p->unit, unit) == 0) {
            return p;
        }
    }
    panel *p = g_new0(panel, 1);
    *p = (panel){.unit = unit, .states = states};
    p->slot = g_array_new(FALSE, FALSE, sizeof(uint32_t));
    p->border = g_array_new(FALSE, FALSE, sizeof(panel_border));
    g_ptr_array_add(d->panel, p);
    return p;
}

static bool observed_by_bands(const drawing *d, uint32_t slot)
{
    rgp_decoded step;
    return rgp_disassembly_writer(d->r->image, (uint16_t)slot, UINT32_MAX, &step) && step.op == RGP_OP_BANDS;
}

/* Of a loop its phase is drawn, and its setpoint beside what is measured; its other terms are for tune. */
static bool left_to_tune(const rgp_image_header *image, uint32_t slot)
{
    const int32_t term = rgp_image_term(image, slot);
    return term >= 0 && term != RGP_TERM_PHASE && term != RGP_TERM_TARGET;
}

static void add_slot(drawing *d, uint32_t slot)
{
    const rgp_image_header *image = d->r->image;
    const bool named =
        d->names && g_strv_contains((const char *const *)d->names, rgp_image_text(image, RGP_NAME_SLOT, slot, 0));
    const bool passed_over = observed_by_bands(d, slot) || left_to_tune(image, slot);
    if (!d->r->has[slot] || (d->names ? !named : passed_over)) {
        return;
    }
    const bool state = is_state(image, slot);
    panel *p = panel_for(d, state ? "" : rgp_image_unit(image, RGP_NAME_SLOT, slot, 0), state);
    g_array_append_val(p->slot, slot);
}

/* Sensors first, then what is made of them, then what is driven. */
void panels_place_slots(drawing *d)
{
    const rgp_image_header *image = d->r->image;
    const uint32_t sensors = rgp_image_sensor_slot(image, 0), actuators = rgp_image_actuator_slot(image, 0);
    const uint32_t computed = actuators + rgp_image_count(image, RGP_SECTION_ACTUATORS);
    for (uint32_t slot = 0; slot < sensors && d->names; slot++) { /* parameters, where they are asked for */
        add_slot(d, slot);
    }
    for (uint32_t slot = sensors; slot < actuators; slot++) {
        add_slot(d, slot);
    }
    for (uint32_t slot = computed; slot < image->slots; slot++) {
        add_slot(d, slot);
    }
    for (uint32_t slot = actuators; slot < computed; slot++) {
        add_slot(d, slot);
    }
    while (d->panel->len > PANELS_MOST) {
        g_ptr_array_remove_index(d->panel, d->panel->len - 1);
    }
}

/* ---- limits and borders -------------------------------------------------------------------------- */

static void add_border(drawing *d, panel *p, const rgp_decoded *step, uint32_t offset, const char *label)
{
    const rgp_recording *r = d->r;
    const uint32_t params = rgp_image_count(r->image, RGP_SECTION_PARAMS);
    panel_border b = {.value = g_new(float, d->end - d->first + 1)};
    int32_t param = -1;
    for (uint32_t row = d->first; row < d->end; row++) {
        for (uint32_t i = 0; i < params; i++) {
            d->param_value[i] = r->has[i] ? rgp_recording_value(r, i, row) : 0.0f;
        }
        b.value[row - d->first] = rgp_disassembly_setting(r->image, step, offset, d->param_value, &param);
    }
    g_autoptr(GString) text = g_string_new(label);
    if (param >= 0) {
        g_string_append_printf(text, "%s%s", *label ? " " : "",
                               rgp_image_text(r->image, RGP_NAME_SLOT, (uint32_t)param, 0));
    }
    b.label = g_strdup(text->str);
    g_array_append_val(p->border, b);
}

static panel *panel_of(const drawing *d, uint32_t slot)
{
    for (guint i = 0; i < d->panel->len; i++) {
        panel *p = d->panel->pdata[i];
        for (guint k = 0; k < p->slot->len; k++) {
            if (g_array_index(p->slot, uint32_t, k) == slot) {
                return p;
            }
        }
    }
    return NULL;
}

static void add_bands(drawing *d, panel *p, const rgp_decoded *step)
{
    const rgp_bands_config *config = rgp_decoded_config(step);
    p->band_name = g_ptr_array_new();
    for (uint32_t i = 0; i <= config->borders; i++) {
        g_ptr_array_add(p->band_name, (void *)rgp_image_text(d->r->image, RGP_NAME_PART, step->out, i));
    }
    for (uint32_t i = 0; i < config->borders; i++) {
        add_border(d, p, step, (uint32_t)(offsetof(rgp_bands_config, border) + 4 * i), "");
    }
}

/* A panel shows the limits of its quantities; the names of bands only of the first ones. */
void panels_place_borders(drawing *d)
{
    rgp_decoded step;
    for (rgp_steps all = rgp_steps_of(d->r->image); rgp_steps_next(&all, &step);) {
        panel *p = panel_of(d, step.in[0]);
        if (p && step.op == RGP_OP_BANDS && !p->band_name) {
            add_bands(d, p, &step);
        } else if (p && step.op == RGP_OP_COMPARE) {
            add_border(d, p, &step, offsetof(rgp_compare_config, limit), "limit");
        }
    }
}

/* ---- ranges -------------------------------------------------------------------------------------- */

static void stretch(panel *p, double value)
{
    p->low = fmin(p->low, value);
    p->high = fmax(p->high, value);
}

void panels_find_range(const drawing *d, panel *p)
{
    p->low = INFINITY;
    p->high = -INFINITY;
    for (guint k = 0; k < p->slot->len; k++) {
        const uint32_t slot = g_array_index(p->slot, uint32_t, k);
        const uint32_t column = (uint32_t)rgp_history_slot(d->r->history, slot);
        const rgp_extent all = rgp_history_extent(d->r->history, column, d->first, d->end);
        if (all.usable > 0) {
            stretch(p, (double)all.least);
            stretch(p, (double)all.greatest);
        }
    }
    for (guint k = 0; k < p->border->len; k++) {
        for (uint32_t row = 0; row < d->end - d->first; row++) {
            stretch(p, (double)g_array_index(p->border, panel_border, k).value[row]);
        }
    }
    if (strcmp(p->unit, "%") == 0) {
        stretch(p, 0.0);
        stretch(p, 100.0);
    }
    if (p->low > p->high) { /* nothing in it was ever to be trusted */
        p->low = p->high = 0.0;
    }
    const double room = p->high > p->low ? 0.08 * (p->high - p->low) : 1.0;
    p->low -= room;
    p->high += room;
}
