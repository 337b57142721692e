/* A long piece of a loop's run in parts. */
#include "loop_parts.h"

#include "spikes.h"

#include <math.h>

#define FEW_PARTS 4u
#define SLOWER    0.3 /* of all movement: what moves the means of lengths that are long enough by no more */

/* The error in some rows in which the loop stepped; single wild readings are no movement. */
typedef struct movement {
    double sum, squares, count;
    double peak;
    double begin, end; /* seconds */
    bool limited;      /* all along */
} movement;

static double mean_of(const movement *m)
{
    return m->count > 0.0 ? m->sum / m->count : 0.0;
}

static double variance_of(const movement *m)
{
    return m->count > 0.0 ? m->squares / m->count - mean_of(m) * mean_of(m) : 0.0;
}

static void add_movement(movement *to, const movement *other)
{
    to->sum += other->sum;
    to->squares += other->squares;
    to->count += other->count;
    to->peak = fmax(to->peak, other->peak);
    to->end = other->end;
}

/* One behind the other, of which there is one at least. */
static movement together(const movement *block, size_t count)
{
    movement all = block[0];
    for (size_t i = 1; i < count; i++) {
        add_movement(&all, &block[i]);
    }
    return all;
}

/* By one look at its rows, which are dropped again. */
static movement measure(rgp_loop_piece rows_of)
{
    const GArray *rows = rgp_loop_piece_rows(&rows_of);
    g_autofree double *error = g_new0(double, rows->len + 1), *without = g_new0(double, rows->len + 1);
    movement m = {.limited = true};
    size_t steps = 0;
    for (guint i = 0; i < rows->len; i++) {
        const rgp_response_row *r = &g_array_index(rows, rgp_response_row, i);
        if (!r->stands) {
            error[steps++] = r->usable ? r->target - r->measured : (double)NAN;
        }
        m.limited &= r->saturated;
    }
    rgp_spikes_out(error, steps, without);
    for (size_t i = 0; i < steps; i++) {
        if (!isnan(without[i])) {
            add_movement(&m, &(movement){without[i], without[i] * without[i], 1.0, .peak = fabs(without[i])});
        }
    }
    m.begin = g_array_index(rows, rgp_response_row, 0).time;
    m.end = g_array_index(rows, rgp_response_row, rows->len - 1).time;
    rgp_loop_piece_drop(&rows_of);
    return m;
}

/* The share of all movement that the means of so many blocks each hold. */
static double slower_than(const movement *block, size_t count, size_t each)
{
    const movement all = together(block, count);
    double between = 0.0;
    for (size_t i = 0; i < count; i += each) {
        const movement m = together(block + i, MIN(each, count - i));
        between += m.count * (mean_of(&m) - mean_of(&all)) * (mean_of(&m) - mean_of(&all));
    }
    const double whole = all.count * variance_of(&all);
    return whole > 0.0 ? between / whole : 0.0;
}

/* Blocks of a part. Where a block is too short, so that few of its rows are looked at, more of them tell more. */
static size_t length_of_part(const movement *block, size_t count)
{
    size_t approach = 0, each = 1;
    while (approach + 1 < count && block[approach].limited) {
        approach++;
    }
    while (each < count && slower_than(block + approach, count - approach, each) > SLOWER) {
        each *= 2;
    }
    return each > 1 ? MIN(MAX(each * RGP_PART_BLOCKS, count / FEW_PARTS), (size_t)RGP_PART_MOST)
                    : (size_t)RGP_PART_BLOCKS;
}

static void add_part(const rgp_loop_piece *piece, GPtrArray *to, uint64_t from, uint64_t end, const movement *m)
{
    rgp_loop_piece *p = g_memdup2(piece, sizeof *piece);
    p->from = from;
    p->to = end;
    p->begin = m->begin;
    p->end = m->end;
    p->moves = variance_of(m);
    p->peak = m->peak;
    p->lost = piece->lost && end == piece->to;
    g_ptr_array_add(to, p);
}

void rgp_loop_parts(const rgp_loop_piece *piece, GPtrArray *to)
{
    const uint64_t rows = piece->to - piece->from, blocks = (rows + RGP_BLOCK_ROWS - 1) / RGP_BLOCK_ROWS;
    g_autofree uint64_t *border = g_new0(uint64_t, blocks + 1);
    g_autofree movement *block = g_new0(movement, blocks);
    for (uint64_t i = 0; i <= blocks; i++) {
        border[i] = piece->from + rows * i / blocks;
    }
    for (uint64_t i = 0; i < blocks; i++) {
        rgp_loop_piece here = *piece;
        here.from = border[i];
        here.to = border[i + 1];
        block[i] = measure(here);
    }
    const uint64_t each = length_of_part(block, blocks), parts = (blocks + each - 1) / each;
    for (uint64_t i = 0; i < parts; i++) {
        const uint64_t first = blocks * i / parts, end = blocks * (i + 1) / parts;
        const movement m = together(block + first, end - first);
        add_part(piece, to, border[first], border[end], &m);
    }
}
