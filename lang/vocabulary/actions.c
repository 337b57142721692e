/* Actions: the lines below a rule; steps of a sequence likewise. */
#include "words.h"

const word_row action_words[] = {
    [ACTION_ID_TOGGLE] = {"toggle", "toggle SWITCH", "a plain set to the other of its two values", "toggle lamp", NULL},
    [ACTION_ID_BEGIN] = {"begin", "begin SEQUENCE [anew]",
                         "begins a sequence; one that runs already goes on, or with 'anew' begins from its first step",
                         "begin signal_boat", NULL},
    [ACTION_ID_END] = {"end", "end SEQUENCE", "ends a sequence: it goes to its part 'ending', or lets go of everything",
                       "end signal_boat", NULL},
    [ACTION_ID_CUE] = {"cue", "cue CUE", "gives a cue: an event of the next tick", "cue boat_through", NULL},
    [ACTION_ID_MARK] = {"mark", "mark TEXT [VALUE]", "puts a mark into the recording, with what a value is just then",
                        "mark \"full\" depth", "a text of several words needs quotes"},
    [ACTION_ID_RELEARN] = {"relearn", "relearn SIGNAL",
                           "what the 'zero', 'span', 'accumulate', 'unwrap' or 'count' in the signal's line has "
                           "learned is forgotten: it begins anew",
                           "relearn turned", "asking for it in every tick: it never ends learning"},
    [ACTION_ID_HOLDOFF] = {"holdoff", "holdoff TIME",
                           "the rule does not fire again until so long after the end of its last timed action",
                           "holdoff 10 s", "taken for a delay: the rule fires at once, and then not again for TIME"},
    [ACTION_WORDS] = {"ACTUATOR", "ACTUATOR VALUE", "sets the actuator, until another set", "lamp on", NULL},
    {"for", "ACTUATOR VALUE for TIME[, priority N]",
     "drives the actuator for a stated time and gives it back; of two on one actuator the greater priority goes over "
     "the lesser",
     "pump 80 % for 2 s",
     "two rules drive one actuator and neither says `priority N`: the greater one goes over the lesser"},
    {"times", "ACTUATOR VALUE for TIME, N times every TIME[, priority N]",
     "the same N times, from beginning to beginning each TIME; it rests between them",
     "lamp on for 200 ms, 3 times every 1 s", NULL},
    {"more", "ACTUATOR AMOUNT more|less",
     "a plain set so much above or below what the last one has set, within the travel", "pump 10 % more", NULL},
    {"PARAM", "PARAM VALUE", "changes a parameter, within its range, from the next tick on", "shallow 4 cm", NULL},
    {"MODE", "MODE NAME", "the mode is another one from the next tick on", "harbour night", NULL},
};

const uint32_t action_words_count = sizeof action_words / sizeof *action_words;
