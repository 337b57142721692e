/* Sequences: where they go, what they wait for, who else wants what they drive; modes and cues that nobody enters or
 * gives. */
#include "check.h"

#include "rigpulse/image.h"

#include <string.h>

static const char *part_name(void *self, uint32_t i)
{
    const sequence *s = self;
    return s->part[i].name;
}

static seq_part *find_part(const sequence *s, const char *name)
{
    for (unsigned i = 0; i < s->parts; i++) {
        if (strcmp(s->part[i].name, name) == 0) {
            return &s->part[i];
        }
    }
    return NULL;
}

static void check_target(tree *t, sequence *s, seq_step *of)
{
    if (of->or_end) {
        of->target = s->steps - 1;
    }
    if (!of->to) {
        return;
    }
    seq_part *to = find_part(s, of->to);
    if (!to) {
        report_error(t->report, of->to_at, report_choose(t->report, of->to, part_name, s, s->parts),
                     "there is no part '%s' in this sequence", of->to);
        return;
    }
    to->used = true;
    of->target = to->step;
}

static void check_wait(tree *t, seq_step *of)
{
    check_node(t, of->condition);
    const type_kind kind = of->condition->type.kind;
    if (kind != TYPE_TRUTH && kind != TYPE_EVENT) {
        if (kind != TYPE_UNKNOWN) {
            report_error(t->report, of->condition->at, "for instance: await top is on within 8 s",
                         "'await' needs a condition or an event, but this is %s", check_describe(t, of->condition));
        }
        return;
    }
    if (of->value) {
        check_duration(t, of->value, "the limit", 1e-6, false);
    } else if (!of->however_long) {
        report_warning(t->report, of->at, "add: within 10 s; or, if that is meant: , however long",
                       "nothing ends this wait but what it waits for");
    }
}

static void check_dwell(tree *t, const seq_step *of)
{
    const node *n = of->value;
    check_node(t, of->value);
    if (!check_need_number(t, n)) {
        return;
    }
    if (!unit_same_kind(n->type.unit, unit_seconds)) {
        report_error(t->report, n->at, n->kind == NODE_NUMBER ? "for instance: dwell 5 s" : NULL,
                     "'dwell' needs a time, but this is %s", check_describe(t, n));
    } else if (n->kind == NODE_NUMBER || (n->kind == NODE_NAME && n->symbol->kind == SYMBOL_PARAM)) {
        check_within(t, n, unit_seconds, limits_between(0.0, 1e8), "the time");
    }
}

static void check_cycle(tree *t, const seq_step *of)
{
    if (of->condition) {
        check_truth(t, of->condition, "until");
    }
    if (of->value && check_fixed(t, of->value, unit_none, false, "how often")) {
        check_within(t, of->value, unit_none, limits_between(1.0, 60000.0), "how often");
    }
}

static void check_do(tree *t, seq_step *of)
{
    action *a = &of->action;
    check_action(t, a);
    if (a->duration) {
        report_error(t->report, a->duration->at, "drive it, 'dwell', and drive it with something else",
                     "a step drives until another one does");
    }
    if (a->kind == ACTION_DRIVE && a->how == DRIVE_TOGGLE) {
        report_error(t->report, a->at, "write 'on' or 'off'", "a step drives to a value");
    }
}

static void check_step(tree *t, sequence *s, seq_step *of)
{
    check_target(t, s, of);
    switch (of->kind) {
    case RGP_STEP_DO:
        check_do(t, of);
        break;
    case RGP_STEP_DWELL:
        check_dwell(t, of);
        break;
    case RGP_STEP_AWAIT:
        check_wait(t, of);
        break;
    case RGP_STEP_GO:
        if (of->condition) {
            check_truth(t, of->condition, "if");
        }
        break;
    case RGP_STEP_CYCLE:
        check_cycle(t, of);
        break;
    default:
        break;
    }
}

/* ---- where it goes ----------------------------------------------------------------------------------- */

/* The steps that may follow one: at most two, behind which stands RGP_REF_NONE. */
static void followers(const sequence *s, uint32_t i, uint32_t to[3])
{
    const seq_step *of = &s->step[i];
    uint32_t n = 0;
    const bool falls =
        !(of->kind == RGP_STEP_END || of->kind == RGP_STEP_AGAIN || (of->kind == RGP_STEP_GO && !of->condition));
    const bool jumps = of->target != RGP_REF_NONE && of->kind != RGP_STEP_DO && of->kind != RGP_STEP_DWELL;
    const bool endless = of->kind == RGP_STEP_CYCLE && !of->value && !of->condition;
    if (falls && i + 1 < s->steps) {
        to[n++] = i + 1;
    }
    if (jumps && !endless && of->target < s->steps) {
        to[n++] = of->target;
    }
    to[n] = RGP_REF_NONE;
}

static void reach_from(const sequence *s, uint32_t from, unsigned char *reached, uint32_t *stack)
{
    uint32_t depth = 0, to[3];
    stack[depth++] = from;
    while (depth > 0) {
        const uint32_t i = stack[--depth];
        if (reached[i]) {
            continue;
        }
        reached[i] = 1;
        followers(s, i, to);
        for (uint32_t k = 0; to[k] != RGP_REF_NONE; k++) {
            stack[depth++] = to[k];
        }
    }
}

