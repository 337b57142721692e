/* Units of measure: what a number means, and what may be added to what. */
#ifndef LANG_UNITS_H
#define LANG_UNITS_H

#include "lang/text/arena.h"

#include "rigpulse/lang.h"

#define UNIT_BASES        9
#define UNIT_OWN_MAX      8
#define UNIT_POWERS       (UNIT_BASES + UNIT_OWN_MAX)
#define UNIT_DECLARED_MAX 32

/* base = number * scale + offset; the offset is that of a point on a temperature scale. */
typedef struct unit {
    const char *text;
    int8_t power[UNIT_POWERS];
    double scale, offset;
    bool point;
} unit;

typedef struct declared_unit {
    const char *name;
    unit is;
} declared_unit;

/* The units that the tables of the language name: those of units.def, which stand by themselves, and behind them those
 * that follow from what the setting belongs to. */
typedef enum unit_id {
    UNIT_ANY,  /* whatever is written */
    UNIT_NONE, /* a bare number */
#define UNIT(id, ...)  UNIT_##id,
#define POINT(id, ...) UNIT_##id,
#include "units.def"
#undef UNIT
#undef POINT
    UNIT_IN,                /* the input's; of a loop, that of what is measured */
    UNIT_IN_INTERVAL,       /* as an interval */
    UNIT_IN_PER_SECOND,     /* an interval a second */
    UNIT_OUT,               /* the output's; of a loop, the actuator's */
    UNIT_OUT_INTERVAL,      /* as an interval */
    UNIT_GAIN,              /* the output's by the input's */
    UNIT_GAIN_PER_SECOND,   /* of an integral term */
    UNIT_GAIN_TIMES_SECOND, /* of a derivative term */
    UNIT_PROCESS_GAIN       /* the input's by the output's */
} unit_id;

/* One of those that stand by themselves; of the others, none. */
unit unit_by_id(unit_id id);

/* "s", or "the input's unit". */
const char *unit_told(unit_id id);

/* The units a rig knows besides the built-in ones. */
typedef struct unit_set {
    rgp_arena *arena;
    declared_unit declared[UNIT_DECLARED_MAX];
    uint32_t count, own_bases;
} unit_set;

extern const unit unit_none, unit_seconds, unit_counts, unit_percent;

/* A single word: "cm", "°C", "s2" (a power behind it), or a declared one. */
bool unit_find(const unit_set *set, const char *word, unit *found);

/* A whole text: "m/s2", "ml/s", "" for none. */
bool unit_find_text(const unit_set *set, const char *text, unit *found);

/* "cm/s" from "cm" and "s"; sign -1 divides. Finds a known word for the result where there is one. */
unit unit_product(const unit_set *set, unit a, unit b, int sign);

/* "cm" from "cm2"; false: some power of it is odd. */
bool unit_root(const unit_set *set, unit u, unit *root);

bool unit_same_kind(unit a, unit b);
bool unit_is_bare(unit u);

/* The unit as a difference: a point loses its zero. */
unit unit_difference(unit u);

/* A number in one unit as a number in another of the same kind: to = number * gain + offset. */
void unit_conversion(unit from, unit to, double *gain, double *offset);
double unit_convert(double number, unit from, unit to);

/* "cm (a length)". */
const char *unit_describe(const unit_set *set, unit u);

/* All words, for suggestions and lists; NULL behind the last. */
const char *unit_word(const unit_set *set, uint32_t index);
bool unit_row(uint32_t index, rgp_word *word);

#endif
