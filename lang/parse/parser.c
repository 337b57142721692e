/* Tokens -> tree, by recursive descent. A mistake is reported and ends its line (or, in a rule, its
 * body line); the rest of the file is read all the same. */
#include "parse.h"

#include "image/ops.h"
#include "rigpulse/image.h"

#include <stdio.h>
#include <string.h>

static void (*const parse_statement[STATEMENTS])(cursor *) = {
    [STATEMENT_RIG] = parse_rig,           [STATEMENT_TICK] = parse_tick,         [STATEMENT_UNIT] = parse_unit,
    [STATEMENT_SENSOR] = parse_sensor,     [STATEMENT_ACTUATOR] = parse_actuator, [STATEMENT_PARAM] = parse_param,
    [STATEMENT_SIGNAL] = parse_signal,     [STATEMENT_BANDS] = parse_bands,       [STATEMENT_ON] = parse_on,
    [STATEMENT_WHILE] = parse_while,       [STATEMENT_NEVER] = parse_never,       [STATEMENT_DRIVE] = parse_drive,
    [STATEMENT_SEQUENCE] = parse_sequence, [STATEMENT_MODE] = parse_mode,         [STATEMENT_CUE] = parse_cue,
    [STATEMENT_STOP] = parse_stop,         [STATEMENT_KEEP] = parse_keep,         [STATEMENT_LOOP] = parse_loop,
    [STATEMENT_HOOKUP] = parse_hookup,
};

/* ---- lines --------------------------------------------------------------------------------------- */

static const char *statement_name(void *self, uint32_t i)
{
    (void)self;
    return statement_words[i].word;
}

static bool begins_action(const token *t)
{
    for (uint32_t i = 0; i < ACTION_WORDS; i++) {
        if (token_is_word(t, action_words[i].word)) {
            return true;
        }
    }
    return false;
}

static statement_id statement_of(cursor *p)
{
    const token *t = cursor_now(p);
    for (uint32_t i = 0; i < STATEMENTS; i++) {
        if (token_is_word(t, statement_words[i].word)) {
            cursor_next(p);
            return i;
        }
    }
    const symbol *s = t->kind == TOKEN_WORD ? tree_find(p->tree, t->text) : NULL;
    const bool acts = (s && (s->kind == SYMBOL_ACTUATOR || s->kind == SYMBOL_PARAM)) || begins_action(t);
    const bool named = !acts && t->kind == TOKEN_WORD && token_is_mark(cursor_behind(p), MARK_EQUALS);
    const char *advice = acts    ? "indent it below its rule"
                         : named ? "a named value begins with 'signal', a setting with 'param'"
                                 : rgp_word_elsewhere(t->text);
    if (named) {
        tree_refuse(p->tree, t->text);
    } else if (!acts && cursor_behind(p)->kind == TOKEN_WORD) { /* perhaps the name that it was to declare */
        tree_refuse(p->tree, cursor_behind(p)->text);
    }
    cursor_fail(p, t->at, advice ? advice : report_suggest(p->tree->report, t->text, statement_name, NULL, STATEMENTS),
                "no statement begins with '%s'", t->text);
}

/* The indented lines below a rule or a hook-up, each with the deeper ones that continue it. */
static void parse_lines(cursor *p, rule *of)
{
    const int32_t floor = p->at->indent;
    while (p->at->kind != TOKEN_END && p->at->indent > 0) {
        cursor_bound(p, floor);
        if (setjmp(p->recover) == 0) {
            if (of) {
                parse_body_line(p, of);
            } else {
                hookup_text *const h = &p->tree->hookup[p->tree->hookups - 1];
                *ARENA_PUSH(p->tree->arena, h->line, h->lines, h->lines_room) = p->at;
            }
        } else if (of) {
            of->broken = true;
        }
        p->at = p->limit;
    }
}

static void parse_actions(cursor *p)
{
    parse_lines(p, &p->tree->rule[p->tree->rules - 1]);
}

static void parse_steps_below(cursor *p)
{
    parse_sequence_body(p, &p->tree->sequence[p->tree->sequences - 1]);
}

static void parse_loop_lines(cursor *p)
{
    parse_loop_body(p, p->tree->loop[p->tree->loops - 1]);
}

static void parse_hookup_lines(cursor *p)
{
    parse_lines(p, NULL);
}

static void skip_lines(cursor *p)
{
    while (p->at->kind != TOKEN_END && p->at->indent != 0) {
        p->at++;
    }
}

/* The readers of the lines below a statement, for one whose first line has made something that they can belong to. */
static void (*const parse_below[])(cursor *) = {
    [BODY_ACTIONS] = parse_actions,
    [BODY_STEPS] = parse_steps_below,
    [BODY_LOOP_LINES] = parse_loop_lines,
    [BODY_HOOKUP_LINES] = parse_hookup_lines,
};

static statement_body body_of(const token *first)
{
    for (uint32_t i = 0; i < STATEMENTS; i++) {
        if (token_is_word(first, statement_words[i].word)) {
            return statement_words[i].body;
        }
    }
    return BODY_NONE;
}

static uint32_t bodies_made(const tree *t)
{
    return t->rules + t->sequences + t->loops + t->hookups;
}

/* A line that begins no statement may have been meant to stand below the rule before it. */
static void break_last_rule(tree *t)
{
    if (t->rules > 0) {
        t->rule[t->rules - 1].broken = true;
    }
}

static void refuse_second(cursor *p, const statement_at *is)
{
    const char *once = statement_words[is->id].once;
    for (const statement_at *other = p->tree->statement; once && other < is; other++) {
        if (other->id == is->id) {
            cursor_fail(p, is->at,
                        arena_print(p->tree->arena, "it is on line %u", report_line(p->tree->report, other->at.start)),
                        "%s", once);
        }
    }
}

static void parse_top(cursor *p)
{
    const int32_t anywhere = INT32_MAX;
    const statement_body body = body_of(p->at);
    const uint32_t before = bodies_made(p->tree);
    const unsigned symbols = p->tree->symbols;
    cursor_bound(p, body == BODY_NONE ? 0 : anywhere);
    statement_at *is = ARENA_PUSH(p->tree->arena, p->tree->statement, p->tree->statements, p->tree->statements_room);
    *is = (statement_at){STATEMENTS, p->at->at};
    if (setjmp(p->recover) == 0) {
        if (p->at->indent > 0) {
            cursor_fail(p, p->at->at, "begin it in the first column",
                        "this line is indented, but there is nothing above it");
        }
        is->id = statement_of(p);
        refuse_second(p, is);
        parse_statement[is->id](p);
        cursor_need_end(p);
    } else if (is->id == STATEMENTS) {
        break_last_rule(p->tree);
    } else if (bodies_made(p->tree) == before) {
        tree_take_back(p->tree, symbols);
    }
    p->at = p->limit;
    if (body != BODY_NONE && bodies_made(p->tree) > before) {
        parse_below[body](p);
    } else if (body != BODY_NONE) {
        skip_lines(p);
    }
    is->at.end = p->at[-1].at.end;
}

void lang_parse(tree *t, token *tokens)
{
    cursor p = {.tree = t, .at = tokens};
    while (p.at->kind != TOKEN_END) {
        parse_top(&p);
    }
}
