/* The list: every sensor, signal, band, parameter, actuator and rule, with its value, its recent past, and what to
 * know. */
#include "screen.h"
#include "view.h"

#include "explain/disassembly.h"
#include "explain/describe.h"

#include <math.h>
#include <string.h>

enum { NAME_LEAST = 10, NAME_MOST = 18, NAME_COLUMN = 3, VALUE_WIDTH = 13, PAST_LEAST = 12, PAST_MOST = 40 };

/* ---- values ---------------------------------------------------------------------------------------- */

#define LEAP 4096u /* rows that are looked at at once */

static rgp_quality quality_of(const view *v, const view_item *i)
{
    return rgp_history_quality(v->history, i->column, v->row);
}

static float value_of(const view *v, const view_item *i)
{
    return rgp_history_value(v->history, i->column, v->row);
}

static bool is_sequence(const view *v, const view_item *i)
{
    const uint32_t first = rgp_image_state_slot(v->image, 0);
    const rgp_image_state *state = rgp_image_at(v->image, RGP_SECTION_STATES);
    return i->kind == ITEM_SIGNAL && i->index >= first &&
           i->index < first + rgp_image_count(v->image, RGP_SECTION_STATES) &&
           state[i->index - first].kind == RGP_STATE_SEQUENCE;
}

/* A number in its own unit, the numbers of a list below one another. */
static void put_value(const view *v, const view_item *i, GString *to)
{
    if (!rgp_usable(quality_of(v, i))) {
        g_string_append(to, rgp_quality_word(quality_of(v, i)));
        return;
    }
    const char *unit = view_unit(v, i);
    if (i->kind == ITEM_PARAM || i->kind == ITEM_ACTUATOR) {
        rgp_describe_value(v->image, i->index, value_of(v, i), to);
    } else if (is_sequence(v, i) && value_of(v, i) > 0.0f) {
        g_string_append_printf(to, "step %.0f", (double)value_of(v, i));
    } else {
        rgp_describe_cell(v->image, i->index, value_of(v, i), to);
        g_string_append_printf(to, *unit ? " %s" : "%s", unit);
    }
}

static void put_rule_state(const view *v, const view_item *i, GString *to)
{
    const double left = (double)value_of(v, i);
    if (!rgp_usable(quality_of(v, i))) {
        g_string_append(to, "fault");
    } else if (left > 0.0) {
        g_string_append_printf(to, "acts %.1f s", left);
    } else if (left < 0.0) {
        g_string_append_printf(to, "holdoff %.1f s", -left);
    } else {
        g_string_append(to, "ready");
    }
}

/* ---- the recent past ------------------------------------------------------------------------------- */

/* Cells for the past: more where the screen is wide. */
static int past_width(int width)
{
    return CLAMP(width / 7, PAST_LEAST, PAST_MOST);
}

