/* A line of JSON Lines for an event, and for a command: as a recording has them, and `run --json`. */
#ifndef RUNTIME_EVENT_LINE_H
#define RUNTIME_EVENT_LINE_H

#include "rigpulse/frame.h"

#include <jansson.h>

/* New references. A command is an input of the rig from outside: with it a replay can do the same again. */
json_t *rgp_event_as_line(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                          const rgp_event *event);
json_t *rgp_command_as_line(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                            uint32_t order);

/* Its text, without the end of the line, to be freed by free(); NULL: there is no memory. */
char *rgp_line_text(const json_t *line);

#endif
