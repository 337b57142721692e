/* Files, read and written so that nothing is waited for and nothing is lost. */
#ifndef FILES_FILES_H
#define FILES_FILES_H

#include <glib.h>
#include <stdbool.h>
#include <stddef.h>

/* All of a plain file, with a zero byte behind it; *text is to be freed. A folder, a pipe or a device is refused rather
 * than waited for. `length` may be NULL. False with *error set. */
bool rgp_file_read(const char *path, char **text, gsize *length, GError **error);

/* A plain file that is read piece by piece, and how long it is now. -1 with *error set. */
int rgp_file_open(const char *path, guint64 *bytes, GError **error);

/* The next piece of at most so many bytes; 0 at the end, -1 where the disk gives no more. */
gssize rgp_file_piece(int file, void *to, gsize room);

/* So many bytes from a place on; false where they are not all there. */
bool rgp_file_bytes(int file, guint64 place, void *to, gsize bytes);

/* The same of standard input, to its end. */
bool rgp_file_read_input(char **text, gsize *length, GError **error);

/* Replaces a file as a whole, or leaves it as it was: written beside it, handed to the disk, and renamed. `mode` is
 * that of a new file's permissions. What a process that was killed left behind in doing so is removed. False with
 * *error. */
bool rgp_file_write(const char *path, const void *bytes, gsize length, int mode, GError **error);

/* The name under which this process writes before it renames; to be freed. */
char *rgp_file_temporary(const char *path);

/* Removes the temporary files of `path` whose processes are gone. */
void rgp_file_sweep(const char *path);

/* Hands the folder's entry of a file that was renamed or made to the disk, where the system can. */
void rgp_file_sync_folder(const char *path);

/* True when both name the same file on the disk. */
bool rgp_file_is_same(const char *a, const char *b);

#endif
