/* Control loops: their inputs, the units of their settings, and what would make them work badly. */
#include "check.h"

#include "image/ops.h"

#include <math.h>
#include <string.h>

/* A share in a second is no frequency. */
static unit as_gain(unit u)
{
    u.text = strcmp(u.text, "Hz") == 0 ? "1/s" : u.text;
    return u;
}

unit lang_loop_unit(const tree *t, const loop *l, unit_id id, bool *interval)
{
    const unit in = unit_difference(l->measured->type.unit), out = unit_difference(l->actuator->type.unit);
    const unit gain = unit_product(&t->units, out, in, -1);
    *interval = id == UNIT_IN_INTERVAL;
    switch (id) {
    case UNIT_IN_INTERVAL:
        return in;
    case UNIT_OUT_INTERVAL:
        return out;
    case UNIT_IN_PER_SECOND:
        return as_gain(unit_product(&t->units, in, unit_seconds, -1));
    case UNIT_GAIN:
        return as_gain(gain);
    case UNIT_GAIN_PER_SECOND:
        return as_gain(unit_product(&t->units, gain, unit_seconds, -1));
    case UNIT_GAIN_TIMES_SECOND:
        return as_gain(unit_product(&t->units, gain, unit_seconds, 1));
    case UNIT_PROCESS_GAIN:
        return as_gain(unit_product(&t->units, in, out, -1));
    default:
        return unit_by_id(id);
    }
}

/* Gains may be written bare: they then are in output unit per measured unit. */
static bool is_gain(unit_id id)
{
    return id == UNIT_GAIN || id == UNIT_GAIN_PER_SECOND || id == UNIT_GAIN_TIMES_SECOND || id == UNIT_PROCESS_GAIN;
}

/* A mistake in it is reported. */
static bool check_setting(tree *t, loop *l, const loop_line_of *of, uint32_t index)
{
    const loop_setting *is = &of->line->setting[index];
    const loop_value *v = &of->setting[index];
    const uint8_t op = of->line->kind == LOOP_PREDICT ? of->line->op : l->method->line->op;
    bool interval;
    if (!v->value) {
        return true;
    }
    const unit wanted = lang_loop_unit(t, l, is->unit, &interval);
    if (v->value->kind == NODE_NUMBER) {
        if (unit_is_bare(v->value->type.unit) && is_gain(is->unit)) {
            v->value->type.unit = wanted;
        }
        if (!isfinite(v->value->number)) {
            report_error(t->report, v->value->at, NULL, "%s is no number", is->name);
            return false;
        }
    } else {
        check_node(t, v->value);
        const bool bare = v->value->kind == NODE_NAME && v->value->type.kind == TYPE_NUMBER &&
                          v->value->symbol->kind == SYMBOL_PARAM && unit_is_bare(v->value->type.unit);
        if (bare && is_gain(is->unit)) {
            return check_within(t, v->value, unit_none, loop_limits(of->line, is), is->name);
        }
    }
    if (!check_fixed(t, v->value, wanted, interval, is->name) ||
        !check_within(t, v->value, wanted, loop_limits(of->line, is), is->name) ||
        (is->unit == UNIT_SECOND && !check_reachable(t, v->value, is->name))) {
        return false;
    }
    if (v->value->kind == NODE_NAME && !rgp_op_is_live(op, is->offset)) {
        report_error(t->report, v->value->at, "write a number", "%s cannot be a parameter", is->name);
        return false;
    }
    return true;
}

static void adopt(symbol *param, unit u)
{
    param->value->type.unit = param->low->type.unit = param->high->type.unit = u;
}

static bool check_settings(tree *t, loop *l)
{
    bool sound = true;
    for (uint32_t i = 0; i < l->lines; i++) {
        for (uint32_t k = 0; k < LOOP_LINE_SETTINGS_MAX && l->line[i].line->setting[k].name; k++) {
            sound &= check_setting(t, l, &l->line[i], k);
            symbol *param = l->line[i].setting[k].param;
            if (param && sound) {
                adopt(param, as_gain(param->value->type.unit));
            }
        }
    }
    adopt(l->trim, unit_difference(l->measured->type.unit));
    adopt(l->push, unit_difference(l->actuator->type.unit));
    return sound;
}

