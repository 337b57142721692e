/* Sensors that decide what is driven, and would not be missed if they fell silent. */
#include "check.h"

static bool drives(const rule *r)
{
    for (unsigned i = 0; i < r->actions; i++) {
        if (r->action[i].kind == ACTION_DRIVE) {
            return true;
        }
    }
    return false;
}

/* All that decides what is driven, and when it must not be. */
static void mark_what_drives(const tree *t, unsigned char *seen)
{
    for (unsigned i = 0; i < t->rules; i++) {
        if (drives(&t->rule[i])) {
            tree_mark_rule(t, &t->rule[i], seen);
        }
    }
    for (unsigned i = 0; i < t->follows; i++) {
        tree_mark(t, t->follow[i].value, seen);
    }
    for (unsigned i = 0; i < t->sequences; i++) {
        tree_mark_sequence(t, &t->sequence[i], seen);
    }
    for (unsigned i = 0; i < t->loops; i++) {
        tree_mark(t, t->loop[i]->measured, seen);
        tree_mark(t, t->loop[i]->setpoint, seen);
        tree_mark(t, t->loop[i]->only, seen);
    }
    for (unsigned i = 0; i < t->guards; i++) {
        tree_mark(t, t->guard[i].condition, seen);
    }
}

/* A switch, or a name, is left out: it may stand for as long as it likes. */
void check_deliveries(tree *t)
{
    unsigned char *seen = arena_get(t->arena, t->symbols + 1u);
    mark_what_drives(t, seen);
    for (unsigned i = 0; i < t->symbols; i++) {
        const symbol *s = t->symbol[i];
        if (s->kind == SYMBOL_SENSOR && seen[s->place] && s->type.kind == TYPE_NUMBER && !s->every && !s->stuck) {
            report_warning(
                t->report, s->at,
                "say 'every TIME' (the age at which a reading is late) or 'stuck TIME' (without a change) in its line",
                "'%s' decides what is driven, and if it stops delivering, its last reading stays good", s->name);
        }
    }
}
