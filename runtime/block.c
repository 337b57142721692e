/* A block of the history: columns that spread once their rows differ, and the extremes beside them. */
#include "block.h"

#include <string.h>

#define LEVELS      3u
#define BLOCK_CELLS (BLOCK_ROWS / 16u + BLOCK_ROWS / RGP_HISTORY_COARSE + 1u)

typedef struct cell {
    float least, greatest;
    uint32_t usable;
} cell;

/* `same` stands for all rows until one differs; the extremes are there once values or qualities differ. */
typedef struct block_column {
    float *value;         /* NULL: `same` */
    rgp_quality *quality; /* NULL: `same_quality` */
    cell *cell;           /* of all levels; NULL: neither has differed */
    float same;
    rgp_quality same_quality;
} block_column;

struct rgp_block {
    uint32_t columns, rows;
    uint64_t first_us, step_us;
    uint64_t *time_us;  /* NULL: each row `step_us` behind the one before */
    rgp_coarse *coarse; /* of one whose rows are not there yet, by column; NULL: they are */
    block_column column[];
};

static const uint32_t level_rows[LEVELS] = {16u, RGP_HISTORY_COARSE, BLOCK_ROWS};
static const uint32_t level_first[LEVELS] = {0u, BLOCK_ROWS / 16u, BLOCK_ROWS / 16u + BLOCK_ROWS / RGP_HISTORY_COARSE};

rgp_block *rgp_block_new(uint32_t columns)
{
    rgp_block *b = g_malloc0(sizeof *b + columns * sizeof *b->column);
    b->columns = columns;
    return b;
}

void rgp_block_free(rgp_block *b)
{
    if (!b) {
        return;
    }
    for (uint32_t i = 0; i < b->columns; i++) {
        g_free(b->column[i].value);
        g_free(b->column[i].quality);
        g_free(b->column[i].cell);
    }
    g_free(b->time_us);
    g_free(b->coarse);
    g_free(b);
}

/* ---- spreading ------------------------------------------------------------------------------------- */

static void spread_times(rgp_block *b)
{
    uint64_t *time_us = g_new(uint64_t, BLOCK_ROWS);
    for (uint32_t row = 0; row < b->rows; row++) {
        time_us[row] = rgp_block_time(b, row);
    }
    b->time_us = time_us;
}

static void put_time(rgp_block *b, uint64_t time_us)
{
    if (b->rows == 0) {
        b->first_us = time_us;
    } else if (b->rows == 1) {
        b->step_us = time_us - b->first_us;
    }
    if (!b->time_us && time_us != b->first_us + b->rows * b->step_us) {
        spread_times(b);
    }
    if (b->time_us) {
        b->time_us[b->rows] = time_us;
    }
}

static void stretch(cell *c, float value)
{
    c->least = c->usable ? MIN(c->least, value) : value;
    c->greatest = c->usable ? MAX(c->greatest, value) : value;
    c->usable++;
}

static void join_cell(cell *to, const cell *part)
{
    if (part->usable > 0) {
        to->least = to->usable ? MIN(to->least, part->least) : part->least;
        to->greatest = to->usable ? MAX(to->greatest, part->greatest) : part->greatest;
        to->usable += part->usable;
    }
}

/* The levels above which a row is the last one of a cell. */
static uint32_t levels_of(uint32_t row)
{
    uint32_t level = 1;
    while (level < LEVELS && (row + 1) % level_rows[level - 1] == 0) {
        level++;
    }
    return level;
}

/* Of the newest row. A cell is asked once all of its rows are there; until then the finer ones are. */
static void add_to_cells(const block_column *c, uint32_t row, uint32_t levels, float value, rgp_quality quality)
{
    if (rgp_usable(quality)) {
        stretch(&c->cell[row / level_rows[0]], value);
    }
    for (uint32_t level = 1; level < levels; level++) {
        join_cell(&c->cell[level_first[level] + row / level_rows[level]],
                  &c->cell[level_first[level - 1] + row / level_rows[level - 1]]);
    }
}

