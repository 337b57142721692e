/* An image, its checksum repaired -> ticks. The first byte chooses an example; the rest are changes of its image: where
 * (three bytes) and what. */
#include "fuzz.h"

#include "runtime/ports.h"

#include <stdlib.h>
#include <string.h>

static const char *const names[] = {"basin.rig", "crossing.rig", "trap.rig",   "mast.rig",
                                    "lamp.rig",  "feeder.rig",   "lookout.rig"};

enum { EXAMPLES = sizeof names / sizeof *names, CHANGE = 4 };

static const rgp_rig *example(size_t which)
{
    static rgp_rig *rig[EXAMPLES];
    if (!rig[which]) {
        const char *text = fuzz_example(names[which]);
        rig[which] = rgp_rig_compile(names[which], text, strlen(text), rgp_ports_catalog());
    }
    return rig[which];
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    if (size < 1 + CHANGE) {
        return 0;
    }
    const rgp_rig *rig = example(data[0] % EXAMPLES);
    unsigned char *image = aligned_alloc(16, (rig->image_size + 15u) & ~15u);
    memcpy(image, rig->image, rig->image_size);
    for (size_t at = 1; at + CHANGE <= size; at += CHANGE) {
        const uint32_t where = (uint32_t)(data[at] | data[at + 1] << 8 | data[at + 2] << 16);
        image[where % rig->image_size] = data[at + 3];
    }
    ((rgp_image_header *)(void *)image)->checksum = rgp_image_checksum(image, rig->image_size);
    fuzz_image(image, rig->image_size, 10, data, size);
    free(image);
    return 0;
}
