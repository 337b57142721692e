/* A rig file's text -> every edit that can be made of it. The result is compiled again: edits of a sound file may be
 * refused, but never break it off in the middle. */
#include "fuzz.h"

#include "runtime/ports.h"
#include "rigpulse/edit.h"

#include <string.h>

static void compile(const char *text)
{
    if (text) {
        rgp_rig *rig = rgp_rig_compile("edited.rig", text, strlen(text), rgp_ports_catalog());
        fuzz_insist(rig != NULL);
        rgp_rig_free(rig);
    }
}

static void edit_measured(rgp_rig *rig, const char *name)
{
    rgp_calibration found;
    const char *why = NULL;
    if (!rgp_rig_calibration(rig, name, &found, &why)) {
        fuzz_insist(why != NULL);
        return;
    }
    const rgp_place *place[RGP_CALIBRATION_PLACES_MAX];
    double number[RGP_CALIBRATION_PLACES_MAX], in[3] = {1.0, 2.0, 3.0}, out[3] = {5.0, 3.5, 1.25};
    for (uint32_t i = 0; i < found.places; i++) {
        place[i] = &found.place[i];
        number[i] = found.place[i].value + 0.5 * i;
    }
    compile(rgp_edit_places(rig, place, number, found.places));
    if (strcmp(found.word, "table") == 0) {
        compile(rgp_edit_points(rig, &found, in, out, 2));
        compile(rgp_edit_points(rig, &found, in, out, 3));
    }
}

static void edit_named(rgp_rig *rig, const char *name)
{
    rgp_place place;
    const rgp_place *const which = &place;
    const double number = 0.75;
    edit_measured(rig, name);
    if (rgp_rig_param_place(rig, name, &place)) {
        compile(rgp_edit_places(rig, &which, &number, 1));
    }
    if (rgp_rig_least_place(rig, name, &place)) {
        compile(rgp_edit_places(rig, &which, &number, 1));
    }
    compile(rgp_edit_portion(rig, name, "ml", 0.25, 0.5));
}

/* The text up to its first zero byte, and behind that a line to be written. */
int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    const uint8_t *zero = memchr(data, 0, size);
    const size_t length = zero ? (size_t)(zero - data) : size;
    rgp_rig *rig = rgp_rig_compile("fuzzed.rig", (const char *)data, length, rgp_ports_catalog());
    const rgp_image_header *image = rig->image;
    for (uint32_t slot = 0; image && slot < image->slots && slot < 40; slot++) {
        edit_named(rig, rgp_image_text(image, RGP_NAME_SLOT, slot, 0));
    }
    if (image && zero) {
        char line[200] = {0};
        rgp_calibration found;
        const char *why = NULL;
        memcpy(line, zero + 1, size - length - 1 < sizeof line ? size - length - 1 : sizeof line - 1);
        rgp_rig *filled = rgp_rig_line_template(rig, "drafted", line, "cm", rgp_ports_catalog(), &found, &why);
        fuzz_insist(filled || why);
        rgp_rig_free(filled);
        compile(rgp_edit_add(rig, "param one_more = 1 s in 0..2 s"));
    }
    rgp_rig_free(rig);
    return 0;
}
