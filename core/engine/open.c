/* An image and a block of memory become an engine. */
#include "begin.h"
#include "program.h"

#include <string.h>

static void place(rp_engine *e, unsigned char *memory)
{
    const rp_layout layout = rp_image_layout(e->image);
    for (uint32_t i = 0; i < RP_PARTS; i++) {
        e->part[i] = memory + layout.offset[i];
    }
    e->memory = memory;
    e->value = part_value(e);
    e->quality = part_quality(e);
    e->raw = part_raw(e);
}

/* The live settings were sound as they lie in the image; they have to be so with the parameters in. */
static rp_status check_initial_params(rp_engine *e)
{
    rp_status status = RP_OK;
    for (uint32_t i = 0; status == RP_OK && i < COUNT(e, PARAMS); i++) {
        status = rp_engine_set(e, (uint16_t)i, e->value[i]);
    }
    return status;
}

rp_status rp_engine_open(rp_engine *engine, const void *image, uint32_t image_size, void *memory, uint32_t memory_size)
{
    const rp_status status = rp_image_verify(image, image_size, memory, memory_size, NULL);
    if (status != RP_OK) {
        return status;
    }
    memset(engine, 0, sizeof *engine);
    engine->image = image;
    engine->program = &rp_program_of_image;
    place(engine, memory);
    rp_engine_reset(engine);
    return check_initial_params(engine);
}
