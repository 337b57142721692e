/* An hour of a rig in simulated time: engine, mechanism and the writer of the recording, one behind the other, with
 * nothing between them. The tool's own run of the same is held against it.
 *
 * Usage: perf_hour FILE.rig RECORDING SECONDS */
#include "sim/sim.h"
#include "runtime/recorder.h"

#include <stdio.h>
#include <stdlib.h>

static const rp_frame_shape *shape;
static rp_frame *frame;

static void take_event(void *self, const rp_event *event)
{
    (void)self;
    rp_frame_add_event(shape, frame, event);
}

int main(int argc, char **argv)
{
    gchar *text = NULL;
    gsize length = 0;
    if (argc != 4 || !g_file_get_contents(argv[1], &text, &length, NULL)) {
        return 2;
    }
    rp_rig *rig = rp_rig_compile(argv[1], text, length, rp_sim_catalog());
    const rp_image_header *image = rig->image;
    void *memory = g_malloc0(image->memory);
    rp_engine engine;
    rp_sim *sim = rp_sim_new(rig, 1, false, NULL);
    if (!sim || rp_engine_open(&engine, image, rig->image_size, memory, image->memory) != RP_OK) {
        return 2;
    }
    const rp_frame_shape its = rp_frame_shape_of(image);
    shape = &its;
    frame = g_malloc0(its.bytes);
    rp_recorder *recorder = rp_recorder_open(argv[2], true, rig, 1, engine.value, NULL);
    rp_engine_listen(&engine, take_event, NULL);
    const rp_port *port = rp_sim_port(sim);
    const uint64_t ticks = strtoull(argv[3], NULL, 10) * 1000000u / image->tick_us;
    for (uint64_t n = 0; n < ticks && recorder; n++) {
        *frame = (rp_frame){.number = n};
        port->sleep_until(port->self, n * image->tick_us);
        rp_engine_tick(&engine, port);
        rp_frame_take(&its, frame, &engine);
        rp_recorder_frame(recorder, frame, NULL);
    }
    const bool done = recorder && rp_recorder_close(recorder, 0, "complete", NULL);
    rp_sim_free(sim);
    g_free(frame);
    g_free(memory);
    rp_rig_free(rig);
    g_free(text);
    return done ? 0 : 1;
}
