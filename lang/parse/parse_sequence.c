/* Modes, cues and sequences. The steps of a cycle are indented below it. */
#include "parse.h"

#include "rigpulse/image.h"

#include <string.h>

#define STEPS_MAX 1000u

static symbol *new_state(cursor *p, uint32_t state, const char *what)
{
    symbol *s = parse_new_symbol(p, SYMBOL_STATE, cursor_need_name(p, what));
    s->state = state;
    return s;
}

/* mode: "mode" NAME ":" NAME {"," NAME} */
void parse_mode(cursor *p)
{
    symbol *s = new_state(p, RGP_STATE_MODE, "the mode's name");
    cursor_need_mark(p, MARK_COLON, "for instance: mode harbour: day, night");
    parse_names(p, s);
}

/* cue: "cue" NAME */
void parse_cue(cursor *p)
{
    symbol *s = new_state(p, RGP_STATE_CUE, "the cue's name");
    s->type = (type){TYPE_EVENT, unit_none, NULL};
    s->greatest = 1.0;
}

/* sequence: "sequence" NAME {"," ("priority" NUMBER | "only" "while" condition)} */
void parse_sequence(cursor *p)
{
    static const char advice[] = "there are: priority N, only while CONDITION";
    tree *t = p->tree;
    if (t->sequences >= RULES_MAX) {
        cursor_fail(p, cursor_now(p)->at, NULL, "too many sequences (limit %u)", RULES_MAX);
    }
    symbol *s = new_state(p, RGP_STATE_SEQUENCE, "the sequence's name");
    s->sequence = t->sequences;
    s->type = (type){TYPE_NAMED, unit_none, s};
    s->name_of[0].name = "idle";
    s->name_of[1].name = "running";
    s->names = 2;
    sequence *made = ARENA_PUSH(t->arena, t->sequence, t->sequences, t->sequences_room);
    *made = (sequence){.at = s->at, .symbol = s};
    while (cursor_take_mark(p, MARK_COMMA)) {
        if (cursor_take_word(p, "priority")) {
            const node *n = parse_sum(p);
            double number = 0.0;
            if (!node_constant(n, unit_none, &number) || !(number >= 0.0 && number <= 100.0)) {
                cursor_fail(p, n->at, "the greater goes over the lesser", "a priority is a number from 0 to 100");
            }
            made->priority = (uint32_t)number;
        } else if (cursor_take_word(p, "only")) {
            cursor_need_word(p, "while", advice);
            made->only = parse_condition(p);
        } else {
            cursor_fail_expected(p, "'priority' or 'only while'", advice);
        }
    }
}

/* ---- steps ------------------------------------------------------------------------------------------- */

static seq_step *new_step(cursor *p, sequence *s, uint32_t kind, text_range at)
{
    if (s->steps >= STEPS_MAX) {
        cursor_fail(p, at, NULL, "too many steps (limit %u)", STEPS_MAX);
    }
    seq_step *made = ARENA_PUSH(p->tree->arena, s->step, s->steps, s->steps_room);
    *made = (seq_step){.kind = kind, .at = at, .target = RGP_REF_NONE};
    return made;
}

static void parse_target(cursor *p, seq_step *made)
{
    const token *name = cursor_need_name(p, "a part");
    made->to = name->text;
    made->to_at = name->at;
}

/* dwell: "dwell" chain */
static void parse_dwell(cursor *p, sequence *s, text_range at)
{
    seq_step made = {.kind = RGP_STEP_DWELL, .at = at, .target = RGP_REF_NONE};
    made.value = parse_chain(p);
    *new_step(p, s, RGP_STEP_DWELL, at) = made;
}

/* await: "await" condition ["within" sum] ["," ("however" "long" | "else" ("end" | "go" NAME))] */
static void parse_await(cursor *p, sequence *s, text_range at)
{
    static const char advice[] = "for instance: await top is on within 8 s, else go stuck";
    seq_step made = {.kind = RGP_STEP_AWAIT, .at = at, .target = RGP_REF_NONE};
    made.condition = parse_condition(p);
    if (cursor_take_word(p, "within")) {
        made.value = parse_sum(p);
    }
    if (cursor_take_mark(p, MARK_COMMA)) {
        if (!made.value && cursor_take_word(p, "however")) {
            cursor_need_word(p, "long", "for instance: await gate is off, however long");
            made.however_long = true;
        } else {
            cursor_need_word(p, "else", advice);
            made.or_end = cursor_take_word(p, "end");
            if (!made.or_end) {
                cursor_need_word(p, "go", advice);
                parse_target(p, &made);
            }
        }
    }
    *new_step(p, s, RGP_STEP_AWAIT, at) = made;
}

/* go: "go" NAME ["if" condition] */
static void parse_go(cursor *p, sequence *s, text_range at)
{
    seq_step made = {.kind = RGP_STEP_GO, .at = at, .target = RGP_REF_NONE};
    parse_target(p, &made);
    if (cursor_take_word(p, "if")) {
        made.condition = parse_condition(p);
    }
    *new_step(p, s, RGP_STEP_GO, at) = made;
}

