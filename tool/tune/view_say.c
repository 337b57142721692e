/* Words at the bottom of the view, and what is asked of the rig. */
#include "view.h"

#include <stdarg.h>

void tune_say(tune_view *v, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    note_say_list(&v->note, format, arguments);
    va_end(arguments);
}

void tune_ask(tune_view *v, rgp_command_kind what, uint16_t which, double value)
{
    const rgp_command c = {(uint8_t)what, RGP_BY_PERSON, which, (float)value, 0.0f};
    rgp_door_ask(v->door, &c);
}