/* A step that nothing leads to; told once for a stretch of them. */
static void check_reached(tree *t, const sequence *s)
{
    unsigned char *reached = arena_get(t->arena, s->steps + 1u);
    uint32_t *stack = arena_get(t->arena, (2u * s->steps + 2u) * sizeof *stack);
    const seq_part *ending = find_part(s, "ending");
    reach_from(s, 0, reached, stack);
    if (ending && ending->step < s->steps) {
        reach_from(s, ending->step, reached, stack);
    }
    for (unsigned i = 0; i + 1 < s->steps; i++) {
        if (!reached[i] && s->step[i].kind != RGP_STEP_AGAIN &&
            (i == 0 || reached[i - 1] || s->step[i - 1].kind == RGP_STEP_AGAIN)) {
            report_warning(t->report, s->step[i].at, "name it with 'part' and go there, or take it out",
                           "nothing leads to this step");
        }
    }
    for (unsigned i = 0; i < s->parts; i++) {
        if (!s->part[i].used && strcmp(s->part[i].name, "ending") != 0) {
            report_warning(t->report, s->part[i].at, NULL, "nothing goes to the part '%s'", s->part[i].name);
        }
    }
}

static bool takes_time(const seq_step *of)
{
    return of->kind == RGP_STEP_DWELL || of->kind == RGP_STEP_AWAIT || of->kind == RGP_STEP_END;
}

/* Going back without a wait on the way goes round within one tick. */
static void check_haste(tree *t, const sequence *s)
{
    for (unsigned i = 0; i < s->steps; i++) {
        const seq_step *of = &s->step[i];
        const bool back = (of->kind == RGP_STEP_AGAIN || of->kind == RGP_STEP_GO) && of->target <= i;
        bool waits = false;
        for (uint32_t k = back ? of->target : i; k < i; k++) {
            waits |= takes_time(&s->step[k]);
        }
        if (back && !waits && !s->broken) {
            report_error(t->report, of->at, "add a 'dwell' or an 'await'",
                         "nothing from there to here takes time: it would go round and round in one tick");
        }
    }
}

/* ---- who else ------------------------------------------------------------------------------------------ */

static bool drives(const sequence *s, const symbol *actuator)
{
    for (unsigned i = 0; i < s->steps; i++) {
        if (s->step[i].kind == RGP_STEP_DO && s->step[i].action.actuator == actuator) {
            return true;
        }
    }
    return false;
}

static void check_rivals(tree *t, const sequence *s)
{
    for (const sequence *other = t->sequence; other < s; other++) {
        for (unsigned i = 0; i < s->steps && other->priority == s->priority; i++) {
            const action *a = &s->step[i].action;
            if (s->step[i].kind == RGP_STEP_DO && a->actuator && drives(other, a->actuator)) {
                report_error(t->report, s->at, "say which goes over the other: sequence NAME, priority 1",
                             "'%s' and '%s' both drive '%s'", s->symbol->name, other->symbol->name, a->actuator->name);
                return;
            }
        }
    }
}

void check_sequence(tree *t, sequence *s)
{
    if (s->only) {
        check_truth(t, s->only, "only while");
    }
    const uint32_t complaints = t->report->complaints;
    for (unsigned i = 0; i < s->steps; i++) {
        check_step(t, s, &s->step[i]);
    }
    if (t->report->complaints == complaints) {
        check_reached(t, s);
        check_haste(t, s);
    }
    check_rivals(t, s);
}

/* ---- modes and cues -------------------------------------------------------------------------------------- */

static bool gives(const action *a, const symbol *cue)
{
    return a->kind == ACTION_STATE && a->state == cue;
}

/* A cue that its own giving brings about again: through rules that fire on it, and on what they give. */
static bool comes_back(tree *t, const symbol *cue, const symbol *first, unsigned char *seen)
{
    for (unsigned r = 0; r < t->rules && !seen[cue->place]; r++) {
        if (!t->rule[r].trigger || !tree_needs(t, t->rule[r].trigger, cue)) {
            continue;
        }
        for (unsigned i = 0; i < t->rule[r].actions; i++) {
            const action *a = &t->rule[r].action[i];
            if (a->kind != ACTION_STATE || !a->state || a->state->state != RGP_STATE_CUE) {
                continue;
            }
            if (gives(a, first)) {
                return true;
            }
            seen[cue->place] = 1;
            if (comes_back(t, a->state, first, seen)) {
                return true;
            }
        }
    }
    return false;
}

static void check_cue(tree *t, const symbol *s)
{
    unsigned char *seen = arena_get(t->arena, t->symbols + 1u);
    if (!s->entered) {
        report_warning(t->report, s->at, arena_print(t->arena, "somewhere write: cue %s", s->name),
                       "nothing ever gives the cue '%s'", s->name);
    } else if (comes_back(t, s, s, seen)) {
        report_warning(t->report, s->at, "break the ring, or let it take time with a sequence",
                       "the cue '%s' brings itself about again, tick after tick", s->name);
    }
}

static void check_mode(tree *t, const symbol *s)
{
    for (uint32_t i = 1; i < s->names; i++) {
        if (!(s->entered & 1u << i)) {
            report_warning(t->report, s->name_of[i].at,
                           arena_print(t->arena, "somewhere write: %s %s", s->name, s->name_of[i].name),
                           "nothing ever sets '%s' to '%s'", s->name, s->name_of[i].name);
        }
    }
}

void check_states(tree *t)
{
    for (unsigned i = 0; i < t->sequences; i++) {
        if (!t->sequence[i].begun) {
            report_warning(t->report, t->sequence[i].at,
                           arena_print(t->arena, "in a rule write: begin %s", t->sequence[i].symbol->name),
                           "nothing ever begins '%s'", t->sequence[i].symbol->name);
        }
    }
    for (unsigned i = 0; i < t->symbols; i++) {
        const symbol *s = t->symbol[i];
        if (s->kind == SYMBOL_STATE && s->state == RGP_STATE_CUE) {
            check_cue(t, s);
        } else if (s->kind == SYMBOL_STATE && s->state == RGP_STATE_MODE) {
            check_mode(t, s);
        }
    }
}
