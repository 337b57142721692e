/* The rows of a recording's table, as text. */
#ifndef RUNTIME_ROW_WRITER_H
#define RUNTIME_ROW_WRITER_H

#include "rigpulse/frame.h"

#include <glib.h>

typedef struct rgp_row_writer rgp_row_writer;

/* The image must outlive it. */
rgp_row_writer *rgp_row_writer_new(const rgp_image_header *image);
void rgp_row_writer_free(rgp_row_writer *w);

/* True of a slot that has a column: one with a name. */
bool rgp_row_writer_shows(const rgp_row_writer *w, uint32_t slot);

/* The first row, and that of a tick, each with its end of line. They live until the next one; no memory is taken for a
 * row once the longest one has been written. */
const GString *rgp_row_writer_heading(rgp_row_writer *w);
const GString *rgp_row_writer_row(rgp_row_writer *w, const rgp_frame *frame);

#endif
