/* Rules -> claims, actions and needs. */
#include "emit.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

typedef struct claim_plan {
    uint32_t actuator, rank, priority, rule, action;
} claim_plan;

#define PLAIN   UINT32_MAX
#define STEPPED 0x40000000u /* and the sequence: whose claim it is */

static int by_rank(const void *a, const void *b)
{
    const claim_plan *x = a, *y = b;
    if (x->actuator != y->actuator) {
        return x->actuator < y->actuator ? -1 : 1;
    }
    if (x->rank != y->rank) {
        return x->rank > y->rank ? -1 : 1;
    }
    if (x->priority != y->priority) {
        return x->priority > y->priority ? -1 : 1;
    }
    return x->action < y->action ? -1 : x->action > y->action;
}

static bool has_claim(const claim_plan *plan, uint32_t plans, uint32_t actuator, uint32_t number)
{
    for (uint32_t i = 0; i < plans; i++) {
        if (plan[i].actuator == actuator && plan[i].action == number) {
            return true;
        }
    }
    return false;
}

/* For each actuator: the hand's claim, one for each sequence and each timed action, and one for all plain sets. */
static claim_plan *plan_claims(emitter *e, uint32_t *count)
{
    tree *t = e->t;
    claim_plan *plan = NULL;
    unsigned plans = 0, room = 0;
    unsigned char *latched = arena_get(t->arena, t->count[SYMBOL_ACTUATOR] + 1u);
    for (uint32_t i = 0; i < t->count[SYMBOL_ACTUATOR]; i++) {
        *ARENA_PUSH(t->arena, plan, plans, room) = (claim_plan){i, RGP_RANK_HAND, 0, RGP_REF_NONE, PLAIN};
    }
    for (unsigned i = 0; i < t->follows; i++) {
        *ARENA_PUSH(t->arena, plan, plans, room) =
            (claim_plan){t->follow[i].actuator->index, RGP_RANK_LOOP, 0, RGP_REF_NONE, PLAIN};
    }
    uint32_t at = 0;
    for (unsigned r = 0; r < t->rules; r++) {
        for (unsigned i = 0; i < t->rule[r].actions; i++, at++) {
            const action *a = &t->rule[r].action[i];
            if (a->kind != ACTION_DRIVE) {
                continue;
            }
            const uint32_t actuator = a->actuator->index;
            if (a->duration) {
                *ARENA_PUSH(t->arena, plan, plans, room) = (claim_plan){actuator, RGP_RANK_TIMED, a->priority, r, at};
            } else if (!latched[actuator]) {
                latched[actuator] = 1;
                *ARENA_PUSH(t->arena, plan, plans, room) =
                    (claim_plan){actuator, RGP_RANK_LATCH, 0, RGP_REF_NONE, PLAIN};
            }
        }
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        const sequence *s = &t->sequence[i];
        for (unsigned k = 0; k < s->steps; k++) {
            const action *a = &s->step[k].action;
            const bool drives = s->step[k].kind == RGP_STEP_DO && a->kind == ACTION_DRIVE;
            if (drives && !has_claim(plan, plans, a->actuator->index, STEPPED + i)) {
                *ARENA_PUSH(t->arena, plan, plans, room) =
                    (claim_plan){a->actuator->index, RGP_RANK_SEQUENCE, s->priority, i, STEPPED + i};
            }
        }
    }
    if (plans > 0) {
        qsort(plan, plans, sizeof *plan, by_rank);
    }
    *count = plans;
    return plan;
}

static uint16_t find_claim(const claim_plan *plan, uint32_t plans, uint32_t actuator, uint32_t rank, uint32_t number)
{
    uint32_t i = 0;
    while (i < plans && !(plan[i].actuator == actuator && plan[i].rank == rank && plan[i].action == number)) {
        i++;
    }
    return (uint16_t)i;
}

static void emit_claims(emitter *e, const claim_plan *plan, uint32_t plans)
{
    e->claim = arena_get(e->t->arena, (plans + 1) * sizeof *e->claim);
    e->claims = plans;
    for (uint32_t i = 0; i < plans; i++) {
        e->claim[i] = (rgp_image_claim){
            .actuator = (uint16_t)plan[i].actuator, .rank = (uint8_t)plan[i].rank, .source = (uint16_t)plan[i].rule};
        rgp_image_actuator *a = &e->actuator[plan[i].actuator];
        a->first_claim = a->claims ? a->first_claim : (uint16_t)i;
        a->claims++;
    }
}

uint16_t emit_value(emitter *e, const node *n, unit wanted)
{
    if (n->kind == NODE_NUMBER) {
        double number = n->number;
        if (!unit_is_bare(n->type.unit)) {
            number = unit_convert(n->number, n->type.unit, wanted);
        }
        return emit_constant(e, number, n->at).ref;
    }
    value_ref got = emit_node(e, n, RGP_REF_NONE);
    if (n->type.unit.scale != wanted.scale) {
        double gain, offset;
        unit_conversion(n->type.unit, wanted, &gain, &offset);
        got = emit_scale(e, n->at, got, gain, offset, emit_new_slot(e));
    }
    return got.ref;
}

