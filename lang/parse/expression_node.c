/* Nodes of expressions: made of parts that have been read, or of one word. */
#include "expression_node.h"

#include "image/ops.h"

/* The next operator or stage is one or stage deeper in the tree. */
static void count_link(cursor *p)
{
    if (++p->links > LINKS_MAX) {
        cursor_fail(p, p->at[-1].at, "name a part as a signal of its own",
                    "this has too many operators and stages (limit %u)", LINKS_MAX);
    }
}

node *node_join(cursor *p, const char *word, node *a, node *b)
{
    count_link(p);
    node *n = tree_node(p->tree, NODE_JOIN, (text_range){a->at.start, b->at.end});
    n->op = operator_word_find(word)->op;
    n->text = word;
    n->a = a;
    n->b = b;
    return n;
}

node *node_apply(cursor *p, const operator_word *word, text_range at, node *a)
{
    count_link(p);
    node *n = tree_node(p->tree, NODE_APPLY, at);
    n->op = word->op;
    n->text = word->word;
    n->a = a;
    return n;
}

/* "min(A, B), max(A, B), ..." */
const char *cursor_calls(const cursor *p)
{
    const char *all = "";
    for (uint32_t i = 0; i < operator_words_count; i++) {
        if (operator_words[i].takes > 0) {
            all = arena_print(p->tree->arena, "%s%s%s", all, *all ? ", " : "", operator_words[i].form);
        }
    }
    return all;
}

node *node_negative(cursor *p, node *n)
{
    if (n->kind == NODE_NUMBER) {
        n->number = n->number == 0.0 ? 0.0 : -n->number;
        return n;
    }
    node *zero = tree_node(p->tree, NODE_NUMBER, n->at);
    zero->type = (type){TYPE_NUMBER, unit_none, NULL};
    n = node_join(p, "-", zero, n);
    n->negated = true;
    return n;
}

/* A condition that has lasted, moved or not come is the event of the moment when it has. */
node *node_event(cursor *p, node *n)
{
    if (n->kind == NODE_JOIN && n->op == RGP_OP_BOTH && n->a) {
        n->a = node_event(p, n->a);
    }
    if (n->kind != NODE_LASTS && !(n->kind == NODE_DETECT && !n->detector->gives_event)) {
        return n;
    }
    node *edge = tree_node(p->tree, NODE_EDGE, n->at);
    edge->a = n;
    edge->which = RGP_EDGE_RISE;
    return edge;
}

node *node_detect(cursor *p, const char *word, text_range at, node *value)
{
    node *n = tree_node(p->tree, NODE_DETECT, at);
    n->detector = detector_word_find(word);
    n->text = word;
    n->a = value;
    return n;
}

/* The detector whose word comes next, and stands at such a place; NULL: none. */
const detector_word *cursor_take_detector(cursor *p, detector_place place)
{
    const token *t = cursor_now(p);
    const detector_word *d = t->kind == TOKEN_WORD ? detector_word_find(t->text) : NULL;
    if (!d || d->place != place) {
        return NULL;
    }
    cursor_next(p);
    return d;
}

void node_choose(cursor *p, node *n)
{
    const detector_word *d = n->detector;
    n->number = d->otherwise;
    for (uint32_t i = 0; i < DETECTOR_CHOICES && d->choice[i].word; i++) {
        if (cursor_take_word(p, d->choice[i].word)) {
            n->number = d->choice[i].value;
            return;
        }
    }
}

static const char *stage_name(void *self, uint32_t i)
{
    (void)self;
    return stage_words[i].word;
}

const stage_word *cursor_need_stage(cursor *p)
{
    const token *t = cursor_need_name(p, "a stage");
    const stage_word *stage = stage_word_find(t->text);
    if (!stage) {
        const char *foreign = rgp_word_elsewhere(t->text);
        cursor_fail(p, t->at,
                    foreign ? foreign : report_suggest(p->tree->report, t->text, stage_name, NULL, stage_words_count),
                    "there is no stage '%s'", t->text);
    }
    return stage;
}

node *node_stage(cursor *p, const stage_word *stage, node *input)
{
    count_link(p);
    node *n = tree_node(p->tree, NODE_STAGE, p->at[-1].at);
    n->stage = stage;
    n->a = input;
    n->setting = arena_get(p->tree->arena, STAGE_SETTINGS_MAX * sizeof *n->setting);
    return n;
}
