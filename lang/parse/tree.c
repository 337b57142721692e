/* The tree: symbols by name, names that are refused, and walks over nodes. */
#include "tree.h"

#include <string.h>

node *tree_node(tree *t, node_kind kind, text_range at)
{
    node *n = arena_get(t->arena, sizeof *n);
    n->kind = kind;
    n->at = at;
    n->type.unit = unit_none;
    return n;
}

/* Fowler, Noll and Vo, 1991 (FNV-1a). */
static uint32_t list_of(const char *name)
{
    uint32_t hash = 2166136261u;
    while (*name) {
        hash = (hash ^ (unsigned char)*name++) * 16777619u;
    }
    return hash % NAME_LISTS;
}

void tree_add(tree *t, symbol *s)
{
    symbol **list = &t->by_name[list_of(s->name)];
    s->index = t->count[s->kind]++;
    s->place = t->symbols;
    s->earlier = *list;
    *list = s;
    *ARENA_PUSH(t->arena, t->symbol, t->symbols, t->symbols_room) = s;
}

void tree_take_back(tree *t, unsigned symbols)
{
    while (t->symbols > symbols) {
        const symbol *s = t->symbol[--t->symbols];
        t->by_name[list_of(s->name)] = s->earlier;
        t->count[s->kind]--;
        tree_refuse(t, s->name);
    }
}

symbol *tree_find(const tree *t, const char *name)
{
    symbol *s = t->by_name[list_of(name)];
    while (s && strcmp(s->name, name) != 0) {
        s = s->earlier;
    }
    return s;
}

/* Those that are declared, and those whose declaration was not understood. */
static const char *symbol_name(void *self, uint32_t i)
{
    const tree *t = self;
    return i < t->symbols ? t->symbol[i]->name : t->refused_name[i - t->symbols];
}

const char *tree_suggest(tree *t, const char *wrong)
{
    return report_suggest(t->report, wrong, symbol_name, t, t->symbols + t->refused);
}

/* The words that can go on with a statement: they join its parts, or say something of a value. */
static const char *phrase_word(void *self, uint32_t i)
{
    (void)self;
    if (i < operator_words_count) {
        return operator_words[i].word;
    }
    i -= operator_words_count;
    return i < detector_words_count ? detector_words[i].word : joining_words[i - detector_words_count];
}

static const char *line_setting(void *self, uint32_t i)
{
    (void)self;
    return loop_lines[i / LOOP_LINE_SETTINGS_MAX].setting[i % LOOP_LINE_SETTINGS_MAX].word;
}

const char *tree_suggest_phrase(tree *t, const char *wrong)
{
    const uint32_t phrases = operator_words_count + detector_words_count + joining_words_count;
    const char *near = report_suggest(t->report, wrong, phrase_word, NULL, phrases);
    return near ? near
                : report_suggest(t->report, wrong, line_setting, NULL, loop_lines_count * LOOP_LINE_SETTINGS_MAX);
}

void tree_refuse(tree *t, const char *name)
{
    if (t->refused < SYMBOLS_MAX) {
        *ARENA_PUSH(t->arena, t->refused_name, t->refused, t->refused_room) = name;
    }
}

bool tree_is_refused(const tree *t, const char *name)
{
    for (unsigned i = 0; i < t->refused; i++) {
        if (strcmp(t->refused_name[i], name) == 0) {
            return true;
        }
    }
    return false;
}

void tree_unknown(tree *t, text_range at, const char *name)
{
    unit u;
    if (tree_is_refused(t, name)) {
        t->report->complaints++;
        return;
    }
    const char *foreign = rgp_word_elsewhere(name), *near = foreign ? foreign : tree_suggest(t, name);
    report_missing(t->report, at, near ? near : tree_suggest_phrase(t, name),
                   unit_find(&t->units, name, &u) ? "'%s' is a unit: a number must stand before it" : TREE_MISSING,
                   name);
}

static const char *part_name(void *self, uint32_t i)
{
    const symbol *s = self;
    return s->name_of[i].name;
}

