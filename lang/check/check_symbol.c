/* The checks of what is declared: channels, parameters, signals and bands, each with its units and its ranges. */
#include "check.h"

#include "image/ops.h"
#include "rigpulse/image.h"

#include <math.h>

static bool check_range(tree *t, symbol *s, unit u, const char *what)
{
    if (!check_fixed_number(t, s->low, u, what, &s->least) || !check_fixed_number(t, s->high, u, what, &s->greatest)) {
        return false;
    }
    if (!(s->least < s->greatest)) {
        report_error(t->report, (text_range){s->low->at.start, s->high->at.end}, "write the lesser end first",
                     "the range of '%s' is empty", s->name);
        return false;
    }
    return true;
}

/* A number behind a unit that the line has stated already. */
static void adopt_declared(node *n, unit u)
{
    if (n->kind == NODE_NUMBER && unit_is_bare(n->type.unit)) {
        n->type.unit = u;
    }
}

static void check_option(tree *t, node *n, unit wanted, double low, const char *what, double *value)
{
    if (n && check_fixed_number(t, n, wanted, what, value) && *value < low) {
        report_error(t->report, n->at, NULL, "%s must be at least %g %s", what, low, wanted.text);
    }
}

static void check_sensor_options(tree *t, symbol *s)
{
    const unit per_second = unit_product(&t->units, unit_difference(s->type.unit), unit_seconds, -1);
    const double tick = t->tick_us / 1e6;
    check_option(t, s->stuck, unit_seconds, tick, "the time after which a sensor counts as stuck", &s->stuck_s);
    check_option(t, s->jump, per_second, 1e-6, "the fastest change that is possible", &s->jump_per_s);
    check_option(t, s->every, unit_seconds, tick, "the age at which a reading is late", &s->every_s);
    check_option(t, s->fault, unit_seconds, tick, "the time after which bad readings are a fault", &s->fault_s);
    check_option(t, s->again, unit_seconds, tick, "the time of good readings that ends a fault", &s->again_s);
}

static void check_sensor(tree *t, symbol *s)
{
    if (s->type.kind == TYPE_NAMED) {
        check_sensor_options(t, s);
        return;
    }
    if (!s->low || !s->high) {
        return;
    }
    adopt_declared(s->low, s->type.unit);
    adopt_declared(s->high, s->type.unit);
    if (!check_range(t, s, s->type.unit, "the sensor's range")) {
        return;
    }
    check_sensor_options(t, s);
    if (s->least != round(s->least) || s->greatest != round(s->greatest) || fabs(s->least) > 2147483000.0 ||
        fabs(s->greatest) > 2147483000.0) {
        report_error(t->report, s->low->at, "take a finer unit, for instance mV instead of V",
                     "raw readings are whole numbers of 32 bits");
    } else if (fmax(fabs(s->least), fabs(s->greatest)) > SINGLE_EXACT) {
        report_warning(t->report, s->low->at,
                       "put 'line', 'zero' or 'unwrap' first behind it, which take it as it is; or narrow the range",
                       "beyond %.0f not every whole number can be told from the next", SINGLE_EXACT);
    }
}

static void check_param(tree *t, symbol *s)
{
    if (!s->value || !s->high) {
        return;
    }
    if (s->loop) {
        check_loop(t, s->loop);
        if (!s->loop->sound) {
            s->type.kind = TYPE_UNKNOWN;
            return;
        }
    }
    check_node(t, s->value);
    if (check_is_unknown(s->value)) {
        return;
    }
    if (s->value->kind != NODE_NUMBER) {
        report_error(t->report, s->value->at, NULL, "a parameter begins with a number");
        return;
    }
    const unit u = s->value->type.unit;
    s->initial = s->value->number;
    if (unit_is_bare(s->low->type.unit) && s->low->kind == NODE_NUMBER) {
        s->low->type.unit = s->high->type.unit;
    }
    if (!check_range(t, s, u, "the parameter's range")) {
        return;
    }
    if (!(s->initial >= s->least && s->initial <= s->greatest)) {
        report_error(t->report, s->value->at, "widen the range or change the value",
                     "%g %s is outside the range %g..%g %s", s->initial, u.text, s->least, s->greatest, u.text);
    }
    s->type = (type){TYPE_NUMBER, u, NULL};
}

