/* Functions that the parser's files share. Above each function that reads a rule of the grammar stands that rule: what
 * is written in quotes, other rules by their names, [] for what may be left out, {} for any number of times. */
#ifndef LANG_PARSE_H
#define LANG_PARSE_H

#include "cursor.h"

/* From the loosest to the tightest: conditions joined by 'or' and 'and'; a sum with the stages behind it; a sum. */
node *parse_condition(cursor *p);
node *parse_chain(cursor *p);
node *parse_sum(cursor *p);

/* A name that is declared here; what is wrong with it is reported. */
symbol *parse_new_symbol(cursor *p, symbol_kind kind, const token *name);

/* Names behind commas, up to the words "rest at" of an actuator. */
void parse_names(cursor *p, symbol *s);

/* An action; the cursor stands behind its first word. */
action parse_action(cursor *p, const token *first);

/* parse_channel.c */
void parse_rig(cursor *p);
void parse_tick(cursor *p);
void parse_unit(cursor *p);
void parse_sensor(cursor *p);
void parse_actuator(cursor *p);
void parse_param(cursor *p);
void parse_signal(cursor *p);
void parse_bands(cursor *p);

/* parse_rule.c */
void parse_on(cursor *p);
void parse_while(cursor *p);
void parse_never(cursor *p);
void parse_stop(cursor *p);
void parse_keep(cursor *p);
void parse_drive(cursor *p);
void parse_hookup(cursor *p);
void parse_body_line(cursor *p, rule *r);

/* parse_sequence.c: modes, cues, and sequences with the lines below them. */
void parse_mode(cursor *p);
void parse_cue(cursor *p);
void parse_sequence(cursor *p);
void parse_sequence_body(cursor *p, sequence *s);

/* parse_loop.c */
void parse_loop(cursor *p);
void parse_loop_body(cursor *p, loop *l);

/* stage_setting.c: of a stage whose settings are being read. The first is true when the word of another setting stands
 * behind a comma; the second is the setting whose word comes next, perhaps behind one, STAGE_SETTINGS_MAX: none. */
bool stage_setting_follows(const cursor *p, const node *n);
uint32_t stage_setting_next(const cursor *p, const node *n);
bool stage_setting_is_written(const stage_setting *is);

/* Fails on a word of the stage in the wrong place, and on one like it; returns for any other. */
void stage_refuse_word(cursor *p, const node *n, const token *word);
__attribute__((noreturn)) void stage_setting_missing(cursor *p, const node *n, const stage_setting *is);

/* A unit written behind the high end holds for a low end without one, which then ends there, too. */
void stage_range_unit(node *low, const node *high);

#endif