/* Always a slot: a drive by a number becomes a sum that never changes. */
static uint16_t emit_follow(emitter *e, const follow *f)
{
    if (f->actuator->is_switch) {
        return emit_node(e, f->value, RGP_REF_NONE).ref;
    }
    const uint16_t ref = emit_value(e, f->value, f->actuator->type.unit);
    if (!(ref & RGP_REF_CONSTANT)) {
        return ref;
    }
    const value_ref sum[2] = {{.ref = ref}, emit_constant(e, 0.0, f->at)};
    return emit_finish(e, emit_operation(e, RGP_OP_ADD, f->at), sum, emit_new_slot(e), NULL).ref;
}

/* An action of a rule, or of a sequence (RGP_REF_NONE: of none). Returns its place. */
static uint32_t emit_action(emitter *e, const claim_plan *plan, uint32_t plans, const action *a, uint32_t of_sequence)
{
    static const uint16_t kinds[] = {
        [ACTION_MARK] = RGP_ACTION_MARK,   [ACTION_RELEARN] = RGP_ACTION_RELEARN, [ACTION_PARAM] = RGP_ACTION_PARAM,
        [ACTION_BEGIN] = RGP_ACTION_BEGIN, [ACTION_FINISH] = RGP_ACTION_FINISH,   [ACTION_STATE] = RGP_ACTION_STATE};
    static const uint16_t latched[] = {RGP_ACTION_SET, RGP_ACTION_TOGGLE, RGP_ACTION_STEP};
    const uint32_t place = e->actions++;
    rgp_image_action *made = &e->action[place];
    *made = (rgp_image_action){.kind = kinds[a->kind]};
    switch (a->kind) {
    case ACTION_MARK:
        made->value = a->value ? emit_value(e, a->value, a->value->type.unit) : (uint16_t)RGP_REF_NONE;
        break;
    case ACTION_RELEARN:
        made->value = emit_symbol(e, a->signal).ref;
        break;
    case ACTION_PARAM:
        made->claim = (uint16_t)a->param->index;
        made->value = emit_value(e, a->value, a->param->type.unit);
        break;
    case ACTION_BEGIN:
    case ACTION_FINISH:
    case ACTION_STATE:
        made->claim = (uint16_t)(a->kind == ACTION_STATE ? a->state->index : a->state->sequence);
        made->value = emit_value(e, a->value, unit_none);
        break;
    case ACTION_DRIVE: {
        const bool timed = a->duration != NULL, stepped = of_sequence != RGP_REF_NONE;
        made->kind = timed ? RGP_ACTION_TIMED : latched[a->how];
        made->claim = find_claim(plan, plans, a->actuator->index,
                                 timed     ? RGP_RANK_TIMED
                                 : stepped ? RGP_RANK_SEQUENCE
                                           : RGP_RANK_LATCH,
                                 timed     ? place
                                 : stepped ? STEPPED + of_sequence
                                           : PLAIN);
        made->value = emit_value(e, a->value, a->actuator->type.unit);
        made->duration = timed ? emit_value(e, a->duration, unit_seconds) : 0;
        made->times = (uint16_t)(a->times > 0 ? a->times : 1);
        made->period = a->period ? emit_value(e, a->period, unit_seconds) : made->duration;
        if (timed) {
            e->claim[made->claim].action = (uint16_t)place;
        }
        break;
    }
    }
    return place;
}

static rgp_image_step emit_step(emitter *e, const claim_plan *plan, uint32_t plans, const seq_step *of,
                                uint32_t of_sequence)
{
    rgp_image_step made = {(uint16_t)of->kind, RGP_REF_NONE, RGP_REF_NONE, (uint16_t)of->target};
    if (of->kind == RGP_STEP_DO) {
        made.what = (uint16_t)emit_action(e, plan, plans, &of->action, of_sequence);
    } else if (of->condition) {
        const value_ref got = emit_node(e, of->condition, RGP_REF_NONE);
        made.what = got.ref;
    }
    if (of->value) {
        made.value = emit_value(e, of->value, of->kind == RGP_STEP_CYCLE ? unit_none : unit_seconds);
    }
    return made;
}

