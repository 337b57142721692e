/* A line of a hook-up with something that happens: `at TIME WHOM DISTURBANCE [AMOUNT] [for TIME]`. */
#include "hookup.h"

#include <string.h>

static const char *victim_name(void *self, uint32_t i)
{
    const hookup *h = self;
    if (i < h->mechanisms) {
        return h->mechanism[i].name;
    }
    return i < h->mechanisms + h->sensors ? tree_channel(h->t, SYMBOL_SENSOR, h->sensor[i - h->mechanisms].sensor)->name
                                          : "clock";
}

/* The things that something can happen to: mechanisms, connected sensors, and the clock. */
static const rgp_terminal *find_victim(cursor *p, const hookup *h, rgp_disturbance_item *d)
{
    const token *name = cursor_need_name(p, "what it happens to");
    d->mechanism = d->sensor = -1;
    for (unsigned i = 0; i < h->mechanisms; i++) {
        if (strcmp(h->mechanism[i].name, name->text) == 0) {
            d->mechanism = (int32_t)i;
            return h->mechanism[i].kind->disturbance;
        }
    }
    for (unsigned i = 0; i < h->sensors; i++) {
        const symbol *s = tree_find(h->t, name->text);
        if (s && s->kind == SYMBOL_SENSOR && s->index == h->sensor[i].sensor) {
            d->sensor = (int32_t)s->index;
            return h->sensor[i].kind->disturbance;
        }
    }
    if (strcmp(name->text, "clock") == 0) {
        return h->catalog->clock;
    }
    cursor_pass_refused(p, name);
    const symbol *tried = tree_find(h->t, name->text);
    if (tried && h->tried[tried->place]) { /* what is wrong with its line has been said there */
        h->t->report->complaints++;
        longjmp(p->recover, 1);
    }
    tree_refuse(p->tree, name->text);
    const char *near =
        report_suggest(h->t->report, name->text, victim_name, (void *)h, h->mechanisms + h->sensors + 1u);
    cursor_fail(p, name->at, near ? near : "write its line above this one",
                "there is no mechanism or connected sensor '%s'", name->text);
}

void hookup_parse_disturbance(cursor *p, hookup *h)
{
    hookup_need_room(p, h->disturbances);
    rgp_disturbance_item d = {.line = report_line(h->t->report, p->at->at.start)};
    cursor_next(p);
    d.at_seconds = hookup_need_quantity(p, "s", "the time", NULL);
    const rgp_terminal *words = find_victim(p, h, &d);
    d.which = hookup_need_terminal(p, words, "disturbance of it");
    if (words[d.which].unit) {
        rgp_mechanism_item *of = d.mechanism >= 0 ? &h->mechanism[d.mechanism] : NULL;
        d.amount = hookup_need_quantity(p, hookup_unit_of(p, words[d.which].unit, of), "the amount", NULL);
    }
    if (token_is_word(cursor_now(p), "for")) {
        const token *lasting = cursor_next(p);
        if (!words[d.which].lasts) {
            report_warning(h->t->report, lasting->at,
                           "take 'for' out: it happens at once, or until another disturbance ends it",
                           "'%s' has no duration: this is not heeded", words[d.which].word);
        }
        d.for_seconds = hookup_need_quantity(p, "s", "how long", NULL);
    }
    const bool of_clock = d.mechanism < 0 && d.sensor < 0;
    if (d.at_seconds < 0.0 || d.for_seconds < 0.0 || (of_clock && d.amount < 0.0)) {
        cursor_fail(p, p->at[-1].at, NULL, of_clock ? "a clock never goes back" : "times are not negative");
    }
    cursor_need_end(p);
    *ARENA_PUSH(h->t->arena, h->disturbance, h->disturbances, h->disturbances_room) = d;
}
