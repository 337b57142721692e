/* Steps: the lines below a sequence. */
#include "words.h"

const word_row step_words[] = {
    [STEP_ID_DWELL] = {"dwell", "dwell TIME", "waits for a time, which may be computed", "dwell 5 s",
                       "in a rule: steps belong below a `sequence`"},
    [STEP_ID_AWAIT] =
        {"await", "await CONDITION within TIME[, else go PART|, else end]",
         "waits until it is true or comes; after TIME it goes to a part, or ends, or without either it fails",
         "await top is on within 8 s", "no `within`: a sequence that waits for ever holds its actuators for ever"},
    [STEP_ID_GO] = {"go", "go PART [if CONDITION]", "goes on there", "go closing if tide is low",
                    "going back without a `dwell` or `await` on the way: it would go round and round in one tick"},
    [STEP_ID_PART] = {"part", "part NAME", "names this place; 'ending' is where a sequence goes that is ended or fails",
                      "part closing", NULL},
    [STEP_ID_CYCLE] = {"cycle", "cycle [N times] [until CONDITION]",
                       "does the steps that are indented below it again and again", "cycle 3 times", NULL},
    [STEP_ID_END] = {"end", "end", "the sequence is over: it lets go of everything", "end", NULL},
    [STEP_WORDS] = {"ACTUATOR", "ACTUATOR VALUE", "drives it from here on, until another step or the end", "lamp on",
                    NULL},
    {"however", "await CONDITION, however long", "waits without a limit", "await gate is off, however long", NULL},
};

const uint32_t step_words_count = sizeof step_words / sizeof *step_words;
