/* A recording read into columns: by the library, and by hand as somebody would who knows this very file: the table in
 * pieces, numbers by whole digits, words by their first letters, the extremes of each 16, 256 and 4096 rows beside.
 *
 * Usage: perf_reading library|hand|open|bytes RECORDING
 *        open: what has to be done before the first screen; bytes: of memory, a cell */
#include "runtime/block.h"
#include "runtime/recording.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define PIECE   262144u
#define COLUMNS 64u
#define ROWS    4096u

typedef struct extremes {
    float least, greatest;
} extremes;

typedef struct column {
    float *value;
    extremes cell[ROWS / 16 + ROWS / 256 + 1];
    char before[40];
    size_t length;
    float was;
} column;

/* A short decimal, or a number for a word. */
static float number_of(const char *at, size_t length)
{
    static const double ten[] = {1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12};
    const char *const end = at + length;
    const bool negative = *at == '-';
    uint64_t whole = 0;
    uint32_t behind = 0;
    bool point = false;
    for (at += negative; at < end; at++) {
        if (*at == '.') {
            point = true;
        } else if (*at >= '0' && *at <= '9') {
            whole = whole * 10 + (uint64_t)(*at - '0');
            behind += point;
        } else {
            return (float)(*at + 256 * (int)length);
        }
    }
    const double size = (double)whole / ten[behind % 13];
    return (float)(negative ? -size : size);
}

static void stretch(extremes *e, float value)
{
    e->least = value < e->least ? value : e->least;
    e->greatest = value > e->greatest ? value : e->greatest;
}

static void put(column *c, uint64_t row, const char *at, size_t length)
{
    const uint32_t in = (uint32_t)(row % ROWS);
    if (length != c->length || memcmp(at, c->before, length) != 0) {
        c->was = number_of(at, length);
        c->length = length < sizeof c->before ? length : 0;
        memcpy(c->before, at, c->length);
    }
    if (in == 0) {
        c->value = malloc(ROWS * sizeof *c->value); /* kept, as the library keeps it */
    }
    if (c->value) {
        c->value[in] = c->was;
    }
    stretch(&c->cell[in / 16], c->was);
    if (in % 16 == 15) {
        stretch(&c->cell[ROWS / 16 + in / 256], c->was);
    }
}

static uint64_t read_by_hand(const char *name)
{
    g_autofree char *path = g_strconcat(name, ".csv", NULL), *piece = g_malloc(2 * PIECE);
    column *columns = calloc(COLUMNS, sizeof *columns);
    FILE *from = fopen(path, "rb");
    uint64_t row = 0;
    size_t held = 0, got;
    while (from && columns && (got = fread(piece + held, 1, PIECE, from)) > 0) {
        char *at = piece, *const end = piece + held + got, *line;
        while ((line = memchr(at, '\n', (size_t)(end - at)))) {
            uint32_t k = 0;
            for (char *comma; row > 0 && k < COLUMNS && (comma = memchr(at, ',', (size_t)(line - at)));
                 at = comma + 1) {
                put(&columns[k++], row, at, (size_t)(comma - at));
            }
            at = line + 1;
            row++;
        }
        held = (size_t)(end - at);
        memmove(piece, at, held);
    }
    if (from) {
        fclose(from);
    }
    free(columns);
    return row;
}

static int tell_bytes(const rgp_recording *r)
{
    size_t bytes = 0;
    for (uint32_t k = 0; k < rgp_history_blocks(r->history); k++) {
        bytes += rgp_block_bytes(rgp_history_block(r->history, k));
    }
    printf("%.2f\n", (double)bytes / (double)r->rows / (double)rgp_history_columns(r->history));
    return 0;
}

int main(int argc, char **argv)
{
    if (argc != 3) {
        return 2;
    }
    if (strcmp(argv[1], "hand") == 0) {
        return read_by_hand(argv[2]) == 0;
    }
    rgp_recording *r =
        strcmp(argv[1], "open") == 0 ? rgp_recording_open(argv[2], NULL) : rgp_recording_read(argv[2], NULL);
    const int status = !r ? 1 : strcmp(argv[1], "bytes") == 0 ? tell_bytes(r) : r->rows == 0;
    rgp_recording_free(r);
    return status;
}
