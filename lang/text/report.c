/* Messages: kept without repeating one mistake, sorted, and shown with their line. */
#include "report.h"

#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define SHOWN_WIDTH       100u
#define NAME_MAX_COMPARED 32u
#define LISTED_MOST       12u

/* Further lines with the same mistake that an entry can name. */
#define ELSEWHERE_MOST    8u

typedef struct report_entry {
    text_range at;
    bool warning, shared;
    const char *text, *advice;
    uint32_t elsewhere[ELSEWHERE_MOST]; /* lines, from low to high */
    uint32_t more;                      /* all such lines */
} report_entry;

/* The first byte of the line. */
static uint32_t begin_of_line(report *in, uint32_t offset)
{
    if (offset < in->line.start || offset > in->line.end) {
        const char *end = memchr(in->source + offset, '\n', in->length - offset);
        in->line.end = end ? (uint32_t)(end - in->source) : (uint32_t)in->length;
        for (in->line.start = offset; in->line.start > 0 && in->source[in->line.start - 1] != '\n';) {
            in->line.start--;
        }
    }
    return in->line.start;
}

static bool is_broken(report *in, uint32_t offset)
{
    const uint32_t line = begin_of_line(in, offset);
    bool broken = false;
    for (uint32_t phase = 0; phase < in->phase; phase++) {
        broken |= in->broken[phase] && in->broken[phase][line / 8] >> line % 8 & 1;
    }
    return broken;
}

static void mark_broken(report *in, uint32_t offset)
{
    const uint32_t line = begin_of_line(in, offset);
    if (in->phase < REPORT_CHECK) {
        unsigned char **bits = &in->broken[in->phase];
        *bits = *bits ? *bits : arena_get(in->arena, in->length / 8 + 1);
        (*bits)[line / 8] |= (unsigned char)(1u << line % 8);
    }
}

/* The same place, or a line that an earlier phase has not understood. */
static bool is_said(report *in, text_range at, bool warning)
{
    for (unsigned i = 0; i < in->entries; i++) {
        if (in->entry[i].at.start == at.start && in->entry[i].warning == warning) {
            return true;
        }
    }
    return is_broken(in, at.start);
}

/* One line more, in its order; those beyond the room are counted. */
static void add_line(report_entry *to, uint32_t line)
{
    uint32_t i = to->more < ELSEWHERE_MOST ? to->more : ELSEWHERE_MOST;
    for (uint32_t k = 0; k < i; k++) {
        if (to->elsewhere[k] == line) {
            return;
        }
    }
    to->more++;
    if (i == ELSEWHERE_MOST && to->elsewhere[--i] < line) {
        return;
    }
    while (i > 0 && to->elsewhere[i - 1] > line) {
        to->elsewhere[i] = to->elsewhere[i - 1];
        i--;
    }
    to->elsewhere[i] = line;
}

bool report_joins(report *to, text_range at, const char *text)
{
    for (unsigned i = 0; i < to->entries; i++) {
        report_entry *e = &to->entry[i];
        if (!e->shared || strcmp(e->text, text) != 0) {
            continue;
        }
        const uint32_t first = report_line(to, e->at.start < at.start ? e->at.start : at.start);
        const uint32_t second = report_line(to, e->at.start < at.start ? at.start : e->at.start);
        if (at.start < e->at.start) {
            e->at = at;
        }
        if (second != first) {
            add_line(e, second);
        }
        return true;
    }
    return false;
}

static void add_entry(report *to, report_entry is, const char *format, va_list arguments)
{
    to->complaints += !is.warning;
    if (is_said(to, is.at, is.warning)) {
        return;
    }
    if (!is.warning) {
        mark_broken(to, is.at.start);
    }
    char text[512];
    vsnprintf(text, sizeof text, format, arguments);
    rgp_make_printable(text, false); /* a long one may have been cut within a character */
    uint32_t *count = is.warning ? &to->warnings : &to->errors;
    if ((is.shared && report_joins(to, is.at, text)) || ++*count > RGP_MESSAGES_MAX) {
        return;
    }
    is.text = arena_copy(to->arena, text, strlen(text));
    *ARENA_PUSH(to->arena, to->entry, to->entries, to->room) = is;
}

void report_error(report *to, text_range at, const char *advice, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    add_entry(to, (report_entry){.at = at, .advice = advice}, format, arguments);
    va_end(arguments);
}

