/* CSV tables: plain rows split in place, others by libcsv. */
#include "table.h"

#include <csv.h>
#include <glib.h>
#include <string.h>

typedef struct field {
    char *text; /* of a quoted one what is between the quotes */
    size_t length;
    bool quoted;
} field;

struct rgp_table {
    rgp_table_reader reader;
    bool plain;       /* no row yet that is libcsv's */
    GByteArray *held; /* of plain rows: what is not read yet */
    uint64_t place;   /* bytes before that */
    field *field;     /* of a row */
    size_t fields, room;
    struct csv_parser parser;
    bool stray;
};

static bool is_blank(char c)
{
    return c == ' ' || c == '\t';
}

/* From behind an opening quote to the closing one; a quote within is doubled. NULL: none closes it. */
static char *closing_quote(char *at, const char *end)
{
    for (; (at = memchr(at, '"', (size_t)(end - at))); at += 2) {
        if (at + 1 == end || at[1] != '"') {
            return at;
        }
    }
    return NULL;
}

/* The field that begins there, and in *next what is behind it. False: it is not plain. */
static bool find_field(char *at, char *end, bool quotes, field *f, char **next)
{
    if (quotes && at < end && *at == '"') {
        char *close = closing_quote(at + 1, end);
        *next = close ? close + 1 : end;
        *f = (field){at + 1, close ? (size_t)(close - at) - 1 : 0, true};
        return close && (*next == end || **next == ',');
    }
    char *comma = memchr(at, ',', (size_t)(end - at));
    *next = comma ? comma : end;
    *f = (field){at, (size_t)(*next - at), false};
    return (f->length == 0 || (!is_blank(f->text[0]) && !is_blank(f->text[f->length - 1]))) &&
           !(quotes && memchr(at, '"', f->length));
}

/* The fields of a line of so many bytes. False: they are not plain, and nothing has been written. */
static bool split(rgp_table *t, char *line, size_t length)
{
    const bool quotes = memchr(line, '"', length) != NULL;
    t->fields = 0;
    if (memchr(line, '\r', length) || memchr(line, '\0', length)) {
        return false;
    }
    for (char *at = line, *const end = line + length;; at++) {
        if (t->fields == t->room) {
            t->room = 2 * t->room + 64;
            t->field = g_renew(field, t->field, t->room);
        }
        if (!find_field(at, end, quotes, &t->field[t->fields++], &at)) {
            return false;
        }
        if (at == end) {
            return true;
        }
    }
}

/* Doubled quotes become single ones, in place; returns what is left of the length. */
static size_t without_doubles(char *text, size_t length)
{
    size_t kept = 0;
    for (size_t i = 0; i < length; i++) {
        text[kept++] = text[i];
        i += text[i] == '"';
    }
    return kept;
}

rgp_table *rgp_table_new(const rgp_table_reader *reader, bool plainly)
{
    rgp_table *t = g_new0(rgp_table, 1);
    t->reader = *reader;
    t->plain = plainly;
    t->held = g_byte_array_new();
    csv_init(&t->parser, CSV_APPEND_NULL | CSV_STRICT | CSV_STRICT_FINI);
    return t;
}

/* False: the row is not plain, and nothing of it was told. */
static bool read_row(rgp_table *t, char *line, size_t length, bool crlf)
{
    if (t->reader.line && t->reader.line(line, length, t->reader.self)) {
        return true;
    }
    if (!split(t, line, length)) {
        return false;
    }
    for (size_t i = 0; i < t->fields; i++) {
        field f = t->field[i];
        f.length = f.quoted ? without_doubles(f.text, f.length) : f.length;
        f.text[f.length] = '\0';
        t->reader.field(f.text, f.length, t->reader.self);
    }
    t->reader.row(crlf ? '\r' : '\n', t->reader.self);
    return true;
}

/* The plain rows of a text, up to the last end of a line: a row without one may be cut off. Returns how many bytes. */
static size_t read_plain(rgp_table *t, char *begin, size_t length)
{
    char *const end = begin + length, *at = begin, *line_end;
    const uint64_t place = t->place;
    while (t->plain && at < end && (line_end = memchr(at, '\n', (size_t)(end - at)))) {
        const bool crlf = line_end > at && line_end[-1] == '\r';
        const size_t bytes = (size_t)(line_end - at) - crlf;
        t->plain = bytes == 0 || read_row(t, at, bytes, crlf);
        at = t->plain ? line_end + 1 : at;
        t->place = place + (uint64_t)(at - begin);
    }
    return (size_t)(at - begin);
}

static void hold(rgp_table *t, const char *text, size_t length)
{
    g_byte_array_append(t->held, (const guint8 *)text, (guint)length);
}

/* The row that the last piece has cut, up to its end in this one. Returns how many bytes of this one that takes. */
static size_t read_held(rgp_table *t, const char *piece, size_t length)
{
    const char *const line_end = memchr(piece, '\n', length);
    const size_t rest = line_end ? (size_t)(line_end - piece) + 1 : length;
    hold(t, piece, rest);
    const size_t read = read_plain(t, (char *)t->held->data, t->held->len);
    g_byte_array_remove_range(t->held, 0, (guint)read);
    return rest;
}

static void read_others(rgp_table *t, const char *text, size_t length)
{
    t->stray |=
        !t->stray && csv_parse(&t->parser, text, length, t->reader.field, t->reader.row, t->reader.self) != length;
}

/* Hands the held text to libcsv, which reads everything behind it, too. */
static void hand_over(rgp_table *t)
{
    if (t->held->len > 0) {
        read_others(t, (const char *)t->held->data, t->held->len);
        g_byte_array_set_size(t->held, 0);
    }
    t->plain = false;
}

void rgp_table_feed(rgp_table *t, char *piece, size_t length)
{
    size_t at = t->plain && t->held->len > 0 ? read_held(t, piece, length) : 0;
    if (t->plain && at < length) {
        at += read_plain(t, piece + at, length - at);
        if (t->plain) {
            hold(t, piece + at, length - at);
            return;
        }
    }
    if (!t->plain) {
        hand_over(t);
        read_others(t, piece + at, length - at);
    }
}

uint64_t rgp_table_place(const rgp_table *t)
{
    return t->plain ? t->place : UINT64_MAX;
}

rgp_table_end rgp_table_finish(rgp_table *t)
{
    hand_over(t);
    const rgp_table_end end = t->stray ? RGP_TABLE_STRAY_QUOTE
                              : csv_fini(&t->parser, t->reader.field, t->reader.row, t->reader.self) != 0
                                  ? RGP_TABLE_OPEN_QUOTE
                                  : RGP_TABLE_READ;
    csv_free(&t->parser);
    g_byte_array_unref(t->held);
    g_free(t->field);
    g_free(t);
    return end;
}
