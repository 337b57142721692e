/* The reason why a rule fired, in words. */
#include "scene.h"

#include "disassembly.h"

#include <string.h>

#define NEST_MOST 40u

static bool is_named(const scene *s, uint16_t slot)
{
    return rgp_image_name_of(s->image, RGP_NAME_SLOT, slot, 0) != NULL;
}

static void describe_slot(const scene *s, uint16_t slot)
{
    g_string_append_printf(s->to, "%s ", rgp_image_text(s->image, RGP_NAME_SLOT, slot, 0));
    rgp_describe_value(s->image, slot, s->value[slot], s->to);
}

/* A limit, with the parameter's name when one sets it. */
static void describe_limit(const scene *s, const rgp_decoded *step, uint32_t offset, uint16_t of_slot)
{
    int32_t param;
    const float limit = rgp_disassembly_setting(s->image, step, offset, s->value, &param);
    if (param >= 0) {
        g_string_append_printf(s->to, "%s ", rgp_image_text(s->image, RGP_NAME_SLOT, (uint32_t)param, 0));
    }
    rgp_describe_number((double)limit, rgp_image_unit(s->image, RGP_NAME_SLOT, of_slot, 0), s->to);
}

/* ---- why ----------------------------------------------------------------------------------------- */

static void describe_truth(const scene *s, uint16_t slot, uint32_t before, uint32_t depth);

static void describe_compare(const scene *s, const rgp_decoded *step)
{
    uint32_t side;
    memcpy(&side, (const unsigned char *)rgp_decoded_config(step) + offsetof(rgp_compare_config, side), sizeof side);
    if (is_named(s, step->in[0])) {
        describe_slot(s, step->in[0]);
    } else {
        g_string_append(s->to, "the difference");
    }
    g_string_append(s->to, side == RGP_COMPARE_ABOVE ? " is above " : " is below ");
    describe_limit(s, step, offsetof(rgp_compare_config, limit), step->in[0]);
}

static void describe_band(const scene *s, const rgp_decoded *bands, uint32_t band)
{
    const rgp_bands_config *config = rgp_decoded_config(bands);
    if (!is_named(s, bands->in[0])) {
        return;
    }
    g_string_append(s->to, ": ");
    describe_slot(s, bands->in[0]);
    const uint32_t border = (uint32_t)offsetof(rgp_bands_config, border);
    if (band == 0) {
        g_string_append(s->to, " is below ");
        describe_limit(s, bands, border, bands->in[0]);
    } else if (band == config->borders) {
        g_string_append(s->to, " is above ");
        describe_limit(s, bands, border + 4 * (band - 1), bands->in[0]);
    } else {
        g_string_append(s->to, " is between ");
        describe_limit(s, bands, border + 4 * (band - 1), bands->in[0]);
        g_string_append(s->to, " and ");
        describe_limit(s, bands, border + 4 * band, bands->in[0]);
    }
}

/* "tide is low: depth 2.98 cm is below 3 cm"; of a name that it is not, the one that it is. */
static void describe_named(const scene *s, uint16_t in, float number)
{
    const char *part = describe_part(s->image, in, number);
    rgp_decoded bands;
    g_string_append_printf(s->to, "%s is %s", rgp_image_text(s->image, RGP_NAME_SLOT, in, 0), part ? part : "?");
    if (rgp_disassembly_writer(s->image, in, UINT32_MAX, &bands) && bands.op == RGP_OP_BANDS) {
        describe_band(s, &bands, (uint32_t)number);
    }
}

/* "pump is driven", "lift is running": what is asked of slots whose other values have no names for that. */
static bool describe_busy(const scene *s, uint16_t in, bool busy)
{
    const uint32_t actuators = rgp_image_actuator_slot(s->image, 0), states = rgp_image_state_slot(s->image, 0);
    const rgp_image_state *state = rgp_image_at(s->image, RGP_SECTION_STATES);
    const bool drives = in >= actuators && in < states && !rgp_image_name_of(s->image, RGP_NAME_PART, in, 0);
    const bool runs = in >= states && in < states + rgp_image_count(s->image, RGP_SECTION_STATES) &&
                      state[in - states].kind == RGP_STATE_SEQUENCE;
    if (drives || runs) {
        g_string_append_printf(s->to, "%s is %s", rgp_image_text(s->image, RGP_NAME_SLOT, in, 0),
                               drives ? (busy ? "driven" : "at rest") : (busy ? "running" : "idle"));
    }
    return drives || runs;
}

