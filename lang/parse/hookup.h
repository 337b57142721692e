/* Functions that the readers of hook-ups share. What is wrong is reported and ends the line. */
#ifndef LANG_HOOKUP_H
#define LANG_HOOKUP_H

#include "cursor.h"

/* The terminal of that word; -1: none has it. */
int32_t hookup_find_terminal(const rgp_terminal *s, const token *word);

/* Take the next word: one of the terminals, a sensor or an actuator. `what` names it in a message. */
uint32_t hookup_need_terminal(cursor *p, const rgp_terminal *s, const char *what);
symbol *hookup_need_channel(cursor *p, symbol_kind kind, const char *what);

/* A unit out of the port's catalogue. */
unit hookup_catalog_unit(cursor *p, const char *text);

/* The unit of a quantity of a mechanism. One that is of none by itself takes the first that is written. */
const char *hookup_unit_of(cursor *p, const char *unit_text, rgp_mechanism_item *of);

/* The next quantity, as a number in that unit. */
double hookup_need_quantity(cursor *p, const char *unit_text, const char *what);

/* A setting of the table, and those that are joined to it; `of`: the mechanism, or NULL for a sensor. */
void hookup_parse_setting(cursor *p, const rgp_setting *table, const rgp_terminal *inputs, rgp_mechanism_item *of,
                          double *value);
void hookup_default_settings(const rgp_setting *table, double *value);

#endif
