/* The rows of a CSV table (RFC 4180), read out of pieces as they come. Rows as this project writes them are split here;
 * from the first one on that is written otherwise, with a blank beside a comma, or an end of a line within quotes,
 * libcsv reads on. Both give the same. */
#ifndef FILES_TABLE_H
#define FILES_TABLE_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* Called for each field, which ends with a 0 and may be written to while it is looked at; and behind the last one of
 * each row, with the character that ended it, -1 for the end of the text. `line`, if there is one, is asked before with
 * each row that is split here, whole and without its end, which a '\r' or '\n' follows: true where it has taken it, and
 * then neither of the two is called. */
typedef struct rgp_table_reader {
    bool (*line)(const char *line, size_t length, void *self);
    void (*field)(void *field, size_t length, void *self);
    void (*row)(int ending, void *self);
    void *self;
} rgp_table_reader;

typedef enum rgp_table_end { RGP_TABLE_READ, RGP_TABLE_STRAY_QUOTE, RGP_TABLE_OPEN_QUOTE } rgp_table_end;

typedef struct rgp_table rgp_table;

/* `plainly` false: libcsv reads every row, which the other way is held against. */
rgp_table *rgp_table_new(const rgp_table_reader *reader, bool plainly);

/* The next piece; of a row that it cuts, the rest is in the one behind. Behind a stray quote nothing is read any more.
 * Fields are told where they stand in the piece, with their ends and doubled quotes overwritten: it is used up. */
void rgp_table_feed(rgp_table *t, char *piece, size_t length);

/* While rows are split here: how many bytes stand before the row that is being read. UINT64_MAX: they are not. */
uint64_t rgp_table_place(const rgp_table *t);

/* The rest, and the end. The reader is gone then. */
rgp_table_end rgp_table_finish(rgp_table *t);

#endif