const char *symbol_choose(tree *t, const symbol *s, const char *wrong)
{
    return report_choose(t->report, wrong, part_name, (void *)s, s->names);
}

bool symbol_part(const symbol *s, const char *name, uint32_t *number)
{
    for (uint32_t i = 0; i < s->names; i++) {
        if (strcmp(s->name_of[i].name, name) == 0) {
            *number = i;
            return true;
        }
    }
    return false;
}

bool node_constant(const node *n, unit wanted, double *value)
{
    if (n->kind != NODE_NUMBER) {
        return false;
    }
    const unit given = n->type.unit;
    const bool bare = unit_is_bare(given) && unit_same_kind(wanted, unit_counts);
    if (!bare && !unit_same_kind(given, wanted)) {
        return false;
    }
    *value = bare ? n->number : unit_convert(n->number, given, wanted);
    return true;
}

void tree_visit_claims(const tree *t, void (*visit)(void *self, const symbol *actuator, text_range at), void *self)
{
    for (unsigned i = 0; i < t->rules; i++) {
        const rule *r = &t->rule[i];
        for (unsigned k = 0; k < r->actions; k++) {
            visit(self, r->action[k].actuator, r->at);
        }
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        const sequence *s = &t->sequence[i];
        for (unsigned k = 0; k < s->steps; k++) {
            visit(self, s->step[k].action.actuator, s->at);
        }
    }
    for (unsigned i = 0; i < t->follows; i++) {
        const follow *f = &t->follow[i];
        visit(self, f->actuator, f->loop ? f->loop->at : f->at);
    }
}

void tree_visit(const node *n, void (*visit)(void *self, const node *n), void *self)
{
    if (!n) {
        return;
    }
    visit(self, n);
    tree_visit(n->a, visit, self);
    tree_visit(n->b, visit, self);
    tree_visit(n->c, visit, self);
    tree_visit(n->d, visit, self);
    for (uint32_t i = 0; n->setting && i < STAGE_SETTINGS_MAX; i++) {
        tree_visit(n->setting[i].value, visit, self);
    }
}

/* The names that have been met and not yet been looked into. */
typedef struct marking {
    const tree *t;
    unsigned char *seen;
    const symbol **waiting;
    unsigned count, room;
} marking;

static void mark(void *self, const node *n)
{
    marking *m = self;
    if (n->symbol && !m->seen[n->symbol->place]) {
        m->seen[n->symbol->place] = 1;
        *ARENA_PUSH(m->t->arena, m->waiting, m->count, m->room) = n->symbol;
    }
}

void tree_mark(const tree *t, const node *n, unsigned char *seen)
{
    marking m = {.t = t, .seen = seen};
    tree_visit(n, mark, &m);
    while (m.count > 0) {
        tree_visit(m.waiting[--m.count]->value, mark, &m);
    }
}

void tree_mark_rule(const tree *t, const rule *r, unsigned char *seen)
{
    tree_mark(t, r->trigger, seen);
    for (unsigned i = 0; i < r->actions; i++) {
        tree_mark(t, r->action[i].value, seen);
        tree_mark(t, r->action[i].duration, seen);
    }
}

void tree_mark_sequence(const tree *t, const sequence *s, unsigned char *seen)
{
    tree_mark(t, s->only, seen);
    for (unsigned i = 0; i < s->steps; i++) {
        tree_mark(t, s->step[i].condition, seen);
        tree_mark(t, s->step[i].value, seen);
        tree_mark(t, s->step[i].action.value, seen);
    }
}

bool tree_needs(const tree *t, const node *n, const symbol *s)
{
    unsigned char *seen = arena_get(t->arena, t->symbols + 1u);
    tree_mark(t, n, seen);
    return seen[s->place];
}

const symbol *tree_channel(const tree *t, symbol_kind kind, uint32_t index)
{
    uint32_t i = 0;
    while (t->symbol[i]->kind != kind || t->symbol[i]->index != index) {
        i++;
    }
    return t->symbol[i];
}
