/* Statements: what a line in the first column begins with. */
#include "words.h"

const statement_word statement_words[STATEMENTS] = {
    [STATEMENT_RIG] = {"rig", "rig NAME", "names the rig; the first statement of the file", "rig basin", NULL,
                       .role = ROLE_DECLARES, .once = "the rig has been named already"},
    [STATEMENT_TICK] =
        {"tick", "tick TIME", "how often everything is read, decided and driven", "tick 20 ms",
         "a tick that is longer than what has to be caught: what comes and goes between two ticks is not seen",
         .role = ROLE_DECLARES, .once = "the tick has been stated already"},
    [STATEMENT_UNIT] = {"unit", "unit NAME [= QUANTITY]",
                        "declares a unit of one's own: a multiple of a known one, or a new kind",
                        "unit knot = 0.5144 m/s",
                        "`g` is standard gravity here, not a gram: units of mass have to be declared, `unit gram`",
                        .role = ROLE_DECLARES},
    [STATEMENT_SENSOR] =
        {"sensor",
         "sensor NAME UNIT LOW..HIGH[, OPTIONS] | sensor NAME switch[, OPTIONS] | sensor NAME names NAME, NAME, ...",
         "a channel that is read: the range its raw numbers can have, and options that say when a reading is not to be "
         "believed; a switch; or names",
         "sensor level counts 0..4095",
         "the range of the quantity instead of the raw reading's: `sensor level counts 0..4095`; centimetres come from "
         "a stage",
         .role = ROLE_DECLARES},
    [STATEMENT_ACTUATOR] = {"actuator",
                            "actuator NAME percent LOW..HIGH, rest at VALUE[, SETTINGS] | actuator NAME UNIT "
                            "LOW..HIGH, rest at VALUE[, SETTINGS] | actuator NAME switch, rest at off[, SETTINGS] | "
                            "actuator NAME names NAME, NAME, ..., rest at NAME[, SETTINGS]",
                            "a channel that is driven: its travel, in percent or in a unit (an angle, a length, a "
                            "pitch), or its names; its value when nobody asks for it; and its settings, below",
                            "actuator pump percent 0..100, rest at 0",
                            "no `rest at`: what it does when nobody asks has to be said", .role = ROLE_DECLARES},
    [STATEMENT_PARAM] = {"param", "param NAME = QUANTITY in LOW..HIGH",
                         "a value that may be changed while the rig runs, within its range",
                         "param shallow = 3 cm in 1..6 cm", "no range: `param shallow = 3 cm in 1..6 cm`",
                         .role = ROLE_DECLARES},
    [STATEMENT_SIGNAL] = {"signal", "signal NAME = EXPRESSION",
                          "a computed quantity: arithmetic on sensors, signals and parameters, and stages after '|'",
                          "signal calm = level | despike 5",
                          "`signal depth = level smooth 200 ms`: a stage stands behind '|'", .role = ROLE_COMPUTES},
    [STATEMENT_BANDS] = {"bands", "bands NAME = SIGNAL: NAME below LIMIT, NAME, NAME above LIMIT; margin M",
                         "names for neighbouring stretches of a quantity, from low to high or from high to low",
                         "bands tide = depth: low below 3 cm, mid, high above 9 cm; margin 0.4 cm",
                         "no margin on a signal that has noise: the band flickers at its border. Take the smallest "
                         "real change that `rigpulse inspect` tells",
                         .role = ROLE_COMPUTES},
    [STATEMENT_ON] =
        {"on", "on EVENT [and CONDITION]", "a rule that fires once, at the moment; 'on start' fires at the first tick",
         "on tide goes high",
         "`on tide is low` is a condition; `on` needs a moment: `on tide goes low`, or take `while tide is low`",
         .body = BODY_ACTIONS, .role = ROLE_ACTS},
    [STATEMENT_WHILE] = {"while", "while CONDITION",
                         "a rule that fires when the condition is true, and again after each holdoff as long as it is",
                         "while tide is low",
                         "a plain set below it, `pump 40 %`, stays for ever when the condition is over: say `for "
                         "TIME`, or `drive pump = ...`",
                         .body = BODY_ACTIONS, .role = ROLE_ACTS},
    [STATEMENT_SEQUENCE] = {"sequence", "sequence NAME[, priority N][, only while CONDITION]",
                            "steps that are done one after the other, below; begun by a rule or by another sequence",
                            "sequence signal_boat", "nobody begins it: a rule says `begin NAME`", .body = BODY_STEPS,
                            .role = ROLE_ACTS},
    [STATEMENT_MODE] =
        {"mode", "mode NAME: NAME, NAME, ...",
         "a state of the rig that rules and sequences set and heed; it begins with the first",
         "mode harbour: day, night",
         "`on harbour is night`: an action sets it, `harbour night`, and rules hear it by `on harbour goes night`",
         .role = ROLE_HOLDS},
    [STATEMENT_CUE] = {"cue", "cue NAME", "an event that rules and sequences give", "cue boat_through",
                       "a sequence that awaits a cue which only it gives waits for ever", .role = ROLE_HOLDS},
    [STATEMENT_NEVER] =
        {"never",
         "never ACTUATOR above|below VALUE while CONDITION | never SWITCH on|off while CONDITION | never ACTUATOR "
         "driven while CONDITION | never anything while CONDITION | never ACTUATOR with ACTUATOR | never ACTUATOR "
         "stalled, SIGNAL moves AMOUNT in TIME",
         "a guard: whatever else is asked, also by hand; a condition that cannot be known counts as true",
         "never pump above 0 while tide is high",
         "a limit where the harm is: leave room for the way that the mechanism needs to stop", .role = ROLE_GUARDS},
    [STATEMENT_STOP] = {"stop", "stop while CONDITION [until CONDITION]",
                        "an emergency stop: everything rests and what was going on is forgotten, until it is resumed "
                        "by hand, or by the second condition once the first is over",
                        "stop while tide is high until tide is low",
                        "no `until`, and nobody there to resume it by hand", .role = ROLE_GUARDS},
    [STATEMENT_KEEP] =
        {"keep", "keep SIGNAL, SIGNAL, ...",
         "what these signals have counted ('count') or learned ('zero', 'span') survives a power cycle", "keep boats",
         "a signal that has counted and learned nothing: there must be a `count`, `zero` or `span` in its line",
         .role = ROLE_HOLDS},
    [STATEMENT_DRIVE] = {"drive", "drive ACTUATOR = EXPRESSION",
                         "a continuous drive: the actuator follows a value in percent, a switch a condition; while "
                         "that cannot be trusted it drives nothing",
                         "drive pump = (5 cm - depth) * 20 %/cm",
                         "a factor without a unit: `depth * 20` is no percent, `depth * 20 %/cm` is",
                         .role = ROLE_DRIVES},
    [STATEMENT_LOOP] =
        {"loop", "loop NAME: MEASURED at SETPOINT with ACTUATOR",
         "a control loop: brings what is measured to the setpoint and keeps it there, by the lines below it",
         "loop bath: depth at shallow with pump",
         "no `reverse` where what is measured falls when more is driven: it runs to its limit", .body = BODY_LOOP_LINES,
         .role = ROLE_DRIVES},
    [STATEMENT_HOOKUP] = {"hookup", "hookup sim", "what the names are connected to on a port", "hookup sim",
                          "points the wrong way round: the raw reading stands first, `312 at 0 cm`",
                          .body = BODY_HOOKUP_LINES, .role = ROLE_CONNECTS},
};

bool statement_claims(statement_id id)
{
    return statement_words[id].role == ROLE_ACTS || statement_words[id].role == ROLE_DRIVES;
}

const char *statement_does(statement_id id)
{
    static const char *const does[ROLES] = {
        [ROLE_DECLARES] = "declares something that the lines below it use",
        [ROLE_COMPUTES] = "computes something in each tick",
        [ROLE_ACTS] = "acts, and may drive actuators, by the lines below it",
        [ROLE_HOLDS] = "holds a state",
        [ROLE_GUARDS] = "guards actuators",
        [ROLE_DRIVES] = "drives an actuator by itself",
        [ROLE_CONNECTS] = "connects the names",
    };
    return does[statement_words[id].role];
}
