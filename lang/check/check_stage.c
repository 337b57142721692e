/* Stages: their input, their settings, and the unit of what comes out. */
#include "check.h"

#include "image/ops.h"

#include <math.h>
#include <string.h>

static bool check_points(tree *t, node *n, const setting_node *s)
{
    double before = 0.0, direction = 0.0;
    if (s->points < 2) {
        report_error(t->report, n->at, arena_print(t->arena, "write '%s'", n->stage->form),
                     "'%s' needs at least two points", n->stage->word);
        return false;
    }
    for (uint32_t i = 0; i < s->points; i++) {
        double in, out;
        if (!check_is_fixed_number(t, s->point[i].in, n->a->type.unit, "a table's input", &in) ||
            !check_is_fixed_number(t, s->point[i].out, n->type.unit, "a table's output", &out)) {
            return false;
        }
        if (i > 0 && (in == before || (direction != 0.0 && (in - before) * direction < 0.0))) {
            report_error(t->report, s->point[i].in->at, "put the points in rising or falling order",
                         in == before ? "two points at the input %g" : "the inputs of a table must not turn back at %g",
                         in);
            return false;
        }
        direction = i > 0 ? in - before : 0.0;
        before = in;
    }
    return true;
}

unit lang_setting_unit(const tree *t, const node *n, const stage_setting *is, bool *interval)
{
    const unit in = n->a->type.unit, out = n->type.unit;
    *interval = is->unit == UNIT_IN_INTERVAL;
    if (n->stage->result == RESULT_OF_SETTING && (uint32_t)(is - n->stage->setting) == n->stage->result_of) {
        return out;
    }
    switch (is->unit) {
    case UNIT_IN_INTERVAL:
        return unit_difference(in);
    case UNIT_IN:
        return in;
    case UNIT_OUT:
        return out;
    case UNIT_GAIN:
        return unit_product(&t->units, unit_difference(out), unit_difference(in), -1);
    default:
        return unit_by_id(is->unit);
    }
}

/* True of a stage that comes nearer by a small share each tick. */
static bool approaches(uint32_t op)
{
    return op == RGP_OP_SMOOTH || op == RGP_OP_SLOPE || op == RGP_OP_MOVED || op == RGP_OP_FUSE;
}

/* A time constant below the tick leaves nothing to be filtered. */
static void warn_short_time(tree *t, const node *n, const stage_setting *is, const setting_node *s, const char *what)
{
    const bool time = approaches(n->stage->op) && is->unit == UNIT_SECOND;
    if (time && check_least_of(s->value, unit_seconds) * 1e6 < t->tick_us) {
        report_warning(t->report, s->value->at, "take a longer one, or leave the stage out",
                       "%s is shorter than the tick of %g ms: it filters next to nothing", what, t->tick_us / 1e3);
    }
}

static bool check_number_setting(tree *t, node *n, const stage_setting *is, setting_node *s, const char *what)
{
    bool interval;
    const unit wanted = lang_setting_unit(t, n, is, &interval);
    if (!check_is_fixed(t, s->value, wanted, interval, what)) {
        return false;
    }
    if (s->value->kind == NODE_NAME && !rgp_op_is_live(n->stage->op, is->offset)) {
        report_error(t->report, s->value->at, "write a number", "%s cannot be a parameter", what);
        return false;
    }
    const double number = s->value->number;
    const number_limits limits = stage_limits(n->stage, is);
    if (limits.odd && fmod(number, 2.0) != 1.0) {
        report_error(t->report, s->value->at, arena_print(t->arena, "take %g", 2.0 * floor(number / 2.0) + 1.0),
                     "%s must be odd", what);
        return false;
    }
    if (is->shape == SETTING_COUNT && number != floor(number)) {
        report_error(t->report, s->value->at, NULL, "%s must be a whole number", what);
        return false;
    }
    warn_short_time(t, n, is, s, what);
    return check_within(t, s->value, wanted, limits, what) &&
           (!approaches(n->stage->op) || is->unit != UNIT_SECOND || check_reachable(t, s->value, what));
}

