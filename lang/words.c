#include "words.h"

#include "units.h"

#include "image/ops.h"

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
                 {"clamped", "clamped", SETTING_KIND, "", RP_TABLE_CLAMPED, 0, 0, AT(table, beyond), {0}},
                 {"extended", "extended", SETTING_KIND, "", RP_TABLE_EXTENDED, 0, 0, AT(table, beyond), {0}},
                 {"strict", "strict", SETTING_KIND, "", RP_TABLE_STRICT, 0, 0, AT(table, beyond), {0}}},
     .form = "table IN: OUT, IN: OUT, ... [clamped|extended|strict]",
     .help =
         "straight lines through 2 to 16 points; beyond the ends the end value stands ('clamped', also when nothing "
         "is said), the last line goes on ('extended'), or the reading is out of range when it is farther off than "
         "2 % of the points' span ('strict')",
     .example = "signal depth = level | table 312: 0 cm, 1890: 6 cm, 3020: 12 cm, clamped"},
    {.word = "line",
     .op = RP_OP_LINE,
     .result = RESULT_OF_SETTING,
     .result_of = 1,
     .setting = {{NULL, "gain", SETTING_NUMBER, UNIT_OUT_PER_IN, -GREAT, GREAT, REQUIRED, AT(line, gain), {0}},
                 {NULL, "offset", SETTING_NUMBER, UNIT_ANY, -GREAT, GREAT, REQUIRED, AT(line, offset), {0}},
                 {"within", "low end", SETTING_FROM, UNIT_OUT, -GREAT, GREAT, 0, AT(line, low), {0}},
                 {NULL, "high end", SETTING_UPTO, UNIT_OUT, -GREAT, GREAT, 0, AT(line, high), {0}}},
     .form = "line GAIN, OFFSET [within LOW..HIGH]",
     .help =
         "a straight line: GAIN times the input, plus OFFSET; a result farther beyond LOW or HIGH than 2 % of the way "
         "between them is out of range",
     .example = "signal depth = level | line 0.0044 cm/counts, -1.4 cm, within 0..12 cm"},
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
     .setting = {{NULL, "turn", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(unwrap, turn), {0}},
                 {"anyway", "anyway", SETTING_FLAG, "", 0, 1, 0, AT(unwrap, anyway), {0}}},
     .form = "unwrap TURN[, anyway]",
     .help =
         "an angle that jumps back after each TURN becomes one that goes on; after a gap in which it may have turned "
         "by "
         "half of that (by the sensor's 'jump', else more than three readings) it is bad until it is learned again, or "
         "with 'anyway' goes on, as held",
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
    {.word = "take",
     .op = RP_OP_TAKE,
     .setting = {{"while", "condition", SETTING_CONDITION, "", 0, 0, REQUIRED, 0, {0}}},
     .form = "take while CONDITION",
     .help = "takes readings only while the condition is true; else the last one stands, as held",
     .example = "signal seen = distance | take while arm still for 300 ms"},
    {.word = "approach",
     .op = RP_OP_APPROACH,
     .result = RESULT_FIXED,
     .result_unit = "%",
     .setting =
         {{NULL, "target", SETTING_VALUE, UNIT_IN, -GREAT, GREAT, REQUIRED, 0, {0}},
          {"slowing", "slowing", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(approach, slowing), {0}},
          {"within", "tolerance", SETTING_NUMBER, UNIT_IN_INTERVAL, 0, GREAT, 0, AT(approach, within), {0}},
          {"turn", "turn", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, 0, AT(approach, turn), {0}}},
     .form = "approach TARGET, slowing DISTANCE[, within DISTANCE][, turn TURN]",
     .help =
         "the power, in percent, that brings what is measured to TARGET: full, then less and less within 'slowing', "
         "none 'within' it; of what goes round the nearer way",
     .example = "drive span = place | approach goal, slowing 20 mm, within 1 mm"},
    {.word = "nearest",
     .op = RP_OP_SCAN,
     .result = RESULT_OF_SETTING,
     .setting = {{"along", "place", SETTING_SIGNAL, UNIT_ANY, 0, 0, REQUIRED, 0, {0}},
                 {"within", "band", SETTING_NUMBER, UNIT_IN_INTERVAL, 0, GREAT, REQUIRED, AT(scan, within), {0}},
                 {"after", "passes to leave out", SETTING_COUNT, "", 0, 100, 0, AT(scan, skip), {0}},
                 {NULL, "which", SETTING_FIXED, "", 0, 0, 0, AT(scan, strongest), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_SCAN_PLACE, AT(scan, give), {0}}},
     .form = "nearest along PLACE, within BAND[, after N]",
     .help = "of a sensor that is swept to and fro: the place where it read least in its last pass, the middle of the "
             "stretch that stays within BAND of that; the first N passes do not count",
     .example = "signal boat_at = distance | nearest along arm, within 5 cm"},
    {.word = "strongest",
     .op = RP_OP_SCAN,
     .result = RESULT_OF_SETTING,
     .setting = {{"along", "place", SETTING_SIGNAL, UNIT_ANY, 0, 0, REQUIRED, 0, {0}},
                 {"within", "band", SETTING_NUMBER, UNIT_IN_INTERVAL, 0, GREAT, REQUIRED, AT(scan, within), {0}},
                 {"after", "passes to leave out", SETTING_COUNT, "", 0, 100, 0, AT(scan, skip), {0}},
                 {NULL, "which", SETTING_FIXED, "", 0, 0, 1, AT(scan, strongest), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_SCAN_PLACE, AT(scan, give), {0}}},
     .form = "strongest along PLACE, within BAND[, after N]",
     .help = "the same, where it read most",
     .example = "signal light_at = level | strongest along arm, within 50 counts"},
    {.word = "breadth",
     .op = RP_OP_SCAN,
     .result = RESULT_OF_SETTING,
     .setting = {{"along", "place", SETTING_SIGNAL, UNIT_ANY, 0, 0, REQUIRED, 0, {0}},
                 {"within", "band", SETTING_NUMBER, UNIT_IN_INTERVAL, 0, GREAT, REQUIRED, AT(scan, within), {0}},
                 {"after", "passes to leave out", SETTING_COUNT, "", 0, 100, 0, AT(scan, skip), {0}},
                 {NULL, "which", SETTING_FIXED, "", 0, 0, 0, AT(scan, strongest), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_SCAN_EXTENT, AT(scan, give), {0}}},
     .form = "breadth along PLACE, within BAND[, after N]",
     .help = "how broad that stretch of the nearest is",
     .example = "signal boat_width = distance | breadth along arm, within 5 cm"},
    {.word = "closest",
     .op = RP_OP_SCAN,
     .setting = {{"along", "place", SETTING_SIGNAL, UNIT_ANY, 0, 0, REQUIRED, 0, {0}},
                 {"within", "band", SETTING_NUMBER, UNIT_IN_INTERVAL, 0, GREAT, REQUIRED, AT(scan, within), {0}},
                 {"after", "passes to leave out", SETTING_COUNT, "", 0, 100, 0, AT(scan, skip), {0}},
                 {NULL, "which", SETTING_FIXED, "", 0, 0, 0, AT(scan, strongest), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_SCAN_VALUE, AT(scan, give), {0}}},
     .form = "closest along PLACE, within BAND[, after N]",
     .help = "what it read there",
     .example = "signal boat_off = distance | closest along arm, within 5 cm"},
    {.word = "reach",
     .op = RP_OP_SWING,
     .result = RESULT_DIFFERENCE,
     .setting = {{NULL, "least swing", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(swing, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_SWING_REACH, AT(swing, what), {0}}},
     .form = "reach LEAST",
     .help = "how far a swing goes to either side: half the way between its last two turning points; what is smaller "
             "than LEAST is no swing",
     .example = "signal far = depth | reach 2 mm"},
    {.word = "decay",
     .op = RP_OP_SWING,
     .result = RESULT_FIXED,
     .result_unit = "%",
     .setting = {{NULL, "least swing", SETTING_NUMBER, UNIT_IN_INTERVAL, 1e-30, GREAT, REQUIRED, AT(swing, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_SWING_LEFT, AT(swing, what), {0}}},
     .form = "decay LEAST",
     .help = "the decay ratio of a swing: how much of its reach it still has after one whole swing",
     .example = "signal left_over = depth | decay 2 mm"},
    {.word = "width",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "s",
     .input = INPUT_SWITCH,
     .setting = {{"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_WIDTH, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "every", SETTING_FIXED, "", 0, 0, 1, AT(gauge, every), {0}},
                 {NULL, "window", SETTING_FIXED_FLOAT, "s", 0, 0, 1, AT(gauge, window), {0}}},
     .form = "width [least TIME]",
     .help = "how long a switch was on the last time; what is shorter than the least is none",
     .example = "signal passing = gate | width least 2 ms"},
    {.word = "gap",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "s",
     .input = INPUT_SWITCH,
     .setting = {{"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_GAP, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "every", SETTING_FIXED, "", 0, 0, 1, AT(gauge, every), {0}},
                 {NULL, "window", SETTING_FIXED_FLOAT, "s", 0, 0, 1, AT(gauge, window), {0}}},
     .form = "gap [least TIME]",
     .help = "how long it was off before it went on the last time",
     .example = "signal pause = gate | gap"},
    {.word = "interval",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "s",
     .input = INPUT_EVENT,
     .setting = {{"every", "number", SETTING_COUNT, "", 1, 1000, 1, AT(gauge, every), {0}},
                 {"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_INTERVAL, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "window", SETTING_FIXED_FLOAT, "s", 0, 0, 1, AT(gauge, window), {0}}},
     .form = "interval [every N] [least TIME]",
     .help = "from one time that it went on, or that an event came, to the next, or to the Nth after it: 'every 2' is "
             "the period of a swing through a gate",
     .example = "signal period = gate | interval every 2"},
    {.word = "rate",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "Hz",
     .input = INPUT_EVENT,
     .setting = {{"over", "window", SETTING_NUMBER, "s", 1e-6, 1e6, REQUIRED, AT(gauge, window), {0}},
                 {"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_RATE, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "every", SETTING_FIXED, "", 0, 0, 1, AT(gauge, every), {0}}},
     .form = "rate over TIME [least TIME]",
     .help = "how often a second, from the last interval, and less when the next one is late; 0 after TIME without any",
     .example = "signal pace = gate | rate over 5 s"},
    {.word = "count",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "counts",
     .input = INPUT_EVENT,
     .setting = {{"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_COUNT, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "every", SETTING_FIXED, "", 0, 0, 1, AT(gauge, every), {0}},
                 {NULL, "window", SETTING_FIXED_FLOAT, "s", 0, 0, 1, AT(gauge, window), {0}}},
     .form = "count [least TIME]",
     .help = "how often it went on, or came, since the start or since 'relearn'",
     .example = "signal boats = gate | count least 20 ms"},
    {.word = "duty",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "%",
     .input = INPUT_SWITCH,
     .setting = {{"over", "window", SETTING_NUMBER, "s", 1e-6, 1e6, REQUIRED, AT(gauge, window), {0}},
                 {"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_DUTY, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "every", SETTING_FIXED, "", 0, 0, 1, AT(gauge, every), {0}}},
     .form = "duty over TIME [least TIME]",
     .help = "the share of the last whole TIME in which it was on",
     .example = "signal busy = gate | duty over 60 s"},
    {.word = "uneven",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "s",
     .input = INPUT_SWITCH,
     .setting = {{"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_UNEVEN, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "every", SETTING_FIXED, "", 0, 0, 1, AT(gauge, every), {0}},
                 {NULL, "window", SETTING_FIXED_FLOAT, "s", 0, 0, 1, AT(gauge, window), {0}}},
     .form = "uneven [least TIME]",
     .help =
         "of a swing through a gate: how much longer one half of it takes than the other, from mid-time to mid-time",
     .example = "signal limp = gate | uneven"},
    {.word = "offcentre",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "%",
     .input = INPUT_SWITCH,
     .setting = {{"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_OFFCENTRE, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "every", SETTING_FIXED, "", 0, 0, 1, AT(gauge, every), {0}},
                 {NULL, "window", SETTING_FIXED_FLOAT, "s", 0, 0, 1, AT(gauge, window), {0}}},
     .form = "offcentre [least TIME]",
     .help = "of a swing through a gate: how far from its middle the gate stands, as a share of its reach",
     .example = "signal misplaced = gate | offcentre"},
    {.word = "since",
     .op = RP_OP_GAUGE,
     .result = RESULT_FIXED,
     .result_unit = "s",
     .input = INPUT_EVENT,
     .setting = {{"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(gauge, least), {0}},
                 {NULL, "what", SETTING_FIXED, "", 0, 0, RP_GAUGE_SINCE, AT(gauge, what), {0}},
                 {NULL, "event", SETTING_IS_EVENT, "", 0, 0, 0, AT(gauge, event), {0}},
                 {NULL, "every", SETTING_FIXED, "", 0, 0, 1, AT(gauge, every), {0}},
                 {NULL, "window", SETTING_FIXED_FLOAT, "s", 0, 0, 1, AT(gauge, window), {0}}},
     .form = "since [least TIME]",
     .help = "how long ago it went on, or came, the last time",
     .example = "signal waiting = gate | since"},
    {.word = "lag",
     .op = RP_OP_LAG,
     .result = RESULT_FIXED,
     .result_unit = "s",
     .input = INPUT_SWITCH,
     .setting = {{"from", "other gate", SETTING_SWITCH, "", 0, 0, REQUIRED, 0, {0}},
                 {"within", "longest lag", SETTING_NUMBER, "s", 1e-6, 1e6, REQUIRED, AT(lag, within), {0}},
                 {"least", "least time", SETTING_NUMBER, "s", 0, 1e6, 0, AT(lag, least), {0}}},
     .form = "lag from GATE, within TIME[, least TIME]",
     .help =
         "how long after the other gate something came to this one, from mid-time to mid-time; below 0 when it came "
         "the other way; who does not come within TIME is forgotten; what is shorter than the least TIME counts "
         "neither "
         "as a passage nor as a gap in one; with more than 16 under way it is bad until none is",
     .example = "signal passage = far_gate | lag from gate, within 10 s"},
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
    {"goes", RP_OP_EDGE, "BANDS goes NAME",
     "an event: the band was just entered; of a quantity 'depth goes below 3 cm', of a switch 'gate goes on'",
     "on tide goes high"},
    {"leaves", RP_OP_EDGE, "BANDS leaves NAME", "an event: the band was just left", "on tide leaves low"},
    {"for", RP_OP_LASTS, "COND for TIME",
     "true once it has been true for TIME without a break; in 'on' the event of that moment", "on tide is low for 3 s"},
    {"changes", RP_OP_CHANGED, "BANDS changes", "an event: another band was just entered, or a switch was switched",
     "on tide changes"},
    {"moved", RP_OP_MOVED, "A moved AMOUNT over TIME[, margin M]",
     "true while it is away, either way, by more than AMOUNT from its own slow baseline; in 'on' the event of that "
     "moment",
     "on depth moved 5 mm over 10 s"},
    {"turns", RP_OP_TURN, "A turns [up|down] by LEAST",
     "an event: a turning point, told when it has come back by LEAST, with the moment at which it was",
     "on depth turns down by 2 mm"},
    {"still", RP_OP_STILL, "A still for TIME[ within X]",
     "true once it has stayed where it is, give or take X, for TIME; in 'on' the event of that moment",
     "on depth still for 5 s within 1 mm"},
    {"start", RP_OP_ONCE, "start", "the event of the first tick", "on start or tide goes low"},
    {"every", RP_OP_EVERY, "every TIME", "an event each TIME, the first a TIME after the start", "on every 10 s"},
    {"after", RP_OP_AFTER, "TIME after EVENT",
     "an event so long after another one; if that comes again meanwhile the time begins anew",
     "on 3 s after gate goes on"},
    {"times", RP_OP_TIMES, "N times EVENT within TIME",
     "an event when another one has come N times (2 to 16) within TIME; then the counting begins anew",
     "on 3 times gate goes on within 10 s"},
    {"no", RP_OP_ABSENT, "no EVENT for TIME",
     "true when an event has not come for TIME; in 'on' the event of that moment", "on no gate goes on for 30 s"},
    {"driven", RP_OP_EQUALS, "ACTUATOR is driven", "it is away from its rest value, as written in the last tick",
     "drive relay = pump is driven"},
    {"running", RP_OP_EQUALS, "SEQUENCE is running|idle", "whether a sequence is at one of its steps",
     "while signal_boat is running"},
    {"known", RP_OP_KNOWN, "A is known", "whether it can be used: neither bad, nor missing, nor still to be learned",
     "while depth is known"},
    {"settled", RP_OP_STILL, "ACTUATOR is settled",
     "what is written to it has not changed for the settle time of its line", "while arm is settled"},
    {"in", RP_OP_LINE, "A in UNIT", "the same quantity in another unit", "signal mm_deep = depth in mm"},
    {"bands", RP_OP_BANDS, "bands NAME = A: ...", "see the statement", "bands tide = depth: low below 3 cm, high"},
};

const uint32_t operator_words_count = sizeof operator_words / sizeof *operator_words;

#define SECONDS(name, type, field) name, "s", 1e-6, (double)RP_CLOCKWORK_TIME_MAX, (uint16_t)offsetof(type, field)

const detector_word detector_words[] = {
    {.word = "moved",
     .op = RP_OP_MOVED,
     .input = DETECTS_NUMBER,
     .setting = {{"the amount", UNIT_IN_INTERVAL, 1e-30, GREAT, AT(moved, amount)},
                 {"the baseline's time", "s", 1e-6, 1e6, AT(moved, time_constant)},
                 {"the margin", UNIT_IN_INTERVAL, 0, GREAT, AT(moved, margin)}}},
    {.word = "turns",
     .op = RP_OP_TURN,
     .input = DETECTS_NUMBER,
     .gives_event = true,
     .setting = {{"the least swing", UNIT_IN_INTERVAL, 1e-30, GREAT, AT(turn, least)}},
     .has_which = true,
     .which_offset = AT(turn, which)},
    {.word = "changes", .op = RP_OP_CHANGED, .input = DETECTS_NAMED, .gives_event = true},
    {.word = "still",
     .op = RP_OP_STILL,
     .input = DETECTS_NUMBER,
     .setting = {{"the time", "s", 1e-6, (double)RP_STILL_TIME_MAX, AT(still, time)},
                 {"how much it may move", UNIT_IN_INTERVAL, 0, GREAT, AT(still, within)}}},
    {.word = "every",
     .op = RP_OP_EVERY,
     .gives_event = true,
     .setting = {{SECONDS("the period", rp_every_config, period)}}},
    {.word = "after",
     .op = RP_OP_AFTER,
     .input = DETECTS_EVENT,
     .gives_event = true,
     .setting = {{SECONDS("the time", rp_after_config, time)}}},
    {.word = "times",
     .op = RP_OP_TIMES,
     .input = DETECTS_EVENT,
     .gives_event = true,
     .setting = {{SECONDS("the time", rp_times_config, within)}},
     .has_which = true,
     .which_offset = offsetof(rp_times_config, count)},
    {.word = "no",
     .op = RP_OP_ABSENT,
     .input = DETECTS_EVENT,
     .setting = {{SECONDS("the time", rp_absent_config, time)}}},
};

const detector_word *detector_word_find(const char *word)
{
    uint32_t i = 0;
    while (strcmp(detector_words[i].word, word) != 0) {
        i++;
    }
    return &detector_words[i];
}

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
                            "actuator NAME percent LOW..HIGH, rest at VALUE[, SETTINGS] | actuator NAME UNIT "
                            "LOW..HIGH, rest at VALUE[, SETTINGS] "
                            "| actuator NAME switch, rest at off[, SETTINGS] | actuator NAME names NAME, NAME, ..., "
                            "rest at NAME[, SETTINGS]",
                            "a channel that is driven: its travel, in percent or in a unit (an angle, a length, a "
                            "pitch), or its names; its "
                            "value when nobody asks for it; and its settings, below",
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
                      "a rule that fires once, at the moment; 'on start' fires at the first tick", "on tide goes high"},
    [STATEMENT_WHILE] = {"while", "while CONDITION",
                         "a rule that fires when the condition is true, and again after each holdoff as long as it is",
                         "while tide is low"},
    [STATEMENT_SEQUENCE] = {"sequence", "sequence NAME[, priority N][, only while CONDITION]",
                            "steps that are done one after the other, below; begun by a rule or by another sequence",
                            "sequence signal_boat"},
    [STATEMENT_MODE] = {"mode", "mode NAME: NAME, NAME, ...",
                        "a state of the rig that rules and sequences set and heed; it begins with the first",
                        "mode harbour: day, night"},
    [STATEMENT_CUE] = {"cue", "cue NAME", "an event that rules and sequences give", "cue boat_through"},
    [STATEMENT_NEVER] =
        {"never",
         "never ACTUATOR above|below VALUE while CONDITION | never SWITCH on|off while CONDITION | "
         "never ACTUATOR driven while CONDITION | never anything while CONDITION | never ACTUATOR with ACTUATOR | "
         "never ACTUATOR stalled, SIGNAL moves AMOUNT in TIME",
         "a guard: whatever else is asked, also by hand; a condition that cannot be known counts as true",
         "never pump above 0 while tide is high"},
    [STATEMENT_STOP] =
        {"stop", "stop while CONDITION [until CONDITION]",
         "an emergency stop: everything rests and what was going on is forgotten, until it is resumed by "
         "hand, or by the second condition once the first is over",
         "stop while tide is high until tide is low"},
    [STATEMENT_KEEP] = {"keep", "keep SIGNAL, SIGNAL, ...",
                        "what these signals have counted ('count') or learned ('zero', 'span') survives a power cycle",
                        "keep boats"},
    [STATEMENT_DRIVE] =
        {"drive", "drive ACTUATOR = EXPRESSION",
         "a continuous drive: the actuator follows a value in percent, a switch a condition; while that "
         "cannot be trusted it drives nothing",
         "drive pump = (5 cm - depth) * 20 %/cm"},
    [STATEMENT_LOOP] =
        {"loop", "loop NAME: MEASURED at SETPOINT with ACTUATOR",
         "a control loop: brings what is measured to the setpoint and keeps it there, by the lines below it",
         "loop bath: depth at shallow with pump"},
    [STATEMENT_HOOKUP] = {"hookup", "hookup sim", "what the names are connected to on a port", "hookup sim"},
};

#define ALL(field)        (uint16_t) offsetof(rp_loop_config, field)
#define OF(method, field) (uint16_t) offsetof(rp_##method##_loop_config, method.field)

const loop_line loop_lines[] = {
    {.word = "pid",
     .kind = LOOP_METHOD,
     .op = RP_OP_PID,
     .low = OF(pid, low),
     .high = OF(pid, high),
     .reverse = OF(pid, reverse),
     .setting = {{"kp", "the gain kp", UNIT_GAIN, 0, GREAT, REQUIRED, OF(pid, gain.kp), false, "kp"},
                 {"ki", "the gain ki", UNIT_GAIN_PER_SEC, 0, GREAT, REQUIRED, OF(pid, gain.ki), false, "ki"},
                 {"kd", "the gain kd", UNIT_GAIN_TIMES_SEC, 0, GREAT, REQUIRED, OF(pid, gain.kd), false, "kd"},
                 {"filter", "the derivative's filter", "s", 0, 1e6, 0, OF(pid, gain.filter), false, NULL},
                 {"weight", "the setpoint's weight", "", 0, 1, 1, OF(pid, weight), false, NULL},
                 {"slope weight", "the setpoint's weight in the slope", "", 0, 1, 0, OF(pid, slope_weight), false,
                  NULL},
                 {"back", "the time of the back-calculation", "s", 0, 1e6, 0, OF(pid, back), false, NULL},
                 {"deadband", "the dead band", UNIT_IN_INTERVAL, 0, GREAT, 0, OF(pid, deadband), false, NULL}},
     .form = "pid kp G, ki G, kd G[, filter TIME][, weight W][, slope weight W][, back TIME][, deadband WIDTH]",
     .help = "a proportional, an integral and a derivative term, in parallel form; filter: of the derivative; weight: "
             "how much of a step of the setpoint goes into the proportional term, 0 to 1 (1); slope weight: into the "
             "derivative (0); back: the integral is drawn back with that time while the output is limited, instead of "
             "waiting",
     .example = "pid kp 20, ki 2, kd 0"},
    {.word = "on-off",
     .kind = LOOP_METHOD,
     .op = RP_OP_ONOFF,
     .low = OF(onoff, low),
     .high = OF(onoff, high),
     .reverse = OF(onoff, reverse),
     .setting = {{"margin", "the margin", UNIT_IN_INTERVAL, 0, GREAT, REQUIRED, OF(onoff, margin), false, "margin"},
                 {"on at least", "the least time on", "s", 0, (double)RP_ONOFF_TIME_MAX, 0, OF(onoff, least_on), false,
                  NULL},
                 {"off at least", "the least time off", "s", 0, (double)RP_ONOFF_TIME_MAX, 0, OF(onoff, least_off),
                  false, NULL}},
     .form = "on-off margin M[, on at least TIME][, off at least TIME]",
     .help = "fully on below the setpoint, off from the setpoint plus the margin on",
     .example = "on-off margin 4 mm, on at least 2 s"},
    {.word = "nudge",
     .kind = LOOP_METHOD,
     .op = RP_OP_NUDGE,
     .low = OF(nudge, low),
     .high = OF(nudge, high),
     .reverse = OF(nudge, reverse),
     .setting = {{NULL, "the step", UNIT_OUT_INTERVAL, 1e-30, GREAT, REQUIRED, OF(nudge, step), false, "stride"},
                 {"every", "the pace", "s", 1e-6, (double)RP_NUDGE_PACE_MAX, REQUIRED, OF(nudge, pace), false, "pace"},
                 {"within", "the tolerance", UNIT_IN_INTERVAL, 0, GREAT, 0, OF(nudge, within), false, "tolerance"}},
     .form = "nudge STEP every TIME[, within X]",
     .help = "one step against the sign of the error at each pace; an error up to X is left alone",
     .example = "nudge 5 % every 500 ms, within 2 mm"},
    {.word = "reverse",
     .kind = LOOP_FLAG,
     .form = "reverse",
     .help = "what is measured falls when more is driven",
     .example = "reverse"},
    {.word = "one way",
     .kind = LOOP_FLAG,
     .form = "one way",
     .help = "the actuator can only push one way, and that is meant: the mechanism goes back by itself",
     .example = "one way"},
    {.word = "limits",
     .kind = LOOP_LIMITS,
     .form = "limits LOW..HIGH",
     .help = "the output stays within; without this line, within the actuator's travel",
     .example = "limits 0..80 %"},
    {.word = "feed",
     .kind = LOOP_FEED,
     .form = "feed EXPRESSION",
     .help = "feed-forward: added to what the terms ask, in the actuator's unit",
     .example = "feed depth * 2 %/cm"},
    {.word = "only while",
     .kind = LOOP_ONLY,
     .form = "only while CONDITION",
     .help = "it is armed only while the condition is true; else it waits, drives nothing, and engages anew after",
     .example = "only while armed is on"},
    {.word = "ramp",
     .kind = LOOP_COMMON,
     .setting = {{NULL, "the ramp", UNIT_IN_PER_SECOND, 1e-30, GREAT, 0, ALL(ramp), false, NULL}},
     .form = "ramp RATE",
     .help = "the setpoint moves no faster; when the loop engages it sets out from what is measured",
     .example = "ramp 1 cm/s"},
    {.word = "predict",
     .kind = LOOP_PREDICT,
     .op = RP_OP_PREDICT,
     .setting = {{"gain", "the process gain", UNIT_PROCESS_GAIN, -GREAT, GREAT, REQUIRED, AT(predict, gain), false,
                  NULL},
                 {"lag", "the lag", "s", 1e-6, 1e6, REQUIRED, AT(predict, lag), false, NULL},
                 {"dead", "the dead time", "s", 1e-6, 1e6, REQUIRED, AT(predict, dead), false, NULL}},
     .form = "predict gain G, lag TIME, dead TIME",
     .help =
         "regulates what the process will come to, by a model of it: what is measured rises by G for each unit that "
         "is driven, behind a dead time, with a lag",
     .example = "predict gain 0.1 cm/%, lag 20 s, dead 3 s"},
    {.word = "engage",
     .kind = LOOP_COMMON,
     .setting = {{"within", "the distance for engaging", UNIT_IN_INTERVAL, 1e-30, GREAT, 0, ALL(within), false, NULL},
                 {"after", "the time before engaging", "s", 0, 1e6, 0, ALL(delay), false, NULL}},
     .form = "engage [within X][, after TIME]",
     .help = "drives only when what is measured has been known, and within X of the setpoint, for TIME",
     .example = "engage within 2 cm, after 1 s"},
    {.word = "cut out",
     .kind = LOOP_COMMON,
     .setting = {{"beyond", "the error for cutting out", UNIT_IN_INTERVAL, 1e-30, GREAT, 0, ALL(beyond), false, NULL},
                 {"for", "the time for cutting out", "s", 0, 1e6, 0, ALL(beyond_for), false, NULL},
                 {"saturated for", "the time of saturation", "s", 1e-6, 1e6, 0, ALL(saturated_for), false, NULL},
                 {"again", "again", "", 0, 1, 0, ALL(again), true, NULL}},
     .form = "cut out [beyond X [for TIME]][, saturated for TIME][, again]",
     .help =
         "lets the actuator rest when the error has been beyond X, or the output limited, for TIME. That is a fault, "
         "and stays until it is cleared; with 'again' the loop engages anew, which needs 'engage within'",
     .example = "cut out beyond 5 cm for 2 s"},
    {.word = "hold",
     .kind = LOOP_COMMON,
     .setting = {{NULL, "the hold", "s", 0, 1e6, REQUIRED, ALL(hold), false, NULL}},
     .form = "hold TIME",
     .help = "while what is measured is bad the last output stands, for at most TIME; then the loop cuts out. Without "
             "this line 200 ms, at least three ticks",
     .example = "hold 500 ms"},
};

const uint32_t loop_lines_count = sizeof loop_lines / sizeof *loop_lines;

static const rp_word term_words[] = {
#define RP_TERM_WORD(name, ending, help) {"term", "LOOP" ending, "LOOP" ending, help, "steam" ending},
    RP_TERM_LIST(RP_TERM_WORD)
#undef RP_TERM_WORD
        {"term", "LOOP_kp", "LOOP_kp, LOOP_ki, LOOP_kd", "of 'pid', where they are written as numbers: parameters",
         "steam_kp"},
    {"term", "LOOP_stride", "LOOP_stride, LOOP_pace, LOOP_tolerance", "likewise of 'nudge'", "point_stride"},
    {"term", "LOOP_margin", "LOOP_margin", "likewise of 'on-off'", "steam_margin"},
    {"term", "LOOP_trim", "LOOP_trim", "a parameter, added to the setpoint; 0", "steam_trim"},
    {"term", "LOOP_push", "LOOP_push", "a parameter, added to the output, to test the loop; 0", "steam_push"},
};

static const rp_word step_words[] = {
    {"step", "ACTUATOR", "ACTUATOR VALUE", "drives it from here on, until another step or the end", "lamp on"},
    {"step", "dwell", "dwell TIME", "waits for a time, which may be computed", "dwell 5 s"},
    {"step", "await", "await CONDITION within TIME[, else go PART|, else end]",
     "waits until it is true or comes; after TIME it goes to a part, or ends, or without either it fails",
     "await top is on within 8 s"},
    {"step", "however", "await CONDITION, however long", "waits without a limit", "await gate is off, however long"},
    {"step", "go", "go PART [if CONDITION]", "goes on there", "go closing if tide is low"},
    {"step", "part", "part NAME", "names this place; 'ending' is where a sequence goes that is ended or fails",
     "part closing"},
    {"step", "cycle", "cycle [N times] [until CONDITION]", "does the steps that are indented below it again and again",
     "cycle 3 times"},
    {"step", "end", "end", "the sequence is over: it lets go of everything", "end"},
};

static const rp_word action_words[] = {
    {"action", "ACTUATOR", "ACTUATOR VALUE", "sets the actuator, until another set", "lamp on"},
    {"action", "for", "ACTUATOR VALUE for TIME[, priority N]",
     "drives the actuator for a stated time and gives it back; of two on one actuator the greater priority "
     "goes over the lesser",
     "pump 80 % for 2 s"},
    {"action", "times", "ACTUATOR VALUE for TIME, N times every TIME[, priority N]",
     "the same N times, from beginning to beginning each TIME; it rests between them",
     "lamp on for 200 ms, 3 times every 1 s"},
    {"action", "toggle", "toggle SWITCH", "a plain set to the other of its two values", "toggle lamp"},
    {"action", "more", "ACTUATOR AMOUNT more|less",
     "a plain set so much above or below what the last one has set, within the travel", "pump 10 % more"},
    {"action", "PARAM", "PARAM VALUE", "changes a parameter, within its range, from the next tick on", "shallow 4 cm"},
    {"action", "begin", "begin SEQUENCE [anew]",
     "begins a sequence; one that runs already goes on, or with 'anew' begins from its first step",
     "begin signal_boat"},
    {"action", "end", "end SEQUENCE", "ends a sequence: it goes to its part 'ending', or lets go of everything",
     "end signal_boat"},
    {"action", "cue", "cue CUE", "gives a cue: an event of the next tick", "cue boat_through"},
    {"action", "MODE", "MODE NAME", "the mode is another one from the next tick on", "harbour night"},
    {"action", "mark", "mark TEXT [VALUE]", "puts a mark into the recording, with what a value is just then",
     "mark \"full\" depth"},
    {"action", "relearn", "relearn SIGNAL",
     "what the 'zero', 'span', 'accumulate', 'unwrap' or 'count' in the signal's line has learned is forgotten: it "
     "begins anew",
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
    index -= (uint32_t)(sizeof action_words / sizeof *action_words);
    if (index < sizeof step_words / sizeof *step_words) {
        *word = step_words[index];
        return true;
    }
    index -= (uint32_t)(sizeof step_words / sizeof *step_words);
    if (index < loop_lines_count) {
        const loop_line *l = &loop_lines[index];
        *word = (rp_word){"loop", l->word, l->form, l->help, l->example};
        return true;
    }
    index -= loop_lines_count;
    if (index < sizeof term_words / sizeof *term_words) {
        *word = term_words[index];
        return true;
    }
    return unit_row(index - (uint32_t)(sizeof term_words / sizeof *term_words), word);
}