static void emit_sequences(emitter *e, const claim_plan *plan, uint32_t plans)
{
    const tree *t = e->t;
    uint32_t total = 0;
    for (unsigned i = 0; i < t->sequences; i++) {
        total += t->sequence[i].steps;
    }
    e->state = arena_get(t->arena, (t->count[SYMBOL_STATE] + 1u) * sizeof *e->state);
    e->sequence = arena_get(t->arena, (t->sequences + 1u) * sizeof *e->sequence);
    e->step = arena_get(t->arena, (total + 1u) * sizeof *e->step);
    for (unsigned i = 0; i < t->symbols; i++) {
        const symbol *s = t->symbol[i];
        if (s->kind == SYMBOL_STATE) {
            e->state[s->index] = (rgp_image_state){(uint16_t)s->state,
                                                   (uint16_t)(s->state == RGP_STATE_SEQUENCE ? s->sequence : s->names)};
        }
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        const sequence *s = &t->sequence[i];
        rgp_image_sequence *made = &e->sequence[i];
        *made = (rgp_image_sequence){.first_step = (uint16_t)e->steps,
                                     .steps = (uint16_t)s->steps,
                                     .state = (uint16_t)s->symbol->index,
                                     .condition = RGP_REF_NONE,
                                     .ending = RGP_REF_NONE};
        if (s->only) {
            made->condition = emit_node(e, s->only, RGP_REF_NONE).ref;
        }
        for (unsigned k = 0; k < s->parts; k++) {
            made->ending = strcmp(s->part[k].name, "ending") == 0 ? (uint16_t)s->part[k].step : made->ending;
        }
        for (unsigned k = 0; k < s->steps; k++) {
            e->step[e->steps] = emit_step(e, plan, plans, &s->step[k], i);
            e->steps++;
        }
    }
}

void emit_rules(emitter *e)
{
    tree *t = e->t;
    uint32_t plans;
    const claim_plan *plan = plan_claims(e, &plans);
    emit_claims(e, plan, plans);
    uint32_t total = 0;
    for (unsigned r = 0; r < t->rules; r++) {
        total += t->rule[r].actions;
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        total += t->sequence[i].steps;
    }
    e->drive = arena_get(t->arena, (t->follows + 1u) * sizeof *e->drive);
    for (unsigned i = 0; i < t->follows; i++) {
        const follow *f = &t->follow[i];
        e->drive[i] = (rgp_image_drive){.condition = RGP_REF_NONE,
                                        .claim = find_claim(plan, plans, f->actuator->index, RGP_RANK_LOOP, PLAIN),
                                        .value = emit_follow(e, f),
                                        .actuator = (uint16_t)f->actuator->index};
    }
    e->rule = arena_get(t->arena, (t->rules + 1u) * sizeof *e->rule);
    e->action = arena_get(t->arena, (total + 1u) * sizeof *e->action);
    for (unsigned r = 0; r < t->rules; r++) {
        const rule *from = &t->rule[r];
        rgp_image_rule *to = &e->rule[r];
        *to = (rgp_image_rule){
            .repeats = from->repeats, .first_action = (uint16_t)e->actions, .actions = (uint8_t)from->actions};
        const node *trigger = from->trigger;
        to->trigger = trigger->kind == NODE_START ? RGP_REF_NONE : emit_node(e, trigger, RGP_REF_NONE).ref;
        to->holdoff = from->holdoff ? emit_value(e, from->holdoff, unit_seconds) : emit_constant(e, 0.0, from->at).ref;
        for (unsigned i = 0; i < from->actions; i++) {
            emit_action(e, plan, plans, &from->action[i], RGP_REF_NONE);
        }
    }
    emit_sequences(e, plan, plans);
}

static void need_marked(emitter *e, const unsigned char *seen, uint32_t by, uint32_t index)
{
    for (unsigned i = 0; i < e->faulted; i++) {
        const symbol *s = e->fault[i];
        if (seen[s->place]) {
            *ARENA_PUSH(e->t->arena, e->need, e->needs, e->needs_room) =
                (rgp_image_need){.sensor = (uint16_t)s->index, .by = (uint16_t)by, .index = (uint16_t)index};
        }
    }
}

/* The sensors whose bad readings are a fault. */
static void find_faulted(emitter *e)
{
    const tree *t = e->t;
    for (unsigned i = 0; i < t->symbols; i++) {
        if (t->symbol[i]->kind == SYMBOL_SENSOR && t->symbol[i]->fault) {
            *ARENA_PUSH(t->arena, e->fault, e->faulted, e->fault_room) = t->symbol[i];
        }
    }
}

void emit_needs(emitter *e)
{
    const tree *t = e->t;
    find_faulted(e);
    if (e->faulted == 0) {
        return;
    }
    unsigned char *seen = arena_get(t->arena, t->symbols + 1u);
    for (unsigned i = 0; i < t->rules; i++) {
        memset(seen, 0, t->symbols);
        tree_mark_rule(t, &t->rule[i], seen);
        need_marked(e, seen, RGP_NEEDED_BY_RULE, i);
    }
    for (unsigned i = 0; i < t->follows; i++) {
        memset(seen, 0, t->symbols);
        tree_mark(t, t->follow[i].value, seen);
        need_marked(e, seen, RGP_NEEDED_BY_DRIVE, i);
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        memset(seen, 0, t->symbols);
        tree_mark_sequence(t, &t->sequence[i], seen);
        need_marked(e, seen, RGP_NEEDED_BY_SEQUENCE, i);
    }
}
