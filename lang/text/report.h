/* The mistakes in a rig file, kept while it is read and shown in the end. */
#ifndef LANG_REPORT_H
#define LANG_REPORT_H

#include "arena.h"

#include "rigpulse/lang.h"

#include <string.h>

typedef struct text_range {
    uint32_t start, end; /* bytes of the source */
} text_range;

/* The phases of the compiler. Where a line has not been understood, what comes of it later is no mistake of its own:
 * errors of a later phase in a line that has one of an earlier phase are counted as complaints alone. */
typedef enum report_phase { REPORT_LEX, REPORT_PARSE, REPORT_CHECK } report_phase;

typedef struct report {
    report_phase phase;
    unsigned char
        *broken[REPORT_CHECK]; /* by phase: a bit for each byte that begins a line with an error; NULL: none */
    text_range line;           /* that was looked up last, to its break */
    uint32_t *break_at;        /* the ends of all lines but the last */
    uint32_t breaks;
    rgp_arena *arena;
    const char *source;
    size_t length;
    struct report_entry *entry;
    unsigned entries, room;
    uint32_t errors, warnings;
    uint32_t complaints; /* errors, also those that were said already */
} report;

/* An empty one, of a text that outlives it. */
void report_begin(report *to, rgp_arena *arena, const char *source, size_t length);

/* `advice` may be NULL. At most RGP_MESSAGES_MAX of each sort are kept; all are counted. Two errors at
 * one place are one. */
void report_error(report *to, text_range at, const char *advice, const char *format, ...)
    __attribute__((format(printf, 4, 5)));
void report_warning(report *to, text_range at, const char *advice, const char *format, ...)
    __attribute__((format(printf, 4, 5)));

/* Of something that one mistake elsewhere takes away from many places, such as a name: said once, where it is missed
 * first, with the other lines. */
void report_missing(report *to, text_range at, const char *advice, const char *format, ...)
    __attribute__((format(printf, 4, 5)));

/* Puts a place to what report_missing() has said in the same words; false when it has not. */
bool report_joins(report *to, text_range at, const char *text);

/* The entries as the rig's messages, in the order of the file. */
void report_finish(report *from, rgp_rig *rig);

/* The bytes of a text before its end, at most `most`. */
static inline size_t text_length(const char *text, size_t most)
{
    const char *end = memchr(text, '\0', most);
    return end ? (size_t)(end - text) : most;
}

/* True for a byte of UTF-8 that goes on with a character. */
static inline bool continues_character(char byte)
{
    return ((unsigned char)byte & 0xC0u) == 0x80u;
}

/* printable.c: the place of the first byte that is not UTF-8 (RFC 3629); `end` when there is none. */
uint32_t text_not_utf8(const char *text, uint32_t end);

uint32_t report_line(const report *from, uint32_t offset);

/* The name among `count` names (fetched by index) that is nearest to a mistyped one, as an advice
 * "did you mean 'x'?", or NULL when none is near. */
const char *report_suggest(report *to, const char *wrong, const char *(*name)(void *self, uint32_t i), void *self,
                           uint32_t count);

/* The same, or where none is near all there are, "there is: a, b, c"; NULL for an empty list. */
const char *report_choose(report *to, const char *wrong, const char *(*name)(void *self, uint32_t i), void *self,
                          uint32_t count);

#endif
