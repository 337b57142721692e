/* Rig texts inside recordings that a former version made. */
#ifndef RUNTIME_FORMER_H
#define RUNTIME_FORMER_H

#include <stddef.h>

/* Writes today's words over the former ones, in place, so that every line and column stays what it was. Names, strings
 * and comments stay: a former word could not be a name then, and cannot be one now. */
void rgp_renew_words(char *text, size_t length);

#endif