static void put_past(const view *v, const view_item *i, int cells, GString *to)
{
    static const char *const level[] = {"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
    const uint64_t now = rgp_history_time_us(v->history, v->row), span = (uint64_t)(v->span * 1e6);
    const uint64_t begin = now > span ? now - span : 0;
    const uint64_t from = rgp_history_find(v->history, begin);
    const rgp_extent all = rgp_history_extent(v->history, i->column, from, v->row + 1);
    for (int k = 0; k < cells; k++) {
        const uint64_t a = rgp_history_find(v->history, begin + (now - begin) * (uint64_t)k / (uint64_t)cells);
        const uint64_t b = rgp_history_find(v->history, begin + (now - begin) * (uint64_t)(k + 1) / (uint64_t)cells);
        const rgp_extent e = rgp_history_extent(v->history, i->column, a, MAX(b, a + 1));
        if (e.usable == 0 || a > v->row) {
            g_string_append(to, " ");
            continue;
        }
        const float range = all.greatest - all.least, middle = 0.5f * (e.least + e.greatest);
        const int at = range > 0.0f ? (int)(7.0f * (middle - all.least) / range + 0.5f) : 0;
        g_string_append(to, level[CLAMP(at, 0, 7)]);
    }
}

/* The step it is at, and since when. */
static void note_sequence(const view *v, const view_item *i, GString *to)
{
    const float step = value_of(v, i);
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

/* ---- what to know ---------------------------------------------------------------------------------- */

static void note_bands(const view *v, const view_item *i, GString *to)
{
    rgp_decoded step;
    g_autofree float *value = g_new0(float, v->image->slots + 1);
    if (!rgp_disassembly_writer(v->image, (uint16_t)i->index, UINT32_MAX, &step) || step.op != RGP_OP_BANDS) {
        return;
    }
    const rgp_bands_config *config = step.config;
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
    if (value_of(v, i) != p->initial) {
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
    if (value_of(v, i) == (float)RGP_LOOP_WAITING) {
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
    const double left = (double)value_of(v, i);
    if (!rgp_usable(quality_of(v, i))) {
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

static void put_note(const view *v, const view_item *i, GString *to)
{
    if (is_sequence(v, i)) {
        note_sequence(v, i, to);
        return;
    }
    switch (i->kind) {
    case ITEM_SENSOR:
    case ITEM_SIGNAL:
        if (!note_loop(v, i, to) && quality_of(v, i) != RGP_GOOD) {
            g_string_append(to, rgp_quality_text(quality_of(v, i)));
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

/* ---- lines ----------------------------------------------------------------------------------------- */

static ink ink_of(const view *v, const view_item *i)
{
    if (!rgp_usable(quality_of(v, i))) {
        return INK_BAD;
    }
    if (i->kind == ITEM_RULE) {
        const float left = value_of(v, i);
        return left > 0.0f ? INK_GOOD : left < 0.0f ? INK_WARN : INK_DIM;
    }
    if (i->kind == ITEM_ACTUATOR) {
        const uint32_t actuator = i->index - rgp_image_actuator_slot(v->image, 0);
        return rgp_history_value(v->history, rgp_history_owner(v->history, actuator), v->row) == (float)RGP_OWNER_REST
                   ? INK_PLAIN
                   : INK_GOOD;
    }
    return INK_PLAIN;
}

/* As wide as the longest name, within bounds: a name cut short is a name to guess at, so on a narrow screen too. */
static int name_width(const view *v, int width)
{
    glong longest = NAME_LEAST;
    for (guint i = 0; i < v->item->len; i++) {
        longest = MAX(longest, g_utf8_strlen(view_name(v, view_item_at(v, i)), -1));
    }
    return (int)MIN(longest, CLAMP(width / 5, NAME_LEAST, NAME_MOST));
}

/* The column of an item's note; all items begin at column 0. */
static int note_column(const view_item *i, int names, int width)
{
    const int past = NAME_COLUMN + names + VALUE_WIDTH + 1;
    return i->kind == ITEM_RULE ? past : past + past_width(width) + 1;
}

static void draw_item(const view *v, const view_item *i, bool selected, int row, int width, int names)
{
    g_autoptr(GString) value = g_string_new(NULL), past = g_string_new(NULL), note = g_string_new(NULL);
    char mark[4] = " ";
    if (i->kind == ITEM_RULE) {
        put_rule_state(v, i, value);
    } else {
        put_value(v, i, value);
        put_past(v, i, past_width(width), past);
    }
    put_note(v, i, note);
    if (i->series >= 0) {
        g_snprintf(mark, sizeof mark, "%d", i->series + 1);
    }
    const int at_value = NAME_COLUMN + names, at_past = at_value + VALUE_WIDTH + 1,
              at_note = note_column(i, names, width);
    const int pad = MAX(0, VALUE_WIDTH - (int)g_utf8_strlen(value->str, -1));
    const ink with = ink_of(v, i), curve = i->series >= 0 ? (ink)(INK_SERIES + i->series) : INK_DIM;
    screen_put(row, 0, 1, INK_STRONG, selected ? ">" : " ");
    screen_put(row, 1, 1, curve, mark);
    screen_put(row, NAME_COLUMN, names, selected ? INK_STRONG : INK_PLAIN, view_name(v, i));
    screen_put(row, at_value + pad, VALUE_WIDTH, with, value->str);
    screen_put(row, at_past, past_width(width), curve, past->str);
    screen_put(row, at_note, width - at_note, selected ? INK_PLAIN : INK_DIM, note->str);
}

void view_draw_list(view *v, int row, int rows, int width)
{
    const int names = name_width(v, width);
    if (rows <= 0) {
        return;
    }
    if (v->selected < v->top) {
        v->top = v->selected;
    }
    if (v->selected >= v->top + (guint)rows) {
        v->top = v->selected - (guint)rows + 1;
    }
    if (v->top + (guint)rows > v->item->len) {
        v->top = v->item->len > (guint)rows ? v->item->len - (guint)rows : 0;
    }
    for (int k = 0; k < rows && v->top + (guint)k < v->item->len; k++) {
        const guint at = v->top + (guint)k;
        draw_item(v, view_item_at(v, at), at == v->selected, row + k, width, names);
    }
}

/* Bytes of a text that fit in so many columns, up to a space where there is one. */
static size_t bytes_of_line(const char *text, int width)
{
    if (g_utf8_strlen(text, -1) <= width) {
        return strlen(text);
    }
    const char *end = g_utf8_offset_to_pointer(text, width), *at = end;
    while (at > text && *at != ' ') {
        at--;
    }
    return (size_t)((at > text ? at : end) - text);
}

int view_draw_chosen(const view *v, int row, int rows, int width)
{
    g_autoptr(GString) note = g_string_new(NULL);
    if (v->item->len == 0) {
        return 0;
    }
    const view_item *i = view_item_at(v, v->selected);
    put_note(v, i, note);
    if (g_utf8_strlen(note->str, -1) <= width - note_column(i, name_width(v, width), width)) {
        return 0;
    }
    int used = 0;
    for (const char *at = note->str; *at && used < rows; used++) {
        const size_t length = bytes_of_line(at, width - 2);
        g_autofree char *line = g_strndup(at, length);
        screen_put(row + used, 1, width - 1, INK_PLAIN, line);
        at += length + strspn(at + length, " ");
    }
    return used;
}
