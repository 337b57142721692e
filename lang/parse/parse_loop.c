/* Control loops: a head, and lines below it that the table of words lists. Its terms become signals, its gains
 * parameters. */
#include "parse.h"

#include "image/ops.h"

#include <string.h>

/* loop: "loop" NAME ":" chain "at" chain "with" NAME */
void parse_loop(cursor *p)
{
    static const char advice[] = "for instance: loop bath: depth at shallow with pump";
    tree *t = p->tree;
    if (t->loops >= RULES_MAX) {
        cursor_fail(p, cursor_now(p)->at, NULL, "too many loops (limit %u)", RULES_MAX);
    }
    const token *name = cursor_need_name(p, "the loop's name");
    loop *l = arena_get(t->arena, sizeof *l);
    l->at = name->at;
    l->name = name->text;
    l->index = t->loops;
    cursor_need_mark(p, MARK_COLON, advice);
    l->measured = parse_chain(p);
    cursor_need_word(p, "at", advice);
    l->setpoint = parse_chain(p);
    cursor_need_word(p, "with", advice);
    const token *actuator = cursor_need_name(p, "an actuator");
    l->actuator_name = actuator->text;
    l->actuator_at = actuator->at;
    l->at.end = actuator->at.end;
    *ARENA_PUSH(t->arena, t->loop, t->loops, t->loops_room) = l;
}

/* ---- lines ------------------------------------------------------------------------------------------- */

static const char *line_word(void *self, uint32_t i)
{
    (void)self;
    return loop_lines[i].word;
}

static const loop_line *line_of(cursor *p)
{
    for (uint32_t i = 0; i < loop_lines_count; i++) {
        if (cursor_take_words(p, loop_lines[i].word)) {
            return &loop_lines[i];
        }
    }
    const token *t = cursor_now(p);
    const char *advice = report_suggest(p->tree->report, t->text, line_word, NULL, loop_lines_count);
    cursor_fail(p, t->at, advice ? advice : "for instance: pid kp 20, ki 2, kd 0", "a loop has no line '%s'", t->text);
}

__attribute__((noreturn)) static void fail_line(cursor *p, const loop_line_of *of, const loop_setting *is)
{
    cursor_fail(p, of->at, arena_print(p->tree->arena, "write '%s'", of->line->form), "'%s' needs %s", of->line->word,
                is->name);
}

static void parse_loop_value(cursor *p, loop_line_of *of, uint32_t index)
{
    const token *t = cursor_now(p);
    of->setting[index].given = true;
    if (of->line->setting[index].flag) {
        return;
    }
    if (t->kind == TOKEN_END || token_is_mark(t, MARK_COMMA)) {
        fail_line(p, of, &of->line->setting[index]);
    }
    of->setting[index].value = parse_sum(p);
}

static const char *setting_word(void *self, uint32_t i)
{
    return ((const loop_line *)self)->setting[i].word;
}

/* The next word is no setting of the line, or one that was written before. */
__attribute__((noreturn)) static void fail_setting(cursor *p, const loop_line_of *of)
{
    const loop_line *line = of->line;
    const token *t = cursor_now(p);
    uint32_t count = 0;
    for (; count < LOOP_LINE_SETTINGS_MAX && line->setting[count].name; count++) {
        if (line->setting[count].word && cursor_take_words(p, line->setting[count].word)) {
            cursor_fail(p, t->at, NULL, "'%s' is said twice", line->setting[count].word);
        }
    }
    const char *near = report_suggest(p->tree->report, t->text, setting_word, (void *)line, count);
    cursor_fail(p, t->at, near ? near : arena_print(p->tree->arena, "write '%s'", line->form),
                t->kind == TOKEN_END ? "'%s' ends with a comma" : "'%s' has no setting '%s'", line->word, t->text);
}

/* The setting whose words come next; LOOP_LINE_SETTINGS_MAX for none. */
static uint32_t next_setting(cursor *p, const loop_line_of *of)
{
    for (uint32_t i = 0; i < LOOP_LINE_SETTINGS_MAX && of->line->setting[i].name; i++) {
        const loop_setting *is = &of->line->setting[i];
        if (!of->setting[i].given && is->word && cursor_take_words(p, is->word)) {
            return i;
        }
    }
    return LOOP_LINE_SETTINGS_MAX;
}

static void parse_settings(cursor *p, loop_line_of *of)
{
    const loop_line *line = of->line;
    if (line->setting[0].name && !line->setting[0].word) {
        parse_loop_value(p, of, 0);
    }
    for (;;) {
        const bool comma = cursor_take_mark(p, MARK_COMMA);
        const uint32_t i = next_setting(p, of);
        if (i < LOOP_LINE_SETTINGS_MAX) {
            parse_loop_value(p, of, i);
        } else if (comma) {
            fail_setting(p, of);
        } else {
            break;
        }
    }
    for (uint32_t i = 0; i < LOOP_LINE_SETTINGS_MAX && line->setting[i].name; i++) {
        if (line->setting[i].initial >= REQUIRED && !of->setting[i].given) {
            fail_line(p, of, &line->setting[i]);
        }
    }
}

/* limits: "limits" sum ".." sum */
static void parse_limits(cursor *p, loop *l)
{
    l->low = parse_sum(p);
    cursor_need_mark(p, MARK_RANGE, "for instance: limits 0..80 %");
    l->high = parse_sum(p);
    if (l->low->kind == NODE_NUMBER && unit_is_bare(l->low->type.unit)) {
        l->low->type.unit = l->high->type.unit;
    }
}

