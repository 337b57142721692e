/* Functions that the checker's files share. */
#ifndef LANG_CHECK_H
#define LANG_CHECK_H

#include "lang/parse/tree.h"

/* "cm (a length)", "a condition": what a node is, in a message. */
const char *check_describe(tree *t, const node *n);

bool check_is_unknown(const node *n);

/* Gives a node and all its parts their types. What it names has been checked. */
void check_node(tree *t, node *n);
void check_stage(tree *t, node *n); /* of a stage whose parts have been checked */

/* check_arithmetic.c: of parts that have been checked. The first reports sides of two kinds, and is false. */
bool check_bad_pair(tree *t, const node *n);
void check_sum(tree *t, node *n);
void check_arithmetic(tree *t, node *n);
void check_apply(tree *t, node *n);

/* In the order of names. */
void check_symbol(tree *t, symbol *s);
void check_rule(tree *t, rule *r);
void check_action(tree *t, action *a);
void check_sequence(tree *t, sequence *s);
void check_states(tree *t); /* when all of them have been looked at */
void check_deliveries(tree *t);
void check_uses(tree *t); /* names that nothing makes use of, sets that nothing ends */
void check_paces(tree *t, const rgp_hookup *h);
/* A condition; anything else is reported as what `word` does not take. */
void check_truth(tree *t, node *n, const char *word);

void check_duration(tree *t, node *n, const char *what, double low, bool warns);
void check_guard(tree *t, guard *g);
void check_stall(tree *t, stall *s);
void check_stop(tree *t, stop *s);
void check_keep(tree *t, keep *k);
void check_drive(tree *t, follow *f);
void check_loop(tree *t, loop *l);
void check_term(tree *t, node *n); /* of a loop */

/* True for a number; anything else that is known is reported. */
bool check_need_number(tree *t, const node *n);

/* A number in another unit of its kind; a signal behind a conversion. */
node *check_convert_to(tree *t, node *n, unit to);

/* A bare number beside counts counts them; a bare 0 is 0 of anything. */
void check_adopt_bare(node *n, unit to);

/* A value that must stand fast, or be a parameter, and go together with `wanted`. `interval`: of two points on a
 * temperature scale only the distance counts. False when it has been reported, and when there is none. */
bool check_fixed(tree *t, node *n, unit wanted, bool interval, const char *what);
bool check_is_fixed(tree *t, node *n, unit wanted, bool interval,
                    const char *what); /* of a node that has been checked */

/* The same, but no parameter; its number in `wanted`. */
bool check_fixed_number(tree *t, node *n, unit wanted, const char *what, double *value);
bool check_is_fixed_number(tree *t, node *n, unit wanted, const char *what, double *value);

/* The least, and the greatest, that a fixed value can become, in `wanted`. */
double check_least_of(const node *n, unit wanted);
double check_greatest_of(const node *n, unit wanted);

/* Holds all that a fixed value can become against a range in `wanted`. */
bool check_within(tree *t, const node *n, unit wanted, number_limits limits, const char *what);

/* Holds a time constant against what a filter's state of two floats can still follow: ticks. */
#define CHECK_TICKS_MOST 1e8
bool check_reachable(tree *t, const node *n, const char *what);

/* The way a number goes with the only sensor that it is made of: 1 when it rises with it, -1 when it falls, and 0 when
 * that is not known. *sensor is set unless it is 0. */
int lang_way(const node *n, const symbol **sensor);

/* "percent", "deg": what an actuator is driven in, in a message. */
const char *check_drive_unit(const symbol *actuator);

/* A value for an actuator: "on" of a switch becomes its number. `fixed`: it must be a number. */
bool check_drive_value(tree *t, const symbol *actuator, node *n, bool fixed);

#endif