/* The extremes of the rows before `rows`, which were all the same. */
static void begin_cells(block_column *c, uint32_t rows)
{
    c->cell = g_new0(cell, BLOCK_CELLS);
    for (uint32_t row = 0; row < rows; row++) {
        add_to_cells(c, row, levels_of(row), c->same, c->same_quality);
    }
}

static void spread_values(block_column *c, uint32_t rows)
{
    c->value = g_new(float, BLOCK_ROWS);
    for (uint32_t row = 0; row < rows; row++) {
        c->value[row] = c->same;
    }
}

static void spread_qualities(block_column *c, uint32_t rows)
{
    c->quality = g_new(rgp_quality, BLOCK_ROWS);
    memset(c->quality, (int)c->same_quality, rows);
}

static bool is_same(const block_column *c, float value)
{
    return memcmp(&value, &c->same, sizeof value) == 0; /* 0 and -0 are two */
}

/* Spreads what a cell that differs needs, when the rows before `rows` are there. */
static void make_room(block_column *c, uint32_t rows, float value, rgp_quality quality)
{
    const bool values = !c->value && !is_same(c, value), qualities = !c->quality && quality != c->same_quality;
    if (!c->cell && (values || qualities)) {
        begin_cells(c, rows);
    }
    if (values) {
        spread_values(c, rows);
    }
    if (qualities) {
        spread_qualities(c, rows);
    }
}

static void set_row(block_column *c, uint32_t row, float value, rgp_quality quality)
{
    if (c->value) {
        c->value[row] = value;
    }
    if (c->quality) {
        c->quality[row] = quality;
    }
}

void rgp_block_row(rgp_block *b, uint64_t time_us, const float *value, const rgp_quality *quality)
{
    const uint32_t levels = levels_of(b->rows);
    put_time(b, time_us);
    for (uint32_t i = 0; i < b->columns; i++) {
        block_column *c = &b->column[i];
        if (c->value && !c->quality && quality[i] == c->same_quality) { /* most of those that change */
            c->value[b->rows] = value[i];
            add_to_cells(c, b->rows, levels, value[i], quality[i]);
        } else if (b->rows == 0) {
            c->same = value[i];
            c->same_quality = quality[i];
        } else if (!c->cell && is_same(c, value[i]) && quality[i] == c->same_quality) {
            continue;
        } else {
            make_room(c, b->rows, value[i], quality[i]);
            set_row(c, b->rows, value[i], quality[i]);
            if (c->cell) {
                add_to_cells(c, b->rows, levels, value[i], quality[i]);
            }
        }
    }
    b->rows++;
}

/* The extremes around a row that was replaced, as far as all of their rows are there. */
static void renew_cells(const rgp_block *b, uint32_t column, uint32_t row)
{
    const block_column *c = &b->column[column];
    cell *is = &c->cell[row / level_rows[0]];
    const uint32_t first = row - row % level_rows[0];
    *is = (cell){0};
    for (uint32_t i = first; i < MIN(first + level_rows[0], b->rows); i++) {
        if (rgp_usable(rgp_block_quality(b, column, i))) {
            stretch(is, rgp_block_value(b, column, i));
        }
    }
    for (uint32_t level = 1; level < LEVELS; level++) {
        const uint32_t from = row - row % level_rows[level], parts = level_rows[level] / level_rows[level - 1];
        is = &c->cell[level_first[level] + row / level_rows[level]];
        *is = (cell){0};
        for (uint32_t i = 0; i < parts && from + level_rows[level] <= b->rows; i++) {
            join_cell(is, &c->cell[level_first[level - 1] + from / level_rows[level - 1] + i]);
        }
    }
}

