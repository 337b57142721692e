/* Words and marks that people bring along from elsewhere, and what says the same here. They are looked up only where
 * something was not understood. */
#include "words.h"

#include <string.h>

static const struct {
    const char *word, *advice;
} foreign[] = {
    /* statements */
    {"if", "write 'while CONDITION', or for the moment 'on EVENT and CONDITION'"},
    {"when", "write 'on EVENT' for the moment, or 'while CONDITION'"},
    {"else", "write a second rule with the opposite condition, for instance: while not tide is low"},
    {"repeat", "write 'on every TIME', or 'cycle' in a sequence"},
    {"loop", "write 'cycle' in a sequence; a 'loop' regulates, and begins in the first column"},
    {"set", "leave it out: an action is the name and the value, for instance: pump 40 %"},
    {"const", "write 'param NAME = VALUE in LOW..HIGH'"},
    {"let", "write 'signal NAME = EXPRESSION'"},
    {"var", "write 'signal NAME = EXPRESSION', or 'mode NAME: NAME, NAME'"},
    /* actions */
    {"wait", "write 'dwell TIME' in a sequence, or 'for TIME' behind the action"},
    {"delay", "write 'dwell TIME' in a sequence, or 'on TIME after EVENT'"},
    {"sleep", "write 'dwell TIME' in a sequence"},
    {"print", "write 'mark TEXT VALUE': it goes into the recording"},
    {"log", "write 'mark TEXT VALUE': it goes into the recording"},
    {"start", "write 'begin SEQUENCE'"},
    /* comparisons */
    {">", "write 'above': depth above 3 cm"},
    {"<", "write 'below': depth below 3 cm"},
    {"=", "a state is asked for with 'is', a quantity with 'above' or 'below'"},
    {"!", "write 'not': not tide is low, tide is not low"},
    {"&", "write 'and'"},
    {"between", "write two comparisons with 'and', or name the stretch with 'bands'"},
    {"equals", "write 'is' for a state, 'above' or 'below' for a quantity"},
    {"greater", "write 'above': depth above 3 cm"},
    {"under", "write 'below': depth below 3 cm"},
    {"becomes", "write 'goes': on tide goes high"}, /* the word of former versions */
    {"rises", "write 'goes above': depth goes above 3 cm; or a switch: gate goes on"},
    {"falls", "write 'goes below': depth goes below 3 cm; or a switch: gate goes off"},
    {"on", "a state is 'gate is on', the moment 'gate goes on'"},
    {"off", "a state is 'gate is off', the moment 'gate goes off'"},
    {"true", "a switch is 'on' or 'off'"},
    {"false", "a switch is 'on' or 'off'"},
    /* stages and functions */
    {"median", "write 'despike READINGS': it is the median of the last readings"},
    {"mean", "write 'average READINGS'"},
    {"filter", "write 'smooth TIME', 'average READINGS' or 'despike READINGS'"},
    {"lowpass", "write 'smooth TIME'"},
    {"derivative", "write 'slope TIME'"},
    {"integral", "write 'accumulate'"},
    {"integrate", "write 'accumulate'"},
    {"scale", "write 'line GAIN, OFFSET', or 'table IN: OUT, IN: OUT'"},
    {"clamp", "write 'limit LOW, HIGH'"},
    /* units */
    {"C", "write '°C' or 'degC'"},
    {"celsius", "write '°C' or 'degC'"},
    {"Celsius", "write '°C' or 'degC'"},
    {"ºC", "write '°C' or 'degC': this sign is the ordinal º"},
    {"˚C", "write '°C' or 'degC': this sign is the ring ˚"},
    {"℃", "write '°C' or 'degC'"},
    {"F", "write '°F' or 'degF'"},
    {"sec", "write 's'"},
    {"secs", "write 's'"},
    {"second", "write 's'"},
    {"seconds", "write 's'"},
    {"minute", "write 'min'"},
    {"minutes", "write 'min'"},
    {"hour", "write 'h'"},
    {"hours", "write 'h'"},
    {"day", "write '24 h'"},
    {"days", "write it in hours: '24 h'"},
    {"MS", "write 'ms': m is a thousandth, M a million"},
    {"msec", "write 'ms'"},
    {"usec", "write 'us'"},
    {"degree", "write 'deg', or '°C' for a temperature"},
    {"degrees", "write 'deg', or '°C' for a temperature"},
    {"hz", "write 'Hz'"},
    {"v", "write 'V'"},
    {"kg", "there is no unit of mass; declare it: unit kg"},
    {"gram", "there is no unit of mass; declare it: unit gram"},
    {"metre", "write 'm'"},
    {"meter", "write 'm'"},
    {"raw", "write 'counts'"},
    {"adc", "write 'counts'"},
    /* marks */
    {"/", "a comment begins with '#'"},
    {";", "leave it out: the end of the line ends a statement"},
    {"{", "leave it out: what belongs below a statement is indented"},
    {"}", "leave it out: what belongs below a statement is indented"},
    {"[", "write round brackets"},
    {"]", "write round brackets"},
    {"'", "a text stands in double quotes: \""},
};

const char *rgp_word_elsewhere(const char *word)
{
    for (uint32_t i = 0; i < sizeof foreign / sizeof *foreign; i++) {
        if (strcmp(foreign[i].word, word) == 0) {
            return foreign[i].advice;
        }
    }
    return NULL;
}

/* Characters that look like others, as programs for writing letters put them in. */
static const foreign_character characters[] = {
    {"\xC2\xA0", "a no-break blank", "type a plain one"},
    {"\xE2\x80\xAF", "a no-break blank", "type a plain one"},
    {"\xE2\x80\x89", "a thin blank", "type a plain one"},
    {"\xE2\x88\x92", "a typographic minus", "type '-'"},
    {"\xE2\x80\x93", "a dash", "type '-'"},
    {"\xE2\x80\x94", "a dash", "type '-'"},
    {"\xE2\x80\x9C", "a typographic quote", "type \""},
    {"\xE2\x80\x9D", "a typographic quote", "type \""},
    {"\xE2\x80\x9E", "a typographic quote", "type \""},
    {"\xC2\xAB", "a typographic quote", "type \""},
    {"\xC2\xBB", "a typographic quote", "type \""},
    {"\xE2\x80\x98", "a typographic quote", "type \""},
    {"\xE2\x80\x99", "a typographic quote", "type \""},
    {"\xE2\x80\xA6", "three dots in one character", "a range has two: 0..100"},
    {"\xC3\x97", "a multiplication sign", "type '*'"},
    {"\xC3\xB7", "a division sign", "type '/'"},
    {"\xE2\x89\xA4", "a comparison sign", "write 'below'"},
    {"\xE2\x89\xA5", "a comparison sign", "write 'above'"},
};

const foreign_character *foreign_character_at(const char *text, uint32_t length)
{
    for (uint32_t i = 0; i < sizeof characters / sizeof *characters; i++) {
        const uint32_t bytes = (uint32_t)strlen(characters[i].bytes);
        if (bytes <= length && memcmp(text, characters[i].bytes, bytes) == 0) {
            return &characters[i];
        }
    }
    return NULL;
}
