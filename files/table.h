/* The rows of a CSV table (RFC 4180), read out of memory. Rows as this project writes them are split here; from the
 * first one on that holds a quote, or a blank beside a comma, libcsv reads on. Both give the same. */
#ifndef FILES_TABLE_H
#define FILES_TABLE_H

#include <stdbool.h>
#include <stddef.h>

/* Called for each field, which ends with a 0 and may be written to while it is looked at; and behind the last one of
 * each row, with the character that ended it, -1 for the end of the text. */
typedef struct rgp_table_reader {
    void (*field)(void *field, size_t length, void *self);
    void (*row)(int ending, void *self);
    void *self;
} rgp_table_reader;

typedef enum rgp_table_end { RGP_TABLE_READ, RGP_TABLE_STRAY_QUOTE, RGP_TABLE_OPEN_QUOTE } rgp_table_end;

/* Reads all of it; the text is written over. `plainly` false: libcsv reads every row, which the other way is held
 * against. */
rgp_table_end rgp_table_read(char *text, size_t length, const rgp_table_reader *reader, bool plainly);

#endif
