/* An hour of a rig in simulated time: engine, mechanism and the writer of the recording, one behind the other, with
 * nothing between them. The tool's own run of the same is held against it.
 *
 * Usage: perf_hour FILE.rig RECORDING SECONDS */
#include "sim/sim.h"
#include "ports/front.h"
#include "runtime/recorder.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static const rgp_frame_layout *layout;
static rgp_frame *frame;

static void take_event(void *self, const rgp_event *event)
{
    (void)self;
    rgp_frame_add_event(layout, frame, event);
}

int main(int argc, char **argv)
{
    gchar *text = NULL;
    gsize length = 0;
    if (argc != 4 || !g_file_get_contents(argv[1], &text, &length, NULL)) {
        return 2;
    }
    rgp_rig *rig = rgp_rig_compile(argv[1], text, length, rgp_sim_catalog());
    const rgp_image_header *image = rig->image;
    void *memory = g_malloc0(image->memory);
    rgp_engine engine;
    rgp_sim *sim = rgp_sim_new(rig, 1, false, NULL);
    if (!sim || rgp_engine_open(&engine, image, rig->image_size, memory, image->memory) != RGP_OK) {
        return 2;
    }
    const rgp_frame_layout its = rgp_frame_layout_of(image);
    layout = &its;
    frame = g_malloc0(its.bytes);
    const uint32_t sensors = rgp_image_count(image, RGP_SECTION_SENSORS);
    rgp_sample *sample = g_new0(rgp_sample, sensors + 1);
    bool *told = g_new0(bool, sensors + 1);
    rgp_front front;
    rgp_front_begin(&front, rgp_sim_port(sim), image, sample, told, false);
    const rgp_recorder_run run = {.seed = 1, .params = engine.value, .port = rig->hookup->port, .told = told};
    rgp_recorder *recorder = rgp_recorder_open(argv[2], true, rig, &run, NULL);
    rgp_engine_listen(&engine, take_event, NULL);
    const rgp_port *port = &front.port;
    const uint64_t ticks = strtoull(argv[3], NULL, 10) * 1000000u / image->tick_us;
    for (uint64_t n = 0; n < ticks && recorder; n++) {
        *frame = (rgp_frame){.number = n};
        port->sleep_until(port->self, n * image->tick_us);
        rgp_engine_tick(&engine, port);
        memcpy(rgp_frame_sample(&its, frame), sample, sensors * sizeof *sample);
        rgp_frame_take(&its, frame, &engine);
        rgp_recorder_frame(recorder, frame, NULL);
    }
    const bool done = recorder && rgp_recorder_close(recorder, 0, "complete", NULL);
    rgp_sim_free(sim);
    g_free(sample);
    g_free(told);
    g_free(frame);
    g_free(memory);
    rgp_rig_free(rig);
    g_free(text);
    return done ? 0 : 1;
}
