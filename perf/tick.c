/* The engine's tick on a generated rig, beside the same work by hand.
 *
 * Usage: perf_tick engine|hand|none|compare|memory|time[+loops] TICKS     (a script counts instructions; see perf/run)
 */
#include "hand.h"

#include "rigpulse/engine.h"
#include "rigpulse/lang.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#define TICK_US 20000u

static rgp_rig *make_rig(int loops)
{
    static char text[8192];
    size_t at = (size_t)snprintf(text, sizeof text, "rig perf\ntick 20 ms\n");
    for (int i = 0; i < CHAINS; i++) {
        at += (size_t)snprintf(
            text + at, sizeof text - at,
            "sensor s%d counts 0..4095\n"
            "signal d%d = s%d | despike 5 | table 312: 0 cm, 1890: 6 cm, 3020: 12 cm | smooth 200 ms\n",
            i, i, i);
    }
    for (int i = 0; i < SETS; i++) {
        at += (size_t)snprintf(text + at, sizeof text - at,
                               "actuator a%d percent 0..100, rest at 0\n"
                               "bands b%d = d%d: low below 3 cm, mid, high above 9 cm; margin 0.4 cm\n"
                               "while b%d is low\n    a%d 80 %% for 2 s\n    holdoff 3 s\n",
                               i, i, i, i, i);
    }
    for (int i = 0; i < SEQUENCES; i++) {
        at +=
            (size_t)snprintf(text + at, sizeof text - at,
                             "actuator q%d percent 0..100, rest at 0\nsequence go_%d\n    cycle\n        q%d 30 %%\n"
                             "        dwell 1 s\n        q%d 0 %%\n"
                             "        await d%d above 5 cm, margin 0.4 cm within 3 s, else go over\n        part over\n"
                             "on start\n    begin go_%d\n",
                             i, i, i, i, SETS + i, i);
    }
    for (int i = 0; i < loops; i++) {
        at += (size_t)snprintf(text + at, sizeof text - at,
                               "actuator p%d percent 0..100, rest at 0\nloop l%d: d%d at 6 cm with p%d\n"
                               "    pid kp 8, ki 2, kd 1, filter 100 ms\n    one way\n",
                               i, i, SETS + SEQUENCES + i, i);
    }
    at += (size_t)snprintf(text + at, sizeof text - at,
                           "sensor rate counts -2000..2000\n"
                           "sensor ax mg -2000..2000\nsensor ay mg -2000..2000\nsensor az mg -2000..2000\n"
                           "signal lean = ax | tilt roll with ay, az\n"
                           "signal turning = rate | line 0.1 deg/s/counts, 0 deg/s\n"
                           "signal angle = turning | fuse with lean, over 2 s\n");
    return rgp_rig_compile("perf.rig", text, at, NULL);
}

static void open_engine(rgp_engine *engine, void **memory, rgp_rig *rig)
{
    const rgp_image_header *image = rig->image;
    if (!image) {
        fprintf(stderr, "%s", rgp_rig_report(rig));
        exit(1);
    }
    *memory = calloc(1, image->memory);
    const rgp_status status = rgp_engine_open(engine, image, rig->image_size, *memory, image->memory);
    if (status != RGP_OK) {
        fprintf(stderr, "%s\n", rgp_status_text(status));
        exit(1);
    }
}

/* A port that costs nothing: its samples lie ready, and what is written goes into a list. */
typedef struct still_port {
    const rgp_sample *sample;
    uint64_t now_us;
    float written[64];
} still_port;

static uint64_t now_of(void *self)
{
    return ((still_port *)self)->now_us;
}

static rgp_status read_of(void *self, uint16_t sensor, rgp_sample *sample)
{
    *sample = ((still_port *)self)->sample[sensor];
    return RGP_OK;
}

static rgp_status write_of(void *self, uint16_t actuator, float value)
{
    ((still_port *)self)->written[actuator] = value;
    return RGP_OK;
}

static void engine_tick(rgp_engine *engine, uint32_t tick, const rgp_sample *sample)
{
    static still_port still;
    static const rgp_port port = {
        .version = RGP_PORT_VERSION, .self = &still, .now = now_of, .read = read_of, .write = write_of};
    still.sample = sample;
    still.now_us = (uint64_t)tick * TICK_US;
    rgp_engine_tick(engine, &port);
}

/* The last signal of the file. */
static float angle_of(const rgp_engine *engine)
{
    for (uint32_t slot = 0; slot < engine->image->slots; slot++) {
        if (strcmp(rgp_image_text(engine->image, RGP_NAME_SLOT, slot, 0), "angle") == 0) {
            return rgp_engine_value(engine, slot).value;
        }
    }
    return -1.0f;
}

