/* What the parser's files share. */
#ifndef LANG_PARSE_H
#define LANG_PARSE_H

#include "cursor.h"

/* From the loosest to the tightest: conditions joined by 'or' and 'and'; a sum with the stages behind it; a sum. */
node *parse_condition(cursor *p);
node *parse_chain(cursor *p);
node *parse_negative(cursor *p, node *n); /* less than 0 by as much */
node *parse_sum(cursor *p);

/* A condition that tells a moment, as the event of that; anything else as it is. */
node *parse_as_event(cursor *p, node *n);

#endif