void rgp_block_put(rgp_block *b, uint32_t column, uint32_t row, float value, rgp_quality quality)
{
    block_column *c = &b->column[column];
    make_room(c, b->rows, value, quality);
    set_row(c, row, value, quality);
    if (c->cell) {
        renew_cells(b, column, row);
    }
}

/* ---- looking --------------------------------------------------------------------------------------- */

uint32_t rgp_block_rows(const rgp_block *b)
{
    return b->rows;
}

uint64_t rgp_block_time(const rgp_block *b, uint32_t row)
{
    return b->time_us ? b->time_us[row] : b->first_us + row * b->step_us;
}

float rgp_block_value(const rgp_block *b, uint32_t column, uint32_t row)
{
    const block_column *c = &b->column[column];
    return c->value ? c->value[row] : c->same;
}

rgp_quality rgp_block_quality(const rgp_block *b, uint32_t column, uint32_t row)
{
    const block_column *c = &b->column[column];
    return c->quality ? c->quality[row] : c->same_quality;
}

void rgp_block_copy_times(const rgp_block *b, uint32_t from, uint32_t to, uint64_t *time_us)
{
    for (uint32_t row = from; row < to; row++) {
        *time_us++ = rgp_block_time(b, row);
    }
}

void rgp_block_copy_values(const rgp_block *b, uint32_t column, uint32_t from, uint32_t to, float *value)
{
    const block_column *c = &b->column[column];
    if (c->value) {
        memcpy(value, c->value + from, (to - from) * sizeof *value);
        return;
    }
    for (uint32_t row = from; row < to; row++) {
        *value++ = c->same;
    }
}

void rgp_block_copy_qualities(const rgp_block *b, uint32_t column, uint32_t from, uint32_t to, rgp_quality *quality)
{
    const block_column *c = &b->column[column];
    if (c->quality) {
        memcpy(quality, c->quality + from, (to - from) * sizeof *quality);
    } else {
        memset(quality, (int)c->same_quality, to - from);
    }
}

bool rgp_block_is_level(const rgp_block *b, uint32_t column)
{
    return !b->coarse && !b->column[column].value;
}

static bool has_same_values(const block_column *a, const block_column *b, uint32_t rows)
{
    return a->value && b->value ? memcmp(a->value, b->value, rows * sizeof *a->value) == 0
                                : !a->value && !b->value && is_same(a, b->same);
}

bool rgp_block_is_same(const rgp_block *a, uint32_t column, const rgp_block *b, uint32_t other)
{
    const block_column *x = &a->column[column], *y = &b->column[other];
    return a->rows == b->rows && has_same_values(x, y, a->rows) &&
           (x->quality && y->quality ? memcmp(x->quality, y->quality, a->rows * sizeof *x->quality) == 0
                                     : !x->quality && !y->quality && x->same_quality == y->same_quality);
}

static void join(rgp_extent *e, float least, float greatest, uint64_t usable)
{
    if (usable > 0) {
        e->least = e->usable ? MIN(e->least, least) : least;
        e->greatest = e->usable ? MAX(e->greatest, greatest) : greatest;
        e->usable += usable;
    }
}

/* The greatest stretch with a cell of its own that begins at `row` and ends by `to`; LEVELS for none. */
static uint32_t level_at(uint32_t row, uint32_t to)
{
    for (uint32_t level = LEVELS; level-- > 0;) {
        if (row % level_rows[level] == 0 && row + level_rows[level] <= to) {
            return level;
        }
    }
    return LEVELS;
}

static void extent_of_coarse(const rgp_block *b, uint32_t column, uint32_t from, uint32_t to, rgp_extent *e)
{
    const rgp_coarse *c = b->coarse + (size_t)column * BLOCK_COARSE;
    const bool all = from == 0 && to == b->rows;
    for (uint32_t k = all ? BLOCK_COARSE - 1 : from / RGP_HISTORY_COARSE;
         k < (all ? BLOCK_COARSE : (to + RGP_HISTORY_COARSE - 1u) / RGP_HISTORY_COARSE); k++) {
        join(e, c[k].least, c[k].greatest, c[k].usable);
    }
}