/* part: "part" NAME */
static void parse_part(cursor *p, sequence *s, text_range at)
{
    (void)at;
    const token *name = cursor_need_name(p, "the part's name");
    for (unsigned i = 0; i < s->parts; i++) {
        if (strcmp(s->part[i].name, name->text) == 0) {
            cursor_fail(p, name->at, "choose another name", "there are two parts '%s' in this sequence", name->text);
        }
    }
    *ARENA_PUSH(p->tree->arena, s->part, s->parts, s->parts_room) = (seq_part){name->text, name->at, s->steps, false};
}

/* cycle: "cycle" [sum "times"] ["until" condition] */
static void parse_cycle(cursor *p, sequence *s, text_range at)
{
    seq_step made = {.kind = RGP_STEP_CYCLE, .at = at, .target = RGP_REF_NONE};
    if (!token_is_word(cursor_now(p), "until") && cursor_now(p)->kind != TOKEN_END) {
        made.value = parse_sum(p);
        cursor_need_word(p, "times", "for instance: cycle 3 times");
    }
    if (cursor_take_word(p, "until")) {
        made.condition = parse_condition(p);
    }
    *new_step(p, s, RGP_STEP_CYCLE, at) = made;
}

/* end: "end" | "end" NAME, an action */
static void parse_end(cursor *p, sequence *s, text_range at)
{
    if (cursor_now(p)->kind == TOKEN_END) {
        new_step(p, s, RGP_STEP_END, at);
        return;
    }
    seq_step made = {.kind = RGP_STEP_DO, .at = at, .target = RGP_REF_NONE};
    made.action = parse_action(p, &p->at[-1]);
    *new_step(p, s, RGP_STEP_DO, at) = made;
}

static void (*const parse_worded[STEP_WORDS])(cursor *p, sequence *s, text_range at) = {
    [STEP_ID_DWELL] = parse_dwell, [STEP_ID_AWAIT] = parse_await, [STEP_ID_GO] = parse_go,
    [STEP_ID_PART] = parse_part,   [STEP_ID_CYCLE] = parse_cycle, [STEP_ID_END] = parse_end,
};

static void parse_step(cursor *p, sequence *s)
{
    const token *first = cursor_need_name(p, "a step");
    const text_range at = first->at;
    const unsigned before = s->steps;
    if (token_is_word(first, action_words[ACTION_ID_HOLDOFF].word)) {
        cursor_fail(p, at, "to wait here, write 'dwell TIME'", "a holdoff belongs below a rule, not in a sequence");
    }
    uint32_t i = 0;
    while (i < STEP_WORDS && !token_is_word(first, step_words[i].word)) {
        i++;
    }
    if (i < STEP_WORDS) {
        parse_worded[i](p, s, at);
    } else {
        seq_step made = {.kind = RGP_STEP_DO, .at = at, .target = RGP_REF_NONE};
        made.action = parse_action(p, first);
        *new_step(p, s, RGP_STEP_DO, at) = made;
    }
    if (s->steps > before) {
        s->step[before].at.end = p->at[-1].at.end;
    }
    cursor_need_end(p);
}

/* The lines of one depth; deeper ones belong to the cycle above them, else they go on with the line above. */
static void parse_steps(cursor *p, sequence *s, int32_t above, uint32_t depth)
{
    const int32_t anywhere = INT32_MAX, level = p->at->indent;
    while (p->at->kind != TOKEN_END && p->at->indent > above) {
        const bool cycles = token_is_word(p->at, step_words[STEP_ID_CYCLE].word);
        const unsigned first = s->steps;
        const token *const begin = p->at;
        cursor_bound(p, cycles ? anywhere : level);
        if (setjmp(p->recover) == 0) {
            if (begin->indent != level) {
                cursor_fail(p, begin->at, "indent the steps of one depth alike",
                            "this line is indented unlike those above it");
            }
            if (depth > NEST_MAX / 4) {
                cursor_fail(p, begin->at, NULL, "cycles are nested too deep (limit %u)", NEST_MAX / 4);
            }
            parse_step(p, s);
        } else {
            s->broken = true;
        }
        p->at = p->limit;
        if (!cycles || s->steps == first) {
            continue;
        }
        if (p->at->kind != TOKEN_END && p->at->indent > level) {
            parse_steps(p, s, level, depth + 1);
        }
        if (s->steps == first + 1 && !s->broken) {
            report_error(p->tree->report, s->step[first].at, "indent its steps below it", "this cycle does nothing");
        }
        cursor_bound(p, anywhere);
        if (setjmp(p->recover) == 0) {
            seq_step *again = new_step(p, s, RGP_STEP_AGAIN, s->step[first].at);
            again->target = first;
            s->step[first].target = s->steps;
        }
    }
}

void parse_sequence_body(cursor *p, sequence *s)
{
    if (p->at->kind != TOKEN_END && p->at->indent > 0) {
        parse_steps(p, s, 0, 0);
    }
    if (s->steps == 0 && !s->broken) {
        report_error(p->tree->report, s->at, "indent its steps below it", "this sequence does nothing");
    }
    cursor_bound(p, INT32_MAX);
    if (setjmp(p->recover) == 0) {
        new_step(p, s, RGP_STEP_END, s->at);
    }
}
