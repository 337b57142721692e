/* The kept block of a power cycle, its size and checksum repaired -> taken up, and ticks. */
#include "fuzz.h"

#include "rigpulse/image.h"
#include "sim/sim.h"

#include <stdlib.h>
#include <string.h>

static const char text[] = "rig t\ntick 10 ms\nsensor g switch\nsensor s counts 0..4095\nsignal n = g | count\n"
                           "signal z = s | zero over 40 ms, spread 50 counts, drift 50 counts\nsignal p = s | span "
                           "over 50 ms, least 100 counts\n"
                           "keep n, z, p\n";

enum { ROOM = 512, SIZE_AT = 8, CHECKSUM_AT = 12 };

static void run(const unsigned char *block, uint32_t size, const uint8_t *data, size_t length)
{
    static rgp_rig *rig;
    rig = rig ? rig : rgp_rig_compile("kept.rig", text, strlen(text), NULL);
    fuzz_insist(rig->image != NULL);
    const rgp_image_header *image = rig->image;
    rgp_engine engine;
    void *memory = calloc(1, image->memory);
    uint32_t taken = 0, again;
    fuzz_insist(rgp_engine_open(&engine, image, rig->image_size, memory, image->memory) == RGP_OK);
    rgp_engine_restore(&engine, block, size, &taken);
    fuzz_ticks(&engine, 20, data, length);
    unsigned char kept[ROOM];
    fuzz_insist(rgp_engine_retain(&engine, kept, sizeof kept, &again) == RGP_OK);
    fuzz_insist(rgp_engine_restore(&engine, kept, again, &taken) == RGP_OK);
    free(memory);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    unsigned char block[ROOM] = {0};
    const uint32_t length = size < ROOM ? (uint32_t)size : ROOM;
    memcpy(block, data, length);
    run(block, length, data, size); /* as it is */
    if (length >= CHECKSUM_AT + 4u) {
        const uint32_t none = 0;
        memcpy(block, "RKP\x1A\x01", 5);
        block[5] = 0;
        memcpy(block + SIZE_AT, &length, sizeof length);
        memcpy(block + CHECKSUM_AT, &none, sizeof none);
        const uint32_t sum = rgp_crc32(0, block, length);
        memcpy(block + CHECKSUM_AT, &sum, sizeof sum);
        run(block, length, data, size);
    }
    return 0;
}
