/* The cost of a rule, or of a chain of stages, in a tick and in the compiler, in a rig of many.
 *
 * Usage: perf_rules COUNT TICKS [chains|rules [EVERY]]      readings change every EVERY ticks: 7 */
#include "rigpulse/engine.h"
#include "rigpulse/lang.h"

#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define SENSORS 10

/* Of every ten rules one is true at any time, and fires again after its holdoff. */
static size_t put_rule(char *to, size_t room, uint32_t i, uint32_t rules)
{
    return (size_t)snprintf(to, room, "while s%u above %u counts, margin 20 counts\n    a%u %u %%\n    holdoff 1 s\n",
                            i % SENSORS, 100 + i * 3900 / rules, i % SENSORS, i % 100);
}

static size_t put_chain(char *to, size_t room, uint32_t i)
{
    return (size_t)snprintf(to, room,
                            "signal d%u = s%u | despike 5 | table 312: 0 cm, 1890: 6 cm, 3020: 12 cm | smooth 200 ms\n",
                            i, i % SENSORS);
}

static rgp_rig *make_rig(uint32_t count, bool chains)
{
    const size_t room = 4096 + 160 * (size_t)count;
    char *text = malloc(room);
    size_t at = (size_t)snprintf(text, room, "rig many\ntick 10 ms\n");
    for (uint32_t i = 0; i < SENSORS; i++) {
        at += (size_t)snprintf(text + at, room - at,
                               "sensor s%u counts 0..4095\nactuator a%u percent 0..100, rest at 0\n", i, i);
    }
    for (uint32_t i = 0; i < count; i++) {
        at += chains ? put_chain(text + at, room - at, i) : put_rule(text + at, room - at, i, count);
    }
    rgp_rig *rig = rgp_rig_compile("many.rig", text, at, NULL);
    free(text);
    return rig;
}

int main(int argc, char **argv)
{
    if (argc < 3 || argc > 5) {
        return 2;
    }
    const uint32_t ticks = (uint32_t)strtoul(argv[2], NULL, 10);
    const uint32_t every = argc == 5 ? (uint32_t)strtoul(argv[4], NULL, 10) : 7u;
    rgp_rig *rig = make_rig((uint32_t)strtoul(argv[1], NULL, 10), argc > 3 && strcmp(argv[3], "chains") == 0);
    const rgp_image_header *image = rig->image;
    if (!image) {
        fprintf(stderr, "%s", rgp_rig_report(rig));
        return 1;
    }
    void *memory = calloc(1, image->memory);
    rgp_engine engine;
    if (rgp_engine_open(&engine, image, rig->image_size, memory, image->memory) != RGP_OK) {
        return 1;
    }
    for (uint32_t n = 0; n < ticks; n++) {
        for (uint16_t i = 0; i < SENSORS; i++) {
            const rgp_sample sample = {.raw = (int32_t)(100 + (n / every + i * 31) % 400)};
            rgp_engine_sense(&engine, i, &sample);
        }
        rgp_engine_step(&engine, (uint64_t)n * 10000u);
    }
    free(memory);
    rgp_rig_free(rig);
    return 0;
}
