/* The note behind a line of the list: what there is to know of it besides its value. */
#include "view.h"

#include "explain/disassembly.h"
#include "explain/describe.h"

#include <string.h>

#define LEAP 4096u /* rows that are looked at at once */

bool view_is_sequence(const view *v, const view_item *i)
{
    const uint32_t first = rgp_image_state_slot(v->image, 0);
    const rgp_image_state *state = rgp_image_at(v->image, RGP_SECTION_STATES);
    return i->kind == ITEM_SIGNAL && i->index >= first &&
           i->index < first + rgp_image_count(v->image, RGP_SECTION_STATES) &&
           state[i->index - first].kind == RGP_STATE_SEQUENCE;
}

/* The step it is at, and since when. */
static void note_sequence(const view *v, const view_item *i, GString *to)
{
    const float step = view_value(v, i);
    uint64_t row = v->row;
    for (rgp_extent all; row >= rgp_history_first(v->history) + LEAP; row -= LEAP) {
        all = rgp_history_extent(v->history, i->column, row - LEAP, row);
        if (all.least != step || all.greatest != step) {
            break;
        }
    }
    while (row > rgp_history_first(v->history) && rgp_history_value(v->history, i->column, row - 1) == step) {
        row--;
    }
    if (step > 0.0f) {
        rgp_describe_value(v->image, i->index, step, to);
        g_string_append_printf(
            to, ", for %.1f s",
            (double)(rgp_history_time_us(v->history, v->row) - rgp_history_time_us(v->history, row)) / 1e6);
    }
}

static void note_bands(const view *v, const view_item *i, GString *to)
{
    rgp_decoded step;
    g_autofree float *value = g_new0(float, v->image->slots + 1);
    if (!rgp_disassembly_writer(v->image, (uint16_t)i->index, UINT32_MAX, &step) || step.op != RGP_OP_BANDS) {
        return;
    }
    const rgp_bands_config *config = rgp_decoded_config(&step);
    rgp_history_slots(v->history, v->row, value);
    for (uint32_t b = 0; b <= config->borders; b++) {
        int32_t param;
        g_string_append(to, rgp_image_text(v->image, RGP_NAME_PART, i->index, b));
        if (b < config->borders) {
            const size_t offset = offsetof(rgp_bands_config, border) + 4 * b;
            g_string_append(to, " < ");
            rgp_describe_number((double)rgp_disassembly_setting(v->image, &step, (uint32_t)offset, value, &param), "",
                                to);
            g_string_append(to, " < ");
        }
    }
    const char *unit = rgp_image_unit(v->image, RGP_NAME_SLOT, step.in[0], 0);
    g_string_append_printf(to, *unit ? " %s" : "%s", unit);
}

static void note_param(const view *v, const view_item *i, GString *to)
{
    const rgp_image_param *p = (const rgp_image_param *)rgp_image_at(v->image, RGP_SECTION_PARAMS) + i->index;
    g_string_append(to, "from ");
    rgp_describe_number((double)p->low, "", to);
    g_string_append(to, " to ");
    rgp_describe_number((double)p->high, "", to);
    if (view_value(v, i) != p->initial) {
        g_string_append(to, "; began at ");
        rgp_describe_number((double)p->initial, "", to);
    }
}

static const rgp_image_claim *claim_of(const view *v, uint16_t owner)
{
    return owner < rgp_image_count(v->image, RGP_SECTION_CLAIMS)
               ? (const rgp_image_claim *)rgp_image_at(v->image, RGP_SECTION_CLAIMS) + owner
               : NULL;
}

static void put_rule(const view *v, uint32_t rule, GString *to)
{
    const rgp_image_name *name = rgp_image_name_of(v->image, RGP_NAME_RULE, rule, 0);
    g_string_append_printf(to, "line %u: %s", name ? name->line : 0, rgp_image_text(v->image, RGP_NAME_RULE, rule, 0));
}

static bool sets(const view *v, uint32_t rule, uint32_t actuator)
{
    const rgp_image_rule *r = (const rgp_image_rule *)rgp_image_at(v->image, RGP_SECTION_RULES) + rule;
    const rgp_image_action *action = rgp_image_at(v->image, RGP_SECTION_ACTIONS);
    const rgp_image_claim *claim = rgp_image_at(v->image, RGP_SECTION_CLAIMS);
    for (uint32_t i = r->first_action; i < (uint32_t)r->first_action + r->actions; i++) {
        if (rgp_action_drives(action[i].kind) && action[i].kind != RGP_ACTION_TIMED &&
            claim[action[i].claim].actuator == actuator) {
            return true;
        }
    }
    return false;
}

