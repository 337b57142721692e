#include "describe.h"

#include "disassembly.h"

#include <math.h>
#include <string.h>

#define NEST_MOST 40u

typedef struct scene {
    const rp_image_header *image;
    const rp_frame_shape *shape;
    const rp_frame *frame;
    const float *value;
    GString *to;
} scene;

static scene scene_of(const rp_image_header *image, const rp_frame_shape *shape, const rp_frame *frame, GString *to)
{
    return (scene){image, shape, frame, rp_frame_value(shape, frame), to};
}

/* ---- values -------------------------------------------------------------------------------------- */

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

void rp_tell_number(double number, const char *unit, GString *to)
{
    char text[64];
    put_digits(number, text, sizeof text);
    strip_zeros(text);
    g_string_append(to, strcmp(text, "-0") == 0 ? "0" : text);
    if (*unit) {
        g_string_append_printf(to, " %s", unit);
    }
}

static const char *part_of(const rp_image_header *image, uint32_t slot, float value)
{
    const rp_image_name *name =
        value >= 0.0f && value < 256.0f ? rp_image_name_of(image, RP_NAME_PART, slot, (uint32_t)value) : NULL;
    return name ? (const char *)rp_image_at(image, RP_SECTION_TEXT) + name->text : NULL;
}

void rp_tell_value(const rp_image_header *image, uint32_t slot, float value, GString *to)
{
    const char *part = part_of(image, slot, value);
    if (part) {
        g_string_append(to, part);
    } else {
        rp_tell_number((double)value, rp_image_unit(image, RP_NAME_SLOT, slot, 0), to);
    }
}

