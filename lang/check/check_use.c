/* Names that nothing makes use of, and sets that nothing ends. */
#include "check.h"

#include "rigpulse/image.h"

/* ---- what drives ------------------------------------------------------------------------------------- */

/* Of an actuator: the statement that drives it, by its place in the file, and whether there is another one. */
typedef struct driver {
    bool any, several;
    uint32_t first;
} driver;

static void note_claim(void *self, const symbol *actuator, text_range at)
{
    driver *drivers = self;
    if (actuator) {
        driver *d = &drivers[actuator->place];
        d->several |= d->any && d->first != at.start;
        d->first = d->any ? d->first : at.start;
        d->any = true;
    }
}

/* By the actuator's place among the symbols. */
static const driver *find_drivers(const tree *t)
{
    driver *drivers = arena_get(t->arena, (t->symbols + 1) * sizeof *drivers);
    tree_visit_claims(t, note_claim, drivers);
    return drivers;
}

/* A rig in which nothing claims an actuator is for measuring, or for a hand. */
static bool drives_anything(const tree *t)
{
    bool drives = false;
    for (unsigned i = 0; i < t->statements; i++) {
        drives |= statement_claims(t->statement[i].id);
    }
    return drives;
}

static void check_actuator_use(tree *t, const driver *drivers, const symbol *s)
{
    if (!drivers[s->place].any) {
        report_warning(t->report, s->at, "write a rule or a 'drive' for it; until then it moves by hand alone",
                       "nothing drives '%s'", s->name);
    }
}

/* ---- sets that stay ---------------------------------------------------------------------------------- */

/* A plain set stands until another one: below 'while' that looks as if it ended with the condition. */
static void check_plain_sets(tree *t, const driver *drivers, const rule *r)
{
    for (unsigned i = 0; i < r->actions; i++) {
        const action *a = &r->action[i];
        const bool plain = a->kind == ACTION_DRIVE && a->how == DRIVE_TO && !a->duration && a->actuator;
        const driver *d = plain ? &drivers[a->actuator->place] : NULL;
        if (plain && !d->several && d->first == r->at.start) {
            report_warning(t->report, a->at,
                           arena_print(t->arena, "write 'for TIME' behind it, or a continuous drive: drive %s = ...",
                                       a->actuator->name),
                           "this stays when the condition is over: nothing else ever sets '%s'", a->actuator->name);
        }
    }
}

/* ---- what nobody hears --------------------------------------------------------------------------------- */

static bool rules_give(const tree *t, const symbol *cue)
{
    for (unsigned i = 0; i < t->rules; i++) {
        for (unsigned k = 0; k < t->rule[i].actions; k++) {
            if (t->rule[i].action[k].state == cue) {
                return true;
            }
        }
    }
    return false;
}

static bool steps_give(const sequence *s, const symbol *cue)
{
    for (unsigned i = 0; i < s->steps; i++) {
        if (s->step[i].kind == RGP_STEP_DO && s->step[i].action.state == cue) {
            return true;
        }
    }
    return false;
}

static bool others_give(const tree *t, const sequence *but, const symbol *cue)
{
    for (unsigned i = 0; i < t->sequences; i++) {
        if (&t->sequence[i] != but && steps_give(&t->sequence[i], cue)) {
            return true;
        }
    }
    return rules_give(t, cue);
}

/* It stands still at the step that awaits the cue, so it cannot come to the one that gives it. */
static void check_own_cues(tree *t, const sequence *s)
{
    for (unsigned i = 0; i < s->steps; i++) {
        const node *of = s->step[i].kind == RGP_STEP_AWAIT ? s->step[i].condition : NULL;
        const symbol *cue = of && of->kind == NODE_NAME ? of->symbol : NULL;
        if (cue && cue->state == RGP_STATE_CUE && steps_give(s, cue) && !others_give(t, s, cue)) {
            report_warning(t->report, of->at, "let a rule or another sequence give it",
                           "only '%s' itself gives the cue that it awaits here", s->symbol->name);
        }
    }
}

static void check_heard(tree *t, const symbol *s)
{
    if (s->kind == SYMBOL_PARAM && !s->used && !s->loop) {
        report_warning(t->report, s->at, "use its name, or take the line out", "nothing goes by the parameter '%s'",
                       s->name);
    } else if (s->kind == SYMBOL_STATE && s->state != RGP_STATE_SEQUENCE && !s->used) {
        report_warning(t->report, s->at, "use it in a rule, or take the line out", "nothing heeds the %s '%s'",
                       s->state == RGP_STATE_MODE ? "mode" : "cue", s->name);
    }
}

void check_uses(tree *t)
{
    const driver *drivers = find_drivers(t);
    const bool drives = drives_anything(t);
    for (unsigned i = 0; i < t->symbols; i++) {
        if (drives && t->symbol[i]->kind == SYMBOL_ACTUATOR) {
            check_actuator_use(t, drivers, t->symbol[i]);
        }
        check_heard(t, t->symbol[i]);
    }
    for (unsigned i = 0; i < t->rules; i++) {
        if (t->rule[i].repeats) {
            check_plain_sets(t, drivers, &t->rule[i]);
        }
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        check_own_cues(t, &t->sequence[i]);
    }
}
