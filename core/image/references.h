/* The references in an image: which field of which section's rows says the place of what. */
#ifndef RIGPULSE_IMAGE_REFERENCES_H
#define RIGPULSE_IMAGE_REFERENCES_H

#include "rigpulse/image.h"

/* The first field that points nowhere, or whose kind is none; RP_OK when all do. */
rp_status rp_image_check_references(const rp_image_header *image, rp_image_fault *fault);

/* A slot or a constant. */
static inline bool rp_image_has_ref(const rp_image_header *image, uint16_t ref)
{
    return ref & RP_REF_CONSTANT ? (uint32_t)(ref & ~RP_REF_CONSTANT) < rp_image_count(image, RP_SECTION_CONSTANTS)
                                 : ref < image->slots;
}

#endif
