/* Shared by the files of this room: the tick that is told of, and where the words go. */
#ifndef EXPLAIN_SCENE_H
#define EXPLAIN_SCENE_H

#include "describe.h"

typedef struct scene {
    const rgp_image_header *image;
    const rgp_frame_layout *layout;
    const rgp_frame *frame;
    const float *value;
    GString *to;
} scene;

static inline scene scene_of(const rgp_image_header *image, const rgp_frame_layout *layout, const rgp_frame *frame,
                             GString *to)
{
    return (scene){image, layout, frame, rgp_frame_value(layout, frame), to};
}

static inline const rgp_image_rule *rule_of(const rgp_image_header *image, uint32_t rule)
{
    return (const rgp_image_rule *)rgp_image_at(image, RGP_SECTION_RULES) + rule;
}

/* The name of a value of a slot, such as "low"; NULL: it has none. */
const char *describe_part(const rgp_image_header *image, uint32_t slot, float value);

#endif
