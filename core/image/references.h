/* The references in an image: which field of which section's rows says the place of what. */
#ifndef RIGPULSE_IMAGE_REFERENCES_H
#define RIGPULSE_IMAGE_REFERENCES_H

#include "rigpulse/image.h"

/* The first field that points nowhere, or whose kind is none; RGP_OK when all do. */
rgp_status rgp__image_check_references(const rgp_image_header *image, rgp_image_fault *fault);

/* A slot or a constant. */
static inline bool rgp__image_has_ref(const rgp_image_header *image, uint16_t ref)
{
    return ref & RGP_REF_CONSTANT ? (uint32_t)(ref & ~RGP_REF_CONSTANT) < rgp_image_count(image, RGP_SECTION_CONSTANTS)
                                  : ref < image->slots;
}

#endif