static void describe_equals(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    rgp_decoded inner;
    if (is_named(s, step->in[0])) {
        if (!describe_busy(s, step->in[0], false)) {
            describe_named(s, step->in[0], ((const rgp_equals_config *)rgp_decoded_config(step))->number);
        }
    } else if (rgp_disassembly_writer(s->image, step->in[0], step->place, &inner) && inner.op == RGP_OP_EQUALS &&
               is_named(s, inner.in[0])) {
        if (!describe_busy(s, inner.in[0], true)) {
            describe_named(s, inner.in[0], s->value[inner.in[0]]);
        }
    } else {
        g_string_append(s->to, "it is not so that ");
        describe_truth(s, step->in[0], step->place, depth + 1);
    }
}

/* "tide is no longer high: depth 6.59 cm" */
static void describe_left(const scene *s, uint16_t slot, uint32_t before)
{
    rgp_decoded step, bands;
    const bool named =
        rgp_disassembly_writer(s->image, slot, before, &step) && step.op == RGP_OP_EQUALS && is_named(s, step.in[0]);
    const rgp_equals_config *config = named ? rgp_decoded_config(&step) : NULL;
    const char *part = named ? describe_part(s->image, step.in[0], config->number) : NULL;
    if (!part) {
        g_string_append(s->to, "it is no longer true");
        return;
    }
    g_string_append_printf(s->to, "%s is no longer %s", rgp_image_text(s->image, RGP_NAME_SLOT, step.in[0], 0), part);
    if (rgp_disassembly_writer(s->image, step.in[0], UINT32_MAX, &bands) && bands.op == RGP_OP_BANDS &&
        is_named(s, bands.in[0])) {
        g_string_append(s->to, ": ");
        describe_slot(s, bands.in[0]);
    }
}

static void describe_edge(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    const rgp_edge_config *config = rgp_decoded_config(step);
    if (config->which == RGP_EDGE_FALL) {
        describe_left(s, step->in[0], step->place);
    } else {
        describe_truth(s, step->in[0], step->place, depth + 1);
    }
}

static void describe_setting(const scene *s, const rgp_decoded *step, size_t offset, const char *unit)
{
    int32_t param;
    rgp_describe_number((double)rgp_disassembly_setting(s->image, step, (uint32_t)offset, s->value, &param), unit,
                        s->to);
}

/* "depth", or of what has no name "it". */
static void describe_subject(const scene *s, uint16_t slot)
{
    g_string_append(s->to, is_named(s, slot) ? rgp_image_text(s->image, RGP_NAME_SLOT, slot, 0) : "it");
}

/* "depth has moved by more than ": the verb of the operation. */
static void describe_verb(const scene *s, const rgp_decoded *step)
{
    describe_subject(s, step->in[0]);
    g_string_append_printf(s->to, " %s ", rgp_ops[step->op].verb);
}

static void describe_moved(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    describe_verb(s, step);
    describe_setting(s, step, offsetof(rgp_moved_config, amount),
                     rgp_image_unit(s->image, RGP_NAME_SLOT, step->in[0], 0));
    if (is_named(s, step->in[0])) {
        g_string_append(s->to, ", to ");
        rgp_describe_value(s->image, step->in[0], s->value[step->in[0]], s->to);
    }
}

static void describe_turn(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    describe_verb(s, step);
    describe_setting(s, step, offsetof(rgp_turn_config, least),
                     rgp_image_unit(s->image, RGP_NAME_SLOT, step->in[0], 0));
}

static void describe_still(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    describe_verb(s, step);
    describe_setting(s, step, offsetof(rgp_still_config, time), "s");
}

static void describe_once(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    g_string_append(s->to, rgp_ops[step->op].verb);
}

static void describe_every(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    g_string_append_printf(s->to, "%s ", rgp_ops[step->op].verb);
    describe_setting(s, step, offsetof(rgp_every_config, period), "s");
    g_string_append(s->to, " are over");
}

