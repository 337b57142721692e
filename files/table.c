/* CSV tables: plain rows split in place, others by libcsv. */
#include "table.h"

#include <csv.h>
#include <glib.h>
#include <string.h>

typedef struct field {
    char *text;
    size_t length;
} field;

static bool is_blank(char c)
{
    return c == ' ' || c == '\t';
}

/* The fields of a line of so many bytes. False: they are not plain, and nothing has been written. */
static bool split(char *line, size_t length, GArray *fields)
{
    g_array_set_size(fields, 0);
    if (memchr(line, '"', length) || memchr(line, '\r', length) || memchr(line, '\0', length)) {
        return false;
    }
    for (char *at = line, *const end = line + length;;) {
        char *comma = memchr(at, ',', (size_t)(end - at));
        const field f = {at, (size_t)((comma ? comma : end) - at)};
        if (f.length > 0 && (is_blank(f.text[0]) || is_blank(f.text[f.length - 1]))) {
            return false;
        }
        g_array_append_val(fields, f);
        if (!comma) {
            return true;
        }
        at = comma + 1;
    }
}

/* Plain rows from the start on; returns the bytes that were read. A row without an end of line is not plain: it may be
 * cut off. */
static size_t read_plain(char *text, size_t length, const rgp_table_reader *reader)
{
    GArray *fields = g_array_new(FALSE, FALSE, sizeof(field));
    char *at = text, *const end = text + length, *line_end;
    while ((line_end = memchr(at, '\n', (size_t)(end - at)))) {
        const bool crlf = line_end > at && line_end[-1] == '\r';
        const size_t bytes = (size_t)(line_end - at) - crlf;
        if (bytes > 0) {
            if (!split(at, bytes, fields)) {
                break;
            }
            for (guint i = 0; i < fields->len; i++) {
                const field f = g_array_index(fields, field, i);
                f.text[f.length] = '\0';
                reader->field(f.text, f.length, reader->self);
            }
            reader->row(crlf ? '\r' : '\n', reader->self);
        }
        at = line_end + 1;
    }
    g_array_unref(fields);
    return (size_t)(at - text);
}

rgp_table_end rgp_table_read(char *text, size_t length, const rgp_table_reader *reader, bool plainly)
{
    const size_t read = plainly ? read_plain(text, length, reader) : 0;
    struct csv_parser parser;
    csv_init(&parser, CSV_APPEND_NULL | CSV_STRICT | CSV_STRICT_FINI);
    rgp_table_end end = RGP_TABLE_READ;
    if (csv_parse(&parser, text + read, length - read, reader->field, reader->row, reader->self) != length - read) {
        end = RGP_TABLE_STRAY_QUOTE;
    } else if (csv_fini(&parser, reader->field, reader->row, reader->self) != 0) {
        end = RGP_TABLE_OPEN_QUOTE;
    }
    csv_free(&parser);
    return end;
}
