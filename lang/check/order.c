/* The order in which names are looked at: each behind what it needs, so that neither the checker nor the emitter goes
 * deeper than one expression, however long a chain of signals is. Depth-first search with a stack of its own (Tarjan,
 * 1976). */
#include "lang/parse/tree.h"

#define SHOWN_MOST 12u /* names of a circle */

/* A name on its way: what it needs, and how many of these have been gone through. */
typedef struct visit {
    symbol *symbol;
    symbol **need;
    unsigned needs, room, next;
} visit;

typedef struct search {
    tree *t;
    visit *stack;
    unsigned depth, room;
    unsigned char *state; /* by place in tree.symbol: 0, ON_STACK or DONE */
} search;

enum { ON_STACK = 1, DONE };

typedef struct collecting {
    tree *t;
    visit *to;
} collecting;

static void collect(void *self, const node *n);

static void need(collecting *c, const char *name)
{
    symbol *s = name ? tree_find(c->t, name) : NULL;
    if (s) {
        *ARENA_PUSH(c->t->arena, c->to->need, c->to->needs, c->to->room) = s;
    }
}

static void collect_loop(collecting *c, const loop *l)
{
    tree_visit(l->measured, collect, c);
    tree_visit(l->setpoint, collect, c);
    tree_visit(l->feed, collect, c);
    tree_visit(l->only, collect, c);
    tree_visit(l->low, collect, c);
    tree_visit(l->high, collect, c);
    need(c, l->actuator_name);
    for (uint32_t i = 0; i < l->lines; i++) {
        for (uint32_t k = 0; k < LOOP_LINE_SETTINGS_MAX; k++) {
            tree_visit(l->line[i].setting[k].value, collect, c);
        }
    }
}

static void collect(void *self, const node *n)
{
    collecting *c = self;
    if (n->kind == NODE_NAME) {
        need(c, n->text);
    } else if (n->kind == NODE_LOOP) {
        collect_loop(c, n->loop);
    }
}

static void begin_visit(search *s, symbol *of)
{
    visit *v = ARENA_PUSH(s->t->arena, s->stack, s->depth, s->room);
    *v = (visit){.symbol = of};
    collecting c = {s->t, v};
    s->state[of->place] = ON_STACK;
    if (of->loop) {
        collect_loop(&c, of->loop);
    }
    const node *const part[] = {of->value, of->low,    of->high,   of->margin,  of->stuck,        of->jump,
                                of->every, of->fault,  of->again,  of->slew,    of->least_power,  of->longest,
                                of->duty,  of->window, of->settle, of->portion, of->portion_time, of->lead};
    for (uint32_t i = 0; i < sizeof part / sizeof *part; i++) {
        tree_visit(part[i], collect, &c);
    }
    for (uint32_t i = 0; i < of->names; i++) {
        tree_visit(of->name_of[i].limit, collect, &c);
    }
}

static const loop *loop_of(const symbol *s)
{
    return s->loop ? s->loop : s->value && s->value->kind == NODE_LOOP ? s->value->loop : NULL;
}

/* Reports a circle: the innermost name needs `s`, which waits for it. None of them can be checked any further. */
static void report_circle(search *in, symbol *s)
{
    const char *shown = s->name, *advice = "one of them must do without the others";
    const loop *looped = NULL;
    unsigned i = in->depth, members = 0;
    do {
        symbol *member = in->stack[--i].symbol;
        if (++members <= SHOWN_MOST || member == s) {
            shown =
                arena_print(in->t->arena, members > SHOWN_MOST ? "%s <- ... <- %s" : "%s <- %s", member->name, shown);
        }
        looped = loop_of(member) ? loop_of(member) : looped;
        member->checked = true;
    } while (in->stack[i].symbol != s);
    if (looped) {
        report_error(in->t->report, looped->at, advice, "the loop '%s' needs what comes out of it", looped->name);
    } else {
        report_error(in->t->report, s->at, advice, "'%s' needs itself: %s", s->name, shown);
    }
}

static void search_from(search *in, symbol *first)
{
    begin_visit(in, first);
    while (in->depth > 0) {
        visit *v = &in->stack[in->depth - 1];
        if (v->next == v->needs) {
            tree *t = in->t;
            in->state[v->symbol->place] = DONE;
            *ARENA_PUSH(t->arena, t->order, t->ordered, t->order_room) = v->symbol;
            in->depth--;
            continue;
        }
        symbol *need = v->need[v->next++];
        if (in->state[need->place] == ON_STACK && !need->checked) {
            report_circle(in, need);
        } else if (in->state[need->place] == 0) {
            begin_visit(in, need);
        }
    }
}

static void search_kinds(search *in, symbol_kind first, symbol_kind last)
{
    for (symbol_kind kind = first; kind <= last; kind++) {
        for (unsigned i = 0; i < in->t->symbols; i++) {
            if (in->t->symbol[i]->kind == kind && in->state[i] == 0) {
                search_from(in, in->t->symbol[i]);
            }
        }
    }
}

/* Signals first: those that look alike and stand together in the file are then computed side by side. */
void lang_order(tree *t)
{
    search s = {.t = t, .state = arena_get(t->arena, t->symbols + 1u)};
    search_kinds(&s, SYMBOL_SIGNAL, SYMBOL_BANDS);
    search_kinds(&s, SYMBOL_PARAM, SYMBOL_SIGNAL - 1);
}
