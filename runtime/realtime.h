/* Threads that the system prefers, and memory that it keeps: where it allows that. */
#ifndef RUNTIME_REALTIME_H
#define RUNTIME_REALTIME_H

#include <glib.h>

/* From here on the calling thread, and with it each that it begins, goes before all threads without a priority, and
 * memory is not paged out, if the system allows it. What came of it, in words, to be freed. */
char *realtime_begin(void);

/* The calling thread has no priority any more; those that it has begun keep theirs. */
void realtime_leave(void);

#endif