/* A setting of an actuator: a number above `low`. */
static void check_actuator_setting(tree *t, node *n, unit wanted, const char *what, const char *advice, double *value)
{
    if (n) {
        adopt_declared(n, wanted);
        if (check_fixed_number(t, n, wanted, what, value) && !(*value > 0.0)) {
            report_error(t->report, n->at, advice, "%s must be above 0", what);
        }
    }
}

static void check_duty(tree *t, symbol *s)
{
    double percent = 0.0;
    if (!s->duty) {
        return;
    }
    check_actuator_setting(t, s->duty, unit_percent, "the duty", "for instance: duty 40 % over 60 s", &percent);
    if (percent >= 100.0) {
        report_error(t->report, s->duty->at, "leave it out", "a duty of 100 %% and more is none");
    }
    s->duty_share = percent / 100.0;
    check_actuator_setting(t, s->window, unit_seconds, "the duty's time", "for instance: duty 40 % over 60 s",
                           &s->window_s);
}

/* "gives 1 portions in 800 ms after 200 ms": amounts are times. */
static void check_portion(tree *t, symbol *s)
{
    double time = 0.0;
    if (!s->portion || !s->portion_time) {
        return;
    }
    check_node(t, s->portion);
    if (s->portion->kind != NODE_NUMBER || unit_is_bare(s->portion->type.unit) || !(s->portion->number > 0.0) ||
        unit_same_kind(s->portion->type.unit, unit_seconds)) {
        report_error(t->report, s->portion->at, "for instance: gives 20 ml in 800 ms",
                     "what an actuator gives is an amount with a unit that is no time");
        return;
    }
    check_actuator_setting(t, s->portion_time, unit_seconds, "the time", "for instance: gives 20 ml in 800 ms", &time);
    if (s->lead && check_fixed_number(t, s->lead, unit_seconds, "the time before it gives", &s->lead_s) &&
        s->lead_s < 0.0) {
        report_error(t->report, s->lead->at, NULL, "the time before it gives must not be below 0");
    }
    s->portion_unit = s->portion->type.unit;
    s->seconds_each = time / s->portion->number;
}

static void check_shaping(tree *t, symbol *s)
{
    const unit per_second = unit_product(&t->units, unit_difference(s->type.unit), unit_seconds, -1);
    check_actuator_setting(t, s->slew, per_second, "the slew", "for instance: slew 50 %/s", &s->slew_by);
    check_actuator_setting(t, s->longest, unit_seconds, "the longest time", "for instance: longest 10 s",
                           &s->longest_s);
    check_actuator_setting(t, s->settle, unit_seconds, "the settle time", "for instance: settle 300 ms", &s->settle_s);
    check_duty(t, s);
    check_portion(t, s);
}

static void check_least_power(tree *t, symbol *s)
{
    if (!s->least_power) {
        return;
    }
    adopt_declared(s->least_power, s->type.unit);
    if (check_fixed_number(t, s->least_power, s->type.unit, "the least power", &s->least_by) &&
        !(s->least_by >= 0.0 && s->least_by <= s->greatest && (s->least >= 0.0 || s->least_by <= -s->least))) {
        report_error(t->report, s->least_power->at, "it is a power that moves it, and is reached on either side",
                     "the least power must be from 0 to %g %s",
                     s->least < 0.0 && -s->least < s->greatest ? -s->least : s->greatest, s->type.unit.text);
    } else if (s->initial != 0.0 && fabs(s->initial) < s->least_by) {
        report_error(t->report, s->least_power->at, "rest at 0, or at no less than the least power",
                     "'%s' rests at %g %s, which would be raised to %g: it would never rest", s->name, s->initial,
                     s->type.unit.text, s->least_by);
    }
}

