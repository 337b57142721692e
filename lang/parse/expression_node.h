/* Nodes of expressions: made of parts that have been read, or of one word; none of these calls back into the grammar.
 */
#ifndef LANG_EXPRESSION_NODE_H
#define LANG_EXPRESSION_NODE_H

#include "cursor.h"

node *node_join(cursor *p, const char *word, node *a, node *b); /* by the operator of that word */
node *node_apply(cursor *p, const operator_word *word, text_range at, node *a);
node *node_negative(cursor *p, node *n); /* less than 0 by as much */

/* A condition that has lasted, moved or not come is the event of the moment when it has; anything else as it is. */
node *node_event(cursor *p, node *n);

node *node_detect(cursor *p, const char *word, text_range at, node *value);
void node_choose(cursor *p, node *n); /* the choice of a detector, whose word may come next */

/* Of the stage whose word has just been read. */
node *node_stage(cursor *p, const stage_word *stage, node *input);
const stage_word *cursor_need_stage(cursor *p);

/* The detector whose word comes next, and stands at such a place; NULL: none. */
const detector_word *cursor_take_detector(cursor *p, detector_place place);

/* "min(A, B), max(A, B), ...": all that takes values in brackets. */
const char *cursor_calls(const cursor *p);

#endif
