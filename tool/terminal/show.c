/* The loop of a full-screen view. */
#include "show.h"

#include "runtime/interrupt.h"
#include "screen.h"

/* While the shell has the terminal everything is at rest. */
static void suspend(const show *with)
{
    rgp_door_pause(with->door);
    screen_suspend();
    rgp_door_unpause(with->door);
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