/* The rule that fired last of those that set an actuator; -1 for none. */
static int32_t last_setter(const view *v, uint32_t actuator)
{
    double latest = -1.0;
    int32_t setter = -1;
    for (uint32_t i = 0; i < rgp_image_count(v->image, RGP_SECTION_RULES); i++) {
        const rgp_image_name *name = rgp_image_name_of(v->image, RGP_NAME_RULE, i, 0);
        const rgp_occurrence *last = name && sets(v, i, actuator) ? view_last_firing(v, name->line) : NULL;
        if (last && last->time >= latest) {
            latest = last->time;
            setter = (int32_t)i;
        }
    }
    return setter;
}

/* The reason that an actuator does not do what is asked: the last guard on it that stepped in, or its longest time. */
static void put_guard(const view *v, uint32_t actuator, GString *to)
{
    const GPtrArray *all = rgp_history_occurrences(v->history);
    const rgp_image_guard *guard = rgp_image_at(v->image, RGP_SECTION_GUARDS);
    for (guint i = all->len; i-- > 0;) {
        const rgp_occurrence *o = all->pdata[i];
        for (uint32_t g = 0;
             o->row <= v->row && o->kind == RGP_EVENT_GUARD && g < rgp_image_count(v->image, RGP_SECTION_GUARDS); g++) {
            const rgp_image_name *name = rgp_image_name_of(v->image, RGP_NAME_GUARD, g, 0);
            if (guard[g].actuator == actuator && name && name->line == o->line) {
                g_string_append_printf(to, "kept there by line %u: %s", o->line, o->of);
                return;
            }
        }
    }
    g_string_append(to, "kept there: it has been driven for its longest, its duty, or for nothing");
}

/* The name of the loop that has a claim; NULL: it is none. */
static const char *loop_of(const view *v, uint16_t claim)
{
    const rgp_image_loop *loop = rgp_image_at(v->image, RGP_SECTION_LOOPS);
    for (uint32_t i = 0; i < rgp_image_count(v->image, RGP_SECTION_LOOPS); i++) {
        if (loop[i].claim == claim) {
            return rgp_image_text(v->image, RGP_NAME_LOOP, i, 0);
        }
    }
    return NULL;
}

/* Beside a loop's phase: what it drives, and its gains as they are. */
static bool note_loop(const view *v, const view_item *i, GString *to)
{
    const rgp_image_loop *l = rgp_image_at(v->image, RGP_SECTION_LOOPS);
    uint32_t k = 0;
    while (k < rgp_image_count(v->image, RGP_SECTION_LOOPS) && l->first != i->index) {
        k++;
        l++;
    }
    if (k == rgp_image_count(v->image, RGP_SECTION_LOOPS)) {
        return false;
    }
    if (view_value(v, i) == (float)RGP_LOOP_WAITING) {
        const uint32_t error = (uint32_t)rgp_history_slot(v->history, l->first + RGP_TERM_ERROR);
        rgp_describe_waiting(v->image, k, rgp_history_value(v->history, error, v->row),
                             rgp_history_quality(v->history, error, v->row), to);
        return true;
    }
    g_string_append_printf(to, "drives %s",
                           rgp_image_text(v->image, RGP_NAME_SLOT, rgp_image_actuator_slot(v->image, l->actuator), 0));
    for (uint32_t g = 0; g < G_N_ELEMENTS(l->gain) && l->gain[g] != RGP_REF_NONE; g++) {
        const uint32_t column = (uint32_t)rgp_history_slot(v->history, l->gain[g]);
        const char *name = rgp_image_text(v->image, RGP_NAME_SLOT, l->gain[g], 0);
        const size_t skip = l->brought >> g & 1u ? strlen(rgp_image_text(v->image, RGP_NAME_LOOP, k, 0)) + 1 : 0;
        g_string_append_printf(to, ", %s ", name + skip);
        rgp_describe_number((double)rgp_history_value(v->history, column, v->row), "", to);
    }
    return true;
}

