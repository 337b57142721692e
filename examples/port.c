/* A port of one's own, with the loop of a program that carries a rig: deadlines, late ticks, a clean end. What touches
 * the hardware are board_level() and board_pump(); here they are a bilge that fills and is pumped out. */
#define _POSIX_C_SOURCE 200809L
#include "rigpulse/engine.h"
#include "rigpulse/lang.h"
#include "rigpulse/port_trial.h"

#include <errno.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

static const char rig_text[] = "rig bilge\n"
                               "tick 20 ms\n"
                               "sensor level counts 0..1023, every 60 ms\n"
                               "actuator pump switch, rest at off\n"
                               "drive pump = level above 300 counts, margin 200 counts\n";

static double water = 250.0, pumped;
static volatile sig_atomic_t leaving;

static int32_t board_level(void)
{
    water += 4.0 - 12.0 * pumped;
    return (int32_t)water;
}

static void board_pump(bool on)
{
    pumped = on;
}

static uint64_t now(void *self)
{
    struct timespec is;
    clock_gettime(CLOCK_MONOTONIC, &is);
    return (uint64_t)is.tv_sec * 1000000u + (uint64_t)is.tv_nsec / 1000u - *(const uint64_t *)self;
}

/* Till the moment itself, so that no tick is late for the one before it. */
static rgp_status sleep_until(void *self, uint64_t time_us)
{
    const uint64_t at = time_us + *(const uint64_t *)self;
    const struct timespec until = {(time_t)(at / 1000000u), (long)(at % 1000000u) * 1000};
    while (clock_nanosleep(CLOCK_MONOTONIC, TIMER_ABSTIME, &until, NULL) == EINTR && !leaving) {
    }
    return RGP_OK;
}

/* The sensor converts every 40 ms; in between it says the same again. */
static rgp_status read_sensor(void *self, uint16_t sensor, rgp_sample *sample)
{
    static rgp_sample newest;
    const uint64_t time_us = now(self);
    (void)sensor; /* there is one */
    newest.same = newest.raw > 0 && time_us < newest.time_us + 40000u;
    if (!newest.same) {
        newest.time_us = time_us;
        newest.raw = board_level();
        newest.quality = RGP_GOOD;
    }
    *sample = newest;
    return RGP_OK;
}

static rgp_status write_actuator(void *self, uint16_t actuator, float value)
{
    (void)self;
    (void)actuator;
    board_pump(value != 0.0f);
    return RGP_OK;
}

static void leave(int signal_number)
{
    (void)signal_number;
    leaving = 1;
}

int main(int argc, char **argv)
{
    rgp_rig *rig = rgp_rig_compile("bilge.rig", rig_text, strlen(rig_text), NULL);
    const rgp_image_header *image = (const rgp_image_header *)rig->image;
    uint64_t began = 0, late = 0;
    began = now(&began);
    const rgp_port port = {.version = RGP_PORT_VERSION,
                           .self = &began,
                           .now = now,
                           .sleep_until = sleep_until,
                           .read = read_sensor,
                           .write = write_actuator};
    rgp_port_trace trace[2];
    memset(trace, 0, sizeof trace);
    rgp_port_result tried;
    const rgp_port_trial trial = {&port, image, 25, 1.0f, trace, NULL, NULL};
    rgp_status status = rgp_port_try(&trial, &tried); /* before the mechanism is connected */
    printf("tried: %u fresh and %u standing samples, %u faults\n", tried.fresh, tried.standing, tried.faults);
    signal(SIGINT, leave);
    signal(SIGTERM, leave);
    rgp_engine engine;
    void *memory = calloc(1, image->memory);
    status = status == RGP_OK ? rgp_engine_open(&engine, image, rig->image_size, memory, image->memory) : status;
    const unsigned long ticks = argc > 1 ? strtoul(argv[1], NULL, 10) : 0; /* 0: until Ctrl-C */
    uint64_t next = now(&began);
    for (unsigned long n = 0; status == RGP_OK && !leaving && (ticks == 0 || n < ticks); n++, next += image->tick_us) {
        sleep_until(&began, next);
        if (now(&began) > next + image->tick_us) { /* a whole tick is gone: the others are not made up for */
            late++;
            next = now(&began);
        }
        status = rgp_engine_tick(&engine, &port);
    }
    rgp_engine_rest(&engine, &port); /* however it ended */
    printf("%s; %lu late ticks, water at %.0f\n", rgp_status_text(status), (unsigned long)late, water);
    free(memory);
    rgp_rig_free(rig);
    return status == RGP_OK && pumped == 0.0 ? 0 : 1;
}