/* A further input is brought to the unit that is wanted. */
static bool check_signal_setting(tree *t, node *n, const stage_setting *is, setting_node *s, const char *what)
{
    bool interval;
    unit wanted = lang_setting_unit(t, n, is, &interval);
    if (!check_need_number(t, s->value)) {
        return false;
    }
    if (is->shape == SETTING_VALUE) {
        check_adopt_bare(s->value, wanted);
    }
    if (is->unit == UNIT_ANY) {
        wanted = s->value->type.unit;
    }
    if ((s->value->kind == NODE_NUMBER && is->shape == SETTING_SIGNAL) ||
        !unit_same_kind(wanted, s->value->type.unit) || wanted.point != s->value->type.unit.point) {
        report_error(t->report, s->value->at, NULL, "%s must be %s in %s, but this is %s", what,
                     is->shape == SETTING_SIGNAL ? "a signal" : "a value", unit_describe(&t->units, wanted),
                     check_describe(t, s->value));
        return false;
    }
    if (s->value->type.unit.scale != wanted.scale) {
        s->value = check_convert_to(t, s->value, wanted);
    }
    return true;
}

/* Something whose changes are measured: of a sensor the port tells the moments. */
static bool check_switch(tree *t, node *n, bool events, const char *what)
{
    symbol *s = n->kind == NODE_NAME && n->symbol ? tree_find(t, n->symbol->name) : NULL;
    const type_kind kind = n->type.kind;
    if (check_is_unknown(n)) {
        return false;
    }
    if (!(kind == TYPE_TRUTH || (kind == TYPE_EVENT && events) || (kind == TYPE_NAMED && n->type.symbol->is_switch))) {
        report_error(t->report, n->at,
                     kind == TYPE_NAMED ? "say which, for instance: (hue is red)" : "for instance: (depth below 3 cm)",
                     events ? "'%s' needs a switch, a condition or an event, but this is %s"
                            : "'%s' needs a switch or a condition, but this is %s",
                     what, check_describe(t, n));
        return false;
    }
    if (s && s->kind == SYMBOL_SENSOR) {
        s->timed = true;
    }
    return true;
}

static bool check_condition_setting(tree *t, const setting_node *s, const char *what)
{
    if (!check_is_unknown(s->value) && s->value->type.kind != TYPE_TRUTH) {
        report_error(t->report, s->value->at, "for instance: take while arm still for 300 ms",
                     "%s must be a condition, but this is %s", what, check_describe(t, s->value));
    }
    return s->value->type.kind == TYPE_TRUTH;
}

/* The two ends of a range. */
static bool check_ends(tree *t, const node *n, uint32_t upto)
{
    const node *low = n->setting[upto - 1].value, *high = n->setting[upto].value;
    const bool rising = unit_convert(low->number, low->type.unit, n->type.unit) <
                        unit_convert(high->number, high->type.unit, n->type.unit);
    if (!rising) {
        report_error(t->report, (text_range){low->at.start, high->at.end}, "write the lesser end first",
                     "the range of '%s' is empty", n->stage->word);
    }
    return rising;
}

static bool check_setting(tree *t, node *n, uint32_t index)
{
    const stage_setting *is = &n->stage->setting[index];
    setting_node *s = &n->setting[index];
    const char *what = arena_print(t->arena, "the %s of '%s'", is->name, n->stage->word);
    if (!s->given) {
        return true;
    }
    switch (is->shape) {
    case SETTING_POINTS:
        return check_points(t, n, s);
    case SETTING_SIGNAL:
    case SETTING_VALUE:
        return check_signal_setting(t, n, is, s, what);
    case SETTING_CONDITION:
        return check_condition_setting(t, s, what);
    case SETTING_SWITCH:
        return check_switch(t, s->value, false, n->stage->word);
    case SETTING_NUMBER:
    case SETTING_COUNT:
    case SETTING_FROM:
        return check_number_setting(t, n, is, s, what);
    case SETTING_UPTO:
        return check_number_setting(t, n, is, s, what) && check_ends(t, n, index);
    default:
        return true;
    }
}

