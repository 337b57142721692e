/* A line of a hook-up that makes a mechanism, or on a wire a device: `KIND NAME: settings, INPUT by ACTUATOR`. */
#include "hookup.h"

#include <string.h>

/* "by ACTUATOR [reversed]": in the input's unit; a switch that is on drives with 100 %. */
static void parse_input(cursor *p, rgp_mechanism_item *made, uint32_t input)
{
    const symbol *s = hookup_need_channel(p, SYMBOL_ACTUATOR, "an actuator");
    const text_range at = p->at[-1].at;
    double gain = 1.0, offset = 0.0;
    const unit wanted = hookup_catalog_unit(p, made->kind->input[input].unit);
    if (s->type.kind == TYPE_NAMED) {
        gain = unit_same_kind(wanted, unit_percent) ? 100.0 / s->greatest : 1.0;
    } else if (!unit_same_kind(s->type.unit, wanted)) {
        cursor_fail(p, at, NULL, "'%s' is driven in %s, but '%s' needs %s", s->name, s->type.unit.text,
                    made->kind->input[input].word, unit_describe(&p->tree->units, wanted));
    } else {
        unit_conversion(s->type.unit, wanted, &gain, &offset);
    }
    if (cursor_take_word(p, "reversed")) { /* as an inverted actuator is wired */
        offset += gain * (s->least + s->greatest);
        gain = -gain;
    }
    made->actuator[input] = (int32_t)s->index;
    made->gain[input] = gain;
    made->offset[input] = offset;
}

void hookup_parse_mechanism(cursor *p, hookup *h, const rgp_mechanism_kind *kind)
{
    hookup_need_room(p, h->mechanisms);
    rgp_mechanism_item m = {.kind = kind, .unit = "", .line = report_line(h->t->report, p->at->at.start)};
    cursor_next(p);
    const token *name = cursor_need_name(p, arena_print(h->t->arena, "the %s's name", h->catalog->thing));
    for (unsigned i = 0; i < h->mechanisms; i++) {
        if (strcmp(h->mechanism[i].name, name->text) == 0) {
            cursor_fail(p, name->at, "choose another name", "there are two %ss '%s'", h->catalog->thing, name->text);
        }
    }
    m.name = name->text;
    hookup_default_settings(kind->setting, m.value);
    memset(m.actuator, -1, sizeof m.actuator);
    rgp_mechanism_item *made = ARENA_PUSH(h->t->arena, h->mechanism, h->mechanisms, h->mechanisms_room);
    *made = m; /* before its settings are read, so that what sees it is no error of its own */
    made->bare = !cursor_take_mark(p, MARK_COLON);
    if (!made->bare) {
        do {
            const int32_t input = hookup_find_terminal(kind->input, cursor_now(p));
            if (input >= 0) {
                cursor_next(p);
                cursor_need_word(p, "by", "an input is written 'WORD by ACTUATOR'");
                parse_input(p, made, (uint32_t)input);
            } else {
                hookup_parse_setting(p, kind->setting, kind->input, made, made->value, made->text);
            }
        } while (cursor_take_mark(p, MARK_COMMA));
    }
    made->end = p->at[-1].at.end;
    cursor_need_end(p);
}
