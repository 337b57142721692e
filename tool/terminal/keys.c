/* A table of keys: found, shown as a page, and as the line at the bottom. */
#include "keys.h"

#include "screen.h"

enum { PAGE_TOP = 2, PAGE_LEFT = 2, PAGE_KEY = 8, PAGE_WIDE = 130 };

static const key_face *face_of(key_table table, size_t i)
{
    return (const key_face *)(const void *)((const char *)table.rows + i * table.size);
}

size_t keys_find(key_table table, int key)
{
    size_t i = 0;
    while (i < table.count && face_of(table, i)->key != key &&
           (!face_of(table, i)->also || face_of(table, i)->also != key)) {
        i++;
    }
    return i;
}

void keys_draw_head(const char *text)
{
    screen_put(0, PAGE_LEFT, screen_columns() - PAGE_LEFT, INK_STRONG, text);
}

void keys_draw_line(size_t i, size_t count, const char *shown, const char *says)
{
    const size_t half = (count + 1) / 2;
    const bool two = screen_columns() >= PAGE_WIDE || screen_rows() < (int)count + PAGE_TOP + 1,
               right = two && i >= half;
    const int width = two ? screen_columns() / 2 : screen_columns(), column = right ? width : PAGE_LEFT;
    const int row = PAGE_TOP + (int)(right ? i - half : i);
    screen_put(row, column, PAGE_KEY, INK_STRONG, shown);
    screen_put(row, column + PAGE_KEY, width - PAGE_KEY - PAGE_LEFT, INK_PLAIN, says);
}

void keys_draw_page(key_table table)
{
    keys_draw_head("All keys");
    for (size_t i = 0; i < table.count; i++) {
        keys_draw_line(i, table.count, face_of(table, i)->shown, face_of(table, i)->says);
    }
}

static const char *hint_of(key_table table, size_t i, unsigned when)
{
    const key_face *face = face_of(table, i);
    return face->when & when ? face->hint : NULL;
}

/* Behind the others, as many as there is room for, the last two: how to see all keys, and how to leave. */
void keys_draw_hints(key_table table, unsigned when, int row, int width)
{
    g_autoptr(GString) line = g_string_new(" "), always = g_string_new(NULL);
    const size_t others = table.count - MIN(table.count, 2u);
    for (size_t i = others; i < table.count; i++) {
        const char *hint = hint_of(table, i, when);
        g_string_append_printf(always, "%s%s", i > others ? "  " : "", hint ? hint : "");
    }
    const glong room = width - g_utf8_strlen(always->str, -1);
    for (size_t i = 0; i < others; i++) {
        const char *hint = hint_of(table, i, when);
        if (hint && g_utf8_strlen(line->str, -1) + g_utf8_strlen(hint, -1) + 2 <= room) {
            g_string_append_printf(line, "%s  ", hint);
        }
    }
    g_string_append(line, always->str);
    screen_fill(row, 0, width, INK_HEAD, line->str);
}