static void parse_line(cursor *p, loop *l)
{
    const token *first = cursor_now(p);
    const loop_line *line = line_of(p);
    for (uint32_t i = 0; i < l->lines; i++) {
        if (l->line[i].line == line || (line->kind == LOOP_METHOD && l->line[i].line->kind == LOOP_METHOD)) {
            cursor_fail(p, first->at, NULL,
                        line->kind == LOOP_METHOD ? "this loop has its way to regulate already: '%s'"
                                                  : "this loop has a line '%s' already",
                        l->line[i].line->word);
        }
    }
    loop_line_of *of = &l->line[l->lines];
    *of = (loop_line_of){.line = line, .at = first->at};
    if (line->kind == LOOP_LIMITS) {
        parse_limits(p, l);
    } else if (line->kind == LOOP_FEED) {
        l->feed = parse_chain(p);
    } else if (line->kind == LOOP_ONLY) {
        l->only = parse_condition(p);
    } else {
        parse_settings(p, of);
    }
    cursor_need_end(p);
    l->reverse |= strcmp(line->word, "reverse") == 0;
    l->one_way |= strcmp(line->word, "one way") == 0;
    l->method = line->kind == LOOP_METHOD ? of : l->method;
    l->lines++;
}

/* ---- names ------------------------------------------------------------------------------------------- */

static symbol *new_name(cursor *p, const loop *l, symbol_kind kind, const char *ending)
{
    const token name = {.kind = TOKEN_WORD, .at = l->at, .text = arena_print(p->tree->arena, "%s%s", l->name, ending)};
    symbol *s = parse_new_symbol(p, kind, &name);
    s->used = true;
    return s;
}

static node *number_at(cursor *p, text_range at, double number, unit u)
{
    node *n = tree_node(p->tree, NODE_NUMBER, at);
    n->number = number;
    n->type = (type){TYPE_NUMBER, u, NULL};
    return n;
}

/* A parameter that begins with what is written, or with 0. */
static symbol *new_param(cursor *p, loop *l, const char *ending, node *value, double low, double high)
{
    symbol *s = new_name(p, l, SYMBOL_PARAM, ending);
    s->loop = l;
    s->value = value;
    s->low = number_at(p, value->at, low, value->type.unit);
    s->high = number_at(p, value->at, high, value->type.unit);
    return s;
}

static void name_params(cursor *p, loop *l)
{
    for (uint32_t i = 0; i < l->lines; i++) {
        loop_line_of *of = &l->line[i];
        for (uint32_t k = 0; k < LOOP_LINE_SETTINGS_MAX && of->line->setting[k].name; k++) {
            const loop_setting *is = &of->line->setting[k];
            node *value = of->setting[k].value;
            if (is->param && value && value->kind == NODE_NUMBER) {
                const double most = value->number > 1.0 ? 1000.0 * value->number : 1000.0;
                of->setting[k].param = new_param(p, l, arena_print(p->tree->arena, "_%s", is->param), value,
                                                 loop_limits(of->line, is).above ? 1e-6 * value->number : 0.0, most);
            }
        }
    }
    l->trim = new_param(p, l, "_trim", number_at(p, l->at, 0.0, unit_none), -1e6, 1e6);
    l->push = new_param(p, l, "_push", number_at(p, l->at, 0.0, unit_none), -1e6, 1e6);
}

static void name_terms(cursor *p, loop *l)
{
    static const char *const endings[RGP_TERMS] = {
#define RGP_TERM_ENDING(name, ending, help) ending,
        RGP_TERM_LIST(RGP_TERM_ENDING)
#undef RGP_TERM_ENDING
    };
    const uint32_t terms = l->method ? rgp_ops[l->method->line->op].outputs : RGP_TERMS;
    for (uint32_t i = 0; i < terms; i++) {
        symbol *s = l->term[i] = new_name(p, l, SYMBOL_SIGNAL, endings[i]);
        node *n = s->value = tree_node(p->tree, NODE_LOOP, l->at);
        n->which = (uint8_t)i;
        n->loop = l;
        n->a = l->measured;
        n->b = l->setpoint;
        n->c = l->feed;
    }
    symbol *phase = l->term[RGP_TERM_PHASE];
    for (uint32_t i = 0; i < RGP_LOOP_PHASES; i++) {
        phase->name_of[phase->names++] = (band_name){.name = rgp_loop_phase_word((uint8_t)i), .at = l->at};
    }
}

static void add_drive(cursor *p, loop *l)
{
    tree *t = p->tree;
    node *output = tree_node(t, NODE_NAME, l->at);
    output->text = l->term[RGP_TERM_OUTPUT]->name;
    follow *f = ARENA_PUSH(t->arena, t->follow, t->follows, t->follows_room);
    *f = (follow){.at = l->actuator_at, .name = l->actuator_name, .value = output, .loop = l};
}

void parse_loop_body(cursor *p, loop *l)
{
    const int32_t floor = p->at->indent;
    while (p->at->kind != TOKEN_END && p->at->indent > 0) {
        cursor_bound(p, floor);
        if (setjmp(p->recover) == 0) {
            parse_line(p, l);
        } else {
            l->broken = true;
        }
        p->at = p->limit;
    }
    cursor_bound(p, INT32_MAX);
    if (setjmp(p->recover) == 0) {
        name_params(p, l);
        name_terms(p, l);
        add_drive(p, l);
        l->named = true;
        if (!l->method && !l->broken) {
            cursor_fail(p, l->at, "indent it below, for instance: pid kp 20, ki 2, kd 0",
                        "this loop does not say how it regulates");
        }
    }
}
