/* A rig file's text -> ticks. */
#include "fuzz.h"

#include "sim/sim.h"

#include <glib.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    rp_rig *rig = rp_rig_compile("fuzzed.rig", (const char *)data, size, rp_sim_catalog());
    fuzz_insist(rig && (rig->image != NULL) == (rig->errors == 0));
    fuzz_insist(g_utf8_validate(rp_rig_report(rig), -1, NULL));
    if (rig->image) {
        fuzz_image(rig->image, rig->image_size, 20, data, size);
    }
    rp_rig_free(rig);
    return 0;
}