static bool check_inputs(tree *t, loop *l)
{
    check_node(t, l->measured);
    check_node(t, l->setpoint);
    if (!check_need_number(t, l->measured) || !check_need_number(t, l->setpoint)) {
        return false;
    }
    if (l->measured->kind == NODE_NUMBER) {
        report_error(t->report, l->measured->at, NULL, "a loop needs something that changes, but this is a number");
        return false;
    }
    const unit u = l->measured->type.unit;
    check_adopt_bare(l->setpoint, u);
    if (!unit_same_kind(u, l->setpoint->type.unit) || u.point != l->setpoint->type.unit.point) {
        report_error(t->report, l->setpoint->at, NULL, "the setpoint must be in %s, but this is %s",
                     unit_describe(&t->units, u), check_describe(t, l->setpoint));
        return false;
    }
    if (l->setpoint->type.unit.scale != u.scale || l->setpoint->type.unit.offset != u.offset) {
        l->setpoint = check_convert_to(t, l->setpoint, u);
    }
    return true;
}

static bool check_feed(tree *t, loop *l)
{
    if (!l->feed) {
        return true;
    }
    check_node(t, l->feed);
    if (!check_need_number(t, l->feed)) {
        return false;
    }
    const unit u = l->actuator->type.unit;
    if (!unit_same_kind(u, l->feed->type.unit) || u.point != l->feed->type.unit.point) {
        report_error(t->report, l->feed->at, NULL, "what is fed forward must be in %s, but this is %s",
                     check_drive_unit(l->actuator), check_describe(t, l->feed));
        return false;
    }
    if (l->feed->type.unit.scale != u.scale) {
        l->feed = check_convert_to(t, l->feed, u);
    }
    return true;
}

static bool check_limits(tree *t, loop *l)
{
    const symbol *a = l->actuator;
    l->least = a->least;
    l->greatest = a->greatest;
    if (!l->high) {
        return true;
    }
    check_adopt_bare(l->low, a->type.unit);
    if (!check_fixed_number(t, l->low, a->type.unit, "the low limit", &l->least) ||
        !check_fixed_number(t, l->high, a->type.unit, "the high limit", &l->greatest)) {
        return false;
    }
    if (!(l->least < l->greatest) || l->least < a->least || l->greatest > a->greatest) {
        report_error(t->report, l->low->at, NULL, "the limits must rise, and lie within the travel %g..%g %s of '%s'",
                     a->least, a->greatest, a->type.unit.text, a->name);
        return false;
    }
    return true;
}

static bool check_actuator(tree *t, loop *l)
{
    symbol *a = tree_find(t, l->actuator_name);
    if (!a) {
        tree_unknown(t, l->actuator_at, l->actuator_name);
        return false;
    }
    if (a->kind != SYMBOL_ACTUATOR) {
        report_error(t->report, l->actuator_at, "only actuators can be driven", "'%s' is no actuator", a->name);
        return false;
    }
    l->actuator = a;
    if (a->type.kind == TYPE_UNKNOWN) {
        return false;
    }
    const bool onoff = l->method->line->op == RGP_OP_ONOFF;
    if (a->is_switch ? !onoff : a->type.kind == TYPE_NAMED) {
        report_error(t->report, l->actuator_at,
                     a->is_switch ? "take 'on-off', or an actuator in percent" : "use rules: on tide goes low",
                     a->is_switch ? "'%s' is a switch, and can only be switched on and off" : "'%s' has names",
                     a->name);
        return false;
    }
    return true;
}

static double setting_value(const tree *t, const loop *l, const loop_setting *is, const node *n)
{
    bool interval;
    const double number = n->kind == NODE_NUMBER ? n->number : n->symbol->initial;
    const unit wanted = lang_loop_unit(t, l, is->unit, &interval);
    return unit_is_bare(n->type.unit) ? number : unit_convert(number, n->type.unit, wanted);
}

