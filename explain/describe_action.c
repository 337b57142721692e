/* The actions of a rule, and the owners of actuators, in words. */
#include "scene.h"

#include <math.h>

static float read_ref(const scene *s, uint16_t ref)
{
    const float *constant = rgp_image_at(s->image, RGP_SECTION_CONSTANTS);
    return ref & RGP_REF_CONSTANT ? constant[ref & ~RGP_REF_CONSTANT] : s->value[ref];
}

/* An action that drives nothing. */
static void describe_aside(const scene *s, uint32_t index)
{
    const rgp_image_action *action = (const rgp_image_action *)rgp_image_at(s->image, RGP_SECTION_ACTIONS) + index;
    switch (action->kind) {
    case RGP_ACTION_MARK:
        g_string_append_printf(s->to, "mark '%s'", rgp_image_text(s->image, RGP_NAME_MARK, index, 0));
        if (action->value != RGP_REF_NONE) {
            const bool constant = action->value & RGP_REF_CONSTANT;
            const rgp_quality quality = constant ? RGP_GOOD : rgp_frame_quality(s->layout, s->frame)[action->value];
            g_string_append(s->to, ": ");
            if (rgp_usable(quality)) {
                rgp_describe_number((double)read_ref(s, action->value),
                                    rgp_image_unit(s->image, RGP_NAME_MARK, index, 0), s->to);
            } else {
                g_string_append(s->to, rgp_quality_text(quality));
            }
        }
        break;
    case RGP_ACTION_RELEARN:
        g_string_append_printf(s->to, "relearn %s", rgp_image_text(s->image, RGP_NAME_SLOT, action->value, 0));
        break;
    case RGP_ACTION_BEGIN:
        g_string_append_printf(s->to, "begin %s%s", rgp_image_text(s->image, RGP_NAME_SEQUENCE, action->claim, 0),
                               read_ref(s, action->value) != 0.0f ? " anew" : "");
        break;
    case RGP_ACTION_FINISH:
        g_string_append_printf(s->to, "end %s", rgp_image_text(s->image, RGP_NAME_SEQUENCE, action->claim, 0));
        break;
    case RGP_ACTION_STATE: {
        const rgp_image_state *state =
            (const rgp_image_state *)rgp_image_at(s->image, RGP_SECTION_STATES) + action->claim;
        const uint32_t slot = rgp_image_state_slot(s->image, action->claim);
        g_string_append_printf(s->to, "%s%s", state->kind == RGP_STATE_CUE ? "cue " : "",
                               rgp_image_text(s->image, RGP_NAME_SLOT, slot, 0));
        if (state->kind == RGP_STATE_MODE) {
            g_string_append_c(s->to, ' ');
            rgp_describe_value(s->image, slot, read_ref(s, action->value), s->to);
        }
        break;
    }
    default:
        g_string_append_printf(s->to, "%s ", rgp_image_text(s->image, RGP_NAME_SLOT, action->claim, 0));
        rgp_describe_value(s->image, action->claim, read_ref(s, action->value), s->to);
    }
}

void rgp_describe_actions(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                          uint32_t rule, GString *to)
{
    const scene s = scene_of(image, layout, frame, to);
    const rgp_image_rule *r = rule_of(image, rule);
    const rgp_image_action *action = rgp_image_at(image, RGP_SECTION_ACTIONS);
    const rgp_image_claim *claim = rgp_image_at(image, RGP_SECTION_CLAIMS);
    for (uint32_t i = r->first_action; i < (uint32_t)r->first_action + r->actions; i++) {
        g_string_append(to, i > r->first_action ? ", " : "");
        if (!rgp_action_drives(action[i].kind)) {
            describe_aside(&s, i);
            continue;
        }
        const uint32_t slot = rgp_image_actuator_slot(image, claim[action[i].claim].actuator);
        const char *name = rgp_image_text(image, RGP_NAME_SLOT, slot, 0);
        if (action[i].kind == RGP_ACTION_TOGGLE) {
            g_string_append_printf(to, "toggle %s", name);
            continue;
        }
        const bool steps = action[i].kind == RGP_ACTION_STEP;
        const float amount = read_ref(&s, action[i].value);
        g_string_append_printf(to, "%s ", name);
        rgp_describe_value(image, slot, steps ? fabsf(amount) : amount, to);
        g_string_append(to, !steps ? "" : amount < 0.0f ? " less" : " more");
        if (action[i].kind == RGP_ACTION_TIMED) {
            g_string_append(to, " for ");
            rgp_describe_number((double)read_ref(&s, action[i].duration), "s", to);
            if (action[i].times > 1) {
                g_string_append_printf(to, ", %u times every ", action[i].times);
                rgp_describe_number((double)read_ref(&s, action[i].period), "s", to);
            }
        }
    }
    const float holdoff = read_ref(&s, r->holdoff);
    if (holdoff > 0.0f) {
        g_string_append(to, ", then holdoff ");
        rgp_describe_number((double)holdoff, "s", to);
    }
}

/* ---- owners and events --------------------------------------------------------------------------- */

void rgp_describe_owner(const rgp_image_header *image, uint16_t owner, GString *to)
{
    static const struct {
        uint16_t owner;
        const char *word;
    } nobody[] = {
        {RGP_OWNER_REST, "rest"}, {RGP_OWNER_STOP, "stop"}, {RGP_OWNER_GUARD, "guard"}, {RGP_OWNER_FAULT, "fault"}};
    for (size_t i = 0; i < G_N_ELEMENTS(nobody); i++) {
        if (owner == nobody[i].owner) {
            g_string_append(to, nobody[i].word);
            return;
        }
    }
    const rgp_image_claim *claim = (const rgp_image_claim *)rgp_image_at(image, RGP_SECTION_CLAIMS) + owner;
    const bool sequence = claim->rank == RGP_RANK_SEQUENCE;
    const rgp_image_name *source =
        claim->source == RGP_REF_NONE
            ? NULL
            : rgp_image_name_of(image, sequence ? RGP_NAME_SEQUENCE : RGP_NAME_RULE, claim->source, 0);
    if (source && sequence) {
        g_string_append(to, rgp_image_text(image, RGP_NAME_SEQUENCE, claim->source, 0));
    } else if (source) {
        g_string_append_printf(to, "line %u", source->line);
    } else {
        g_string_append(to, rgp_rank_text(claim->rank));
    }
}
