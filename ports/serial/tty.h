/* Serial lines and pseudo-terminals, opened raw through termios. */
#ifndef PORTS_SERIAL_TTY_H
#define PORTS_SERIAL_TTY_H

#include <glib.h>
#include <stdbool.h>

/* Opens it for itself alone, raw, without waiting for anything. -1 with *error, which says what was found and the way
 * out. `restarts`: it may start anew when it is closed, as its lines go down; else they stay up. */
int tty_open(const char *path, unsigned speed, bool restarts, GError **error);

/* The speeds that termios knows here, "..., 57600, 115200, ...", to be freed. */
char *tty_speeds(void);

bool tty_knows_speed(unsigned speed);

#endif