void report_missing(report *to, text_range at, const char *advice, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    add_entry(to, (report_entry){.at = at, .shared = true, .advice = advice}, format, arguments);
    va_end(arguments);
}

void report_warning(report *to, text_range at, const char *advice, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    add_entry(to, (report_entry){.at = at, .warning = true, .advice = advice}, format, arguments);
    va_end(arguments);
}

void report_begin(report *to, rgp_arena *arena, const char *source, size_t length)
{
    *to = (report){.arena = arena, .source = source, .length = length};
    for (size_t i = 0; i < length; i++) {
        to->breaks += source[i] == '\n';
    }
    to->break_at = arena_get(arena, (to->breaks + 1u) * sizeof *to->break_at);
    uint32_t k = 0;
    for (size_t i = 0; i < length; i++) {
        to->break_at[k] = (uint32_t)i;
        k += source[i] == '\n';
    }
}

/* As many as end before it, and one. */
uint32_t report_line(const report *from, uint32_t offset)
{
    uint32_t low = 0, high = from->breaks;
    while (low < high) {
        const uint32_t middle = low + (high - low) / 2;
        if (from->break_at[middle] < offset) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return low + 1;
}

static uint32_t column_of(const report *from, uint32_t offset)
{
    uint32_t column = 1;
    for (uint32_t i = offset; i > 0 && from->source[i - 1] != '\n'; i--) {
        column += !continues_character(from->source[i - 1]);
    }
    return column;
}

static uint32_t characters(const report *from, text_range at)
{
    uint32_t count = 0;
    for (uint32_t i = at.start; i < at.end && i < from->length; i++) {
        count += !continues_character(from->source[i]);
    }
    return count;
}

static int by_place(const void *a, const void *b)
{
    const report_entry *left = a, *right = b;
    return left->at.start < right->at.start ? -1 : left->at.start > right->at.start;
}

/* "...; also on lines 8, 9 and 12". */
static const char *with_lines(report *from, const report_entry *e)
{
    const char *all = e->text;
    const uint32_t told = e->more < ELSEWHERE_MOST ? e->more : ELSEWHERE_MOST;
    for (uint32_t i = 0; i < told; i++) {
        all = arena_print(from->arena, "%s%s%u", all,
                          i > 0         ? (i + 1 == e->more ? " and " : ", ")
                          : e->more > 1 ? "; also on lines "
                                        : "; also on line ",
                          e->elsewhere[i]);
    }
    return e->more > told ? arena_print(from->arena, "%s and %u more", all, e->more - told) : all;
}

void report_finish(report *from, rgp_rig *rig)
{
    if (from->entries > 0) {
        qsort(from->entry, from->entries, sizeof *from->entry, by_place);
    }
    rgp_message *message = arena_get(from->arena, (from->entries + 1u) * sizeof *message);
    for (unsigned i = 0; i < from->entries; i++) {
        const report_entry *e = &from->entry[i];
        message[i] = (rgp_message){.warning = e->warning,
                                   .line = report_line(from, e->at.start),
                                   .column = column_of(from, e->at.start),
                                   .length = characters(from, e->at),
                                   .text = with_lines(from, e),
                                   .advice = e->advice};
    }
    rig->message = message;
    rig->messages = from->entries;
    rig->errors = from->errors;
    rig->warnings = from->warnings;
}

/* Damerau-Levenshtein distance (optimal string alignment; Damerau, 1964; Levenshtein, 1966). */
static uint32_t distance(const char *a, const char *b)
{
    const uint32_t n = (uint32_t)text_length(a, NAME_MAX_COMPARED), m = (uint32_t)text_length(b, NAME_MAX_COMPARED);
    uint32_t row[3][NAME_MAX_COMPARED + 1];
    for (uint32_t j = 0; j <= m; j++) {
        row[0][j] = j;
    }
    for (uint32_t i = 1; i <= n; i++) {
        uint32_t *now = row[i % 3], *before = row[(i + 2) % 3], *two_before = row[(i + 1) % 3];
        now[0] = i;
        for (uint32_t j = 1; j <= m; j++) {
            uint32_t least = before[j - 1] + (a[i - 1] != b[j - 1]);
            least = before[j] + 1 < least ? before[j] + 1 : least;
            least = now[j - 1] + 1 < least ? now[j - 1] + 1 : least;
            const bool swapped = i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1];
            now[j] = swapped && two_before[j - 2] + 1 < least ? two_before[j - 2] + 1 : least;
        }
    }
    return row[n % 3][m];
}

