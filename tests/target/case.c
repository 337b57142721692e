/* Makes the case for the emulated microcontroller: a rig's image and the raw readings of a simulated run as
 * a header, and what the engine makes of them here, a line a tick.
 *
 * Usage: target_case RIG TICKS HEADER EXPECTED */
#include "trace.h"

#include "runtime/ports.h"
#include "rigpulse/lang.h"

#include <stdio.h>
#include <stdlib.h>

static void put_line(void *self, const char *line)
{
    fputs(line, self);
}

static void put_image(FILE *to, const rgp_rig *rig)
{
    const unsigned char *byte = rig->image;
    fprintf(to, "static _Alignas(8) const unsigned char case_image[%u] = {", rig->image_size);
    for (uint32_t i = 0; i < rig->image_size; i++) {
        fprintf(to, "%s%u,", i % 20 ? "" : "\n", byte[i]);
    }
    fprintf(to, "\n};\nenum { CASE_MEMORY = %u };\n", ((const rgp_image_header *)rig->image)->memory);
}

/* The edges that the port has told, as C. */
static GString *edges;
static rgp_status (*tell_edges)(void *self, uint16_t sensor, uint64_t until_us, rgp_port_edge *edge, uint16_t room,
                                uint16_t *count, uint32_t *lost);
static uint32_t edge_tick;

static rgp_status note_edges(void *self, uint16_t sensor, uint64_t until_us, rgp_port_edge *edge, uint16_t room,
                             uint16_t *count, uint32_t *lost)
{
    const rgp_status status = tell_edges(self, sensor, until_us, edge, room, count, lost);
    for (uint16_t i = 0; status == RGP_OK && i < *count; i++) {
        g_string_append_printf(edges, "{%uu, %uu, {%" G_GUINT64_FORMAT "u, %uu}},\n", edge_tick, sensor,
                               edge[i].time_us, edge[i].rising);
    }
    return status;
}

/* The run on the simulated port, in which the readings answer the actuators. */
static void put_run(FILE *header, FILE *expected, const rgp_rig *rig, uint32_t ticks)
{
    const rgp_image_header *image = rig->image;
    rgp_sim *sim = rgp_sim_new(rig, 1, false, NULL);
    rgp_port noting = *rgp_sim_port(sim);
    const rgp_port *const port = &noting;
    tell_edges = noting.edges;
    noting.edges = note_edges;
    edges = g_string_new(NULL);
    void *memory = calloc(1, image->memory);
    const uint32_t sensors = rgp_image_count(image, RGP_SECTION_SENSORS);
    rgp_engine engine;
    if (rgp_engine_open(&engine, image, rig->image_size, memory, image->memory) != RGP_OK) {
        exit(1);
    }
    fprintf(header,
            "enum { CASE_TICKS = %u, CASE_SENSORS = %u };\n/* whether it is the same again, and what it says */\n"
            "static const struct {\n    uint8_t same;\n    int32_t raw;\n} case_sample[CASE_TICKS * CASE_SENSORS] = {",
            ticks, sensors);
    for (uint32_t n = 0; n < ticks; n++) {
        port->sleep_until(port->self, (uint64_t)n * image->tick_us);
        edge_tick = n;
        rgp_engine_tick(&engine, port);
        for (uint32_t i = 0; i < sensors; i++) {
            fprintf(header, "%s{%d, %d},", (n * sensors + i) % 12 ? "" : "\n", !rgp_engine_is_new(&engine, (uint16_t)i),
                    engine.raw[i]);
        }
        trace_tick(&engine, n, put_line, expected);
    }
    fprintf(header,
            "\n};\nstatic const struct {\n    uint32_t tick;\n    uint16_t sensor;\n    rgp_port_edge edge;\n} "
            "case_edge[] = {\n%s{UINT32_MAX, 0, {0, 0}}};\n",
            edges->str);
    g_string_free(edges, TRUE);
    free(memory);
    rgp_sim_free(sim);
}

int main(int argc, char **argv)
{
    if (argc != 5) {
        return 2;
    }
    gchar *text;
    gsize length;
    if (!g_file_get_contents(argv[1], &text, &length, NULL)) {
        return 1;
    }
    rgp_rig *rig = rgp_rig_compile(argv[1], text, length, rgp_ports_catalog());
    FILE *header = fopen(argv[3], "w"), *expected = fopen(argv[4], "w");
    if (!rig || !rig->image || !header || !expected) {
        return 1;
    }
    put_image(header, rig);
    put_run(header, expected, rig, (uint32_t)atoi(argv[2]));
    g_free(text);
    rgp_rig_free(rig);
    return fclose(header) || fclose(expected);
}
