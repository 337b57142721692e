/* Names, units, cycles and ranges. An error makes a type unknown, and an unknown type is never a second
 * error. */
#include "check.h"

#include "image/ops.h"
#include "rigpulse/image.h"

#include <math.h>
#include <string.h>

/* By which the rest is checked where the tick is missing or not understood; that has been said. */
#define TICK_UNTOLD_US 10000u

/* A plain set has the lowest rank: where a loop drives it acts only while that does not. */
static void warn_set_under_loop(tree *t, const action *a)
{
    for (unsigned i = 0; i < t->loops && a->kind == ACTION_DRIVE && !a->duration; i++) {
        if (t->loop[i]->sound && t->loop[i]->actuator == a->actuator) {
            report_warning(t->report, a->at, "to take it over, say for how long: for 5 s",
                           "the loop '%s' drives '%s', so this acts only while the loop waits or is out",
                           t->loop[i]->name, a->actuator->name);
        }
    }
}

/* Loops, drives and guards, once all names are known. */
static void check_drives_and_guards(tree *t)
{
    for (unsigned i = 0; i < t->loops; i++) {
        check_loop(t, t->loop[i]);
    }
    for (unsigned i = 0; i < t->rules; i++) {
        for (unsigned k = 0; k < t->rule[i].actions; k++) {
            warn_set_under_loop(t, &t->rule[i].action[k]);
        }
    }
    for (unsigned i = 0; i < t->follows; i++) {
        check_drive(t, &t->follow[i]);
    }
    for (unsigned i = 0; i < t->guards; i++) {
        check_guard(t, &t->guard[i]);
    }
    for (unsigned i = 0; i < t->stalls; i++) {
        check_stall(t, &t->stall[i]);
    }
    for (unsigned i = 0; i < t->stops; i++) {
        check_stop(t, &t->stop[i]);
    }
    for (unsigned i = 0; i < t->keeps; i++) {
        check_keep(t, &t->keep[i]);
    }
}

void lang_check(tree *t)
{
    const text_range start = {0, 0};
    if (t->report->errors == 0 && !t->name) {
        report_error(t->report, start, "begin with 'rig NAME'", "this rig has no name");
    } else if (t->report->errors == 0 && !t->tick_us) {
        report_error(t->report, start, "add a line 'tick 20 ms'", "this rig states no tick");
    }
    t->tick_us = t->tick_us ? t->tick_us : TICK_UNTOLD_US;
    for (unsigned i = 0; i < t->ordered; i++) {
        check_symbol(t, t->order[i]);
    }
    for (unsigned i = 0; i < t->rules; i++) {
        check_rule(t, &t->rule[i]);
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        check_sequence(t, &t->sequence[i]);
    }
    if (t->report->errors == 0) {
        check_states(t);
    }
    check_drives_and_guards(t);
    if (t->report->errors == 0) {
        check_deliveries(t);
        check_uses(t);
    }
}
