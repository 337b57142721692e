/* Helpers for the fuzzers: insisting, and bytes as numbers. */
#include "fuzz.h"

#include <glib.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

void fuzz_insist(bool holds)
{
    if (!holds) {
        abort();
    }
}

/* Each of a fuzzer's bytes is used again and again. */
static uint8_t next_byte(const uint8_t *data, size_t size, size_t *at)
{
    return size ? data[(*at)++ % size] : 0;
}

static rgp_sample fuzz_sample(uint64_t now, const uint8_t *data, size_t size, size_t *at)
{
    const uint8_t a = next_byte(data, size, at), b = next_byte(data, size, at);
    return (rgp_sample){.time_us = now,
                        .raw = (int32_t)(a * 257 + b) - (b > 250 ? 70000 : 0),
                        .quality = a == 7 ? RGP_MISSING : RGP_GOOD,
                        .same = a % 5 == 3};
}

static void insist_on_travels(const rgp_engine *e)
{
    const rgp_image_actuator *is = rgp_image_at(e->image, RGP_SECTION_ACTUATORS);
    for (uint32_t i = 0; i < rgp_image_count(e->image, RGP_SECTION_ACTUATORS); i++) {
        const float out = rgp_engine_value(e, rgp_image_actuator_slot(e->image, i)).value;
        fuzz_insist(out >= is[i].low && out <= is[i].high);
    }
}

void fuzz_ticks(rgp_engine *e, uint32_t ticks, const uint8_t *data, size_t size)
{
    size_t at = 0;
    uint64_t now = 0;
    for (uint32_t n = 0; n < ticks; n++) {
        for (uint32_t i = 0; i < rgp_image_count(e->image, RGP_SECTION_SENSORS); i++) {
            const rgp_sample sample = fuzz_sample(now, data, size, &at);
            rgp_engine_sense(e, (uint16_t)i, &sample);
        }
        const uint8_t step = size ? data[at % size] : 0;
        now += step == 1 ? 0 : step == 2 ? 3600000000u : e->image->tick_us;
        rgp_engine_step(e, step == 3 ? now / 2 : now);
        insist_on_travels(e);
    }
    for (uint32_t slot = 0; slot < e->image->slots; slot++) {
        fuzz_insist(isfinite(e->value[slot]));
    }
}

void fuzz_image(const void *image, uint32_t size, uint32_t ticks, const uint8_t *data, size_t length)
{
    const rgp_image_header *header = image;
    rgp_engine engine;
    if (size < sizeof *header || header->memory > 1u << 22) {
        return;
    }
    void *memory = calloc(1, header->memory + 1u);
    if (rgp_engine_open(&engine, image, size, memory, header->memory) == RGP_OK) {
        fuzz_ticks(&engine, ticks, data, length);
    }
    free(memory);
}

const char *fuzz_example(const char *name)
{
    char *path = g_build_filename(RIGPULSE_SOURCE, "examples", name, NULL), *text = NULL;
    fuzz_insist(g_file_get_contents(path, &text, NULL, NULL));
    g_free(path);
    const char *kept = g_intern_string(text);
    g_free(text);
    return kept;
}

const char *fuzz_folder(void)
{
    static char *folder;
    if (!folder) {
        folder = g_dir_make_tmp("rigpulse-fuzz-XXXXXX", NULL);
        fuzz_insist(folder != NULL);
    }
    return folder;
}
