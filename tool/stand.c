/* A stepped rig with a history that can begin anew. */
#include "stand.h"

#include "runtime/interrupt.h"

#include <math.h>

static bool note_tick(void *self, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    stand *s = self;
    s->ticks++;
    if (s->history) {
        rgp_history_frame(s->history, layout, frame);
        s->rows++;
    }
    return true;
}

bool stand_begin(stand *s, const rgp_rig *rig, const stand_setup *setup, GError **error)
{
    *s = (stand){.image = rig->image};
    s->setup = (rgp_door_setup){.rig = rig,
                                .seed = setup->seed,
                                .fast = setup->fast,
                                .stepped = true,
                                .on_word = true,
                                .hand_only = !setup->loops,
                                .frame = note_tick,
                                .self = s};
    interrupt_catch();
    s->door = rgp_door_open(&s->setup, error);
    return s->door != NULL;
}

static void forget(stand *s)
{
    rgp_history_free(s->history);
    s->history = NULL;
    s->rows = 0;
}

void stand_end(stand *s)
{
    if (s->door) {
        rgp_door_end(s->door, NULL);
    }
    forget(s);
}

void stand_note(stand *s)
{
    forget(s);
    s->history = rgp_history_new(s->image, 0);
}

void stand_hand(stand *s, uint32_t actuator, double value)
{
    const rgp_command hand = {RGP_COMMAND_HAND, RGP_BY_SCRIPT, (uint16_t)actuator, (float)value, 0.0f};
    rgp_door_ask(s->door, &hand);
}

void stand_release(stand *s, uint32_t actuator)
{
    const rgp_command release = {RGP_COMMAND_RELEASE, RGP_BY_SCRIPT, (uint16_t)actuator, 0.0f, 0.0f};
    rgp_door_ask(s->door, &release);
}

void stand_set(stand *s, uint32_t param, double value)
{
    const rgp_command set = {RGP_COMMAND_SET, RGP_BY_SCRIPT, (uint16_t)param, (float)value, 0.0f};
    rgp_door_ask(s->door, &set);
}

void stand_tick_for(stand *s, double seconds)
{
    const uint64_t tick_us = s->image->tick_us, ticks = (uint64_t)ceil(seconds * 1e6 / (double)tick_us);
    rgp_door_advance(s->door, (s->ticks + ticks) * tick_us);
}

uint32_t stand_sensor(const stand *s, uint32_t sensor)
{
    return (uint32_t)rgp_history_slot(s->history, rgp_image_sensor_slot(s->image, sensor));
}

const char *stand_sensor_name(const stand *s, uint32_t sensor)
{
    return rgp_image_text(s->image, RGP_NAME_SLOT, rgp_image_sensor_slot(s->image, sensor), 0);
}

const char *stand_sensor_unit(const stand *s, uint32_t sensor)
{
    const rgp_image_sensor *all = rgp_image_at(s->image, RGP_SECTION_SENSORS);
    return all[sensor].kind == RGP_SENSOR_NUMBER
               ? rgp_image_unit(s->image, RGP_NAME_SLOT, rgp_image_sensor_slot(s->image, sensor), 0)
               : NULL;
}

uint32_t stand_sensors(const stand *s)
{
    return rgp_image_count(s->image, RGP_SECTION_SENSORS);
}
