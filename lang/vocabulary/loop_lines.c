/* Lines below a loop, and the names that a loop brings. */
#include "words.h"

#include "image/ops.h"

#include <stddef.h>

#define ALL(field)        (uint16_t) offsetof(rgp_loop_config, field)
#define AT(block, field)  offsetof(rgp_##block##_config, field)
/* The settings that all loops share come first in each loop's config, so an offset in one is right for all. */
#define ANY_LOOP          RGP_OP_PID
#define OF(method, field) (uint16_t) offsetof(rgp_##method##_loop_config, method.field)

const loop_line loop_lines[] = {
    {.word = "pid",
     .kind = LOOP_METHOD,
     .op = RGP_OP_PID,
     .low = OF(pid, low),
     .high = OF(pid, high),
     .reverse = OF(pid, reverse),
     .setting = {{"kp", "the gain kp", UNIT_GAIN, REQUIRED, OF(pid, gain.kp), false, "kp"},
                 {"ki", "the gain ki", UNIT_GAIN_PER_SECOND, REQUIRED, OF(pid, gain.ki), false, "ki"},
                 {"kd", "the gain kd", UNIT_GAIN_TIMES_SECOND, REQUIRED, OF(pid, gain.kd), false, "kd"},
                 {"filter", "the derivative's filter", UNIT_SECOND, 0, OF(pid, gain.filter), false, NULL},
                 {"weight", "the setpoint's weight", UNIT_NONE, 1, OF(pid, setpoint_softness), false, NULL, true},
                 {"slope weight", "the setpoint's weight in the slope", UNIT_NONE, 0, OF(pid, slope_weight), false,
                  NULL},
                 {"back", "the time of the back-calculation", UNIT_SECOND, 0, OF(pid, tracking_time), false, NULL},
                 {"deadband", "the dead band", UNIT_IN_INTERVAL, 0, OF(pid, deadband), false, NULL}},
     .form = "pid kp G, ki G, kd G[, filter TIME][, weight W][, slope weight W][, back TIME][, deadband WIDTH]",
     .help = "a proportional, an integral and a derivative term, in parallel form; filter: of the derivative; weight: "
             "how much of a step of the setpoint goes into the proportional term, 0 to 1 (1); slope weight: into the "
             "derivative (0); back: the integral is drawn back with that time while the output is limited, instead of "
             "waiting",
     .example = "pid kp 20, ki 2, kd 0",
     .slip =
         "`ki` and `kd` as times: they are gains, in the output's unit by the input's, a second and times a second"},
    {.word = "on-off",
     .kind = LOOP_METHOD,
     .op = RGP_OP_ONOFF,
     .low = OF(onoff, low),
     .high = OF(onoff, high),
     .reverse = OF(onoff, reverse),
     .setting = {{"margin", "the margin", UNIT_IN_INTERVAL, REQUIRED, OF(onoff, margin), false, "margin"},
                 {"on at least", "the least time on", UNIT_SECOND, 0, OF(onoff, least_on), false, NULL},
                 {"off at least", "the least time off", UNIT_SECOND, 0, OF(onoff, least_off), false, NULL}},
     .form = "on-off margin M[, on at least TIME][, off at least TIME]",
     .help = "fully on below the setpoint, off from the setpoint plus the margin on",
     .example = "on-off margin 4 mm, on at least 2 s",
     .slip = "a margin within the noise: it switches all the time"},
    {.word = "nudge",
     .kind = LOOP_METHOD,
     .op = RGP_OP_NUDGE,
     .low = OF(nudge, low),
     .high = OF(nudge, high),
     .reverse = OF(nudge, reverse),
     .setting = {{NULL, "the step", UNIT_OUT_INTERVAL, REQUIRED, OF(nudge, step), false, "stride"},
                 {"every", "the pace", UNIT_SECOND, REQUIRED, OF(nudge, pace), false, "pace"},
                 {"within", "the tolerance", UNIT_IN_INTERVAL, 0, OF(nudge, within), false, "tolerance"}},
     .form = "nudge STEP every TIME[, within X]",
     .help = "one step against the sign of the error at each pace; an error up to X is left alone",
     .example = "nudge 5 % every 500 ms, within 2 mm",
     .slip = "a pace that is faster than the mechanism answers: it runs past the setpoint"},
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
     .op = ANY_LOOP,
     .setting = {{NULL, "the ramp", UNIT_IN_PER_SECOND, 0, ALL(ramp), false, NULL, .zero_is_none = true}},
     .form = "ramp RATE",
     .help = "the setpoint moves no faster; when the loop engages it sets out from what is measured",
     .example = "ramp 1 cm/s"},
    {.word = "predict",
     .kind = LOOP_PREDICT,
     .op = RGP_OP_PREDICT,
     .setting = {{"gain", "the process gain", UNIT_PROCESS_GAIN, REQUIRED, AT(predict, gain), false, NULL},
                 {"lag", "the lag", UNIT_SECOND, REQUIRED, AT(predict, lag), false, NULL},
                 {"dead", "the dead time", UNIT_SECOND, REQUIRED, AT(predict, dead), false, NULL}},
     .form = "predict gain G, lag TIME, dead TIME",
     .help =
         "regulates what the process will come to, by a model of it: what is measured rises by G for each unit that "
         "is driven, behind a dead time, with a lag",
     .example = "predict gain 0.1 cm/%, lag 20 s, dead 3 s"},
    {.word = "engage",
     .kind = LOOP_COMMON,
     .op = ANY_LOOP,
     .setting = {{"within", "the distance for engaging", UNIT_IN_INTERVAL, 0, ALL(within), false, NULL,
                  .zero_is_none = true},
                 {"after", "the time before engaging", UNIT_SECOND, 0, ALL(delay), false, NULL}},
     .form = "engage [within X][, after TIME]",
     .help = "drives only when what is measured has been known, and within X of the setpoint, for TIME",
     .example = "engage within 2 cm, after 1 s"},
    {.word = "cut out",
     .kind = LOOP_COMMON,
     .op = ANY_LOOP,
     .setting = {{"beyond", "the error for cutting out", UNIT_IN_INTERVAL, 0, ALL(beyond), false, NULL,
                  .zero_is_none = true},
                 {"for", "the time for cutting out", UNIT_SECOND, 0, ALL(beyond_for), false, NULL},
                 {"saturated for", "the time of saturation", UNIT_SECOND, 0, ALL(saturated_for), false, NULL,
                  .zero_is_none = true},
                 {"again", "again", UNIT_NONE, 0, ALL(again), true, NULL}},
     .form = "cut out [beyond X [for TIME]][, saturated for TIME][, again]",
     .help =
         "lets the actuator rest when the error has been beyond X, or the output limited, for TIME. That is a fault, "
         "and stays until it is cleared; with 'again' the loop engages anew, which needs 'engage within'",
     .example = "cut out beyond 5 cm for 2 s"},
    {.word = "hold",
     .kind = LOOP_COMMON,
     .op = ANY_LOOP,
     .setting = {{NULL, "the hold", UNIT_SECOND, REQUIRED, ALL(hold), false, NULL}},
     .form = "hold TIME",
     .help = "while what is measured is bad the last output stands, for at most TIME; then the loop cuts out. Without "
             "this line 200 ms, at least three ticks",
     .example = "hold 500 ms",
     .slip = "longer than the mechanism can be left alone"},
};

const uint32_t loop_lines_count = sizeof loop_lines / sizeof *loop_lines;

const word_row term_words[] = {
#define RGP_TERM_WORD(name, ending, help) {"LOOP" ending, "LOOP" ending, help, "steam" ending, NULL},
    RGP_TERM_LIST(RGP_TERM_WORD)
#undef RGP_TERM_WORD
        {"LOOP_kp", "LOOP_kp, LOOP_ki, LOOP_kd", "of 'pid', where they are written as numbers: parameters", "steam_kp",
         NULL},
    {"LOOP_stride", "LOOP_stride, LOOP_pace, LOOP_tolerance", "likewise of 'nudge'", "point_stride", NULL},
    {"LOOP_margin", "LOOP_margin", "likewise of 'on-off'", "steam_margin", NULL},
    {"LOOP_trim", "LOOP_trim", "a parameter, added to the setpoint; 0", "steam_trim", NULL},
    {"LOOP_push", "LOOP_push", "a parameter, added to the output, to test the loop; 0", "steam_push", NULL},
};

const uint32_t term_words_count = sizeof term_words / sizeof *term_words;
