/* Zeros that drift: what a 'zero' has learned, held against what goes in while it stays at rest without a break. */
#ifndef TOOL_PLAIN_DRIFT_H
#define TOOL_PLAIN_DRIFT_H

#include "rigpulse/frame.h"

#include <glib.h>

typedef struct drift drift;

drift *drift_new(const rgp_image_header *image);
void drift_free(drift *d);

/* Prints a line when a zero is first found to be off by more than what its stage counts as still. What is moved, or
 * loaded, is not at rest, and nothing is known of it until its zero is learned anew. */
void drift_frame(drift *d, const rgp_frame_layout *layout, const rgp_frame *frame);

#endif
