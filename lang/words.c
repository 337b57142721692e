#include "words.h"

#include "units.h"

#include "engine/ops.h"

#include <string.h>

const stage_word stage_words[] = {
    {"despike",
     RP_OP_DESPIKE,
     RESULT_SAME,
     1,
     {{NULL, "window", SETTING_ODD, 3, RP_DESPIKE_WINDOW_MAX, offsetof(rp_despike_config, window)}},
     "despike READINGS",
     "the median of the last READINGS (odd, 3 to 31): single spikes leave no trace",
     "signal depth = level | despike 5"},
    {"smooth",
     RP_OP_SMOOTH,
     RESULT_SAME,
     1,
     {{NULL, "time constant", SETTING_TIME, 1e-6, 1e6, offsetof(rp_smooth_config, time_constant)}},
     "smooth TIME",
     "a first-order low pass; after TIME it has taken 63 % of a step",
     "signal depth = level | smooth 200 ms"},
    {"table",
     RP_OP_TABLE,
     RESULT_OF_POINTS,
     2,
     {{NULL, "points", SETTING_POINTS, 2, RP_TABLE_POINTS_MAX, offsetof(rp_table_config, point)},
      {"extended", "extended", SETTING_FLAG, 0, 1, offsetof(rp_table_config, extended)}},
     "table IN: OUT, IN: OUT, ... [extended]",
     "straight lines through 2 to 16 points; beyond the ends the end value stands, or with 'extended' the "
     "last line goes on",
     "signal depth = level | table 312: 0 cm, 1890: 6 cm, 3020: 12 cm"},
};

const uint32_t stage_words_count = sizeof stage_words / sizeof *stage_words;

const operator_word operator_words[] = {
    {"+", RP_OP_ADD, "A + B", "sum; both sides in units of one kind", "signal both = left + right"},
    {"-", RP_OP_SUBTRACT, "A - B", "difference; two temperatures give an interval", "signal lean = left - right"},
    {"*", RP_OP_MULTIPLY, "A * B", "product; units multiply", "signal power = left * 2"},
    {"/", RP_OP_DIVIDE, "A / B", "quotient; units divide; by 0 it is out of range", "signal half = left / 2"},
    {"min", RP_OP_LEAST, "min(A, B)", "the lesser of two", "signal lower = min(left, right)"},
    {"max", RP_OP_GREATEST, "max(A, B)", "the greater of two", "signal upper = max(left, right)"},
    {"and", RP_OP_BOTH, "COND and COND", "both are true", "while tide is low and lamp is off"},
    {"or", RP_OP_ANY, "COND or COND", "at least one is true", "while tide is low or lamp is on"},
    {"below", RP_OP_COMPARE, "A below LIMIT[, margin M]", "true under LIMIT, false again only from LIMIT + M",
     "while depth below 3 cm, margin 0.4 cm"},
    {"above", RP_OP_COMPARE, "A above LIMIT[, margin M]", "true over LIMIT, false again only at LIMIT - M",
     "while depth above 9 cm, margin 0.4 cm"},
    {"is", RP_OP_EQUALS, "BANDS is [not] NAME", "in that band; also a switch that is on or off", "while tide is low"},
    {"becomes", RP_OP_EDGE, "BANDS becomes NAME",
     "an event: the band was just entered; also 'depth becomes below 3 cm'", "on tide becomes high"},
    {"leaves", RP_OP_EDGE, "BANDS leaves NAME", "an event: the band was just left", "on tide leaves low"},
    {"in", RP_OP_SCALE, "A in UNIT", "the same quantity in another unit", "signal mm_deep = depth in mm"},
    {"bands", RP_OP_BANDS, "bands NAME = A: ...", "see the statement", "bands tide = depth: low below 3 cm, high"},
};

const uint32_t operator_words_count = sizeof operator_words / sizeof *operator_words;