void rgp_block_extent(const rgp_block *b, uint32_t column, uint32_t from, uint32_t to, rgp_extent *e)
{
    const block_column *c = &b->column[column];
    if (b->coarse) {
        extent_of_coarse(b, column, from, to, e);
        return;
    }
    if (!c->cell) {
        join(e, c->same, c->same, rgp_usable(c->same_quality) && to > from ? to - from : 0);
        return;
    }
    for (uint32_t row = from; row < to;) {
        const uint32_t level = level_at(row, to);
        if (level < LEVELS) {
            const cell *is = &c->cell[level_first[level] + row / level_rows[level]];
            join(e, is->least, is->greatest, is->usable);
            row += level_rows[level];
        } else {
            const float value = rgp_block_value(b, column, row);
            join(e, value, value, rgp_usable(rgp_block_quality(b, column, row)));
            row++;
        }
    }
}

/* ---- blocks whose rows are not there yet ------------------------------------------------------------ */

void rgp_block_coarse(const rgp_block *b, uint32_t column, rgp_coarse to[BLOCK_COARSE])
{
    for (uint32_t k = 0; k < BLOCK_COARSE; k++) {
        const bool all = k == BLOCK_COARSE - 1;
        const uint32_t from = all ? 0 : MIN(k * RGP_HISTORY_COARSE, b->rows),
                       end = all ? b->rows : MIN((k + 1) * RGP_HISTORY_COARSE, b->rows);
        rgp_extent e = {0};
        rgp_block_extent(b, column, from, end, &e);
        to[k] = (rgp_coarse){e.least, e.greatest, (uint32_t)e.usable};
    }
}

rgp_block_times rgp_block_times_of(const rgp_block *b)
{
    return (rgp_block_times){b->time_us ? b->time_us[0] : b->first_us, b->time_us ? 0 : b->step_us};
}

rgp_block *rgp_block_promise(uint32_t columns, uint32_t rows, rgp_block_times times, const rgp_coarse *coarse)
{
    rgp_block *b = rgp_block_new(columns);
    b->rows = rows;
    b->first_us = times.first_us;
    b->step_us = times.even_us;
    b->coarse = g_memdup2(coarse, (gsize)columns * BLOCK_COARSE * sizeof *coarse);
    return b;
}

bool rgp_block_is_promise(const rgp_block *b)
{
    return b->coarse != NULL;
}

bool rgp_block_knows_extent(const rgp_block *b, uint32_t from, uint32_t to)
{
    return !b->coarse || (from % RGP_HISTORY_COARSE == 0 && (to % RGP_HISTORY_COARSE == 0 || to == b->rows));
}

/* ---- bytes ----------------------------------------------------------------------------------------- */

#define VALUE_BYTES   (BLOCK_ROWS * sizeof(float))
#define QUALITY_BYTES (BLOCK_ROWS * sizeof(rgp_quality))
#define CELL_BYTES    (BLOCK_CELLS * sizeof(cell))
#define TIME_BYTES    (BLOCK_ROWS * sizeof(uint64_t))

size_t rgp_block_bytes(const rgp_block *b)
{
    size_t bytes = sizeof *b + b->columns * sizeof *b->column + (b->time_us ? TIME_BYTES : 0);
    for (uint32_t i = 0; i < b->columns; i++) {
        const block_column *c = &b->column[i];
        bytes += (c->value ? VALUE_BYTES : 0) + (c->quality ? QUALITY_BYTES : 0) + (c->cell ? CELL_BYTES : 0);
    }
    return bytes;
}

size_t rgp_block_bytes_most(uint32_t columns)
{
    return sizeof(rgp_block) + TIME_BYTES + columns * (sizeof(block_column) + VALUE_BYTES + QUALITY_BYTES + CELL_BYTES);
}
