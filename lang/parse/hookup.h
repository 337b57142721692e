/* Functions that the readers of hook-ups share. What is wrong is reported and ends the line. */
#ifndef LANG_HOOKUP_H
#define LANG_HOOKUP_H

#include "cursor.h"

/* A hook-up that is being read, with the lists of its port. */
typedef struct hookup {
    tree *t;
    const rgp_catalog *catalog;
    unsigned char *tried; /* by a channel's place: it has a line, sound or not */
    rgp_mechanism_item *mechanism;
    rgp_sensor_item *sensor;
    rgp_actuator_item *actuator;
    rgp_disturbance_item *disturbance;
    unsigned mechanisms, mechanisms_room, sensors, sensors_room, actuators, actuators_room, disturbances,
        disturbances_room;
} hookup;

/* The sorts of lines, a file each; the cursor stands on the first word. */
void hookup_parse_mechanism(cursor *p, hookup *h, const rgp_mechanism_kind *kind);
void hookup_parse_sensor(cursor *p, hookup *h);
void hookup_parse_actuator(cursor *p, hookup *h);
void hookup_parse_disturbance(cursor *p, hookup *h);

/* Reports one line too many of a sort of which there are `count`. */
void hookup_need_room(cursor *p, uint32_t count);

/* Takes the name of a mechanism of this hook-up, and gives its place. */
uint32_t hookup_need_mechanism(cursor *p, const hookup *h);

/* The terminal of that word; -1: none has it. */
int32_t hookup_find_terminal(const rgp_terminal *s, const token *word);

/* Take the next word: one of the terminals, a sensor or an actuator. `what` names it in a message. */
uint32_t hookup_need_terminal(cursor *p, const rgp_terminal *s, const char *what);
symbol *hookup_need_channel(cursor *p, symbol_kind kind, const char *what);

/* A unit out of the port's catalogue. */
unit hookup_catalog_unit(cursor *p, const char *text);

/* The unit of a quantity of a mechanism. One that is of none by itself takes the first that is written. */
const char *hookup_unit_of(cursor *p, const char *unit_text, rgp_mechanism_item *of);

/* The next quantity, as a number in that unit; *where, if not NULL, is where it stands. */
double hookup_need_quantity(cursor *p, const char *unit_text, const char *what, rgp_written *where);

/* Takes a text in quotes. */
const char *hookup_need_text(cursor *p, const char *what);

/* A setting of the table, and those that are joined to it; `of`: the mechanism, or NULL for a channel. */
void hookup_parse_setting(cursor *p, const rgp_setting *table, const rgp_terminal *inputs, rgp_mechanism_item *of,
                          double *value, const char **text);
void hookup_default_settings(const rgp_setting *table, double *value);

#endif