const statement_word statement_words[STATEMENTS] = {
    [STATEMENT_RIG] = {"rig", "rig NAME", "names the rig; the first statement of the file", "rig basin"},
    [STATEMENT_TICK] = {"tick", "tick TIME", "how often everything is read, decided and driven", "tick 20 ms"},
    [STATEMENT_UNIT] = {"unit", "unit NAME [= QUANTITY]",
                        "declares a unit of one's own: a multiple of a known one, or a new kind",
                        "unit knot = 0.5144 m/s"},
    [STATEMENT_SENSOR] = {"sensor", "sensor NAME UNIT LOW..HIGH | sensor NAME switch",
                          "a channel that is read, with the range its raw numbers can have",
                          "sensor level counts 0..4095"},
    [STATEMENT_ACTUATOR] = {"actuator",
                            "actuator NAME percent LOW..HIGH, rest at VALUE | actuator NAME switch, rest at off",
                            "a channel that is driven, its travel, and its value when nobody asks for it",
                            "actuator pump percent 0..100, rest at 0"},
    [STATEMENT_PARAM] = {"param", "param NAME = QUANTITY in LOW..HIGH",
                         "a value that may be changed while the rig runs, within its range",
                         "param shallow = 3 cm in 1..6 cm"},
    [STATEMENT_SIGNAL] = {"signal", "signal NAME = EXPRESSION",
                          "a computed quantity: arithmetic on sensors, signals and parameters, and stages after '|'",
                          "signal depth = level | despike 5"},
    [STATEMENT_BANDS] = {"bands", "bands NAME = SIGNAL: NAME below LIMIT, NAME, NAME above LIMIT; margin M",
                         "names for neighbouring stretches of a quantity, from low to high or from high to low",
                         "bands tide = depth: low below 3 cm, mid, high above 9 cm; margin 0.4 cm"},
    [STATEMENT_ON] = {"on", "on EVENT [and CONDITION]",
                      "a rule that fires once, at the moment; 'on start' fires at the first tick",
                      "on tide becomes high"},
    [STATEMENT_WHILE] = {"while", "while CONDITION",
                         "a rule that fires when the condition is true, and again after each holdoff as long as it is",
                         "while tide is low"},
    [STATEMENT_HOOKUP] = {"hookup", "hookup sim", "what the names are connected to on a port", "hookup sim"},
};

static const rp_word action_words[] = {
    {"action", "ACTUATOR", "ACTUATOR VALUE", "sets the actuator, until another set", "lamp on"},
    {"action", "for", "ACTUATOR VALUE for TIME[, priority N]",
     "drives the actuator for a stated time and gives it back; of two on one actuator the greater priority "
     "goes over the lesser",
     "pump 80 % for 2 s"},
    {"action", "mark", "mark TEXT", "puts a mark into the recording", "mark \"full\""},
    {"action", "holdoff", "holdoff TIME",
     "the rule does not fire again until so long after the end of its last timed action", "holdoff 10 s"},
};

const stage_word *stage_word_find(const char *word)
{
    for (uint32_t i = 0; i < stage_words_count; i++) {
        if (strcmp(stage_words[i].word, word) == 0) {
            return &stage_words[i];
        }
    }
    return NULL;
}

const operator_word *operator_word_find(const char *word)
{
    for (uint32_t i = 0; i < operator_words_count; i++) {
        if (strcmp(operator_words[i].word, word) == 0) {
            return &operator_words[i];
        }
    }
    return NULL;
}

bool rp_word_at(uint32_t index, rp_word *word)
{
    if (index < STATEMENTS) {
        const statement_word *s = &statement_words[index];
        *word = (rp_word){"statement", s->word, s->form, s->help, s->example};
        return true;
    }
    index -= STATEMENTS;
    if (index < stage_words_count) {
        const stage_word *s = &stage_words[index];
        *word = (rp_word){"stage", s->word, s->form, s->help, s->example};
        return true;
    }
    index -= stage_words_count;
    if (index < operator_words_count) {
        const operator_word *o = &operator_words[index];
        *word = (rp_word){"operator", o->word, o->form, o->help, o->example};
        return true;
    }
    index -= operator_words_count;
    if (index < sizeof action_words / sizeof *action_words) {
        *word = action_words[index];
        return true;
    }
    return unit_row(index - (uint32_t)(sizeof action_words / sizeof *action_words), word);
}