/* The value of a setting as it is written, or as its parameter begins, in the unit that it is kept in; 0 when it is
 * not. */
static double written(const tree *t, const loop *l, const char *line, const char *word)
{
    for (uint32_t i = 0; i < l->lines; i++) {
        for (uint32_t k = 0; strcmp(l->line[i].line->word, line) == 0 && k < LOOP_LINE_SETTINGS_MAX; k++) {
            const loop_setting *is = &l->line[i].line->setting[k];
            if (is->name && is->word && strcmp(is->word, word) == 0 && l->line[i].setting[k].value) {
                return setting_value(t, l, is, l->line[i].setting[k].value);
            }
        }
    }
    return 0.0;
}

static bool has_line(const loop *l, const char *word)
{
    uint32_t i = 0;
    while (i < l->lines && strcmp(l->line[i].line->word, word) != 0) {
        i++;
    }
    return i < l->lines;
}

static void warn_slow_tick(tree *t, const loop *l)
{
    static const struct {
        const char *line, *word, *name;
    } times[] = {{"pid", "filter", "the derivative's filter"},
                 {"pid", "back", "the back-calculation"},
                 {"predict", "lag", "the lag of 'predict'"},
                 {"predict", "dead", "the dead time of 'predict'"},
                 {"nudge", "every", "the pace of 'nudge'"}};
    const double tick = t->tick_us / 1e6;
    for (uint32_t i = 0; i < sizeof times / sizeof *times; i++) {
        const double time = written(t, l, times[i].line, times[i].word);
        if (time > 0.0 && time < 2.0 * tick) {
            report_warning(t->report, l->at, "make the tick shorter, or the time longer",
                           "the tick of %g ms is too slow for %s of %g ms", tick * 1e3, times[i].name, time * 1e3);
        }
    }
}

/* True when a stage on the way from the sensor takes the noise off before a slope is made of it. */
static bool is_calmed(const node *n)
{
    if (!n) {
        return false;
    }
    if (n->kind == NODE_NAME) {
        return n->symbol && n->symbol->kind == SYMBOL_SIGNAL && is_calmed(n->symbol->value);
    }
    if (n->kind == NODE_STAGE) {
        const uint8_t op = n->stage->op;
        return op == RGP_OP_SMOOTH || op == RGP_OP_AVERAGE || op == RGP_OP_FUSE || is_calmed(n->a);
    }
    return is_calmed(n->a) || is_calmed(n->b);
}

/* The only sensor that it is made of; NULL: there are more, or none. */
static const symbol *sensor_of(const node *n)
{
    while (n) {
        if (n->kind == NODE_NAME && n->symbol && n->symbol->kind == SYMBOL_SENSOR) {
            return n->symbol;
        }
        if (n->kind == NODE_NAME) {
            n = n->symbol && n->symbol->kind == SYMBOL_SIGNAL ? n->symbol->value : NULL;
        } else {
            n = n->kind == NODE_STAGE || n->kind == NODE_CONVERT ? n->a : NULL;
        }
    }
    return NULL;
}

/* The emitter knows what the measured value can be: so one count of its sensor is one part of that. */
void lang_warn_loop(tree *t, const loop *l, bool known, double low, double high)
{
    const double tick = t->tick_us / 1e6, kd = written(t, l, "pid", "kd"), filter = written(t, l, "pid", "filter");
    const symbol *sensor = sensor_of(l->measured);
    const double travel = l->greatest - l->least;
    if (known && sensor && sensor->type.kind == TYPE_NUMBER && kd > 0.0 && !is_calmed(l->measured)) {
        const double count = (high - low) / (sensor->greatest - sensor->least);
        const double kick = kd * count / (filter > tick ? filter : tick);
        if (kick > 0.02 * travel) {
            report_warning(t->report, l->method->at, "give it a filter, or smooth what is measured",
                           "one count of '%s' makes the derivative jump by %.2g %s", sensor->name, kick,
                           l->actuator->type.unit.text);
        }
    }
    const node *sp = l->setpoint;
    const bool param = sp->kind == NODE_NAME && sp->symbol->kind == SYMBOL_PARAM;
    if (known && (sp->kind == NODE_NUMBER || param)) {
        const double least = check_least_of(sp, l->measured->type.unit);
        const double most = param ? unit_convert(sp->symbol->greatest, sp->type.unit, l->measured->type.unit) : least;
        if (least < low || most > high) {
            report_warning(t->report, sp->at, "keep it within, or widen the sensor's range",
                           "the setpoint %s %g %s, but what is measured lies from %.4g to %.4g %s",
                           param ? "can be" : "is", least < low ? least : most, l->measured->type.unit.text, low, high,
                           l->measured->type.unit.text);
        }
    }
}