static void note_actuator(const view *v, const view_item *i, GString *to)
{
    const uint32_t actuator = i->index - rgp_image_actuator_slot(v->image, 0);
    const uint16_t owner = (uint16_t)rgp_history_value(v->history, rgp_history_owner(v->history, actuator), v->row);
    const rgp_image_claim *claim = claim_of(v, owner);
    if (owner == RGP_OWNER_REST) {
        g_string_append(to, "at rest: nobody asks for it");
        return;
    }
    if (owner == RGP_OWNER_STOP) {
        g_string_append(to, "at rest: stopped");
        return;
    }
    if (owner == RGP_OWNER_FAULT) {
        g_string_append(to, "at rest, as far as is known: its port cannot drive it");
        return;
    }
    if (owner == RGP_OWNER_GUARD) {
        put_guard(v, actuator, to);
        return;
    }
    if (claim->rank == RGP_RANK_SEQUENCE) {
        const rgp_image_sequence *of =
            (const rgp_image_sequence *)rgp_image_at(v->image, RGP_SECTION_SEQUENCES) + claim->source;
        const uint32_t slot = rgp_image_state_slot(v->image, of->state);
        g_string_append_printf(to, "by %s: ", rgp_image_text(v->image, RGP_NAME_SEQUENCE, claim->source, 0));
        rgp_describe_value(v->image, slot,
                           rgp_history_value(v->history, (uint32_t)rgp_history_slot(v->history, slot), v->row), to);
        return;
    }
    if (claim->source != RGP_REF_NONE) {
        const float left = rgp_history_value(v->history, rgp_history_rule(v->history, claim->source), v->row);
        g_string_append_printf(to, "%.1f s more by ", (double)fmaxf(left, 0.0f));
        put_rule(v, claim->source, to);
        return;
    }
    if (claim->rank == RGP_RANK_LOOP) {
        const char *loop = loop_of(v, owner);
        g_string_append(to, loop ? "regulated by " : "follows its continuous drive");
        g_string_append(to, loop ? loop : "");
        return;
    }
    const int32_t rule = claim->rank == RGP_RANK_LATCH ? last_setter(v, actuator) : -1;
    g_string_append(to, "set by ");
    if (rule >= 0) {
        put_rule(v, (uint32_t)rule, to);
    } else {
        rgp_describe_owner(v->image, owner, to);
    }
}

static void note_rule(const view *v, const view_item *i, GString *to)
{
    const rgp_image_rule *rule = (const rgp_image_rule *)rgp_image_at(v->image, RGP_SECTION_RULES) + i->index;
    const rgp_image_name *name = rgp_image_name_of(v->image, RGP_NAME_RULE, i->index, 0);
    const double left = (double)view_value(v, i);
    if (!rgp_usable(view_quality(v, i))) {
        g_string_append(to, "waits for the fault to be cleared; ");
    } else if (left != 0.0) {
        g_string_append_printf(to, "fires again in %.1f s at the soonest; ",
                               left > 0.0 ? left + (double)rgp_history_setting(v->history, rule->holdoff, v->row)
                                          : -left);
    }
    g_string_append(to, rgp_image_text(v->image, RGP_NAME_RULE, i->index, 0));
    const rgp_occurrence *last = name ? view_last_firing(v, name->line) : NULL;
    if (last) {
        g_string_append_printf(to, " (last at %.1f s, since %s)", last->time, last->why ? last->why : "?");
    }
}

#define PACE_ROWS 1024u /* that are looked at for a sensor's pace, and the age of its reading */

/* The time between a sensor's new readings, and the age of the one that stands; of one that has a new one each tick
 * nothing has to be known. */
static void note_pace(const view *v, uint32_t sensor, GString *to)
{
    const uint32_t column = rgp_history_newness(v->history, sensor);
    const uint64_t now_us = rgp_history_time_us(v->history, v->row);
    const uint64_t first = MAX(rgp_history_first(v->history), v->row - MIN(v->row, PACE_ROWS));
    uint64_t newest_us = 0, oldest_us = 0;
    uint32_t found = 0;
    for (uint64_t row = v->row + 1; row-- > first && rgp_usable(rgp_history_quality(v->history, column, row));) {
        if (rgp_history_value(v->history, column, row) != 0.0f) {
            oldest_us = rgp_history_time_us(v->history, row);
            newest_us = found == 0 ? oldest_us : newest_us;
            found++;
        }
    }
    const double pace = found > 1 ? (double)(newest_us - oldest_us) / 1e6 / (found - 1) : 0.0;
    if (pace * 1e6 > 1.05 * v->image->tick_us) {
        g_string_append_printf(to, "%snew every %.3g ms, now %.0f ms old", to->len ? "; " : "", pace * 1e3,
                               (double)(now_us - newest_us) / 1e3);
    }
}

void view_put_note(const view *v, const view_item *i, GString *to)
{
    if (view_is_sequence(v, i)) {
        note_sequence(v, i, to);
        return;
    }
    switch (i->kind) {
    case ITEM_SENSOR:
    case ITEM_SIGNAL:
        if (!note_loop(v, i, to) && view_quality(v, i) != RGP_GOOD) {
            g_string_append(to, rgp_quality_text(view_quality(v, i)));
        }
        if (i->kind == ITEM_SENSOR) {
            note_pace(v, i->index - rgp_image_sensor_slot(v->image, 0), to);
        }
        break;
    case ITEM_BANDS:
        note_bands(v, i, to);
        break;
    case ITEM_PARAM:
        note_param(v, i, to);
        break;
    case ITEM_ACTUATOR:
        note_actuator(v, i, to);
        break;
    case ITEM_RULE:
        note_rule(v, i, to);
        break;
    }
}
