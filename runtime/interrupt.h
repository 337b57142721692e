/* Wishes of a person or the system for the whole process: to leave, to be suspended, or to die. Set in signal handlers,
 * asked for by whoever ticks or draws. */
#ifndef RUNTIME_INTERRUPT_H
#define RUNTIME_INTERRUPT_H

#include "rigpulse/port.h"

/* From now on SIGINT, SIGTERM and SIGHUP ask to leave instead of ending the process (one that was ignored stays so).
 * Asks of before are forgotten. */
void interrupt_catch(void);

/* An ending that nobody asked for (a crash, SIGQUIT, memory or a thread that GLib cannot have) brings this port to
 * rest before. NULL: there is none any more. */
void interrupt_guard(const rgp_port *port);

bool interrupt_asked(void);

/* The same by another way than a signal: the terminal went away. */
void interrupt_ask(void);

/* From now on SIGTSTP asks to be suspended; interrupt_take_suspend() is true once for each time. */
void interrupt_catch_suspend(bool on);
bool interrupt_take_suspend(void);

/* Written to standard output when the process dies, so that the terminal is as it was; `restore` is called, too. Both
 * may be NULL; the text must stay. */
void interrupt_farewell(const char *text, void (*restore)(void));

/* The thread that sleeps to its ticks: a signal that any thread gets ends its sleep, and so does interrupt_wake(). To
 * be called by that thread. */
void interrupt_ticks_here(bool begins);
void interrupt_wake(void);

#endif
