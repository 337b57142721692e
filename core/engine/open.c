/* An image and a block of memory become an engine. */
#include "begin.h"
#include "program.h"

#include <string.h>

/* The layout is that of the image alone; the loader has held the memory's size and alignment against it. */
static void place(rgp_engine *e, unsigned char *memory)
{
    const rgp__layout layout = rgp__image_layout(e->image);
    for (uint32_t i = 0; i < RGP__PARTS; i++) {
        e->part[i] = memory + layout.offset[i];
    }
    e->memory = memory;
    e->value = part_value(e);
    e->quality = part_quality(e);
    e->raw = part_raw(e);
}

/* The live settings were sound as they lie in the image; they have to be so with the parameters in. */
static rgp_status check_initial_params(rgp_engine *e)
{
    rgp_status status = RGP_OK;
    for (uint32_t i = 0; status == RGP_OK && i < COUNT(e, PARAMS); i++) {
        status = rgp_engine_set(e, (uint16_t)i, e->value[i]);
    }
    return status;
}

/* Nothing of the engine is touched before the image has passed. */
rgp_status rgp_engine_open(rgp_engine *engine, const void *image, uint32_t image_size, void *memory,
                           uint32_t memory_size)
{
    const rgp_status status = rgp_image_verify(image, image_size, memory, memory_size, NULL);
    if (status != RGP_OK) {
        return status;
    }
    memset(engine, 0, sizeof *engine);
    engine->image = image;
    engine->program = &rgp__program_of_image;
    place(engine, memory);
    rgp_engine_reset(engine);
    return check_initial_params(engine);
}