static void warn_one_way(tree *t, const loop *l)
{
    const double rest = l->actuator->initial;
    const bool pid = l->method->line->op == RGP_OP_PID;
    if (pid && !l->one_way && (rest <= l->least || rest >= l->greatest)) {
        report_warning(t->report, l->actuator_at,
                       "where the mechanism goes back by itself, say 'one way' below the loop",
                       "'%s' can only push one way, but the error goes both", l->actuator->name);
    }
}

static bool check_together(tree *t, const loop *l)
{
    const bool again = has_line(l, "cut out") && has_line(l, "engage");
    for (uint32_t i = 0; i < l->lines; i++) {
        const loop_line_of *of = &l->line[i];
        const bool cuts = strcmp(of->line->word, "cut out") == 0;
        if (cuts && of->setting[3].given && !(again && written(t, l, "engage", "within") > 0.0)) {
            report_error(t->report, of->at, "add a line: engage within X",
                         "a loop that engages again must say how near the setpoint");
            return false;
        }
        if (cuts && of->setting[1].given && !of->setting[0].given) {
            report_error(t->report, of->at, "for instance: cut out beyond 5 cm for 2 s",
                         "'for' needs the error that it is about");
            return false;
        }
    }
    return true;
}

static bool is_sound(tree *t, loop *l)
{
    if (!l->method || !l->named || !check_actuator(t, l) || !check_inputs(t, l)) {
        return false;
    }
    if (l->only) {
        check_truth(t, l->only, "only while");
    }
    return (!l->only || l->only->type.kind == TYPE_TRUTH) && check_limits(t, l) && check_feed(t, l) &&
           check_settings(t, l) && !l->broken && check_together(t, l);
}

void check_loop(tree *t, loop *l)
{
    if (l->checked) {
        return;
    }
    l->checked = true;
    l->sound = is_sound(t, l);
    if (l->sound) {
        warn_slow_tick(t, l);
        warn_one_way(t, l);
    }
}

void check_term(tree *t, node *n)
{
    loop *l = n->loop;
    check_loop(t, l);
    if (!l->sound) {
        return;
    }
    n->a = l->measured;
    n->b = l->setpoint;
    n->c = l->feed;
    const unit in = l->measured->type.unit, out = unit_difference(l->actuator->type.unit);
    switch (n->which) {
    case RGP_TERM_PHASE:
        n->type = (type){TYPE_NAMED, unit_none, l->term[RGP_TERM_PHASE]};
        break;
    case RGP_TERM_TARGET:
        n->type = (type){TYPE_NUMBER, in, NULL};
        break;
    case RGP_TERM_ERROR:
        n->type = (type){TYPE_NUMBER, unit_difference(in), NULL};
        break;
    case RGP_TERM_SATURATED:
        n->type = (type){TYPE_TRUTH, unit_none, NULL};
        break;
    case RGP_TERM_OUTPUT:
        n->type = l->actuator->is_switch ? (type){TYPE_TRUTH, unit_none, NULL}
                                         : (type){TYPE_NUMBER, l->actuator->type.unit, NULL};
        break;
    default:
        n->type = (type){TYPE_NUMBER, out, NULL};
    }
}
