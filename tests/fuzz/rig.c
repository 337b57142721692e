/* A rig file's text -> ticks. */
#include "fuzz.h"

#include "runtime/ports.h"

#include <glib.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    rgp_rig *rig = rgp_rig_compile("fuzzed.rig", (const char *)data, size, rgp_ports_catalog());
    fuzz_insist(rig && (rig->image != NULL) == (rig->errors == 0));
    fuzz_insist(g_utf8_validate(rgp_rig_report(rig), -1, NULL));
    if (rig->image) {
        fuzz_image(rig->image, rig->image_size, 20, data, size);
    }
    rgp_rig_free(rig);
    return 0;
}
