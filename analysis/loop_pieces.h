/* A run of a loop in pieces, each as one may look at it: the loop drove all the time, with the same gains, and no rows
 * are missing. */
#ifndef ANALYSIS_LOOP_PIECES_H
#define ANALYSIS_LOOP_PIECES_H

#include "diagnosis.h"

#include "runtime/history.h"

typedef struct rgp_loop_piece {
    rgp_history *history;
    uint32_t loop;
    uint64_t from, to; /* rows of the history, to not with */
    double begin, end; /* seconds */
    double moves;      /* measured units: variance of its error */
    double peak;       /* measured units: the greatest error, without single wild readings */
    GArray *row;       /* of rgp_response_row; NULL: they have not been asked for */
    rgp_pid_config pid;
    const rgp_predict_config *predict; /* NULL: there is none */
    uint32_t gains; /* number of the gains that it ran with, from 0: pieces with the same one may be taken together */
    bool lost;      /* it ended since the loop did, as by a cut out */
} rgp_loop_piece;

/* In the order of time, each with a row at least; a long one in parts (loop_parts.h). Free by g_ptr_array_unref().
 * NULL: it has no controller that could be told of, or the history does not hold its columns. */
GPtrArray *rgp_loop_pieces(rgp_history *history, uint32_t loop, uint64_t from, uint64_t to);

/* Its rows, which are read when they are asked for, and stay until they are dropped: a long run does not stand in
 * memory twice. */
const GArray *rgp_loop_piece_rows(rgp_loop_piece *piece);
void rgp_loop_piece_drop(rgp_loop_piece *piece);
rgp_loop_run rgp_loop_piece_run(rgp_loop_piece *piece);

/* The controller of a loop as its text has it, or NULL: it has none, or acts on a 'predict' line while what is measured
 * has no name, so that no recording has it. It lives as long as the image. */
const rgp_pid_config *rgp_loop_pid(const rgp_image_header *image, uint32_t loop);

/* The 'predict' line on whose word that controller acts, or NULL: there is none. It lives as long as the image. */
const rgp_predict_config *rgp_loop_predict(const rgp_image_header *image, uint32_t loop);

/* The controller's value of gain number `gain` (rgp_image_loop.gain) for one of its parameter, in whose unit people
 * write it. */
float rgp_loop_gain_scale(const rgp_image_header *image, uint32_t loop, uint32_t gain);

#endif
