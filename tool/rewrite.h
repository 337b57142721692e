/* Putting an edited text in a rig file's place: at once or not at all, with the way back kept beside it. */
#ifndef TOOL_REWRITE_H
#define TOOL_REWRITE_H

#include "command.h"

/* Lines that were, and the lines that took their place. */
typedef struct rewrite_hunk {
    guint line;           /* of the first one after the change, from 1 */
    char *before, *after; /* whole lines, with their ends; "" for none */
} rewrite_hunk;

/* The differences; to be freed with g_ptr_array_unref(). */
GPtrArray *rewrite_differences(const char *before, const char *after);

/* Replaces the file if it still holds `before`. What was there is kept in FILE.undo under the words `what`. */
bool rewrite_file(const char *path, const char *before, const char *after, const char *what, GError **error);

/* Takes the newest kept change back, where its lines still stand; *what and *changed say which, to be freed. */
bool rewrite_undo(const char *path, char **what, GPtrArray **changed, GError **error);

/* Takes it back and says so; returns what to exit with. */
int rewrite_take_back(const command *self, const char *path);

#endif
