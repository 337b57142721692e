/* Rig texts in recordings of former versions, with their old words renewed in place. */
#include "former.h"

#include <ctype.h>
#include <stdbool.h>
#include <string.h>

/* A word of today is no longer than the former one: blanks fill the rest. */
static const struct {
    const char *former, *today;
} words[] = {{"becomes", "goes"}};

static bool in_word(char c)
{
    return isalnum((unsigned char)c) || c == '_' || (unsigned char)c >= 0x80;
}

static void renew(char *word, size_t length)
{
    for (size_t i = 0; i < sizeof words / sizeof *words; i++) {
        if (strlen(words[i].former) == length && memcmp(word, words[i].former, length) == 0) {
            const size_t today = strlen(words[i].today);
            memcpy(word, words[i].today, today);
            memset(word + today, ' ', length - today);
        }
    }
}

/* Behind a comment, from its '#', or a string, from its first quote. */
static size_t behind(const char *text, size_t at, size_t length)
{
    const bool string = text[at++] == '"';
    while (at < length && text[at] != '\n' && !(string && text[at] == '"')) {
        at++;
    }
    return at < length ? at + 1 : at;
}

void rgp_renew_words(char *text, size_t length)
{
    size_t at = 0;
    while (at < length) {
        size_t end = at;
        while (end < length && in_word(text[end])) {
            end++;
        }
        if (end > at) {
            renew(text + at, end - at);
            at = end;
        } else {
            at = text[at] == '#' || text[at] == '"' ? behind(text, at, length) : at + 1;
        }
    }
}
