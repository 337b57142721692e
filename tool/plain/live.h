/* A run in plain lines: one of readings each second of the rig's time, and one or two at each event. */
#ifndef TOOL_PLAIN_LIVE_H
#define TOOL_PLAIN_LIVE_H

#include "drift.h"

#include "rigpulse/frame.h"

#include <glib.h>

typedef struct live {
    const rgp_image_header *image;
    bool events_only;
    GArray *column; /* of live_column */
    drift *zeros;
    uint64_t *waits_us; /* by loop: since when it has been waiting; UINT64_MAX: it is told, or does not wait */
    uint64_t next_us;
    uint32_t rows;
    uint32_t fired, faults;
} live;

void live_begin(live *l, const rgp_image_header *image, bool events_only);
void live_end(live *l);

/* Prints what the frame has to say. False when standard output is gone. */
bool live_frame(live *l, const rgp_frame_layout *layout, const rgp_frame *frame);

#endif
