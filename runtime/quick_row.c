/* Rows of a recording's table as most are, in one go. Field by field, in recording_table.c, they come out the same. */
#include "table_reading.h"

#include "digits.h"

#include <math.h>
#include <string.h>

/* The number that begins there and ends with its field; false: it is none, or one that has to be told apart. */
static bool take_number(rgp_table_reading *r, int32_t column, const char **at, const char *end)
{
    known_word *known = &r->known[column];
    char *behind;
    const float value = (float)rgp_digits_read_in(*at, end, &behind);
    const size_t length = (size_t)(behind - *at);
    if (behind == *at || (behind < end && *behind != ',') || !(fabsf(value) < FLOAT_COUNTS) ||
        length >= sizeof known->text || (uint32_t)column >= r->owners) {
        return false;
    }
    if ((size_t)(end - *at) >= sizeof known->text) {
        memcpy(known->text, *at, sizeof known->text); /* of a constant size */
    } else {
        memcpy(known->text, *at, length);
    }
    known->length = (uint32_t)length;
    known->value = r->value[column] = value;
    *at = behind;
    return true;
}

/* True when a field begins with a text that was held before. Short ones, as most are, are compared as words. */
static bool begins_with(const char *at, const char *end, const known_word *known)
{
    uint64_t is, was;
    if (known->length > sizeof is || end - at < (ptrdiff_t)sizeof is || !RGP_HAS_LITTLE_ENDS) {
        return memcmp(at, known->text, known->length) == 0;
    }
    memcpy(&is, at, sizeof is);
    memcpy(&was, known->text, sizeof was);
    return (is ^ was) << (64u - 8u * known->length) == 0;
}

/* The field that begins there, of a column: what the row before held, or another number. */
static bool take_quickly(rgp_table_reading *r, int32_t column, const char **at, const char *end)
{
    if (column < 0) {
        char *behind = (char *)(uintptr_t)*at;
        r->now = column == COLUMN_TIME ? rgp_digits_read_in(*at, end, &behind) : r->now;
        const bool is = column == COLUMN_TIME ? behind > *at && r->now > r->before && r->now >= 0.0 && r->now < 1e12
                                              : column != COLUMN_OTHER;
        *at = behind;
        return is && (*at == end || **at == ',');
    }
    const known_word *known = &r->known[column];
    const char *behind = *at + known->length;
    if (known->length > 0 && behind <= end && (behind == end || *behind == ',') &&
        behind[-1] == known->text[known->length - 1] && /* noise shows here */
        begins_with(*at, end, known)) {
        r->value[column] = known->value;
        *at = behind;
        return true;
    }
    return take_number(r, column, at, end);
}

bool rgp_table_reading_quickly(rgp_table_reading *r, const char *line, size_t length)
{
    const char *at = line, *const end = line + length;
    const int32_t *column = (const int32_t *)(void *)r->column_of->data;
    const guint columns = r->column_of->len;
    for (guint i = 0; i < columns; i++) {
        if (!take_quickly(r, column[i], &at, end) || (at == end) != (i + 1 == columns)) {
            return false;
        }
        at++;
    }
    return true;
}
