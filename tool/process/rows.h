/* Rows of a loop out of a history: what is driven in each tick, and what is measured where it is new. */
#ifndef TOOL_PROCESS_ROWS_H
#define TOOL_PROCESS_ROWS_H

#include "subject.h"

#include "runtime/history.h"

/* From one row of a history to before another, into the subject. False, which has been said, when the history does not
 * hold what the loop measures and drives. */
bool rows_take(subject *s, const rgp_history *h, uint64_t from, uint64_t to);

#endif
