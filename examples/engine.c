/* A rig file in a program of one's own, on a port of four functions; on a board these would touch the hardware. */
#include "rigpulse/engine.h"
#include "rigpulse/lang.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static const char rig_text[] = "rig kiln\n"
                               "tick 100 ms\n"
                               "sensor probe counts 0..1023\n"
                               "actuator heater switch, rest at off\n"
                               "param wanted = 60 degC in 20..90 degC\n"
                               "signal warmth = probe | table 0: 0 degC, 1023: 100 degC, clamped\n"
                               "drive heater = warmth below wanted, margin 2 K\n"
                               "on warmth goes above wanted\n"
                               "    mark \"warm\"\n";

typedef struct kiln {
    const rgp_image_header *image;
    uint64_t now_us;
    double warmth;
    bool heats;
    int marks;
} kiln;

static uint64_t now(void *self)
{
    return ((kiln *)self)->now_us;
}

static rgp_status sleep_until(void *self, uint64_t time_us)
{
    kiln *k = (kiln *)self;
    const double seconds = (double)(time_us - k->now_us) * 1e-6;
    k->warmth += seconds * ((k->heats ? 2.0 : 0.0) - (k->warmth - 20.0) / 60.0);
    k->now_us = time_us;
    return RGP_OK;
}

static rgp_status read_sensor(void *self, uint16_t sensor, rgp_sample *sample)
{
    const kiln *k = (kiln *)self;
    (void)sensor; /* there is one */
    sample->time_us = k->now_us;
    sample->raw = (int32_t)(k->warmth * 10.23);
    sample->quality = RGP_GOOD;
    sample->same = 0;
    return RGP_OK;
}

static rgp_status write_actuator(void *self, uint16_t actuator, float value)
{
    (void)actuator;
    ((kiln *)self)->heats = value != 0.0f;
    return RGP_OK;
}

static void take_event(void *self, const rgp_event *event)
{
    kiln *k = (kiln *)self;
    if (event->kind == RGP_EVENT_MARK && k->marks++ < 2) {
        printf("%5.1f s  %s '%s'\n", (double)event->time_us * 1e-6, rgp_event_word(event->kind),
               rgp_event_subject(k->image, event));
    }
}

int main(void)
{
    rgp_rig *rig = rgp_rig_compile("kiln.rig", rig_text, strlen(rig_text), NULL);
    if (!rig || !rig->image) {
        return fputs(rig ? rgp_rig_report(rig) : "out of memory\n", stderr), 1;
    }
    const rgp_image_header *image = (const rgp_image_header *)rig->image;
    void *memory = calloc(1, image->memory);
    kiln k = {image, 0, 20.0, false, 0};
    const rgp_port port = {.version = RGP_PORT_VERSION,
                           .self = &k,
                           .now = now,
                           .sleep_until = sleep_until,
                           .read = read_sensor,
                           .write = write_actuator};
    rgp_engine engine;
    rgp_status status = rgp_engine_open(&engine, rig->image, rig->image_size, memory, image->memory);
    const int32_t warmth = rgp_image_find(image, RGP_FIND_SLOT, "warmth"),
                  wanted = rgp_image_find(image, RGP_FIND_PARAM, "wanted");
    rgp_engine_listen(&engine, take_event, &k);
    for (uint64_t tick = 0; status == RGP_OK && tick < 3000; tick++) {
        port.sleep_until(port.self, tick * image->tick_us);
        if (tick == 1500) {
            rgp_engine_set(&engine, (uint16_t)wanted, 80.0f);
        }
        status = rgp_engine_tick(&engine, &port);
        if (tick % 500 == 499) {
            printf("%5.1f s  %4.1f degC\n", (double)k.now_us * 1e-6,
                   (double)rgp_engine_value(&engine, (uint32_t)warmth).value);
        }
    }
    printf("%s; %d marks\n", rgp_status_text(status), k.marks);
    rgp_engine_rest(&engine, &port);
    free(memory);
    rgp_rig_free(rig);
    return status == RGP_OK && k.marks > 1 && k.warmth > 76.0 && k.warmth < 83.0 ? 0 : 1;
}