static const char *nearest(const char *wrong, const char *(*name)(void *self, uint32_t i), void *self, uint32_t count)
{
    const char *found = NULL;
    uint32_t least = ((uint32_t)text_length(wrong, NAME_MAX_COMPARED) + 1) / 3;
    for (uint32_t i = 0; i < count; i++) {
        const char *candidate = name(self, i);
        const uint32_t d = candidate && *candidate ? distance(wrong, candidate) : UINT32_MAX;
        if (d == 0) {
            return NULL; /* it is mistyped in nothing: it stands in the wrong place */
        }
        if (d <= least && d < (uint32_t)strlen(wrong)) {
            least = d - 1;
            found = candidate;
        }
    }
    return found;
}

const char *report_suggest(report *to, const char *wrong, const char *(*name)(void *self, uint32_t i), void *self,
                           uint32_t count)
{
    const char *found = nearest(wrong, name, self, count);
    return found ? arena_print(to->arena, "did you mean '%s'?", found) : NULL;
}

const char *report_choose(report *to, const char *wrong, const char *(*name)(void *self, uint32_t i), void *self,
                          uint32_t count)
{
    const char *found = report_suggest(to, wrong, name, self, count);
    const char *all = "";
    for (uint32_t i = 0; !found && i < count; i++) {
        all = i == LISTED_MOST  ? arena_print(to->arena, "%s, ...", all)
              : i < LISTED_MOST ? arena_print(to->arena, "%s%s%s", all, i > 0 ? ", " : "", name(self, i))
                                : all;
    }
    return found ? found : *all ? arena_print(to->arena, "there is: %s", all) : NULL;
}

static const char *word_of_list(void *self, uint32_t i)
{
    const char *const *words = self;
    return words[i];
}

const char *rgp_nearest_word(const char *wrong, const char *const *words, uint32_t count)
{
    return nearest(wrong, word_of_list, (void *)words, count);
}

/* The source line as it is shown: tabs as blanks, long ones cut to a window around the column. */
static const char *shown_line(rgp_rig *rig, const rgp_message *message, uint32_t *caret)
{
    const char *at = rig->source, *end = rig->source + rig->length;
    for (uint32_t line = 1; line < message->line; line++) {
        at = (const char *)memchr(at, '\n', (size_t)(end - at)) + 1;
    }
    uint32_t skip = message->column > SHOWN_WIDTH ? message->column - SHOWN_WIDTH / 2 : 0;
    *caret = message->column - 1 - skip;
    for (; skip > 0 && at < end; skip--) {
        at++;
        while (at < end && continues_character(*at)) {
            at++;
        }
    }
    char *shown = arena_get(rig->arena, 4 * SHOWN_WIDTH + 1);
    uint32_t bytes = 0;
    for (uint32_t characters = 0; at < end && *at != '\n' && *at != '\r'; at++) {
        characters += !continues_character(*at);
        if (characters > SHOWN_WIDTH || bytes >= 4 * SHOWN_WIDTH) {
            break;
        }
        shown[bytes++] = *at == '\0' ? ' ' : *at;
    }
    return rgp_make_printable(shown, false);
}

const char *rgp_rig_report(rgp_rig *rig)
{
    const char *all = "", *file = rgp_make_printable(arena_copy(rig->arena, rig->file, strlen(rig->file)), false);
    for (uint32_t i = 0; i < rig->messages; i++) {
        const rgp_message *m = &rig->message[i];
        uint32_t caret;
        const char *line = shown_line(rig, m, &caret);
        all = arena_print(rig->arena, "%s%s:%u:%u: %s: %s\n    %s\n    %*s^%s%s\n", all, file, m->line, m->column,
                          m->warning ? "warning" : "error", m->text, line, (int)caret, "", m->advice ? " " : "",
                          m->advice ? m->advice : "");
    }
    if (rig->errors > RGP_MESSAGES_MAX) {
        all = arena_print(rig->arena, "%s%s: %u more errors\n", all, file, rig->errors - RGP_MESSAGES_MAX);
    }
    return all;
}