static void describe_after(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    describe_setting(s, step, offsetof(rgp_after_config, time), "s");
    g_string_append_printf(s->to, " %s", rgp_ops[step->op].verb);
}

static void describe_times(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    uint32_t count;
    memcpy(&count, (const unsigned char *)rgp_decoded_config(step) + offsetof(rgp_times_config, count), sizeof count);
    g_string_append_printf(s->to, "%u %s ", count, rgp_ops[step->op].verb);
    describe_setting(s, step, offsetof(rgp_times_config, within), "s");
    g_string_append(s->to, ": ");
    describe_truth(s, step->in[0], step->place, depth + 1);
}

static void describe_absent(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    g_string_append_printf(s->to, "%s ", rgp_ops[step->op].verb);
    describe_setting(s, step, offsetof(rgp_absent_config, time), "s");
}

static void describe_lasts(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    describe_truth(s, step->in[0], step->place, depth + 1);
    g_string_append_printf(s->to, " %s ", rgp_ops[step->op].verb);
    describe_setting(s, step, offsetof(rgp_lasts_config, time), "s");
}

static void describe_both(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    describe_truth(s, step->in[0], step->place, depth + 1);
    g_string_append(s->to, " and ");
    describe_truth(s, step->in[1], step->place, depth + 1);
}

/* The condition that has made it true: of the first one nothing may be left, since the result has taken its slot. */
static void describe_any(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    const bool second = s->value[step->in[1]] != 0.0f;
    const bool first = step->in[0] == step->out ? !second : s->value[step->in[0]] != 0.0f;
    if (first || !second) {
        describe_truth(s, step->in[0], step->place, depth + 1);
    }
    g_string_append(s->to, first && second ? " and " : "");
    if (second) {
        describe_truth(s, step->in[1], step->place, depth + 1);
    }
}

static void describe_changed(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    const char *part = describe_part(s->image, step->in[0], s->value[step->in[0]]);
    describe_verb(s, step);
    g_string_append(s->to, part ? part : "another");
}

static void describe_compared(const scene *s, const rgp_decoded *step, uint32_t depth)
{
    (void)depth;
    describe_compare(s, step);
}

static void (*const describe_step[RGP_OPS])(const scene *s, const rgp_decoded *step, uint32_t depth) = {
    [RGP_OP_COMPARE] = describe_compared, [RGP_OP_EQUALS] = describe_equals, [RGP_OP_EDGE] = describe_edge,
    [RGP_OP_LASTS] = describe_lasts,      [RGP_OP_BOTH] = describe_both,     [RGP_OP_ANY] = describe_any,
    [RGP_OP_MOVED] = describe_moved,      [RGP_OP_TURN] = describe_turn,     [RGP_OP_STILL] = describe_still,
    [RGP_OP_EVERY] = describe_every,      [RGP_OP_AFTER] = describe_after,   [RGP_OP_TIMES] = describe_times,
    [RGP_OP_ABSENT] = describe_absent,    [RGP_OP_ONCE] = describe_once,     [RGP_OP_CHANGED] = describe_changed,
};

static void describe_truth(const scene *s, uint16_t slot, uint32_t before, uint32_t depth)
{
    rgp_decoded step;
    if (depth > NEST_MOST || slot & RGP_REF_CONSTANT || !rgp_disassembly_writer(s->image, slot, before, &step)) {
        g_string_append_printf(s->to, is_named(s, slot) ? "%s was given" : "it became true",
                               rgp_image_text(s->image, RGP_NAME_SLOT, slot, 0));
        return;
    }
    if (describe_step[step.op]) {
        describe_step[step.op](s, &step, depth);
    } else {
        g_string_append(s->to, "it became true");
    }
}

void rgp_describe_why(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                      uint32_t rule, GString *to)
{
    const scene s = scene_of(image, layout, frame, to);
    if (rule_of(image, rule)->trigger == RGP_REF_NONE) {
        g_string_append(to, "the rig started");
    } else {
        describe_truth(&s, rule_of(image, rule)->trigger, UINT32_MAX, 0);
    }
}
