/* The rows of one piece of a loop's run. */
#include "loop_pieces.h"

const GArray *rgp_loop_piece_rows(rgp_loop_piece *p)
{
    p->row = p->row ? p->row : rgp_response_rows(p->history, p->loop, p->from, p->to);
    return p->row;
}

void rgp_loop_piece_drop(rgp_loop_piece *p)
{
    g_clear_pointer(&p->row, g_array_unref);
}

rgp_loop_run rgp_loop_piece_run(rgp_loop_piece *p)
{
    const GArray *rows = rgp_loop_piece_rows(p);
    return (rgp_loop_run){
        (const rgp_response_row *)(const void *)rows->data, rows->len, &p->pid, 0.0, p->predict, false};
}
