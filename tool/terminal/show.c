#include "show.h"

#include "runtime/interrupt.h"
#include "screen.h"

/* While the shell has the terminal everything is at rest. */
static void suspend(const show *with)
{
    rp_door_pause(with->door);
    screen_suspend();
    rp_door_go_on(with->door);
}

void show_run(const show *with)
{
    while (!with->over(with->self) && !interrupt_asked()) {
        if (interrupt_take_suspend()) {
            suspend(with);
        }
        with->look(with->self);
        with->draw(with->self);
        with->look_away(with->self);
        screen_show();
        for (int key = screen_key(with->every_ms); key != KEY_NONE; key = screen_key(0)) {
            with->look(with->self);
            if (key >= 0) {
                with->key(with->self, key);
            }
            with->look_away(with->self);
        }
    }
}

/* ---- the page of keys ------------------------------------------------------------------------------ */

enum { HELP_TOP = 2, HELP_LEFT = 2, HELP_KEY = 8, HELP_WIDE = 130 };

void show_help_head(const char *text)
{
    screen_put(0, HELP_LEFT, screen_columns() - HELP_LEFT, INK_STRONG, text);
}

void show_help_key(size_t i, size_t count, const char *shown, const char *says)
{
    const size_t half = (count + 1) / 2;
    const bool two = screen_columns() >= HELP_WIDE || screen_rows() < (int)count + HELP_TOP + 1,
               right = two && i >= half;
    const int width = two ? screen_columns() / 2 : screen_columns(), column = right ? width : HELP_LEFT;
    const int row = HELP_TOP + (int)(right ? i - half : i);
    screen_put(row, column, HELP_KEY, INK_STRONG, shown);
    screen_put(row, column + HELP_KEY, width - HELP_KEY - HELP_LEFT, INK_PLAIN, says);
}
