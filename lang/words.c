#include "words.h"

#include "units.h"

#include "engine/ops.h"

#include <string.h>

#define AT(block, field) offsetof(rp_##block##_config, field)
#define GREAT            1e30

const stage_word stage_words[] = {
    {.word = "despike",
     .op = RP_OP_DESPIKE,
     .setting = {{NULL, "window", SETTING_ODD, "", 3, RP_DESPIKE_WINDOW_MAX, REQUIRED, AT(despike, window), {0}}},
     .form = "despike READINGS",
     .help = "the median of the last READINGS (odd, 3 to 31): single spikes leave no trace",
     .example = "signal depth = level | despike 5"},
    {.word = "smooth",
     .op = RP_OP_SMOOTH,
     .setting = {{NULL, "time constant", SETTING_NUMBER, "s", 1e-6, 1e6, REQUIRED, AT(smooth, time_constant), {0}}},
     .form = "smooth TIME",
     .help = "a first-order low pass; after TIME it has taken 63 % of a step",
     .example = "signal depth = level | smooth 200 ms"},
    {.word = "average",
     .op = RP_OP_AVERAGE,
     .setting = {{NULL, "window", SETTING_COUNT, "", 2, RP_AVERAGE_WINDOW_MAX, REQUIRED, AT(average, window), {0}}},
     .form = "average READINGS",
     .help = "the mean of the last READINGS (2 to 64)",
     .example = "signal calm = level | average 16"},
    {.word = "table",
     .op = RP_OP_TABLE,
     .result = RESULT_OF_SETTING,
     .setting = {{NULL, "points", SETTING_POINTS, UNIT_ANY, 2, RP_TABLE_POINTS_MAX, REQUIRED, AT(table, point), {0}},
                 {"extended", "extended", SETTING_FLAG, "", 0, 1, 0, AT(table, extended), {0}}},
     .form = "table IN: OUT, IN: OUT, ... [extended]",
     .help = "straight lines through 2 to 16 points; beyond the ends the end value stands, or with 'extended' the "
             "last line goes on",
     .example = "signal depth = level | table 312: 0 cm, 1890: 6 cm, 3020: 12 cm"},
    {.word = "line",
     .op = RP_OP_LINE,
     .result = RESULT_OF_SETTING,
     .result_of = 1,
     .setting = {{NULL, "gain", SETTING_NUMBER, UNIT_OUT_PER_IN, -GREAT, GREAT, REQUIRED, AT(line, gain), {0}},
                 {NULL, "offset", SETTING_NUMBER, UNIT_ANY, -GREAT, GREAT, REQUIRED, AT(line, offset), {0}}},
     .form = "line GAIN, OFFSET",
     .help = "a straight line: GAIN times the input, plus OFFSET",
     .example = "signal depth = level | line 0.0044 cm/counts, -1.4 cm"},
    {.word = "power",
     .op = RP_OP_POWER,
     .result = RESULT_OF_SETTING,
     .setting = {{NULL, "output", SETTING_NUMBER, UNIT_ANY, -GREAT, GREAT, REQUIRED, AT(power, at_one), {0}},
                 {"at", "input", SETTING_NUMBER, UNIT_IN, 1e-30, GREAT, REQUIRED, AT(power, one), {0}},
                 {"exponent", "exponent", SETTING_NUMBER, "", -20, 20, REQUIRED, AT(power, exponent), {0}}},
     .form = "power OUTPUT at INPUT, exponent E",
     .help = "a power law: OUTPUT times (the input / INPUT) to the power of E, as of a light-dependent resistor",
     .example = "signal light = level | power 10 lx at 2000 counts, exponent -1.4"},
    {.word = "divider",
     .op = RP_OP_DIVIDER,
     .result = RESULT_OF_SETTING,
     .input = "counts",
     .setting = {{NULL, "fixed resistor", SETTING_NUMBER, "ohm", 1e-6, 1e12, REQUIRED, AT(divider, fixed), {0}},
                 {NULL, "side", SETTING_CHOICE, "", 0, 1, REQUIRED, AT(divider, side), {"above", "below"}},
                 {"full", "full scale", SETTING_NUMBER, "", 1, 1e9, REQUIRED, AT(divider, full), {0}},
                 {"reference", "reference", SETTING_NUMBER, "V", 1e-3, 1e3, 1, AT(divider, reference), {0}},
                 {"supply", "supply", SETTING_NUMBER, "V", 1e-3, 1e3, 1, AT(divider, supply), {0}}},
     .form = "divider OHMS above|below, full COUNTS[, reference VOLTS, supply VOLTS]",
     .help = "the resistance of a sensor in a voltage divider whose fixed resistor sits above or below it; full: the "
             "counts at the reference voltage",
     .example = "signal sensor = level | divider 10 kohm above, full 4095"},
    {.word = "beta",
     .op = RP_OP_BETA,
     .result = RESULT_FIXED,
     .result_unit = "degC",
     .input = "ohm",
     .setting = {{NULL, "beta", SETTING_NUMBER, "K", 100, 20000, REQUIRED, AT(beta, beta), {0}},
                 {NULL, "resistance", SETTING_NUMBER, UNIT_IN, 1e-6, 1e12, REQUIRED, AT(beta, at), {0}},
                 {"at", "temperature", SETTING_NUMBER, "degC", -273, 1000, REQUIRED, AT(beta, celsius), {0}}},
     .form = "beta KELVIN, OHMS at TEMPERATURE",
     .help = "the temperature of a thermistor from its resistance, by its beta and one known point",
     .example = "signal warmth = level | divider 10 kohm above, full 4095 | beta 3950 K, 10 kohm at 25 °C"},
    {.word = "steinhart",
     .op = RP_OP_STEINHART,
     .result = RESULT_FIXED,
     .result_unit = "degC",
     .input = "ohm",
     .setting = {{NULL, "first coefficient", SETTING_NUMBER, "", -1, 1, REQUIRED, AT(steinhart, a), {0}},
                 {NULL, "second coefficient", SETTING_NUMBER, "", -1, 1, REQUIRED, AT(steinhart, b), {0}},
                 {NULL, "third coefficient", SETTING_NUMBER, "", -1, 1, REQUIRED, AT(steinhart, c), {0}},
                 {NULL, "ohms", SETTING_SCALE_IN, "ohm", 0, 0, 0, AT(steinhart, ohms), {0}}},
     .form = "steinhart A, B, C",
     .help = "the temperature of a thermistor by the equation of Steinhart and Hart (1968), for ohms and kelvin",
     .example = "signal warmth = level | divider 10 kohm above, full 4095 | steinhart 1.125e-3, 2.347e-4, 8.566e-8"},
    {.word = "echo",
     .op = RP_OP_ECHO,
     .result = RESULT_OF_SETTING,
     .result_of = 2,
     .input = "s",
     .setting = {{"at", "air temperature", SETTING_NUMBER, "degC", -100, 200, 20, AT(echo, celsius), {0}},
                 {"near", "near limit", SETTING_NUMBER, UNIT_OUT, 0, GREAT, 0, AT(echo, near), {0}},
                 {"far", "far limit", SETTING_NUMBER, "m", 1e-6, GREAT, REQUIRED, AT(echo, far), {0}},
                 {NULL, "seconds", SETTING_SCALE_IN, "s", 0, 0, 0, AT(echo, seconds), {0}},
                 {NULL, "metre", SETTING_SCALE_OUT, "m", 0, 0, 0, AT(echo, metre), {0}}},
     .form = "echo [at TEMPERATURE,] [near DISTANCE,] far DISTANCE",
     .help = "the distance from the time of flight of a sound there and back; no echo, or one outside the limits, is "
             "missing",
     .example = "signal distance = flight | echo at 15 °C, near 3 cm, far 400 cm"},
    {.word = "slope",
     .op = RP_OP_SLOPE,
     .result = RESULT_PER_SECOND,
     .setting = {{NULL, "time constant", SETTING_NUMBER, "s", 1e-6, 1e6, REQUIRED, AT(slope, time_constant), {0}}},
     .form = "slope TIME",
     .help = "how fast it changes, a second: the derivative behind a low pass of time constant TIME",
     .example = "signal rising = depth | slope 500 ms"},
    {.word = "accumulate",
     .op = RP_OP_ACCUMULATE,
     .result = RESULT_TIMES_SECOND,
     .setting = {{NULL, "gain", SETTING_SCALE_IN, UNIT_IN, 0, 0, 0, AT(accumulate, gain), {0}}},
     .form = "accumulate",
     .help = "a rate summed up over time, from 0; after a bad reading it stays bad until it is learned again",
     .example = "signal turned = turning | accumulate"},
    {.word = "unwrap",
     .op = RP_OP_UNWRAP,
     .setting = {{NULL, "turn", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(unwrap, turn), {0}}},
     .form = "unwrap TURN",
     .help = "an angle that jumps back after each TURN becomes one that goes on",
     .example = "signal bearing = vane | unwrap 360 deg"},
    {.word = "wrap",
     .op = RP_OP_WRAP,
     .setting = {{NULL, "turn", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(wrap, turn), {0}},
                 {"from", "low end", SETTING_NUMBER, UNIT_IN, -GREAT, GREAT, 0, AT(wrap, low), {0}}},
     .form = "wrap TURN [from LOW]",
     .help = "folds an angle that goes on into one turn, from LOW (0 if not said) up",
     .example = "signal heading = vane | wrap 360 deg from -180 deg"},
    {.word = "deadband",
     .op = RP_OP_DEADBAND,
     .setting = {{NULL, "width", SETTING_NUMBER, UNIT_IN_INTERVAL, 0, GREAT, REQUIRED, AT(deadband, width), {0}}},
     .form = "deadband WIDTH",
     .help = "0 within WIDTH of 0, and beyond it the distance from its edge",
     .example = "signal turn = turning | deadband 0.5 deg/s"},
    {.word = "limit",
     .op = RP_OP_CLAMP,
     .setting = {{NULL, "low limit", SETTING_NUMBER, UNIT_IN, -GREAT, GREAT, REQUIRED, AT(clamp, low), {0}},
                 {NULL, "high limit", SETTING_NUMBER, UNIT_IN, -GREAT, GREAT, REQUIRED, AT(clamp, high), {0}}},
     .form = "limit LOW, HIGH",
     .help = "kept within LOW and HIGH",
     .example = "signal shown = depth | limit 0 cm, 10 cm"},
    {.word = "hold",
     .op = RP_OP_HOLD,
     .setting = {{NULL, "time", SETTING_NUMBER, "s", 1e-6, 1e6, REQUIRED, AT(hold, time), {0}}},
     .form = "hold TIME",
     .help = "bridges bad readings: the last good value stands, as held, for at most TIME",
     .example = "signal steady = distance | hold 300 ms"},
    {.word = "zero",
     .op = RP_OP_ZERO,
     .setting = {{"over", "window", SETTING_NUMBER, "s", 1e-3, 1e5, REQUIRED, AT(zero, window), {0}},
                 {"spread", "spread", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(zero, spread), {0}},
                 {"drift", "drift", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(zero, drift), {0}},
                 {"warmup", "warm-up", SETTING_NUMBER, "s", 0, 1e5, 0, AT(zero, warmup), {0}},
                 {"tries", "tries", SETTING_COUNT, "", 1, 1000, 10, AT(zero, tries), {0}}},
     .form = "zero over TIME, spread S, drift D[, warmup TIME][, tries N]",
     .help = "learns what the sensor says at rest, and takes it off; it insists on a window in which the spread and "
             "the drift "
             "are small, and gives up after N of them (10)",
     .example = "signal turning = gyro | zero over 2 s, spread 20 counts, drift 8 counts, warmup 1 s"},
    {.word = "span",
     .op = RP_OP_SPAN,
     .result = RESULT_FIXED,
     .result_unit = "%",
     .setting =
         {{"over", "practice time", SETTING_NUMBER, "s", 1e-3, 1e5, REQUIRED, AT(span, time), {0}},
          {"least", "least span", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(span, least_span), {0}},
          {"falling", "falling", SETTING_FLAG, "", 0, 1, 0, AT(span, falling), {0}}},
     .form = "span over TIME, least SPAN[, falling]",
     .help =
         "learns the least and the greatest in a practice time, and maps them to 0 and 100 % ('falling': to 100 and 0)",
     .example = "signal lever = level | span over 10 s, least 200 counts"},
    {.word = "tilt",
     .op = RP_OP_TILT,
     .result = RESULT_FIXED,
     .result_unit = "deg",
     .setting = {{NULL, "angle", SETTING_CHOICE, "", 0, 1, REQUIRED, AT(tilt, which), {"roll", "pitch"}},
                 {"with", "y axis", SETTING_SIGNAL, UNIT_IN, 0, 0, REQUIRED, 0, {0}},
                 {NULL, "z axis", SETTING_SIGNAL, UNIT_IN, 0, 0, REQUIRED, 0, {0}}},
     .form = "tilt roll|pitch with Y, Z",
     .help = "the angle of a sensor of gravity whose x axis is the input; an axis that is mounted the other way round "
             "gets a minus",
     .example = "signal lean = ax | tilt roll with ay, az"},
    {.word = "fuse",
     .op = RP_OP_FUSE,
     .result = RESULT_TIMES_SECOND,
     .setting = {{"with", "angle", SETTING_SIGNAL, UNIT_OUT, 0, 0, REQUIRED, 0, {0}},
                 {"over", "time constant", SETTING_NUMBER, "s", 1e-6, 1e6, REQUIRED, AT(fuse, time_constant), {0}},
                 {NULL, "gain", SETTING_SCALE_IN, UNIT_IN, 0, 0, 0, AT(fuse, gain), {0}}},
     .form = "fuse with ANGLE, over TIME",
     .help = "an angle from a turning rate that is believed for less than TIME and the tilt that is believed for more",
     .example = "signal angle = turning | fuse with lean, over 2 s"},
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
    {"for", RP_OP_LASTS, "COND for TIME",
     "true once it has been true for TIME without a break; in 'on' the event of that moment", "on tide is low for 3 s"},
    {"in", RP_OP_LINE, "A in UNIT", "the same quantity in another unit", "signal mm_deep = depth in mm"},
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
    [STATEMENT_ACTUATOR] =
        {"actuator",
         "actuator NAME percent LOW..HIGH, rest at VALUE[, least VALUE][, slew RATE][, longest TIME] | "
         "actuator NAME switch, rest at off[, longest TIME]",
         "a channel that is driven, its travel, its value when nobody asks for it; the least power "
         "that moves it, to which what is not 0 is raised; its fastest change; and how long it may be "
         "away from rest",
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
    [STATEMENT_NEVER] =
        {"never",
         "never ACTUATOR above|below VALUE while CONDITION | never SWITCH on|off while CONDITION | "
         "never anything while CONDITION",
         "a guard: whatever else is asked, also by hand; a condition that cannot be known counts as true",
         "never pump above 0 while tide is high"},
    [STATEMENT_DRIVE] =
        {"drive", "drive ACTUATOR = EXPRESSION",
         "a continuous drive: the actuator follows a value in percent, a switch a condition; while that "
         "cannot be trusted it drives nothing",
         "drive pump = (5 cm - depth) * 20 %/cm"},
    [STATEMENT_HOOKUP] = {"hookup", "hookup sim", "what the names are connected to on a port", "hookup sim"},
};

static const rp_word action_words[] = {
    {"action", "ACTUATOR", "ACTUATOR VALUE", "sets the actuator, until another set", "lamp on"},
    {"action", "for", "ACTUATOR VALUE for TIME[, priority N]",
     "drives the actuator for a stated time and gives it back; of two on one actuator the greater priority "
     "goes over the lesser",
     "pump 80 % for 2 s"},
    {"action", "toggle", "toggle SWITCH", "a plain set to the other of its two values", "toggle lamp"},
    {"action", "more", "ACTUATOR AMOUNT more|less",
     "a plain set so much above or below what the last one has set, within the travel", "pump 10 % more"},
    {"action", "PARAM", "PARAM VALUE", "changes a parameter, within its range, from the next tick on", "shallow 4 cm"},
    {"action", "mark", "mark TEXT", "puts a mark into the recording", "mark \"full\""},
    {"action", "relearn", "relearn SIGNAL",
     "what the 'zero', 'span' or 'accumulate' in the signal's line has learned is forgotten: it begins anew",
     "relearn turned"},
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
