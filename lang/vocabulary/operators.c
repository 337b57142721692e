/* Words and marks that join two values, or say something of one. */
#include "words.h"

#include "image/ops.h"

#include <stddef.h>

const operator_word operator_words[] = {
    {"+", "A + B", "sum; both sides in units of one kind", "signal both = left + right", NULL, .op = RGP_OP_ADD},
    {"-", "A - B", "difference; two temperatures give an interval", "signal lean = left - right", NULL,
     .op = RGP_OP_SUBTRACT},
    {"*", "A * B", "product; units multiply", "signal power = left * 2", NULL, .op = RGP_OP_MULTIPLY},
    {"/", "A / B", "quotient; units divide; by 0 it is out of range", "signal half = left / 2",
     "a number without a unit under it: 5 cm / 2 s is a speed, 5 cm / 2 is a length", .op = RGP_OP_DIVIDE},
    {"min", "min(A, B)", "the lesser of two", "signal lower = min(left, right)", NULL, .op = RGP_OP_LEAST, .takes = 2,
     .reserved = true},
    {"max", "max(A, B)", "the greater of two", "signal upper = max(left, right)", NULL, .op = RGP_OP_GREATEST,
     .takes = 2, .reserved = true},
    {"abs", "abs(A)", "its size, without the sign", "signal off_by = abs(depth - 5 cm)", NULL, .op = RGP_OP_MAGNITUDE,
     .takes = 1, .reserved = true},
    {"sqrt", "sqrt(A)", "the square root; its unit squared is that of A; of what is below 0 it is out of range",
     "signal size = sqrt(left * left + right * right)", NULL, .op = RGP_OP_ROOT, .takes = 1, .reserved = true},
    {"and", "COND and COND", "both are true", "while tide is low and lamp is off", NULL, .op = RGP_OP_BOTH,
     .reserved = true},
    {"or", "COND or COND", "at least one is true", "while tide is low or lamp is on", NULL, .op = RGP_OP_ANY,
     .reserved = true},
    {"below", "A below LIMIT[, margin M]", "true under LIMIT, false again only from LIMIT + M",
     "while depth below 3 cm, margin 0.4 cm",
     "no margin on a signal that has noise: it fires again and again at the limit", .op = RGP_OP_COMPARE},
    {"above", "A above LIMIT[, margin M]", "true over LIMIT, false again only at LIMIT - M",
     "while depth above 9 cm, margin 0.4 cm",
     "no margin on a signal that has noise: it fires again and again at the limit", .op = RGP_OP_COMPARE},
    {"not", "not COND", "true while the other is false; what cannot be known is not known either way",
     "while not tide is low",
     "`not` before an event: an event has no opposite, `no EVENT for TIME` says that it has not come",
     .op = RGP_OP_EQUALS, .reserved = true},
    {"is", "BANDS is [not] NAME", "in that band; also a switch that is on or off", "while tide is low",
     "`=` or `==`: a state is asked for with `is`, a quantity with `above` and `below`", .op = RGP_OP_EQUALS,
     .reserved = true},
    {"goes", "BANDS goes NAME",
     "an event: the band was just entered; of a quantity 'depth goes below 3 cm', of a switch 'gate goes on'",
     "on tide goes high", "`while tide goes low`: a moment needs `on`, a state `while tide is low`", .op = RGP_OP_EDGE},
    {"leaves", "BANDS leaves NAME", "an event: the band was just left", "on tide leaves low", NULL, .op = RGP_OP_EDGE},
    {"for", "COND for TIME", "true once it has been true for TIME without a break; in 'on' the event of that moment",
     "on tide is low for 3 s", "`for` behind an event: an event has no duration, a condition has", .op = RGP_OP_LASTS},
    {"start", "start", "the event of the first tick", "on start or tide goes low", NULL, .op = RGP_OP_ONCE,
     .reserved = true},
    {"driven", "ACTUATOR is driven", "it is away from its rest value, as written in the last tick",
     "drive relay = pump is driven", NULL, .op = RGP_OP_EQUALS},
    {"running", "SEQUENCE is running|idle", "whether a sequence is at one of its steps", "while signal_boat is running",
     NULL, .op = RGP_OP_EQUALS},
    {"known", "A is known", "whether it can be used: neither bad, nor missing, nor still to be learned",
     "while depth is known", NULL, .op = RGP_OP_KNOWN},
    {"settled", "ACTUATOR is settled", "what is written to it has not changed for the settle time of its line",
     "while arm is settled", NULL, .op = RGP_OP_STILL},
    {"in", "A in UNIT", "the same quantity in another unit", "signal mm_deep = depth in mm", NULL, .op = RGP_OP_LINE},
    {"bands", "bands NAME = A: ...", "see the statement", "bands tide = depth: low below 3 cm, high", NULL,
     .op = RGP_OP_BANDS},
};

const uint32_t operator_words_count = sizeof operator_words / sizeof *operator_words;

const operator_word *operator_word_find(const char *word)
{
    for (uint32_t i = 0; i < operator_words_count; i++) {
        if (strcmp(operator_words[i].word, word) == 0) {
            return &operator_words[i];
        }
    }
    return NULL;
}

const char *const joining_words[] = {"goes", "margin", "priority", "while",  "until", "more",
                                     "less", "times",  "every",    "within", "over"};

const uint32_t joining_words_count = sizeof joining_words / sizeof *joining_words;
