/* Detectors: words that make an event or a condition of a value, of other events, or of time alone. */
#include "words.h"

#include "image/ops.h"

#include <stddef.h>

#define AT(block, field)                    offsetof(rgp_##block##_config, field)
#define SECONDS(before, name, block, field) before, name, UNIT_SECOND, (uint16_t)AT(block, field), false, false

const detector_word detector_words[] = {
    {.word = "moved",
     .form = "A moved AMOUNT over TIME[, margin M]",
     .help =
         "true while it is away, either way, by more than AMOUNT from its own slow baseline; in 'on' the event of that "
         "moment",
     .example = "on depth moved 5 mm over 10 s",
     .slip = "an AMOUNT within the noise: it is true most of the time",
     .op = RGP_OP_MOVED,
     .input = DETECTS_NUMBER,
     .setting = {{NULL, "the amount", UNIT_IN_INTERVAL, AT(moved, amount), false, false},
                 {"over", "the baseline's time", UNIT_SECOND, AT(moved, time_constant), false, false},
                 {"margin", "the margin", UNIT_IN_INTERVAL, AT(moved, margin), true, true}}},
    {.word = "turns",
     .form = "A turns [up|down] by LEAST",
     .help = "an event: a turning point, told when it has come back by LEAST, with the moment at which it was",
     .example = "on depth turns down by 2 mm",
     .slip = "a LEAST within the noise: each wiggle is a turning point",
     .op = RGP_OP_TURN,
     .input = DETECTS_NUMBER,
     .gives_event = true,
     .setting = {{"by", "the least swing", UNIT_IN_INTERVAL, AT(turn, least), false, false}},
     .choice = {{"up", RGP_TURN_UP}, {"down", RGP_TURN_DOWN}},
     .otherwise = RGP_TURN_EITHER,
     .has_which = true,
     .which_offset = AT(turn, which)},
    {.word = "changes",
     .form = "BANDS changes",
     .help = "an event: another band was just entered, or a switch was switched",
     .example = "on tide changes",
     .op = RGP_OP_CHANGED,
     .input = DETECTS_NAMED,
     .gives_event = true},
    {.word = "still",
     .form = "A still for TIME[ within X]",
     .help = "true once it has stayed where it is, give or take X, for TIME; in 'on' the event of that moment",
     .example = "on depth still for 5 s within 1 mm",
     .slip = "no `within` on a signal that has noise: it is never still",
     .op = RGP_OP_STILL,
     .input = DETECTS_NUMBER,
     .setting = {{"for", "the time", UNIT_SECOND, AT(still, time), false, false},
                 {"within", "how much it may move", UNIT_IN_INTERVAL, AT(still, within), true, false}}},
    {.word = "every",
     .form = "every TIME",
     .help = "an event each TIME, the first a TIME after the start",
     .example = "on every 10 s",
     .slip = "a TIME that is not a multiple of the tick: it comes at the tick behind it",
     .op = RGP_OP_EVERY,
     .place = DETECTOR_FIRST,
     .gives_event = true,
     .reserved = true,
     .setting = {{SECONDS(NULL, "the period", every, period)}}},
    {.word = "no",
     .form = "no EVENT for TIME",
     .help = "true when an event has not come for TIME; in 'on' the event of that moment",
     .example = "on no gate goes on for 30 s",
     .op = RGP_OP_ABSENT,
     .place = DETECTOR_FIRST,
     .input = DETECTS_EVENT,
     .reserved = true,
     .setting = {{SECONDS("for", "the time", absent, time)}}},
    {.word = "after",
     .form = "TIME after EVENT",
     .help = "an event so long after another one; if that comes again meanwhile the time begins anew",
     .example = "on 3 s after gate goes on",
     .slip = "taken for `for`: `3 s after gate goes on` comes also when the gate is off again",
     .op = RGP_OP_AFTER,
     .place = DETECTOR_BETWEEN,
     .input = DETECTS_EVENT,
     .gives_event = true,
     .setting = {{SECONDS(NULL, "the time", after, time)}}},
    {.word = "times",
     .form = "N times EVENT within TIME",
     .help = "an event when another one has come N times within TIME; then the counting begins anew",
     .example = "on 3 times gate goes on within 10 s",
     .op = RGP_OP_TIMES,
     .place = DETECTOR_BETWEEN,
     .input = DETECTS_EVENT,
     .gives_event = true,
     .setting = {{SECONDS("within", "the time", times, within)}},
     .has_which = true,
     .which_offset = AT(times, count)},
};

const uint32_t detector_words_count = sizeof detector_words / sizeof *detector_words;

const detector_word *detector_word_find(const char *word)
{
    for (uint32_t i = 0; i < detector_words_count; i++) {
        if (strcmp(detector_words[i].word, word) == 0) {
            return &detector_words[i];
        }
    }
    return NULL;
}
