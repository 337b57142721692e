/* Words at the bottom of the view: notes and questions. */
#include "watch.h"

#include <stdarg.h>

void watch_say(watching *w, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    note_say_list(&w->note, format, arguments);
    va_end(arguments);
}

void watch_ask(watching *w, prompt_take *take, uint32_t which, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    note_clear(&w->note);
    prompt_ask_list(&w->prompt, take, which, format, arguments);
    va_end(arguments);
}
