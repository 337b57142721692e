/* The options behind a sensor's range, the settings behind an actuator's rest value, and the lines of a hook-up. */
#include "words.h"

const word_row sensor_options[SENSOR_OPTIONS] = {
    [SENSOR_PINNED] = {"pinned", "pinned", "a reading at either end of the range is bad: pinned at a rail",
                       "sensor level counts 0..4095, pinned", "on a sensor whose ends of the range are real readings"},
    [SENSOR_EVERY] = {"every", "every TIME", "a reading that is older than TIME is bad: late",
                      "sensor level counts 0..4095, every 60 ms", NULL},
    [SENSOR_JUMP] = {"jump", "jump RATE",
                     "one that has changed faster than is possible since the last good one is bad: impossible jump",
                     "sensor level counts 0..4095, jump 2000 counts/s",
                     "a rate without the time: `jump 2000 counts/s`. What is within it is for `despike`"},
    [SENSOR_STUCK] = {"stuck", "stuck TIME", "one that has not changed by one count for TIME is bad: stuck",
                      "sensor level counts 0..4095, stuck 2 s",
                      "on a sensor that rests well: one without noise does not change"},
    [SENSOR_FAULT] = {"fault after", "fault after TIME",
                      "when it has been bad for TIME: the rules that need it let go of their actuators and do not fire "
                      "until the fault is cleared",
                      "sensor level counts 0..4095, every 60 ms, fault after 1 s",
                      "without `pinned`, `every`, `jump` or `stuck` only what is out of range or missing is bad"},
    [SENSOR_AGAIN] = {"again after", "again after TIME",
                      "behind 'fault after': when it has been well for TIME, the fault ends by itself, and what needs "
                      "it may act again; the run still ends with exit status 1",
                      "sensor level counts 0..4095, every 60 ms, fault after 1 s, again after 5 s", NULL},
};

const actuator_word actuator_words[ACTUATOR_SETTINGS] = {
    [ACTUATOR_LEAST] = {"least", "least VALUE", "what is asked and not 0 is raised to it: less does not move it",
                        "actuator pump percent 0..100, rest at 0, least 12 %",
                        "taken for the least value: `rest at` and the range say that", .numbers_only = true},
    [ACTUATOR_SLEW] = {"slew", "slew RATE", "it changes no faster",
                       "actuator pump percent 0..100, rest at 0, slew 50 %/s",
                       "a slew that keeps a guard from acting: on the way to rest it is passed over",
                       .numbers_only = true},
    [ACTUATOR_LONGEST] = {"longest", "longest TIME",
                          "what is written has been away from rest for so long: it rests at once, without the slew, "
                          "until nobody asks for anything else",
                          "actuator pump percent 0..100, rest at 0, longest 10 s",
                          "a time shorter than what rules ask for"},
    [ACTUATOR_DUTY] = {"duty", "duty SHARE over TIME",
                       "at one stretch at most that share of TIME away from rest; then it rests until the rest of TIME "
                       "is over. Shorter stretches use up less",
                       "actuator pump percent 0..100, rest at 0, duty 40 % over 60 s", NULL},
    [ACTUATOR_SETTLE] = {"settle", "settle TIME",
                         "makes `ACTUATOR is settled` true when nothing else has been written for TIME",
                         "actuator arm deg -90..90, rest at 0, settle 300 ms", NULL},
    [ACTUATOR_GIVES] = {"gives", "gives AMOUNT in TIME [after TIME]",
                        "makes amounts times: `auger 60 % for 3 portions` lasts as long as three portions take, and "
                        "before the first one so much longer. `calibrate --trial` finds both",
                        "actuator auger percent 0..100, rest at 0, gives 1 portions in 800 ms", NULL},
    [ACTUATOR_INVERTED] = {"inverted", "inverted",
                           "it is wired the other way round: what is written is LOW + HIGH - the value",
                           "actuator span percent -100..100, rest at 0, inverted", NULL},
};

const word_row hookup_words[] = {
    {"KIND", "KIND NAME: SETTING, SETTING, INPUT by ACTUATOR",
     "a mechanism; `rigpulse words mechanism` lists the kinds", "tank basin: height 20 cm, filled by pump",
     "a comma for the colon behind the name"},
    {"by", "INPUT by ACTUATOR [reversed]",
     "what drives an input of a mechanism; a switch that is on drives with 100 %; `reversed` behind an inverted "
     "actuator, as it is wired",
     "tank basin: height 20 cm, filled by pump", NULL},
    {"at", "at TIME WHOM DISTURBANCE [AMOUNT] [for TIME]",
     "something that happens to a mechanism, a sensor or the clock, at a time of the run",
     "at 20 s level stands for 3 s", NULL},
};

const uint32_t hookup_words_count = sizeof hookup_words / sizeof *hookup_words;