void rp_tell_cell(const rp_image_header *image, uint32_t slot, float value, GString *to)
{
    const char *part = part_of(image, slot, value);
    const uint32_t sensors = rp_image_sensor_slot(image, 0),
                   computed = sensors + rp_image_count(image, RP_SECTION_SENSORS);
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

static bool is_named(const scene *s, uint16_t slot)
{
    return rp_image_name_of(s->image, RP_NAME_SLOT, slot, 0) != NULL;
}

static void tell_slot(const scene *s, uint16_t slot)
{
    g_string_append_printf(s->to, "%s ", rp_image_text(s->image, RP_NAME_SLOT, slot, 0));
    rp_tell_value(s->image, slot, s->value[slot], s->to);
}

/* A limit, with the parameter's name when one sets it. */
static void tell_limit(const scene *s, const rp_step *step, uint32_t offset, uint16_t of_slot)
{
    int32_t param;
    const float limit = rp_program_setting(s->image, step, offset, s->value, &param);
    if (param >= 0) {
        g_string_append_printf(s->to, "%s ", rp_image_text(s->image, RP_NAME_SLOT, (uint32_t)param, 0));
    }
    rp_tell_number((double)limit, rp_image_unit(s->image, RP_NAME_SLOT, of_slot, 0), s->to);
}

/* ---- why ----------------------------------------------------------------------------------------- */

static void tell_truth(const scene *s, uint16_t slot, uint32_t before, uint32_t depth);

static void tell_compare(const scene *s, const rp_step *step)
{
    uint32_t side;
    memcpy(&side, (const unsigned char *)step->config + offsetof(rp_compare_config, side), sizeof side);
    if (is_named(s, step->in[0])) {
        tell_slot(s, step->in[0]);
    } else {
        g_string_append(s->to, "the difference");
    }
    g_string_append(s->to, side == RP_COMPARE_ABOVE ? " is above " : " is below ");
    tell_limit(s, step, offsetof(rp_compare_config, limit), step->in[0]);
}

static void tell_band(const scene *s, const rp_step *bands, uint32_t band)
{
    const rp_bands_config *config = bands->config;
    if (!is_named(s, bands->in[0])) {
        return;
    }
    g_string_append(s->to, ": ");
    tell_slot(s, bands->in[0]);
    const uint32_t border = (uint32_t)offsetof(rp_bands_config, border);
    if (band == 0) {
        g_string_append(s->to, " is below ");
        tell_limit(s, bands, border, bands->in[0]);
    } else if (band == config->borders) {
        g_string_append(s->to, " is above ");
        tell_limit(s, bands, border + 4 * (band - 1), bands->in[0]);
    } else {
        g_string_append(s->to, " is between ");
        tell_limit(s, bands, border + 4 * (band - 1), bands->in[0]);
        g_string_append(s->to, " and ");
        tell_limit(s, bands, border + 4 * band, bands->in[0]);
    }
}

/* "tide is low: depth 2.98 cm is below 3 cm"; of a name that it is not, the one that it is. */
static void tell_named(const scene *s, uint16_t in, float number)
{
    const char *part = part_of(s->image, in, number);
    rp_step bands;
    g_string_append_printf(s->to, "%s is %s", rp_image_text(s->image, RP_NAME_SLOT, in, 0), part ? part : "?");
    if (rp_program_writer(s->image, in, UINT32_MAX, &bands) && bands.op == RP_OP_BANDS) {
        tell_band(s, &bands, (uint32_t)number);
    }
}

/* "pump is driven", "lift is running": what is asked of slots whose other values have no names for that. */
static bool tell_busy(const scene *s, uint16_t in, bool busy)
{
    const uint32_t actuators = rp_image_actuator_slot(s->image, 0), states = rp_image_state_slot(s->image, 0);
    const rp_image_state *state = rp_image_at(s->image, RP_SECTION_STATES);
    const bool drives = in >= actuators && in < states && !rp_image_name_of(s->image, RP_NAME_PART, in, 0);
    const bool runs = in >= states && in < states + rp_image_count(s->image, RP_SECTION_STATES) &&
                      state[in - states].kind == RP_STATE_SEQUENCE;
    if (drives || runs) {
        g_string_append_printf(s->to, "%s is %s", rp_image_text(s->image, RP_NAME_SLOT, in, 0),
                               drives ? (busy ? "driven" : "at rest") : (busy ? "running" : "idle"));
    }
    return drives || runs;
}

static void tell_equals(const scene *s, const rp_step *step, uint32_t depth)
{
    rp_step inner;
    if (is_named(s, step->in[0])) {
        if (!tell_busy(s, step->in[0], false)) {
            tell_named(s, step->in[0], ((const rp_equals_config *)step->config)->number);
        }
    } else if (rp_program_writer(s->image, step->in[0], step->place, &inner) && inner.op == RP_OP_EQUALS &&
               is_named(s, inner.in[0])) {
        if (!tell_busy(s, inner.in[0], true)) {
            tell_named(s, inner.in[0], s->value[inner.in[0]]);
        }
    } else {
        g_string_append(s->to, "it is not so that ");
        tell_truth(s, step->in[0], step->place, depth + 1);
    }
}

/* "tide is no longer high: depth 6.59 cm" */
static void tell_left(const scene *s, uint16_t slot, uint32_t before)
{
    rp_step step, bands;
    const bool named =
        rp_program_writer(s->image, slot, before, &step) && step.op == RP_OP_EQUALS && is_named(s, step.in[0]);
    const rp_equals_config *config = named ? step.config : NULL;
    const char *part = named ? part_of(s->image, step.in[0], config->number) : NULL;
    if (!part) {
        g_string_append(s->to, "it is no longer true");
        return;
    }
    g_string_append_printf(s->to, "%s is no longer %s", rp_image_text(s->image, RP_NAME_SLOT, step.in[0], 0), part);
    if (rp_program_writer(s->image, step.in[0], UINT32_MAX, &bands) && bands.op == RP_OP_BANDS &&
        is_named(s, bands.in[0])) {
        g_string_append(s->to, ": ");
        tell_slot(s, bands.in[0]);
    }
}

static void tell_edge(const scene *s, const rp_step *step, uint32_t depth)
{
    const rp_edge_config *config = step->config;
    if (config->which == RP_EDGE_FALL) {
        tell_left(s, step->in[0], step->place);
    } else {
        tell_truth(s, step->in[0], step->place, depth + 1);
    }
}

static void tell_setting(const scene *s, const rp_step *step, size_t offset, const char *unit)
{
    int32_t param;
    rp_tell_number((double)rp_program_setting(s->image, step, (uint32_t)offset, s->value, &param), unit, s->to);
}

/* "depth", or of what has no name "it". */
static void tell_subject(const scene *s, uint16_t slot)
{
    g_string_append(s->to, is_named(s, slot) ? rp_image_text(s->image, RP_NAME_SLOT, slot, 0) : "it");
}

/* "depth has moved by more than ": the verb of the operation. */
static void tell_verb(const scene *s, const rp_step *step)
{
    tell_subject(s, step->in[0]);
    g_string_append_printf(s->to, " %s ", rp_ops[step->op].verb);
}

static void tell_moved(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    tell_verb(s, step);
    tell_setting(s, step, offsetof(rp_moved_config, amount), rp_image_unit(s->image, RP_NAME_SLOT, step->in[0], 0));
    if (is_named(s, step->in[0])) {
        g_string_append(s->to, ", to ");
        rp_tell_value(s->image, step->in[0], s->value[step->in[0]], s->to);
    }
}

static void tell_turn(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    tell_verb(s, step);
    tell_setting(s, step, offsetof(rp_turn_config, least), rp_image_unit(s->image, RP_NAME_SLOT, step->in[0], 0));
}

static void tell_still(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    tell_verb(s, step);
    tell_setting(s, step, offsetof(rp_still_config, time), "s");
}

static void tell_once(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    g_string_append(s->to, rp_ops[step->op].verb);
}

static void tell_every(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    g_string_append_printf(s->to, "%s ", rp_ops[step->op].verb);
    tell_setting(s, step, offsetof(rp_every_config, period), "s");
    g_string_append(s->to, " are over");
}

static void tell_after(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    tell_setting(s, step, offsetof(rp_after_config, time), "s");
    g_string_append_printf(s->to, " %s", rp_ops[step->op].verb);
}

static void tell_times(const scene *s, const rp_step *step, uint32_t depth)
{
    uint32_t count;
    memcpy(&count, (const unsigned char *)step->config + offsetof(rp_times_config, count), sizeof count);
    g_string_append_printf(s->to, "%u %s ", count, rp_ops[step->op].verb);
    tell_setting(s, step, offsetof(rp_times_config, within), "s");
    g_string_append(s->to, ": ");
    tell_truth(s, step->in[0], step->place, depth + 1);
}

static void tell_absent(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    g_string_append_printf(s->to, "%s ", rp_ops[step->op].verb);
    tell_setting(s, step, offsetof(rp_absent_config, time), "s");
}

static void tell_lasts(const scene *s, const rp_step *step, uint32_t depth)
{
    tell_truth(s, step->in[0], step->place, depth + 1);
    g_string_append_printf(s->to, " %s ", rp_ops[step->op].verb);
    tell_setting(s, step, offsetof(rp_lasts_config, time), "s");
}

static void tell_both(const scene *s, const rp_step *step, uint32_t depth)
{
    tell_truth(s, step->in[0], step->place, depth + 1);
    g_string_append(s->to, " and ");
    tell_truth(s, step->in[1], step->place, depth + 1);
}

/* The condition that has made it true: of the first one nothing may be left, since the result has taken its slot. */
static void tell_any(const scene *s, const rp_step *step, uint32_t depth)
{
    const bool second = s->value[step->in[1]] != 0.0f;
    const bool first = step->in[0] == step->out ? !second : s->value[step->in[0]] != 0.0f;
    if (first || !second) {
        tell_truth(s, step->in[0], step->place, depth + 1);
    }
    g_string_append(s->to, first && second ? " and " : "");
    if (second) {
        tell_truth(s, step->in[1], step->place, depth + 1);
    }
}

static void tell_changed(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    const char *part = part_of(s->image, step->in[0], s->value[step->in[0]]);
    tell_verb(s, step);
    g_string_append(s->to, part ? part : "another");
}

static void tell_compared(const scene *s, const rp_step *step, uint32_t depth)
{
    (void)depth;
    tell_compare(s, step);
}

static void (*const tell_step[RP_OPS])(const scene *s, const rp_step *step, uint32_t depth) = {
    [RP_OP_COMPARE] = tell_compared, [RP_OP_EQUALS] = tell_equals, [RP_OP_EDGE] = tell_edge,
    [RP_OP_LASTS] = tell_lasts,      [RP_OP_BOTH] = tell_both,     [RP_OP_ANY] = tell_any,
    [RP_OP_MOVED] = tell_moved,      [RP_OP_TURN] = tell_turn,     [RP_OP_STILL] = tell_still,
    [RP_OP_EVERY] = tell_every,      [RP_OP_AFTER] = tell_after,   [RP_OP_TIMES] = tell_times,
    [RP_OP_ABSENT] = tell_absent,    [RP_OP_ONCE] = tell_once,     [RP_OP_CHANGED] = tell_changed,
};

static void tell_truth(const scene *s, uint16_t slot, uint32_t before, uint32_t depth)
{
    rp_step step;
    if (depth > NEST_MOST || slot & RP_REF_CONSTANT || !rp_program_writer(s->image, slot, before, &step)) {
        g_string_append_printf(s->to, is_named(s, slot) ? "%s was given" : "it became true",
                               rp_image_text(s->image, RP_NAME_SLOT, slot, 0));
        return;
    }
    if (tell_step[step.op]) {
        tell_step[step.op](s, &step, depth);
    } else {
        g_string_append(s->to, "it became true");
    }
}

static const rp_image_rule *rule_of(const rp_image_header *image, uint32_t rule)
{
    return (const rp_image_rule *)rp_image_at(image, RP_SECTION_RULES) + rule;
}

void rp_tell_why(const rp_image_header *image, const rp_frame_shape *shape, const rp_frame *frame, uint32_t rule,
                 GString *to)
{
    const scene s = scene_of(image, shape, frame, to);
    if (rule_of(image, rule)->trigger == RP_REF_NONE) {
        g_string_append(to, "the rig started");
    } else {
        tell_truth(&s, rule_of(image, rule)->trigger, UINT32_MAX, 0);
    }
}

/* ---- what it did --------------------------------------------------------------------------------- */

static float read_ref(const scene *s, uint16_t ref)
{
    const float *constant = rp_image_at(s->image, RP_SECTION_CONSTANTS);
    return ref & RP_REF_CONSTANT ? constant[ref & ~RP_REF_CONSTANT] : s->value[ref];
}

/* An action that drives nothing. */
static void tell_aside(const scene *s, uint32_t index)
{
    const rp_image_action *action = (const rp_image_action *)rp_image_at(s->image, RP_SECTION_ACTIONS) + index;
    switch (action->kind) {
    case RP_ACTION_MARK:
        g_string_append_printf(s->to, "mark '%s'", rp_image_text(s->image, RP_NAME_MARK, index, 0));
        if (action->value != RP_REF_NONE) {
            const bool constant = action->value & RP_REF_CONSTANT;
            const rp_quality quality = constant ? RP_GOOD : rp_frame_quality(s->shape, s->frame)[action->value];
            g_string_append(s->to, ": ");
            if (rp_usable(quality)) {
                rp_tell_number((double)read_ref(s, action->value), rp_image_unit(s->image, RP_NAME_MARK, index, 0),
                               s->to);
            } else {
                g_string_append(s->to, rp_quality_text(quality));
            }
        }
        break;
    case RP_ACTION_RELEARN:
        g_string_append_printf(s->to, "relearn %s", rp_image_text(s->image, RP_NAME_SLOT, action->value, 0));
        break;
    case RP_ACTION_BEGIN:
        g_string_append_printf(s->to, "begin %s%s", rp_image_text(s->image, RP_NAME_SEQUENCE, action->claim, 0),
                               read_ref(s, action->value) != 0.0f ? " anew" : "");
        break;
    case RP_ACTION_FINISH:
        g_string_append_printf(s->to, "end %s", rp_image_text(s->image, RP_NAME_SEQUENCE, action->claim, 0));
        break;
    case RP_ACTION_STATE: {
        const rp_image_state *state = (const rp_image_state *)rp_image_at(s->image, RP_SECTION_STATES) + action->claim;
        const uint32_t slot = rp_image_state_slot(s->image, action->claim);
        g_string_append_printf(s->to, "%s%s", state->kind == RP_STATE_CUE ? "cue " : "",
                               rp_image_text(s->image, RP_NAME_SLOT, slot, 0));
        if (state->kind == RP_STATE_MODE) {
            g_string_append_c(s->to, ' ');
            rp_tell_value(s->image, slot, read_ref(s, action->value), s->to);
        }
        break;
    }
    default:
        g_string_append_printf(s->to, "%s ", rp_image_text(s->image, RP_NAME_SLOT, action->claim, 0));
        rp_tell_value(s->image, action->claim, read_ref(s, action->value), s->to);
    }
}

void rp_tell_actions(const rp_image_header *image, const rp_frame_shape *shape, const rp_frame *frame, uint32_t rule,
                     GString *to)
{
    const scene s = scene_of(image, shape, frame, to);
    const rp_image_rule *r = rule_of(image, rule);
    const rp_image_action *action = rp_image_at(image, RP_SECTION_ACTIONS);
    const rp_image_claim *claim = rp_image_at(image, RP_SECTION_CLAIMS);
    for (uint32_t i = r->first_action; i < (uint32_t)r->first_action + r->actions; i++) {
        g_string_append(to, i > r->first_action ? ", " : "");
        if (!rp_action_drives(action[i].kind)) {
            tell_aside(&s, i);
            continue;
        }
        const uint32_t slot = rp_image_actuator_slot(image, claim[action[i].claim].actuator);
        const char *name = rp_image_text(image, RP_NAME_SLOT, slot, 0);
        if (action[i].kind == RP_ACTION_TOGGLE) {
            g_string_append_printf(to, "toggle %s", name);
            continue;
        }
        const bool steps = action[i].kind == RP_ACTION_STEP;
        const float amount = read_ref(&s, action[i].value);
        g_string_append_printf(to, "%s ", name);
        rp_tell_value(image, slot, steps ? fabsf(amount) : amount, to);
        g_string_append(to, !steps ? "" : amount < 0.0f ? " less" : " more");
        if (action[i].kind == RP_ACTION_TIMED) {
            g_string_append(to, " for ");
            rp_tell_number((double)read_ref(&s, action[i].duration), "s", to);
            if (action[i].times > 1) {
                g_string_append_printf(to, ", %u times every ", action[i].times);
                rp_tell_number((double)read_ref(&s, action[i].period), "s", to);
            }
        }
    }
    const float holdoff = read_ref(&s, r->holdoff);
    if (holdoff > 0.0f) {
        g_string_append(to, ", then holdoff ");
        rp_tell_number((double)holdoff, "s", to);
    }
}

/* ---- owners and events --------------------------------------------------------------------------- */

void rp_tell_owner(const rp_image_header *image, uint16_t owner, GString *to)
{
    if (owner == RP_OWNER_REST || owner == RP_OWNER_STOP || owner == RP_OWNER_GUARD) {
        g_string_append(to, owner == RP_OWNER_REST ? "rest" : owner == RP_OWNER_STOP ? "stop" : "guard");
        return;
    }
    const rp_image_claim *claim = (const rp_image_claim *)rp_image_at(image, RP_SECTION_CLAIMS) + owner;
    const bool sequence = claim->rank == RP_RANK_SEQUENCE;
    const rp_image_name *source =
        claim->source == RP_REF_NONE
            ? NULL
            : rp_image_name_of(image, sequence ? RP_NAME_SEQUENCE : RP_NAME_RULE, claim->source, 0);
    if (source && sequence) {
        g_string_append(to, rp_image_text(image, RP_NAME_SEQUENCE, claim->source, 0));
    } else if (source) {
        g_string_append_printf(to, "line %u", source->line);
    } else {
        g_string_append(to, rp_rank_text(claim->rank));
    }
}
