/* A long piece of a loop's run in parts that are looked at one by one, each long enough to hold what the loop does.
 *
 * The piece is measured in blocks. What moves slower than a block moves the blocks' means: the parts are sixteen times
 * as long as the shortest length whose means hold less than a third of all movement, so a swing has some nine periods
 * in a part at least, at a tick of 200 ms as at one of 1 ms. The way up from cold, at a limit all along, does not
 * count.
 */
#ifndef ANALYSIS_LOOP_PARTS_H
#define ANALYSIS_LOOP_PARTS_H

#include "loop_pieces.h"

enum {
    RGP_BLOCK_ROWS = 1500, /* at most */
    RGP_PART_BLOCKS = 16,  /* at least, where there are more */
    RGP_PART_MOST = 1600   /* blocks: what a part may hold in memory */
};

/* Adds the parts of a piece, in the order of time, to an array that owns them; each is as the piece but for its rows
 * and what they measure. */
void rgp_loop_parts(const rgp_loop_piece *piece, GPtrArray *to);

#endif