static void check_actuator(tree *t, symbol *s)
{
    const bool named = s->type.kind == TYPE_NAMED;
    const unit u = s->type.unit;
    if (!s->value || (!named && !s->high)) {
        return;
    }
    check_shaping(t, s);
    if (named) {
        if (check_drive_value(t, s, s->value, true)) {
            s->initial = s->value->number;
        }
        return;
    }
    adopt_declared(s->low, u);
    adopt_declared(s->high, u);
    adopt_declared(s->value, u);
    if (!check_range(t, s, u, "the actuator's travel") ||
        !check_fixed_number(t, s->value, u, "the rest value", &s->initial)) {
        return;
    }
    check_least_power(t, s);
    if (unit_same_kind(u, unit_percent) && (s->least < -100.0 || s->greatest > 100.0)) {
        report_error(t->report, s->low->at, NULL, "an actuator's travel lies within -100..100 %%");
    }
    if (s->initial < s->least || s->initial > s->greatest) {
        report_error(t->report, s->value->at, "rest within the travel", "'%s' rests outside its travel %g..%g %s",
                     s->name, s->least, s->greatest, u.text);
    }
}

static void check_signal(tree *t, symbol *s)
{
    if (s->value->kind == NODE_LOOP) {
        check_term(t, s->value);
    } else {
        check_node(t, s->value);
    }
    s->type = s->value->type;
    if (s->type.kind == TYPE_EVENT) {
        report_error(t->report, s->value->at, "use it in an 'on' rule",
                     "an event has no value that a signal could hold");
        s->type.kind = TYPE_UNKNOWN;
    } else if (s->type.kind == TYPE_NAMED && s->value->kind != NODE_LOOP) {
        report_error(t->report, s->value->at, "use its own name", "'%s' would only be another name for '%s'", s->name,
                     s->type.symbol->name);
        s->type.kind = TYPE_UNKNOWN;
    }
}

static void check_bands(tree *t, symbol *s)
{
    check_node(t, s->value);
    if (!check_need_number(t, s->value)) {
        s->type.kind = TYPE_UNKNOWN;
        return;
    }
    const unit u = s->value->type.unit;
    lang_order_bands(t, s);
    for (uint32_t i = 0; i + 1 < s->names; i++) {
        if (s->border[i]) {
            check_fixed(t, s->border[i], u, false, "a band's border");
        }
    }
    if (s->margin && check_fixed(t, s->margin, u, true, "the margin")) {
        check_within(t, s->margin, unit_difference(u),
                     limits_of_setting(RGP_OP_BANDS, offsetof(rgp_bands_config, margin)), "the margin");
    }
}

static void check_state(tree *t, symbol *s)
{
    if (s->state == RGP_STATE_SEQUENCE) {
        s->greatest = t->sequence[s->sequence].steps;
    }
}

void check_symbol(tree *t, symbol *s)
{
    static void (*const check_kind[])(tree *, symbol *) = {
        [SYMBOL_PARAM] = check_param, [SYMBOL_SENSOR] = check_sensor, [SYMBOL_ACTUATOR] = check_actuator,
        [SYMBOL_STATE] = check_state, [SYMBOL_SIGNAL] = check_signal, [SYMBOL_BANDS] = check_bands,
    };
    if (s->checked) {
        return;
    }
    s->checked = true;
    if (s->kind >= SYMBOL_SIGNAL && !s->value) { /* the parser has said why */
        s->type.kind = TYPE_UNKNOWN;
        return;
    }
    const uint32_t complaints = t->report->complaints;
    check_kind[s->kind](t, s);
    if (t->report->complaints != complaints) {
        s->type.kind = TYPE_UNKNOWN;
    }
}