static int by_size(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;
    return (x > y) - (x < y);
}

static double seconds_now(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (double)now.tv_sec + (double)now.tv_nsec * 1e-9;
}

#define ROUNDS 15

/* Nanoseconds a tick of both, by turns on the same readings: medians, and the median of the ratios pair by pair. */
static void print_times(rgp_engine *engine, hand *by_hand, uint32_t ticks)
{
    rgp_sample *sample = calloc((size_t)ticks * READINGS, sizeof *sample);
    double engine_ns[ROUNDS], hand_ns[ROUNDS], ratio[ROUNDS];
    uint32_t chance = 1;
    for (uint32_t i = 0; i < ticks * READINGS; i++) {
        sample[i] = reading_at(i / READINGS, i % READINGS, &chance);
    }
    for (uint32_t round = 0; round < ROUNDS; round++) {
        const double begun = seconds_now();
        for (uint32_t n = 0; n < ticks; n++) {
            engine_tick(engine, round * ticks + n, &sample[(size_t)n * READINGS]);
        }
        const double between = seconds_now();
        for (uint32_t n = 0; n < ticks; n++) {
            hand_tick(by_hand, (uint64_t)(round * ticks + n) * TICK_US, &sample[(size_t)n * READINGS]);
        }
        engine_ns[round] = (between - begun) * 1e9 / ticks;
        hand_ns[round] = (seconds_now() - between) * 1e9 / ticks;
        ratio[round] = engine_ns[round] / hand_ns[round];
    }
    qsort(engine_ns, ROUNDS, sizeof *engine_ns, by_size);
    qsort(hand_ns, ROUNDS, sizeof *hand_ns, by_size);
    qsort(ratio, ROUNDS, sizeof *ratio, by_size);
    printf("%.0f %.0f %.2f\n", engine_ns[ROUNDS / 2], hand_ns[ROUNDS / 2], ratio[ROUNDS / 2]);
    free(sample);
}

int main(int argc, char **argv)
{
    if (argc != 3) {
        return 2;
    }
    const int loops = strstr(argv[1], "+loops") ? LOOPS : 0;
    const uint32_t ticks = (uint32_t)strtoul(argv[2], NULL, 10);
    const int engine_runs =
        strncmp(argv[1], "engine", strlen("engine")) == 0 || strncmp(argv[1], "compare", strlen("compare")) == 0;
    const int hand_runs =
        strncmp(argv[1], "hand", strlen("hand")) == 0 || strncmp(argv[1], "compare", strlen("compare")) == 0;
    rgp_rig *rig = make_rig(loops);
    rgp_engine engine;
    void *memory;
    static hand by_hand;
    by_hand.loops = loops;
    open_engine(&engine, &memory, rig);
    if (strncmp(argv[1], "memory", strlen("memory")) == 0) {
        printf("%u %zu\n", engine.image->memory, sizeof by_hand - (loops ? 0 : sizeof by_hand.loop));
    }
    if (strncmp(argv[1], "time", strlen("time")) == 0) {
        print_times(&engine, &by_hand, ticks ? ticks : 1);
        free(memory);
        rgp_rig_free(rig);
        return 0;
    }
    uint32_t chance = 1;
    double sum = 0.0;
    for (uint32_t n = 0; n < ticks; n++) {
        rgp_sample sample[READINGS];
        for (uint32_t i = 0; i < READINGS; i++) {
            sample[i] = reading_at(n, i, &chance);
        }
        if (engine_runs) {
            engine_tick(&engine, n, sample);
        }
        if (hand_runs) {
            hand_tick(&by_hand, (uint64_t)n * TICK_US, sample);
        }
        sum += (double)(engine_runs ? rgp_engine_output(&engine, 0) : by_hand.output[0]);
        for (uint16_t i = 0; engine_runs && hand_runs && i < SETS + SEQUENCES + loops; i++) {
            if (rgp_engine_output(&engine, i) != by_hand.output[i]) {
                fprintf(stderr, "tick %u: engine and hand differ on actuator %u\n", n, i);
                return 1;
            }
        }
        if (engine_runs && hand_runs && angle_of(&engine) != by_hand.angle) {
            fprintf(stderr, "tick %u: engine and hand differ on the angle\n", n);
            return 1;
        }
    }
    free(memory);
    rgp_rig_free(rig);
    return sum < 0.0;
}
