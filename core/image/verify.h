/* The loader's check of an image, in two parts: its rows, and its program. */
#ifndef CORE_IMAGE_VERIFY_H
#define CORE_IMAGE_VERIFY_H

#include "rigpulse/image.h"

/* The image, and the section and row that the check has come to: an error carries them. */
typedef struct image_view {
    const rgp_image_header *image;
    rgp_image_fault at;
} image_view;

#define ROWS(view, NAME, type) ((const type *)rgp_image_at((view)->image, RGP_SECTION_##NAME))
#define COUNT(view, NAME)      rgp_image_count((view)->image, RGP_SECTION_##NAME)

/* Each row of a section by itself. */
#define FOR_ROWS(view, NAME, i)                            \
    (view)->at = (rgp_image_fault){RGP_SECTION_##NAME, 0}; \
    for (uint32_t i = 0; i < COUNT(view, NAME); i++, (view)->at.row = i)

/* Of the program: its runs, with their settings; the places that parameters set. Each returns at the first row that is
 * wrong. */
rgp_status rgp__image_check_runs(image_view *v);
rgp_status rgp__image_check_patches(image_view *v);

/* Each operation finds its inputs computed before it. `known` has a byte a slot, as scratch. */
rgp_status rgp__image_check_order(image_view *v, unsigned char *known);

#endif
