/* A block of the history: some thousand rows by column, with the extremes of each 16, 256 and 4096 of them. A column
 * that stays the same takes no room, nor do times that go evenly: memory is what the rows need, not what they could. */
#ifndef RUNTIME_BLOCK_H
#define RUNTIME_BLOCK_H

#include "history.h"

#define BLOCK_ROWS 4096u

typedef struct rgp_block rgp_block;

rgp_block *rgp_block_new(uint32_t columns);
void rgp_block_free(rgp_block *b);

/* One row more, of at most BLOCK_ROWS. */
void rgp_block_row(rgp_block *b, uint64_t time_us, const float *value, const rgp_quality *quality);

/* Replaces a cell of a row that is there. */
void rgp_block_put(rgp_block *b, uint32_t column, uint32_t row, float value, rgp_quality quality);

uint32_t rgp_block_rows(const rgp_block *b);
uint64_t rgp_block_time(const rgp_block *b, uint32_t row);
float rgp_block_value(const rgp_block *b, uint32_t column, uint32_t row);
rgp_quality rgp_block_quality(const rgp_block *b, uint32_t column, uint32_t row);

/* The same for the rows from `from` up to, and not with, `to`. */
void rgp_block_copy_times(const rgp_block *b, uint32_t from, uint32_t to, uint64_t *time_us);
void rgp_block_copy_values(const rgp_block *b, uint32_t column, uint32_t from, uint32_t to, float *value);
void rgp_block_copy_qualities(const rgp_block *b, uint32_t column, uint32_t from, uint32_t to, rgp_quality *quality);

/* True where all rows are known at once to hold one value. */
bool rgp_block_is_level(const rgp_block *b, uint32_t column);

/* True when a column of one holds, in as many rows, the same values and qualities to the bit as one of another. */
bool rgp_block_is_same(const rgp_block *a, uint32_t column, const rgp_block *b, uint32_t other);

/* Adds the usable values of the rows from `from` up to, and not with, `to`. */
void rgp_block_extent(const rgp_block *b, uint32_t column, uint32_t from, uint32_t to, rgp_extent *e);

/* The extremes of each 256 rows, and behind them those of all. */
#define BLOCK_COARSE (BLOCK_ROWS / RGP_HISTORY_COARSE + 1u)
typedef struct rgp_coarse {
    float least, greatest;
    uint32_t usable;
} rgp_coarse;
void rgp_block_coarse(const rgp_block *b, uint32_t column, rgp_coarse to[BLOCK_COARSE]);

/* The times of a block: `even_us` between any two rows, 0 where they go unevenly. */
typedef struct rgp_block_times {
    uint64_t first_us, even_us;
} rgp_block_times;
rgp_block_times rgp_block_times_of(const rgp_block *b);

/* One whose rows are not there yet: its first time is known, all of them where they go evenly, and the extremes that
 * begin and end with 256 rows, as rgp_block_coarse() gave them, by column. */
rgp_block *rgp_block_promise(uint32_t columns, uint32_t rows, rgp_block_times times, const rgp_coarse *coarse);
bool rgp_block_is_promise(const rgp_block *b);
bool rgp_block_knows_extent(const rgp_block *b, uint32_t from, uint32_t to);

/* Bytes that it takes now, and that one of so many columns can take at most. */
size_t rgp_block_bytes(const rgp_block *b);
size_t rgp_block_bytes_most(uint32_t columns);

#endif
