#include "stand.h"

#include "runtime/interrupt.h"

#include <math.h>

static void take_event(void *self, const rp_event *event)
{
    stand *s = self;
    rp_frame_add_event(&s->shape, s->frame, event);
}

bool stand_begin(stand *s, const rp_rig *rig, uint64_t seed, bool fast, GError **error)
{
    const rp_image_header *image = rig->image;
    *s = (stand){.memory = g_malloc0(image->memory), .shape = rp_frame_shape_of(image)};
    rp_engine_open(&s->engine, image, rig->image_size, s->memory, image->memory);
    s->frame = g_malloc0(s->shape.bytes);
    rp_engine_hand_only(&s->engine, true);
    rp_engine_listen(&s->engine, take_event, s);
    s->sim = rp_sim_new(rig, seed, !fast, error);
    if (s->sim) {
        rp_sim_wait_for_word(s->sim);
        interrupt_catch();
        interrupt_guard(rp_sim_port(s->sim));
    }
    return s->sim != NULL;
}

static void forget(stand *s)
{
    if (s->history) {
        rp_history_free(s->history);
    }
    s->history = NULL;
    s->rows = 0;
}

void stand_end(stand *s)
{
    if (s->sim) {
        rp_engine_rest(&s->engine, rp_sim_port(s->sim));
        interrupt_guard(NULL);
    }
    forget(s);
    rp_sim_free(s->sim);
    g_free(s->frame);
    g_free(s->memory);
}

void stand_note(stand *s)
{
    forget(s);
    s->history = rp_history_new(s->engine.image, 0);
}

static void note_tick(stand *s)
{
    rp_frame_take(&s->shape, s->frame, &s->engine);
    if (s->history) {
        rp_history_frame(s->history, &s->shape, s->frame);
        s->rows++;
    }
    s->frame->events = 0;
}

void stand_tick_for(stand *s, double seconds)
{
    const rp_port *port = rp_sim_port(s->sim);
    const uint64_t tick_us = s->engine.image->tick_us, end = s->ticks + (uint64_t)ceil(seconds * 1e6 / (double)tick_us);
    for (; s->ticks < end && !interrupt_asked(); s->ticks++) {
        port->sleep_until(port->self, s->ticks * tick_us);
        rp_engine_tick(&s->engine, port);
        note_tick(s);
    }
}

uint32_t stand_sensor(const stand *s, uint32_t sensor)
{
    return (uint32_t)rp_history_slot(s->history, rp_image_sensor_slot(s->engine.image, sensor));
}

const char *stand_sensor_name(const stand *s, uint32_t sensor)
{
    return rp_image_text(s->engine.image, RP_NAME_SLOT, rp_image_sensor_slot(s->engine.image, sensor), 0);
}

const char *stand_sensor_unit(const stand *s, uint32_t sensor)
{
    const rp_image_sensor *all = rp_image_at(s->engine.image, RP_SECTION_SENSORS);
    return all[sensor].kind == RP_SENSOR_NUMBER
               ? rp_image_unit(s->engine.image, RP_NAME_SLOT, rp_image_sensor_slot(s->engine.image, sensor), 0)
               : NULL;
}

uint32_t stand_sensors(const stand *s)
{
    return rp_image_count(s->engine.image, RP_SECTION_SENSORS);
}
