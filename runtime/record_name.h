/* The names of recordings, and of the files that one has. */
#ifndef RUNTIME_RECORD_NAME_H
#define RUNTIME_RECORD_NAME_H

#include <glib.h>
#include <stdbool.h>

/* RECORD_MARKS: what people write to it afterwards (marks.h); RECORD_INDEX: what lets it open at once. */
enum { RECORD_TABLE, RECORD_EVENTS, RECORD_SUMMARY, RECORD_MARKS, RECORD_INDEX, RECORD_PARTS };

/* The name without the ending of its table; of that the name of one of its files. To be freed. */
char *record_stem(const char *name);
char *record_part(const char *stem, int part);

/* The name without the ending of whichever of its files it is. To be freed. */
char *record_stem_of_part(const char *name);

/* The first file of that name that there is, to be freed; NULL: none. */
char *record_taken(const char *stem);

/* False, with *error, when `name`, whose stem that is, can name no recording. */
bool record_check_name(const char *name, const char *stem, GError **error);

#endif
