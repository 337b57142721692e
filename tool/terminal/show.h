/* Parts that the full-screen views share: draw, show, take keys, be suspended, leave. */
#ifndef TOOL_TERMINAL_SHOW_H
#define TOOL_TERMINAL_SHOW_H

#include "runtime/door.h"

typedef struct show {
    void *self;
    rgp_door *door;
    int every_ms;

    void (*look)(void *self); /* the history is held until look_away() */
    void (*look_away)(void *self);
    bool (*over)(void *self); /* leave now */
    void (*draw)(void *self);
    void (*key)(void *self, int key); /* of ncurses */
} show;

/* Until it is over, or somebody asks to leave (see interrupt.h). The history is never held while the terminal is
 * written to, so one that does not read holds up nothing else. */
void show_run(const show *with);

#endif