/* The output's unit as a setting is written in it; that has to be of the kind that the setting's row names. */
static bool unit_of_setting(tree *t, node *n, unit *u)
{
    const stage_setting *is = &n->stage->setting[n->stage->result_of];
    const setting_node *s = &n->setting[n->stage->result_of];
    node *from = is->shape == SETTING_POINTS ? s->point[0].out : s->value;
    const unit wanted = unit_by_id(is->unit);
    if (!check_need_number(t, from)) {
        return false;
    }
    *u = from->type.unit;
    if (is->unit != UNIT_ANY && !unit_same_kind(*u, wanted)) {
        return check_is_fixed(t, from, wanted, false,
                              arena_print(t->arena, "the %s of '%s'", is->name, n->stage->word));
    }
    return true;
}

static bool find_result(tree *t, node *n)
{
    unit u = n->a->type.unit;
    switch (n->stage->result) {
    case RESULT_SAME:
        break;
    case RESULT_DIFFERENCE:
        u = unit_difference(u);
        break;
    case RESULT_OF_SETTING:
        if (!unit_of_setting(t, n, &u)) {
            return false;
        }
        break;
    case RESULT_FIXED:
        u = unit_by_id(n->stage->result_unit);
        break;
    case RESULT_PER_SECOND:
        u = unit_product(&t->units, unit_difference(u), unit_seconds, -1);
        break;
    case RESULT_TIMES_SECOND:
        u = unit_product(&t->units, unit_difference(u), unit_seconds, 1);
        break;
    }
    n->type = (type){TYPE_NUMBER, u, NULL};
    return true;
}

static bool check_stage_input(tree *t, const node *n)
{
    const unit wanted = unit_by_id(n->stage->unit);
    if (n->stage->takes != TAKES_QUANTITY) {
        return check_switch(t, n->a, n->stage->takes == TAKES_EVENT, n->stage->word);
    }
    if (!check_need_number(t, n->a)) {
        return false;
    }
    if (n->a->kind == NODE_NUMBER) {
        report_error(t->report, n->a->at, NULL, "a stage needs something that changes, but this is a number");
        return false;
    }
    if (n->stage->op == RGP_OP_DEADBAND && n->a->type.unit.point) {
        report_error(t->report, n->at, "take the difference to another temperature first",
                     "'%s' is a band about 0, and 0 on a temperature's scale is a point like others", n->stage->word);
        return false;
    }
    if (n->stage->unit != UNIT_ANY && !unit_same_kind(wanted, n->a->type.unit)) {
        report_error(t->report, n->at, NULL, "'%s' needs an input in %s, but this is %s", n->stage->word,
                     unit_describe(&t->units, wanted), check_describe(t, n->a));
        return false;
    }
    return true;
}

/* Of several words for one field one is said. */
static bool check_kinds(tree *t, const node *n)
{
    const stage_setting *before = NULL;
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        const stage_setting *is = &n->stage->setting[i];
        if (is->shape != SETTING_KIND || !n->setting[i].given) {
            continue;
        }
        if (before) {
            report_error(t->report, n->at, "say one of them", "'%s' is said to be both '%s' and '%s'", n->stage->word,
                         before->word, is->word);
            return false;
        }
        before = is;
    }
    return true;
}

void check_stage(tree *t, node *n)
{
    bool sound = check_stage_input(t, n) && find_result(t, n) && check_kinds(t, n);
    for (uint32_t i = 0; sound && i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        sound = check_setting(t, n, i);
    }
    if (!sound) {
        n->type.kind = TYPE_UNKNOWN;
    }
}
