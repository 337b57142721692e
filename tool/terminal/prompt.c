/* Notes that stand for a while, and lines that are typed. */
#include "prompt.h"

#include <curses.h>
#include <stdarg.h>
#include <string.h>

#define NOTE_US     6000000
#define LETTER_US   50000 /* of a long one */
#define ANSWER_MOST 200u
#define ESCAPE      27

void note_say_list(note *n, const char *format, va_list arguments)
{
    char *text = g_strdup_vprintf(format, arguments);
    g_free(n->text);
    n->text = text;
    n->until = g_get_monotonic_time() + MAX(NOTE_US, (gint64)strlen(text) * LETTER_US);
}

void note_say(note *n, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    note_say_list(n, format, arguments);
    va_end(arguments);
}

const char *note_now(const note *n)
{
    return n->text && g_get_monotonic_time() < n->until ? n->text : NULL;
}

void note_clear(note *n)
{
    g_clear_pointer(&n->text, g_free);
}

void prompt_begin(prompt *p)
{
    *p = (prompt){.answer = g_string_new(NULL)};
}

void prompt_end(prompt *p)
{
    g_free(p->question);
    g_string_free(p->answer, TRUE);
}

void prompt_ask_list(prompt *p, prompt_take *take, uint32_t which, const char *format, va_list arguments)
{
    g_free(p->question);
    p->question = g_strdup_vprintf(format, arguments);
    p->take = take;
    p->which = which;
    g_string_truncate(p->answer, 0);
}

void prompt_ask(prompt *p, prompt_take *take, uint32_t which, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    prompt_ask_list(p, take, which, format, arguments);
    va_end(arguments);
}

static void rub_out(GString *answer)
{
    if (answer->len > 0) {
        const char *last = g_utf8_find_prev_char(answer->str, answer->str + answer->len);
        g_string_truncate(answer, (gsize)(last - answer->str));
    }
}

bool prompt_key(prompt *p, int key, void *self)
{
    if (key == '\r' || key == '\n' || key == KEY_ENTER) {
        g_autofree char *typed = g_strstrip(g_strdup(p->answer->str));
        if (p->take(self, typed)) {
            g_clear_pointer(&p->question, g_free);
        }
    } else if (key == ESCAPE) {
        g_clear_pointer(&p->question, g_free);
        return false;
    } else if (key == KEY_BACKSPACE || key == 127 || key == 8) {
        rub_out(p->answer);
    } else if (key >= ' ' && key < 256 && p->answer->len < ANSWER_MOST) {
        g_string_append_c(p->answer, (char)key);
    }
    return true;
}

char *prompt_text(const prompt *p, int width)
{
    g_autofree char *valid = g_utf8_make_valid(p->answer->str, -1);
    g_autofree char *text = g_strdup_printf("%s: %s_", p->question, valid);
    const glong length = g_utf8_strlen(text, -1);
    return g_strdup(length > width ? g_utf8_offset_to_pointer(text, length - width) : text);
}
